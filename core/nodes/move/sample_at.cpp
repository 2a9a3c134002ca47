// Sample at: a map read at given coordinates.
#include "core/nodes/node_call.h"

namespace loom {

void add_sample_at(Catalogue& catalogue) {
  catalogue.add(
      {.id = "sample_at",
       .label = "Sample at",
       .rack = Rack::move,
       .help = "Reads a map at the coordinates that come in.",
       .more = "Bilinear, from the level of a mean pyramid that fits the footprint of the coordinates. A row "
               "of a ramp read by a grey is a lookup.",
       .words = "lookup uv fetch read position remap coordinates",
       .inputs = {whole_peg("source", "Source", Kind::any), place_peg_with_slopes("coordinates", "Coordinates")},
       .outputs = {{"result", "Result", Kind::any}},
       .parameters = {stand_in("source", "Source", 0.0, "Input"),
                      vector2("shift", "Shift", 0, 0)
                          .share_of_tile()
                          .useful(-0.5, 0.5)
                          .limits(-64, 64)
                          .column("Place")
                          .acts_when("connected(source)", "There is nothing to read: connect a source.")
                          .help("Added to the place that is read.")},
       .emit =
           [](Emitter& e) {
             Builder& b = e.b;
             if (!e.whole("source")) return e.out("result", e.in("source"));
             const auto [u, v, footprint] = e.position_with_slopes();
             const Vector shift = e.vector("shift");
             const Reg x = b.add(u, static_cast<float>(shift[0])), y = b.add(v, static_cast<float>(shift[1]));
             e.out("result", e.read_at("source", x, y, footprint));
           },
       .takes_regions = true,
       .takes_sets = true,
       .keeps_normals = true});
}

}  // namespace loom
