// Masonry: units laid in a bond. First every unit gets its place; then rules vary it; then any position finds its unit.
#include <algorithm>
#include <bit>
#include <cmath>
#include <cstdio>

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

bool is_plainly(const Emitter& e, const char* id, double value) {
  return std::holds_alternative<double>(e.param(id)) && e.number(id) == value;
}

// Units are divided into parts that count as units of their own; other shapes than boxes stay whole.
void part(Emitter& e, std::vector<Place>& places) {
  if (is_plainly(e, "parts_along", 1) && is_plainly(e, "parts_across", 1)) return;
  const UnitSamples s = samples_of(places);
  const auto along = e.per_unit("parts_along", s), across = e.per_unit("parts_across", s);
  const auto parts = [](float x) { return std::max(1, static_cast<int>(std::lround(x))); };
  double sum = 0;
  for (std::size_t i = 0; i < places.size(); ++i) sum += 1.0 * parts(along[i]) * parts(across[i]);
  if (sum > kMostUnits) {
    e.fault = Error{
        "parameter parts_along",
        "would lay " + std::to_string(static_cast<long long>(sum)) + " units, more than " + std::to_string(kMostUnits),
        "Divide into fewer parts, or lay fewer units"};
    return;
  }
  std::vector<Place> all;
  for (std::size_t i = 0; i < places.size(); ++i) {
    if (!places[i].outline.empty())
      all.push_back(places[i]);
    else
      for (const Place& one : divided(places[i], parts(along[i]), parts(across[i]))) all.push_back(one);
  }
  std::stable_sort(all.begin(), all.end(), [](const Place& a, const Place& b) { return a.v < b.v - 1e-5f; });
  places = std::move(all);
}

// Units for which the rule gives a share between their ends are divided there.
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
  part(e, places);
  const UnitSamples s = samples_of(places);
  const std::uint32_t kept = fold32(e.seed("share kept"));
  const auto shift = e.per_unit("shift", s), aside = e.per_unit("shift_across", s), length = e.per_unit("length", s),
             breadth = e.per_unit("breadth", s), rounding = e.per_unit("edge_rounding", s),
             corner = e.per_unit("corner_radius", s), turn = e.per_unit("turn", s), slant_u = e.per_unit("slant_u", s),
             slant_v = e.per_unit("slant_v", s), tone = e.per_unit("tone", s), keep = e.per_unit("keep", s),
             joint = e.per_unit("joint_scale", s), shape = e.per_unit("unit_shape", s),
             shape_turn = e.per_unit("shape_turn", s), shape_angle = e.per_unit("shape_angle", s),
             shape_scale = e.per_unit("shape_scale", s), mirrored = e.per_unit("shape_mirror", s);
  const auto shape_shift = e.per_unit_vector("shape_shift", s);
  LaidUnits& u = laid->units;
  const bool outlines = std::any_of(places.begin(), places.end(), [](const Place& p) { return !p.outline.empty(); });
  if (outlines) u.outline_first.push_back(0);
  for (std::size_t i = 0; i < s.count(); ++i) {
    const Place& p = places[i];
    // Bed joints lie between courses, cross joints between the ends of neighbours; a unit gives half of each.
    const float bed = e.real("bed_joint") * joint[i], cross = e.real("cross_joint") * joint[i];
    const float half_u = 0.5f * (p.long_side * length[i] - cross), half_v = 0.5f * (p.short_side * breadth[i] - bed);
    const bool drawn = unit_random(kept, std::bit_cast<std::uint32_t>(s.key[i])) < e.real("share_kept");
    if (keep[i] < 0.5f || !drawn || half_u <= 0 || half_v <= 0) continue;
    const float radius = corner[i] * std::min(half_u, half_v) * (p.outline.empty() ? 1.0f : 0.6f);
    if (!p.outline.empty()) {
      std::vector<Corner> around = p.outline;
      for (Corner& c : around) c.u *= length[i], c.v *= breadth[i];
      around = inset(around, bed, cross, radius);
      if (around.empty()) continue;
      for (const Corner& c : around) u.outline_x.push_back(c.u), u.outline_y.push_back(c.v);
    }
    if (outlines) u.outline_first.push_back(static_cast<std::int32_t>(u.outline_x.size()));
    const float degrees = p.degrees + turn[i], radians = degrees * 0.017453292519943f;
    const float along = shift[i] * p.long_side, across = aside[i] * p.short_side, base = p.degrees * 0.017453292519943f;
    const auto fraction = [](float x) { return x - std::floor(x); };
    u.centre_u.push_back(fraction(p.u + along * std::cos(base) + across * std::sin(base)));
    u.centre_v.push_back(fraction(p.v - along * std::sin(base) + across * std::cos(base)));
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
    laid->shape_angle.push_back(shape_angle[i] * 0.017453292519943f);
    laid->shape_scale.push_back(shape_scale[i]);
    laid->shape_u.push_back(shape_shift[0][i]);
    laid->shape_v.push_back(shape_shift[1][i]);
    const std::size_t k = laid->regions->count();
    laid->regions->resize(k + 1);
    describe_region(*laid, k, std::bit_cast<std::uint32_t>(s.key[i]), u.centre_u[k], u.centre_v[k], half_u, half_v,
                    degrees);
  }
  index_units(u, std::max({0.75f * std::max(e.real("bed_joint"), e.real("cross_joint")),
                           1.0f / static_cast<float>(e.resolution())}));
  return laid;
}

