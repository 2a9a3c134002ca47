// Hand paint: strokes of a hand over a ground.
#include "core/graph/material.h"
#include "core/nodes/drawn.h"
#include "core/nodes/painted_store.h"
#include "core/program/painted_space.h"

namespace loom {
namespace {

bool is_colour(std::string_view kind) { return kind == "colour"; }

Kind gives_hand_paint(const Node& node, const std::function<Kind(const std::string&)>&) {
  const auto held = node.params.find("kind");
  const auto* word = held == node.params.end() ? nullptr : std::get_if<std::string>(&held->second);
  return word && is_colour(*word) ? Kind::colour : Kind::scalar;
}

// What was painted on the tile, and what on the shape.
struct BothCoats : Resource {
  std::shared_ptr<const DrawnTable> tile;     // null: nothing
  std::shared_ptr<const PaintedSpace> shape;  // null: nothing
  std::size_t bytes() const override { return shape ? shape->bytes() : 0; }
};

std::shared_ptr<const BothCoats> lay_hand_paint(Emitter& e) {
  static const Strokes kNone;
  const auto* held = std::get_if<Strokes>(&e.param("strokes"));
  const Strokes& strokes = held ? *held : kNone;
  const std::size_t strands = is_colour(e.word("kind")) ? 3 : 1;
  auto both = std::make_shared<BothCoats>();
  if (any_on(strokes, false)) {
    Painted p = painted_store().paint(strokes, drawn_size(e, kMostSize), strands, e.stop);
    std::vector<Plane> planes;
    planes.push_back(std::move(p.cover));
    for (Plane& plane : p.paint) planes.push_back(std::move(plane));
    both->tile = drawn_table(std::move(planes));
  }
  if (any_on(strokes, true)) both->shape = std::make_shared<PaintedSpace>(strokes, strands);
  return both;
}

// How much a coat covers, and what it leaves times that.
struct CoatHere {
  Reg cover;
  std::array<Reg, 3> paint;
};

CoatHere on_tile(Emitter& e, const std::shared_ptr<const DrawnTable>& table, std::size_t strands) {
  CoatHere coat{read_drawn(e, table, 0), {}};
  for (std::size_t i = 0; i < strands; ++i) coat.paint[i] = read_drawn(e, table, i + 1);
  return coat;
}

CoatHere on_shape(Builder& b, const std::shared_ptr<const PaintedSpace>& space, std::size_t strands) {
  const auto [x, y, z] = b.surface(SurfaceValue::position);
  const auto [nx, ny, nz] = b.surface(SurfaceValue::normal);
  const Reg width = b.max(b.footprint(x, y), b.footprint(y, z));
  const auto found = b.apply(kPaintedSpace, {x, y, z, nx, ny, nz, width}, space, static_cast<int>(strands) + 1);
  return {found[0], {found[1], found[2], found[3]}};
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
  const auto both = e.laid<BothCoats>([&] { return lay_hand_paint(e); });
  const Kind kind = is_colour(e.word("kind")) ? Kind::colour : Kind::scalar;
  const auto strands = static_cast<std::size_t>(strand_count(kind));
  Strands painted = ground(e, kind);
  painted.kind = kind;
  Reg cover = b.constant(0);
  const auto lay = [&](const CoatHere& coat) {
    const Reg left = b.sub(1, coat.cover);
    for (std::size_t i = 0; i < strands; ++i) painted.at[i] = b.add(coat.paint[i], b.mul(left, painted.at[i]));
    cover = b.add(coat.cover, b.mul(left, cover));
  };
  if (both->tile) lay(on_tile(e, both->tile, strands));
  if (both->shape) lay(on_shape(b, both->shape, strands));
  if (e.is("kind", "mask"))
    for (std::size_t i = 0; i < strands; ++i) painted.at[i] = b.clamp(painted.at[i], 0, 1);
  e.out("painted", painted);
  e.out("cover", cover);
}

}  // namespace

void add_hand_paint(Catalogue& catalogue) {
  catalogue.add(
      {.id = "hand_paint",
       .label = "Hand paint",
       .rack = Rack::mesh,
       .help = "What is drawn by hand in the loupe or on the shape, over a ground.",
       .more =
           "Strokes are kept, not texels: the document holds where the hand went, the radius, softness and strength, "
           "and they are drawn anew at every size, in their order. A stroke covers as its nearest piece does, whole "
           "within the radius and fading over its soft share by a smooth step, so that it does not add up where it "
           "meets itself; pressure makes it thinner. What leaves the tile comes in at the other side. What is drawn on "
           "the shape lies over what is drawn on the tile, by its distance in space: it needs no coordinates, and "
           "spares what faces away, as the far side of a sheet. The eraser takes away what lies on the same, and "
           "leaves the ground.",
       .words = "brush draw sketch mask retouch touch up manual stroke airbrush eraser",
       .inputs = {place_peg("coordinates", "Coordinates"), {"ground", "Ground", Kind::any}},
       .outputs = {{"painted", "Painted", Kind::any}, {"cover", "Cover"}},
       .parameters = {choice("kind", "Kind", {"mask", "value", "colour"})
                          .asked()
                          .column("Ground")
                          .help("What is painted: a mask of 0 to 1, any number, or a colour."),
                      strokes("strokes", "Strokes")
                          .column("Brush")
                          .help("Drawn in the loupe or on the drape, in the order in which they came."),
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
