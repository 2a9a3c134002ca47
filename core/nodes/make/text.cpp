// Text: lines of letters as a mask.
#include "core/nodes/drawn.h"

namespace loom {
namespace {

std::shared_ptr<const DrawnTable> lay(Emitter& e) {
  const double align = e.is("align", "left") ? 0 : e.is("align", "right") ? 1 : 0.5;
  const Drawing drawing = set_text(e.word("text"), e.word("face"), align, e.number("leading"), e.number("tracking"));
  std::vector<Plane> planes;
  planes.push_back(
      draw(drawing, placed(drawing, e.word("fit"), e.number("margin")), drawn_size(e, kMostSize), e.stop).alpha);
  return drawn_table(std::move(planes));
}

}  // namespace

void add_text(Catalogue& catalogue) {
  catalogue.add(
      {.id = "text",
       .label = "Text",
       .rack = Rack::make,
       .help = "Lines of letters as a mask, sharp at any size.",
       .more =
           "Set in the faces that ship with the application (Inter, JetBrains Mono), shaped with kerning, scaled until "
           "it fits the tile less its margin. Letters are outlines: coverage is the exact area of each texel.",
       .words = "letters type lettering font word sign number label",
       .inputs = {place_peg("coordinates", "Coordinates")},
       .outputs = {{"mask", "Mask"}},
       .parameters =
           {{"text", "Text", ParameterKind::text, Unit::none, std::string("Lantern\nQuay"), {}, {}, "Text"},
            {"face",
             "Face",
             ParameterKind::choice,
             Unit::none,
             std::string("bold"),
             {},
             {},
             "Text",
             {"regular", "semibold", "bold", "mono"}},
            {"align",
             "Align",
             ParameterKind::choice,
             Unit::none,
             std::string("middle"),
             {},
             {},
             "Text",
             {"left", "middle", "right"},
             {},
             false,
             "Of several lines."},
            {"leading",
             "Leading",
             ParameterKind::scalar,
             Unit::times,
             1.0,
             {0.6, 2},
             {0.1, 10},
             "Setting",
             {},
             {},
             false,
             "From line to line, in line heights."},
            {"tracking",
             "Tracking",
             ParameterKind::scalar,
             Unit::share,
             0.0,
             {-0.05, 0.3},
             {-0.5, 4},
             "Setting",
             {},
             {},
             false,
             "Added between letters, in shares of their height."},
            {"fit", "Fit", ParameterKind::choice, Unit::none, std::string("whole"), {}, {}, "Setting", fit_words()},
            {"margin", "Margin", ParameterKind::scalar, Unit::share_of_tile, 0.08, {0, 0.4}, {-4, 0.49}, "Setting"}},
       .emit = [](Emitter& e) { e.out("mask", read_drawn(e, e.laid<DrawnTable>([&] { return lay(e); }), 0)); },
       .costly = true});
}

}  // namespace loom
