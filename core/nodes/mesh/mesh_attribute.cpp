// Mesh attribute: what the mesh's corners carry, by its name.
#include "core/nodes/each_strand.h"

namespace loom {
namespace {

// Source: IEC 61966-2-1.
Reg linear_of_srgb(Builder& b, Reg v) {
  const Reg low = b.mul(v, 1 / 12.92f),
            high = b.apply(Op::power, b.mul(b.add(b.max(v, b.constant(0)), 0.055f), 1 / 1.055f), b.constant(2.4f));
  return b.select(b.apply(Op::less, v, b.constant(0.04045f)), low, high);
}

void emit_mesh_attribute(Emitter& e) {
  Builder& b = e.b;
  const auto found = b.measured({.name = MeasureName::carried, .name_of_carried = hash_text(e.word("name"))});
  const Reg given = found[kIsCarried], otherwise = e.scalar("otherwise");
  std::array<Reg, 4> v;
  for (std::size_t i = 0; i < 4; ++i) v[i] = b.select(given, found[i], i < 3 ? otherwise : b.constant(1));
  e.out("number", v[0]);
  e.out("vector", {.kind = Kind::vector3, .at = {v[0], v[1], v[2]}});
  Strands colour{.kind = Kind::colour, .at = {v[0], v[1], v[2]}};
  if (e.is("colour_space", "srgb"))
    for (std::size_t i = 0; i < 3; ++i) colour.at[i] = linear_of_srgb(b, v[i]);
  e.out("colour", colour);
  e.out("alpha", v[3]);
  e.out("given", given);
}

}  // namespace

void add_mesh_attribute(Catalogue& catalogue) {
  NodeType t;
  t.id = "mesh_attribute";
  t.label = "Mesh attribute";
  t.rack = Rack::mesh;
  t.emit = emit_mesh_attribute;
  t.surface = SurfaceUse::shape;
  t.follows_positions = true;
  t.inputs = {{"otherwise", "Otherwise"}};
  t.outputs = {{"number", "Number"},
               {"vector", "Vector", Kind::vector3},
               {"colour", "Colour", Kind::colour},
               {"alpha", "Alpha"},
               {"given", "Given"}};
  t.help = "A number, a vector or a colour that the mesh's own corners carry, by its name.";
  t.more =
      "Colours of corners are called COLOR_0 whatever the file, further coordinates TEXCOORD_1, and a glTF's own "
      "attributes as it calls them. A single number stands in all three of a vector and as a grey. Given is 1 where "
      "the mesh has the attribute; elsewhere, and on shapes that are no mesh, it is what stands under Otherwise.";
  t.words = "vertex colour color painted data custom channel";
  t.parameters = {
      text("name", "Name", "COLOR_0").names(NameOf::attribute).column("Attribute").help("What the mesh calls it."),
      choice("colour_space", "Colour space", {"linear", "srgb"})
          .column("Attribute")
          .help("How its colours are written: glTF has linear ones, OBJ and PLY mostly codes for a screen."),
      stand_in("otherwise", "Otherwise", 0.0, "Attribute")
          .help("What stands where the mesh has nothing of that name.")};
  catalogue.add(t);
}

}  // namespace loom
