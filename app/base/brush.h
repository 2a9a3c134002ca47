// How the next stroke is drawn: a state of the program, which no document holds.
#pragma once
#include <QPen>
#include <algorithm>

#include "core/graph/value.h"

namespace loom::app {

struct Brush {
  double radius = 0.03;  ///< shares of the tile; on a shape, of its longest side
  double softness = 0.5, strength = 1, number = 1;
  Vector colour{0.6, 0.2, 0.05};
  bool erase = false;

  /// A stroke without points. `kind`: mask, which is painted with 1, value or colour.
  HandStroke stroke(const std::string& kind) const {
    HandStroke s;
    s.radius = static_cast<float>(radius), s.softness = static_cast<float>(softness);
    s.strength = static_cast<float>(strength), s.erase = erase;
    if (kind == "value") s.paint = {static_cast<float>(number)};
    if (kind == "colour") s.paint.assign(colour.begin(), colour.end());
    return s;
  }
};

/// How its ring is drawn over a picture: first the edge, then the line; dotted where it begins to fade.
inline QPen brushPen(const Brush& brush, bool edge, bool fades) {
  const QColor line = edge ? QColor(0, 0, 0, 150) : brush.erase ? QColor("#ffd76a") : QColor(Qt::white);
  return fades ? QPen(line, edge ? 2.4 : 0.9, Qt::DotLine) : QPen(line, edge ? 3 : 1.2);
}

/// The one brush of the program; of the interface thread.
inline Brush& brush() {
  static Brush the_brush;
  return the_brush;
}

/// Arrows turn it, R rubs out; false: another key.
inline bool turnBrush(int key) {
  Brush& b = brush();
  switch (key) {
    case Qt::Key_Up:
    case Qt::Key_Down:
      b.radius = std::clamp(b.radius * (key == Qt::Key_Up ? 1.1 : 1 / 1.1), 1e-4, 1.0);
      return true;
    case Qt::Key_Left:
    case Qt::Key_Right:
      b.softness = std::clamp(b.softness + (key == Qt::Key_Right ? 0.1 : -0.1), 0.0, 1.0);
      return true;
    case Qt::Key_R:
      b.erase = !b.erase;
      return true;
    default:
      return false;
  }
}

}  // namespace loom::app
