// Shift drags and steps finely, Ctrl coarsely; a double click resets.
#include "app/tray/slider.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/base/theme.h"

namespace loom::app {
namespace {
constexpr double kHandle = 5;
}

Slider::Slider(QWidget* parent) : QWidget(parent) {
  setFocusPolicy(Qt::StrongFocus);
  setFixedHeight(14);
  setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
}

void Slider::showValue(double value, double least, double most, double initial, bool whole) {
  value_ = value;
  least_ = least;
  most_ = std::max(most, least + 1e-9);
  initial_ = initial;
  whole_ = whole;
  update();
}

void Slider::setTick(double tick, bool on) {
  tick_ = tick;
  ticked_ = on;
  update();
}

double Slider::xOf(double value) const {
  return kHandle + 1 + std::clamp((value - least_) / (most_ - least_), 0.0, 1.0) * (width() - 2 * kHandle - 2);
}

void Slider::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const double y = height() / 2.0, x = xOf(value_);
  const QColor ink = isEnabled() ? theme().indigo : theme().mute;
  p.setPen(QPen(theme().edge, 2, Qt::SolidLine, Qt::RoundCap));
  p.drawLine(QPointF(kHandle, y), QPointF(width() - kHandle, y));
  p.setPen(QPen(ink, 3, Qt::SolidLine, Qt::RoundCap));
  p.drawLine(QPointF(kHandle, y), QPointF(x, y));
  p.setPen(QPen(theme().mute, 1.5));
  const double mark = xOf(ticked_ ? tick_ : initial_);
  p.drawLine(QPointF(mark, y - 5), QPointF(mark, y + 5));
  p.setPen(QPen(ink, hasFocus() ? 3 : 2));
  p.setBrush(theme().paper);
  p.drawEllipse(QPointF(x, y), kHandle, kHandle);
}

double Slider::stepOf(Qt::KeyboardModifiers m) const {
  const double least = step_ > 0 ? step_ : whole_ ? 1 : 0;  // no finer is possible
  const double step = least > 0 ? least : (most_ - least_) / 100;
  if (m & Qt::ShiftModifier) return least > 0 ? least : step / 10;
  if (m & Qt::ControlModifier) return step * 10;
  return step;
}

void Slider::want(double value) {
  if (whole_) value = std::round(value);
  if (value == value_) return;
  value_ = value;
  update();
  Q_EMIT valueWanted(value);
}

void Slider::mousePressEvent(QMouseEvent* e) {
  if (e->button() != Qt::LeftButton) return;
  dragging_ = true;
  const double x = e->position().x();
  if (std::abs(x - xOf(value_)) > kHandle + 3)
    want(least_ +
         std::clamp((x - kHandle - 1) / std::max(width() - 2 * kHandle - 2, 1.0), 0.0, 1.0) * (most_ - least_));
  pressed_ = value_;
  pressedAt_ = e->position();
}

void Slider::mouseMoveEvent(QMouseEvent* e) {
  if (!dragging_) return;
  const double gain = e->modifiers() & Qt::ShiftModifier ? 0.1 : 1;
  const double moved =
      (e->position().x() - pressedAt_.x()) / std::max(width() - 2 * kHandle - 2, 1.0) * (most_ - least_) * gain;
  const double to = std::clamp(pressed_ + moved, std::min(least_, pressed_), std::max(most_, pressed_));
  want(e->modifiers() & Qt::ControlModifier
           ? least_ + std::round((to - least_) / stepOf(Qt::ControlModifier)) * stepOf(Qt::ControlModifier)
           : to);
}

void Slider::mouseReleaseEvent(QMouseEvent*) {
  if (dragging_) Q_EMIT gestureEnded();
  dragging_ = false;
}

void Slider::mouseDoubleClickEvent(QMouseEvent*) {
  dragging_ = false;
  Q_EMIT resetWanted();
}

void Slider::wheelEvent(QWheelEvent* e) {
  if (!hasFocus()) return e->ignore();  // a scroll over the tray must not turn what it passes
  want(value_ + (e->angleDelta().y() > 0 ? 1 : -1) * stepOf(e->modifiers()));
  Q_EMIT gestureEnded();
}

void Slider::keyPressEvent(QKeyEvent* e) {
  switch (e->key()) {
    case Qt::Key_Left:
    case Qt::Key_Down:
      want(value_ - stepOf(e->modifiers()));
      break;
    case Qt::Key_Right:
    case Qt::Key_Up:
      want(value_ + stepOf(e->modifiers()));
      break;
    case Qt::Key_Home:
      want(least_);
      break;
    case Qt::Key_End:
      want(most_);
      break;
    default:
      return QWidget::keyPressEvent(e);
  }
  Q_EMIT gestureEnded();
}

}  // namespace loom::app

#include "moc_slider.cpp"
