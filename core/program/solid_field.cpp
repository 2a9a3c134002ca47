// Triangles to signed distances over a grid.
#include "core/program/solid_field.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <unordered_map>

#include "core/base/parallel.h"

namespace loom {
namespace {

using Triangle = std::array<std::uint32_t, 3>;
constexpr int kMargin = 8;                             // samples about the body's box
constexpr float kBand = 2.01f;                         // steps from the surface within which distances are measured
constexpr float kNear = 1e-5f;                         // of the longest side: corners that are one
constexpr float kLeastSide = 1e-6f, kMostSide = 1e6f;  // metres: squares of steps and distances stay numbers
constexpr float kNowhere = 1e18f;

struct Body {
  std::vector<Vec3> corner;  // each place once, its middle at 0
  std::vector<Triangle> triangle;
  Vec3 size;
};

// Corners that lie within `near` of each other are one: files have them once for each face, and where a round closes
// its last may miss the first by a hair.
class Corners {
 public:
  Corners(std::vector<Vec3>& all, float near) : all_(all), near_(near) {}

  std::uint32_t of(Vec3 p) {
    for (const auto x : about(p.x))
      for (const auto y : about(p.y))
        for (const auto z : about(p.z))
          if (const auto found = first_in_.find(key(x, y, z)); found != first_in_.end())
            for (std::uint32_t i = found->second; i != kNone; i = next_[i])
              if (const Vec3 apart = all_[i] - p; dot(apart, apart) <= near_ * near_) return i;
    const auto fresh = static_cast<std::uint32_t>(all_.size());
    all_.push_back(p);
    next_.push_back(kNone);
    std::swap(next_.back(), first_in_.try_emplace(key(cell(p.x), cell(p.y), cell(p.z)), kNone).first->second);
    first_in_[key(cell(p.x), cell(p.y), cell(p.z))] = fresh;
    return fresh;
  }

