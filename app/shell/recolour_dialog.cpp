#include "app/shell/recolour_dialog.h"

#include <QLabel>
#include <QPainter>
#include <QVBoxLayout>

#include "app/base/take_or_leave.h"
#include "app/tray/screen_colour.h"
#include "app/tray/slider.h"

namespace loom::app {
class Swatches : public QWidget {
 public:
  Swatches(const std::vector<std::array<double, 3>>& colours, QWidget* parent) : QWidget(parent), was_(colours) {
    setFixedHeight(64);
    setAccessibleName(RecolourDialog::tr("The colours before and after"));
  }
  void show(const ColourShift& by) {
    by_ = by;
    update();
  }

 protected:
  void paintEvent(QPaintEvent*) override {
    QPainter p(this);
    const double wide = static_cast<double>(width()) / static_cast<double>(std::max<std::size_t>(was_.size(), 1));
    for (std::size_t i = 0; i < was_.size(); ++i) {
      const double left = wide * static_cast<double>(i);
      const auto fill = [&](double top, double high, const std::array<double, 3>& rgb) {
        p.fillRect(QRectF(left, top, wide - 2, high), screenColour(Vector(rgb.begin(), rgb.end())));
      };
      fill(0, 22, was_[i]);
      fill(24, 40, loom::shifted(was_[i], by_));
    }
  }

 private:
  std::vector<std::array<double, 3>> was_;
  ColourShift by_;
};

RecolourDialog::RecolourDialog(const std::vector<std::array<double, 3>>& colours, QWidget* parent)
    : QDialog(parent), swatches_(new Swatches(colours, this)) {
  setWindowTitle(tr("Recolour the selected"));
  resize(460, 240);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(24, 18, 24, 18);
  column->addWidget(swatches_);
  addRow(tr("Hue turned by"), &ColourShift::hue, -180, 180, QStringLiteral("°"));
  addRow(tr("Chroma times"), &ColourShift::chroma, 0, 2, {});
  addRow(tr("Lightness plus"), &ColourShift::lightness, -0.5, 0.5, {});
  column->addWidget(takeOrLeave(tr("keep"), this));
  renew();
}

void RecolourDialog::addRow(const QString& text, double ColourShift::*what, double least, double most,
                            const QString& unit) {
  auto* row = new QHBoxLayout;
  auto* label = new QLabel(text, this);
  label->setFixedWidth(110);
  auto* slider = new Slider(this);
  slider->setAccessibleName(text);
  auto* number = new QLabel(this);
  number->setFixedWidth(56);
  row->addWidget(label);
  row->addWidget(slider, 1);
  row->addWidget(number);
  static_cast<QVBoxLayout*>(layout())->addLayout(row);
  connect(slider, &Slider::valueWanted, this,
          [this, what, least, most](double v) { set(what, std::clamp(v, least, most)); });
  connect(slider, &Slider::resetWanted, this, [this, what] { set(what, ColourShift().*what); });
  rows_.push_back([=, this] {
    slider->showValue(shift_.*what, least, most, ColourShift().*what, false);
    number->setText(QString::number(shift_.*what, 'f', unit.isEmpty() ? 2 : 0) + unit);
  });
  if (rows_.size() == 1) slider->setFocus();
}

void RecolourDialog::set(double ColourShift::*what, double value) {
  shift_.*what = value;
  has_shifted_ = true;
  renew();
  Q_EMIT shifted(shift_);
}

void RecolourDialog::renew() {
  for (const auto& row : rows_) row();
  swatches_->show(shift_);
}

}  // namespace loom::app

#include "moc_recolour_dialog.cpp"
