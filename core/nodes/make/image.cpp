// Picture: a bitmap from a file, or one made continuous.
#include "core/nodes/picture.h"

namespace loom {
namespace {

PictureUse use_of(const Emitter& e) {
  const std::string& space = e.word("colour_space");
  return {space == "automatic" ? Colours::as_said
          : space == "srgb"    ? Colours::srgb
                               : Colours::linear,
          e.is("fit", "stretched"), e.toggle("make_continuous") ? e.integer("patches") : 0};
}

void emit_image(Emitter& e) {
  const auto table = e.laid<DrawnTable>([&] { return lay_picture(e, use_of(e)); });
  if (e.fault) return;
  e.out("colour", picture_colour(e, table));
  e.out("opacity", table->planes.size() == 4 ? read_drawn(e, table, 3) : e.b.constant(1));
}

}  // namespace

void add_image(Catalogue& catalogue) {
  const ActsWhen continuous{"make_continuous", "Only a picture that is made continuous has patches."};
  catalogue.add(
      {.id = "image",
       .label = "Image",
       .rack = Rack::make,
       .help = "A bitmap file, as it is or made to tile without ghosts.",
       .more = "PNG, JPEG, TIFF, EXR and HDR. Made continuous: patches of the picture, drawn anew over a grid, are "
               "blended so that its histogram and contrast stay (Heitz and Neyret 2018), colours along their principal "
               "axes; fine grounds such as gravel, plaster or grass suit it, large figures are broken up. As it is, a "
               "picture has a seam unless it was made to tile. Without a file a stretch of shingle is shown. The file "
               "is read again when it changes.",
       .words = "bitmap picture photo photograph texture import file scan",
       .inputs = {place_peg("coordinates", "Coordinates")},
       .outputs = {{"colour", "Colour", Kind::colour}, {"opacity", "Opacity"}},
       .parameters = {file("file", "File", {"png", "jpg", "jpeg", "tif", "tiff", "exr", "hdr"})
                          .column("Image")
                          .help("The image file; it is read again when it changes."),
                      choice("colour_space", "Colour space", {"automatic", "srgb", "linear"})
                          .column("Image")
                          .help("Automatic: as the file says; eight bits that say nothing are sRGB."),
                      choice("fit", "Fit", {"cropped", "stretched"})
                          .column("Image")
                          .help("Of a picture that is no square: its middle, or all of it."),
                      toggle("make_continuous", "Make continuous")
                          .column("Continuous")
                          .help("Lays chance patches of the picture over one another, evened out by their tones, so "
                                "that it tiles without a seam."),
                      integer("patches", "Patches", 6)
                          .count()
                          .useful(4, 16)
                          .limits(4, 24)
                          .column("Continuous")
                          .acts_when(continuous)
                          .help("Along each side. A patch is two of them wide."),
                      seed("Continuous").acts_when(continuous)},
       .emit = emit_image,
       .random = true,
       .follows_positions = true,
       .costly = true});
}

}  // namespace loom
