// What the hand draws becomes strokes of the node that is shown: one step back for each.
#pragma once
#include <QObject>
#include <QPointF>
#include <QTimer>
#include <string>

#include "core/graph/material.h"

namespace loom::app {

class Loupe;
class Navigation;

class HandPainting : public QObject {
  Q_OBJECT
 public:
  HandPainting(Navigation& navigation, Loupe& loupe, QObject* parent);
  /// The node whose output is shown, as the board knows it; it is drawn on if it holds strokes.
  void show(const std::string& node);

 Q_SIGNALS:
  void gestureEnded();

 private:
  void begin(bool erase);
  void draw(QPointF tile, double pressure);
  void end();
  void tell(bool done);

  Navigation& navigation_;
  Loupe& loupe_;
  std::string node_, kind_;  // shown now; kind_ is empty where nothing can be drawn
  std::string drawn_;        // the one that the stroke goes to
  Strokes before_;
  HandStroke stroke_;
  QPointF start_;  // the corner of the tile in which it begins
  QTimer soon_;
};

}  // namespace loom::app
