// What a material's tile and relief measure in the world.
#pragma once

namespace loom {

struct Measures {
  double tile_metres = 1, relief_metres = 0.02;
  friend bool operator==(const Measures&, const Measures&) = default;
};

}  // namespace loom
