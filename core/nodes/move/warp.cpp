// Warp: reads a map from places that a second map pushes away, once or in several passes.
#include <algorithm>
#include <cmath>

#include "core/base/parallel.h"
#include "core/nodes/node_call.h"
#include "core/plane/filters.h"

namespace loom {
namespace {

// A slope of 1 over a tenth of the tile moves by the whole amount.
constexpr float kSlopeUnit = 0.1f;

// Where each texel is pushed by the first pass: `by` times two planes, in shares of the tile. Later passes turn it.
struct Push {
  PlanePtr u, v;
  float by;
};

// The drive's value less one half, along one direction; by nothing at all where the drive does not push.
Push push_along(const AreaCall& call, const Plane& drive) {
  const float angle = call.real("direction") * 0.017453292519943f, c = std::cos(angle), s = -std::sin(angle);
  const bool by_angle = call.is("by", "angle");
  auto u = std::make_shared<Plane>(call.size()), v = std::make_shared<Plane>(call.size());
  for_rows(call.size(), 64, call.stop, [&](int first, int last) {
    for (int y = first; y < last; ++y)
      for (int x = 0; x < call.size(); ++x) {
        const float d = by_angle ? drive.row(y)[x] - 0.5f : 0.0f;
        u->row(y)[x] = c * d;
        v->row(y)[x] = s * d;
      }
  });
  return {u, v, call.real("amount")};
}

Push push_of(const AreaCall& call) {
  const float amount = call.real("amount");
  if (const Field* offset = call.is("by", "offset_map") ? call.in("offset") : nullptr)
    return {offset->strand[0], offset->strand[1], amount};
  const PlanePtr drive = call.plane("drive");
  if (!call.is("by", "slope")) return push_along(call, *drive);
  auto u = std::make_shared<Plane>(call.size()), v = std::make_shared<Plane>(call.size());
  slopes(*drive, *u, *v, call.stop);
  return {u, v, amount * kSlopeUnit};
}

void merge(Plane& sum, const Plane& next, const std::string& how, const Stop& stop) {
  for_rows(sum.size(), 64, stop, [&](int first, int last) {
    for (int y = first; y < last; ++y) {
      float* a = sum.row(y);
      const float* b = next.row(y);
      const int size = sum.size();
      if (how == "maximum")
        for (int x = 0; x < size; ++x) a[x] = std::max(a[x], b[x]);
      else if (how == "minimum")
        for (int x = 0; x < size; ++x) a[x] = std::min(a[x], b[x]);
      else if (how == "multiply")
        for (int x = 0; x < size; ++x) a[x] *= b[x];
      else if (how == "screen")
        for (int x = 0; x < size; ++x) a[x] = a[x] + b[x] - a[x] * b[x];
      else if (how == "difference")
        for (int x = 0; x < size; ++x) a[x] = std::abs(a[x] - b[x]);
      else
        for (int x = 0; x < size; ++x) a[x] += b[x];
    }
  });
}

Result<Done> evaluate(AreaCall& call) {
  const Field* source = call.in("source");
  if (!source) {
    call.out("result", Plane::filled(call.size(), call.real("source")));
    return Done{};
  }
  const Push push = push_of(call);
  std::vector<const Plane*> strands;
  for (int i = 0; i < strand_count(source->kind); ++i)
    strands.push_back(source->strand[static_cast<std::size_t>(i)].get());
  const int passes = call.integer("passes");
  const float fan = call.real("fan") * 0.017453292519943f;
  const std::string how = passes > 1 ? call.word("merge") : "mean";
  std::vector<Plane> sum;
  for (int k = 0; k < passes && !call.stop.asked(); ++k) {
    // Round the whole circle the last pass must not repeat the first.
    const float share = std::abs(call.real("fan")) >= 359.99f ? static_cast<float>(k) / static_cast<float>(passes)
                        : passes > 1                          ? static_cast<float>(k) / static_cast<float>(passes - 1)
                                                              : 0;
    std::vector<const Plane*> from = strands;
    if (how == "in_turn" && k > 0)
      for (std::size_t i = 0; i < sum.size(); ++i) from[i] = &sum[i];
    auto next =
        warped(from, {*push.u, *push.v, push.by * std::cos(fan * share), push.by * std::sin(fan * share)}, call.stop);
    if (k == 0 || how == "in_turn")
      sum = std::move(next);
    else
      for (std::size_t i = 0; i < sum.size(); ++i) merge(sum[i], next[i], how, call.stop);
  }
  Field out;
  out.kind = source->kind;
  for (std::size_t i = 0; i < sum.size(); ++i) {
    if (how == "mean" && passes > 1)
      for_rows(call.size(), 64, call.stop, [&](int first, int last) {
        for (int y = first; y < last; ++y)
          for (int x = 0; x < call.size(); ++x) sum[i].row(y)[x] *= 1.0f / static_cast<float>(passes);
      });
    out.strand[i] = std::make_shared<Plane>(std::move(sum[i]));
  }
  call.out("result", std::move(out));
  return call.done();
}

}  // namespace

void add_warp(Catalogue& catalogue) {
  const ActsWhen driven{
      "connected(source) * (connected(drive) * (by != offset_map) + connected(offset) * (by == offset_map))",
      "Connect a source, and what drives it, first."};
  const ActsWhen several{
      "connected(source) * (passes > 1) * (connected(drive) * (by != offset_map) + connected(offset) * (by == "
      "offset_map))",
      "There is only one pass."};
  catalogue.add(
      {.id = "warp",
       .label = "Warp",
       .rack = Rack::move,
       .help = "Pushes a map about by the slopes or the values of another, or by a map of offsets; once, or in passes "
               "round a fan.",
       .more = "By slope: the place moves by amount x slope / 10, slopes per tile width. By angle: along one direction "
               "by the drive's value less one half. By offset map: by its vector. Passes turn the push evenly over the "
               "fan and are merged: the mean is soft, the maximum grows, the minimum eats; in turn, each pass reads "
               "the last. Read bilinear.",
       .words = "distort displace deform bend directional ink",
       .inputs = {{"source", "Source", Kind::any},
                  {"drive", "Drive", Kind::scalar},
                  {"offset", "Offset", Kind::vector2}},
       .outputs = {{"result", "Result", Kind::any}},
       .parameters =
           {{"source",
             "Source",
             ParameterKind::scalar,
             Unit::none,
             0.0,
             {0, 1},
             {-1e6, 1e6},
             "Input",
             {},
             {"connected(source) == 0", "It comes in at its peg."}},
            {"by",
             "By",
             ParameterKind::choice,
             Unit::none,
             std::string("slope"),
             {},
             {},
             "Drive",
             {"slope", "angle", "offset_map"},
             {"connected(source) * max(connected(drive), connected(offset))",
              "Connect a source, and what drives it, first."}},
            {"amount",
             "Amount",
             ParameterKind::scalar,
             Unit::share_of_tile,
             0.02,
             {-0.2, 0.2},
             {-4, 4},
             "Drive",
             {},
             driven},
            {"direction",
             "Direction",
             ParameterKind::scalar,
             Unit::degrees,
             0.0,
             {0, 360},
             {-3600, 3600},
             "Drive",
             {},
             {"(by == angle) * connected(source) * connected(drive)", "The drive gives the direction."}},
            {"passes", "Passes", ParameterKind::integer, Unit::count, 1.0, {1, 8}, {1, 24}, "Fan", {}, driven},
            {"fan", "Fan", ParameterKind::scalar, Unit::degrees, 360.0, {0, 360}, {-360, 360}, "Fan", {}, several},
            {"merge",
             "Merge",
             ParameterKind::choice,
             Unit::none,
             std::string("mean"),
             {},
             {},
             "Fan",
             {"mean", "maximum", "minimum", "multiply", "screen", "difference", "in_turn"},
             several}},
       .evaluate = evaluate});
}

}  // namespace loom
