// The distance from the edge of a mask, found as a line through each texel that the edge passes.
#include <algorithm>
#include <array>
#include <cmath>
#include <optional>
#include <vector>

#include "core/base/parallel.h"
#include "core/plane/filters.h"

namespace loom {
namespace {

// A piece of the edge in or beside a texel.
struct EdgeLine {
  float nu = 0,
        nv = 0;    // unit normal towards what is measured, u right and v down; none where the edge has no direction
  float away = 0;  // from the texel's centre to the line, along the normal
  float half = 0;  // how far the line is straight on both sides: not at all at a corner
};

// How far the edge is from the centre of a texel that it leaves covered by `coverage`, along its normal.
// Source: Gustavson and Strand, "Anti-aliased Euclidean distance transform", 2011.
float edge_away(float nu, float nv, float coverage) {
  const float g = std::max(std::abs(nu), std::abs(nv)), l = std::min(std::abs(nu), std::abs(nv)), corner = 0.5f * l / g;
  if (coverage < corner) return 0.5f * (g + l) - std::sqrt(2 * g * l * coverage);
  if (coverage <= 1 - corner) return (0.5f - coverage) * g;
  return std::sqrt(2 * g * l * (1 - coverage)) - 0.5f * (g + l);
}

// A Gaussian of 1.2 texels: wider ones see an edge's curve, narrower ones its steps.
constexpr int kAbout = 3;
constexpr float kSigma = 1.2f;
constexpr std::array<float, kAbout + 1> kBell{1, 0.7066483f, 0.2493522f, 0.0439369f};
constexpr float kWhole = 1 + 2 * (kBell[1] + kBell[2] + kBell[3]),
                kStraight = kWhole * (kBell[1] + 2 * kBell[2] + 3 * kBell[3]);  // its slope at a straight edge

class Edges {
 public:
  Edges(const Plane& mask, bool inside) : mask_(mask), inside_(inside) {}
  /// What is measured counts as covered.
  float coverage(int x, int y) const {
    const float m = std::clamp(mask_.row(wrap(y, mask_.size()))[wrap(x, mask_.size())], 0.0f, 1.0f);
    return inside_ ? m : 1 - m;
  }
  /// Beyond the edge: a coverage of exactly one half counts as inside the mask.
  bool beyond(int x, int y) const {
    const bool in = mask_.row(wrap(y, mask_.size()))[wrap(x, mask_.size())] >= 0.5f;
    return inside_ ? !in : in;
  }
  EdgeLine line_at(int x, int y) const {
    float gu = 0, gv = 0;
    for (int j = -kAbout; j <= kAbout; ++j)
      for (int i = -kAbout; i <= kAbout; ++i) {
        const float w = kBell[static_cast<std::size_t>(std::abs(i))] * kBell[static_cast<std::size_t>(std::abs(j))] *
                        coverage(x + i, y + j);
        gu += w * static_cast<float>(i), gv += w * static_cast<float>(j);
      }
    const float length = std::hypot(gu, gv);
    if (length < 0.2f * kStraight) return {};
    EdgeLine line{gu / length, gv / length, 0, 0};
    const float here = coverage(x, y), step_u = std::round(line.nu), step_v = std::round(line.nv),
                beside = coverage(x + static_cast<int>(step_u), y + static_cast<int>(step_v));
    // The texel beside it may hold more of the edge.
    if (std::abs(beside - 0.5f) < std::abs(here - 0.5f))
      line.away = edge_away(line.nu, line.nv, beside) + line.nu * step_u + line.nv * step_v;
    else
      line.away = edge_away(line.nu, line.nv, here);
    const float expected = kStraight * std::exp(-0.5f * line.away * line.away / (kSigma * kSigma));
    line.half = 0.7f * std::clamp(5 * (length / expected - 0.75f), 0.0f, 1.0f);
    return line;
  }

  /// Of a texel that the edge itself passes, straight.
  std::optional<float> own_distance(int x, int y) const {
    if (const float c = coverage(x, y); c < 0.01f || c > 0.99f) return std::nullopt;
    const EdgeLine line = line_at(x, y);
    return line.half > 0 ? std::optional(std::max(0.0f, -line.away)) : std::nullopt;
  }

