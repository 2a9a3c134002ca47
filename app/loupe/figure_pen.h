// The hand over a drawn figure: shapes are made, chosen, moved and bent where they are seen.
#pragma once
#include <QObject>
#include <QPainterPath>
#include <QPointF>
#include <functional>
#include <optional>

#include "core/io/figure_shapes.h"

class QKeyEvent;
class QPainter;

namespace loom::app {

/// A shape's outline, closed, in shares of the tile.
QPainterPath painterPath(const FigureShape& shape);

class FigurePen : public QObject {
  Q_OBJECT
 public:
  explicit FigurePen(QObject* parent);
  /// What the document holds now; nothing: no figure is in sight. What was chosen stays chosen while it is there.
  void show(std::optional<FigureShapes> shapes);
  bool isOn() const { return on_; }
  bool isDragging() const { return dragging_; }
  /// Of the mouse, at a place in shares of the tile. `reach`: how near to a grip counts as on it. `fine` lifts the
  /// snapping. False: there is nothing to take there.
  bool press(QPointF at, double reach, bool fine);
  void move(QPointF at, bool fine);
  void release();
  /// A point more on the outline there, or the outline closed that is being drawn. False: neither.
  bool doubled(QPointF at, double reach);
  bool key(const QKeyEvent& e);
  bool takes(const QKeyEvent& e) const;  ///< whether the key may be one of its own, and no shortcut
  void paint(QPainter& p, const std::function<QPointF(QPointF)>& to_widget) const;

  int chosen() const { return chosen_; }  ///< -1: none

 Q_SIGNALS:
  void drawn(const loom::FigureShapes& shapes, const QString& what);
  void gestureEnded();
  void renewed();

 private:
  // What is held of the chosen shape: a knot, one of its handles, a corner of its box, the grip of its rounding, or
  // all.
  struct Grip {
    enum class Part { none, whole, knot, in, out, corner, rounding } part = Part::none;
    int index = 0;
  };
  FigureShape* shape();
  const FigureShape* shape() const { return const_cast<FigurePen*>(this)->shape(); }
  std::vector<std::pair<Grip, QPointF>> grips() const;
  Grip gripAt(QPointF at, double reach) const;
  int shapeAt(QPointF at) const;
  QPointF snapped(QPointF at, bool fine) const;
  void begin(QPointF at);
  void addKnot(QPointF at);
  bool closes(QPointF at, double reach) const;
  void finish();
  void drag(QPointF to, bool fine);
  void shift(QPointF by);
  void choose(int shape);
  void removeHeld();
  void makeInTheMiddle();
  void duplicate();
  void reorder(int by);
  void turnSmooth();
  void round(double by);
  bool toolKey(int key);
  void tell(const QString& what);
  void edited(const QString& what);  // a gesture of its own

  bool on_ = false, dragging_ = false, begun_ = false, told_ = false;
  FigureShapes shapes_;
  int chosen_ = -1;
  Grip held_;
  QPointF from_;                        // where the drag began, or stands
  std::optional<FigureShape> growing_;  // an outline that is not closed yet
};

}  // namespace loom::app
