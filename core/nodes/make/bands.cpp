// Bands: stripes whose count and direction close on the tile.
#include <bit>
#include <cmath>
#include <numeric>

#include "core/base/hash.h"
#include "core/nodes/laid_outputs.h"
#include "core/nodes/positions.h"

namespace loom {
namespace {

// Stripe i of n lies about the line on which the phase along the pattern is i + 1/2; as many lie side by side as the
// counts along u and v have in common, the others are the same ones come round again. Twins that are units of their own
// share its period.
UnitSamples stripes_of(const Emitter& e, Lattice lattice, int stripes) {
  UnitSamples units;
  const int twins = e.toggle("twins_apart") ? 2 : 1;
  const double squared = std::max(1.0, 1.0 * lattice.u * lattice.u + 1.0 * lattice.v * lattice.v),
               wide = 1 / std::sqrt(squared) / twins;
  for (int i = 0; i < stripes * twins; ++i) {
    const double out = ((i + 0.5) / twins - e.number("phase")) / squared;
    units.add(static_cast<float>(i), 0, static_cast<float>(out * lattice.u), static_cast<float>(out * lattice.v), 1,
              static_cast<float>(wide), pcg(static_cast<std::uint32_t>(i)));
  }
  units.rows = static_cast<float>(stripes * twins);
  return units;
}

// A stripe's box lies along it, once round, and across it.
std::shared_ptr<const RegionTable> regions_of(const UnitSamples& units, Lattice lattice) {
  Laid laid;
  laid.regions->resize(units.count());
  const float degrees = std::atan2(static_cast<float>(lattice.u), static_cast<float>(lattice.v)) * 57.29577951308232f;
  for (std::size_t i = 0; i < units.count(); ++i) {
    describe_region(laid, i, std::bit_cast<std::uint32_t>(units.key[i]), units.centre_u[i], units.centre_v[i],
                    0.5f * units.size_u[i], 0.5f * units.size_v[i], degrees);
    laid.regions->area[i] = 1 / static_cast<float>(units.count());
  }
  return laid.regions;
}

void emit_bands(Emitter& e) {
  Builder& b = e.b;
  const auto [u, v, footprint] = e.position();
  const Lattice lattice = lattice_vector(e.number("count"), e.number("angle"));
  const Reg none = b.constant(0);
  if (!lattice.u && !lattice.v) {
    for (const char* peg : {"mask", "grey", "across"}) e.out(peg, none);
    return e.out("regions",
                 Strands{.kind = Kind::regions, .at = {b.constant(-1)}, .regions = std::make_shared<RegionTable>()});
  }
  const Reg along = b.add(lattice_phase(b, lattice, u, v), e.real("phase"));
  const int stripes = std::max(1, std::gcd(lattice.u, lattice.v));
  Reg stripe = b.apply(Op::modulo, b.floor(along), b.constant(static_cast<float>(stripes)));
  if (e.toggle("twins_apart"))
    stripe = b.add(b.mul(stripe, 2), b.apply(Op::less_equal, b.constant(0.5f), b.fract(along)));
  const UnitSamples units = stripes_of(e, lattice, stripes);
  const auto each = [&](const char* id) { return e.each(id, units, stripe); };
  Reg half = b.mul(each("thickness"), 0.5f);
  if (const float vary = e.real("random_widths"); vary > 0)
    half = b.mul(half, b.sub(1, b.mul(b.random(stripe, fold32(e.seed("widths"))), vary)));
  // Twins lie between an inner and an outer border. Cut out, the gap is taken from them; moved apart, they keep their
  // width and go into the room that the stripe leaves in its period.
  const bool twins = e.varies("twin_gap") || e.real("twin_gap") > 0, apart = twins && e.is("twins", "moved_apart");
  const Reg inner = !twins  ? none
                    : apart ? b.mul(b.sub(0.5f, half), each("twin_gap"))
                            : b.mul(half, each("twin_gap")),
            outer = apart ? b.add(half, inner) : half;
  // A stripe moves within the room that it leaves, so that none is cut.
  const Reg from_middle = b.sub(b.add(b.fract(along), -0.5f), b.mul(each("shift"), b.sub(0.5f, outer))),
            aside = b.abs(from_middle);
  // Any softness leaves one sample of anti-aliasing; 0 is a hard edge.
  const float periods = std::hypot(static_cast<float>(lattice.u), static_cast<float>(lattice.v));
  const bool hard = e.real("softness") <= 0;
  const Reg edge = b.max(b.constant(0.5f * e.real("softness")), b.mul(footprint, 0.5f * periods));
  const auto mask_of = [&](Reg half_width) {
    // A soft edge lies about the border, and never reaches past the middle: thickness 0 is empty, 1 is full.
    const Reg mask =
        hard ? b.less(aside, half_width) : b.smoothstep(b.add(half_width, edge), b.sub(half_width, edge), aside);
    const Reg empty = b.less(half_width, b.constant(1e-6f)), full = b.less(b.constant(0.499999f), half_width);
    return b.select(empty, none, b.select(full, b.constant(1), mask));
  };
  Reg mask = mask_of(outer);
  if (twins) mask = b.sub(mask, mask_of(inner));
  e.out("mask", mask);
  e.out("grey", each("tone"));
  Reg from = b.neg(outer), wide = b.mul(outer, 2);
  if (e.toggle("twins_apart")) from = b.select(b.less(from_middle, none), from, inner), wide = b.sub(outer, inner);
  e.out("across", b.clamp(b.div(b.sub(from_middle, from), b.max(wide, b.constant(1e-6f))), 0, 1));
  e.out("regions", Strands{.kind = Kind::regions,
                           .at = {b.select(b.less(b.constant(0.5f), mask), stripe, b.constant(-1))},
                           .regions = regions_of(units, lattice)});
}

}  // namespace

void add_bands(Catalogue& catalogue) {
  Rule chance;
  chance.to.number = 1;
  catalogue.add(
      {.id = "bands",
       .label = "Bands",
       .rack = Rack::make,
       .help = "Stripes across the tile, single or in twins.",
       .more = "Count and angle are snapped to a whole number of periods along u and v. Rules and formulas take a "
               "stripe as a course; a slanted one that comes round again is one stripe. Across is 0 at one side of a "
               "stripe and 1 at the other.",
       .words = "stripes lines planks corrugated boards",
       .inputs = laid_inputs(),
       .outputs = {{"mask", "Mask"}, {"grey", "Grey"}, {"across", "Across"}, {"regions", "Regions", Kind::regions}},
       .parameters =
           {integer("count", "Count", 8)
                .count()
                .useful(1, 64)
                .limits(0, 1024)
                .column("Stripes")
                .help("How many stripes cross the tile; with the direction it is snapped so that the stripes close."),
            scalar("angle", "Direction", 270.0)
                .degrees()
                .useful(0, 360)
                .limits(-360, 720)
                .column("Stripes")
                .help(
                    "Which way the stripes follow one another, anticlockwise from the right; snapped with the count."),
            scalar("phase", "Phase", 0.0)
                .share_of_period()
                .limits(-64, 64)
                .column("Stripes")
                .help("Moves all stripes on; one whole period later they are as before."),
            scalar("thickness", "Thickness", 0.5)
                .share_of_period()
                .column("Edge")
                .per_unit()
                .help("How much of its period a stripe fills: 0 nothing, 1 all of it."),
            scalar("softness", "Softness", 0.05)
                .share_of_period()
                .useful(0, 0.5)
                .limits(0, 1)
                .column("Edge")
                .help("How wide the fading edge is; at 0 it is hard, without so much as a grey texel."),
            scalar("twin_gap", "Twin gap", 0.0)
                .share()
                .column("Stripe")
                .per_unit()
                .help("Opens a gap in the middle of the stripe, so that it becomes two: in shares of its thickness, or "
                      "of "
                      "the room that it leaves in its period where the twins are moved apart."),
            choice("twins", "Twins", {"cut_out", "moved_apart"})
                .column("Stripe")
                .acts_when("twin_gap != 0", "There is no gap: the stripe is one.")
                .help("Cut out, the gap is taken from the twins; moved apart, they keep their width, and the greatest "
                      "thickness still fills the tile."),
            toggle("twins_apart", "Twins as units")
                .column("Stripe")
                .help("Each half of a stripe is a unit of its own, for rules and regions."),
            scalar("shift", "Shift", 0.0)
                .share()
                .useful(-1, 1)
                .column("Stripe")
                .per_unit()
                .help("Of the room that a stripe leaves in its period.")
                .acts_when("thickness < 1", "The stripes leave no room to be shifted in."),
            scalar("tone", "Tone", chance)
                .share()
                .limits(-1000, 1000)
                .column("Stripe")
                .per_unit()
                .help("The grey of each unit at the grey output."),
            scalar("random_widths", "Random widths", 0.0)
                .share()
                .column("Chance")
                .help("How much thinner than asked for a stripe may be by chance."),
            seed("Chance")},
       .emit = emit_bands,
       .random = true});
}

}  // namespace loom
