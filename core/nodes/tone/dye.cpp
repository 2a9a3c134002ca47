// Dye: greys through colour stops.
#include <algorithm>

#include "core/nodes/each_strand.h"
#include "core/nodes/oklab.h"

namespace loom {
namespace {

// One channel's curve through the stops: each goes on to the next as it says itself, or as all do: straight, smooth
// (monotone cubic) or stepped.
std::shared_ptr<CurveTable> channel_curve(const Stops& stops, std::size_t channel, const std::string& how) {
  Points points;
  for (const ColourStop& s : stops) points.push_back({s.at, s.colour[channel]});
  auto table = smooth_curve(points);
  for (std::size_t i = 0; i + 1 < points.size(); ++i) {
    const std::string& own = stops[i].between.empty() ? how : stops[i].between;
    if (own == "smooth") continue;
    const auto from = static_cast<float>(points[i].x), to = static_cast<float>(points[i + 1].x);
    const auto y0 = static_cast<float>(points[i].y),
               y1 = static_cast<float>(own == "stepped" ? points[i].y : points[i + 1].y);
    table->pieces[i] = {from, to, y0, y1, y1 - y0, y1 - y0};
  }
  return table;
}

void emit_dye(Emitter& e) {
  Builder& b = e.b;
  Stops stops = std::holds_alternative<Stops>(e.param("stops")) ? std::get<Stops>(e.param("stops")) : Stops{};
  if (stops.empty()) stops.push_back({});
  std::stable_sort(stops.begin(), stops.end(), [](const ColourStop& p, const ColourStop& q) { return p.at < q.at; });
  const bool perceptual = e.is("mixed_in", "oklab");
  if (perceptual)
    for (ColourStop& s : stops) {
      const auto lab = oklab_from_linear({s.colour[0], s.colour[1], s.colour[2]});
      std::copy(lab.begin(), lab.end(), s.colour.begin());
    }
  const Reg x = e.scalar("value");
  Three mixed;
  for (std::size_t c = 0; c < 3; ++c) mixed[c] = b.apply(kCurve, {x}, channel_curve(stops, c, e.word("between")), 1)[0];
  if (perceptual) mixed = linear_from_oklab(b, mixed);
  Strands out{.kind = Kind::colour};
  std::copy(mixed.begin(), mixed.end(), out.at.begin());
  e.out("colour", out);
}

}  // namespace

void add_dye(Catalogue& catalogue) {
  catalogue.add(
      {.id = "dye",
       .label = "Dye",
       .rack = Rack::tone,
       .help = "Turns greys into colours through a row of stops.",
       .more =
           "Colours are mixed in linear light, or in Oklab (Ottosson 2020), where steps are even to the eye. Smooth is "
           "monotone cubic, straight is linear, stepped holds each stop until the next; a stop may go its own way.",
       .words = "gradient map colour ramp palette tint colorize",
       .inputs = {{"value", "Value"}},
       .outputs = {{"colour", "Colour", Kind::colour}},
       .parameters = {stand_in("value", "Value", 0.5, "Input"),
                      stops("stops", "Stops",
                            Stops{{0, {0.01, 0.05, 0.06, 1}}, {0.5, {0.05, 0.28, 0.26, 1}}, {1, {0.7, 0.82, 0.66, 1}}})
                          .limits(-1e4, 1e4)
                          .column("Stops")
                          .help("Which colour each value takes; between stops they are mixed."),
                      choice("between", "Between stops", {"smooth", "straight", "stepped"}, "straight")
                          .column("Stops")
                          .help("How it goes from stop to stop: smooth, straight, or not at all until the next."),
                      choice("mixed_in", "Mixed in", {"linear", "oklab"})
                          .column("Stops")
                          .acts_when("between < stepped", "Stepped colours are not mixed.")
                          .help("Linear mixes as light does; Oklab mixes in steps that look even.")},
       .emit = emit_dye});
}

}  // namespace loom
