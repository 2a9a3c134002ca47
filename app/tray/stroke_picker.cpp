// Closes by itself: after a stroke, by Escape, or by a right click.
#include "app/tray/stroke_picker.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QScreen>
#include <cmath>

#include "app/base/theme.h"
#include "core/nodes/stroke_stops.h"
#include "core/plane/colour.h"

namespace loom::app {

StrokePicker::StrokePicker(QWidget* asker) : QWidget(asker->window(), Qt::Window | Qt::FramelessWindowHint) {
  setAttribute(Qt::WA_DeleteOnClose);
  setAccessibleName(tr("Draw a stroke across the colours"));
  setCursor(Qt::CrossCursor);
  const QPixmap screen = asker->screen()->grabWindow(0);
  QWidget* window = asker->window();
  const bool whole = !screen.isNull() && screen.toImage().pixelColor(0, 0).alpha() > 0;
  still_ = (whole ? screen : window->grab()).toImage().convertToFormat(QImage::Format_RGB32);
  setGeometry(whole ? asker->screen()->geometry() : QRect(window->mapToGlobal(QPoint()), window->size()));
}

void StrokePicker::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.drawImage(rect(), still_);
  p.setRenderHint(QPainter::Antialiasing);
  const QRectF hint(width() / 2.0 - 210, 16, 420, 28);
  p.setPen(Qt::NoPen);
  p.setBrush(QColor(43, 42, 40, 220));
  p.drawRoundedRect(hint, 5, 5);
  p.setPen(Qt::white);
  p.setFont(textFont(12));
  p.drawText(hint, Qt::AlignCenter, tr("Draw a stroke across the colours; Escape leaves things as they are"));
  if (stroke_.size() < 2) return;
  QPainterPath path(stroke_.front());
  for (const QPointF& at : stroke_) path.lineTo(at);
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(QColor(0, 0, 0, 150), 4));
  p.drawPath(path);
  p.setPen(QPen(Qt::white, 1.6));
  p.drawPath(path);
}

void StrokePicker::mousePressEvent(QMouseEvent* e) {
  if (e->button() != Qt::LeftButton) {
    close();
    return;
  }
  stroke_ = {e->position()};
}

void StrokePicker::mouseMoveEvent(QMouseEvent* e) {
  if (stroke_.isEmpty()) return;
  stroke_ << e->position();
  update();
}

// Evenly along the stroke's length, whatever the hand's speed.
void StrokePicker::mouseReleaseEvent(QMouseEvent* e) {
  if (stroke_.isEmpty() || e->button() != Qt::LeftButton) return;
  stroke_ << e->position();
  QPainterPath path(stroke_.front());
  for (const QPointF& at : stroke_) path.lineTo(at);
  const double sx = static_cast<double>(still_.width()) / width(), sy = static_cast<double>(still_.height()) / height();
  std::vector<std::array<double, 3>> colours;
  constexpr int kSamples = 128;
  for (int i = 0; i < kSamples && path.length() > 2; ++i) {
    const QPointF at = path.pointAtPercent(path.percentAtLength(path.length() * i / (kSamples - 1)));
    const QPoint texel(std::clamp(static_cast<int>(at.x() * sx), 0, still_.width() - 1),
                       std::clamp(static_cast<int>(at.y() * sy), 0, still_.height() - 1));
    const QColor c = still_.pixelColor(texel);
    const auto linear = [](float x) { return std::round(static_cast<double>(linear_from_srgb(x)) * 1e5) / 1e5; };
    colours.push_back({linear(c.redF()), linear(c.greenF()), linear(c.blueF())});
  }
  if (!colours.empty()) Q_EMIT picked(stroke_stops(colours));
  close();
}

void StrokePicker::keyPressEvent(QKeyEvent* e) {
  if (e->key() == Qt::Key_Escape) close();
}

}  // namespace loom::app

#include "moc_stroke_picker.cpp"
