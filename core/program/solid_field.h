// The signed distances of a closed body, kept over a grid in space and read between its samples.
#pragma once
#include <array>
#include <cstdint>
#include <memory>
#include <span>
#include <vector>

#include "core/base/error.h"
#include "core/base/stop.h"
#include "core/base/vec3.h"
#include "core/program/program.h"

namespace loom {

struct SolidField : Resource {
  std::size_t bytes() const override { return distance.size() * sizeof(float); }
  Vec3 size;                     ///< of the box about the body, whose middle is at 0; metres
  std::array<int, 3> samples{};  ///< along x, y, z
  Vec3 first;                    ///< where the first sample lies
  float step = 1;                ///< metres from sample to sample
  std::vector<float> distance;   ///< metres, below 0 within; x runs fastest
  int at(int x, int y, int z) const { return (z * samples[1] + y) * samples[0] + x; }
};

/// x, y, z -> signed distance and the direction in which it grows, of length 1. Between samples it is trilinear; beyond
/// the grid the distance to the place of the surface that is nearest to the grid's side.
extern const Family kSolidDistance;

constexpr int kFieldSamples = 128;  ///< along the longest side of the body's box

/// Triangles that bound a body: corners at the same place are one. Bodies may overlap; which way all of them are turned
/// does not matter. Distances are exact within two steps of the surface. Null once `stop` was asked.
/// Method: exact distances in a band, closest points handed on along each axis there and back, twice (after Danielsson
/// 1980), inside by the winding number along the rows (nonzero rule).   Error   edges that have no other side; flat,
/// below 1e-6 m or above 1e6 m.
Result<std::shared_ptr<const SolidField>> solid_field(std::span<const Vec3> position,
                                                      std::span<const std::array<std::uint32_t, 3>> triangle,
                                                      const Stop& stop);

}  // namespace loom
