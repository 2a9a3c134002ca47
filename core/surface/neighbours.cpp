#include "core/surface/neighbours.h"

#include <algorithm>
#include <unordered_map>

#include "core/base/hash.h"

namespace loom {

std::vector<std::uint32_t> first_in_place(const Mesh& mesh) {
  std::unordered_map<std::uint64_t, std::uint32_t> known;
  known.reserve(mesh.position.size());
  std::vector<std::uint32_t> place(mesh.position.size());
  for (std::uint32_t i = 0; i < mesh.position.size(); ++i) {
    const Vec3& p = mesh.position[i];
    std::uint64_t key = 0;
    for (const float x : {p.x, p.y, p.z}) key = combine(key, hash_number(static_cast<double>(x)));
    place[i] = known.emplace(key, i).first->second;
  }
  return place;
}

Neighbours::Neighbours(const Mesh& mesh) : of_(mesh.triangle.size(), {kNone, kNone, kNone}) {
  const std::vector<std::uint32_t> place = first_in_place(mesh);
  std::unordered_map<std::uint64_t, std::pair<std::uint32_t, std::size_t>> open;
  open.reserve(2 * mesh.triangle.size());
  for (std::uint32_t t = 0; t < mesh.triangle.size(); ++t)
    for (std::size_t side = 0; side < 3; ++side) {
      const auto [low, high] = std::minmax(place[mesh.triangle[t][side]], place[mesh.triangle[t][(side + 1) % 3]]);
      const auto [it, fresh] = open.emplace(std::uint64_t{low} << 32 | high, std::pair{t, side});
      if (fresh) continue;
      of_[t][side] = it->second.first;
      of_[it->second.first][it->second.second] = t;
    }
}

}  // namespace loom
