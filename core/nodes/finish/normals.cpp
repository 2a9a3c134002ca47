// Blend normals, Flip green, Pack channels.
#include "core/nodes/each_strand.h"
#include "core/nodes/normal_blend.h"

namespace loom {

Strands reoriented(Builder& b, const Strands& base, const Strands& detail) {
  // t = base + (0, 0, 1), w = detail * (-1, -1, 1); r = t dot(t, w) / t.z - w.
  const Reg tz = b.add(base.at[2], 1), wx = b.neg(detail.at[0]), wy = b.neg(detail.at[1]), wz = detail.at[2];
  const Reg d = b.div(b.multiply_add(base.at[0], wx, b.multiply_add(base.at[1], wy, b.mul(tz, wz))), tz);
  const Strands r{.kind = Kind::vector3,
                  .at = {b.sub(b.mul(base.at[0], d), wx), b.sub(b.mul(base.at[1], d), wy), b.sub(b.mul(tz, d), wz)}};
  return convert(b, r, Kind::normal);
}

Strands flattened(Builder& b, const Strands& normal, Reg amount) {
  // The slopes are x / z and y / z; a direction that lies level, or points down, is as steep as 1000 to 1.
  const Strands r{
      .kind = Kind::vector3,
      .at = {b.mul(normal.at[0], amount), b.mul(normal.at[1], amount), b.max(normal.at[2], b.constant(0.001f))}};
  return convert(b, r, Kind::normal);
}

namespace {

// A free peg is a flat surface.
Strands normal_at(Emitter& e, const char* peg) {
  if (e.connected(peg)) return e.in(peg);
  return {.kind = Kind::normal, .at = {e.b.constant(0), e.b.constant(0), e.b.constant(1)}};
}

void emit_blend(Emitter& e) {
  Builder& b = e.b;
  const Strands detail = flattened(b, normal_at(e, "detail"), b.mul(e.scalar("mask"), e.real("strength")));
  e.out("normal", reoriented(b, normal_at(e, "base"), detail));
}

void emit_flip(Emitter& e) {
  Strands n = normal_at(e, "normal");
  n.at[1] = e.b.neg(n.at[1]);
  e.out("normal", n);
}

Parameter channel(const char* id, const char* label, double initial) {
  return stand_in(id, label, initial, "Channels");
}

}  // namespace

void add_normals(Catalogue& catalogue) {
  catalogue.add({.id = "blend_normals",
                 .label = "Blend normals",
                 .rack = Rack::finish,
                 .help = "Adds the detail of one normal map to another, by turning it onto the base.",
                 .more = "Reoriented normal mapping (Barré-Brisebois and Hill, \"Blending in Detail\", 2012). A flat "
                         "detail changes nothing, a flat base gives the detail.",
                 .words = "combine detail normal rnm merge overlay",
                 .inputs = {{"base", "Base", Kind::normal}, {"detail", "Detail", Kind::normal}, {"mask", "Mask"}},
                 .outputs = {{"normal", "Normal", Kind::normal}},
                 .parameters = {scalar("mask", "Mask", 1.0)
                                    .share()
                                    .limits(-1000, 1000)
                                    .column("Blend")
                                    .stands_in("connected(detail) * (connected(mask) == 0)",
                                               "There is no detail, or the mask comes in at its peg."),
                                scalar("strength", "Strength", 1.0)
                                    .times()
                                    .useful(0, 2)
                                    .limits(-100, 100)
                                    .column("Blend")
                                    .acts_when("connected(detail)", "There is no detail: connect one.")
                                    .help("How steep the relief counts: 1 is as the material's own height says.")},
                 .emit = emit_blend});
  catalogue.add({.id = "flip_green",
                 .label = "Flip green",
                 .rack = Rack::finish,
                 .help = "Turns a normal map's green the other way: from up to down, and back.",
                 .more = "The material's normals are +Y up; a delivery turns them by itself if asked. This is for maps "
                         "that came in the other way.",
                 .words = "directx opengl invert y normal",
                 .inputs = {{"normal", "Normal", Kind::normal}},
                 .outputs = {{"normal", "Normal", Kind::normal}},
                 .emit = emit_flip});
  catalogue.add({.id = "pack_channels",
                 .label = "Pack channels",
                 .rack = Rack::finish,
                 .help = "Lays four greys into the channels of one picture.",
                 .more = "Data, not colour: deliver it as linear.",
                 .words = "orm rma mask combine channels rgba",
                 .inputs = {{"red", "Red"}, {"green", "Green"}, {"blue", "Blue"}, {"alpha", "Alpha"}},
                 .outputs = {{"packed", "Packed", Kind::colour_alpha}},
                 .parameters = {channel("red", "Red", 0), channel("green", "Green", 0), channel("blue", "Blue", 0),
                                channel("alpha", "Alpha", 1)},
                 .emit = [](Emitter& e) {
                   e.out("packed",
                         Strands{.kind = Kind::colour_alpha,
                                 .at = {e.scalar("red"), e.scalar("green"), e.scalar("blue"), e.scalar("alpha")}});
                 }});
}

}  // namespace loom
