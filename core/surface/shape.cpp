// The list of shapes.
#include "core/surface/shape.h"

#include "core/surface/shapes/shapes.h"

namespace loom {

const std::vector<std::pair<std::string, std::string>>& shape_names() {
  static const std::vector<std::pair<std::string, std::string>> kNames = {
      {"tile", "tile"}, {"ball", "ball"}, {"pipe", "pipe"}, {"ring", "ring"}, {"block", "block"}, {"cupola", "cupola"}};
  return kNames;
}

std::optional<ShapeName> shape_named(std::string_view identifier) {
  for (std::size_t i = 0; i < shape_names().size(); ++i)
    if (shape_names()[i].first == identifier) return static_cast<ShapeName>(i);
  return {};
}

std::shared_ptr<const Shape> Shape::make(ShapeName name, float tile_metres) {
  const float tile = std::clamp(tile_metres, 1e-3f, 1e3f);
  switch (name) {
    case ShapeName::tile:
      return make_tile(tile);
    case ShapeName::pipe:
      return make_pipe(tile);
    case ShapeName::ring:
      return make_ring(tile);
    case ShapeName::block:
      return make_block(tile);
    case ShapeName::cupola:
      return make_cupola(tile);
    case ShapeName::ball:
      break;
  }
  return make_ball(tile);
}

}  // namespace loom
