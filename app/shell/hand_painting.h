// What the hand draws becomes strokes of the node that is shown: one step back for each.
#pragma once
#include <QObject>
#include <QPointF>
#include <QTimer>
#include <string>

#include "core/graph/material.h"

namespace loom::app {

class DrapePanel;
class Loupe;
class Navigation;

class HandPainting : public QObject {
  Q_OBJECT
 public:
  HandPainting(Navigation& navigation, Loupe& loupe, DrapePanel& drape, QObject* parent);
  /// The node whose output is shown, as the board knows it; it is drawn on if it holds strokes.
  void show(const std::string& node);
  /// Whether a hand on the drape draws instead of turning the shape.
  void toggleOnShape();

 Q_SIGNALS:
  void gestureEnded();
  void message(const QString& text);

 private:
  void begin(bool erase, bool on_shape);
  void draw(QPointF tile, double pressure);
  void draw(const StrokePoint& point, bool apart);
  void end();
  void tell(bool done);
  const Strokes& strokesHeld() const;
  std::optional<Error> refusedOnShape() const;

  Navigation& navigation_;
  Loupe& loupe_;
  DrapePanel& drape_;
  std::string node_, kind_;  // shown now; kind_ is empty where nothing can be drawn
  std::string drawn_;        // the one that the stroke goes to
  Strokes before_;
  std::vector<HandStroke> drawing_;  // of this gesture: more than one where the hand went from one place to another
  QPointF start_;                    // the corner of the tile in which it begins
  QTimer soon_;
};

}  // namespace loom::app
