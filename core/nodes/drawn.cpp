// Tables are square and cover the tile once.
#include "core/nodes/drawn.h"

#include <algorithm>

namespace loom {

int drawn_size(const Emitter& e, int most) {
  return std::min(most, e.connected("coordinates") ? 2 * e.resolution() : e.resolution());
}

std::shared_ptr<DrawnTable> drawn_table(std::vector<Plane> planes) {
  auto table = std::make_shared<DrawnTable>();
  for (Plane& plane : planes) {
    table->planes.push_back(std::make_shared<Plane>(std::move(plane)));
    auto levels = std::make_shared<Sampled>();
    levels->levels = pyramid(table->planes.back(), 14);
    table->sampled.push_back(std::move(levels));
  }
  return table;
}

Reg read_drawn(Emitter& e, const std::shared_ptr<const DrawnTable>& table, std::size_t i) {
  if (!e.connected("coordinates")) return e.b.read(table->sampled[i]);
  const auto [u, v, footprint] = e.position();
  return e.b.apply(kSample, {u, v, footprint}, table->sampled[i], 1)[0];
}

Affine placed(const Drawing& d, std::string_view fit, double margin) {
  const double room = std::max(0.01, 1 - 2 * margin);
  double across = room / d.width, down = room / d.height;
  if (fit == "whole") across = down = std::min(across, down);
  if (fit == "cover") across = down = std::max(across, down);
  return {across, 0, 0, down, 0.5 - across * (d.x + 0.5 * d.width), 0.5 - down * (d.y + 0.5 * d.height)};
}

const std::vector<std::string>& fit_words() {
  static const std::vector<std::string> kWords = {"whole", "stretched", "cover"};
  return kWords;
}

}  // namespace loom
