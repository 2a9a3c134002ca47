// Directions that close on the torus.
#pragma once
#include <cmath>

#include "core/program/builder.h"

namespace loom {

/// Whole periods along u and v.
struct Lattice {
  int u, v;
};

/// `count` periods along a direction in degrees, anticlockwise as seen (v runs down), snapped to whole periods.
inline Lattice lattice_vector(double count, double degrees) {
  const double angle = degrees * 0.017453292519943295;
  // The phase grows along the angle, anticlockwise from the right; v runs down.
  return {static_cast<int>(std::lround(count * std::cos(angle))),
          static_cast<int>(std::lround(-count * std::sin(angle)))};
}

inline Reg lattice_phase(Builder& b, Lattice lattice, Reg u, Reg v) {
  return b.add(b.mul(u, static_cast<float>(lattice.u)), b.mul(v, static_cast<float>(lattice.v)));
}

}  // namespace loom