 private:
  const Plane& mask_;
  bool inside_;
};

// The line of every texel beyond the edge that has one within it about it.
class EdgeLines {
 public:
  /// `beyond`: 1 beyond the edge, 0 within.
  EdgeLines(const Edges& edges, const Plane& beyond, const Stop& stop)
      : size_(beyond.size()), at_(pooled<std::int32_t>(beyond.texels())), rows_(static_cast<std::size_t>(size_)) {
    for_rows(size_, 16, stop, [&](int first, int last) {
      for (int y = first; y < last; ++y) find_row(edges, beyond, y);
    });
  }
  const EdgeLine* find(std::int32_t texel) const {
    const std::int32_t k = texel < 0 ? -1 : at_[static_cast<std::size_t>(texel)];
    return k < 0 ? nullptr : &rows_[static_cast<std::size_t>(texel / size_)][static_cast<std::size_t>(k)];
  }

 private:
  void find_row(const Edges& edges, const Plane& beyond, int y) {
    const float *up = beyond.row(wrap(y - 1, size_)), *mid = beyond.row(y), *down = beyond.row(wrap(y + 1, size_));
    auto& row = rows_[static_cast<std::size_t>(y)];
    std::int32_t* at = at_.get() + static_cast<std::size_t>(y) * static_cast<std::size_t>(size_);
    const auto column = [&](int x) { return up[x] + mid[x] + down[x]; };
    for (int x = 0; x < size_; ++x) {
      const bool edge = mid[x] > 0 && column(wrap(x - 1, size_)) + column(x) + column(wrap(x + 1, size_)) < 9;
      at[x] = edge ? static_cast<std::int32_t>(row.size()) : -1;
      if (edge) row.push_back(edges.line_at(x, y));
    }
  }
  int size_;
  Pooled<std::int32_t> at_;
  std::vector<std::vector<EdgeLine>> rows_;
};

// From texel (x, y) to the edge: the line of the nearest texel says where the foot is, and the line there where it is
// more closely. `least` is what is known without the lines.
float distance_of(int x, int y, const DistanceField& field, const EdgeLines& lines, float least) {
  constexpr int kSteps = 4;
  const int size = field.distance.size();
  const auto texel_of = [&](int u, int v) {
    return field.nearest[static_cast<std::size_t>(wrap(v, size)) * static_cast<std::size_t>(size) +
                         static_cast<std::size_t>(wrap(u, size))];
  };
  const auto near = [&](int k) { return k > size / 2 ? k - size : k < -size / 2 ? k + size : k; };
  std::int32_t texel = texel_of(x, y), before = -1;
  float best = kFar;
  for (int step = 0; step < kSteps && texel != before; ++step) {
    const EdgeLine* line = lines.find(texel);
    if (!line) break;
    const auto du = static_cast<float>(near(x - texel % size)), dv = static_cast<float>(near(y - texel / size));
    if (line->nu == 0 && line->nv == 0) return std::min(best, least);
    const float along = du * line->nu + dv * line->nv - line->away,
                aside = std::max(0.0f, std::abs(du * line->nv - dv * line->nu) - line->half),
                here = std::hypot(along, aside);
    if (here >= best) break;
    best = here;
    before = texel;
    texel = texel_of(static_cast<int>(std::lround(static_cast<float>(x) - along * line->nu)),
                     static_cast<int>(std::lround(static_cast<float>(y) - along * line->nv)));
  }
  return best < kFar ? best : least;
}

}  // namespace

Plane edge_distance(const Plane& mask, bool inside, float limit, const Stop& stop) {
  const int size = mask.size();
  const Edges edges(mask, inside);
  Plane beyond(size), out(size);
  for_rows(size, 64, stop, [&](int first, int last) {
    for (int y = first; y < last; ++y)
      for (int x = 0; x < size; ++x) beyond.row(y)[x] = edges.beyond(x, y) ? 1.0f : 0.0f;
  });
  const DistanceField field = distance_to(beyond, 0.5f, stop, limit);
  const EdgeLines lines(edges, beyond, stop);
  for_rows(size, 16, stop, [&](int first, int last) {
    for (int y = first; y < last; ++y)
      for (int x = 0; x < size; ++x) {
        const float d = field.distance.row(y)[x];
        if (d <= 0 || d > limit)
          out.row(y)[x] = d;
        else if (const auto own = edges.own_distance(x, y))
          out.row(y)[x] = *own;
        else
          out.row(y)[x] = distance_of(x, y, field, lines, d - 0.5f);
      }
  });
  return out;
}

}  // namespace loom
