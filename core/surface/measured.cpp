// Rays from points on triangles.
#include "core/surface/measured.h"

#include <algorithm>
#include <atomic>
#include <cmath>

#include "core/base/parallel.h"
#include "core/surface/sampler.h"

namespace loom {
namespace {

using Numbers = std::array<float, kMostNumbersOfMeasure>;
constexpr int kMostCrossings = 32;

// The same orders of directions for all who take as many rays.
const std::vector<Sampler>& samplers() {
  static const std::vector<Sampler> kAll = [] {
    std::vector<Sampler> all;
    for (std::uint32_t i = 0; i < static_cast<std::uint32_t>(kMostRays); ++i) all.emplace_back(i);
    return all;
  }();
  return kAll;
}

Vec3 within_cone(Sampler::Pair pair, float least_cosine) {
  const float cosine = 1 - pair.a * (1 - least_cosine), sine = std::sqrt(std::max(1 - cosine * cosine, 0.0f));
  return {sine * std::cos(2 * kPi * pair.b), sine * std::sin(2 * kPi * pair.b), cosine};
}

Vec3 by_cosine(Sampler::Pair pair) {
  const float sine = std::sqrt(pair.a);
  return {sine * std::cos(2 * kPi * pair.b), sine * std::sin(2 * kPi * pair.b), std::sqrt(1 - pair.a)};
}

struct Face {
  float t, cosine;  // between the point's normal and the face's, which looks out of the solid
};

// Room for the rays of a point, one for each thread.
struct Rays {
  std::array<Vec3, kMostRays> up, down;
  std::array<float, kMostRays> weight;
  std::array<bool, kMostRays> shut;
  std::vector<std::optional<MeshShape::Met>> met = std::vector<std::optional<MeshShape::Met>>(kMostRays);
  std::vector<std::optional<Face>> above = std::vector<std::optional<Face>>(kMostRays), below = above;
};
Rays& own_rays() {
  static thread_local Rays rays;
  return rays;
}

// One who looks about from a point.
class Probe {
 public:
  Probe(const MeshShape& mesh, const MeshMeasure& what, const MeasuredPoint& point)
      : mesh_(mesh),
        what_(what),
        point_(point),
        frame_(point.normal),
        reach_(what.radius * mesh.longest_side()),
        away_(2e-5f * mesh.radius()) {}

  Numbers edges() const {
    const auto directions = static_cast<std::size_t>(std::max(what_.rays / 2, 1));
    auto& [up, down, weight, shut, met, above, below] = rays_;
    // More of them near the ground, where a gentle bend cuts off what it does; each counts by how rare it is.
    for (std::size_t i = 0; i < directions; ++i) {
      const Sampler::Pair chance = pair(i);
      const Vec3 d = within_cone({1 - chance.a * chance.a, chance.b}, 0);
      weight[i] = 2 * chance.a;
      up[i] = frame_.world(d), down[i] = frame_.world({d.x, d.y, -d.z});
    }
    meets({up.data(), directions}, above);
    leaves({down.data(), directions}, reach_, below);
    float convex = 0, concave = 0, turn = 0;
    // Of a flat it is known; what stands up or is cut off changes it.
    Vec3 empty = point_.normal * (0.5f * static_cast<float>(directions));
    for (std::size_t i = 0; i < directions; ++i) {
      const Found over = share_of(above[i]), under = share_of(below[i]);
      concave += weight[i] * over.share;
      convex += weight[i] * under.share;
      turn += weight[i] * (under.share * under.turn - over.share * over.turn);
      empty = empty + (down[i] * under.share - up[i] * over.share) * weight[i];
    }
    const float all = convex + concave, each = 1 / static_cast<float>(directions);
    const Vec3 normal = normalised(empty);
    return {convex * each, concave * each, all > 0 ? turn / all : 0, normal.x, normal.y, normal.z};
  }

