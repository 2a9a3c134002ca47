// A square metre that lies flat.
#include "core/surface/shapes/shapes.h"

namespace loom {
namespace {

class Tile : public Shape {
 public:
  explicit Tile(float tile) : Shape(tile) {}

  ShellPlace place(Vec3 p) const override { return {(p.x + kHalf) / tile(), (p.z + kHalf) / tile(), p.y}; }
  ShellFrame frame(Vec3) const override { return {{0, 1, 0}, {tile(), 0, 0}, {0, 0, tile()}}; }
  std::optional<Near> near(const Ray& ray, float from, float high) const override {
    Cut cut;
    cut.slab(ray.from.y - (high - kThin) / 2, ray.towards.y, (high + kThin) / 2, {0, 1, 0});
    if (cut.side.y > 0) cut.side = {};  // from above
    cut.slab(ray.from.x, ray.towards.x, kHalf, {1, 0, 0});
    cut.slab(ray.from.z, ray.towards.z, kHalf, {0, 0, 1});
    return cut.after(from);
  }
  std::optional<float> far_side(const Ray&, float) const override { return {}; }
  ShellPlace side_place(Vec3 p, Vec3) const override { return place(p); }
  float bend(Vec3) const override { return 1e6f; }
  float radius() const override { return 0.70710678f; }
  float foot() const override { return 0; }

 private:
  static constexpr float kHalf = 0.5f, kThin = 1e-4f;
};

}  // namespace

std::shared_ptr<const Shape> make_tile(float tile_metres) { return std::make_shared<Tile>(tile_metres); }

}  // namespace loom
