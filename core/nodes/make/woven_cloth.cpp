// Woven cloth: warp and weft go over and under by a weave.
#include <cmath>

#include "core/base/hash.h"
#include "core/base/scalar.h"
#include "core/nodes/node_call.h"

namespace loom {
namespace {

// 1 where the warp lies above at the crossing of warp thread i and weft thread j.
Reg warp_above(Emitter& e, Reg i, Reg j) {
  Builder& b = e.b;
  const auto modulo = [&](Reg x, float n) { return b.apply(Op::modulo, x, b.constant(n)); };
  if (e.is("weave", "plain")) return b.apply(Op::equal, modulo(b.add(i, j), 2), b.constant(0));
  if (e.is("weave", "twill")) return b.less(modulo(b.sub(i, j), 4), b.constant(2));  // two up, two down
  return b.less(b.constant(0), modulo(b.sub(i, b.mul(j, 2)), 5));                    // five-end satin, step two
}

struct Thread {
  Reg mask, height, across;
};

// A thread with its cross-section, riding up and down between the crossings; `side` and `along` are in threads.
Thread thread(Emitter& e, Reg side, Reg along, Reg footprint_side, const std::function<Reg(Reg)>& above_at) {
  Builder& b = e.b;
  const float half = 0.5f * (1 - e.real("gap"));
  const Reg across = b.mul(b.add(b.fract(side), -0.5f), 1 / std::max(half, 1e-4f));  // -1..1 over the thread
  const Reg offset = b.abs(b.add(b.fract(side), -0.5f)), pixel = b.mul(footprint_side, 0.5f);
  const Reg mask = b.smoothstep(b.add(pixel, half), b.add(b.neg(pixel), half), offset);
  const Reg body = b.root(b.sub(1, b.mul(across, across)));
  // Between the crossings before and after, along half a cosine.
  const Reg shifted = b.add(along, -0.5f), before = b.floor(shifted), t = b.fract(shifted);
  const Reg ease = b.mul(b.sub(1, b.apply(Op::cosine, b.mul(t, 3.14159265f))), 0.5f);
  const Reg ride = b.mix(above_at(before), above_at(b.add(before, 1)), ease);
  const float crimp = e.real("crimp");
  const Reg lift = b.add(b.mul(b.add(ride, -0.5f), crimp), 0.5f);  // where the middle line lies
  return {mask, b.add(b.mul(lift, 0.5f), b.mul(body, 0.5f)), across};
}

void emit_woven_cloth(Emitter& e) {
  Builder& b = e.b;
  const auto [u, v, footprint] = e.position();
  const int period = e.is("weave", "plain") ? 2 : e.is("weave", "twill") ? 4 : 5;
  const int ends = up_to_multiple(e.integer("threads"), period),
            picks = up_to_multiple(e.toggle("linked") ? e.integer("threads") : e.integer("picks"), period);
  const Reg x = b.mul(u, static_cast<float>(ends)), y = b.mul(v, static_cast<float>(picks));
  const Reg i = b.floor(x), j = b.floor(y);
  const Thread warp =
      thread(e, x, y, b.mul(footprint, static_cast<float>(ends)), [&](Reg at) { return warp_above(e, i, at); });
  const Thread weft = thread(e, y, x, b.mul(footprint, static_cast<float>(picks)),
                             [&](Reg at) { return b.sub(1, warp_above(e, at, j)); });
  const Reg warp_height = b.mul(warp.height, warp.mask), weft_height = b.mul(weft.height, weft.mask);
  const Reg on_top = b.less(weft_height, warp_height);
  const auto wrapped = [&](Reg k, int n) { return b.apply(Op::modulo, k, b.constant(static_cast<float>(n))); };
  e.out("mask", b.max(warp.mask, weft.mask));
  e.out("height", b.max(warp_height, weft_height));
  e.out("warp", b.mul(on_top, warp.mask));
  e.out("grey", b.select(on_top, b.random(wrapped(i, ends), fold32(e.seed("warp"))),
                         b.random(wrapped(j, picks), fold32(e.seed("weft")))));
  const auto across = [&](Reg a) { return b.clamp(b.add(b.mul(a, 0.5f), 0.5f), 0, 1); };
  // Across a thread it is 0..1 over the thread's width, along it over the tile's.
  const float room = std::max(1 - e.real("gap"), 1e-4f);
  const Reg wide = b.mul(footprint, b.select(on_top, b.constant(static_cast<float>(ends) / room),
                                             b.constant(static_cast<float>(picks) / room)));
  e.out_place("thread_coordinates", b.select(on_top, b.fract(v), b.fract(u)),
              b.select(on_top, across(warp.across), across(weft.across)), wide);
}

}  // namespace

void add_woven_cloth(Catalogue& catalogue) {
  catalogue.add(
      {.id = "woven_cloth",
       .label = "Woven cloth",
       .rack = Rack::make,
       .help = "Warp and weft, over and under by a weave.",
       .more = "Plain: over one, under one. Twill: over two, under two, one aside each pick. Satin: five ends, step "
               "two. Thread counts are snapped to whole repeats (2, 4, 5).",
       .words = "fabric textile linen basket matting canvas rush",
       .inputs = {place_peg("coordinates", "Coordinates")},
       .outputs = {{"height", "Height"},
                   {"mask", "Mask"},
                   {"warp", "Warp on top"},
                   {"grey", "Thread grey"},
                   place_peg("thread_coordinates", "Thread coordinates")},
       .parameters =
           {choice("weave", "Weave", {"plain", "twill", "satin"})
                .column("Weave")
                .help("Over and under: plain by turns, twill in steps that make a slant, satin in long floats."),
            integer("threads", "Threads", 20)
                .count()
                .useful(4, 120)
                .limits(1, 1024)
                .column("Weave")
                .help("How many warp threads cross the tile; snapped so that the weave closes."),
            toggle("linked", "Linked", true).column("Weave").help("The second count follows the first."),
            integer("picks", "Weft threads", 12)
                .count()
                .useful(4, 120)
                .limits(1, 1024)
                .column("Weave")
                .acts_when("linked == 0", "As many as warp threads: they are linked.")
                .help("How many weft threads cross the tile, where they are not linked; snapped so that the weave "
                      "closes."),
            scalar("gap", "Gap", 0.1)
                .share()
                .useful(0, 0.7)
                .limits(0, 0.99)
                .column("Thread")
                .help("How much of its room a thread leaves open."),
            scalar("crimp", "Crimp", 0.8)
                .share()
                .column("Thread")
                .help("How far threads rise and dip where they cross."),
            seed("Chance")},
       .emit = emit_woven_cloth,
       .random = true});
}

}  // namespace loom
