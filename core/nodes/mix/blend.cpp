// Blend: lower and upper by a mode, where the mask lets it.
#include "core/nodes/blending.h"

namespace loom {
namespace {

void emit_blend(Emitter& e) {
  const Kind kind = e.widest();
  const Reg weight = e.b.mul(e.scalar("mask"), e.real("amount"));
  e.out("result", blended(e.b, e.word("mode"), e.in_as("lower", kind), e.in_as("upper", kind), weight));
}

}  // namespace

void add_blend(Catalogue& catalogue) {
  catalogue.add(
      {.id = "blend",
       .label = "Blend",
       .rack = Rack::mix,
       .help = "Lays the upper over the lower by a mode, as far as mask and amount allow.",
       .more =
           "Formulas of W3C Compositing and Blending Level 1 where it has them, in linear light, without clamping. "
           "Works on the widest of its inputs; of cords every map is blended by its own rule, normals as directions.",
       .words = "mix layer composite over lerp combine",
       .inputs = {{"lower", "Lower", Kind::any}, {"upper", "Upper", Kind::any}, {"mask", "Mask"}},
       .outputs = {{"result", "Result", Kind::any}},
       .parameters = {stand_in("lower", "Lower", 0.0, "Inputs"), stand_in("upper", "Upper", 1.0, "Inputs"),
                      scalar("mask", "Mask", 1.0).share().limits(-1000, 1000).column("Inputs").stands_in(),
                      choice("mode", "Mode", blend_modes(), "plain")
                          .column("Blend")
                          .help("How the upper colour changes the lower one."),
                      scalar("amount", "Amount", 1.0)
                          .share()
                          .limits(-1000, 1000)
                          .column("Blend")
                          .help("How much of the upper is laid on, over the whole tile.")},
       .emit = emit_blend,
       .takes_sets = true,
       .keeps_normals = true});
}

}  // namespace loom
