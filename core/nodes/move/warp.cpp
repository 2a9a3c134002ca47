// Warp: reads a map from places that a second map pushes away.
#include <cmath>
#include <cstring>

#include "core/nodes/node_call.h"
#include "core/plane/filters.h"

namespace loom {
namespace {

// A slope of 1 over a tenth of the tile moves by the whole amount.
constexpr float kSlopeUnit = 0.1f;

Result<Done> evaluate(AreaCall& call) {
  const Field* source = call.in("source");
  if (!source) {
    call.out("result", Plane::filled(call.size(), call.real("source")));
    return Done{};
  }
  const PlanePtr drive = call.plane("drive");
  const float amount = call.real("amount"), angle = call.real("direction") * 0.017453292519943f;
  const int size = call.size();
  const bool by_slope = call.is("by", "slope");
  Plane slope_u, slope_v;
  if (by_slope) {
    slope_u = Plane(size);
    slope_v = Plane(size);
    slopes(*drive, slope_u, slope_v, call.stop);
  }
  const auto offsets = [&](int y, float* du, float* dv) {
    const float* a = by_slope ? slope_u.row(y) : drive->row(y);
    const float* b = by_slope ? slope_v.row(y) : nullptr;
    const float k = by_slope ? amount * kSlopeUnit : amount, c = k * std::cos(angle), s = -k * std::sin(angle);
    if (by_slope) for (int x = 0; x < size; ++x) du[x] = k * a[x], dv[x] = k * b[x];
    else for (int x = 0; x < size; ++x) du[x] = c * (a[x] - 0.5f), dv[x] = s * (a[x] - 0.5f);
  };
  std::vector<const Plane*> strands;
  for (int i = 0; i < strand_count(source->kind); ++i) strands.push_back(source->strand[static_cast<std::size_t>(i)].get());
  auto moved = warped(strands, offsets, call.stop);
  Field out;
  out.kind = source->kind;
  for (std::size_t i = 0; i < moved.size(); ++i) out.strand[i] = std::make_shared<Plane>(std::move(moved[i]));
  call.out("result", std::move(out));
  return call.done();
}

}  // namespace

void add_warp(Catalogue& catalogue) {
  const ActsWhen both{"connected(source) * connected(drive)", "Connect a source and a drive first."};
  catalogue.add({.id = "warp", .label = "Warp", .rack = Rack::move, .help = "Pushes a map about by the slopes or the values of another.",
    .more = "By slope: the place moves by amount x slope / 10, slopes per tile width. By angle: along one direction by the drive's value less one half. Read bilinear.",
    .words = "distort displace deform bend directional",
    .inputs = {{"source", "Source", Kind::any}, {"drive", "Drive", Kind::scalar}}, .outputs = {{"result", "Result", Kind::any}},
    .parameters = {
      {"source", "Source", ParameterKind::scalar, Unit::none, 0.0, {0, 1}, {-1e6, 1e6}, "Input", {}, {"connected(source) == 0", "It comes in at its peg."}},
      {"by", "By", ParameterKind::choice, Unit::none, std::string("slope"), {}, {}, "Drive", {"slope", "angle"}, both},
      {"amount", "Amount", ParameterKind::scalar, Unit::share_of_tile, 0.02, {-0.2, 0.2}, {-4, 4}, "Drive", {}, both},
      {"direction", "Direction", ParameterKind::scalar, Unit::degrees, 0.0, {0, 360}, {-3600, 3600}, "Drive", {}, {"(by == angle) * connected(source) * connected(drive)", "The slope gives the direction."}}},
    .evaluate = evaluate});
}

}  // namespace loom
