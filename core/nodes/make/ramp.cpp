// Ramp: straight, mirrored, radial or angular.
#include "core/nodes/node_call.h"
#include "core/nodes/positions.h"

namespace loom {
namespace {

void emit_ramp(Emitter& e) {
  Builder& b = e.b;
  const auto [u, v, footprint] = e.position();
  const float repeats = e.real("repeats");
  if (e.is("kind", "straight") || e.is("kind", "mirrored")) {
    const Reg t = lattice_phase(b, lattice_vector(e.number("repeats"), e.number("angle")), u, v);
    if (e.is("kind", "straight")) return e.out("value", b.fract(t));
    return e.out("value", b.sub(1, b.abs(b.sub(1, b.mul(b.fract(t), 2)))));
  }
  const Reg x = b.add(b.fract(u), -0.5f), y = b.add(b.fract(v), -0.5f);
  if (e.is("kind", "radial")) return e.out("value", b.max(b.sub(1, b.mul(b.length(x, y), 2 * repeats)), b.constant(0)));
  const Reg turn = b.mul(b.apply(Op::arctangent2, b.neg(y), x), 0.15915494309f * repeats);
  e.out("value", b.fract(b.add(turn, e.real("angle") / -360.0f * repeats)));
}

}  // namespace

void add_ramp(Catalogue& catalogue) {
  catalogue.add(
      {.id = "ramp",
       .label = "Ramp",
       .rack = Rack::make,
       .help = "An even ramp: rising straight, there and back, falling from the middle, or rising round it.",
       .words = "gradient linear radial angular saw triangle",
       .inputs = {place_peg("coordinates", "Coordinates")},
       .outputs = {{"value", "Value"}},
       .parameters = {choice("kind", "Kind", {"straight", "mirrored", "radial", "angular"}, "mirrored")
                          .column("Ramp")
                          .help("Straight runs from 0 to 1 and has a seam; mirrored runs up and down; radial runs "
                                "outwards; angular runs round."),
                      scalar("angle", "Angle", 0.0)
                          .degrees()
                          .useful(0, 360)
                          .limits(-360, 360)
                          .column("Ramp")
                          .acts_when("kind != radial", "A radial ramp looks the same from all sides.")
                          .help("Which way the ramp rises, anticlockwise from the right; snapped so that it closes."),
                      integer("repeats", "Repeats", 1)
                          .times()
                          .useful(1, 16)
                          .limits(1, 256)
                          .column("Ramp")
                          .help("How many times the ramp runs over the tile.")},
       .handles = {{Handle::Form::angle, "angle"}},
       .emit = emit_ramp,
       .follows_positions = true});
}

}  // namespace loom
