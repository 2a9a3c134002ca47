// Text: lines of letters as a mask.
#include "core/nodes/drawn.h"

namespace loom {
namespace {

std::shared_ptr<const DrawnTable> lay_text(Emitter& e) {
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
           {text("text", "Text", "Lantern\nQuay").column("Text").help("What is written; a new line begins a new line."),
            choice("face", "Face", {"regular", "semibold", "bold", "mono"}, "bold")
                .column("Text")
                .help("Which of the faces that come with the program it is set in."),
            choice("align", "Align", {"left", "middle", "right"}, "middle").column("Text").help("Of several lines."),
            scalar("leading", "Leading", 1.0)
                .times()
                .useful(0.6, 2)
                .limits(0.1, 10)
                .column("Setting")
                .help("From line to line, in line heights."),
            scalar("tracking", "Tracking", 0.0)
                .share()
                .useful(-0.05, 0.3)
                .limits(-0.5, 4)
                .column("Setting")
                .help("Added between letters, in shares of their height."),
            choice("fit", "Fit", fit_words(), "whole")
                .column("Setting")
                .help("How what is no square is brought into the square: seen whole, stretched to it, or covering it."),
            scalar("margin", "Margin", 0.08)
                .share_of_tile()
                .useful(0, 0.4)
                .limits(-4, 0.49)
                .column("Setting")
                .help("The room left free about it on all sides.")},
       .emit = [](Emitter& e) { e.out("mask", read_drawn(e, e.laid<DrawnTable>([&] { return lay_text(e); }), 0)); },
       .costly = true});
}

}  // namespace loom
