// Whether the maps close, are fine enough and no finer than they can hold, and nothing in them shows as a grid.
#include <cmath>

#include "core/base/parallel.h"
#include "core/graph/hem.h"
#include "core/nodes/oklab.h"
#include "core/plane/filters.h"
#include "core/plane/seam.h"
#include "core/proof/grade.h"

namespace loom {
namespace {

// Calls `take(slot, plane, strand)` for every strand of every slot, as it is delivered.
template <class Take>
void each_plane(const std::map<std::string, Field>& slots, const Take& take) {
  for (const auto& [slot, field] : slots)
    for (std::size_t k = 0; k < 3; ++k)
      if (field.strand[k] && field.kind != Kind::regions) take(slot, as_delivered(slot, *field.strand[k]), k);
}

Finding worst_of(std::optional<Finding> so_far, Finding next) {
  return so_far ? worse(*std::move(so_far), std::move(next)) : std::move(next);
}

}  // namespace

// The differences over the tile's edges, ranked among all lines inside: a joint that lies on the edge is no seam.
std::optional<Finding> edges(const Judged& j, const Stop& stop) {
  std::optional<Finding> worst;
  each_plane(j.slots, [&](const std::string& slot, const Plane& plane, std::size_t) {
    if (stop.asked()) return;
    const SeamFigures s = seam_figures(plane, stop);
    constexpr float kNoStep = 1e-4f;
    const auto ratio = [](float at_edge, float inside) {
      return at_edge < kNoStep ? 0.0 : static_cast<double>(at_edge / std::max(inside, 1e-6f));
    };
    const double over = std::max(ratio(s.first, s.most_first), ratio(s.second, s.most_second));
    Finding f = within(slot, std::min(over, 1000.0), 1.5, 1.5);
    f.told = "the edge steps " + figure_text(f.figure) + " times as far as the worst line inside, limit 1.5";
    f.places = {s.over_u ? Place{0, 0.5} : Place{0.5, 0}};
    worst = worst_of(std::move(worst), std::move(f));
  });
  return worst;
}

namespace {

constexpr int kRun = 32;  // texels

// Whether a run rises or falls evenly, and if so, whether in few steps with even ground between them. The soft edge of
// a mask is one step.
enum class RunForm { other, smooth, stepped };
RunForm form_of(const float* at, std::ptrdiff_t step) {
  float least = at[0], most = at[0], way = 0, longest = 0;
  int moves = 0, steps = 0;
  bool moved = false;
  for (int i = 1; i < kRun; ++i) {
    const float x = at[i * step], d = std::abs(x - at[(i - 1) * step]);
    least = std::min(least, x), most = std::max(most, x);
    way += d, longest = std::max(longest, d);
    moves += d > 1e-7f;
    steps += d > 1e-7f && !moved;
    moved = d > 1e-7f;
  }
  const float range = most - least;
  if (range < 1e-3f || way > 1.1f * range || longest > 0.36f * range) return RunForm::other;
  if (moves > kRun / 3) return RunForm::smooth;
  return steps >= 3 ? RunForm::stepped : RunForm::other;
}

}  // namespace

std::optional<Finding> banding(const Judged& j, const Stop& stop) {
  std::optional<Finding> worst;
  each_plane(j.slots, [&](const std::string& slot, const Plane& plane, std::size_t) {
    if (stop.asked()) return;
    const int n = plane.size();
    if (n < 2 * kRun) return;
    int smooth = 0, stepped = 0;
    std::vector<char> where(static_cast<std::size_t>(n / kRun) * static_cast<std::size_t>(n / kRun), 0);
    const auto count = [&](int x, int y, bool down) {
      const RunForm form = form_of(plane.row(y) + x, down ? n : 1);
      smooth += form == RunForm::smooth;
      stepped += form == RunForm::stepped;
      if (form == RunForm::stepped) where[static_cast<std::size_t>((y / kRun) * (n / kRun) + x / kRun)] = 1;
    };
    for (int a = 0; a + kRun <= n; a += kRun)
      for (int b = 0; b < n; b += 4) count(a, b, false), count(b, a, true);
    if (smooth + stepped < 24) return;
    Finding f = within(slot, static_cast<double>(stepped) / (smooth + stepped), 0.1, 0.5);
    f.told =
        figure_text(100 * f.figure) + " % of what is smooth goes in steps, limit " + figure_text(100 * f.limit) + " %";
    f.places = worst_places(n, 0.5f, [&](int x, int y) {
      return static_cast<float>(where[static_cast<std::size_t>((y / kRun) * (n / kRun) + x / kRun)]);
    });
    f.radius = 0.5 * kRun / n;
    worst = worst_of(std::move(worst), std::move(f));
  });
  return worst;
}

namespace {

// How light the colour looks; without one the height.
std::optional<Plane> lightness(const Judged& j) {
  const Field* colour = j.slot("base_colour");
  if (!colour) {
    const Field* height = j.slot("height");
    return height ? std::optional(height->strand[0]->clone()) : std::nullopt;
  }
  Plane out(colour->size());
  for_rows(out.size(), 16, Stop{}, [&](int first, int last) {
    for (int y = first; y < last; ++y)
      for (int x = 0; x < out.size(); ++x) {
        std::array<double, 3> rgb;
        for (std::size_t k = 0; k < 3; ++k) rgb[k] = std::max(0.0, static_cast<double>(colour->strand[k]->at(x, y)));
        out.at(x, y) = static_cast<float>(oklab_from_linear(rgb)[0]);
      }
  });
  return out;
}

struct Standout {
  int x, y;
  float contrast;
};

// Patches by how far they stand out from what is around them, none within a reach of another.
std::vector<Standout> standouts(const Plane& contrast, int reach) {
  const int n = contrast.size();
  std::vector<Standout> tops;
  for (int y = 0; y < n; ++y)
    for (int x = 0; x < n; ++x) {
      const float c = std::abs(contrast.at(x, y));
      const auto at = [&](int dx, int dy) { return std::abs(contrast.at(wrap(x + dx, n), wrap(y + dy, n))); };
      if (c >= at(1, 0) && c > at(-1, 0) && c >= at(0, 1) && c > at(0, -1)) tops.push_back({x, y, c});
    }
  std::stable_sort(tops.begin(), tops.end(),
                   [](const Standout& a, const Standout& b) { return a.contrast > b.contrast; });
  std::vector<Standout> apart;
  for (const Standout& t : tops) {
    const auto near = [&](const Standout& o) {
      const int dx = std::abs(o.x - t.x), dy = std::abs(o.y - t.y);
      return std::hypot(std::min(dx, n - dx), std::min(dy, n - dy)) < reach;
    };
    if (std::none_of(apart.begin(), apart.end(), near)) apart.push_back(t);
    if (apart.size() == 8) break;
  }
  return apart;
}

}  // namespace

// Over many repeats the eye is caught by the one patch that no other is like: the strongest contrast to what is around,
// at two widths, against the third to sixth strongest of the tile. Where several stand out alike the grid they make is
// finer than the tile.
std::optional<Finding> repetition(const Judged& j, const Stop& stop) {
  auto full = lightness(j);
  if (!full) return {};
  Plane light = std::move(*full);
  while (light.size() > 256) light = reduced(light);
  std::optional<Finding> worst;
  for (const float sigma : {0.02f, 0.05f}) {
    Plane contrast = blurred(light, sigma, stop);
    const Plane around = blurred(light, 3 * sigma, stop);
    if (stop.asked()) return {};
    for (std::size_t i = 0; i < contrast.texels(); ++i) contrast.data()[i] -= around.data()[i];
    const auto tops = standouts(contrast, static_cast<int>(3 * sigma * static_cast<float>(light.size())));
    if (tops.size() < 6) continue;
    const float others = (tops[2].contrast + tops[3].contrast + tops[4].contrast + tops[5].contrast) / 4;
    constexpr float kSeen = 0.03f;  // of Oklab's lightness, some three times what is just told apart side by side
    const double ratio =
        tops[0].contrast < kSeen ? 1 : static_cast<double>(tops[0].contrast / std::max(others, 0.4f * kSeen));
    Finding f = within("base_colour", ratio, 2.2, 4);
    f.slot = j.slot("base_colour") ? "base_colour" : "height";
    f.told =
        "one patch stands out " + figure_text(ratio) + " times as much as the next ones, limit " + figure_text(f.limit);
    f.places = {{(tops[0].x + 0.5) / light.size(), (tops[0].y + 0.5) / light.size()}};
    f.radius = 1.8 * static_cast<double>(sigma);
    worst = worst_of(std::move(worst), std::move(f));
  }
  return worst;
}

// The law of sizes: a map at one size is what it is at another, texel by texel, but for what the smaller cannot hold.
std::optional<Finding> two_sizes(const Judged& j, const Stop& stop) {
  std::optional<Finding> worst;
  for (const auto& [slot, field] : j.slots) {
    const auto small = j.small.find(slot);
    if (small == j.small.end() || stop.asked()) continue;
    double square = 0;
    int strands = 0;
    Plane off = Plane::filled(small->second.size(), 0);
    for (std::size_t k = 0; k < 3; ++k) {
      if (!field.strand[k] || !small->second.strand[k]) continue;
      // The mean of what is woven: colours linear, and only then encoded.
      Plane large = field.strand[k]->clone();
      while (large.size() > off.size()) large = reduced(large);
      const Plane a = as_delivered(slot, large), b = as_delivered(slot, *small->second.strand[k]);
      for (std::size_t i = 0; i < a.texels(); ++i) {
        const float d = a.data()[i] - b.data()[i];
        off.data()[i] += d * d;
        square += static_cast<double>(d) * static_cast<double>(d);
      }
      ++strands;
    }
    if (!strands) continue;
    Finding f = within(slot, std::sqrt(square / (static_cast<double>(off.texels()) * strands)), 0.1, 0.2);
    f.told =
        "differs by " + figure_text(100 * f.figure) + " % of the range, limit " + figure_text(100 * f.limit) + " %";
    f.places = worst_places(off.size(), 0.01f, [&](int x, int y) { return off.at(x, y); });
    worst = worst_of(std::move(worst), std::move(f));
  }
  return worst;
}

// Half the mean square of the step from texel to texel, as a share of the variance: 1 for values that know nothing of
// their neighbours, 0 for what is smooth. Source: the ratio of von Neumann, Annals of Mathematical Statistics 12, 1941.
std::optional<Finding> finer_than_map(const Judged& j, const Stop& stop) {
  std::optional<Finding> worst;
  each_plane(j.slots, [&](const std::string& slot, const Plane& plane, std::size_t) {
    if (stop.asked()) return;
    const int n = plane.size();
    double sum = 0, square = 0, steps = 0;
    for (int y = 0; y < n; ++y)
      for (int x = 0; x < n; ++x) {
        const double v = static_cast<double>(plane.at(x, y));
        const double du = static_cast<double>(plane.at(wrap(x + 1, n), y)) - v,
                     dv = static_cast<double>(plane.at(x, wrap(y + 1, n))) - v;
        sum += v, square += v * v, steps += (du * du + dv * dv) / 2;
      }
    const double texels = static_cast<double>(n) * n, variance = square / texels - (sum / texels) * (sum / texels);
    if (variance < 1e-6) return;
    Finding f = within(slot, steps / texels / 2 / variance, 0.5, 0.8);
    f.told = "neighbours differ by " + figure_text(f.figure) + " of what strangers do, limit " + figure_text(f.limit);
    worst = worst_of(std::move(worst), std::move(f));
  });
  return worst;
}

}  // namespace loom
