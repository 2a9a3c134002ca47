// How the next stroke is drawn: a state of the program, which no document holds.
#pragma once
#include "core/graph/value.h"

namespace loom::app {

struct Brush {
  double radius = 0.03;  ///< shares of the tile
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

/// The one brush of the program; of the interface thread.
inline Brush& brush() {
  static Brush the_brush;
  return the_brush;
}

}  // namespace loom::app
