// Transform: shift, turn, scale and mirror a map so that it still closes.
#include <cmath>
#include <cstdio>

#include "core/nodes/node_call.h"

namespace loom {
namespace {

// A turn of repeated content closes only on whole lattice vectors: the nearest one.
struct Whole {
  double p, q;
};
Whole snapped(const NodeCall& c) {
  const double angle = c.number("turn") * 0.017453292519943295, repeats = c.number("repeats");
  const double p = std::round(repeats * std::cos(angle)), q = std::round(repeats * std::sin(angle));
  return p == 0 && q == 0 ? Whole{1, 0} : Whole{p, q};
}

std::string snapped_to(const NodeCall& c) {
  const auto [p, q] = snapped(c);
  const double turn = std::atan2(q, p) * 57.29577951308232, repeats = std::hypot(p, q);
  if (std::abs(std::remainder(turn - c.number("turn"), 360.0)) < 0.005 &&
      std::abs(repeats - c.number("repeats")) < 0.005)
    return {};
  char text[96];
  std::snprintf(text, sizeof text, "Snapped to %.4g\u00b0 and %.4g repeats, so that the tile closes", turn, repeats);
  return text;
}

void emit_transform(Emitter& e) {
  Builder& b = e.b;
  const Field* source = e.whole("source");
  if (!source) return e.out("result", e.in("source"));
  const auto [p, q] = snapped(e);
  const Vector shift = e.vector("shift");
  const Reg u = b.add(b.u(), static_cast<float>(-0.5 - shift[0])),
            v = b.add(b.v(), static_cast<float>(-0.5 - shift[1]));
  const float fp = static_cast<float>(p), fq = static_cast<float>(q);
  Reg x = b.add(b.sub(b.mul(u, fp), b.mul(v, fq)), 0.5f), y = b.add(b.add(b.mul(u, fq), b.mul(v, fp)), 0.5f);
  if (e.toggle("mirror_u")) x = b.sub(1, x);
  if (e.toggle("mirror_v")) y = b.sub(1, y);
  e.out("result", e.read_at("source", x, y, b.footprint(x, y)));
}

}  // namespace

void add_transform(Catalogue& catalogue) {
  catalogue.add({.id = "transform",
                 .label = "Transform",
                 .rack = Rack::move,
                 .help = "Shifts, turns, repeats and mirrors a map; it still tiles.",
                 .more = "Turn and repeats are snapped to the nearest whole lattice vector (p, q): u' = p u - q v, v' "
                         "= q u + p v. Read bilinear from a mean pyramid.",
                 .words = "move rotate scale offset tile mirror flip repeat",
                 .inputs = {whole_peg("source", "Source", Kind::any)},
                 .outputs = {{"result", "Result", Kind::any}},
                 .parameters = {stand_in("source", "Source", 0.0, "Input"),
                                vector2("shift", "Shift", 0, 0)
                                    .share_of_tile()
                                    .useful(-0.5, 0.5)
                                    .limits(-64, 64)
                                    .column("Place")
                                    .acts_when("connected(source)", "There is nothing to move: connect a source.")
                                    .help("How far it is moved."),
                                scalar("turn", "Turn", 0.0)
                                    .degrees()
                                    .useful(-180, 180)
                                    .limits(-3600, 3600)
                                    .column("Place")
                                    .acts_when("connected(source)", "There is nothing to turn: connect a source.")
                                    .help("How far it is turned; snapped with the repeats to a turn that closes."),
                                integer("repeats", "Repeats", 1)
                                    .times()
                                    .useful(1, 8)
                                    .limits(1, 64)
                                    .column("Size")
                                    .acts_when("connected(source)", "There is nothing to repeat: connect a source.")
                                    .help("How many times the map is laid across the tile."),
                                toggle("mirror_u", "Mirror along u")
                                    .column("Mirror")
                                    .acts_when("connected(source)", "There is nothing to mirror: connect a source.")
                                    .help("Changes left and right."),
                                toggle("mirror_v", "Mirror along v")
                                    .column("Mirror")
                                    .acts_when("connected(source)", "There is nothing to mirror: connect a source.")
                                    .help("Changes top and bottom.")},
                 .handles = {{Handle::Form::place, "shift", "", 0.5}, {Handle::Form::angle, "turn", "shift", 0.5}},
                 .emit = emit_transform,
                 .note = snapped_to,
                 .takes_regions = true,
                 .takes_sets = true,
                 .keeps_normals = true});
}

}  // namespace loom
