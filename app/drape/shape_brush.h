// The brush on the shape: where a hand on the drape lands in space.
#pragma once
#include <QObject>
#include <QPointF>
#include <functional>
#include <optional>

#include "core/plane/stroke.h"
#include "core/surface/laid_out.h"

class QPainter;

namespace loom::app {

class ShapeBrush : public QObject {
  Q_OBJECT
 public:
  /// A drape with the view that is shown now, of `density` pixels a unit of the widget; asked anew for each event.
  struct Sight {
    Drape drape;
    double density;
  };
  ShapeBrush(std::function<std::optional<Sight>()> sight, QObject* parent);
  /// False where the hand is beside the shape: then no stroke begins.
  bool begin(QPointF at, bool erase, double pressure);
  void goOn(QPointF at, double pressure);
  void end();
  bool isDrawing() const { return drawing_; }
  /// Where the hand is, for the ring; none: elsewhere.
  void hover(std::optional<QPointF> at) { at_ = at; }
  void paint(QPainter& p) const;

 Q_SIGNALS:
  void begun(bool erase);
  void drawn(const loom::StrokePoint& point, bool apart);  ///< `apart`: no way leads there from the one before
  void ended();

 private:
  std::optional<StrokePoint> met(const Sight& sight, QPointF at, double pressure) const;
  void take(const std::optional<StrokePoint>& point, float radius);
  std::function<std::optional<Sight>()> sight_;
  bool drawing_ = false;
  QPointF last_at_;
  std::optional<StrokePoint> last_;  // none: the hand was beside the shape
  std::optional<QPointF> at_;
};

/// The radius of the brush on what is shown, metres: a share of its longest side.
float brush_radius_on(const DrapeView& view);

}  // namespace loom::app
