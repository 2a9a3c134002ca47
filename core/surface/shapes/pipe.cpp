// An upright pipe, closed by flat lids on which the material goes on without relief.
#include "core/surface/shapes/shapes.h"

namespace loom {
namespace {

class Pipe : public Shape {
 public:
  explicit Pipe(float tile)
      : Shape(tile),
        round_(whole_tiles(2 * kPi * kRadius, tile)),
        per_turn_(round_ / (2 * kPi)),
        per_metre_(1 / tile) {}

  ShellPlace place(Vec3 p) const override {
    return {angle_of(p.x, p.z) * per_turn_, (kHalf - p.y) * per_metre_, std::sqrt(p.x * p.x + p.z * p.z) - kRadius};
  }
  ShellFrame frame(Vec3 p) const override {
    const Vec3 n = normalised({p.x, 0, p.z});
    return {n, Vec3{n.z, 0, -n.x} * (2 * kPi * kRadius / round_), {0, -tile(), 0}};
  }
  std::optional<Near> near(const Ray& ray, float from, float high) const override {
    const auto through = through_side(ray, kRadius + high);
    if (!through) return {};
    Cut cut;
    cut.round(through->first, through->second);
    cut.slab(ray.from.y, ray.towards.y, kHalf, {0, 1, 0});
    return cut.after(from);
  }
  std::optional<float> far_side(const Ray& ray, float from) const override {
    const auto through = through_side(ray, kRadius);
    if (!through) return {};
    Cut cut;
    cut.round(through->first, through->second);
    cut.slab(ray.from.y, ray.towards.y, kHalf, {0, 1, 0});
    if (cut.to <= std::max(from, cut.from)) return {};
    return cut.to;
  }
  ShellPlace side_place(Vec3 p, Vec3) const override { return {p.x / tile() + 0.5f, p.z / tile() + 0.5f, 0}; }
  float bend(Vec3) const override { return kRadius; }
  float radius() const override { return 0.5830952f; }
  float foot() const override { return -kHalf; }
  float round_u() const override { return round_; }

 private:
  static constexpr float kRadius = 0.3f, kHalf = 0.5f;
  // Of the round side alone, without ends.
  static std::optional<std::pair<float, float>> through_side(const Ray& ray, float radius) {
    const float flat = std::sqrt(ray.towards.x * ray.towards.x + ray.towards.z * ray.towards.z);
    if (flat < 1e-6f) {
      if (ray.from.x * ray.from.x + ray.from.z * ray.from.z > radius * radius) return {};
      return std::pair{-1e30f, 1e30f};
    }
    const auto at =
        through_sphere({{ray.from.x, 0, ray.from.z}, {ray.towards.x / flat, 0, ray.towards.z / flat}}, {}, radius);
    if (!at) return {};
    return std::pair{at->first / flat, at->second / flat};
  }
  float round_, per_turn_, per_metre_;  // tiles; tiles a radian, a metre
};

}  // namespace

std::shared_ptr<const Shape> make_pipe(float tile_metres) { return std::make_shared<Pipe>(tile_metres); }

}  // namespace loom
