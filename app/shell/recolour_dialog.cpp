#include "app/shell/recolour_dialog.h"

#include <QDialogButtonBox>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/base/theme.h"
#include "app/tray/slider.h"
#include "core/plane/colour.h"

namespace loom::app {
namespace {

QColor onScreen(const std::array<double, 3>& linear) {
  const auto code = [](double x) {
    return code_of(srgb_from_linear(static_cast<float>(std::clamp(x, 0.0, 1.0))), 255);
  };
  return QColor(static_cast<int>(code(linear[0])), static_cast<int>(code(linear[1])),
                static_cast<int>(code(linear[2])));
}

}  // namespace

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
      p.fillRect(QRectF(left, 0, wide - 2, 22), onScreen(was_[i]));
      p.fillRect(QRectF(left, 24, wide - 2, 40), onScreen(loom::shifted(was_[i], by_)));
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
  auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel, this);
  buttons->button(QDialogButtonBox::Ok)->setText(tr("keep"));
  buttons->button(QDialogButtonBox::Cancel)->setText(tr("leave"));
  connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
  connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
  column->addWidget(buttons);
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
