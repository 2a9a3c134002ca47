// A ring that lies flat: u goes along it, v round its section.
#include "core/surface/shapes/shapes.h"

namespace loom {
namespace {

class Ring : public Shape {
 public:
  explicit Ring(float tile)
      : Shape(tile),
        round_(whole_tiles(2 * kPi * kRadius, tile)),
        about_(whole_tiles(2 * kPi * kThick, tile)),
        per_turn_(round_ / (2 * kPi)),
        per_section_(about_ / (2 * kPi)) {}

  ShellPlace place(Vec3 p) const override {
    const float out = std::sqrt(p.x * p.x + p.z * p.z) - kRadius;
    return {angle_of(p.x, p.z) * per_turn_, -angle_of(p.y, out) * per_section_,
            std::sqrt(out * out + p.y * p.y) - kThick};
  }
  ShellFrame frame(Vec3 p) const override {
    const float around = std::max(std::sqrt(p.x * p.x + p.z * p.z), 1e-6f), out = around - kRadius;
    const Vec3 u{p.z / around, 0, -p.x / around}, away{p.x / around, 0, p.z / around};
    const Vec3 n = normalised(away * out + Vec3{0, p.y, 0});
    const float foot = kRadius + kThick * dot(n, away);
    return {n, u * (2 * kPi * foot / round_), cross(u, n) * (2 * kPi * kThick / about_)};
  }
  std::optional<Near> near(const Ray& ray, float from, float high) const override {
    const auto ball = through_sphere(ray, {}, kRadius + kThick + high);
    if (!ball || ball->second <= from) return {};
    const auto in = walk_to(ray, std::max(from, ball->first), ball->second, high, distance);
    if (!in) return {};
    // The longest way within: whoever steps along sees for himself where he is above again.
    return Near{*in, ball->second};
  }
  std::optional<float> far_side(const Ray& ray, float from) const override {
    return walk_to(ray, from, from + 2 * radius(), 0, [](Vec3 p) { return -distance(p); });
  }
  ShellPlace side_place(Vec3 p, Vec3) const override { return place(p); }
  float bend(Vec3) const override { return kThick; }
  float radius() const override { return kRadius + kThick; }
  float foot() const override { return -kThick; }
  float round_u() const override { return round_; }
  float round_v() const override { return about_; }

 private:
  static constexpr float kRadius = 0.34f, kThick = 0.15f;
  static float distance(Vec3 p) {
    const float out = std::sqrt(p.x * p.x + p.z * p.z) - kRadius;
    return std::sqrt(out * out + p.y * p.y) - kThick;
  }
  float round_, about_, per_turn_, per_section_;  // tiles; and tiles a radian
};

}  // namespace

std::shared_ptr<const Shape> make_ring(float tile_metres) { return std::make_shared<Ring>(tile_metres); }

}  // namespace loom
