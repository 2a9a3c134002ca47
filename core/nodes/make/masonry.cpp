// Masonry: units laid in a bond. First every unit gets its place; then rules vary it; then any position finds its unit.
#include <algorithm>
#include <bit>
#include <cmath>

#include "core/base/hash.h"
#include "core/nodes/bonds.h"
#include "core/nodes/laid_outputs.h"

namespace loom {
namespace {

constexpr const char* kShapes[] = {"shape_a", "shape_b", "shape_c", "shape_d"};

// Courses and columns count from the top left; a key is a place in the bond, so it survives any change of size.
UnitSamples samples_of(const std::vector<Place>& places) {
  UnitSamples s;
  float row = -1, last_v = -1, column = 0, most = 0;
  for (const Place& p : places) {
    if (p.v > last_v + 1e-5f) row += 1, column = 0, last_v = p.v;
    const bool upright = static_cast<int>(p.degrees) % 180 == 90;
    s.add(row, column, p.u, p.v, upright ? p.short_side : p.long_side, upright ? p.long_side : p.short_side,
          pcg(static_cast<std::uint32_t>(s.count()) + 1));
    most = std::max(most, column += 1);
  }
  s.rows = row + 1;
  s.columns = most;
  return s;
}

// Units for which the rule gives a share between their ends are divided there; other shapes than boxes stay whole.
void divide(Emitter& e, std::vector<Place>& places) {
  if (std::holds_alternative<double>(e.param("divide")) && e.number("divide") <= 0) return;
  const auto at = e.per_unit("divide", samples_of(places));
  std::vector<Place> all;
  for (std::size_t i = 0; i < places.size(); ++i) {
    if (at[i] < 0.02f || at[i] > 0.98f || !places[i].outline.empty())
      all.push_back(places[i]);
    else
      for (const Place& part : divided(places[i], at[i])) all.push_back(part);
  }
  places = std::move(all);
}

std::shared_ptr<const Laid> lay_masonry(Emitter& e) {
  auto laid = std::make_shared<Laid>();
  std::vector<Place> places = lay_bond(e);
  divide(e, places);
  const UnitSamples s = samples_of(places);
  const auto shift = e.per_unit("shift", s), length = e.per_unit("length", s),
             rounding = e.per_unit("edge_rounding", s), corner = e.per_unit("corner_radius", s),
             turn = e.per_unit("turn", s), slant_u = e.per_unit("slant_u", s), slant_v = e.per_unit("slant_v", s),
             tone = e.per_unit("tone", s), keep = e.per_unit("keep", s), joint = e.per_unit("joint_scale", s),
             shape = e.per_unit("unit_shape", s), shape_turn = e.per_unit("shape_turn", s),
             mirrored = e.per_unit("shape_mirror", s);
  LaidUnits& u = laid->units;
  const bool outlines = std::any_of(places.begin(), places.end(), [](const Place& p) { return !p.outline.empty(); });
  if (outlines) u.outline_first.push_back(0);
  for (std::size_t i = 0; i < s.count(); ++i) {
    const Place& p = places[i];
    // Bed joints lie between courses, cross joints between the ends of neighbours; a unit gives half of each.
    const float bed = e.real("bed_joint") * joint[i], cross = e.real("cross_joint") * joint[i];
    const float half_u = 0.5f * (p.long_side * length[i] - cross), half_v = 0.5f * (p.short_side - bed);
    if (keep[i] < 0.5f || half_u <= 0 || half_v <= 0) continue;
    const float radius = corner[i] * std::min(half_u, half_v) * (p.outline.empty() ? 1.0f : 0.6f);
    if (!p.outline.empty()) {
      std::vector<Corner> around = p.outline;
      for (Corner& c : around) c.u *= length[i];
      around = inset(around, bed, cross, radius);
      if (around.empty()) continue;
      for (const Corner& c : around) u.outline_x.push_back(c.u), u.outline_y.push_back(c.v);
    }
    if (outlines) u.outline_first.push_back(static_cast<std::int32_t>(u.outline_x.size()));
    const float degrees = p.degrees + turn[i], radians = degrees * 0.017453292519943f;
    const float along = shift[i] * p.long_side, base = p.degrees * 0.017453292519943f;
    const auto fraction = [](float x) { return x - std::floor(x); };
    u.centre_u.push_back(fraction(p.u + along * std::cos(base)));
    u.centre_v.push_back(fraction(p.v - along * std::sin(base)));
    u.half_u.push_back(half_u);
    u.half_v.push_back(half_v);
    u.cosine.push_back(std::cos(radians));
    u.sine.push_back(std::sin(radians));
    u.radius.push_back(radius);
    laid->tone.push_back(tone[i]);
    laid->turn.push_back(degrees);
    laid->rounding.push_back(rounding[i] * std::min(half_u, half_v));
    laid->joint.push_back(joint[i]);
    u.joint.push_back(0.5f * joint[i] * std::min(e.real("bed_joint"), e.real("cross_joint")));
    laid->slant_u.push_back(slant_u[i]);
    laid->slant_v.push_back(slant_v[i]);
    laid->shape.push_back(std::floor(shape[i] + 0.5f));
    laid->shape_turn.push_back(std::floor(shape_turn[i] + 0.5f));
    laid->shape_mirror.push_back(mirrored[i] >= 0.5f ? 1.0f : 0.0f);
    const std::size_t k = laid->regions->count();
    laid->regions->resize(k + 1);
    describe_region(*laid, k, std::bit_cast<std::uint32_t>(s.key[i]), u.centre_u[k], u.centre_v[k], half_u, half_v,
                    degrees);
  }
  index_units(u, std::max({0.75f * std::max(e.real("bed_joint"), e.real("cross_joint")),
                           1.0f / static_cast<float>(e.resolution())}));
  return laid;
}

// The value of the shape that each unit was dealt, at its own coordinates, turned in quarters and mirrored; 1 where it
// has none.
Reg shape_value(Emitter& e, const std::shared_ptr<const Laid>& laid, Reg unit, Reg x, Reg y, Reg footprint) {
  Builder& b = e.b;
  const Reg one = b.constant(1);
  bool any = false;
  for (const char* peg : kShapes) any |= e.whole(peg) != nullptr;
  if (!any) return one;
  const auto share = [&](Reg at, const std::vector<float>& half) {
    return b.mul(b.div(at, fetch(b, unit, half)), 0.5f);
  };
  Reg p = share(x, laid->units.half_u), q = share(y, laid->units.half_v);
  p = b.select(fetch(b, unit, laid->shape_mirror), b.neg(p), p);
  const Reg quarters = b.apply(Op::modulo, fetch(b, unit, laid->shape_turn), b.constant(4));
  const auto is = [&](float n) { return b.apply(Op::equal, quarters, b.constant(n)); };
  const Reg tp = b.select(is(1), q, b.select(is(2), b.neg(p), b.select(is(3), b.neg(q), p)));
  const Reg tq = b.select(is(1), b.neg(p), b.select(is(2), b.neg(q), b.select(is(3), p, q)));
  const Reg wide =
      b.div(footprint, b.mul(b.min(fetch(b, unit, laid->units.half_u), fetch(b, unit, laid->units.half_v)), 2));
  // Just within the frame: a shape does not wrap.
  const Reg su = b.clamp(b.add(tp, 0.5f), 0.002f, 0.998f), sv = b.clamp(b.add(tq, 0.5f), 0.002f, 0.998f),
            dealt = fetch(b, unit, laid->shape);
  Reg value = one;
  for (std::size_t k = 0; k < 4; ++k)
    if (e.whole(kShapes[k]))
      value = b.select(b.apply(Op::equal, dealt, b.constant(static_cast<float>(k) + 1)),
                       b.apply(kSample, {su, sv, wide}, e.sampled(kShapes[k], 0), 1)[0], value);
  return value;
}

// How much of a sample the units cover. Where a joint is narrower than a sample, the neighbour beyond it covers the
// rest: without it, units that touch would show their edges. No neighbour is nearer than the unit that was found.
Reg coverage(Emitter& e, const Laid& laid, const std::array<Reg, 4>& found, Reg footprint) {
  Builder& b = e.b;
  const Reg distance = found[3];
  const auto share = [&](Reg d) { return b.clamp(b.sub(0.5f, b.div(d, footprint)), 0, 1); };
  const float bed = e.real("bed_joint"), cross = e.real("cross_joint");
  if (const float* wide = b.known(footprint); wide && std::min(bed, cross) > 4 * *wide) return share(distance);
  Reg gap = b.constant(std::min(bed, cross));
  if (laid.units.outline_first.empty()) {
    const Reg across = b.sub(b.abs(found[1]), fetch(b, found[0], laid.units.half_u)),
              along = b.sub(b.abs(found[2]), fetch(b, found[0], laid.units.half_v));
    gap = b.select(b.less(along, across), b.constant(cross), b.constant(bed));
  }
  gap = b.mul(gap, fetch(b, found[0], laid.joint));
  return b.min(b.add(share(distance), share(b.max(distance, b.sub(gap, distance)))), b.constant(1));
}

void emit_masonry(Emitter& e) {
  Builder& b = e.b;
  const auto laid = e.laid<Laid>([&] { return lay_masonry(e); });
  const auto [u, v, footprint] = e.position();
  const auto found = b.apply(kLaid, {u, v}, std::shared_ptr<const Resource>(laid, &laid->units), 4);
  const Reg unit = found[0], x = found[1], y = found[2], distance = found[3], zero = b.constant(0), one = b.constant(1);
  const Reg mask = b.mul(coverage(e, *laid, found, footprint), shape_value(e, laid, unit, x, y, footprint));
  e.out("mask", mask);
  // The top's edge is a quarter of a circle over the rounding's width.
  const Reg inward = b.clamp(b.div(b.neg(distance), fetch(b, unit, laid->rounding)), 0, 1), rest = b.sub(one, inward);
  const bool round = std::any_of(laid->rounding.begin(), laid->rounding.end(), [](float r) { return r > 0; });
  const Reg top = round ? b.root(b.sub(one, b.mul(rest, rest))) : one;
  const auto slope = [&](Reg at, const std::vector<float>& half, const std::vector<float>& slant) {
    return b.mul(b.div(at, fetch(b, unit, half)), b.mul(fetch(b, unit, slant), 0.5f));
  };
  const Reg tilt = b.add(slope(x, laid->units.half_u, laid->slant_u), slope(y, laid->units.half_v, laid->slant_v));
  e.out("height", b.mul(mask, b.max(b.add(top, tilt), zero)));
  // Inside a joint no unit is under the sample, though one is near.
  const Reg under = b.less(distance, zero);
  emit_unit_outputs(e, laid, laid->units, b.select(under, unit, b.constant(-1)), x, y, footprint);
}

// Says what counts became, where they were snapped so that the bond closes.
std::string snapped_counts(const NodeCall& c) {
  const BondCounts counts = bond_counts(c);
  const int times = c.integer("multiplier");
  std::string note;
  if (counts.across != c.integer("units_across") * times) note += std::to_string(counts.across) + " units across";
  if (!c.toggle("linked") && counts.courses != c.integer("courses") * times)
    note += (note.empty() ? "" : " and ") + std::to_string(counts.courses) + " courses";
  return note.empty() ? note : "Snapped to " + note + ", so that the bond closes";
}

std::vector<Peg> inputs() {
  std::vector<Peg> pegs = laid_inputs();
  for (std::size_t k = 0; k < 4; ++k)
    pegs.push_back(motif_peg(kShapes[k], std::string("Shape ") + static_cast<char>('A' + k)));
  return pegs;
}

Parameter of_shapes(ParameterBuilder p) {
  return p.column("Unit shape")
      .per_unit()
      .acts_when("max(max(connected(shape_a), connected(shape_b)), max(connected(shape_c), connected(shape_d)))",
                 "There are no unit shapes: connect one.");
}

}  // namespace

void add_masonry(Catalogue& catalogue) {
  Rule chance;
  chance.to.number = 1;
  catalogue.add(
      {.id = "masonry",
       .label = "Masonry",
       .rack = Rack::make,
       .help = "Units laid in a bond, told apart, each varied by rule.",
       .more =
           "Counts are snapped so that the bond closes: running, English and Flemish to an even number of courses, "
           "third to threes, herringbone and basket weave to even counts. English: stretcher and header courses in "
           "turn. Flemish: stretcher and header side by side. Ashlar: chance rectangles on a torus of cells. Hexagons "
           "are stretched to close, since root 3 is irrational. Edges come from exact distances, so joints are even at "
           "any size. Diagonal turns the whole by 45 degrees; everything then stands twice, smaller by root 2.",
       .words = "brick tile paving wall herringbone basket weave running stack stretcher pattern floor hexagon octagon "
                "pinwheel ashlar flemish english parquet cobble",
       .inputs = inputs(),
       .outputs = laid_outputs(),
       .parameters =
           {choice("bond", "Bond", bond_words(), "running")
                .column("Bond")
                .help("The way the units lie in their courses; threads stay when it changes."),
            integer("units_across", "Units across", 8)
                .count()
                .useful(2, 24)
                .limits(1, 256)
                .column("Bond")
                .help("How many units lie side by side; a bond that cannot close with it takes the nearest count that "
                      "can."),
            toggle("linked", "Linked", true).column("Bond").help("The second count follows the first."),
            integer("multiplier", "Count multiplier", 1)
                .times()
                .useful(1, 8)
                .limits(1, 16)
                .column("Bond")
                .help("Multiplies both counts."),
            integer("courses", "Courses", 16)
                .count()
                .useful(2, 48)
                .limits(1, 512)
                .column("Bond")
                .acts_when("linked == 0", "The courses follow the units across: they are linked.")
                .help("How many courses lie above one another, where they are not linked to the units across."),
            scalar("stagger", "Stagger", 0.5)
                .share()
                .limits(-1, 1)
                .column("Bond")
                .acts_when("bond == running", "Only a running bond is staggered.")
                .help("How far every course is moved against the one below it, in shares of a unit."),
            scalar("variation", "Variation", 0.7)
                .share()
                .column("Bond")
                .acts_when("bond == irregular", "Only irregular stretchers vary in length.")
                .help("How unlike one another in length the stretchers are."),
            toggle("diagonal", "Diagonal").column("Bond").help("Lays the whole bond at 45 degrees."),
            integer("quarter_turns", "Quarter turns", 0)
                .count()
                .useful(0, 3)
                .limits(-8, 8)
                .column("Bond")
                .help("Turns the whole bond by right angles."),
            scalar("bed_joint", "Bed joint", 0.012)
                .share_of_tile()
                .useful(0, 0.05)
                .limits(0, 0.5)
                .column("Joints")
                .help("How wide the joint between courses is."),
            scalar("cross_joint", "Cross joint", 0.012)
                .share_of_tile()
                .useful(0, 0.05)
                .limits(0, 0.5)
                .column("Joints")
                .help("How wide the joint between the units of a course is."),
            scalar("joint_scale", "Joint scale", 1.0)
                .times()
                .useful(0, 2)
                .limits(0, 16)
                .column("Joints")
                .per_unit()
                .help("How much of the joints about it a unit leaves free."),
            scalar("shift", "Shift", 0.0)
                .share()
                .useful(-0.5, 0.5)
                .limits(-4, 4)
                .column("Unit")
                .per_unit()
                .help("Moves a unit along its course, in shares of its length."),
            scalar("length", "Length", 1.0)
                .share()
                .useful(0.25, 1)
                .limits(0, 1)
                .column("Unit")
                .per_unit()
                .help("How much of its place along the course a unit fills."),
            scalar("turn", "Turn", 0.0)
                .degrees()
                .useful(-10, 10)
                .limits(-360, 360)
                .column("Unit")
                .per_unit()
                .help("Turns each unit in its place, anticlockwise."),
            scalar("keep", "Keep", 1.0)
                .share()
                .column("Unit")
                .per_unit()
                .help("A unit is kept where this is 0.5 or more."),
            scalar("divide", "Divide", 0.0)
                .share()
                .column("Unit")
                .per_unit()
                .help("Where along its length a unit is divided; 0 leaves it whole.")
                .acts_when("(bond != hexagon) * (bond != diamond) * (bond != octagon_and_dot) * (bond != interlocking)",
                           "The units of this bond are no boxes: they stay whole."),
            scalar("edge_rounding", "Edge rounding", 0.2)
                .share()
                .column("Shape")
                .per_unit()
                .help("How far in the top edge is rounded, in shares of half the unit's lesser side."),
            scalar("corner_radius", "Corner radius", 0.1)
                .share()
                .column("Shape")
                .per_unit()
                .help("How round the corners are, in shares of half the unit's lesser side."),
            scalar("slant_u", "Slant along", 0.0)
                .share()
                .useful(-1, 1)
                .limits(-4, 4)
                .column("Shape")
                .per_unit()
                .help("How far the top slants along the unit: its ends differ in height by this much."),
            scalar("slant_v", "Slant across", 0.0)
                .share()
                .useful(-1, 1)
                .limits(-4, 4)
                .column("Shape")
                .per_unit()
                .help("How far the top slants across the unit: its sides differ in height by this much."),
            of_shapes(scalar("unit_shape", "Unit shape", 1.0)
                          .count()
                          .useful(0, 4)
                          .help("Which of the shapes A to D a unit takes: 1 to 4; 0 leaves it plain.")),
            of_shapes(
                scalar("shape_turn", "Shape turn", 0.0).count().useful(0, 3).limits(-64, 64).help("In quarters.")),
            of_shapes(
                scalar("shape_mirror", "Shape mirrored", 0.0).share().help("Mirrored where this is 0.5 or more.")),
            scalar("tone", "Tone", chance)
                .share()
                .limits(-1000, 1000)
                .column("Tone")
                .per_unit()
                .help("The grey of each unit at the grey output."),
            seed("Tone")},
       .emit = emit_masonry,
       .note = snapped_counts,
       .random = true,
       .costly = true});
}

}  // namespace loom
