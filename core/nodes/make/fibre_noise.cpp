// Fibre noise: many thin rods, laid across each other.
#include <algorithm>
#include <bit>
#include <cmath>

#include "core/base/hash.h"
#include "core/nodes/laid_outputs.h"

namespace loom {
namespace {

std::shared_ptr<const Laid> lay_fibre_noise(Emitter& e) {
  auto laid = std::make_shared<Laid>();
  LaidUnits& u = laid->units;
  const auto stream = [&](const char* draw) { return fold32(e.seed(draw)); };
  const std::uint32_t su = stream("u"), sv = stream("v"), sa = stream("turn"), sl = stream("length"),
                      st = stream("tone");
  const float half_length = 0.5f * e.real("length"), half_width = 0.5f * e.real("thickness");
  for (int i = 0; i < e.integer("count"); ++i) {
    const std::uint32_t key = pcg(static_cast<std::uint32_t>(i) + 1);
    const float degrees = e.real("direction") + 180 * e.real("spread") * (unit_random(sa, key) - 0.5f),
                radians = degrees * 0.017453292519943f;
    const float half = half_length * (1 - e.real("length_spread") * unit_random(sl, key));
    u.centre_u.push_back(unit_random(su, key));
    u.centre_v.push_back(unit_random(sv, key));
    u.half_u.push_back(std::max(half, half_width));
    u.half_v.push_back(half_width);
    u.cosine.push_back(std::cos(radians));
    u.sine.push_back(std::sin(radians));
    u.radius.push_back(half_width);
    laid->tone.push_back(unit_random(st, key));
    laid->turn.push_back(degrees);
  }
  index_units(u, 1.0f / static_cast<float>(e.resolution()));
  return laid;
}

// As many rods a volume as fill the same share of any cut: pi r^2 of a rod's length there, 2 r of it here.
std::shared_ptr<const FibreTable> lay_in_space(Emitter& e) {
  constexpr double kMostRods = 64;  // a cell
  auto t = std::make_shared<FibreTable>();
  const double half_length = std::max(0.5 * e.number("length"), 0.5 * e.number("thickness")),
               half_width = 0.5 * e.number("thickness");
  t->seed = fold32(e.seed("space"));
  t->cells = std::clamp(static_cast<int>(1 / (half_length + half_width)), 1, 128);
  t->rods = static_cast<float>(
      std::min(e.number("count") * 2 / (3.14159265358979 * half_width) / std::pow(t->cells, 3), kMostRods));
  t->half_length = static_cast<float>(half_length * t->cells),
  t->half_width = static_cast<float>(half_width * t->cells);
  t->length_spread = e.real("length_spread");
  t->along = e.real("direction") * 0.017453292519943f;
  t->spread = e.real("spread");
  return t;
}

void emit_fibre_noise(Emitter& e) {
  Builder& b = e.b;
  if (e.integer("count") < 1 || e.real("thickness") <= 0) {
    for (const char* out : {"mask", "height", "grey"}) e.out(out, b.constant(0));
    return;
  }
  Reg distance, footprint, tone;
  if (e.connected("positions")) {
    const auto p = e.position_in_space();
    const auto found = b.apply(kSolidFibres, {p.x, p.y, p.z}, e.laid<FibreTable>([&] { return lay_in_space(e); }), 2);
    distance = found[0], tone = found[1], footprint = p.footprint;
  } else {
    const auto laid = e.laid<Laid>([&] { return lay_fibre_noise(e); });
    const auto [u, v, apart] = e.position();
    const auto found = b.apply(kLaid, {u, v}, std::shared_ptr<const Resource>(laid, &laid->units), 4);
    distance = found[3], tone = fetch(b, found[0], laid->tone), footprint = apart;
  }
  const Reg mask = b.clamp(b.sub(0.5f, b.div(distance, footprint)), 0, 1);
  // Where rods cross, the one whose middle is nearest lies on top.
  const Reg inward = b.clamp(b.mul(b.neg(distance), 2 / e.real("thickness")), 0, 1), rest = b.sub(1, inward);
  e.out("mask", mask);
  e.out("height", b.mul(mask, b.root(b.sub(1, b.mul(rest, rest)))));
  e.out("grey", b.mul(tone, b.less(distance, b.constant(0))));
}

}  // namespace

void add_fibre_noise(Catalogue& catalogue) {
  catalogue.add(
      {.id = "fibre_noise",
       .label = "Fibre noise",
       .rack = Rack::make,
       .help = "Many thin fibres, strewn along a direction or across each other.",
       .more = "Rods with round ends at chance places, found by exact distance; where they cross, the nearer middle "
               "line lies on top. Connected positions make it solid: rods in space, cut through, as dense in any cut, "
               "but at most 64 in a cell as wide as half a rod.",
       .words = "hair scratches threads straw grass fur lines strands wood",
       .inputs = {place_peg("coordinates", "Coordinates"), positions_peg()},
       .outputs = {{"mask", "Mask"}, {"height", "Height"}, {"grey", "Fibre grey"}},
       .parameters = {integer("count", "Count", 250)
                          .count()
                          .useful(10, 4000)
                          .limits(0, 20000)
                          .column("Fibres")
                          .help("How many fibres lie on the tile."),
                      scalar("length", "Length", 0.2)
                          .share_of_tile()
                          .useful(0.01, 0.6)
                          .limits(0, 0.9)
                          .column("Fibres")
                          .help("How long the longest fibre is."),
                      scalar("thickness", "Thickness", 0.016)
                          .share_of_tile()
                          .useful(0.002, 0.04)
                          .limits(0, 0.3)
                          .column("Fibres")
                          .help("How thick a fibre is."),
                      scalar("length_spread", "Length spread", 0.5)
                          .share()
                          .column("Fibres")
                          .help("How much shorter than the longest a fibre may be by chance."),
                      scalar("direction", "Direction", 0.0)
                          .degrees()
                          .useful(0, 180)
                          .limits(-3600, 3600)
                          .column("Lay")
                          .help("Which way it runs, in degrees anticlockwise from the right."),
                      scalar("spread", "Spread", 0.3)
                          .share()
                          .column("Lay")
                          .help("How far fibres stray from the direction: 0 all lie alike, 1 they lie every way."),
                      seed("Chance")},
       .emit = emit_fibre_noise,
       .random = true,
       .costly = true});
}

}  // namespace loom