// Where a sample lies in its unit's shape, 0 to 1 both ways, and how wide it is there. The shape's square is the unit's
// box, or the square within it or about it; then the shape is mirrored, moved, turned and scaled.
struct InShape {
  Reg u, v, footprint, inside;
};
InShape in_shape(Emitter& e, const Laid& laid, Reg unit, Reg x, Reg y, Reg footprint) {
  Builder& b = e.b;
  Reg half_u = fetch(b, unit, laid.units.half_u), half_v = fetch(b, unit, laid.units.half_v);
  if (e.is("shape_fit", "within")) half_u = half_v = b.min(half_u, half_v);
  if (e.is("shape_fit", "covering")) half_u = half_v = b.max(half_u, half_v);
  Reg p = b.mul(b.div(x, half_u), 0.5f), q = b.mul(b.div(y, half_v), 0.5f);
  p = b.select(fetch(b, unit, laid.shape_mirror), b.neg(p), p);
  const Reg quarters = b.apply(Op::modulo, fetch(b, unit, laid.shape_turn), b.constant(4));
  const auto is = [&](float n) { return b.apply(Op::equal, quarters, b.constant(n)); };
  Reg tp = b.select(is(1), q, b.select(is(2), b.neg(p), b.select(is(3), b.neg(q), p)));
  Reg tq = b.select(is(1), b.neg(p), b.select(is(2), b.neg(q), b.select(is(3), p, q)));
  tp = b.sub(tp, fetch(b, unit, laid.shape_u)), tq = b.sub(tq, fetch(b, unit, laid.shape_v));
  const Reg angle = fetch(b, unit, laid.shape_angle), c = b.apply(Op::cosine, angle), s = b.apply(Op::sine, angle);
  const Reg scale = b.max(fetch(b, unit, laid.shape_scale), b.constant(1e-4f));
  const Reg rp = b.div(b.sub(b.mul(tp, c), b.mul(tq, s)), scale), rq = b.div(b.add(b.mul(tp, s), b.mul(tq, c)), scale);
  const Reg wide = b.div(footprint, b.mul(b.mul(b.min(half_u, half_v), scale), 2));
  // Beyond its square a shape is nothing; just within it, it does not wrap.
  const auto before = [&](Reg t) { return b.clamp(b.add(b.div(b.sub(0.5f, b.abs(t)), wide), 1), 0, 1); };
  return {b.clamp(b.add(rp, 0.5f), 0.002f, 0.998f), b.clamp(b.add(rq, 0.5f), 0.002f, 0.998f), wide,
          b.mul(before(rp), before(rq))};
}

