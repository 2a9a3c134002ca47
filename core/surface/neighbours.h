// Which triangles of a mesh share a side.
#pragma once
#include <array>
#include <cstdint>
#include <vector>

#include "core/io/mesh.h"

namespace loom {

/// Of each corner, the first one in the same place.
std::vector<std::uint32_t> first_in_place(const Mesh& mesh);

/// Corners in the same place are one, whatever their normals and coordinates.
class Neighbours {
 public:
  static constexpr std::uint32_t kNone = 0xffffffff;
  explicit Neighbours(const Mesh& mesh);
  /// Behind the sides from the first corner to the second, and so on; kNone where the mesh is open.
  const std::array<std::uint32_t, 3>& of(std::uint32_t triangle) const { return of_[triangle]; }

 private:
  std::vector<std::array<std::uint32_t, 3>> of_;
};

}  // namespace loom
