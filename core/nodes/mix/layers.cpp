// Layers: a stack on a base, each layer with a mode, an amount and a mask, or settled by height.
#include "core/nodes/blending.h"

namespace loom {
namespace {

constexpr int kMostLayers = 12;

std::string name(const char* what, int i) { return what + std::to_string(i); }

// Sand in the hollows: a layer lies where its own height is above all that lies there already.
Reg settled(Emitter& e, int i, Reg& height) {
  Builder& b = e.b;
  Reg own = b.constant(e.real(name("amount_", i)));
  if (e.connected(name("mask_", i))) own = b.add(own, b.add(e.scalar(name("mask_", i)), -0.5f));
  const float soft = std::max(0.5f * e.real("contrast_width"), 1e-4f);
  const Reg weight = b.smoothstep(b.constant(-soft), b.constant(soft), b.sub(own, height));
  height = b.mix(height, own, weight);
  return weight;
}

void emit(Emitter& e) {
  Builder& b = e.b;
  const int count = e.integer("count");
  const Kind kind = e.widest();
  Strands result = e.in_as("base", kind);
  Reg height = e.scalar("height");
  for (int i = 1; i <= count; ++i) {
    if (!e.connected(name("layer_", i))) continue;
    const bool settles = e.is(name("mode_", i), "settle");
    const Reg weight = settles ? settled(e, i, height)
                               : b.mul(e.connected(name("mask_", i)) ? e.scalar(name("mask_", i)) : b.constant(1),
                                       e.real(name("amount_", i)));
    result = blended(b, settles ? "plain" : e.word(name("mode_", i)), result, e.in_as(name("layer_", i), kind), weight);
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
                 "cords: every map is blended by its own rule.",
             .words = "stack composite blend over material height mix",
             .outputs = {{"result", "Result", Kind::any}, {"height", "Height"}},
             .emit = emit,
             .takes_sets = true,
             .keeps_normals = true};
  t.inputs = {{"base", "Base", Kind::any}, {"height", "Height"}};
  t.parameters = {
      {"count", "Layers", ParameterKind::integer, Unit::count, 2.0, {1, kMostLayers}, {1, kMostLayers}, "Stack"},
      {"base",
       "Base",
       ParameterKind::scalar,
       Unit::none,
       0.0,
       {0, 1},
       {-1e6, 1e6},
       "Stack",
       {},
       {"connected(base) == 0", "It comes in at its peg."}},
      {"height",
       "Height",
       ParameterKind::scalar,
       Unit::none,
       0.5,
       {0, 1},
       {-1e4, 1e4},
       "Stack",
       {},
       {"connected(height) == 0", "It comes in at its peg."}},
      {"contrast_width", "Settled edge", ParameterKind::scalar, Unit::none, 0.1, {0.01, 0.5}, {0, 10}, "Stack"}};
  std::string settles;
  std::vector<std::string> modes = blend_modes();
  modes.push_back("settle");
  for (int i = 1; i <= kMostLayers; ++i) {
    const std::string n = std::to_string(i), there = "(count >= " + n + ") * connected(layer_" + n + ")";
    t.inputs.push_back({"layer_" + n, "Layer " + n, Kind::any, false, false, {}, "count >= " + n});
    t.inputs.push_back({"mask_" + n, "Mask " + n, Kind::scalar, false, false, {}, "count >= " + n});
    const std::string reason = "There is no layer " + n + ": connect one, and count it.";
    t.parameters.push_back({"mode_" + n,
                            "Mode",
                            ParameterKind::choice,
                            Unit::none,
                            std::string("plain"),
                            {},
                            {},
                            "Layer " + n,
                            modes,
                            {there, reason}});
    t.parameters.push_back({"amount_" + n,
                            "Amount",
                            ParameterKind::scalar,
                            Unit::share,
                            1.0,
                            {0, 1},
                            {-1000, 1000},
                            "Layer " + n,
                            {},
                            {there, reason}});
    settles += (settles.empty() ? "" : " + ") + there + " * (mode_" + n + " == settle)";
  }
  t.parameters[3].acts = {settles, "No layer is settled by height."};
  t.list = ItemList{"count", "layer", kMostLayers, {"mode", "amount"}, {"layer", "mask"}};
  catalogue.add(std::move(t));
}

}  // namespace loom