// The value of the shape that each unit was dealt; 1 where it has none.
Reg shape_value(Emitter& e, const std::shared_ptr<const Laid>& laid, Reg unit, Reg x, Reg y, Reg footprint) {
  Builder& b = e.b;
  const Reg one = b.constant(1);
  bool any = false;
  for (const char* peg : kShapes) any |= e.whole(peg) != nullptr;
  if (!any) return one;
  const auto [su, sv, wide, inside] = in_shape(e, *laid, unit, x, y, footprint);
  const Reg dealt = fetch(b, unit, laid->shape);
  Reg value = one;
  for (std::size_t k = 0; k < 4; ++k)
    if (e.whole(kShapes[k]))
      value = b.select(b.apply(Op::equal, dealt, b.constant(static_cast<float>(k) + 1)),
                       b.mul(b.apply(kSample, {su, sv, wide}, e.sampled(kShapes[k], 0), 1)[0], inside), value);
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

// Says what became of the turn, and of counts that were snapped so that the bond closes.
std::string snapped_counts(const NodeCall& c) {
  char text[96];
  if (const LatticeTurn turn = whole_turn(c); turn.copies() > 1) {
    std::snprintf(text, sizeof text, "Turned by %.4g\u00b0, so that the tile closes: the bond stands in it %d times",
                  turn.degrees(), turn.copies());
    return text;
  }
  if (c.toggle("size_kept")) return {};
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

Parameter for_all_shapes(ParameterBuilder p) {
  return p.column("Unit shape")
      .acts_when("max(max(connected(shape_a), connected(shape_b)), max(connected(shape_c), connected(shape_d)))",
                 "There are no unit shapes: connect one.");
}
Parameter of_shapes(ParameterBuilder p) { return for_all_shapes(p.per_unit()); }

}  // namespace

void add_masonry(Catalogue& catalogue) {
  Rule chance;
  chance.to.number = 1;
  const ActsWhen boxes{"(bond != hexagon) * (bond != diamond) * (bond != octagon_and_dot) * (bond != interlocking)",
                       "The units of this bond are no boxes: they stay whole."};
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
            toggle("size_kept", "Unit size kept")
                .column("Bond")
                .help("A unit keeps its length when the bond is changed, and its breadth where units lie in courses; "
                      "else every bond has proportions of its own."),
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
            toggle("diagonal", "Diagonal").column("Whole").help("Lays the whole bond at 45 degrees."),
            integer("quarter_turns", "Quarter turns", 0)
                .count()
                .useful(0, 3)
                .limits(-8, 8)
                .column("Whole")
                .help("Turns the whole bond by right angles."),
            scalar("whole_turn", "Whole turn", 0.0)
                .degrees()
                .useful(-45, 45)
                .limits(-360, 360)
                .column("Whole")
                .help("Turns the whole bond, anticlockwise, by the nearest angle at which it closes; the counts are "
                      "taken so that units keep about their size."),
            vector2("offset", "Offset", 0, 0)
                .share_of_tile()
                .useful(-0.5, 0.5)
                .limits(-64, 64)
                .column("Whole")
                .help("Moves the whole bond."),
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
            scalar("shift_across", "Shift across", 0.0)
                .share()
                .useful(-0.5, 0.5)
                .limits(-4, 4)
                .column("Unit")
                .per_unit()
                .help("Moves a unit across its course, in shares of its breadth."),
            scalar("length", "Length", 1.0)
                .share()
                .useful(0.25, 1)
                .limits(0, 1)
                .column("Unit")
                .per_unit()
                .help("How much of its place along the course a unit fills."),
            scalar("breadth", "Breadth", 1.0)
                .share()
                .useful(0.25, 1)
                .limits(0, 1)
                .column("Unit")
                .per_unit()
                .help("How much of its place across the course a unit fills."),
            scalar("turn", "Turn", 0.0)
                .degrees()
                .useful(-10, 10)
                .limits(-360, 360)
                .column("Unit")
                .per_unit()
                .help("Turns each unit in its place, anticlockwise."),
            scalar("keep", "Keep", 1.0)
                .share()
                .column("Parts")
                .per_unit()
                .help("A unit is kept where this is 0.5 or more."),
            share_kept("Parts", "units"),
            scalar("divide", "Divide", 0.0)
                .share()
                .column("Parts")
                .per_unit()
                .help("Where along its length a unit is divided; 0 leaves it whole.")
                .acts_when(boxes),
            scalar("parts_along", "Parts along", 1.0)
                .count()
                .useful(1, 6)
                .limits(1, 32)
                .column("Parts")
                .per_unit()
                .help("Into how many equal parts a unit is divided along its length, each a unit of its own.")
                .acts_when(boxes),
            scalar("parts_across", "Parts across", 1.0)
                .count()
                .useful(1, 6)
                .limits(1, 32)
                .column("Parts")
                .per_unit()
                .help("Into how many equal parts a unit is divided across its length, each a unit of its own.")
                .acts_when(boxes),
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
            for_all_shapes(choice("shape_fit", "Shape fit", {"stretched", "within", "covering"})
                               .help("Stretched over the unit; or with its proportions kept, as large as lies within "
                                     "it, or as covers it.")),
            of_shapes(scalar("shape_scale", "Shape scale", 1.0)
                          .times()
                          .useful(0.25, 2)
                          .limits(0.01, 64)
                          .help("How large the shape is in its unit.")),
            of_shapes(scalar("shape_angle", "Shape angle", 0.0)
                          .degrees()
                          .useful(-180, 180)
                          .limits(-3600, 3600)
                          .help("Turns the shape in its unit, anticlockwise, beside its quarters.")),
            of_shapes(vector2("shape_shift", "Shape shift", 0, 0)
                          .share()
                          .useful(-0.5, 0.5)
                          .limits(-8, 8)
                          .help("Moves the shape in its unit, in shares of the shape's square.")),
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
