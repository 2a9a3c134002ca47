#include "app/drape/picture_form.h"

#include <QFileDialog>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QProgressBar>
#include <QPushButton>
#include <QSpinBox>
#include <QtConcurrentRun>

#include "core/base/parallel.h"
#include "core/io/image.h"

namespace loom::app {
namespace {

QSpinBox* number(int least, int most, int value, QWidget* parent) {
  auto* box = new QSpinBox(parent);
  box->setRange(least, most);
  box->setValue(value);
  return box;
}

Result<Done> make(const Outfit& outfit, DrapeView view, const std::string& path, const Stop& stop,
                  const std::function<void(int)>& progress) try {
  const auto measured = measured_for(outfit.on(view.parts()), view, stop);  // what the window shows may still be coarse
  if (!measured) return measured.error();
  view.measured = *measured;
  Drape drape(outfit.on(view.parts()), view);
  for (int i = 1; i <= view.samples && !stop.asked(); ++i) {
    drape.add_sample(stop);
    progress(i);
  }
  drape.find_contours(stop);
  if (stop.asked()) return Error{"", kCancelled, ""};
  return path.ends_with(".exr") ? write_radiance(path, view.width, view.height, drape.radiance())
                                : write_picture(path, view.width, view.height, drape.picture());
} catch (const std::bad_alloc&) {
  return Error{"the picture", "does not fit into memory", "Make it smaller"};
}

}  // namespace

PictureForm::PictureForm(const Outfit& outfit, const DrapeView& view, QWidget* parent)
    : QDialog(parent), outfit_(outfit), view_(view) {
  setWindowTitle(tr("Lit picture to a file"));
  width_ = number(16, 8192, view.width, this);
  height_ = number(16, 8192, view.height, this);
  samples_ = number(1, 65536, std::max(view.samples, 256), this);
  bar_ = new QProgressBar(this);
  bar_->setTextVisible(false);
  told_ = new QLabel(this);
  told_->setWordWrap(true);
  start_ = new QPushButton(tr("Make it …"), this);
  cancel_ = new QPushButton(tr("Close"), this);
  auto* rows = new QFormLayout(this);
  rows->addRow(tr("Width"), width_);
  rows->addRow(tr("Height"), height_);
  rows->addRow(tr("Samples"), samples_);
  rows->addRow(bar_);
  rows->addRow(told_);
  auto* buttons = new QHBoxLayout;
  buttons->addStretch();
  buttons->addWidget(cancel_);
  buttons->addWidget(start_);
  rows->addRow(buttons);
  start_->setDefault(true);
  connect(cancel_, &QPushButton::clicked, this, &PictureForm::reject);
  connect(start_, &QPushButton::clicked, this, [this] {
    const QString path =
        QFileDialog::getSaveFileName(this, tr("Lit picture"), QStringLiteral("lit.png"), tr("Pictures (*.png *.exr)"));
    if (!path.isEmpty()) begin(path);
  });
  connect(this, &PictureForm::progressed, bar_, &QProgressBar::setValue);
  connect(&watcher_, &QFutureWatcher<Result<Done>>::finished, this, &PictureForm::finish);
  renew();
}

PictureForm::~PictureForm() {
  stop_.ask();
  watcher_.waitForFinished();
}

void PictureForm::setSize(int width, int height) {
  width_->setValue(width);
  height_->setValue(height);
}
void PictureForm::setSamples(int samples) { samples_->setValue(samples); }
QString PictureForm::told() const { return told_->text(); }

void PictureForm::begin(const QString& path) {
  if (isBusy()) return;
  path_ = path;
  DrapeView view = view_;
  view.width = width_->value();
  view.height = height_->value();
  view.samples = samples_->value();
  bar_->setRange(0, view.samples);
  bar_->setValue(0);
  told_->clear();
  stop_ = Stop();
  watcher_.setFuture(QtConcurrent::run([this, outfit = outfit_, view, file = path.toStdString(), stop = stop_] {
    return make(outfit, view, file, stop, [this](int i) { Q_EMIT progressed(i); });
  }));
  renew();
}

void PictureForm::finish() {
  const Result<Done> done = watcher_.result();
  renew();
  if (done) {
    told_->setText(tr("%1 is written.").arg(path_));
    Q_EMIT made(path_);
  } else {
    bar_->setValue(0);
    told_->setText(stop_.asked() ? tr("Cancelled; nothing was written.") : QString::fromStdString(done.error().text()));
  }
}

void PictureForm::renew() {
  for (QWidget* w : std::initializer_list<QWidget*>{width_, height_, samples_, start_}) w->setEnabled(!isBusy());
  cancel_->setText(isBusy() ? tr("Cancel") : tr("Close"));
}

// What is under way ends first; the form stays open and says so.
void PictureForm::reject() {
  if (isBusy())
    stop_.ask();
  else
    QDialog::reject();
}

}  // namespace loom::app

#include "moc_picture_form.cpp"
