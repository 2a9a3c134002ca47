// What a probe finds, on a grid over each triangle.
#include "core/surface/measured.h"

#include <algorithm>
#include <atomic>
#include <cmath>

#include "core/base/parallel.h"

namespace loom {
MeasuredNumbers unmeasured(const MeshMeasure& what, Vec3 n) {
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

MeasuredPoint Measured::point(std::uint32_t triangle, int i, int j) const {
  const Grid& g = grids_[triangle];
  const float y = g.up ? static_cast<float>(j) / static_cast<float>(g.up) : 1.0f / 3;
  const float x = g.across ? static_cast<float>(i) / static_cast<float>(g.across) : 0.5f * (1 - y) + g.foot * y;
  const float along = std::clamp(x - g.foot * y, 0.0f, 1 - y);
  const std::array<float, 3> weight{1 - y - along, along, y};
  // Not on the very edge, where it is unclear on which side a ray starts.
  constexpr float kInwards = 1e-3f;
  const Mesh& mesh = mesh_->mesh();
  MeasuredPoint point{{}, mesh_->flat(triangle), mesh.part_of[triangle]};
  for (std::size_t k = 0; k < 3; ++k)
    point.place =
        point.place + mesh.position[mesh.triangle[triangle][g.corner[k]]] * (weight[k] * (1 - kInwards) + kInwards / 3);
  return point;
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

void Measured::fill(const MeshProbe& probe, std::uint32_t first, std::uint32_t last, bool coarse) {
  const auto after = std::upper_bound(grids_.begin(), grids_.end(), first,
                                      [](std::uint32_t point, const Grid& g) { return point < g.first; });
  auto triangle = static_cast<std::uint32_t>(after - grids_.begin()) - 1;
  std::vector<ProbeLine> lines;
  for (int order = 0; order <= MeshProbe::kWhole; ++order)
    lines.emplace_back(probe, order, [this](std::size_t at, const MeasuredPoint&, const MeasuredNumbers& found) {
      std::copy_n(found.begin(), what_.numbers(), &values_[at * what_.numbers()]);
    });
  for (std::uint32_t at = first; at < last; ++at) {
    if (triangle + 1 < grids_.size() && grids_[triangle + 1].first <= at) ++triangle;
    const Grid& g = grids_[triangle];
    const auto n = static_cast<int>(at - g.first), i = n % (g.across + 1), j = n / (g.across + 1);
    if ((is_coarse(i, g.across) && is_coarse(j, g.up)) != coarse || !is_read(g, i, j, coarse)) continue;
    if (!coarse && blend(triangle, i, j)) continue;
    const bool whole = coarse || !is_smoothed(g);
    lines[whole ? MeshProbe::kWhole : order_of(i, j)].add(at, point(triangle, i, j));
  }
  for (ProbeLine& line : lines) line.finish();
}

// Each order is told by its mean over the points about, 1 2 1 along both sides, and all of them count alike.
void Measured::smooth(std::uint32_t triangle) {
  const Grid& g = grids_[triangle];
  if (!is_smoothed(g)) return;
  const int row = g.across + 1;
  const std::size_t n = what_.numbers(), count = static_cast<std::size_t>(row) * (g.up + std::size_t{1});
  const auto from = values_.begin() + static_cast<std::ptrdiff_t>(g.first * n);
  const std::vector<float> before(from, from + static_cast<std::ptrdiff_t>(count * n));
  for (int j = 0; j <= g.up; ++j)
    for (int i = 0; i <= g.across; ++i) {
      if (!is_read(g, i, j, false)) continue;
      std::array<MeasuredNumbers, MeshProbe::kOrders> sum{};
      std::array<float, MeshProbe::kOrders> all{};
      for (int y = std::max(j - 1, 0); y <= std::min(j + 1, int{g.up}); ++y)
        for (int x = std::max(i - 1, 0); x <= std::min(i + 1, int{g.across}); ++x) {
          if (!is_read(g, x, y, false)) continue;
          const float weight = (x == i ? 2.0f : 1.0f) * (y == j ? 2.0f : 1.0f);
          const std::size_t order = order_of(x, y);
          for (std::size_t k = 0; k < n; ++k)
            sum[order][k] += weight * before[static_cast<std::size_t>(y * row + x) * n + k];
          all[order] += weight;
        }
      float* const to = &values_[(g.first + static_cast<std::size_t>(j * row + i)) * n];
      const auto orders = static_cast<float>(std::count_if(all.begin(), all.end(), [](float a) { return a > 0; }));
      std::fill_n(to, n, 0.0f);
      for (std::size_t order = 0; order < all.size(); ++order)
        for (std::size_t k = 0; k < n && all[order] > 0; ++k) to[k] += sum[order][k] / (all[order] * orders);
    }
}

Result<std::shared_ptr<const Measured>> Measured::make(std::shared_ptr<const MeshShape> mesh, const MeshMeasure& what,
                                                       std::size_t points, const Stop& stop,
                                                       const std::function<void(double)>& progress) {
  std::shared_ptr<Measured> made(new Measured(std::move(mesh), what));
  made->lay(points);
  const MeshProbe probe(*made->mesh_, what);
  constexpr std::size_t kBlock = 2048;
  const std::size_t all = made->points();
  const auto blocks = static_cast<int>((all + kBlock - 1) / kBlock);
  std::atomic<int> done{0};
  for (const bool coarse : {true, false})
    for_rows(blocks, 1, stop, [&](int first, int last) {
      for (int i = first; i < last && !stop.asked(); ++i) {
        const std::size_t from = static_cast<std::size_t>(i) * kBlock;
        made->fill(probe, static_cast<std::uint32_t>(from), static_cast<std::uint32_t>(std::min(from + kBlock, all)),
                   coarse);
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

MeasuredNumbers Measured::at(std::uint32_t triangle, float b, float c) const {
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
  MeasuredNumbers out{};
  for (std::size_t k = 0; k < n; ++k) {
    const float low = p[k] + (right[k] - p[k]) * s, high = p[above + k] + (right[above + k] - p[above + k]) * s;
    out[k] = low + (high - low) * t;
  }
  return out;
}

}  // namespace loom
