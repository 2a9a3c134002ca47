#include "app/proof/fit_dialog.h"

#include <QCheckBox>
#include <QDoubleSpinBox>
#include <QDragEnterEvent>
#include <QElapsedTimer>
#include <QFileDialog>
#include <QFileInfo>
#include <QGridLayout>
#include <QMimeData>
#include <QProgressBar>
#include <QPushButton>
#include <QScrollArea>
#include <QSpinBox>
#include <QVBoxLayout>

#include "app/base/elsewhere.h"
#include "app/base/labels.h"
#include "app/engine/engine.h"
#include "core/io/middle_square.h"
#include "core/nodes/catalogue.h"
#include "core/proof/likeness.h"

namespace loom::app {
namespace {

constexpr int kSide = 184;
constexpr int kBetweenPictures = 200;  // milliseconds

QString shown(const ParamValue& value) {
  if (const auto* x = std::get_if<double>(&value)) return QString::number(*x, 'g', 3);
  QStringList parts;
  if (const auto* v = std::get_if<Vector>(&value))
    for (const double x : *v) parts << QString::number(x, 'f', 2);
  return parts.join(QLatin1Char(' '));
}

// What is compared, as it is seen.
QImage baseColour(Weaver& weaver, const Material& m, const Stop& stop) {
  const auto graph = flatten(m, catalogue());
  if (!graph || !graph->hem.count("base_colour")) return {};
  const auto woven = weaver.weave(*graph, {Want(graph->hem.at("base_colour"), Kind::colour)}, 256, stop);
  return woven ? pictureOf(woven->fields.front()) : QImage();
}

QImage comparedPart(const Image& picture) {
  auto planes = middle_square(picture, kLikenessSize);
  Field colour;
  colour.kind = Kind::colour;
  for (std::size_t c = 0; c < 3; ++c) colour.strand[c] = std::make_shared<Plane>(std::move(planes[c]));
  return pictureOf(colour);
}

QPixmap small(const QImage& image) {
  return QPixmap::fromImage(image.scaled(kSide, kSide, Qt::IgnoreAspectRatio, Qt::SmoothTransformation));
}

}  // namespace

FitDialog::FitDialog(QWidget* parent)
    : QDialog(parent),
      before_maker_([this](const Material& material, const Stop& stop) {
        Weaver weaver(0);
        const QImage now = baseColour(weaver, material, stop);
        if (!now.isNull()) hearer_.tell([this, now] { before_->setPixmap(small(now)); });
      }),
      worker_([this](const Job& job, const Stop& stop) { run(job, stop); }) {
  setWindowTitle(tr("Fit to a picture"));
  setAcceptDrops(true);
  resize(640, 560);
  auto* all = new QVBoxLayout(this);
  all->setContentsMargins(24, 18, 24, 18);
  all->setSpacing(8);
  all->addWidget(titleLabel(tr("Fit to a picture"), this));
  auto* what = captionLabel(tr("Dials are turned until the base colour has the colours, the grain and the repeats of "
                               "the picture. Nothing is changed before you take it over."),
                            this);
  what->setWordWrap(true);
  all->addWidget(what);
  auto* pictures = new QHBoxLayout;
  pictures->setSpacing(14);
  target_ = pictureField(pictures, tr("Picture"));
  before_ = pictureField(pictures, tr("A, as it is"));
  after_ = pictureField(pictures, tr("B, as found"));
  target_->setText(tr("drop a picture here"));
  all->addLayout(pictures);
  auto* line = new QHBoxLayout;
  auto* choose = new QPushButton(tr("choose a picture …"), this);
  choose->setProperty("word", true);
  connect(choose, &QPushButton::clicked, this, &FitDialog::choosePicture);
  scale_ = new QDoubleSpinBox(this);
  scale_->setRange(0.05, 16);
  scale_->setSingleStep(0.25);
  scale_->setValue(1);
  scale_->setAccessibleName(tr("How many tiles the picture is wide"));
  seconds_ = new QSpinBox(this);
  seconds_->setRange(1, 3600);
  seconds_->setValue(60);
  seconds_->setAccessibleName(tr("Seconds at most"));
  line->addWidget(choose);
  line->addStretch(1);
  line->addWidget(captionLabel(tr("tiles wide"), this));
  line->addWidget(scale_);
  line->addSpacing(10);
  line->addWidget(captionLabel(tr("seconds at most"), this));
  line->addWidget(seconds_);
  all->addLayout(line);
  all->addWidget(titleLabel(tr("Dials to turn"), this));
  auto* area = new QScrollArea(this);
  area->setFrameShape(QFrame::NoFrame);
  area->setWidgetResizable(true);
  auto* dials = new QWidget;
  list_ = new QVBoxLayout(dials);
  list_->setContentsMargins(0, 0, 0, 0);
  list_->setSpacing(2);
  area->setWidget(dials);
  all->addWidget(area, 1);
  bar_ = new QProgressBar(this);
  bar_->setTextVisible(false);
  bar_->setRange(0, 1000);
  told_ = new QLabel(this);
  told_->setWordWrap(true);
  all->addWidget(bar_);
  all->addWidget(told_);
  auto* buttons = new QHBoxLayout;
  start_ = new QPushButton(this);
  take_ = new QPushButton(tr("Take B over"), this);
  auto* close = new QPushButton(tr("Close"), this);
  buttons->addWidget(close);
  buttons->addStretch(1);
  buttons->addWidget(take_);
  buttons->addWidget(start_);
  start_->setDefault(true);
  all->addLayout(buttons);
  connect(start_, &QPushButton::clicked, this, [this] { busy_ ? stop() : start(); });
  connect(take_, &QPushButton::clicked, this, [this] { Q_EMIT takeWanted(found_, tr("Fit to %1").arg(name_)); });
  connect(close, &QPushButton::clicked, this, &FitDialog::reject);
  renew();
}

FitDialog::~FitDialog() { hearer_.leave(); }

QLabel* FitDialog::pictureField(QHBoxLayout* row, const QString& caption) {
  auto* column = new QVBoxLayout;
  auto* field = new QLabel(this);
  field->setFixedSize(kSide, kSide);
  field->setAlignment(Qt::AlignCenter);
  field->setWordWrap(true);
  field->setFrameShape(QFrame::StyledPanel);
  field->setAccessibleName(caption);
  column->addWidget(captionLabel(caption, this));
  column->addWidget(field);
  row->addLayout(column);
  return field;
}

void FitDialog::showMaterial(const Material& material) {
  material_ = material;
  if (busy_) return;
  listDials();
  before_maker_.ask(material);
  renew();
}

QCheckBox* FitDialog::box(const std::string& dial) const {
  for (const Row& r : rows_)
    if (r.dial == dial) return r.on;
  return nullptr;
}

QString FitDialog::told() const { return told_->text(); }
void FitDialog::setSeconds(int seconds) { seconds_->setValue(seconds); }

// What was ticked stays so.
void FitDialog::listDials() {
  std::map<std::string, bool> ticked;
  for (const Row& r : rows_) ticked[r.dial] = r.on->isChecked();
  delete list_->takeAt(0);
  qDeleteAll(list_->parentWidget()->findChildren<QWidget*>(QString(), Qt::FindDirectChildrenOnly));
  rows_.clear();
  auto* grid = new QGridLayout;
  grid->setColumnStretch(0, 1);
  grid->setHorizontalSpacing(14);
  for (const Value* v : dials_to_fit(material_)) {
    const int at = static_cast<int>(rows_.size());
    Row row{v->id, new QCheckBox(QString::fromStdString(v->dial->label)), new QLabel(shown(v->value)), new QLabel};
    const auto was = ticked.find(v->id);
    row.on->setChecked(was == ticked.end() || was->second);
    setRole(row.now, "mute");
    row.now->setAlignment(Qt::AlignRight);
    row.found->setMinimumWidth(96);
    grid->addWidget(row.on, at, 0);
    grid->addWidget(row.now, at, 1);
    grid->addWidget(row.found, at, 2);
    connect(row.on, &QCheckBox::toggled, this, &FitDialog::renew);
    rows_.push_back(row);
  }
  grid->setRowStretch(static_cast<int>(rows_.size()), 1);
  list_->addLayout(grid);
}

void FitDialog::choosePicture() {
  const QString path = QFileDialog::getOpenFileName(this, tr("A picture to fit to"), {},
                                                    tr("Pictures (*.png *.jpg *.jpeg *.tif *.tiff *.exr *.hdr)"));
  if (!path.isEmpty()) takePicture(path);
}

void FitDialog::takePicture(const QString& path) {
  QImage compared;
  auto image = elsewhere([&] {
    auto read = read_image(path.toStdString());
    if (read) compared = comparedPart(*read);
    return read;
  });
  if (!image) return told_->setText(QString::fromStdString(image.error().text()));
  name_ = QFileInfo(path).fileName();
  picture_ = std::make_shared<const Image>(std::move(image).value());
  target_->setPixmap(small(compared));
  told_->setText(name_);
  renew();
}

void FitDialog::dragEnterEvent(QDragEnterEvent* e) {
  if (e->mimeData()->hasUrls() && !busy_) e->acceptProposedAction();
}
void FitDialog::dropEvent(QDropEvent* e) {
  e->acceptProposedAction();
  takePicture(e->mimeData()->urls().constFirst().toLocalFile());
}

void FitDialog::start() {
  from_ = material_;
  found_.clear();
  for (Row& r : rows_) r.found->clear();
  after_->clear();
  Job job{from_, picture_, {}, ++round_};
  for (const Row& r : rows_)
    if (r.on->isChecked()) job.wish.dials.push_back(r.dial);
  job.wish.seconds = seconds_->value();
  job.wish.scale = scale_->value();
  busy_ = true;
  told_->setText(tr("looking at each dial …"));
  worker_.ask(std::move(job));
  renew();
}

void FitDialog::stop() {
  worker_.ask({});  // nothing: the search ends with the best that it has
}

void FitDialog::run(const Job& job, const Stop& stop) {
  if (!job.picture) return;
  Weaver weaver(std::size_t{64} << 20);
  QElapsedTimer since;
  const auto tell = [&](const FitState& state) {
    if (since.isValid() && since.elapsed() < kBetweenPictures) return;
    since.restart();
    const QImage picture = baseColour(weaver, state.material, Stop{});
    hearer_.tell([this, round = job.round, state, picture] { better(round, state, picture); });
  };
  auto found = fit(job.material, catalogue(), *job.picture, job.wish, tell, stop);
  QImage last;
  if (found) last = baseColour(weaver, found->best.material, Stop{});
  hearer_.tell([this, round = job.round, found, last] {
    if (found) better(round, found->best, last);
    ended(round, found);
  });
}

void FitDialog::better(int round, const FitState& state, const QImage& picture) {
  if (round != round_) return;
  if (!picture.isNull()) after_->setPixmap(small(picture));
  found_.clear();
  for (Row& r : rows_) {
    const Value *was = from_.value(r.dial), *is = state.material.value(r.dial);
    const bool turned = was && is && was->value != is->value;
    if (turned) found_[r.dial] = is->value;
    r.found->setText(turned ? tr("to %1").arg(shown(is->value)) : QString());
  }
  bar_->setValue(static_cast<int>(1000 * std::min(state.seconds / seconds_->value(), 1.0)));
  told_->setText(tr("unlike by %1, %2 states").arg(state.unlikeness, 0, 'g', 3).arg(state.tried));
  renew();
}

void FitDialog::ended(int round, const Result<Fitted>& found) {
  if (round != round_) return;
  busy_ = false;
  bar_->setValue(0);
  if (!found) {
    told_->setText(QString::fromStdString(found.error().text()));
    return renew();
  }
  QStringList idle;
  for (const std::string& label : found->idle) idle << QString::fromStdString(label);
  QString text = tr("Unlike by %1, %2 at first; %3 states in %4 s.")
                     .arg(found->best.unlikeness, 0, 'g', 3)
                     .arg(found->before, 0, 'g', 3)
                     .arg(found->best.tried)
                     .arg(found->best.seconds, 0, 'f', 1);
  if (found_.empty()) text += QLatin1Char(' ') + tr("Nothing better was found.");
  if (!idle.isEmpty())
    text += QLatin1Char(' ') +
            tr("Left as they are, since they do not show in the base colour: %1.").arg(idle.join(QStringLiteral(", ")));
  told_->setText(text);
  renew();
}

void FitDialog::renew() {
  const bool any = std::ranges::any_of(rows_, [](const Row& r) { return r.on->isChecked(); });
  start_->setText(busy_ ? tr("Stop") : tr("Turn the dials"));
  start_->setEnabled(busy_ || (picture_ && any));
  start_->setToolTip(!picture_ ? tr("Choose a picture first") : !any ? tr("Tick a dial first") : QString());
  take_->setEnabled(!busy_ && !found_.empty());
  for (QWidget* w : std::initializer_list<QWidget*>{scale_, seconds_}) w->setEnabled(!busy_);
  for (const Row& r : rows_) r.on->setEnabled(!busy_);
  if (rows_.empty()) told_->setText(tr("This material has no dials of numbers or colours."));
}

// A search under way ends first.
void FitDialog::reject() {
  if (busy_) stop();
  QDialog::reject();
}

}  // namespace loom::app

#include "moc_fit_dialog.cpp"
