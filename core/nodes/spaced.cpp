// A cell's side is distance / root 2, so that a cell holds one point at most and its neighbours two cells away matter.
#include "core/nodes/spaced.h"

#include <algorithm>
#include <cmath>
#include <numeric>

#include "core/base/hash.h"

namespace loom {

std::vector<SpacedPoint> spaced_points(float distance, std::uint32_t seed) {
  constexpr int kThrows = 200;
  const float wanted = std::clamp(distance, 0.004f, 1.0f);
  const int side = std::max(1, static_cast<int>(std::ceil(std::sqrt(2.0f) / wanted)));
  const float cell = 1.0f / static_cast<float>(side);
  const auto count = static_cast<std::size_t>(side) * static_cast<std::size_t>(side);
  std::vector<SpacedPoint> held(count, {-1, -1, 0});
  std::vector<std::uint32_t> order(count);
  std::iota(order.begin(), order.end(), 0u);
  std::sort(order.begin(), order.end(), [&](std::uint32_t a, std::uint32_t b) {
    return std::pair(pcg(a ^ seed), a) < std::pair(pcg(b ^ seed), b);
  });
  const auto index = [&](int x, int y) {
    return static_cast<std::size_t>(((y % side) + side) % side) * static_cast<std::size_t>(side) +
           static_cast<std::size_t>(((x % side) + side) % side);
  };
  const auto apart = [](float a, float b) {
    const float d = std::abs(a - b);
    return std::min(d, 1 - d);
  };
  const int reach = std::min(3, side);
  const auto has_room = [&](float u, float v, int cx, int cy) {
    for (int y = cy - reach; y <= cy + reach; ++y)
      for (int x = cx - reach; x <= cx + reach; ++x) {
        const SpacedPoint& p = held[index(x, y)];
        if (p.u >= 0 && std::hypot(apart(p.u, u), apart(p.v, v)) < wanted) return false;
      }
    return true;
  };
  // A cell whose four corners lie within one point's distance has no room left, whatever is thrown.
  const auto covered = [&](int cx, int cy) {
    for (int y = cy - reach; y <= cy + reach; ++y)
      for (int x = cx - reach; x <= cx + reach; ++x) {
        const SpacedPoint& p = held[index(x, y)];
        if (p.u < 0) continue;
        bool all = true;
        for (const int i : {0, 1})
          for (const int j : {0, 1})
            all &= std::hypot(apart(p.u, static_cast<float>(cx + i) * cell),
                              apart(p.v, static_cast<float>(cy + j) * cell)) < wanted;
        if (all) return true;
      }
    return false;
  };
  for (int k = 0; k < kThrows && !order.empty(); ++k) {
    std::size_t open = 0;
    for (const std::uint32_t c : order) {
      if (held[c].u >= 0) continue;
      const int cx = static_cast<int>(c) % side, cy = static_cast<int>(c) / side;
      const std::uint32_t key = pcg(c + 1);
      const float u =
          (static_cast<float>(cx) + unit_random(seed + static_cast<std::uint32_t>(2 * k) * 7919u, key)) * cell;
      const float v =
          (static_cast<float>(cy) + unit_random(seed + static_cast<std::uint32_t>(2 * k + 1) * 7919u, key)) * cell;
      if (has_room(u, v, cx, cy))
        held[c] = {u, v, key};
      else if (!covered(cx, cy))
        order[open++] = c;
    }
    order.resize(open);
  }
  std::vector<SpacedPoint> points;
  for (const SpacedPoint& p : held)
    if (p.u >= 0) points.push_back(p);
  return points;
}

}  // namespace loom
