// The list of shapes.
#include "core/surface/shape.h"

#include "core/surface/shapes/shapes.h"

namespace loom {

namespace {

struct Row {
  const char *identifier, *label;
  std::shared_ptr<const Shape> (*make)(float tile_metres);
  Camera start;
};
// In the order of ShapeName.
constexpr Row kRows[] = {
    {"tile", "tile", make_tile, {0, 48, 3.5f}},     {"ball", "ball", make_ball, {0, 8, 4.6f}},
    {"pipe", "pipe", make_pipe, {0, 14, 4.3f}},     {"ring", "ring", make_ring, {0, 38, 4.3f}},
    {"block", "block", make_block, {32, 26, 4.3f}}, {"cupola", "cupola", make_cupola, {0, 28, 4.3f}},
};
const Row& row_of(ShapeName name) { return kRows[static_cast<std::size_t>(name)]; }

}  // namespace

const std::vector<std::pair<std::string, std::string>>& shape_names() {
  static const std::vector<std::pair<std::string, std::string>> kNames = [] {
    std::vector<std::pair<std::string, std::string>> names;
    for (const Row& row : kRows) names.emplace_back(row.identifier, row.label);
    return names;
  }();
  return kNames;
}

std::optional<ShapeName> shape_named(std::string_view identifier) {
  for (std::size_t i = 0; i < std::size(kRows); ++i)
    if (kRows[i].identifier == identifier) return static_cast<ShapeName>(i);
  return {};
}

std::shared_ptr<const Shape> Shape::make(ShapeName name, float tile_metres) {
  return row_of(name).make(std::clamp(tile_metres, 1e-3f, 1e3f));
}

Camera Camera::start(ShapeName shape) { return row_of(shape).start; }

}  // namespace loom
