// Normal map: directions from a picture, green up or down.
#include "core/nodes/picture.h"

namespace loom {
namespace {

void emit_normal_map(Emitter& e) {
  const auto table = e.laid<DrawnTable>([&] { return lay_picture(e, {Colours::linear, e.is("fit", "stretched")}); });
  if (e.fault) return;
  Builder& b = e.b;
  Strands direction = picture_colour(e, table);
  direction.kind = Kind::vector3;
  for (std::size_t i = 0; i < 3; ++i) direction.at[i] = b.multiply_add(direction.at[i], b.constant(2), b.constant(-1));
  if (e.is("green", "down")) direction.at[1] = b.sub(b.constant(0), direction.at[1]);
  // In front of nothing, and where a picture has no blue, it points outwards all the same.
  direction.at[2] = b.max(direction.at[2], b.constant(0.01f));
  e.out("normal", convert(b, direction, Kind::normal));
}

}  // namespace

void add_normal_map(Catalogue& catalogue) {
  catalogue.add({.id = "normal_map",
                 .label = "Normal map",
                 .rack = Rack::make,
                 .help = "Directions from a picture that holds them as colours.",
                 .more =
                     "Red, green and blue from 0 to 1 stand for -1 to 1, as they are written, whatever the file says "
                     "of its colours; then brought to length 1. Without a file a stretch of shingle is read, which "
                     "is no normal map.",
                 .words = "bitmap texture import file bump tangent space green flip",
                 .inputs = {place_peg("coordinates", "Coordinates")},
                 .outputs = {{"normal", "Normal", Kind::normal}},
                 .parameters = {file("file", "File", {"png", "jpg", "jpeg", "tif", "tiff", "exr"})
                                    .column("Normal map")
                                    .help("The image file; it is read again when it changes."),
                                choice("green", "Green", {"up", "down"})
                                    .column("Normal map")
                                    .help("Which way a slope looks that is greener than grey."),
                                choice("fit", "Fit", {"stretched", "cropped"})
                                    .column("Normal map")
                                    .help("Of a picture that is no square: all of it, or its middle.")},
                 .emit = emit_normal_map,
                 .follows_positions = true,
                 .costly = true});
}

}  // namespace loom
