// Polar: coordinates that run round and out, for Make nodes or for a map.
#include <cmath>

#include "core/nodes/node_call.h"
#include "core/nodes/turns.h"

namespace loom {
namespace {

void emit_polar(Emitter& e) {
  Builder& b = e.b;
  const auto [u, v, footprint] = e.position_with_slopes();
  const Vector centre = e.vector("centre");
  const Reg x = b.add(b.fract(b.add(u, static_cast<float>(0.5 - centre[0]))), -0.5f),
            y = b.add(b.fract(b.add(v, static_cast<float>(0.5 - centre[1]))), -0.5f);
  const Reg radius = b.mul(b.length(x, y), 2);  // 1 at the circle that touches the tile's sides
  const float inner = e.real("inner"), width = std::max(e.real("outer") - inner, 1e-4f);
  const Reg angle = b.add(b.mul(b.apply(Op::arctangent2, b.neg(y), x), 1 / kTau), -e.real("turn") / 360);
  const float arc = std::max(e.real("arc"), 1e-4f) / 360;
  const Reg round = b.div(b.fract(angle), b.constant(arc)), out = b.mul(b.add(radius, -inner), 1 / width);
  const Reg kept = e.toggle("keep_ring") ? b.clamp(out, 0, 1) : out;
  const bool rings = e.is("way", "to_rings");
  const Reg p = rings ? round : kept, q = rings ? kept : round;
  const Reg wide = b.footprint(p, q);
  e.out_place("coordinates", p, q, wide);
  const Reg soft = b.mul(footprint, 1 / width);
  const Reg ring = b.mul(b.smoothstep(b.neg(soft), soft, out), b.smoothstep(b.add(soft, 1), b.sub(1, soft), out));
  e.out("mask", arc >= 1 ? ring : b.mul(ring, b.apply(Op::less_equal, round, b.constant(1))));
  e.out("result", e.whole("source") ? e.read_at("source", p, q, wide) : e.in("source"));
}

}  // namespace

void add_polar(Catalogue& catalogue) {
  catalogue.add(
      {.id = "polar",
       .label = "Polar",
       .rack = Rack::move,
       .help = "Bends a map, or a Make node's coordinates, round the middle.",
       .more = "Angle from arctangent of (y, x), anticlockwise from the right; length 1 at the circle that touches the "
               "tile. To rings: u runs round, v outwards; to rays: the other way. An inner radius of 0 with outer 1 is "
               "the full disc. Beyond the circle it runs on into the corners unless the ring is kept.",
       .words = "radial circle bend wrap ring arc cartesian",
       .inputs = {place_peg_with_slopes("coordinates", "Coordinates"), whole_peg("source", "Source", Kind::any)},
       .outputs = {place_peg("coordinates", "Coordinates"), {"mask", "Ring"}, {"result", "Result", Kind::any}},
       .parameters = {stand_in("source", "Source", 0.0, "Input"),
                      choice("way", "Way", {"to_rings", "to_rays"})
                          .column("Way")
                          .help("To rings: u runs round and v outwards. To rays: the other way about."),
                      scalar("inner", "Inner radius", 0.0)
                          .share()
                          .useful(0, 0.9)
                          .limits(-4, 4)
                          .column("Ring")
                          .help("The radius at which the ring begins; 1 touches the tile's sides."),
                      scalar("outer", "Outer radius", 1.0)
                          .share()
                          .useful(0.1, 1.5)
                          .limits(-4, 8)
                          .column("Ring")
                          .help("The radius at which the ring ends; 1 touches the tile's sides."),
                      toggle("keep_ring", "Keep to the ring")
                          .column("Ring")
                          .help("Outside the ring its border is read on, instead of the pattern running on."),
                      scalar("arc", "Arc", 360.0)
                          .degrees()
                          .useful(30, 360)
                          .limits(1, 360)
                          .column("Angle")
                          .help("Over how many degrees the pattern runs round once."),
                      scalar("turn", "Turn", 0.0)
                          .degrees()
                          .useful(0, 360)
                          .limits(-3600, 3600)
                          .column("Angle")
                          .help("At which angle it begins, anticlockwise from the right."),
                      vector2("centre", "Centre", 0.5, 0.5)
                          .share_of_tile()
                          .limits(-64, 64)
                          .column("Place")
                          .help("The middle that it is bent about.")},
       .handles = {{Handle::Form::place, "centre"},
                   {Handle::Form::radius, "inner", "centre", 0, 0.5},
                   {Handle::Form::radius, "outer", "centre", 0, 0.5},
                   {Handle::Form::angle, "turn", "centre"}},
       .emit = emit_polar,
       .takes_regions = true,
       .takes_sets = true,
       .keeps_normals = true,
       .follows_positions = true});
}

}  // namespace loom
