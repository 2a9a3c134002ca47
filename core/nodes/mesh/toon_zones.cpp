// Toon zones: stepped tones over the sum of what is connected.
#include <algorithm>

#include "core/nodes/node_call.h"

namespace loom {
namespace {

constexpr int kMostNumbers = 6;

std::string number(int i) { return "number_" + std::to_string(i); }

void emit_toon_zones(Emitter& e) {
  Builder& b = e.b;
  Reg sum = b.constant(0);
  for (int i = 1; i <= e.integer("count"); ++i)
    if (e.connected(number(i))) sum = b.add(sum, e.scalar(number(i)));
  const float low = e.real("low"), high = e.real("high");
  const Reg x = b.div(b.add(sum, -low), b.constant(high - low));
  const float half = 0.5f * e.real("softness");
  Stops zones = std::holds_alternative<Stops>(e.param("zones")) ? std::get<Stops>(e.param("zones")) : Stops{};
  if (zones.empty()) zones.push_back({});
  std::stable_sort(zones.begin(), zones.end(), [](const ColourStop& p, const ColourStop& q) { return p.at < q.at; });
  Strands colour{.kind = Kind::colour};
  for (std::size_t c = 0; c < 3; ++c) colour.at[c] = b.constant(static_cast<float>(zones[0].colour[c]));
  Reg zone = b.constant(0);
  for (std::size_t i = 1; i < zones.size(); ++i) {
    const auto at = static_cast<float>(zones[i].at);
    const Reg begun = b.smoothstep(b.constant(at - half), b.constant(at + half), x);
    for (std::size_t c = 0; c < 3; ++c)
      colour.at[c] = b.mix(colour.at[c], b.constant(static_cast<float>(zones[i].colour[c])), begun);
    zone = b.add(zone, begun);
  }
  e.out("colour", colour);
  e.out("zone", zone);
  e.out("sum", sum);
}

}  // namespace

void add_toon_zones(Catalogue& catalogue) {
  NodeType t{.id = "toon_zones",
             .label = "Toon zones",
             .rack = Rack::mesh,
             .help = "Stepped tones, as on a printed poster, over the sum of what is connected.",
             .more =
                 "The sum is brought from low to high to 0 to 1. A zone begins at its stop and keeps its colour up to "
                 "the next; the first reaches down without end. Light angle and Facing are what is most often summed.",
             .words = "cel cartoon stepped shading posterise ramp",
             .outputs = {{"colour", "Colour", Kind::colour}, {"zone", "Zone"}, {"sum", "Sum"}},
             .emit = emit_toon_zones};
  t.parameters = {
      stops("zones", "Zones", Stops{{0, {0.02, 0.06, 0.08, 1}}, {0.5, {0.1, 0.3, 0.3, 1}}, {0.75, {0.8, 0.72, 0.5, 1}}})
          .limits(-1e4, 1e4)
          .options({"stepped"})
          .column("Zones")
          .help("Where each zone begins, and its colour."),
      scalar("softness", "Softness", 0.0)
          .useful(0, 0.3)
          .limits(0, 10)
          .column("Zones")
          .help("How wide a zone fades into the next, on the scale of the stops; 0 is a hard edge."),
      integer("count", "Numbers", 2).count().useful(1, kMostNumbers).column("Sum").help("How many numbers are summed."),
      scalar("low", "Low", -1.0)
          .useful(-2, 2)
          .limits(-1e4, 1e4)
          .column("Sum")
          .help("The sum at which the stops begin."),
      scalar("high", "High", 1.0).useful(-2, 3).limits(-1e4, 1e4).column("Sum").help("The sum at which they end.")};
  for (int i = 1; i <= kMostNumbers; ++i)
    t.inputs.push_back(
        {.id = number(i), .label = "Number " + std::to_string(i), .shown_when = "count >= " + std::to_string(i)});
  t.list = ItemList{"count", "number", kMostNumbers, {}, {"number"}};
  catalogue.add(t);
}

}  // namespace loom
