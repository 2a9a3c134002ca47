// Bevel: a slope along the edge of a mask, inside, outside or on both sides.
#include <algorithm>
#include <cmath>

#include "core/base/parallel.h"
#include "core/nodes/each_strand.h"
#include "core/plane/filters.h"

namespace loom {
namespace {

// The shape of the slope over t = 0 (foot) to 1 (top), read from a table of 1024 places.
std::vector<float> profile(const AreaCall& call) {
  std::vector<float> table(1025);
  const float rounding = call.real("rounding");
  for (std::size_t i = 0; i < table.size(); ++i) {
    const float t = static_cast<float>(i) / 1024;
    const float round = std::sqrt(std::max(0.0f, 1 - (1 - t) * (1 - t)));
    table[i] = t + rounding * (round - t);
  }
  const auto* points = std::get_if<Points>(&call.param("profile"));
  if (!points || points->size() < 2) return table;
  const auto curve = smooth_curve(*points);
  Builder b(1);
  b.store(b.apply(Op::curve, {b.attribute(0)}, curve, 1)[0], 0);
  std::vector<float> shaped(table.size());
  const float* in = table.data();
  float* out = shaped.data();
  run_samples(b.build(), table.size(), {&in, 1}, {&out, 1});
  return shaped;
}

Result<Done> evaluate(AreaCall& call) {
  const PlanePtr mask = call.plane("mask");
  const int size = call.size();
  const float width = std::max(call.real("width") * static_cast<float>(size), 1e-3f);
  const bool inside = !call.is("side", "outside"), outside = !call.is("side", "inside");
  const auto table = profile(call);
  Plane within, beyond;
  if (inside) within = edge_distance(*mask, true, width + 2, call.stop);
  if (outside) beyond = edge_distance(*mask, false, width + 2, call.stop);
  Plane height(size);
  for_rows(size, 16, call.stop, [&](int first, int last) {
    for (int y = first; y < last; ++y)
      for (int x = 0; x < size; ++x) {
        // Signed distance from the edge, positive inside, in shares of the slope.
        const float d = (inside ? within.row(y)[x] : 0) - (outside ? beyond.row(y)[x] : 0);
        const float base = inside && outside ? 0.5f + 0.5f * d / width : inside ? d / width : 1 + d / width;
        const float at = std::clamp(base, 0.0f, 1.0f) * 1024;
        const auto i = std::min(static_cast<std::size_t>(at), std::size_t{1023});
        const float t = at - static_cast<float>(i);
        height.row(y)[x] = table[i] + (table[i + 1] - table[i]) * t;
      }
  });
  if (call.real("width") <= 0) height = mask->clone();
  if (call.wanted("normal")) {
    auto n = normals(height, static_cast<float>(call.measures().relief_metres / call.measures().tile_metres), call.stop);
    Field normal;
    normal.kind = Kind::normal;
    for (std::size_t i = 0; i < 3; ++i) normal.strand[i] = std::make_shared<Plane>(std::move(n[i]));
    call.out("normal", std::move(normal));
  }
  call.out("height", std::move(height));
  return call.done();
}

}  // namespace

void add_bevel(Catalogue& catalogue) {
  const ActsWhen wide{"(width > 0) * connected(mask)", "A bevel of width 0, or without a mask, has no slope."};
  catalogue.add({.id = "bevel", .label = "Bevel", .rack = Rack::edge, .help = "Slopes along the edge of a mask, as height and as normal.",
    .more = "Exact distances on the torus with the edge placed inside a texel by its coverage (Gustavson and Strand 2011). Width 0 is no bevel.",
    .words = "chamfer edge round slope emboss",
    .inputs = {{"mask", "Mask"}}, .outputs = {{"height", "Height"}, {"normal", "Normal", Kind::normal}},
    .parameters = {
      {"mask", "Mask", ParameterKind::scalar, Unit::none, 0.0, {0, 1}, {0, 1}, "Input", {}, {"connected(mask) == 0", "It comes in at its peg."}},
      {"side", "Side", ParameterKind::choice, Unit::none, std::string("inside"), {}, {}, "Slope", {"inside", "outside", "both"}, wide},
      {"width", "Width", ParameterKind::scalar, Unit::share_of_tile, 0.016, {0, 0.1}, {0, 0.5}, "Slope", {}, {"connected(mask)", "There is no edge: connect a mask."}},
      {"rounding", "Rounding", ParameterKind::scalar, Unit::share, 0.5, {0, 1}, {0, 1}, "Profile", {}, wide},
      {"profile", "Profile", ParameterKind::points, Unit::none, Points{}, {0, 1}, {-100, 100}, "Profile", {}, wide}},
    .evaluate = evaluate});
}

}  // namespace loom
