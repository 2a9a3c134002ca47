// Drawn figure: shapes drawn by hand, mirrored on demand.
#include "core/io/figure_shapes.h"
#include "core/nodes/drawn.h"

namespace loom {
namespace {

// Stands in while nothing is drawn: a plate with a slot.
constexpr std::string_view kPlate = R"(<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1 1">
<rect x="0.15" y="0.25" width="0.7" height="0.5" rx="0.08" fill="white"/>
<rect x="0.35" y="0.45" width="0.3" height="0.1" rx="0.05" fill="black"/>
</svg>)";

Drawing mirrored(Drawing drawing, const NodeCall& c) {
  const auto over = [&](const Affine& mirror) {
    const std::size_t n = drawing.shapes.size();
    // The mirrored shape lies right over its own, so that what cuts one cuts the other at the same time.
    std::vector<Figure> both;
    for (std::size_t i = 0; i < n; ++i) {
      both.push_back(drawing.shapes[i]);
      both.push_back(drawing.shapes[i]);
      both.back().to_drawing = mirror.after(both.back().to_drawing);
    }
    drawing.shapes = std::move(both);
  };
  if (c.is("symmetry", "left_and_right") || c.is("symmetry", "both")) over({-1, 0, 0, 1, 1, 0});
  if (c.is("symmetry", "top_and_bottom") || c.is("symmetry", "both")) over({1, 0, 0, -1, 0, 1});
  return drawing;
}

std::shared_ptr<const DrawnTable> lay_drawn_figure(Emitter& e) {
  const auto shapes = figure_shapes(e.word("figure"));
  std::vector<Plane> planes;
  if (!shapes) {
    e.fault = shapes.error();
    e.fault->where = "parameter figure" + (e.fault->where.empty() ? "" : ", " + e.fault->where);
    planes.push_back(Plane::filled(e.resolution(), 0));
  } else {
    // White over black over nothing: any of its colours is the figure.
    planes.push_back(draw(mirrored(drawing_of(*shapes), e), {}, drawn_size(e, kMostSize), e.stop).red);
  }
  return drawn_table(std::move(planes));
}

void emit_drawn_figure(Emitter& e) {
  e.out("mask", read_drawn(e, e.laid<DrawnTable>([&] { return lay_drawn_figure(e); }), 0));
}

}  // namespace

void add_drawn_figure(Catalogue& catalogue) {
  catalogue.add(
      {.id = "drawn_figure",
       .label = "Drawn figure",
       .rack = Rack::make,
       .help = "Shapes that you draw over the picture: rectangles, ellipses, polygons and curves, added or cut.",
       .more = "Shapes are laid in their order: one that adds covers what was cut before. Coverage is the "
               "exact area of each texel. What reaches beyond the tile comes in at the other side. The "
               "figure is kept in the document as a small SVG drawing.",
       .words = "draw shape vector path polygon curve pen mask plate panel outline sketch",
       .inputs = {place_peg("coordinates", "Coordinates")},
       .outputs = {{"mask", "Mask"}},
       .parameters = {figure("figure", "Figure", kPlate)
                          .column("Figure")
                          .help("What is drawn; drag in the loupe to draw and to change it."),
                      choice("symmetry", "Symmetry", {"none", "left_and_right", "top_and_bottom", "both"})
                          .column("Figure")
                          .help("Everything is drawn a second time, mirrored about the middle of the tile.")},
       .emit = emit_drawn_figure,
       .costly = true});
}

}  // namespace loom
