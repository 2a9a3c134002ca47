#include "app/tray/turn_controls.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/base/theme.h"

namespace loom::app {
namespace {

constexpr double kCoarseDegrees = 15;

// Which way and how far an arrow key goes; none for another key.
QPointF arrow(int key) {
  switch (key) {
    case Qt::Key_Left:
      return {-1, 0};
    case Qt::Key_Right:
      return {1, 0};
    case Qt::Key_Up:
      return {0, -1};
    case Qt::Key_Down:
      return {0, 1};
    default:
      return {};
  }
}

double shareOf(Qt::KeyboardModifiers m) { return m & Qt::ShiftModifier ? 0.1 : m & Qt::ControlModifier ? 10 : 1; }

}  // namespace

AngleWheel::AngleWheel(QWidget* parent) : QWidget(parent) {
  setFocusPolicy(Qt::StrongFocus);
  setFixedSize(22, 22);
  setToolTip(tr("Drag round to turn; Shift turns finely, Ctrl in steps of 15°"));
}

void AngleWheel::showAngle(double degrees) {
  angle_ = degrees;
  update();
}

void AngleWheel::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const QPointF middle = QRectF(rect()).center();
  const double r = width() / 2.0 - 2, a = angle_ * M_PI / 180;
  const QColor ink = isEnabled() ? theme().indigo : theme().mute;
  p.setPen(QPen(hasFocus() ? ink : theme().line, hasFocus() ? 2 : 1.5));
  p.setBrush(theme().paper);
  p.drawEllipse(middle, r, r);
  p.setPen(QPen(ink, 2, Qt::SolidLine, Qt::RoundCap));
  p.drawLine(middle, middle + QPointF(std::cos(a), -std::sin(a)) * (r - 2));
}

double AngleWheel::pointed(QPointF at) const {
  const QPointF d = at - QRectF(rect()).center();
  return std::atan2(-d.y(), d.x()) * 180 / M_PI;
}

void AngleWheel::want(double degrees) {
  degrees = std::round(degrees * 100) / 100;
  if (degrees == angle_) return;
  showAngle(degrees);
  Q_EMIT angleWanted(degrees);
}

void AngleWheel::mousePressEvent(QMouseEvent* e) {
  if (e->button() != Qt::LeftButton) return;
  dragging_ = true;
  exact_ = angle_;
  last_ = pointed(e->position());
}

// What the hand turned is added, so that whole rounds count.
void AngleWheel::mouseMoveEvent(QMouseEvent* e) {
  if (!dragging_) return;
  const double now = pointed(e->position());
  exact_ += std::remainder(now - last_, 360) * (e->modifiers() & Qt::ShiftModifier ? 0.1 : 1);
  last_ = now;
  want(e->modifiers() & Qt::ControlModifier ? std::round(exact_ / kCoarseDegrees) * kCoarseDegrees : exact_);
}

void AngleWheel::mouseReleaseEvent(QMouseEvent*) {
  if (dragging_) Q_EMIT gestureEnded();
  dragging_ = false;
}

void AngleWheel::keyPressEvent(QKeyEvent* e) {
  const QPointF way = arrow(e->key());
  if (way.isNull()) return QWidget::keyPressEvent(e);
  const double step = e->modifiers() & Qt::ControlModifier ? kCoarseDegrees
                      : e->modifiers() & Qt::ShiftModifier ? 0.1
                                                           : 1;
  want(angle_ + (way.x() - way.y()) * step);  // right and up turn on
  Q_EMIT gestureEnded();
}

PlacePad::PlacePad(QWidget* parent) : QWidget(parent) {
  setFocusPolicy(Qt::StrongFocus);
  setFixedSize(46, 46);
  setToolTip(tr("Drag to move both; Shift moves finely, Ctrl in tenths of the range"));
}

void PlacePad::showPlace(QPointF place, double least, double most, QPointF initial) {
  place_ = place;
  initial_ = initial;
  least_ = least;
  most_ = std::max(most, least + 1e-9);
  update();
}

QPointF PlacePad::shown(QPointF place) const {
  const auto at = [&](double x) { return 4 + std::clamp((x - least_) / (most_ - least_), 0.0, 1.0) * (width() - 8); };
  return {at(place.x()), at(place.y())};
}

void PlacePad::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const QColor ink = isEnabled() ? theme().indigo : theme().mute;
  p.setPen(QPen(hasFocus() ? ink : theme().line, 1));
  p.setBrush(theme().paper);
  p.drawRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5));
  const QPointF mark = shown(initial_), at = shown(place_);
  p.setPen(QPen(theme().line, 1));
  p.drawLine(QPointF(mark.x(), 1), QPointF(mark.x(), height() - 1));
  p.drawLine(QPointF(1, mark.y()), QPointF(width() - 1, mark.y()));
  p.setPen(QPen(ink, 2));
  p.setBrush(theme().paper);
  p.drawEllipse(at, 3.5, 3.5);
}

void PlacePad::want(QPointF place) {
  const auto held = [&](double x) { return std::round(std::clamp(x, least_, most_) * 1e4) / 1e4; };
  const QPointF next(held(place.x()), held(place.y()));
  if (next == place_) return;
  place_ = next;
  update();
  Q_EMIT placeWanted(next);
}

void PlacePad::mousePressEvent(QMouseEvent* e) {
  if (e->button() != Qt::LeftButton) return;
  dragging_ = true;
  if ((e->position() - shown(place_)).manhattanLength() > 9)
    want((e->position() - QPointF(4, 4)) / (width() - 8) * (most_ - least_) + QPointF(least_, least_));
  pressed_ = place_;
  pressedAt_ = e->position();
}

void PlacePad::mouseMoveEvent(QMouseEvent* e) {
  if (!dragging_) return;
  const QPointF to = pressed_ + (e->position() - pressedAt_) / (width() - 8) * (most_ - least_) *
                                    (e->modifiers() & Qt::ShiftModifier ? 0.1 : 1);
  const double tenth = (most_ - least_) / 10;
  const auto coarse = [&](double x) { return std::round((x - least_) / tenth) * tenth + least_; };
  want(e->modifiers() & Qt::ControlModifier ? QPointF(coarse(to.x()), coarse(to.y())) : to);
}

void PlacePad::mouseReleaseEvent(QMouseEvent*) {
  if (dragging_) Q_EMIT gestureEnded();
  dragging_ = false;
}

void PlacePad::keyPressEvent(QKeyEvent* e) {
  const QPointF way = arrow(e->key());
  if (way.isNull()) return QWidget::keyPressEvent(e);
  want(place_ + way * (most_ - least_) / 100 * shareOf(e->modifiers()));
  Q_EMIT gestureEnded();
}

}  // namespace loom::app

#include "moc_turn_controls.cpp"