  Numbers openness() const {
    const auto rays = static_cast<std::size_t>(what_.rays);
    auto& towards = rays_.up;
    auto& shut = rays_.shut;
    for (std::size_t i = 0; i < rays; ++i) towards[i] = frame_.world(by_cosine(pair(i)));
    if (what_.part_only) {
      meets({towards.data(), rays}, rays_.above);
      for (std::size_t i = 0; i < rays; ++i) shut[i] = rays_.above[i].has_value();
    } else {
      mesh_.meets(above(), {towards.data(), rays}, reach_, {shut.data(), rays});
    }
    int open = 0;
    Vec3 sum{};
    for (std::size_t i = 0; i < rays; ++i)
      if (!shut[i]) ++open, sum = sum + towards[i];
    const Vec3 bent = open ? normalised(sum) : point_.normal;
    return {static_cast<float>(open) / static_cast<float>(what_.rays), bent.x, bent.y, bent.z};
  }

  Numbers thickness() const {
    const auto rays = static_cast<std::size_t>(what_.spread > 0 ? what_.rays : 1);
    const float least = std::cos(0.5f * std::min(what_.spread, 180.0f) * kDegree);
    auto& towards = rays_.down;
    auto& ends = rays_.below;
    for (std::size_t i = 0; i < rays; ++i) {
      const Vec3 d = within_cone(rays > 1 ? pair(i) : Sampler::Pair{0, 0}, least);
      towards[i] = frame_.world({d.x, d.y, -d.z});
    }
    leaves({towards.data(), rays}, mesh_.longest_side(), ends);
    float sum = 0;
    for (std::size_t i = 0; i < rays; ++i) sum += ends[i] ? ends[i]->t : mesh_.longest_side();
    return {sum / static_cast<float>(rays)};
  }

 private:
  struct Found {
    float share = 0, turn = 0;
  };
  Sampler::Pair pair(std::size_t ray) const { return samplers()[ray].pair(0, point_.draw); }
  Vec3 above() const { return point_.place + point_.normal * away_; }
  Vec3 below() const { return point_.place - point_.normal * away_; }
  bool counts(const MeshShape::Met& met) const {
    return !what_.part_only || mesh_.mesh().part_of[met.triangle] == point_.part;
  }

  Found share_of(const std::optional<Face>& face) const {
    if (!face) return {};
    const float near = std::min(face->t / reach_, 1.0f), opposite = std::max(-face->cosine, 0.0f);
    return {(1 - near * near * near) * (1 - opposite * opposite),
            std::acos(std::clamp(face->cosine, -1.0f, 1.0f)) / kDegree};
  }

  // What stands in the way above the point.
  void meets(std::span<const Vec3> towards, std::span<std::optional<Face>> faces) const {
    auto& met = rays_.met;
    mesh_.first(above(), towards, reach_, {met.data(), towards.size()});
    for (std::size_t i = 0; i < towards.size(); ++i) {
      auto next = met[i];
      for (int n = 0; next && !counts(*next) && n < kMostCrossings; ++n)
        next = mesh_.first({above(), towards[i]}, next->t + away_, reach_);
      faces[i].reset();
      if (!next) continue;
      const Vec3 flat = mesh_.flat(next->triangle);
      const float side = dot(flat, towards[i]) > 0 ? -1.0f : 1.0f;
      faces[i] = Face{next->t, side * dot(flat, point_.normal)};
    }
  }

  // Where a way below the point comes out of the solid, which may be made of several that lie in each other.
  void leaves(std::span<const Vec3> towards, float to, std::span<std::optional<Face>> faces) const {
    auto& met = rays_.met;
    mesh_.first(below(), towards, to, {met.data(), towards.size()});
    for (std::size_t i = 0; i < towards.size(); ++i) {
      faces[i].reset();
      auto next = met[i];
      int inside = 1;
      for (int n = 0; next && n < kMostCrossings; ++n) {
        const Vec3 flat = mesh_.flat(next->triangle);
        if (counts(*next)) inside += dot(flat, towards[i]) > 0 ? -1 : 1;
        if (inside == 0) {
          faces[i] = Face{next->t, dot(flat, point_.normal)};
          break;
        }
        next = mesh_.first({below(), towards[i]}, next->t + away_, to);
      }
    }
  }

