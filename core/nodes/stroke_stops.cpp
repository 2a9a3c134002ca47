// The farthest colour first.
#include "core/nodes/stroke_stops.h"

#include <algorithm>
#include <cmath>

namespace loom {

Stops stroke_stops(const std::vector<std::array<double, 3>>& colours, double tolerance, std::size_t most) {
  if (colours.empty()) return {};
  std::vector<std::size_t> kept{0};
  if (colours.size() > 1) kept.push_back(colours.size() - 1);
  while (kept.size() < most) {
    double farthest = tolerance;
    std::size_t at = 0;
    for (std::size_t k = 0; k + 1 < kept.size(); ++k)
      for (std::size_t i = kept[k] + 1; i < kept[k + 1]; ++i) {
        const double t = static_cast<double>(i - kept[k]) / static_cast<double>(kept[k + 1] - kept[k]);
        for (std::size_t c = 0; c < 3; ++c) {
          const double off =
              std::abs(colours[i][c] - (colours[kept[k]][c] + (colours[kept[k + 1]][c] - colours[kept[k]][c]) * t));
          if (off > farthest) farthest = off, at = i;
        }
      }
    if (at == 0) break;
    kept.insert(std::upper_bound(kept.begin(), kept.end(), at), at);
  }
  Stops stops;
  for (const std::size_t i : kept) {
    const double where = colours.size() > 1 ? static_cast<double>(i) / static_cast<double>(colours.size() - 1) : 0;
    stops.push_back({std::round(where * 1000) / 1000, {colours[i][0], colours[i][1], colours[i][2], 1}});
  }
  return stops;
}

}  // namespace loom
