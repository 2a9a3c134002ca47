// SVG drawing: vector art from a file.
#include "core/nodes/drawn.h"

namespace loom {
namespace {

// Stands in while no file is chosen: a lantern, with a fill that has a hole, strokes and an arc.
constexpr std::string_view kSample = R"(<svg viewBox="14 4 72 84" xmlns="http://www.w3.org/2000/svg">
<path d="M38 30 L62 30 L68 74 L32 74 Z M44 38 L40.5 66 L59.5 66 L56 38 Z" fill="#2e4a78" fill-rule="evenodd"/>
<circle cx="50" cy="54" r="8" fill="#d69b2d"/>
<path d="M40 28 A10 10 0 0 1 60 28" fill="none" stroke="#1f1b16" stroke-width="4"/>
<path d="M28 80 H72 M50 18 V10" stroke="#1f1b16" stroke-width="5" stroke-linecap="round"/></svg>)";

std::shared_ptr<const DrawnTable> lay_svg_drawing(Emitter& e) {
  const auto* file = e.file("file");
  if (file && !*file) {
    e.fault = file->error();
  } else {
    const auto drawing = read_svg(file ? std::string_view(*(*file)->bytes) : kSample);
    if (drawing) {
      Drawn d = draw(*drawing, placed(*drawing, e.word("fit"), e.number("margin")), drawn_size(e, kMostSize), e.stop);
      std::vector<Plane> planes;
      for (Plane* p : {&d.alpha, &d.red, &d.green, &d.blue}) planes.push_back(std::move(*p));
      return drawn_table(std::move(planes));
    }
    e.fault = drawing.error();
    e.fault->where = (*file)->name + (e.fault->where.empty() ? "" : ", " + e.fault->where);
  }
  std::vector<Plane> nothing;
  for (int i = 0; i < 4; ++i) nothing.push_back(Plane::filled(e.resolution(), 0));
  return drawn_table(std::move(nothing));
}

void emit_svg_drawing(Emitter& e) {
  Builder& b = e.b;
  const auto table = e.laid<DrawnTable>([&] { return lay_svg_drawing(e); });
  const Reg alpha = read_drawn(e, table, 0);
  const Vector ground = e.vector("ground");
  Strands colour{.kind = Kind::colour};
  for (std::size_t i = 0; i < 3; ++i)
    colour.at[i] = b.add(read_drawn(e, table, i + 1), b.mul(b.sub(1, alpha), static_cast<float>(ground[i])));
  e.out("mask", alpha);
  e.out("colour", colour);
}

}  // namespace

void add_svg_drawing(Catalogue& catalogue) {
  catalogue.add(
      {.id = "svg_drawing",
       .label = "SVG drawing",
       .rack = Rack::make,
       .help = "Vector art from an SVG file, sharp at any size.",
       .more =
           "Paths, basic shapes, groups, uses and transforms; fills by both winding rules; strokes with caps, joins "
           "and dashes; linear and radial gradients (SVG 1.1, W3C 2011). Coverage is the exact area of each texel. "
           "What reaches beyond the tile comes in at the other side. Text, pictures, patterns, clips and filters are "
           "left out: turn text to paths. Without a file a lantern is drawn. The file is read again when it changes.",
       .words = "vector path logo icon stencil emblem import",
       .inputs = {place_peg("coordinates", "Coordinates")},
       .outputs = {{"mask", "Mask"}, {"colour", "Colour", Kind::colour}},
       .parameters =
           {file("file", "File", {"svg"}).column("Drawing").help("The drawing; it is read again when it changes."),
            choice("fit", "Fit", fit_words(), "whole")
                .column("Drawing")
                .help("How what is no square is brought into the square: seen whole, stretched to it, or covering it."),
            scalar("margin", "Margin", 0.05)
                .share_of_tile()
                .useful(0, 0.4)
                .limits(-4, 0.49)
                .column("Drawing")
                .help("The room left free about it on all sides."),
            colour("ground", "Ground", {0, 0, 0})
                .limits(0, 1000)
                .column("Drawing")
                .help("The colour where nothing is drawn.")},
       .emit = emit_svg_drawing,
       .costly = true});
}

}  // namespace loom