 private:
  static constexpr std::uint32_t kNone = 0xffffffff;
  std::int64_t cell(float x) const { return static_cast<std::int64_t>(std::floor(x / (64 * near_))); }
  // The cells that reach into `near` of a number: one, or two that it lies between.
  std::vector<std::int64_t> about(float x) const {
    const std::int64_t low = cell(x - near_), high = cell(x + near_);
    return low == high ? std::vector{low} : std::vector{low, high};
  }
  static std::uint64_t key(std::int64_t x, std::int64_t y, std::int64_t z) {
    return static_cast<std::uint64_t>(x & 0x1fffff) << 42 | static_cast<std::uint64_t>(y & 0x1fffff) << 21 |
           static_cast<std::uint64_t>(z & 0x1fffff);
  }
  std::vector<Vec3>& all_;
  float near_;
  std::vector<std::uint32_t> next_;  // of each corner: the next one in its cell
  std::unordered_map<std::uint64_t, std::uint32_t> first_in_;
};

struct Box {
  Vec3 low{kNowhere, kNowhere, kNowhere}, high{-kNowhere, -kNowhere, -kNowhere};
  Vec3 size() const { return high - low; }
};

Box box_about(std::span<const Vec3> position, std::span<const Triangle> triangle) {
  Box box;
  for (const Triangle& t : triangle)
    for (const std::uint32_t i : t) {
      const Vec3 p = position[i];
      box.low = {std::min(box.low.x, p.x), std::min(box.low.y, p.y), std::min(box.low.z, p.z)};
      box.high = {std::max(box.high.x, p.x), std::max(box.high.y, p.y), std::max(box.high.z, p.z)};
    }
  return box;
}

bool can_hold_a_body(Vec3 size) {
  const auto [least, longest] = std::minmax({size.x, size.y, size.z});
  return longest > kLeastSide && longest < kMostSide && least > kNear * longest;
}

Body welded(std::span<const Vec3> position, std::span<const Triangle> triangle, const Box& box) {
  Body body;
  body.size = box.size();
  const Vec3 middle = (box.low + box.high) * 0.5f;
  Corners corners(body.corner, kNear * std::max({body.size.x, body.size.y, body.size.z}));
  for (const Triangle& t : triangle) {
    const Triangle own{corners.of(position[t[0]] - middle), corners.of(position[t[1]] - middle),
                       corners.of(position[t[2]] - middle)};
    if (own[0] != own[1] && own[1] != own[2] && own[2] != own[0]) body.triangle.push_back(own);
  }
  return body;
}

// Edges that are not walked as often one way as the other: there the surface ends, or its faces are turned over.
std::size_t open_edges(const Body& body) {
  std::vector<std::pair<std::uint64_t, int>> walked;
  walked.reserve(3 * body.triangle.size());
  for (const Triangle& t : body.triangle)
    for (std::size_t k = 0; k < 3; ++k) {
      const std::uint32_t a = t[k], b = t[(k + 1) % 3];
      walked.emplace_back(std::uint64_t{std::min(a, b)} << 32 | std::max(a, b), a < b ? 1 : -1);
    }
  std::sort(walked.begin(), walked.end());
  std::size_t open = 0;
  for (std::size_t i = 0; i < walked.size();) {
    int sum = 0;
    const std::uint64_t edge = walked[i].first;
    for (; i < walked.size() && walked[i].first == edge; ++i) sum += walked[i].second;
    open += sum != 0;
  }
  return open;
}

// Source: Ericson, "Real-Time Collision Detection", 2005, section 5.1.5.
Vec3 closest_on(const Vec3& a, const Vec3& b, const Vec3& c, const Vec3& p) {
  const Vec3 ab = b - a, ac = c - a, ap = p - a, bp = p - b, cp = p - c;
  const float d1 = dot(ab, ap), d2 = dot(ac, ap), d3 = dot(ab, bp), d4 = dot(ac, bp), d5 = dot(ab, cp),
              d6 = dot(ac, cp);
  if (d1 <= 0 && d2 <= 0) return a;
  if (d3 >= 0 && d4 <= d3) return b;
  if (d6 >= 0 && d5 <= d6) return c;
  const float vc = d1 * d4 - d3 * d2, vb = d5 * d2 - d1 * d6, va = d3 * d6 - d5 * d4;
  if (vc <= 0 && d1 >= 0 && d3 <= 0) return a + ab * (d1 / (d1 - d3));
  if (vb <= 0 && d2 >= 0 && d6 <= 0) return a + ac * (d2 / (d2 - d6));
  if (va <= 0 && d4 >= d3 && d5 >= d6) return b + (c - b) * ((d4 - d3) / ((d4 - d3) + (d5 - d6)));
  const float by = 1 / (va + vb + vc);
  return a + ab * (vb * by) + ac * (vc * by);
}

struct Grid {
  const Body& body;
  SolidField& field;
  std::vector<Vec3> closest;  // the place of the surface that is nearest to each sample, as far as it is known

