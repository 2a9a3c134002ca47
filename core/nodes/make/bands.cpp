// Bands: stripes whose count and direction close on the tile.
#include <cmath>
#include <numeric>

#include "core/base/hash.h"
#include "core/nodes/node_call.h"
#include "core/nodes/positions.h"

namespace loom {
namespace {

void emit(Emitter& e) {
  Builder& b = e.b;
  const auto [u, v, footprint] = e.position();
  const Lattice lattice = lattice_vector(e.number("count"), e.number("angle"));
  const Reg along = b.add(lattice_phase(b, lattice, u, v), e.real("phase"));
  const Reg from_middle = b.abs(b.add(b.fract(along), -0.5f));
  Reg half = b.constant(0.5f * e.real("thickness"));
  if (const float vary = e.real("random_widths"); vary > 0) {
    const float period = static_cast<float>(std::max(1, std::gcd(lattice.u, lattice.v)));
    const Reg stripe = b.apply(Op::modulo, b.floor(along), b.constant(period));
    half = b.mul(half, b.sub(1, b.mul(b.random(stripe, fold32(e.seed("widths"))), vary)));
  }
  // Softness 0 leaves one sample of anti-aliasing, unless a hard edge is asked for.
  const float periods = static_cast<float>(std::max(1.0, std::hypot(lattice.u, lattice.v)));
  const Reg edge = e.toggle("hard") ? b.constant(0) : b.max(b.constant(0.5f * e.real("softness")), b.mul(footprint, 0.5f * periods));
  const auto stripe = [&](Reg middle_distance, Reg half_width) {
    // A soft edge lies about the border, and never reaches past the middle: thickness 0 is empty, 1 is full.
    const Reg mask = b.smoothstep(b.add(half_width, edge), b.sub(half_width, edge), middle_distance);
    const Reg none = b.less(half_width, b.constant(1e-6f));
    const Reg full = b.less(b.constant(0.499999f), half_width);
    return b.select(none, b.constant(0), b.select(full, b.constant(1), mask));
  };
  const float gap = e.real("twin_gap");
  if (gap <= 0) return e.out("mask", lattice.u || lattice.v ? stripe(from_middle, half) : b.constant(0));
  // Twins: the gap opens in the middle of the stripe and takes its share from it.
  const Reg inner = b.mul(half, gap);
  e.out("mask", b.sub(stripe(from_middle, half), stripe(from_middle, inner)));
}

}  // namespace

void add_bands(Catalogue& catalogue) {
  catalogue.add({.id = "bands", .label = "Bands", .rack = Rack::make, .help = "Stripes across the tile, single or in twins.",
    .more = "Count and angle are snapped to a whole number of periods along u and v.",
    .words = "stripes lines planks corrugated",
    .inputs = {{"coordinates", "Coordinates", Kind::vector2}}, .outputs = {{"mask", "Mask"}},
    .parameters = {
      {"count", "Count", ParameterKind::integer, Unit::count, 8.0, {1, 64}, {0, 1024}, "Stripes"},
      {"angle", "Direction", ParameterKind::scalar, Unit::degrees, 0.0, {0, 180}, {-360, 360}, "Stripes"},
      {"phase", "Phase", ParameterKind::scalar, Unit::share_of_period, 0.0, {0, 1}, {-64, 64}, "Stripes"},
      {"thickness", "Thickness", ParameterKind::scalar, Unit::share_of_period, 0.5, {0, 1}, {0, 1}, "Edge"},
      {"softness", "Softness", ParameterKind::scalar, Unit::share_of_period, 0.05, {0, 0.5}, {0, 1}, "Edge", {}, {"hard == 0", "The edge is hard."}},
      {"hard", "Hard edge", ParameterKind::toggle, Unit::none, 0.0, {0, 1}, {0, 1}, "Edge"},
      {"twin_gap", "Twin gap", ParameterKind::scalar, Unit::share, 0.0, {0, 1}, {0, 1}, "Twins"},
      {"random_widths", "Random widths", ParameterKind::scalar, Unit::share, 0.0, {0, 1}, {0, 1}, "Chance"},
      {"seed", "Seed", ParameterKind::seed, Unit::none, 1.0, {0, 999}, {0, 1e9}, "Chance", {}, {"random_widths > 0", "All stripes are equally wide."}}},
    .emit = emit, .random = true});
}

}  // namespace loom
