#include "app/fitting/input_field.h"

#include <QDragEnterEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QMimeData>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/base/theme.h"
#include "core/bolt/given_inputs.h"
#include "core/graph/inputs.h"

namespace loom::app {
namespace {

constexpr int kPicture = 56;

const std::string& textOf(const Node& input, const char* param) {
  static const std::string kNone;
  const auto it = input.params.find(param);
  const auto* text = it == input.params.end() ? nullptr : std::get_if<std::string>(&it->second);
  return text ? *text : kNone;
}

}  // namespace

InputField::InputField(const Node& input, QWidget* parent)
    : QFrame(parent),
      id_(input.id),
      name_(new QLabel(this)),
      picture_(new QLabel(this)),
      state_(new QLabel(this)),
      choose_(new QPushButton(tr("choose …"), this)),
      back_(new QPushButton(tr("back"), this)) {
  const bool given = can_be_given(input);
  setAcceptDrops(given);
  setFixedSize(228, 74);
  setRole(this, "field");
  name_->setFont(textFont(12, QFont::DemiBold));
  setRole(state_, "mute");
  setRole(picture_, "drop");
  picture_->setFixedSize(kPicture, kPicture);
  picture_->setAlignment(Qt::AlignCenter);
  for (auto* b : {choose_, back_}) b->setProperty("word", true);
  choose_->setAccessibleName(tr("Choose a map for %1").arg(QString::fromStdString(input_of(input).label)));
  back_->setToolTip(tr("As the bolt brings it"));
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(8, 6, 8, 6);
  row->setSpacing(10);
  row->addWidget(picture_);
  auto* words = new QVBoxLayout;
  words->setSpacing(0);
  row->addLayout(words, 1);
  words->addWidget(name_);
  words->addWidget(state_);
  auto* buttons = new QHBoxLayout;
  buttons->setSpacing(8);
  buttons->addWidget(choose_);
  buttons->addWidget(back_);
  buttons->addStretch(1);
  words->addLayout(buttons);
  words->addStretch(1);
  choose_->setVisible(given);
  connect(choose_, &QPushButton::clicked, this, &InputField::choose);
  connect(back_, &QPushButton::clicked, this, &InputField::resetWanted);
  showInput(input, {});
}

void InputField::showInput(const Node& input, const QImage& picture) {
  const GroupPeg peg = input_of(input);
  const QFontMetrics letters(state_->font());
  const bool file = stands_in(peg) == kStandsPicture && !textOf(input, "file").empty();
  name_->setText(QString::fromStdString(peg.label) + (is_required(peg) ? tr(", required") : QString()));
  const QString state = !can_be_given(input) ? tr("by a thread only")
                        : file               ? QFileInfo(QString::fromStdString(textOf(input, "file"))).fileName()
                                             : tr("no map yet");
  state_->setText(letters.elidedText(state, Qt::ElideMiddle, 140));
  setToolTip(QString::fromStdString(textOf(input, "help")));
  picture_->setPixmap(picture.isNull() ? QPixmap()
                                       : QPixmap::fromImage(picture.scaled(kPicture, kPicture, Qt::IgnoreAspectRatio,
                                                                           Qt::SmoothTransformation)));
  back_->setVisible(file);
}

void InputField::choose() {
  const QString path = QFileDialog::getOpenFileName(this, tr("A map for %1").arg(name_->text()), {},
                                                    tr("Pictures (*.png *.jpg *.jpeg *.tif *.tiff *.exr *.hdr)"));
  if (!path.isEmpty()) Q_EMIT pictureWanted(path);
}

void InputField::dragEnterEvent(QDragEnterEvent* e) {
  if (e->mimeData()->urls().size() == 1 && e->mimeData()->urls()[0].isLocalFile()) e->acceptProposedAction();
}

void InputField::dropEvent(QDropEvent* e) {
  if (e->mimeData()->urls().isEmpty()) return;
  e->acceptProposedAction();
  Q_EMIT pictureWanted(e->mimeData()->urls()[0].toLocalFile());
}

// The control of a use, whatever stands in now; it turns the node's own parameter.
std::optional<RowView> typedRow(const Node& input) {
  GroupPeg peg = input_of(input);
  const std::string stands = stands_in(peg);
  const char* param = typed_parameter(peg);
  if (!param) return {};
  peg.params["stands_in"] = std::string(kStandsTyped);
  const Parameter control = *control_of(peg);
  RowView view{control, control.initial};
  view.parameter.id = param;
  view.parameter.column.clear();
  view.canBeDial = false;
  view.acts = stands == kStandsTyped;
  view.why = stands == kStandsPicture ? QObject::tr("A map comes in.") : QObject::tr("It does without.");
  return view;
}

}  // namespace loom::app

#include "moc_input_field.cpp"
