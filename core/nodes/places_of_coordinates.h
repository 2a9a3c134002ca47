// Where on the tile bent coordinates take given values.
#pragma once
#include <array>
#include <cmath>
#include <vector>

#include "core/plane/plane.h"

namespace loom {

class PlacesOfCoordinates {
 public:
  /// `u` and `v`: the coordinates of every texel, in shares of the tile, counted round it.
  PlacesOfCoordinates(PlanePtr u, PlanePtr v);
  /// The place, in shares of the tile, whose coordinates are (u, v); where several are, one of them, and where none is,
  /// about that of the nearest ones. Found among the texels and then between them, where coordinates run straight from
  /// texel to texel, by Newton's method.
  std::array<float, 2> find(float u, float v) const;

 private:
  struct Texel {
    int x, y;
  };
  // How far coordinates are from those wanted at a place, in texels, and how that changes along x and y.
  struct Miss {
    float u, v, u_x, u_y, v_x, v_y;
    float size() const { return std::hypot(u, v); }
  };
  Miss miss(float x, float y, float u, float v) const;
  float apart(Texel t, float u, float v) const;
  Texel nearest(float u, float v) const;

  PlanePtr u_, v_;
  int cells_;                       // along each side of the space of coordinates
  std::vector<std::size_t> first_;  // of each cell, into the texels
  std::vector<Texel> texels_;
};

}  // namespace loom
