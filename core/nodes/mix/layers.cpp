// Layers: a stack on a base, each layer with a mode, an amount and a mask, or settled by height.
#include "core/nodes/blending.h"

namespace loom {
namespace {

constexpr int kMostLayers = 12;

std::string name(const char* what, int i) { return what + std::to_string(i); }

// The height among the maps of a cord; null: it has none.
Reg* height_of(Strands& cord) {
  for (auto& [name, member] : cord.members)
    if (name == "height") return &member.at[0];
  return nullptr;
}

// Sand in the hollows: a layer lies where its own height, its mask's or that of its cord, is above all that lies there
// already.
Reg settled(Emitter& e, int i, Strands layer, Reg& height) {
  Builder& b = e.b;
  Reg own = b.constant(e.real(name("amount_", i)));
  if (e.connected(name("mask_", i)))
    own = b.add(own, b.add(e.scalar(name("mask_", i)), -0.5f));
  else if (const Reg* relief = height_of(layer))
    own = b.add(own, b.add(*relief, -0.5f));
  const float soft = std::max(0.5f * e.real("contrast_width"), 1e-4f);
  const Reg weight = b.smoothstep(b.constant(-soft), b.constant(soft), b.sub(own, height));
  height = b.mix(height, own, weight);
  return weight;
}

void emit_layers(Emitter& e) {
  Builder& b = e.b;
  const int count = e.integer("count");
  const Kind kind = e.widest();
  Strands result = e.in_as("base", kind);
  Reg height = e.scalar("height");
  if (const Reg* own = height_of(result); own && !e.connected("height")) height = *own;
  for (int i = 1; i <= count; ++i) {
    if (!e.connected(name("layer_", i)) || !e.toggle(name("on_", i))) continue;
    const bool settles = e.is(name("mode_", i), "settle");
    const Strands layer = e.in_as(name("layer_", i), kind);
    const Reg weight = settles ? settled(e, i, layer, height)
                               : b.mul(e.connected(name("mask_", i)) ? e.scalar(name("mask_", i)) : b.constant(1),
                                       e.real(name("amount_", i)));
    result = blended(b, settles ? "plain" : e.word(name("mode_", i)), result, layer, weight);
    if (settles)
      if (Reg* own = height_of(result)) *own = height;
  }
  e.out("result", result);
  e.out("height", height);
}

}  // namespace

void add_layers(Catalogue& catalogue) {
  NodeType t{.id = "layers",
             .label = "Layers",
             .rack = Rack::mix,
             .help = "A stack on a base: each layer with a mode, an amount and a mask, or settled by height.",
             .more =
                 "From the first layer up. Settle: the layer lies where its amount, plus its mask less one half, is "
                 "above the height that lies there, with an edge as wide as asked; the height then rises to it. Takes "
                 "cords: every map is blended by its own rule, and a cord settles by the height among its maps, where "
                 "no mask comes in.",
             .words = "stack composite blend over material height mix",
             .outputs = {{"result", "Result", Kind::any}, {"height", "Height"}},
             .emit = emit_layers,
             .takes_sets = true,
             .keeps_normals = true};
  t.inputs = {{"base", "Base", Kind::any}, {"height", "Height"}};
  t.parameters = {integer("count", "Layers", 2)
                      .count()
                      .useful(1, kMostLayers)
                      .column("Stack")
                      .help("How many layers lie on the base."),
                  stand_in("base", "Base", 0.0, "Stack"),
                  scalar("height", "Height", 0.5).limits(-1e4, 1e4).column("Stack").stands_in(),
                  scalar("contrast_width", "Settled edge", 0.1)
                      .useful(0.01, 0.5)
                      .limits(0, 10)
                      .column("Stack")
                      .help("Over how great a difference in height a settled layer fades into what is below it.")};
  std::string settles;
  std::vector<std::string> modes = blend_modes();
  modes.push_back("settle");
  for (int i = 1; i <= kMostLayers; ++i) {
    const std::string n = std::to_string(i), there = "(count >= " + n + ") * connected(layer_" + n + ")";
    const std::string shown = "count >= " + n;
    t.inputs.push_back({.id = "layer_" + n, .label = "Layer " + n, .kind = Kind::any, .shown_when = shown});
    t.inputs.push_back({.id = "mask_" + n, .label = "Mask " + n, .shown_when = shown});
    const std::string reason = "There is no layer " + n + ": connect one, and count it.";
    t.parameters.push_back(
        text("name_" + n, "Name", "").titles().column("Layer " + n).help("What you call this layer."));
    t.parameters.push_back(toggle("on_" + n, "On", true)
                               .column("Layer " + n)
                               .acts_when(there, reason)
                               .help("Off, the layer is left out and costs nothing."));
    t.parameters.push_back(choice("mode_" + n, "Mode", modes, "plain")
                               .column("Layer " + n)
                               .acts_when(there, reason)
                               .help("How the upper colour changes the lower one."));
    t.parameters.push_back(scalar("amount_" + n, "Amount", 1.0)
                               .share()
                               .limits(-1000, 1000)
                               .column("Layer " + n)
                               .acts_when(there, reason)
                               .help("How much of this layer is laid on, over the whole tile."));
    settles += (settles.empty() ? "" : " + ") + there + " * (mode_" + n + " == settle)";
  }
  t.parameters[3].acts = {settles, "No layer is settled by height."};
  t.list = ItemList{"count", "layer", kMostLayers, {"name", "on", "mode", "amount"}, {"layer", "mask"}};
  catalogue.add(t);
}

}  // namespace loom
