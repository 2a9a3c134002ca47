// Whether the numbers are ones that surfaces have.
#include <cmath>

#include "core/plane/filters.h"
#include "core/proof/grade.h"

namespace loom {
namespace {

constexpr double kFew = 0.001;  // a share of the texels that nobody sees

float brightest(const Field& colour, int x, int y) {
  return std::max({colour.strand[0]->at(x, y), colour.strand[1]->at(x, y), colour.strand[2]->at(x, y)});
}

// Whether a texel is metal; without the slot none is.
bool is_metal(const Judged& j, int x, int y) {
  const Field* metallic = j.slot("metallic");
  return metallic && metallic->strand[0]->at(x, y) >= 0.5f;
}

// The brightest channel of the texels that are metal, or are not.
std::vector<float> reflectances(const Judged& j, const Field& colour, bool metal) {
  std::vector<float> all;
  const int n = colour.size();
  for (int y = 0; y < n; ++y)
    for (int x = 0; x < n; ++x)
      if (is_metal(j, x, y) == metal) all.push_back(brightest(colour, x, y));
  if (static_cast<double>(all.size()) < kFew * n * n) all.clear();
  return all;
}

// Black all over, so that nothing but its own light is seen.
bool shines_alone(const Judged& j, const std::vector<float>& reflected) {
  const bool black = std::ranges::all_of(reflected, [](float x) { return x == 0; });
  return black && (j.material.hem.count("emissive") || j.material.hem_values.count("emissive"));
}

}  // namespace

// Fresh snow returns 0.80 to 0.95 of the light, the most of any natural ground, and dark wet soil 0.05. Source: Oke,
// "Boundary Layer Climates", 2nd edition 1987, table 1.1 (from memory). What stands above 0.9 or below 0.003 all over
// some area is no surface. That colours stay within 0.01 and 0.8 is common practice, no source.
std::optional<Finding> base_colour_range(const Judged& j, const Stop&) {
  const Field* colour = j.slot("base_colour");
  if (!colour) return {};
  std::vector<float> all = reflectances(j, *colour, false);
  if (all.empty() || shines_alone(j, all)) return {};
  Finding bright = within("base_colour", static_cast<double>(percentile(all, 1 - 5 * kFew)), 0.8, 0.9);
  Finding dark = reaching("base_colour", static_cast<double>(percentile(all, 5 * kFew)), 0.01, 0.003);
  const auto limit = static_cast<float>(bright.limit), floor = static_cast<float>(dark.limit);
  bright.places = worst_places(colour->size(), limit,
                               [&](int x, int y) { return is_metal(j, x, y) ? 0 : brightest(*colour, x, y); });
  dark.places = worst_places(colour->size(), -floor,
                             [&](int x, int y) { return is_metal(j, x, y) ? -1 : -brightest(*colour, x, y); });
  return worse(std::move(bright), std::move(dark));
}

// Titanium, about the darkest of the bare metals in use, reflects 0.5 of the light at normal incidence. Source: n and k
// in Palik, "Handbook of Optical Constants of Solids" (from memory). Half of it is left for tarnish.
std::optional<Finding> metal_range(const Judged& j, const Stop&) {
  const Field* colour = j.slot("base_colour");
  if (!colour) return {};
  std::vector<float> all = reflectances(j, *colour, true);
  if (all.empty()) return {};
  Finding f = reaching("base_colour", static_cast<double>(percentile(all, 0.05)), 0.25, 0.1);
  const auto floor = static_cast<float>(f.limit);
  f.places = worst_places(colour->size(), -floor,
                          [&](int x, int y) { return is_metal(j, x, y) ? -brightest(*colour, x, y) : -1e9f; });
  return f;
}

// At 0 a mirror that no lamp shows in, as the highlight is narrower than a texel is seen: common practice, no source.
std::optional<Finding> roughness_range(const Judged& j, const Stop&) {
  const Field* rough = j.slot("roughness");
  if (!rough) return {};
  const Plane& p = *rough->strand[0];
  std::vector<float> all(p.data(), p.data() + p.texels());
  const auto outside = [&](int x, int y) { return std::max(-p.at(x, y), p.at(x, y) - 1); };
  const Range range = range_of(p);
  Finding beyond = within("roughness", static_cast<double>(std::max({0.0f, -range.least, range.most - 1})), 1e-4, 1e-3);
  beyond.places = worst_places(p.size(), 1e-3f, outside);
  if (beyond.verdict != Verdict::pass) {
    beyond.told = "outside of 0 to 1 by " + figure_text(beyond.figure);
    return beyond;
  }
  Finding smooth = reaching("roughness", static_cast<double>(percentile(all, 5 * kFew)), 0.03, 0.005);
  const auto floor = static_cast<float>(smooth.limit);
  smooth.places = worst_places(p.size(), -floor, [&](int x, int y) { return -p.at(x, y); });
  return smooth;
}

std::optional<Finding> normal_length(const Judged& j, const Stop&) {
  const Field* normal = j.slot("normal");
  if (!normal || !normal->strand[2]) return {};
  const auto off = [&](int x, int y) {
    const float a = normal->strand[0]->at(x, y), b = normal->strand[1]->at(x, y), c = normal->strand[2]->at(x, y);
    return c <= 0 ? 1.0f : std::abs(std::sqrt(a * a + b * b + c * c) - 1);  // one that faces inwards is none
  };
  float most = 0;
  for (int y = 0; y < normal->size(); ++y)
    for (int x = 0; x < normal->size(); ++x) most = std::max(most, off(x, y));
  Finding f = within("normal", static_cast<double>(most), 0.002, 0.01);
  f.places = worst_places(normal->size(), static_cast<float>(f.limit), off);
  return f;
}

std::optional<Finding> height_range(const Judged& j, const Stop&) {
  const Field* height = j.slot("height");
  if (!height) return {};
  const Plane& p = *height->strand[0];
  const auto outside = [&](int x, int y) { return std::max(-p.at(x, y), p.at(x, y) - 1); };
  const Range range = range_of(p);
  Finding beyond = within("height", static_cast<double>(std::max({0.0f, -range.least, range.most - 1})), 1e-4, 1e-3);
  beyond.told = "outside of 0 to 1 by " + figure_text(beyond.figure);
  beyond.places = worst_places(p.size(), 1e-3f, outside);
  std::vector<float> all(p.data(), p.data() + p.texels());
  const double low = static_cast<double>(percentile(all, kFew)), high = static_cast<double>(percentile(all, 1 - kFew));
  Finding used = reaching("height", high - low, 0.1, 0.01);
  used.told = "uses " + figure_text(100 * (high - low)) + " % of its range, at least " + figure_text(100 * used.limit);
  if (high - low < 1e-6) used.verdict = Verdict::pass, used.told = "even";  // a flat sheet is what it is
  return beyond.verdict != Verdict::pass ? beyond : used;
}

// Slopes read from the normals against those of the height. They agree in direction on both axes and in size; one axis
// turned is a map with green the wrong way, both turned a height upside down.
std::optional<Finding> normal_height(const Judged& j, const Stop& stop) {
  const Field *height = j.slot("height"), *normal = j.slot("normal");
  if (!height || !normal || !normal->strand[2]) return {};
  const int n = height->size();
  Plane du(n), dv(n);
  slopes(*height->strand[0], du, dv, stop);
  if (stop.asked()) return {};
  const double depth = j.material.relief_metres / j.material.tile_metres;
  struct Axis {
    double hh = 0, nn = 0, hn = 0;
    double agreement() const { return hn / std::sqrt(std::max(1e-30, hh * nn)); }
  } along[2];
  constexpr double kSteepest = 2;  // walls, of which a texel's normal knows only the half, have no more say than slopes
  const auto bounded = [&](double s) { return std::clamp(s, -kSteepest, kSteepest); };
  const auto normal_slope = [&](int axis, int x, int y) {
    const double z = std::max(0.05, static_cast<double>(normal->strand[2]->at(x, y)));
    return axis == 0 ? bounded(static_cast<double>(-normal->strand[0]->at(x, y)) / z)
                     : bounded(static_cast<double>(normal->strand[1]->at(x, y)) / z);
  };
  for (int y = 0; y < n; ++y)
    for (int x = 0; x < n; ++x)
      for (int a = 0; a < 2; ++a) {
        const double h = bounded(depth * static_cast<double>((a == 0 ? du : dv).at(x, y))), s = normal_slope(a, x, y);
        along[a].hh += h * h, along[a].nn += s * s, along[a].hn += h * s;
      }
  const double texels = static_cast<double>(n) * n, least = 1e-8 * texels;  // 1 in 10 000 is flat
  if (along[0].hh + along[1].hh < least || along[0].nn + along[1].nn < least) return {};
  double agreement = 1;
  for (const Axis& a : along)
    if (a.hh > least / 10 && a.nn > least / 10) agreement = std::min(agreement, a.agreement());
  Finding direction = reaching("normal", agreement, 0.5, 0);
  direction.told = "slopes agree by " + figure_text(agreement) + ", at least " + figure_text(direction.limit);
  direction.places = worst_places(n, 1e-6f, [&](int x, int y) {
    float off = 0;
    for (int a = 0; a < 2; ++a)
      off += static_cast<float>(
          std::abs(bounded(depth * static_cast<double>((a == 0 ? du : dv).at(x, y))) - normal_slope(a, x, y)));
    return off;
  });
  const double scale = std::sqrt((along[0].nn + along[1].nn) / (along[0].hh + along[1].hh));
  Finding size = within("normal", std::max(scale, 1 / scale), 3, 12);
  size.told = "as steep as " + figure_text(scale) + " times the height, limit " + figure_text(size.limit);
  size.places = direction.places;
  return direction.verdict == Verdict::pass && size.verdict == Verdict::pass ? direction
         : direction.verdict >= size.verdict                                 ? direction
                                                                             : size;
}

}  // namespace loom
