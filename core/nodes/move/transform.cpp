// Transform: a map laid in whole repeats that close, or one copy of it of any size and turn.
#include <cmath>
#include <cstdio>

#include "core/nodes/blending.h"
#include "core/nodes/node_call.h"

namespace loom {
namespace {

constexpr double kRadians = 0.017453292519943295;  // of a degree

// A turn of repeated content closes only on whole lattice vectors: the nearest one.
struct Whole {
  double p, q;
};
Whole snapped(const NodeCall& c) {
  const double angle = c.number("turn") * kRadians, repeats = c.number("repeats");
  const double p = std::round(repeats * std::cos(angle)), q = std::round(repeats * std::sin(angle));
  return p == 0 && q == 0 ? Whole{1, 0} : Whole{p, q};
}

std::string snapped_to(const NodeCall& c) {
  if (c.is("mode", "one_copy")) return {};
  const auto [p, q] = snapped(c);
  const double turn = std::atan2(q, p) / kRadians, repeats = std::hypot(p, q);
  if (std::abs(std::remainder(turn - c.number("turn"), 360.0)) < 0.005 &&
      std::abs(repeats - c.number("repeats")) < 0.005)
    return {};
  char text[96];
  std::snprintf(text, sizeof text, "Snapped to %.4g\u00b0 and %.4g repeats, so that the tile closes", turn, repeats);
  return text;
}

// Where a sample lies in what is laid, 0 to 1 over the copy, and how much of the sample the copy covers.
struct Laid {
  Reg x, y, footprint, inside;
};

Laid mirrored(const Emitter& e, Laid at) {
  Builder& b = e.b;
  if (e.toggle("mirror_u")) at.x = b.sub(1, at.x);
  if (e.toggle("mirror_v")) at.y = b.sub(1, at.y);
  at.footprint = b.footprint(at.x, at.y);
  return at;
}

Laid whole_repeats(const Emitter& e, Reg du, Reg dv) {
  Builder& b = e.b;
  const auto [p, q] = snapped(e);
  const float fp = static_cast<float>(p), fq = static_cast<float>(q);
  return {b.add(b.sub(b.mul(du, fp), b.mul(dv, fq)), 0.5f), b.add(b.add(b.mul(du, fq), b.mul(dv, fp)), 0.5f), Reg{},
          b.constant(1)};
}

// What sticks out of the tile comes in at its other side: of the copies in the tiles around, the sample belongs to the
// one whose box it lies deepest in, or nearest to.
Laid one_copy(const Emitter& e, Reg du, Reg dv, Reg footprint) {
  Builder& b = e.b;
  const Vector size = e.vector("size");
  const double angle = e.number("turn") * kRadians, c = std::cos(angle), s = std::sin(angle);
  const auto tiles_out = [](double half) { return static_cast<int>(std::ceil(half - 0.5 + 0.01)); };
  const int out_u = tiles_out((std::abs(c) * size[0] + std::abs(s) * size[1]) / 2),
            out_v = tiles_out((std::abs(s) * size[0] + std::abs(c) * size[1]) / 2);
  const float half_u = static_cast<float>(size[0] / 2), half_v = static_cast<float>(size[1] / 2);
  Reg along{}, across{}, out{};  // from the copy's middle, along its own u and v; how far beyond its nearer side
  for (int j = -out_v; j <= out_v; ++j)
    for (int i = -out_u; i <= out_u; ++i) {
      const Reg u = b.add(du, static_cast<float>(i)), v = b.add(dv, static_cast<float>(j));
      const Reg x = b.sub(b.mul(u, static_cast<float>(c)), b.mul(v, static_cast<float>(s))),
                y = b.add(b.mul(u, static_cast<float>(s)), b.mul(v, static_cast<float>(c)));
      const Reg beyond = b.max(b.add(b.abs(x), -half_u), b.add(b.abs(y), -half_v));
      if (j == -out_v && i == -out_u) {
        along = x, across = y, out = beyond;
        continue;
      }
      const Reg nearer = b.less(beyond, out);
      along = b.select(nearer, x, along), across = b.select(nearer, y, across), out = b.min(out, beyond);
    }
  // An edge fades over one sample; its half goes to either side.
  const auto covered = [&](Reg t, float half) {
    return b.clamp(b.add(b.div(b.sub(half, b.abs(t)), footprint), 0.5f), 0, 1);
  };
  // Beside the copy its border goes on, for those who take the coordinates.
  const auto over = [&](Reg t, double length) {
    return b.clamp(b.add(b.mul(t, static_cast<float>(1 / length)), 0.5f), 0, 1);
  };
  return {over(along, size[0]), over(across, size[1]), Reg{}, b.mul(covered(along, half_u), covered(across, half_v))};
}

// The ground in the kind of what lies on it.
Strands ground_for(Emitter& e, const Strands& copy) {
  if (e.connected("ground") || copy.kind != Kind::set) return e.in_as("ground", copy.kind);
  Strands all{.kind = Kind::set};
  for (const auto& [name, member] : copy.members) all.members.emplace_back(name, e.in_as("ground", member.kind));
  return all;
}

void emit_transform(Emitter& e) {
  Builder& b = e.b;
  const bool one = e.is("mode", "one_copy");
  const auto [u, v, footprint] = e.position_with_slopes();
  const Vector shift = e.vector("shift");
  // From the copy's middle; whole tiles away it is the same.
  const Reg du = b.add(b.fract(b.add(u, static_cast<float>(-shift[0]))), -0.5f),
            dv = b.add(b.fract(b.add(v, static_cast<float>(-shift[1]))), -0.5f);
  const Laid at = mirrored(e, one ? one_copy(e, du, dv, footprint) : whole_repeats(e, du, dv));
  e.out_place("coordinates", at.x, at.y, at.footprint);
  e.out("mask", at.inside);
  const Field* source = e.whole("source");
  if (source && source->kind == Kind::regions) return e.out("result", e.read_regions("source", at.x, at.y, at.inside));
  const Strands copy = source ? e.read_at("source", at.x, at.y, at.footprint) : e.in("source");
  e.out("result", one ? blended(b, "plain", ground_for(e, copy), copy, at.inside) : copy);
}

// The ground is turned into it.
Kind transform_gives(const Node&, const std::function<Kind(const std::string&)>& of) { return of("source"); }

}  // namespace

void add_transform(Catalogue& catalogue) {
  const ActsWhen one{"mode == one_copy", "Whole repeats are as large as the tile divided by their number."};
  catalogue.add(
      {.id = "transform",
       .label = "Transform",
       .rack = Rack::move,
       .help = "Shifts, turns, repeats and mirrors a map, or lays one copy of it on a ground; it still tiles.",
       .more =
           "Whole repeats: turn and repeats are snapped to the nearest whole lattice vector (p, q): u' = p u - q v, "
           "v' = q u + p v. One copy: any size and turn; what sticks out of the tile comes in at its other side, "
           "and its edge fades over one texel. Coordinates run from 0 to 1 over each copy, for Make and Image "
           "nodes; beside the one copy they stay at its border. Read bilinear from a mean pyramid.",
       .words = "move rotate scale offset tile mirror flip repeat place decal stamp stretch resize free",
       .inputs = {whole_peg("source", "Source", Kind::any),
                  {.id = "ground", .label = "Ground", .kind = Kind::any, .shown_when = "mode == one_copy"},
                  place_peg_with_slopes("coordinates", "Coordinates")},
       .outputs = {{"result", "Result", Kind::any}, place_peg("coordinates", "Coordinates"), {"mask", "Copy"}},
       .parameters = {stand_in("source", "Source", 0.0, "Input"),
                      stand_in("ground", "Ground", 0.0, "Input")
                          .stands_in("(mode == one_copy) * (connected(ground) == 0)",
                                     "Whole repeats leave no ground, or it comes in at its peg."),
                      choice("mode", "Mode", {"whole_repeats", "one_copy"})
                          .column("Mode")
                          .help("Whole repeats fill the tile and close; one copy stands free on a ground."),
                      vector2("shift", "Shift", 0, 0)
                          .share_of_tile()
                          .useful(-0.5, 0.5)
                          .limits(-64, 64)
                          .column("Place")
                          .help("How far it is moved."),
                      scalar("turn", "Turn", 0.0)
                          .degrees()
                          .useful(-180, 180)
                          .limits(-3600, 3600)
                          .column("Place")
                          .help("How far it is turned, anticlockwise. Of whole repeats it is snapped, with their "
                                "number, to a turn that closes."),
                      integer("repeats", "Repeats", 1)
                          .times()
                          .useful(1, 8)
                          .limits(1, 64)
                          .column("Size")
                          .acts_when("mode == whole_repeats", "One copy is not repeated.")
                          .help("How many times the map is laid across the tile."),
                      vector2("size", "Size", 0.5, 0.5)
                          .share_of_tile()
                          .useful(0.05, 1)
                          .limits(0.001, 2)
                          .column("Size")
                          .acts_when(one)
                          .help("How long the copy is along its own u and v."),
                      toggle("mirror_u", "Mirror along u").column("Mirror").help("Changes left and right."),
                      toggle("mirror_v", "Mirror along v").column("Mirror").help("Changes top and bottom.")},
       .handles = {{Handle::Form::place, "shift", "", 0.5},
                   {Handle::Form::box, "size", "shift", 0.5, 1, "", "turn"},
                   {Handle::Form::angle, "turn", "shift", 0.5}},
       .emit = emit_transform,
       .gives = transform_gives,
       .note = snapped_to,
       .takes_regions = true,
       .takes_sets = true,
       .keeps_normals = true});
}

}  // namespace loom
