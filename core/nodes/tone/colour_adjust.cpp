// Colour adjust: hue, saturation and lightness in a space where they are even to the eye.
#include <cmath>

#include "core/nodes/each_strand.h"
#include "core/nodes/oklab.h"

namespace loom {
namespace {

void emit_colour_adjust(Emitter& e) {
  Builder& b = e.b;
  const Strands in = e.in("colour");
  const Three lab = oklab_from_linear(b, {in.at[0], in.at[1], in.at[2]});
  const float turn = e.real("hue") * 0.017453292519943f, saturation = e.real("saturation"),
              c = saturation * std::cos(turn), s = saturation * std::sin(turn);
  const Three turned{b.mul(lab[0], e.real("lightness_scale")), b.sub(b.mul(lab[1], c), b.mul(lab[2], s)),
                     b.multiply_add(lab[1], b.constant(s), b.mul(lab[2], c))};
  const Three rgb = linear_from_oklab(
      b, {b.add(turned[0], e.real("lightness")), turned[1], b.add(turned[2], 0.1f * e.real("warmth"))});
  const Reg amount = e.scalar("mask");
  Strands out{.kind = Kind::colour};
  for (std::size_t i = 0; i < 3; ++i) out.at[i] = b.mix(in.at[i], rgb[i], amount);
  e.out("colour", out);
}

}  // namespace

void add_colour_adjust(Catalogue& catalogue) {
  catalogue.add(
      {.id = "colour_adjust",
       .label = "Colour adjust",
       .rack = Rack::tone,
       .help = "Turns the hue, and scales saturation and lightness, as far as the mask allows.",
       .more = "In Oklab (Ottosson 2020): hue turns the a-b plane, saturation scales it, lightness scales L, lift adds "
               "to L, warmth adds to b (0.1 a unit). With everything at its start nothing changes.",
       .words = "hsl hue saturation lightness brightness vibrance warm cool tint",
       .inputs = {{"colour", "Colour", Kind::colour}, {"mask", "Mask"}},
       .outputs = {{"colour", "Colour", Kind::colour}},
       .parameters = {colour("colour", "Colour", {0.4, 0.2, 0.1}).limits(0, 1000).column("Input").stands_in(),
                      scalar("mask", "Mask", 1.0).share().limits(-1000, 1000).column("Input").stands_in(),
                      scalar("hue", "Hue", 0.0)
                          .degrees()
                          .useful(-180, 180)
                          .limits(-3600, 3600)
                          .column("Colour")
                          .help("Turns all hues round the circle."),
                      scalar("saturation", "Saturation", 1.0)
                          .times()
                          .useful(0, 2)
                          .limits(0, 100)
                          .column("Colour")
                          .help("How many times as full the colours are: 0 is grey."),
                      scalar("warmth", "Warmth", 0.0)
                          .useful(-1, 1)
                          .limits(-10, 10)
                          .column("Colour")
                          .help("Above 0 towards yellow, below 0 towards blue."),
                      scalar("lightness_scale", "Lightness scale", 1.0)
                          .times()
                          .useful(0, 2)
                          .limits(0, 100)
                          .column("Light")
                          .help("How many times as light the colours are."),
                      scalar("lightness", "Lightness", 0.0)
                          .useful(-0.5, 0.5)
                          .limits(-10, 10)
                          .column("Light")
                          .help("Added to the lightness: raises or lowers dark and light alike.")},
       .emit = emit_colour_adjust});
}

}  // namespace loom
