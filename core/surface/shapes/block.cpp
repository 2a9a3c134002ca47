// A cube with rounded edges: u goes round its four sides, the lids lie like a tile.
#include "core/surface/shapes/shapes.h"

namespace loom {
namespace {

class Block : public Shape {
 public:
  explicit Block(float tile) : Shape(kSide / whole_tiles(kSide, tile)) {}

  ShellPlace place(Vec3 p) const override {
    const Vec3 core = core_of(p), out = p - core;
    const float away = length(out);
    const Vec3 n = away > 1e-6f ? out * (1 / away) : normalised(p);
    const Chart& c = chart_of(n);
    return {along(core, n, c.u, c.out) + static_cast<float>(c.turn) * kSide / tile(), along(core, n, c.v, c.out),
            away - kRound};
  }
  ShellFrame frame(Vec3 p) const override {
    const Vec3 n = normalised(p - core_of(p));
    const Chart& c = chart_of(n);
    // The tangents are to the gradients of u and v as these are to them.
    const Vec3 u = gradient(p, n, c.u, c.out), v = gradient(p, n, c.v, c.out), a = cross(v, n), b = cross(n, u);
    return {n, a * (tile() / dot(u, a)), b * (tile() / dot(v, b))};
  }
  std::optional<Near> near(const Ray& ray, float from, float high) const override {
    Cut cut;
    const float half = kCore + kRound + high;
    cut.slab(ray.from.x, ray.towards.x, half, {1, 0, 0});
    cut.slab(ray.from.y, ray.towards.y, half, {0, 1, 0});
    cut.slab(ray.from.z, ray.towards.z, half, {0, 0, 1});
    const auto box = cut.after(from);
    if (!box) return {};
    const auto in = walk_to(ray, box->from, box->to, high, distance);
    if (!in) return {};
    const float length = box->to - *in;
    const auto back = walk_to({ray.at(box->to), ray.towards * -1}, 0, length, high, distance);
    return Near{*in, back ? box->to - *back : box->to};
  }
  std::optional<float> far_side(const Ray& ray, float from) const override {
    return walk_to(ray, from, from + 2 * radius(), 0, [](Vec3 p) { return -distance(p); });
  }
  ShellPlace side_place(Vec3 p, Vec3) const override { return place(p); }
  float bend(Vec3) const override { return kRound; }
  float radius() const override { return 0.65f; }
  float foot() const override { return -kCore - kRound; }
  float round_u() const override { return 4 * kSide / tile(); }
  bool has_charts() const override { return true; }

 private:
  static constexpr float kCore = 0.34f, kRound = 0.06f;
  // From the middle of an edge to the middle of the next, along the surface.
  static constexpr float kSide = 2 * kCore + kRound * kPi / 2;
  // One of the six faces with half of the edges about it: outwards, and where u and v lead in its middle.
  struct Chart {
    Vec3 out, u, v;
    int turn;  // about the upright axis
  };
  static const Chart& chart_of(Vec3 n) {
    static constexpr Chart kCharts[] = {
        {{0, 0, 1}, {1, 0, 0}, {0, -1, 0}, 0},   {{1, 0, 0}, {0, 0, -1}, {0, -1, 0}, 1},
        {{0, 0, -1}, {-1, 0, 0}, {0, -1, 0}, 2}, {{-1, 0, 0}, {0, 0, 1}, {0, -1, 0}, 3},
        {{0, 1, 0}, {1, 0, 0}, {0, 0, 1}, 0},    {{0, -1, 0}, {1, 0, 0}, {0, 0, -1}, 0}};
    const float x = std::abs(n.x), y = std::abs(n.y), z = std::abs(n.z);
    if (y >= x && y >= z) return kCharts[n.y > 0 ? 4 : 5];
    if (z >= x) return kCharts[n.z > 0 ? 0 : 2];
    return kCharts[n.x > 0 ? 1 : 3];
  }
  static Vec3 core_of(Vec3 p) {
    return {std::clamp(p.x, -kCore, kCore), std::clamp(p.y, -kCore, kCore), std::clamp(p.z, -kCore, kCore)};
  }
  static float distance(Vec3 p) {
    const Vec3 q{std::abs(p.x) - kCore, std::abs(p.y) - kCore, std::abs(p.z) - kCore};
    const Vec3 out{std::max(q.x, 0.0f), std::max(q.y, 0.0f), std::max(q.z, 0.0f)};
    return length(out) + std::min(std::max({q.x, q.y, q.z}), 0.0f) - kRound;
  }
  // Along the surface, counted from where the chart begins.
  float along(Vec3 core, Vec3 n, Vec3 axis, Vec3 out) const {
    return (dot(core, axis) + kRound * angle_of(dot(n, axis), dot(n, out)) + kSide / 2) / tile();
  }
  // Of the same length, on the surface.
  static Vec3 gradient(Vec3 p, Vec3 n, Vec3 axis, Vec3 out) {
    if (std::abs(dot(p, axis)) <= kCore) return axis;
    const float a = dot(n, axis), b = dot(n, out);
    return (axis * b - out * a) * (1 / (a * a + b * b));
  }
};

}  // namespace

std::shared_ptr<const Shape> make_block(float tile_metres) { return std::make_shared<Block>(tile_metres); }

}  // namespace loom