  const MeshShape& mesh_;
  const MeshMeasure& what_;
  const MeasuredPoint& point_;
  Frame frame_;
  float reach_, away_;
  Rays& rays_ = own_rays();
};

}  // namespace

Numbers measured_at(const MeshShape& mesh, const MeshMeasure& what, const MeasuredPoint& point) {
  const Probe probe(mesh, what, point);
  switch (what.name) {
    case MeasureName::edges:
      return probe.edges();
    case MeasureName::openness:
      return probe.openness();
    case MeasureName::thickness:
      return probe.thickness();
    case MeasureName::carried:
      break;  // is read
  }
  return {};
}

Numbers unmeasured(const MeshMeasure& what, Vec3 n) {
  if (what.name == MeasureName::edges) return {0, 0, 0, n.x, n.y, n.z};
  if (what.name == MeasureName::openness) return {1, n.x, n.y, n.z};
  if (what.name == MeasureName::thickness) return {1};
  return {};
}

Measured::Grid Measured::grid_over(std::uint32_t triangle, float step) const {
  const auto& corner = mesh_->mesh().triangle[triangle];
  std::array<Vec3, 3> p;
  for (std::size_t i = 0; i < 3; ++i) p[i] = mesh_->mesh().position[corner[i]];
  std::size_t base = 0;  // the side from this corner to the next
  for (std::size_t i = 1; i < 3; ++i)
    if (length(p[(i + 1) % 3] - p[i]) > length(p[(base + 1) % 3] - p[base])) base = i;
  Grid g;
  for (std::size_t i = 0; i < 3; ++i) g.corner[i] = static_cast<std::uint8_t>((base + i) % 3);
  const Vec3 side = p[g.corner[1]] - p[g.corner[0]], slant = p[g.corner[2]] - p[g.corner[0]];
  const float wide = length(side), tall = length(cross(side, slant)) / wide;
  g.foot = dot(slant, side) / (wide * wide);
  const auto steps = [&](float metres) { return static_cast<std::uint16_t>(std::clamp(metres / step, 0.0f, 8191.0f)); };
  g.across = steps(wide), g.up = steps(tall);
  return g;
}

void Measured::lay(std::size_t points) {
  const auto triangles = static_cast<std::uint32_t>(mesh_->mesh().triangle.size());
  float step = std::sqrt(mesh_->area() / static_cast<float>(points));
  grids_.resize(triangles);
  std::size_t first = 0;
  for (int pass = 0; pass < 3; ++pass) {  // a grid has more points than its area asks for
    first = 0;
    for (std::uint32_t i = 0; i < triangles; ++i) {
      grids_[i] = grid_over(i, step);
      grids_[i].first = static_cast<std::uint32_t>(first);
      first += (grids_[i].across + std::size_t{1}) * (grids_[i].up + std::size_t{1});
    }
    step *= std::sqrt(static_cast<float>(first) / static_cast<float>(points));
  }
  // What so many rays leave open: half of the standard error of a share, which falls with their root.
  const float grain = what_.rays > 1 ? 0.5f / std::sqrt(static_cast<float>(what_.rays)) : 0;
  tolerance_.fill(grain);
  if (what_.name == MeasureName::edges) tolerance_[kTurn] = 64 * grain;  // degrees
  if (what_.name == MeasureName::thickness) tolerance_[kMetres] = 0.3f * grain * mesh_->longest_side();
  booked_ = Booked(first * what_.numbers() * sizeof(float) + triangles * sizeof(Grid));
  values_.resize(first * what_.numbers());
}

// Every kCoarse-th point of a side, and its last.
bool Measured::is_coarse(int i, int steps) { return i % kCoarse == 0 || i == steps; }

void Measured::measure(std::uint32_t triangle, int i, int j) {
  const Grid& g = grids_[triangle];
  const float y = g.up ? static_cast<float>(j) / static_cast<float>(g.up) : 1.0f / 3;
  const float x = g.across ? static_cast<float>(i) / static_cast<float>(g.across) : 0.5f * (1 - y) + g.foot * y;
  const float along = std::clamp(x - g.foot * y, 0.0f, 1 - y);
  const std::array<float, 3> weight{1 - y - along, along, y};
  // Not on the very edge, where it is unclear on which side a ray starts.
  constexpr float kInwards = 1e-3f;
  const Mesh& mesh = mesh_->mesh();
  MeasuredPoint point{
      {}, mesh_->flat(triangle), mesh.part_of[triangle], g.first + static_cast<std::uint32_t>(j * (g.across + 1) + i)};
  for (std::size_t k = 0; k < 3; ++k)
    point.place =
        point.place + mesh.position[mesh.triangle[triangle][g.corner[k]]] * (weight[k] * (1 - kInwards) + kInwards / 3);
  const Numbers found = measured_at(*mesh_, what_, point);
  std::copy_n(found.begin(), what_.numbers(), &values_[point.draw * what_.numbers()]);
}

// Whether a triangle, or a cell of coarse points that lies over it, reads the point.
bool Measured::is_read(const Grid& g, int i, int j, bool coarse) {
  const float wide = coarse ? kCoarse + 1.01f : 1.01f;
  const float beside =
      wide / static_cast<float>(std::max<int>(g.across, 1)) + wide / static_cast<float>(std::max<int>(g.up, 1));
  const float y = static_cast<float>(j) / static_cast<float>(std::max<int>(g.up, 1)),
              along = static_cast<float>(i) / static_cast<float>(std::max<int>(g.across, 1)) - g.foot * y;
  return along >= -beside && along <= 1 - y + beside;
}

// Between the coarse points about it, where these agree.
bool Measured::blend(std::uint32_t triangle, int i, int j) {
  const Grid& g = grids_[triangle];
  const int left = i / kCoarse * kCoarse, right = std::min(left + kCoarse, int{g.across}),
            below = j / kCoarse * kCoarse, above = std::min(below + kCoarse, int{g.up});
  const std::size_t n = what_.numbers();
  const auto at = [&](int x, int y) {
    return &values_[(g.first + static_cast<std::size_t>(y * (g.across + 1) + x)) * n];
  };
  const float *a = at(left, below), *b = at(right, below), *c = at(left, above), *d = at(right, above);
  for (std::size_t k = 0; k < n; ++k) {
    const auto [least, most] = std::minmax({a[k], b[k], c[k], d[k]});
    if (most - least > tolerance_[k]) return false;
  }
  const float s = right > left ? static_cast<float>(i - left) / static_cast<float>(right - left) : 0,
              t = above > below ? static_cast<float>(j - below) / static_cast<float>(above - below) : 0;
  float* to = at(i, j);
  for (std::size_t k = 0; k < n; ++k) to[k] = (a[k] + (b[k] - a[k]) * s) * (1 - t) + (c[k] + (d[k] - c[k]) * s) * t;
  return true;
}

void Measured::fill(std::uint32_t first, std::uint32_t last, bool coarse) {
  const auto after = std::upper_bound(grids_.begin(), grids_.end(), first,
                                      [](std::uint32_t point, const Grid& g) { return point < g.first; });
  auto triangle = static_cast<std::uint32_t>(after - grids_.begin()) - 1;
  for (std::uint32_t point = first; point < last; ++point) {
    if (triangle + 1 < grids_.size() && grids_[triangle + 1].first <= point) ++triangle;
    const Grid& g = grids_[triangle];
    const auto at = static_cast<int>(point - g.first), i = at % (g.across + 1), j = at / (g.across + 1);
    if ((is_coarse(i, g.across) && is_coarse(j, g.up)) != coarse || !is_read(g, i, j, coarse)) continue;
    if (coarse || !blend(triangle, i, j)) measure(triangle, i, j);
  }
}

// The grain of a point is its own: a mean over those about it, 1 2 1 along both sides, leaves three eighths of it.
void Measured::smooth(std::uint32_t triangle) {
  const Grid& g = grids_[triangle];
  const int row = g.across + 1;
  const std::size_t n = what_.numbers(), count = static_cast<std::size_t>(row) * (g.up + std::size_t{1});
  if (count < 9) return;
  const auto from = values_.begin() + static_cast<std::ptrdiff_t>(g.first * n);
  const std::vector<float> before(from, from + static_cast<std::ptrdiff_t>(count * n));
  for (int j = 0; j <= g.up; ++j)
    for (int i = 0; i <= g.across; ++i) {
      if (!is_read(g, i, j, false)) continue;
      Numbers sum{};
      float all = 0;
      for (int y = std::max(j - 1, 0); y <= std::min(j + 1, int{g.up}); ++y)
        for (int x = std::max(i - 1, 0); x <= std::min(i + 1, int{g.across}); ++x) {
          if (!is_read(g, x, y, false)) continue;
          const float weight = (x == i ? 2.0f : 1.0f) * (y == j ? 2.0f : 1.0f);
          for (std::size_t k = 0; k < n; ++k) sum[k] += weight * before[static_cast<std::size_t>(y * row + x) * n + k];
          all += weight;
        }
      for (std::size_t k = 0; k < n; ++k)
        values_[(g.first + static_cast<std::size_t>(j * row + i)) * n + k] = sum[k] / all;
    }
}

Result<std::shared_ptr<const Measured>> Measured::make(std::shared_ptr<const MeshShape> mesh, const MeshMeasure& what,
                                                       std::size_t points, const Stop& stop,
                                                       const std::function<void(double)>& progress) {
  std::shared_ptr<Measured> made(new Measured(std::move(mesh), what));
  made->lay(points);
  constexpr std::size_t kBlock = 512;
  const std::size_t all = made->points();
  const auto blocks = static_cast<int>((all + kBlock - 1) / kBlock);
  std::atomic<int> done{0};
  for (const bool coarse : {true, false})
    for_rows(blocks, 1, stop, [&](int first, int last) {
      for (int i = first; i < last && !stop.asked(); ++i) {
        const std::size_t from = static_cast<std::size_t>(i) * kBlock;
        made->fill(static_cast<std::uint32_t>(from), static_cast<std::uint32_t>(std::min(from + kBlock, all)), coarse);
      }
      const int now = done += last - first;
      if (progress) progress(0.5 * now / blocks);
    });
  const int grained = what.rays > 1 ? static_cast<int>(made->grids_.size()) : 0;  // one ray has no grain
  for_rows(grained, 64, stop, [&](int first, int last) {
    for (int t = first; t < last; ++t) made->smooth(static_cast<std::uint32_t>(t));
  });
  if (stop.asked()) return Error{"", kCancelled, ""};
  made->mesh_ = nullptr;  // what is known outlives it
  return std::shared_ptr<const Measured>(std::move(made));
}

Numbers Measured::at(std::uint32_t triangle, float b, float c) const {
  const Grid& g = grids_[triangle];
  const std::array<float, 3> weight{1 - b - c, b, c};
  const float y = std::clamp(weight[g.corner[2]], 0.0f, 1.0f),
              x = std::clamp(weight[g.corner[1]] + g.foot * y, 0.0f, 1.0f);
  const float down = y * static_cast<float>(g.up), along = x * static_cast<float>(g.across);
  const auto j = std::min(static_cast<std::uint32_t>(down), std::uint32_t{g.up}),
             i = std::min(static_cast<std::uint32_t>(along), std::uint32_t{g.across});
  const float t = down - static_cast<float>(j), s = along - static_cast<float>(i);
  const std::size_t n = what_.numbers(), row = g.across + std::size_t{1};
  const float* p = &values_[(g.first + j * row + i) * n];
  const float* right = i < g.across ? p + n : p;
  const std::size_t above = j < g.up ? row * n : 0;
  Numbers out{};
  for (std::size_t k = 0; k < n; ++k) {
    const float low = p[k] + (right[k] - p[k]) * s, high = p[above + k] + (right[above + k] - p[above + k]) * s;
    out[k] = low + (high - low) * t;
  }
  return out;
}

}  // namespace loom
