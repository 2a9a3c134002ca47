// Rays: spokes about the middle of the square.
#include <cmath>

#include "core/base/hash.h"
#include "core/nodes/node_call.h"

namespace loom {
namespace {

constexpr float kTau = 6.28318530717958648f;

void emit(Emitter& e) {
  Builder& b = e.b;
  const auto [u, v, footprint] = e.position();
  const float count = e.real("count"), sector = kTau / std::max(count, 1.0f);
  const float full = 0.5f * e.real("length");
  if (count < 1 || full <= 0) return e.out("mask", b.constant(0)), e.out("tone", b.constant(0)), e.out("along", b.constant(0));
  const Reg x = b.add(b.fract(u), -0.5f), y = b.add(b.fract(v), -0.5f), radius = b.length(x, y);
  const Reg turns = b.add(b.mul(b.apply(Op::arctangent2, b.neg(y), x), count / kTau), -e.real("phase"));
  const Reg spoke = b.apply(Op::modulo, b.floor(b.add(turns, 0.5f)), b.constant(count));
  // Each spoke may lean aside and be shorter, by draws of its own.
  const Reg lean = b.mul(b.add(b.random(spoke, fold32(e.seed("lean"))), -0.5f), e.real("jitter"));
  const Reg within = b.mul(b.sub(b.sub(turns, b.floor(b.add(turns, 0.5f))), lean), sector);
  const Reg reach = b.mul(b.sub(1, b.mul(b.random(spoke, fold32(e.seed("length"))), e.real("length_jitter"))), full);
  const Reg along = b.clamp(b.div(radius, reach), 0, 1);
  // Width is an angle's share at the rim; a full taper brings the tip to a point, a negative one the root.
  const float taper = e.real("taper");
  const Reg narrowing = taper >= 0 ? b.sub(1, b.mul(along, taper)) : b.sub(1, b.mul(b.sub(1, along), -taper));
  const Reg half = b.mul(narrowing, 0.5f * e.real("width") * full * sector);
  const Reg aside = b.abs(b.mul(b.apply(Op::sine, within), radius));
  const Reg pixel = b.mul(footprint, 0.5f), soft = b.max(b.mul(half, e.real("softness")), pixel);
  const Reg side = b.smoothstep(b.add(half, pixel), b.sub(half, soft), aside);
  const Reg end = b.smoothstep(b.add(reach, pixel), b.sub(reach, b.max(b.mul(reach, 0.25f * e.real("softness")), pixel)), radius);
  const Reg ahead = b.less(b.constant(0), b.apply(Op::cosine, within));
  const Reg mask = b.mul(b.select(ahead, b.mul(side, end), b.constant(0)), b.less(b.constant(1e-6f), half));
  e.out("mask", mask);
  e.out("tone", b.random(spoke, fold32(e.seed("tone"))));
  e.out("along", along);
}

}  // namespace

void add_rays(Catalogue& catalogue) {
  catalogue.add({.id = "rays", .label = "Rays", .rack = Rack::make, .help = "Spokes about the middle.",
    .more = "Spoke k of n points to k/n of a turn from the right, anticlockwise. The width is a share of the rim's arc; along is the share of the spoke's length.",
    .words = "spokes sunburst star radial lines burst wheel",
    .inputs = {{"coordinates", "Coordinates", Kind::vector2}}, .outputs = {{"mask", "Mask"}, {"tone", "Spoke tone"}, {"along", "Along"}},
    .parameters = {
      {"count", "Count", ParameterKind::integer, Unit::count, 12.0, {1, 64}, {0, 720}, "Spokes"},
      {"length", "Length", ParameterKind::scalar, Unit::share_of_tile, 0.9, {0.1, 1}, {0, 2}, "Spokes"},
      {"width", "Width", ParameterKind::scalar, Unit::share, 0.5, {0.05, 1}, {0, 4}, "Spokes"},
      {"phase", "Phase", ParameterKind::scalar, Unit::share_of_period, 0.0, {0, 1}, {-64, 64}, "Spokes"},
      {"taper", "Taper", ParameterKind::scalar, Unit::share, 0.0, {-1, 1}, {-1, 1}, "Shape"},
      {"softness", "Softness", ParameterKind::scalar, Unit::share, 0.1, {0, 1}, {0, 1}, "Shape"},
      {"jitter", "Jitter", ParameterKind::scalar, Unit::share_of_period, 0.0, {0, 1}, {0, 1}, "Chance"},
      {"length_jitter", "Length jitter", ParameterKind::scalar, Unit::share, 0.0, {0, 1}, {0, 1}, "Chance"},
      {"seed", "Seed", ParameterKind::seed, Unit::none, 1.0, {0, 999}, {0, 1e9}, "Chance"}},
    .handles = {{Handle::Form::radius, "length", "", 0, 0.5}},
    .emit = emit, .random = true, .follows_positions = true});
}

}  // namespace loom
