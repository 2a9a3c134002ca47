// Value, Colour, Vector and Coordinates.
#include "core/nodes/node_call.h"

namespace loom {

void add_constants(Catalogue& catalogue) {
  catalogue.add({.id = "value",
                 .label = "Value",
                 .rack = Rack::make,
                 .help = "One number over the whole tile.",
                 .words = "constant number float grey",
                 .outputs = {{"value", "Value"}},
                 .parameters = {scalar("value", "Value", 0.5).limits(-1e6, 1e6).column("Value").help("The number.")},
                 .emit = [](Emitter& e) { e.out("value", e.b.constant(e.real("value"))); }});
  catalogue.add({.id = "colour",
                 .label = "Colour",
                 .rack = Rack::make,
                 .help = "One colour over the whole tile.",
                 .words = "constant rgb paint",
                 .outputs = {{"colour", "Colour", Kind::colour}},
                 .parameters = {colour("colour", "Colour", {0.5, 0.5, 0.5})
                                    .limits(0, 1000)
                                    .column("Colour")
                                    .help("The colour, in linear light.")},
                 .emit = [](Emitter& e) {
                   Strands s{.kind = Kind::colour};
                   const Vector c = e.vector("colour");
                   for (std::size_t i = 0; i < 3; ++i) s.at[i] = e.b.constant(static_cast<float>(c[i]));
                   e.out("colour", s);
                 }});
  catalogue.add({.id = "vector",
                 .label = "Vector",
                 .rack = Rack::make,
                 .help = "One pair of numbers over the whole tile.",
                 .words = "constant offset shift vec2 pair",
                 .outputs = {{"vector", "Vector", Kind::vector2}},
                 .parameters = {vector2("vector", "Vector", 0, 0)
                                    .useful(-1, 1)
                                    .limits(-1e6, 1e6)
                                    .column("Vector")
                                    .help("The two numbers.")},
                 .emit = [](Emitter& e) {
                   const Vector v = e.vector("vector");
                   e.out("vector", Strands{.kind = Kind::vector2,
                                           .at = {e.b.constant(static_cast<float>(v[0])),
                                                  e.b.constant(static_cast<float>(v[1]))}});
                 }});
  catalogue.add({.id = "coordinates",
                 .label = "Coordinates",
                 .rack = Rack::make,
                 .help = "The place in the tile: u runs right, v runs down, both 0 to 1.",
                 .words = "uv position texture",
                 .outputs = {place_peg("coordinates", "Coordinates")},
                 .emit = [](Emitter& e) { e.out_place("coordinates", e.b.u(), e.b.v(), e.b.footprint()); },
                 .follows_positions = true});
}

}  // namespace loom
