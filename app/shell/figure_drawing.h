// What the pen draws in the loupe becomes the figure of the node that is shown.
#pragma once
#include <QObject>
#include <string>

#include "core/io/figure_shapes.h"

namespace loom::app {

class Loupe;
class Navigation;

class FigureDrawing : public QObject {
  Q_OBJECT
 public:
  FigureDrawing(Navigation& navigation, Loupe& loupe, QObject* parent);
  /// The node whose output is shown, as the board knows it; the pen is on if it holds a figure that can be read.
  void show(const std::string& node);

 Q_SIGNALS:
  void gestureEnded();

 private:
  void draw(const FigureShapes& shapes, const QString& what);
  Navigation& navigation_;
  Loupe& loupe_;
  std::string node_, parameter_;  // empty: no figure
  std::string text_;              // as it was shown last
};

}  // namespace loom::app
