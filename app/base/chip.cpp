#include "app/base/chip.h"

#include <QPainter>

#include "app/base/theme.h"

namespace loom::app {

Chip::Chip(const QString& accessibleName, Form form, QWidget* parent) : QAbstractButton(parent), form_(form) {
  setAccessibleName(accessibleName);
  setFocusPolicy(Qt::TabFocus);  // a click leaves the keyboard with the picture
}

void Chip::setOn(bool on) {
  if (std::exchange(on_, on) != on) update();
}

void Chip::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const QRectF all(rect());
  const bool segment = form_ == Form::segment;
  const QColor slip("#5f5f5f"), paper("#fbf9f4");
  p.setPen(Qt::NoPen);
  p.setBrush(on_ && !segment ? theme().indigo : slip);
  p.drawRoundedRect(all, 4, 4);
  if (on_ && segment) {
    p.setBrush(paper);
    p.drawRoundedRect(all.adjusted(2, 2, -2, -2), 3, 3);
  }
  p.setPen(on_ && segment ? QColor("#2e4a78") : isEnabled() ? QColor(Qt::white) : QColor("#9a9a9a"));
  const qreal room = all.width() - 4;
  const QFont font = fitted(textFont(11.5, on_ && segment ? QFont::DemiBold : QFont::Normal), text(), room);
  p.setFont(font);
  p.drawText(all, Qt::AlignCenter, QFontMetricsF(font).elidedText(text(), Qt::ElideRight, room + 1));
  if (!hasFocus()) return;
  p.setPen(QPen(Qt::white, 1));
  p.setBrush(Qt::NoBrush);
  p.drawRoundedRect(all.adjusted(1, 1, -1, -1), 3, 3);
}

}  // namespace loom::app

#include "moc_chip.cpp"
