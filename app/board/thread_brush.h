// Threads are painted as straight runs and round corners. A corner looks the same wherever it stands: it is stroked
// once and laid there.
#pragma once
#include <QColor>
#include <QHash>
#include <QPixmap>
#include <QPointF>
#include <QRectF>
#include <vector>

class QPainter;

namespace loom::app {

/// The layers of a thread from the lowest up: their colours, and how wide they are, in pixels.
struct ThreadLook {
  struct Layer {
    QColor colour;
    qreal width;
  };
  std::vector<Layer> layers;
  int name = 0;  ///< another one for every look, by day and by night: corners are kept by it
};

class ThreadBrush {
 public:
  /// Paints the way that has these corners, as far as it is within `seen`. False, and nothing painted: it is not
  /// square.
  bool paint(QPainter& p, const std::vector<QPointF>& corners, const ThreadLook& look, const QRectF& seen);

  static constexpr int kRadius = 7;  ///< of a corner, where the runs beside it are long enough

 private:
  const QPixmap& stamp(const ThreadLook& look, QPoint in, QPoint out, int radius, qreal ratio);
  QHash<QPair<int, int>, QPixmap> stamps_;
};

}  // namespace loom::app
