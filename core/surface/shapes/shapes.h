// What the shapes share: spheres, slabs, and steps along a distance.
#pragma once
#include <optional>

#include "core/surface/shape.h"

namespace loom {

std::shared_ptr<const Shape> make_tile(float tile_metres);
std::shared_ptr<const Shape> make_ball(float tile_metres);
std::shared_ptr<const Shape> make_pipe(float tile_metres);
std::shared_ptr<const Shape> make_ring(float tile_metres);
std::shared_ptr<const Shape> make_block(float tile_metres);
std::shared_ptr<const Shape> make_cupola(float tile_metres);

/// A coordinate that jumps by `round` (0: it does not), on the side of `to`.
inline float nearest_round(float value, float to, float round) {
  return round > 0 ? value - round * std::round((value - to) / round) : value;
}

/// As many tiles as fit best along a length, one at least.
inline float whole_tiles(float metres, float tile) { return std::max(1.0f, std::round(metres / tile)); }

/// Where a ray goes through a sphere about `middle`, in front of it or behind.
inline std::optional<std::pair<float, float>> through_sphere(const Ray& ray, Vec3 middle, float radius) {
  const Vec3 to = ray.from - middle;
  const float b = dot(to, ray.towards);
  const Vec3 beside = to - ray.towards * b;  // not b^2 - c, which cancels from afar
  const float inner = radius * radius - dot(beside, beside);
  if (inner < 0) return {};
  const float root = std::sqrt(inner);
  return std::pair{-b - root, -b + root};
}

/// A stretch along the ray that is cut down by slabs, and the side by which it is entered.
struct Cut {
  float from = -1e30f, to = 1e30f;
  Vec3 side;
  /// Between -half and half along an axis; a round stretch is cut without a side.
  void slab(float place, float towards, float half, Vec3 axis) {
    if (std::abs(towards) < 1e-9f) {
      if (std::abs(place) > half) to = from - 1;
      return;
    }
    const float a = (-half - place) / towards, b = (half - place) / towards;
    if (std::min(a, b) > from) from = std::min(a, b), side = axis * (towards > 0 ? -1.0f : 1.0f);
    to = std::min(to, std::max(a, b));
  }
  void round(float a, float b) {
    if (a > from) from = a, side = {};
    to = std::min(to, b);
  }
  std::optional<Shape::Near> after(float start) const {
    if (!(to > from) || to <= start) return {};
    if (start > from) return Shape::Near{start, to};
    return Shape::Near{from, to, side};
  }
};

/// The first place from `from` to `to` at which `distance`, which no step along the ray exceeds, is at most `near`.
/// Source: Hart, "Sphere Tracing", The Visual Computer 12, 1996.
template <class Distance>
std::optional<float> walk_to(const Ray& ray, float from, float to, float near, const Distance& distance) {
  constexpr float kClose = 2e-6f;
  float t = from;
  for (int i = 0; i < 1024 && t < to; ++i) {
    const float d = distance(ray.at(t)) - near;
    if (d < kClose) return t;
    t += d;
  }
  return {};
}

}  // namespace loom
