// Formulas for strands, and rules for kinds.
#include "core/nodes/blending.h"

#include <algorithm>

#include "core/nodes/normal_blend.h"

namespace loom {
namespace {

// The formulas of W3C Compositing and Blending Level 1, section 10, where it has them; nothing is clamped.
Reg mixed(Builder& b, const std::string& mode, Reg lower, Reg upper) {
  const Reg one = b.constant(1), zero = b.constant(0), half = b.constant(0.5f);
  const auto screen = [&](Reg p, Reg q) { return b.sub(b.add(p, q), b.mul(p, q)); };
  const auto hard_light = [&](Reg p, Reg q) {
    return b.select(b.apply(Op::less_equal, q, half), b.mul(p, b.mul(q, 2)), screen(p, b.add(b.mul(q, 2), -1)));
  };
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
  if (mode == "colour_dodge")
    return b.select(b.apply(Op::equal, lower, zero), zero,
                    b.select(b.apply(Op::less_equal, one, upper), one, b.min(one, b.div(lower, b.sub(one, upper)))));
  if (mode == "colour_burn")
    return b.select(
        b.apply(Op::equal, lower, one), one,
        b.select(b.apply(Op::less_equal, upper, zero), zero, b.sub(one, b.min(one, b.div(b.sub(one, lower), upper)))));
  if (mode == "soft_light") {
    const Reg curve = b.select(
        b.apply(Op::less_equal, lower, b.constant(0.25f)),
        b.mul(b.multiply_add(b.multiply_add(lower, b.constant(16), b.constant(-12)), lower, b.constant(4)), lower),
        b.root(lower));
    const Reg dark = b.sub(lower, b.mul(b.mul(b.sub(one, b.mul(upper, 2)), lower), b.sub(one, lower)));
    const Reg light = b.add(lower, b.mul(b.add(b.mul(upper, 2), -1), b.sub(curve, lower)));
    return b.select(b.apply(Op::less_equal, upper, half), dark, light);
  }
  return upper;
}

Strands blended_normal(Builder& b, const std::string& mode, const Strands& lower, const Strands& upper, Reg weight) {
  if (mode != "plain") return reoriented(b, lower, flattened(b, upper, weight));
  Strands out{.kind = Kind::vector3};
  for (std::size_t i = 0; i < 3; ++i) out.at[i] = b.mix(lower.at[i], upper.at[i], weight);
  return convert(b, out, Kind::normal);
}

Strands blended_set(Builder& b, const std::string& mode, const Strands& lower, const Strands& upper, Reg weight) {
  Strands out = lower;
  for (const auto& [name, member] : upper.members) {
    const auto it =
        std::find_if(out.members.begin(), out.members.end(), [&, &n = name](const auto& m) { return m.first == n; });
    if (it == out.members.end())  // the lower cord has no such map: it counts as nothing there
      out.members.emplace_back(name, blended(b, mode, nothing(b, member.kind), member, weight));
    else
      it->second = blended(b, mode, it->second, convert(b, member, it->second.kind), weight);
  }
  return out;
}

}  // namespace

Strands nothing(Builder& b, Kind kind) {
  Strands out{.kind = kind};
  for (std::size_t i = 0; i < static_cast<std::size_t>(strand_count(kind)); ++i) out.at[i] = b.constant(0);
  if (kind == Kind::normal) out.at[2] = b.constant(1);
  return out;
}

const std::vector<std::string>& blend_modes() {
  static const std::vector<std::string> kModes = {"plain",   "add",        "subtract",   "multiply",     "divide",
                                                  "screen",  "overlay",    "hard_light", "soft_light",   "darken",
                                                  "lighten", "difference", "exclusion",  "colour_dodge", "colour_burn"};
  return kModes;
}

Strands blended(Builder& b, const std::string& mode, const Strands& lower, const Strands& upper, Reg weight) {
  if (lower.kind == Kind::set) return blended_set(b, mode, lower, upper, weight);
  if (lower.kind == Kind::normal) return blended_normal(b, mode, lower, upper, weight);
  Strands out{.kind = lower.kind};
  for (std::size_t i = 0; i < static_cast<std::size_t>(strand_count(lower.kind)); ++i)
    out.at[i] = b.mix(lower.at[i], mixed(b, mode, lower.at[i], upper.at[i]), weight);
  return out;
}

}  // namespace loom
