// Points on the torus that keep a minimum distance.
#pragma once
#include <cstdint>
#include <vector>

namespace loom {

struct SpacedPoint {
  float u, v;
  std::uint32_t key;
};

/// Points of which no two are nearer than `distance` (share of the tile, 0.004 or more), as dense as chance can make
/// them: a grid of cells that can hold one point each is thrown at in an order drawn by `seed`, until nothing more
/// finds room in 200 throws a cell that is not covered. The same bits everywhere. Source: dart throwing on a background
/// grid, Cook, "Stochastic sampling in computer graphics", ACM Trans. Graph. 5(1), 1986.
std::vector<SpacedPoint> spaced_points(float distance, std::uint32_t seed);

}  // namespace loom
