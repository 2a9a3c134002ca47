// Masonry: units laid in a bond. First every unit gets its place; then rules vary it; then any position finds its unit.
#include <algorithm>
#include <cmath>

#include "core/base/hash.h"
#include "core/nodes/laid_outputs.h"

namespace loom {
namespace {

// A unit before its rules: along its length, with joints still in it.
struct Place { float u, v, long_side, short_side, degrees; };

struct Bond {
  int units_across = 1, courses = 1;  // as snapped
  UnitSamples samples;
  std::vector<Place> places;
};

int up_to_multiple(int n, int of) { return std::max(of, (n + of - 1) / of * of); }

// Straight courses. Stack: no offset. Running: every second course is moved by the stagger. Third: each by a third more.
Bond lay_courses(const NodeCall& c) {
  Bond bond;
  const bool running = c.is("bond", "running"), third = c.is("bond", "third");
  bond.units_across = std::max(1, c.integer("units_across"));
  bond.courses = std::max(1, c.toggle("linked") ? 2 * bond.units_across : c.integer("courses"));
  if (running) bond.courses = up_to_multiple(bond.courses, 2);
  if (third) bond.courses = up_to_multiple(bond.courses, 3);
  const float wide = 1.0f / static_cast<float>(bond.units_across), tall = 1.0f / static_cast<float>(bond.courses);
  for (int row = 0; row < bond.courses; ++row) {
    const float offset = running ? (row % 2 ? c.real("stagger") : 0.0f) : third ? static_cast<float>(row % 3) / 3.0f : 0.0f;
    for (int column = 0; column < bond.units_across; ++column)
      bond.places.push_back({(static_cast<float>(column) + 0.5f + offset) * wide, (static_cast<float>(row) + 0.5f) * tall, wide, tall, 0});
  }
  return bond;
}

// Units of two cells on a grid of cells that closes every four: herringbone steps one cell a row, basket weave turns
// each block of two by two. Source: the cell maps of the two bonds, rows counted upwards.
Bond lay_two_cells(const NodeCall& c) {
  Bond bond;
  bond.units_across = up_to_multiple(std::max(2, c.integer("units_across")), 2);
  bond.courses = up_to_multiple(std::max(2, c.toggle("linked") ? bond.units_across : c.integer("courses")), 2);
  const int nu = 2 * bond.units_across, nv = 2 * bond.courses;
  const float cu = 1.0f / static_cast<float>(nu), cv = 1.0f / static_cast<float>(nv);
  const bool herringbone = c.is("bond", "herringbone");
  for (int y = 0; y < nv; ++y)
    for (int x = 0; x < nu; ++x) {
      const int phase = herringbone ? ((x - y) % 4 + 4) % 4 : (x / 2 + y / 2) % 2 ? (y % 2 ? 4 : 2) : (x % 2 ? 4 : 0);
      const float u = static_cast<float>(x), v = static_cast<float>(y);
      if (phase == 0) bond.places.push_back({(u + 1) * cu, (v + 0.5f) * cv, 2 * cu, cv, 0});         // lies along u
      else if (phase == (herringbone ? 3 : 2)) bond.places.push_back({(u + 0.5f) * cu, (v + 1) * cv, 2 * cv, cu, 90});   // stands along v
    }
  return bond;
}

Bond lay_bond(const NodeCall& c) {
  Bond bond = c.is("bond", "herringbone") || c.is("bond", "basket_weave") ? lay_two_cells(c) : lay_courses(c);
  const int turns = ((c.integer("quarter_turns") % 4) + 4) % 4;
  for (Place& p : bond.places)
    for (int k = 0; k < turns; ++k) {
      const float u = p.u;
      p.u = p.v;
      p.v = 1 - u;
      p.degrees += 90;
    }
  std::stable_sort(bond.places.begin(), bond.places.end(), [](const Place& a, const Place& b) { return a.v < b.v - 1e-5f; });
  // Courses and columns count from the top left; a key is a place in the bond, so it survives any change of size.
  float row = -1, last_v = -1, column = 0, most = 0;
  for (const Place& p : bond.places) {
    if (p.v > last_v + 1e-5f) row += 1, column = 0, last_v = p.v;
    const bool upright = static_cast<int>(p.degrees) % 180 != 0;
    bond.samples.add(row, column, p.u, p.v, upright ? p.short_side : p.long_side, upright ? p.long_side : p.short_side, pcg(static_cast<std::uint32_t>(bond.samples.count()) + 1));
    most = std::max(most, column += 1);
  }
  bond.samples.rows = row + 1;
  bond.samples.columns = most;
  return bond;
}

std::shared_ptr<const Laid> lay(Emitter& e) {
  auto laid = std::make_shared<Laid>();
  const Bond bond = lay_bond(e);
  const UnitSamples& s = bond.samples;
  const auto shift = e.per_unit("shift", s), length = e.per_unit("length", s), rounding = e.per_unit("edge_rounding", s),
             corner = e.per_unit("corner_radius", s), turn = e.per_unit("turn", s), slant_u = e.per_unit("slant_u", s),
             slant_v = e.per_unit("slant_v", s), tone = e.per_unit("tone", s), keep = e.per_unit("keep", s);
  const float bed = e.real("bed_joint"), cross = e.real("cross_joint");
  LaidUnits& u = laid->units;
  for (std::size_t i = 0; i < s.count(); ++i) {
    const Place& p = bond.places[i];
    // Bed joints lie between courses, cross joints between the ends of neighbours; a unit gives half of each.
    const float half_u = 0.5f * (p.long_side * length[i] - cross), half_v = 0.5f * (p.short_side - bed);
    if (keep[i] < 0.5f || half_u <= 0 || half_v <= 0) continue;
    const float degrees = p.degrees + turn[i], radians = degrees * 0.017453292519943f;
    const float along = shift[i] * p.long_side, base = p.degrees * 0.017453292519943f;
    const auto fraction = [](float x) { return x - std::floor(x); };
    u.centre_u.push_back(fraction(p.u + along * std::cos(base)));
    u.centre_v.push_back(fraction(p.v - along * std::sin(base)));
    u.half_u.push_back(half_u);
    u.half_v.push_back(half_v);
    u.cosine.push_back(std::cos(radians));
    u.sine.push_back(std::sin(radians));
    u.radius.push_back(corner[i] * std::min(half_u, half_v));
    laid->tone.push_back(tone[i]);
    laid->turn.push_back(degrees);
    laid->rounding.push_back(rounding[i] * std::min(half_u, half_v));
    laid->slant_u.push_back(slant_u[i]);
    laid->slant_v.push_back(slant_v[i]);
    const std::size_t k = laid->regions->count();
    laid->regions->resize(k + 1);
    describe_region(*laid, k, std::bit_cast<std::uint32_t>(s.key[i]), u.centre_u[k], u.centre_v[k], half_u, half_v, degrees);
  }
  index_units(u, std::max({0.75f * std::max(bed, cross), 1.0f / static_cast<float>(e.size())}));
  return laid;
}

void emit(Emitter& e) {
  Builder& b = e.b;
  const auto laid = e.laid<Laid>([&] { return lay(e); });
  const auto [u, v, footprint] = e.position();
  const auto found = b.apply(Op::laid, {u, v}, std::shared_ptr<const Resource>(laid, &laid->units), 4);
  const Reg unit = found[0], x = found[1], y = found[2], distance = found[3], zero = b.constant(0), one = b.constant(1);
  const Reg mask = b.clamp(b.sub(0.5f, b.div(distance, footprint)), 0, 1);
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
  emit_unit_outputs(e, laid, laid->units, b.select(under, unit, b.constant(-1)), x, y);
}

}  // namespace

void add_masonry(Catalogue& catalogue) {
  Rule chance;
  chance.to.number = 1;
  catalogue.add({.id = "masonry", .label = "Masonry", .rack = Rack::make, .help = "Units laid in a bond, told apart, each varied by rule.",
    .more = "Counts are snapped so that the bond closes: running to an even number of courses, third to threes, herringbone and basket weave to even counts. Edges come from exact distances, so joints are even at any size.",
    .words = "brick tile paving wall herringbone basket weave running stack stretcher pattern floor",
    .inputs = laid_inputs(), .outputs = laid_outputs(),
    .parameters = {
      {"bond", "Bond", ParameterKind::choice, Unit::none, std::string("running"), {}, {}, "Bond", {"stack", "running", "third", "herringbone", "basket_weave"}},
      {"units_across", "Units across", ParameterKind::integer, Unit::count, 8.0, {2, 24}, {1, 256}, "Bond"},
      {"linked", "Linked", ParameterKind::toggle, Unit::none, 1.0, {0, 1}, {0, 1}, "Bond"},
      {"courses", "Courses", ParameterKind::integer, Unit::count, 16.0, {2, 48}, {1, 512}, "Bond", {}, {"linked == 0", "The courses follow the units across: they are linked."}},
      {"stagger", "Stagger", ParameterKind::scalar, Unit::share, 0.5, {0, 1}, {-1, 1}, "Bond", {}, {"bond == running", "Only a running bond is staggered."}},
      {"quarter_turns", "Quarter turns", ParameterKind::integer, Unit::count, 0.0, {0, 3}, {-8, 8}, "Bond"},
      {"bed_joint", "Bed joint", ParameterKind::scalar, Unit::share_of_tile, 0.012, {0, 0.05}, {0, 0.5}, "Joints"},
      {"cross_joint", "Cross joint", ParameterKind::scalar, Unit::share_of_tile, 0.012, {0, 0.05}, {0, 0.5}, "Joints"},
      per_unit("shift", "Shift", Unit::share, 0.0, {-0.5, 0.5}, {-4, 4}, "Unit"),
      per_unit("length", "Length", Unit::share, 1.0, {0.25, 1}, {0, 1}, "Unit"),
      per_unit("turn", "Turn", Unit::degrees, 0.0, {-10, 10}, {-360, 360}, "Unit"),
      per_unit("keep", "Keep", Unit::share, 1.0, {0, 1}, {0, 1}, "Unit", "A unit is kept where this is 0.5 or more."),
      per_unit("edge_rounding", "Edge rounding", Unit::share, 0.2, {0, 1}, {0, 1}, "Shape"),
      per_unit("corner_radius", "Corner radius", Unit::share, 0.1, {0, 1}, {0, 1}, "Shape"),
      per_unit("slant_u", "Slant along", Unit::share, 0.0, {-1, 1}, {-4, 4}, "Shape"),
      per_unit("slant_v", "Slant across", Unit::share, 0.0, {-1, 1}, {-4, 4}, "Shape"),
      per_unit("tone", "Tone", Unit::share, chance, {0, 1}, {-1000, 1000}, "Tone"),
      {"seed", "Seed", ParameterKind::seed, Unit::none, 1.0, {0, 999}, {0, 1e9}, "Tone"}},
    .emit = emit, .random = true, .costly = true});
}

}  // namespace loom