  Vec3 place(int x, int y, int z) const {
    return field.first + Vec3{static_cast<float>(x), static_cast<float>(y), static_cast<float>(z)} * field.step;
  }
  // Samples from `low` to `high` along an axis, held within the grid.
  std::pair<int, int> reach(float low, float high, float first, int samples) const {
    const float most = static_cast<float>(samples - 1);
    return {static_cast<int>(std::clamp(std::ceil((low - first) / field.step), 0.0f, most)),
            static_cast<int>(std::clamp(std::floor((high - first) / field.step), 0.0f, most))};
  }
  void offer(std::size_t at, Vec3 sample, Vec3 point) {
    const Vec3 out = sample - point;
    const float square = dot(out, out);
    if (square < field.distance[at]) field.distance[at] = square, closest[at] = point;
  }
  void measure_band(const Triangle& t, int first_layer, int last_layer);
  void count_crossings(const Triangle& t, int first_layer, int last_layer, std::vector<int>& change) const;
  void sweep(std::size_t axis, const Stop& stop);
  void hand_on(std::array<int, 3> to, std::size_t axis, int back);
};

// Squared distances of the samples about one triangle.
void Grid::measure_band(const Triangle& t, int first_layer, int last_layer) {
  const Vec3 a = body.corner[t[0]], b = body.corner[t[1]], c = body.corner[t[2]];
  const float band = kBand * field.step;
  const Vec3 normal = normalised(cross(b - a, c - a));
  const auto range = [&](float p, float q, float r, float first, int samples) {
    return reach(std::min({p, q, r}) - band, std::max({p, q, r}) + band, first, samples);
  };
  const auto [x0, x1] = range(a.x, b.x, c.x, field.first.x, field.samples[0]);
  const auto [y0, y1] = range(a.y, b.y, c.y, field.first.y, field.samples[1]);
  const auto [z0, z1] = range(a.z, b.z, c.z, field.first.z, field.samples[2]);
  for (int z = std::max(z0, first_layer); z <= std::min(z1, last_layer - 1); ++z)
    for (int y = y0; y <= y1; ++y)
      for (int x = x0; x <= x1; ++x) {
        const Vec3 p = place(x, y, z);
        if (std::abs(dot(normal, p - a)) > band) continue;
        offer(static_cast<std::size_t>(field.at(x, y, z)), p, closest_on(a, b, c, p));
      }
}

// Twice the area that a, b and p span seen along x; the same number, bit for bit, for both sides of an edge.
double area_along_x(const Vec3& a, const Vec3& b, double y, double z) {
  const double ay = static_cast<double>(a.y), az = static_cast<double>(a.z);
  return (static_cast<double>(b.y) - ay) * (z - az) - (static_cast<double>(b.z) - az) * (y - ay);
}

// Where rows along x cross the triangle, the winding number of what lies beyond changes by one.
void Grid::count_crossings(const Triangle& t, int first_layer, int last_layer, std::vector<int>& change) const {
  std::array<Vec3, 3> p;
  for (std::size_t k = 0; k < 3; ++k) p[k] = body.corner[t[k]];
  const auto [y0, y1] =
      reach(std::min({p[0].y, p[1].y, p[2].y}), std::max({p[0].y, p[1].y, p[2].y}), field.first.y, field.samples[1]);
  const auto [z0, z1] =
      reach(std::min({p[0].z, p[1].z, p[2].z}), std::max({p[0].z, p[1].z, p[2].z}), field.first.z, field.samples[2]);
  for (int z = std::max(z0, first_layer); z <= std::min(z1, last_layer - 1); ++z)
    for (int y = y0; y <= y1; ++y) {
      const Vec3 row = place(0, y, z);
      std::array<double, 3> share;
      int left = 0;
      for (std::size_t k = 0; k < 3; ++k) {
        const std::size_t i = (k + 1) % 3, j = (k + 2) % 3;
        const bool forwards = t[i] < t[j];
        const double area = forwards ? area_along_x(p[i], p[j], static_cast<double>(row.y), static_cast<double>(row.z))
                                     : area_along_x(p[j], p[i], static_cast<double>(row.y), static_cast<double>(row.z));
        const bool on_left = (area >= 0) == forwards;  // a row through an edge itself crosses one of its sides alone
        left += on_left;
        share[k] = forwards ? area : -area;
      }
      const double sum = share[0] + share[1] + share[2];
      if ((left != 0 && left != 3) || sum == 0) continue;
      double x = 0;
      for (std::size_t k = 0; k < 3; ++k) x += share[k] / sum * static_cast<double>(p[k].x);
      const int beyond =
          static_cast<int>(std::ceil((x - static_cast<double>(row.x)) / static_cast<double>(field.step)));
      if (beyond < field.samples[0])
        change[static_cast<std::size_t>(field.at(std::max(beyond, 0), y, z))] += left == 3 ? 1 : -1;
    }
}

// What the nine samples of the layer behind are nearest to may be nearest to a sample, too.
void Grid::hand_on(std::array<int, 3> to, std::size_t axis, int back) {
  const auto at = static_cast<std::size_t>(field.at(to[0], to[1], to[2]));
  if (field.distance[at] <= kBand * kBand * field.step * field.step) return;
  const Vec3 here = place(to[0], to[1], to[2]);
  // A neighbour that is farther from the surface by more than the two lie apart cannot help.
  const float reach = std::min(std::sqrt(field.distance[at]) + 1.7321f * field.step, 1e8f), most = reach * reach;
  const std::size_t s = (axis + 1) % 3, t = (axis + 2) % 3;
  const int stride[] = {1, field.samples[0], field.samples[0] * field.samples[1]};
  const std::size_t behind = at + static_cast<std::size_t>(back * stride[axis]);
  for (int i = to[s] > 0 ? -1 : 0; i <= (to[s] + 1 < field.samples[s] ? 1 : 0); ++i)
    for (int j = to[t] > 0 ? -1 : 0; j <= (to[t] + 1 < field.samples[t] ? 1 : 0); ++j) {
      const std::size_t from = behind + static_cast<std::size_t>(i * stride[s] + j * stride[t]);
      if (field.distance[from] < most) offer(at, here, closest[from]);
    }
}

// Layer by layer across one axis, there and back; the samples of a layer are independent of each other.
void Grid::sweep(std::size_t axis, const Stop& stop) {
  const std::size_t row = axis == 2 ? 1 : 2, along = 3 - axis - row;
  const int most = field.samples[axis] - 1;
  for (const int back : {-1, 1})
    for (int i = 1; i <= most && !stop.asked(); ++i)
      for_rows(field.samples[row], 16, stop, [&](int first, int last) {
        std::array<int, 3> to{};
        to[axis] = back < 0 ? i : most - i;
        for (to[row] = first; to[row] < last; ++to[row])
          for (to[along] = 0; to[along] < field.samples[along]; ++to[along]) hand_on(to, axis, back);
      });
}

SolidField empty_field(Vec3 size) {
  SolidField field;
  field.size = size;
  field.step = std::max({size.x, size.y, size.z}) / kFieldSamples;
  const auto samples = [&](float side) { return static_cast<int>(std::ceil(side / field.step)) + 2 * kMargin; };
  field.samples = {samples(size.x), samples(size.y), samples(size.z)};
  // Not quite in the middle: a row through a corner, as at the axis of a turned body, would not know its side.
  const auto first = [&](int n, float aside) { return (aside - 0.5f * static_cast<float>(n - 1)) * field.step; };
  field.first = {first(field.samples[0], 0), first(field.samples[1], 0.1379f), first(field.samples[2], 0.0713f)};
  field.distance.assign(static_cast<std::size_t>(field.samples[0]) * static_cast<std::size_t>(field.samples[1]) *
                            static_cast<std::size_t>(field.samples[2]),
                        kNowhere);
  return field;
}

// Squares become distances, below 0 where the winding number is not 0.
void set_signs(SolidField& field, const std::vector<int>& change, int first_layer, int last_layer) {
  auto at = static_cast<std::size_t>(field.at(0, 0, first_layer));
  for (int row = 0; row < (last_layer - first_layer) * field.samples[1]; ++row) {
    int winding = 0;
    for (int x = 0; x < field.samples[0]; ++x, ++at) {
      winding += change[at];
      field.distance[at] = std::sqrt(field.distance[at]) * (winding ? -1.0f : 1.0f);
    }
  }
}

}  // namespace

Result<std::shared_ptr<const SolidField>> solid_field(std::span<const Vec3> position,
                                                      std::span<const Triangle> triangle, const Stop& stop) {
  const Box box = box_about(position, triangle);
  const Error none{"", "the mesh is flat, smaller than a micrometre or larger than 1000 km: it bounds no body",
                   "Use one that is as large as what it stands for"};
  if (!can_hold_a_body(box.size())) return none;
  const Body body = welded(position, triangle, box);
  if (body.triangle.empty()) return none;  // specks, far from each other
  const std::size_t open = open_edges(body);
  if (open > 0)
    return Error{"", std::to_string(open) + " edges of the mesh have no other side: it bounds no body",
                 "Close its holes and turn all its faces outwards where it was made"};
  auto field = std::make_shared<SolidField>(empty_field(body.size));
  Grid grid{body, *field, std::vector<Vec3>(field->distance.size())};
  std::vector<int> change(field->distance.size());
  // Each range of layers takes what it needs of every triangle: the result never depends on how they are shared out.
  for_rows(field->samples[2], 8, stop, [&](int first, int last) {
    for (const Triangle& t : body.triangle) {
      if (stop.asked()) return;
      grid.measure_band(t, first, last);
      grid.count_crossings(t, first, last, change);
    }
  });
  for (const std::size_t axis : {2, 1, 0}) grid.sweep(axis, stop);
  for_rows(field->samples[2], 8, stop, [&](int first, int last) { set_signs(*field, change, first, last); });
  if (stop.asked()) return std::shared_ptr<const SolidField>();
  return std::shared_ptr<const SolidField>(std::move(field));
}

}  // namespace loom
