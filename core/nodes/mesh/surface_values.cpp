// What the shape that wears the material tells of the point: where it lies, how it faces eye and light.
#include "core/nodes/each_strand.h"

namespace loom {
namespace {

Strands vector(Emitter& e, SurfaceValue what) {
  const auto v = e.b.surface(what);
  return {.kind = Kind::vector3, .at = {v[0], v[1], v[2]}};
}

void out_vector(Emitter& e, SurfaceValue what) { e.out(e.type().outputs.front().id, vector(e, what)); }

// The cosine between the shape's normal and a direction.
Reg cosine(Emitter& e, SurfaceValue towards) { return dot(e.b, vector(e, SurfaceValue::normal), vector(e, towards)); }

void emit_part(Emitter& e) {
  const auto part = e.b.surface(SurfaceValue::part);
  e.out("mask", e.b.apply(Op::equal, part[0], e.b.constant(part_key(e.word("name")))));
  e.out("number", part[1]);
  e.out("grey", part[0]);
}

NodeType on_the_surface(const char* id, const char* label, SurfaceUse use, Peg out, void (*emit)(Emitter&)) {
  NodeType t;
  t.id = id;
  t.label = label;
  t.rack = Rack::mesh;
  t.outputs = {std::move(out)};
  t.emit = emit;
  t.surface = use;
  t.follows_positions = true;
  return t;
}

}  // namespace

void add_surface_values(Catalogue& catalogue) {
  NodeType t =
      on_the_surface("mesh_position", "Mesh position", SurfaceUse::shape, {"position", "Position", Kind::vector3},
                     [](Emitter& e) { out_vector(e, SurfaceValue::position); });
  t.help = "Where the point lies in space, in metres from the middle of the shape.";
  t.more =
      "x to the right, y up, z towards the camera as it starts; the relief counts. Connected to the positions of a "
      "noise, it makes the noise solid: it repeats after a metre.";
  t.words = "point world object location xyz coordinates";
  catalogue.add(t);

  t = on_the_surface("mesh_normal", "Mesh normal", SurfaceUse::shape, {"normal", "Normal", Kind::vector3},
                     [](Emitter& e) { out_vector(e, SurfaceValue::normal); });
  t.help = "The direction in which the shape itself faces, without the material's relief.";
  t.words = "direction outwards geometry world object";
  catalogue.add(t);

  t = on_the_surface("view_direction", "View direction", SurfaceUse::eye_or_light,
                     {"direction", "Direction", Kind::vector3}, [](Emitter& e) { out_vector(e, SurfaceValue::view); });
  t.help = "The direction from the point towards the eye.";
  t.words = "camera eye incident";
  catalogue.add(t);

  t = on_the_surface("light_direction", "Light direction", SurfaceUse::eye_or_light,
                     {"direction", "Direction", Kind::vector3}, [](Emitter& e) { out_vector(e, SurfaceValue::light); });
  t.help = "The direction from the point towards the key light.";
  t.words = "lamp sun key";
  catalogue.add(t);

  t = on_the_surface("facing", "Facing", SurfaceUse::eye_or_light, {"value", "Value"},
                     [](Emitter& e) { e.out("value", e.b.clamp(cosine(e, SurfaceValue::view), 0, 1)); });
  t.help = "1 where the shape faces the eye, falling to 0 at its outline.";
  t.more = "The cosine between the shape's normal and the direction towards the eye.";
  t.words = "fresnel rim edge outline grazing incidence";
  catalogue.add(t);

  t = on_the_surface("light_angle", "Light angle", SurfaceUse::eye_or_light, {"value", "Value"},
                     [](Emitter& e) { e.out("value", e.b.clamp(cosine(e, SurfaceValue::light), -1, 1)); });
  t.help = "1 where the shape faces the key light, 0 at the border of its shade, -1 where it looks away.";
  t.more = "The cosine between the shape's normal and the direction towards the key light.";
  t.words = "shade lambert ndotl lamp sun terminator";
  catalogue.add(t);

  t = on_the_surface("part", "Part", SurfaceUse::shape, {"mask", "Mask"}, emit_part);
  t.outputs.push_back({"number", "Number"});
  t.outputs.push_back({"grey", "Grey"});
  t.help = "1 on the part of the mesh that is named, 0 on all others; and which part it is.";
  t.more =
      "The number counts the parts from 0 in the order of the mesh, the grey is another for each name and the same "
      "wherever that stands. A shape that is no mesh is one part without a name.";
  t.words = "material id piece segment selection";
  t.parameters = {
      text("name", "Name", "").names(NameOf::part).column("Part").help("The part's name, as the mesh has it.")};
  catalogue.add(t);

  t = on_the_surface("tile_coordinates", "Tile coordinates", SurfaceUse::shape, place_peg("coordinates", "Coordinates"),
                     [](Emitter& e) {
                       const auto [u, v, footprint] = e.b.surface(SurfaceValue::place);
                       e.out_place("coordinates", u, v, footprint);
                     });
  t.help = "The place in the tile, with the whole tiles that lie before it on the shape.";
  t.more = "Their whole parts count the repeats, so that no two need look alike.";
  t.words = "uv repeat unwrapped";
  catalogue.add(t);
}

}  // namespace loom
