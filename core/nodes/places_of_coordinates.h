// Where on the tile bent coordinates take given values.
#pragma once
#include <array>
#include <vector>

#include "core/plane/plane.h"

namespace loom {

class PlacesOfCoordinates {
 public:
  /// `u` and `v`: the coordinates of every texel, in shares of the tile, counted round it.
  PlacesOfCoordinates(PlanePtr u, PlanePtr v);
  /// The place, in shares of the tile, whose coordinates are (u, v); where several are, one of them, and where none is,
  /// that of the nearest ones. Found among the texels and then between them, by Newton's method.
  std::array<float, 2> find(float u, float v) const;

 private:
  struct Texel {
    int x, y;
  };
  float apart(Texel t, float u, float v) const;
  Texel nearest(float u, float v) const;

  PlanePtr u_, v_;
  int cells_;                       // along each side of the space of coordinates
  std::vector<std::size_t> first_;  // of each cell, into the texels
  std::vector<Texel> texels_;
};

}  // namespace loom
