// Rays: spokes about the middle of the square.
#include <cmath>

#include "core/base/hash.h"
#include "core/nodes/laid_outputs.h"
#include "core/nodes/turns.h"

namespace loom {
namespace {

// Spoke k of n points to k/n of a turn; its box is as long as a spoke and as wide as the rim allows.
UnitSamples spokes_of(const Emitter& e, int count) {
  UnitSamples units;
  const float length = 0.5f * (e.varies("length") ? 1.0f : e.real("length")), sector = kTau / static_cast<float>(count);
  for (int k = 0; k < count; ++k) {
    const float angle = (static_cast<float>(k) + e.real("phase")) * sector;
    units.add(0, static_cast<float>(k), 0.5f + 0.5f * length * std::cos(angle), 0.5f - 0.5f * length * std::sin(angle),
              length, length * sector, pcg(static_cast<std::uint32_t>(k)));
  }
  units.columns = static_cast<float>(count);
  return units;
}

void emit_rays(Emitter& e) {
  Builder& b = e.b;
  const auto [u, v, footprint] = e.position();
  const int spokes = e.integer("count");
  if (spokes < 1) {
    for (const char* peg : {"mask", "grey", "along"}) e.out(peg, b.constant(0));
    return;
  }
  const float count = static_cast<float>(spokes), sector = kTau / count;
  const Reg x = b.add(b.fract(u), -0.5f), y = b.add(b.fract(v), -0.5f), radius = b.length(x, y);
  const Reg turns = b.add(b.mul(b.apply(Op::arctangent2, b.neg(y), x), count / kTau), -e.real("phase"));
  const Reg spoke = b.apply(Op::modulo, b.floor(b.add(turns, 0.5f)), b.constant(count));
  const UnitSamples units = spokes_of(e, spokes);
  const auto each = [&](const char* id) { return e.each(id, units, spoke); };
  // Each spoke may lean aside and be shorter, by rule and by draws of its own.
  const Reg chance = b.mul(b.add(b.random(spoke, fold32(e.seed("lean"))), -0.5f), e.real("jitter"));
  const Reg lean = b.clamp(b.add(chance, each("lean")), -0.5f, 0.5f);
  const Reg within = b.mul(b.sub(b.sub(turns, b.floor(b.add(turns, 0.5f))), lean), sector);
  const Reg full = b.mul(each("length"), 0.5f);
  const Reg reach = b.mul(b.sub(1, b.mul(b.random(spoke, fold32(e.seed("length"))), e.real("length_jitter"))), full);
  const Reg along = b.clamp(b.div(radius, b.max(reach, b.constant(1e-6f))), 0, 1);
  // Width is an angle's share at the rim; a full taper brings the tip to a point, a negative one the root.
  const Reg taper = each("taper"), to_tip = b.max(taper, b.constant(0)), to_root = b.max(b.neg(taper), b.constant(0));
  const Reg narrowing = b.sub(1, b.add(b.mul(along, to_tip), b.mul(b.sub(1, along), to_root)));
  const Reg half = b.mul(narrowing, b.mul(b.mul(each("width"), full), 0.5f * sector));
  const Reg aside = b.abs(b.mul(b.apply(Op::sine, within), radius));
  const Reg pixel = b.mul(footprint, 0.5f), soft = b.max(b.mul(half, e.real("softness")), pixel);
  const Reg side = b.smoothstep(b.add(half, pixel), b.sub(half, soft), aside);
  const Reg end =
      b.smoothstep(b.add(reach, pixel), b.sub(reach, b.max(b.mul(reach, 0.25f * e.real("softness")), pixel)), radius);
  const Reg ahead = b.less(b.constant(0), b.apply(Op::cosine, within));
  const Reg mask =
      b.mul(b.select(ahead, b.mul(side, end), b.constant(0)), b.less(b.constant(1e-6f), b.min(half, reach)));
  e.out("mask", mask);
  e.out("grey", each("tone"));
  e.out("along", along);
}

}  // namespace

void add_rays(Catalogue& catalogue) {
  Rule chance;
  chance.to.number = 1;
  catalogue.add(
      {.id = "rays",
       .label = "Rays",
       .rack = Rack::make,
       .help = "Spokes about the middle.",
       .more = "Spoke k of n points to k/n of a turn from the right, anticlockwise. The width is a share of the rim's "
               "arc; along is the share of the spoke's length. Rules and formulas take a spoke as a column.",
       .words = "spokes sunburst star radial lines burst wheel",
       .inputs = laid_inputs(),
       .outputs = {{"mask", "Mask"}, {"grey", "Spoke grey"}, {"along", "Along"}},
       .parameters = {integer("count", "Count", 12)
                          .count()
                          .useful(1, 64)
                          .limits(0, 720)
                          .column("Spokes")
                          .help("How many spokes stand about the middle."),
                      scalar("length", "Length", 0.9)
                          .share_of_tile()
                          .useful(0.1, 1)
                          .limits(0, 2)
                          .column("Spokes")
                          .per_unit()
                          .help("How long a spoke is; 1 reaches from the middle to the tile's side."),
                      scalar("width", "Width", 0.5)
                          .share()
                          .useful(0.05, 1)
                          .limits(0, 4)
                          .column("Spokes")
                          .per_unit()
                          .help("How wide a spoke is at the rim, in shares of its room there."),
                      scalar("phase", "Phase", 0.0)
                          .share_of_period()
                          .limits(-64, 64)
                          .column("Spokes")
                          .help("Turns all spokes, in shares of the way from one to the next."),
                      scalar("taper", "Taper", 0.0)
                          .share()
                          .useful(-1, 1)
                          .column("Shape")
                          .per_unit()
                          .help("Narrows a spoke: above 0 towards its tip, below 0 towards its root."),
                      scalar("lean", "Lean", 0.0)
                          .share_of_period()
                          .useful(-0.5, 0.5)
                          .column("Shape")
                          .per_unit()
                          .help("Aside, in shares of the way to the next spoke."),
                      scalar("tone", "Tone", chance)
                          .share()
                          .limits(-1000, 1000)
                          .column("Shape")
                          .per_unit()
                          .help("The grey of each unit at the grey output."),
                      scalar("softness", "Softness", 0.1)
                          .share()
                          .column("Shape")
                          .help("How far in the edges fade, in shares of half the width."),
                      scalar("jitter", "Jitter", 0.0)
                          .share_of_period()
                          .column("Chance")
                          .help("How far spokes lean aside by chance, in shares of the way to the next."),
                      scalar("length_jitter", "Length jitter", 0.0)
                          .share()
                          .column("Chance")
                          .help("How much shorter a spoke may be by chance."),
                      seed("Chance")},
       .handles = {{Handle::Form::radius, "length", "", 0, 0.5}},
       .emit = emit_rays,
       .random = true,
       .follows_positions = true});
}

}  // namespace loom
