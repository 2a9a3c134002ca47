// Each mark in a few lines.
#include "app/shell/rack_icon.h"

#include <QPainter>
#include <QPainterPath>

#include "app/base/theme.h"

namespace loom::app {

QIcon rackIcon(int rack) {
  QPixmap pixmap(52, 44);
  pixmap.setDevicePixelRatio(2);
  pixmap.fill(Qt::transparent);
  QPainter p(&pixmap);
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(theme().ink, 1.6));
  switch (rack) {
    case 0:
      p.drawRect(QRectF(2, 5, 10, 6));
      p.drawRect(QRectF(13, 5, 10, 6));
      p.drawRect(QRectF(7, 12, 10, 6));
      break;
    case 1:
      p.drawLine(3, 11, 21, 11);
      p.drawLine(21, 11, 15, 5);
      p.drawLine(21, 11, 15, 17);
      break;
    case 2: {
      QPainterPath c(QPointF(3, 17));
      c.cubicTo(10, 17, 10, 4, 13, 4);
      c.cubicTo(16, 4, 16, 17, 23, 17);
      p.drawPath(c);
      break;
    }
    case 3: {
      const QPointF e[] = {{4, 17}, {4, 9}, {10, 5}, {22, 5}, {22, 17}};
      p.drawPolygon(e, 5);
      break;
    }
    case 4:
      p.drawRect(QRectF(4, 4, 11, 10));
      p.drawRect(QRectF(10, 8, 11, 10));
      break;
    case 5:
      p.drawLine(3, 16, 23, 6);
      for (int i = 0; i < 4; ++i) p.drawLine(QPointF(6 + i * 5, 14.6 - i * 2.5), QPointF(5 + i * 5, 11 - i * 2.5));
      break;
    case 6:
      p.drawLine(13, 4, 13, 12);
      p.drawLine(9, 8, 17, 8);
      p.drawLine(8, 17, 18, 17);
      break;
    case 7:
      p.drawPolygon(QPolygonF({{13, 3}, {23, 18}, {3, 18}}));
      p.drawPolyline(QPolygonF({{8, 10.5}, {18, 10.5}, {13, 18}, {8, 10.5}}));
      break;
    case 8:
      p.drawRect(QRectF(4, 4, 18, 11));
      p.drawLine(3, 18, 23, 18);
      break;
    default:
      p.drawRect(QRectF(7, 7, 15, 11));
      p.drawLine(4, 15, 4, 4);
      p.drawLine(4, 4, 19, 4);
      break;
  }
  return QIcon(pixmap);
}

}  // namespace loom::app
