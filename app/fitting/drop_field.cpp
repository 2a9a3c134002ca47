#include "app/fitting/drop_field.h"

#include <QDragEnterEvent>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QMimeData>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/base/theme.h"

namespace loom::app {
DropField::DropField(const QString& wanted, const QString& filter, QWidget* parent)
    : QFrame(parent),
      wanted_(wanted),
      filter_(filter),
      name_(new QLabel(this)),
      picture_(new QLabel(this)),
      state_(new QLabel(this)),
      choose_(new QPushButton(tr("choose …"), this)),
      back_(new QPushButton(tr("back"), this)) {
  setAcceptDrops(true);
  setFixedSize(228, 74);
  setRole(this, "field");
  name_->setFont(textFont(12, QFont::DemiBold));
  setRole(state_, "mute");
  setRole(picture_, "drop");
  picture_->setFixedSize(kPicture, kPicture);
  picture_->setAlignment(Qt::AlignCenter);
  for (auto* b : {choose_, back_}) b->setProperty("word", true);
  choose_->setAccessibleName(tr("Choose %1").arg(wanted));
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
  connect(choose_, &QPushButton::clicked, this, &DropField::choose);
  connect(back_, &QPushButton::clicked, this, &DropField::resetWanted);
}

void DropField::setName(const QString& name) { name_->setText(name); }

void DropField::setTakes(bool takes) {
  setAcceptDrops(takes);
  choose_->setVisible(takes);
}

void DropField::show(const QString& state, const QImage& picture, bool back) {
  state_->setText(state_->fontMetrics().elidedText(state, Qt::ElideMiddle, 140));
  picture_->setPixmap(picture.isNull() ? QPixmap()
                                       : QPixmap::fromImage(picture.scaled(kPicture, kPicture, Qt::IgnoreAspectRatio,
                                                                           Qt::SmoothTransformation)));
  back_->setVisible(back);
}

void DropField::choose() {
  const QString path = QFileDialog::getOpenFileName(this, wanted_, {}, filter_);
  if (!path.isEmpty()) Q_EMIT fileWanted(path);
}

void DropField::dragEnterEvent(QDragEnterEvent* e) {
  if (e->mimeData()->urls().size() == 1 && e->mimeData()->urls()[0].isLocalFile()) e->acceptProposedAction();
}

void DropField::dropEvent(QDropEvent* e) {
  if (e->mimeData()->urls().isEmpty()) return;
  e->acceptProposedAction();
  Q_EMIT fileWanted(e->mimeData()->urls()[0].toLocalFile());
}

}  // namespace loom::app

#include "moc_drop_field.cpp"
