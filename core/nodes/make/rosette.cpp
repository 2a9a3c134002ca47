// Rosette: petals from a wave of the angle held against the length.
#include <cmath>

#include "core/nodes/node_call.h"
#include "core/nodes/turns.h"

namespace loom {
namespace {

struct Layer {
  float size, turn;
};

void emit_rosette(Emitter& e) {
  Builder& b = e.b;
  const auto [u, v, footprint] = e.position();
  const Reg x = b.add(b.fract(u), -0.5f), y = b.add(b.fract(v), -0.5f), radius = b.length(x, y);
  const Reg angle = b.apply(Op::arctangent2, b.neg(y), x);
  const float petals = e.real("petals"), wave = e.real("wave"), swell = e.real("swell"),
              cut = 0.5f * e.real("cut") * e.real("size");
  const int layers = e.integer("layers");
  Reg mask = b.constant(0), height = b.constant(0), edge = b.constant(0);
  for (int i = 0; i < layers; ++i) {
    // Each layer is smaller and turned by half a petal, and lies on the one below.
    const float size =
        0.5f * e.real("size") * (1 - static_cast<float>(i) * e.real("step") / static_cast<float>(layers));
    const float turn = kTau * (e.real("turn") / 360 * petals + (i % 2 ? 0.5f : 0.0f));
    const Reg ripple = b.apply(Op::cosine, b.add(b.mul(angle, petals), -turn));
    // The rim: the wave swings between the full size and the share that it takes away.
    const Reg rim = b.mul(b.add(b.mul(ripple, 0.5f * wave), 1 - 0.5f * wave), size);
    const Reg within = b.clamp(b.div(b.sub(rim, radius), rim), 0, 1);
    const Reg cover = b.smoothstep(b.mul(footprint, -0.75f), b.mul(footprint, 0.75f), b.sub(rim, radius));
    // The relief over the share of the way in: from a straight cone to a full round.
    const Reg rest = b.sub(1, within), round = b.root(b.sub(1, b.mul(rest, rest)));
    const Reg rise = b.mix(within, round, b.constant(swell));
    const float floor = static_cast<float>(i) / static_cast<float>(layers), share = 1 / static_cast<float>(layers);
    height = b.mix(height, b.max(height, b.add(b.mul(rise, share), floor)), cover);
    mask = b.max(mask, cover);
    edge = b.mix(edge, within, cover);
  }
  if (cut > 0) {
    const Reg outside = b.smoothstep(b.add(b.mul(footprint, -0.75f), cut), b.add(b.mul(footprint, 0.75f), cut), radius);
    mask = b.mul(mask, outside);
    height = b.mul(height, outside);
    edge = b.mul(edge, outside);
  }
  e.out("mask", mask);
  e.out("height", height);
  e.out("within", edge);
}

}  // namespace

void add_rosette(Catalogue& catalogue) {
  catalogue.add(
      {.id = "rosette",
       .label = "Rosette",
       .rack = Rack::make,
       .help = "A flower about the middle: petals, cut out and swelling, in layers.",
       .more = "The rim stands at size x (1 - wave/2 + wave/2 cos(petals x angle)); what lies within is cut out, and "
               "the share of the way in gives the relief. n petals repeat every 360/n degrees.",
       .words = "flower petal ornament medallion radial ceiling rose mandala",
       .inputs = {place_peg("coordinates", "Coordinates")},
       .outputs = {{"mask", "Mask"}, {"height", "Height"}, {"within", "Share within"}},
       .parameters = {integer("petals", "Petals", 8)
                          .count()
                          .useful(3, 24)
                          .limits(1, 360)
                          .column("Petals")
                          .help("How many petals stand about the middle."),
                      scalar("wave", "Wave", 0.4)
                          .share()
                          .column("Petals")
                          .help("How deep the rim is cut in between petals: 0 is a plain disc."),
                      scalar("turn", "Turn", 0.0)
                          .degrees()
                          .useful(0, 180)
                          .limits(-3600, 3600)
                          .column("Petals")
                          .acts_when("wave > 0", "A plain disc looks the same however it is turned.")
                          .help("How far it is turned, anticlockwise."),
                      scalar("size", "Size", 0.9)
                          .share_of_tile()
                          .useful(0.1, 1)
                          .limits(0, 1.4)
                          .column("Size")
                          .help("How wide the flower is."),
                      scalar("cut", "Cut", 0.0)
                          .share()
                          .useful(0, 0.9)
                          .limits(0, 1)
                          .column("Size")
                          .help("How much of its radius is cut out in the middle."),
                      scalar("swell", "Swell", 0.6)
                          .share()
                          .column("Relief")
                          .help("How the petals rise: 0 straight as a cone, 1 full and round."),
                      integer("layers", "Layers", 1)
                          .count()
                          .useful(1, 5)
                          .limits(1, 8)
                          .column("Relief")
                          .help("How many smaller flowers lie on one another, each turned by half a petal."),
                      scalar("step", "Layer step", 0.8)
                          .share()
                          .useful(0.1, 1)
                          .limits(0, 1)
                          .column("Relief")
                          .acts_when("layers > 1", "There is only one layer.")
                          .help("How much smaller the layers become up to the last.")},
       .handles = {{Handle::Form::radius, "size", "", 0, 0.5}, {Handle::Form::angle, "turn"}},
       .emit = emit_rosette});
}

}  // namespace loom
