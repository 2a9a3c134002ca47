// A ball: u goes round, v from the upper pole to the lower.
#include "core/surface/shapes/shapes.h"

namespace loom {
namespace {

class Ball : public Shape {
 public:
  explicit Ball(float tile)
      : Shape(tile),
        round_(whole_tiles(2 * kPi * kRadius, tile)),
        down_(whole_tiles(kPi * kRadius, tile)),
        per_turn_(round_ / (2 * kPi)),
        per_turn_down_(down_ / kPi) {}

  ShellPlace place(Vec3 p) const override {
    const float r = length(p);
    return {angle_of(p.x, p.z) * per_turn_, angle_of(std::sqrt(p.x * p.x + p.z * p.z), p.y) * per_turn_down_,
            r - kRadius};
  }
  ShellFrame frame(Vec3 p) const override {
    const Vec3 n = normalised(p);
    const float around = std::max(std::sqrt(n.x * n.x + n.z * n.z), 1e-3f);
    const Vec3 u{n.z / around, 0, -n.x / around};
    return {n, u * (2 * kPi * kRadius * around / round_), cross(u, n) * (kPi * kRadius / down_)};
  }
  std::optional<Near> near(const Ray& ray, float from, float high) const override {
    const auto through = through_sphere(ray, {}, kRadius + high);
    if (!through) return {};
    Cut cut;
    cut.round(through->first, through->second);
    return cut.after(from);
  }
  std::optional<float> far_side(const Ray& ray, float from) const override {
    const auto through = through_sphere(ray, {}, kRadius);
    if (!through || through->second <= from) return {};
    return through->second;
  }
  ShellPlace side_place(Vec3 p, Vec3) const override { return place(p); }
  float bend(Vec3 p) const override { return std::max(std::sqrt(p.x * p.x + p.z * p.z), 0.02f); }
  float radius() const override { return kRadius; }
  float foot() const override { return -kRadius; }
  float round_u() const override { return round_; }

 private:
  static constexpr float kRadius = 0.5f;
  float round_, down_, per_turn_, per_turn_down_;  // tiles; and tiles a radian
};

}  // namespace

std::shared_ptr<const Shape> make_ball(float tile_metres) { return std::make_shared<Ball>(tile_metres); }

}  // namespace loom
