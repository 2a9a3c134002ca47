// Blend: lower and upper by a mode, where the mask lets it.
#include "core/nodes/each_strand.h"

namespace loom {
namespace {

// The formulas of W3C Compositing and Blending Level 1, section 10, where it has them; nothing is clamped.
Reg mixed(Builder& b, const std::string& mode, Reg lower, Reg upper) {
  const Reg one = b.constant(1), zero = b.constant(0), half = b.constant(0.5f);
  const auto screen = [&](Reg p, Reg q) { return b.sub(b.add(p, q), b.mul(p, q)); };
  const auto hard_light = [&](Reg p, Reg q) { return b.select(b.apply(Op::less_equal, q, half), b.mul(p, b.mul(q, 2)), screen(p, b.add(b.mul(q, 2), -1))); };
  if (mode == "add") return b.add(lower, upper);
  if (mode == "subtract") return b.sub(lower, upper);
  if (mode == "multiply") return b.mul(lower, upper);
  if (mode == "divide") return b.div(lower, upper);
  if (mode == "screen") return screen(lower, upper);
  if (mode == "overlay") return hard_light(upper, lower);
  if (mode == "hard_light") return hard_light(lower, upper);
  if (mode == "darken") return b.min(lower, upper);
  if (mode == "lighten") return b.max(lower, upper);
  if (mode == "difference") return b.abs(b.sub(lower, upper));
  if (mode == "exclusion") return b.sub(b.add(lower, upper), b.mul(b.mul(lower, upper), 2));
  if (mode == "colour_dodge") return b.select(b.apply(Op::equal, lower, zero), zero, b.select(b.apply(Op::less_equal, one, upper), one, b.min(one, b.div(lower, b.sub(one, upper)))));
  if (mode == "colour_burn") return b.select(b.apply(Op::equal, lower, one), one, b.select(b.apply(Op::less_equal, upper, zero), zero, b.sub(one, b.min(one, b.div(b.sub(one, lower), upper)))));
  if (mode == "soft_light") {
    const Reg curve = b.select(b.apply(Op::less_equal, lower, b.constant(0.25f)), b.mul(b.multiply_add(b.multiply_add(lower, b.constant(16), b.constant(-12)), lower, b.constant(4)), lower), b.root(lower));
    const Reg dark = b.sub(lower, b.mul(b.mul(b.sub(one, b.mul(upper, 2)), lower), b.sub(one, lower)));
    const Reg light = b.add(lower, b.mul(b.add(b.mul(upper, 2), -1), b.sub(curve, lower)));
    return b.select(b.apply(Op::less_equal, upper, half), dark, light);
  }
  return upper;
}

void emit(Emitter& e) {
  Builder& b = e.b;
  const Kind kind = e.widest();
  const Strands lower = convert(b, e.in("lower"), kind), upper = convert(b, e.in("upper"), kind);
  const Reg weight = b.mul(e.scalar("mask"), e.real("amount"));
  Strands out{.kind = kind};
  for (std::size_t i = 0; i < static_cast<std::size_t>(strand_count(kind)); ++i)
    out.at[i] = b.mix(lower.at[i], mixed(b, e.word("mode"), lower.at[i], upper.at[i]), weight);
  if (kind == Kind::normal) out = convert(b, Strands{.kind = Kind::vector3, .at = out.at}, Kind::normal);
  e.out("result", out);
}

}  // namespace

void add_blend(Catalogue& catalogue) {
  catalogue.add({.id = "blend", .label = "Blend", .rack = Rack::mix, .help = "Lays the upper over the lower by a mode, as far as mask and amount allow.",
    .more = "Formulas of W3C Compositing and Blending Level 1 where it has them, in linear light, without clamping. Works on the widest of its inputs.",
    .words = "mix layer composite over lerp combine",
    .inputs = {{"lower", "Lower", Kind::any}, {"upper", "Upper", Kind::any}, {"mask", "Mask"}}, .outputs = {{"result", "Result", Kind::any}},
    .parameters = {
      {"lower", "Lower", ParameterKind::scalar, Unit::none, 0.0, {0, 1}, {-1e6, 1e6}, "Inputs", {}, {"connected(lower) == 0", "It comes in at its peg."}},
      {"upper", "Upper", ParameterKind::scalar, Unit::none, 1.0, {0, 1}, {-1e6, 1e6}, "Inputs", {}, {"connected(upper) == 0", "It comes in at its peg."}},
      {"mask", "Mask", ParameterKind::scalar, Unit::share, 1.0, {0, 1}, {-1000, 1000}, "Inputs", {}, {"connected(mask) == 0", "It comes in at its peg."}},
      {"mode", "Mode", ParameterKind::choice, Unit::none, std::string("plain"), {}, {}, "Blend",
       {"plain", "add", "subtract", "multiply", "divide", "screen", "overlay", "hard_light", "soft_light", "darken", "lighten", "difference", "exclusion", "colour_dodge", "colour_burn"}},
      {"amount", "Amount", ParameterKind::scalar, Unit::share, 1.0, {0, 1}, {-1000, 1000}, "Blend"}},
    .emit = emit});
}

}  // namespace loom
