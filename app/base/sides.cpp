#include "app/base/sides.h"

#include <QPainter>

#include "app/base/theme.h"

namespace loom::app {

void paintSides(QPainter& p, const QRectF& picture, qreal line, const QString& left, const QString& right) {
  constexpr qreal kHigh = 20, kFromLine = 8;
  const QFont font = textFont(11.5, QFont::DemiBold);
  p.save();
  p.setFont(font);
  for (const bool first : {true, false}) {
    const QString& name = first ? left : right;
    const qreal wide = advanceOf(font, name) + 12,
                room = (first ? line - picture.left() : picture.right() - line) - kFromLine;
    if (wide > room) continue;
    const QRectF slip(first ? line - kFromLine - wide : line + kFromLine, picture.bottom() - kHigh - 8, wide, kHigh);
    p.setPen(Qt::NoPen);
    p.setBrush(QColor(60, 58, 55, 220));
    p.drawRoundedRect(slip, 4, 4);
    p.setPen(Qt::white);
    p.drawText(slip, Qt::AlignCenter, name);
  }
  p.restore();
}

}  // namespace loom::app
