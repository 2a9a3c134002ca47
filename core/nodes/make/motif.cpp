// Motif: one figure from exact distances, in a square of its own.
#include <cmath>

#include "core/base/vec3.h"
#include "core/nodes/node_call.h"
#include "core/nodes/wide_places.h"

namespace loom {
namespace {

// Distance to a box with half sizes (1, tall) scaled, corners rounded by r.
Reg rounded_box(Builder& b, Reg x, Reg y, float half_u, float half_v, float radius) {
  const float r = radius * std::min(half_u, half_v);
  const Reg qx = b.add(b.abs(x), r - half_u), qy = b.add(b.abs(y), r - half_v), zero = b.constant(0);
  return b.add(b.add(b.length(b.max(qx, zero), b.max(qy, zero)), b.min(b.max(qx, qy), zero)), -r);
}

// Distance to the edge of a regular figure with n sides; `inner` pulls the sides' middles in and makes a star.
Reg star(Builder& b, Reg x, Reg y, float size, float sides, float inner) {
  const Reg angle = b.apply(Op::arctangent2, x, b.neg(y));  // 0 at the top
  const float sector = 2 * kPi / sides;
  const Reg within =
      b.sub(b.mul(b.fract(b.add(b.mul(angle, 1 / sector), 0.5f)), b.constant(sector)), b.constant(0.5f * sector));
  const Reg radius = b.length(x, y), a = b.abs(within);
  const Reg px = b.mul(radius, b.apply(Op::cosine, a)), py = b.mul(radius, b.apply(Op::sine, a));
  // The edge runs from the tip (size, 0) to the notch on the sector's border.
  const float notch = size * std::cos(0.5f * sector) * inner + size * 0.02f * (1 - inner);
  const float nx = notch * std::cos(0.5f * sector), ny = notch * std::sin(0.5f * sector);
  const float ex = nx - size, ey = ny, length = std::hypot(ex, ey);
  const Reg side = b.mul(b.sub(b.mul(b.add(px, -size), ey), b.mul(py, ex)), 1 / length);
  const Reg t = b.clamp(b.mul(b.add(b.mul(b.add(px, -size), ex), b.mul(py, ey)), 1 / (length * length)), 0, 1);
  const Reg dx = b.sub(b.add(px, -size), b.mul(t, ex)), dy = b.sub(py, b.mul(t, ey));
  return b.select(b.less(side, b.constant(0)), b.neg(b.length(dx, dy)), b.length(dx, dy));
}

// Two arcs that meet at the tips (0, 1) and (0, -1), half as wide as long. Source: the vesica, two equal circles.
Reg leaf(Builder& b, Reg x, Reg y) {
  constexpr float kRadius = 1.25f, kAside = 0.75f;
  const Reg px = b.abs(x), py = b.abs(y);
  const Reg tip = b.length(px, b.add(py, -1)), arc = b.add(b.length(b.add(px, kAside), py), -kRadius);
  return b.select(b.less(px, b.mul(b.add(py, -1), kAside)), tip, arc);
}

Reg cross(Builder& b, Reg x, Reg y, float arm) {
  return b.min(rounded_box(b, x, y, 1, arm, 0), rounded_box(b, x, y, arm, 1, 0));
}

// A disc with a box for every tooth; a tooth is half as wide as its share of the rim.
Reg gear(Builder& b, Reg x, Reg y, float teeth, float inner) {
  const float sector = 2 * kPi / teeth;
  const Reg angle = b.apply(Op::arctangent2, x, b.neg(y)), radius = b.length(x, y);
  const Reg within =
      b.sub(b.mul(b.fract(b.add(b.mul(angle, 1 / sector), 0.5f)), b.constant(sector)), b.constant(0.5f * sector));
  const Reg px = b.mul(radius, b.apply(Op::cosine, within)), py = b.mul(radius, b.apply(Op::sine, within));
  const float from = 0.8f * inner;  // a tooth begins within the disc
  return b.min(b.add(radius, -inner),
               rounded_box(b, b.add(px, -0.5f * (1 + from)), py, 0.5f * (1 - from), std::sin(sector / 4), 0));
}

Reg figure(const NodeCall& e, Builder& b, Reg u, Reg v, Reg footprint) {
  const Reg x = b.add(b.fract(u), -0.5f), y = b.add(b.fract(v), -0.5f);
  const Vector proportions = e.vector("proportions");
  const float size = 0.5f * e.real("size");
  const float half_u = size * static_cast<float>(proportions[0]), half_v = size * static_cast<float>(proportions[1]);
  if (half_u < 1e-4f || half_v < 1e-4f) return b.constant(0);
  const float scale = std::min(half_u, half_v);
  const Reg sx = b.mul(x, 1 / half_u), sy = b.mul(y, 1 / half_v);  // the figure has radius 1 here
  const Reg radius = b.length(sx, sy);
  if (e.is("figure", "cosine_hill")) {
    const Reg t = b.min(radius, b.constant(1));
    return b.multiply_add(b.apply(Op::cosine, b.mul(t, kPi)), b.constant(0.5f), b.constant(0.5f));
  }
  if (e.is("figure", "cap")) return b.root(b.sub(1, b.mul(radius, radius)));
  if (e.is("figure", "cone")) return b.max(b.sub(1, radius), b.constant(0));
  if (e.is("figure", "pyramid")) return b.max(b.sub(1, b.max(b.abs(sx), b.abs(sy))), b.constant(0));
  Reg distance = b.constant(0);
  if (e.is("figure", "rounded_box"))
    distance = rounded_box(b, x, y, half_u, half_v, e.real("rounding"));
  else if (e.is("figure", "disc"))
    distance = b.mul(b.add(radius, -1), scale);
  else if (e.is("figure", "ring"))
    distance = b.mul(
        b.sub(b.abs(b.add(radius, 0.5f * e.real("ring_width") - 1)), b.constant(0.5f * e.real("ring_width"))), scale);
  else if (e.is("figure", "leaf"))
    distance = b.mul(leaf(b, sx, sy), scale);
  else if (e.is("figure", "cross"))
    distance = b.mul(cross(b, sx, sy, e.real("arm")), scale);
  else if (e.is("figure", "gear"))
    distance = b.mul(gear(b, sx, sy, e.real("sides"), std::max(e.real("inner"), 0.05f)), scale);
  else
    distance = b.mul(star(b, sx, sy, 1, e.real("sides"), e.is("figure", "polygon") ? 1.0f : e.real("inner")), scale);
  const Reg soft = b.max(b.constant(e.real("softness") * scale), b.mul(footprint, 0.5f));
  // The soft edge lies inside the figure, so that softness never makes it grow over its square.
  return b.smoothstep(b.mul(footprint, 0.5f), b.neg(soft), distance);
}

void emit_motif(Emitter& e) {
  const auto [u, v, footprint] = e.position();
  std::shared_ptr<const Sampled> means;
  if (!all_narrow(e.b, footprint))
    means = e.laid<Sampled>(
        [&] { return means_over_tile([&](Builder& b, Reg x, Reg y, Reg wide) { return figure(e, b, x, y, wide); }); });
  e.out("value", widened(e.b, figure(e, e.b, u, v, footprint), u, v, footprint, means));
}

}  // namespace

void add_motif(Catalogue& catalogue) {
  const ActsWhen edge{"figure < cosine_hill", "This figure has no edge of its own."};
  catalogue.add(
      {.id = "motif",
       .label = "Motif",
       .rack = Rack::make,
       .help = "One figure in the middle of its square.",
       .more = "Edges from exact distances; the hill is half a cosine wave over the radius.",
       .words = "shape circle square dot stamp dome bump",
       .inputs = {place_peg("coordinates", "Coordinates")},
       .outputs = {{"value", "Value"}},
       .parameters = {choice("figure", "Figure",
                             {"rounded_box", "disc", "polygon", "star", "ring", "leaf", "cross", "gear", "cosine_hill",
                              "cap", "cone", "pyramid"},
                             "disc")
                          .column("Figure")
                          .help("What is drawn."),
                      integer("sides", "Sides", 6)
                          .count()
                          .useful(3, 12)
                          .limits(3, 64)
                          .column("Figure")
                          .acts_when("(figure == polygon) + (figure == star) + (figure == gear)",
                                     "Only a polygon, a star and a gear have sides.")
                          .help("How many sides, tips or teeth the figure has."),
                      scalar("inner", "Inner radius", 0.5)
                          .share()
                          .useful(0.1, 1)
                          .limits(0, 1)
                          .column("Figure")
                          .acts_when("(figure == star) + (figure == gear)",
                                     "Only a star and a gear have an inner radius.")
                          .help("How far out the notches lie; at 1 a star has none."),
                      scalar("ring_width", "Ring width", 0.3)
                          .share()
                          .useful(0.05, 1)
                          .limits(0, 1)
                          .column("Figure")
                          .acts_when("figure == ring", "Only a ring has a width.")
                          .help("How wide the ring is, in shares of its radius."),
                      scalar("arm", "Arm width", 0.33)
                          .share()
                          .useful(0.05, 1)
                          .limits(0, 1)
                          .column("Figure")
                          .acts_when("figure == cross", "Only a cross has arms.")
                          .help("How wide the arms of the cross are, in shares of the figure."),
                      scalar("rounding", "Rounding", 0.2)
                          .share()
                          .column("Figure")
                          .acts_when("figure == rounded_box", "Only the box has corners to round.")
                          .help("How round the corners of the box are: at 1 its shorter sides are half circles."),
                      scalar("size", "Size", 0.8)
                          .share_of_tile()
                          .useful(0.05, 1)
                          .limits(0, 1)
                          .column("Size")
                          .help("How large the figure is in its square."),
                      vector2("proportions", "Proportions", 1, 1)
                          .share()
                          .useful(0.1, 1)
                          .limits(0, 1)
                          .column("Size")
                          .help("How much of the size counts along u and along v."),
                      scalar("softness", "Softness", 0.05)
                          .share()
                          .column("Size")
                          .acts_when(edge)
                          .help("How far inwards the edge fades, in shares of the figure's radius.")},
       .handles = {{Handle::Form::radius, "size", "", 0, 0.5}},
       .emit = emit_motif});
}

}  // namespace loom
