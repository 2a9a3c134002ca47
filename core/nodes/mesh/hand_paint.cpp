// Hand paint: strokes of a hand over a ground.
#include "core/graph/material.h"
#include "core/nodes/drawn.h"
#include "core/nodes/painted_store.h"

namespace loom {
namespace {

bool is_colour(std::string_view kind) { return kind == "colour"; }

Kind gives_hand_paint(const Node& node, const std::function<Kind(const std::string&)>&) {
  const auto held = node.params.find("kind");
  const auto* word = held == node.params.end() ? nullptr : std::get_if<std::string>(&held->second);
  return word && is_colour(*word) ? Kind::colour : Kind::scalar;
}

std::shared_ptr<const DrawnTable> lay_hand_paint(Emitter& e) {
  static const Strokes kNone;
  const auto* strokes = std::get_if<Strokes>(&e.param("strokes"));
  Painted p = painted_store().paint(strokes ? *strokes : kNone, drawn_size(e, kMostSize),
                                    is_colour(e.word("kind")) ? 3 : 1, e.stop);
  std::vector<Plane> planes;
  planes.push_back(std::move(p.cover));
  for (Plane& plane : p.paint) planes.push_back(std::move(plane));
  return drawn_table(std::move(planes));
}

Strands ground(Emitter& e, Kind kind) {
  if (e.connected("ground")) return e.in_as("ground", kind);
  Strands flat{.kind = kind};
  const Vector colour = e.vector("ground_colour");
  for (std::size_t i = 0; i < static_cast<std::size_t>(strand_count(kind)); ++i)
    flat.at[i] = e.b.constant(kind == Kind::colour ? static_cast<float>(colour[i]) : e.real("ground_number"));
  return flat;
}

void emit_hand_paint(Emitter& e) {
  Builder& b = e.b;
  const auto table = e.laid<DrawnTable>([&] { return lay_hand_paint(e); });
  const Kind kind = is_colour(e.word("kind")) ? Kind::colour : Kind::scalar;
  const Reg cover = read_drawn(e, table, 0), left = b.sub(1, cover);
  const Strands under = ground(e, kind);
  Strands painted{.kind = kind};
  for (std::size_t i = 0; i < static_cast<std::size_t>(strand_count(kind)); ++i) {
    painted.at[i] = b.add(read_drawn(e, table, i + 1), b.mul(left, under.at[i]));
    if (e.is("kind", "mask")) painted.at[i] = b.clamp(painted.at[i], 0, 1);
  }
  e.out("painted", painted);
  e.out("cover", cover);
}

}  // namespace

void add_hand_paint(Catalogue& catalogue) {
  catalogue.add(
      {.id = "hand_paint",
       .label = "Hand paint",
       .rack = Rack::mesh,
       .help = "What is drawn by hand in the loupe, over a ground.",
       .more =
           "Strokes are kept, not texels: the document holds where the hand went, the radius, softness and strength, "
           "and they are drawn anew at every size, in their order. A stroke covers as its nearest piece does, whole "
           "within the radius and fading over its soft share by a smooth step, so that it does not add up where it "
           "meets itself; pressure makes it thinner. What leaves the tile comes in at the other side. The eraser "
           "takes paint away and leaves the ground.",
       .words = "brush draw sketch mask retouch touch up manual stroke airbrush eraser",
       .inputs = {place_peg("coordinates", "Coordinates"), {"ground", "Ground", Kind::any}},
       .outputs = {{"painted", "Painted", Kind::any}, {"cover", "Cover"}},
       .parameters =
           {choice("kind", "Kind", {"mask", "value", "colour"})
                .asked()
                .column("Ground")
                .help("What is painted: a mask of 0 to 1, any number, or a colour."),
            strokes("strokes", "Strokes").column("Brush").help("Drawn in the loupe, in the order in which they came."),
            scalar("ground_number", "Ground", 0.0)
                .limits(-1e6, 1e6)
                .column("Ground")
                .acts_when("(kind != colour) * (connected(ground) == 0)",
                           "A colour is painted, or the ground comes in at its peg.")
                .help("What stands where nothing is painted."),
            colour("ground_colour", "Ground", {0, 0, 0})
                .limits(0, 1000)
                .column("Ground")
                .acts_when("(kind == colour) * (connected(ground) == 0)",
                           "A number is painted, or the ground comes in at its peg.")
                .help("What stands where nothing is painted.")},
       .emit = emit_hand_paint,
       .gives = gives_hand_paint,
       .costly = true});
}

}  // namespace loom
