// A dome on the ground: the tile is laid over it from the top, lengths true along every line from there.
#include "core/surface/shapes/shapes.h"

namespace loom {
namespace {

class Cupola : public Shape {
 public:
  explicit Cupola(float tile) : Shape(tile) {}

  ShellPlace place(Vec3 p) const override {
    const Vec3 q = p - kMiddle;
    const float r = length(q), flat = std::sqrt(q.x * q.x + q.z * q.z), angle = angle_of(flat, q.y);
    const float scale = flat > 1e-6f ? angle / flat : 1 / kRadius;
    return {q.x * scale * kRadius / tile() + 0.5f, q.z * scale * kRadius / tile() + 0.5f, r - kRadius};
  }
  ShellFrame frame(Vec3 p) const override {
    const Vec3 q = p - kMiddle, n = normalised(q);
    const float flat = std::sqrt(n.x * n.x + n.z * n.z);
    if (flat < 1e-4f) return {n, {tile(), 0, 0}, {0, 0, tile()}};
    const float angle = angle_of(flat, n.y), cosine = n.x / flat, sine = n.z / flat, shrunk = flat / angle;
    const Vec3 down{cosine * n.y, -flat, sine * n.y}, beside{-sine, 0, cosine};
    return {n, (down * cosine - beside * (sine * shrunk)) * tile(),
            (down * sine + beside * (cosine * shrunk)) * tile()};
  }
  std::optional<Near> near(const Ray& ray, float from, float high) const override {
    const auto through = through_sphere(ray, kMiddle, kRadius + high);
    if (!through) return {};
    Cut cut;
    cut.round(through->first, through->second);
    cut.slab(ray.from.y - kMiddle.y - kTall / 2, ray.towards.y, kTall / 2, {0, 1, 0});
    return cut.after(from);
  }
  std::optional<float> far_side(const Ray& ray, float from) const override {
    const auto through = through_sphere(ray, kMiddle, kRadius);
    if (!through || through->second <= from || ray.at(through->second).y < kMiddle.y) return {};
    return through->second;
  }
  ShellPlace side_place(Vec3 p, Vec3) const override { return place(p); }
  float bend(Vec3) const override { return kRadius / 2; }
  float radius() const override { return 0.5590170f; }
  float foot() const override { return kMiddle.y; }

 private:
  static constexpr float kRadius = 0.5f, kTall = 4;  // the slab's top is out of reach
  static constexpr Vec3 kMiddle{0, -0.25f, 0};
};

}  // namespace

std::shared_ptr<const Shape> make_cupola(float tile_metres) { return std::make_shared<Cupola>(tile_metres); }

}  // namespace loom
