// Colour adjust: hue, saturation and lightness in a space where they are even to the eye.
#include <cmath>

#include "core/nodes/each_strand.h"

namespace loom {
namespace {

using Three = std::array<Reg, 3>;
using Matrix = std::array<std::array<float, 3>, 3>;

// Oklab after Ottosson, "A perceptual color space for image processing", 2020; his matrices for linear Rec. 709.
constexpr Matrix kToCone{{{0.4122214708f, 0.5363325363f, 0.0514459929f}, {0.2119034982f, 0.6806995451f, 0.1073969566f}, {0.0883024619f, 0.2817188376f, 0.6299787005f}}};
constexpr Matrix kToLab{{{0.2104542553f, 0.7936177850f, -0.0040720468f}, {1.9779984951f, -2.4285922050f, 0.4505937099f}, {0.0259040371f, 0.7827717662f, -0.8086757660f}}};
constexpr Matrix kFromLab{{{1, 0.3963377774f, 0.2158037573f}, {1, -0.1055613458f, -0.0638541728f}, {1, -0.0894841775f, -1.2914855480f}}};
constexpr Matrix kFromCone{{{4.0767416621f, -3.3077115913f, 0.2309699292f}, {-1.2684380046f, 2.6097574011f, -0.3413193965f}, {-0.0041960863f, -0.7034186147f, 1.7076147010f}}};

Three times(Builder& b, const Matrix& m, const Three& x) {
  Three out;
  for (std::size_t i = 0; i < 3; ++i) out[i] = b.multiply_add(x[0], b.constant(m[i][0]), b.multiply_add(x[1], b.constant(m[i][1]), b.mul(x[2], m[i][2])));
  return out;
}

Reg cube_root(Builder& b, Reg x) { return b.mul(b.apply(Op::sign, x), b.apply(Op::power, b.abs(x), b.constant(1.0f / 3))); }

void emit(Emitter& e) {
  Builder& b = e.b;
  const Strands in = e.in("colour");
  Three cone = times(b, kToCone, {in.at[0], in.at[1], in.at[2]});
  for (Reg& c : cone) c = cube_root(b, c);
  Three lab = times(b, kToLab, cone);
  const float turn = e.real("hue") * 0.017453292519943f, saturation = e.real("saturation"), c = saturation * std::cos(turn), s = saturation * std::sin(turn);
  const Three turned{b.mul(lab[0], e.real("lightness")), b.sub(b.mul(lab[1], c), b.mul(lab[2], s)), b.multiply_add(lab[1], b.constant(s), b.mul(lab[2], c))};
  Three back = times(b, kFromLab, {b.add(turned[0], e.real("lift")), turned[1], b.add(turned[2], 0.1f * e.real("warmth"))});
  for (Reg& x : back) x = b.mul(b.mul(x, x), x);
  const Three rgb = times(b, kFromCone, back);
  const Reg amount = e.scalar("mask");
  Strands out{.kind = Kind::colour};
  for (std::size_t i = 0; i < 3; ++i) out.at[i] = b.mix(in.at[i], rgb[i], amount);
  e.out("colour", out);
}

}  // namespace

void add_colour_adjust(Catalogue& catalogue) {
  catalogue.add({.id = "colour_adjust", .label = "Colour adjust", .rack = Rack::tone, .help = "Turns the hue, and scales saturation and lightness, as far as the mask allows.",
    .more = "In Oklab (Ottosson 2020): hue turns the a-b plane, saturation scales it, lightness scales L, lift adds to L, warmth adds to b (0.1 a unit). With everything at its start nothing changes.",
    .words = "hsl hue saturation lightness brightness vibrance warm cool tint",
    .inputs = {{"colour", "Colour", Kind::colour}, {"mask", "Mask"}}, .outputs = {{"colour", "Colour", Kind::colour}},
    .parameters = {
      {"colour", "Colour", ParameterKind::colour, Unit::none, Vector{0.4, 0.2, 0.1}, {0, 1}, {0, 1000}, "Input", {}, {"connected(colour) == 0", "It comes in at its peg."}},
      {"mask", "Mask", ParameterKind::scalar, Unit::share, 1.0, {0, 1}, {-1000, 1000}, "Input", {}, {"connected(mask) == 0", "It comes in at its peg."}},
      {"hue", "Hue", ParameterKind::scalar, Unit::degrees, 0.0, {-180, 180}, {-3600, 3600}, "Colour"},
      {"saturation", "Saturation", ParameterKind::scalar, Unit::times, 1.0, {0, 2}, {0, 100}, "Colour"},
      {"warmth", "Warmth", ParameterKind::scalar, Unit::none, 0.0, {-1, 1}, {-10, 10}, "Colour"},
      {"lightness", "Lightness", ParameterKind::scalar, Unit::times, 1.0, {0, 2}, {0, 100}, "Light"},
      {"lift", "Lift", ParameterKind::scalar, Unit::none, 0.0, {-0.5, 0.5}, {-10, 10}, "Light"}},
    .emit = emit});
}

}  // namespace loom
