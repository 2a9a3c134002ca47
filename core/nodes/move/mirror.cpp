// Mirror: folds a map about lines or into sectors; what results tiles.
#include <cmath>

#include "core/nodes/node_call.h"
#include "core/nodes/turns.h"

namespace loom {
namespace {

// There and back within the tile: the half beyond the line shows the half before it.
Reg folded(Builder& b, Reg x, float line) {
  const Reg t = b.fract(b.add(x, -line));
  return b.add(b.min(t, b.sub(1, t)), line);
}

void emit_mirror(Emitter& e) {
  Builder& b = e.b;
  if (!e.whole("source")) return e.out("result", e.in("source"));
  Reg x = b.u(), y = b.v();
  if (e.is("fold", "along_u") || e.is("fold", "both")) x = folded(b, x, e.real("line_u"));
  if (e.is("fold", "along_v") || e.is("fold", "both")) y = folded(b, y, e.real("line_v"));
  if (e.is("fold", "into_sectors")) {
    const float sectors = 2 * e.real("sectors"), start = e.real("turn") / 360 * kTau;
    const Reg px = b.add(x, -0.5f), py = b.add(y, -0.5f), radius = b.length(px, py);
    const Reg angle = b.mul(b.add(b.apply(Op::arctangent2, b.neg(py), px), -start), sectors / kTau);
    const Reg pair = b.mul(b.fract(b.mul(angle, 0.5f)), 2);
    const Reg within = b.add(b.mul(b.min(pair, b.sub(2, pair)), kTau / sectors), start);
    x = b.add(b.mul(radius, b.apply(Op::cosine, within)), 0.5f);
    y = b.sub(0.5f, b.mul(radius, b.apply(Op::sine, within)));
  }
  e.out("result", e.read_at("source", x, y, b.footprint()));
}

}  // namespace

void add_mirror(Catalogue& catalogue) {
  const ActsWhen there{"connected(source)", "There is nothing to fold: connect a source."};
  catalogue.add(
      {.id = "mirror",
       .label = "Mirror",
       .rack = Rack::move,
       .help = "Folds a map about a line along u, v or both, or into mirrored sectors.",
       .more = "Along an axis, the place p is read at line + min(t, 1 - t) with t = fract(p - line). Sectors: the "
               "angle is folded into half a sector, as in a kaleidoscope.",
       .words = "reflect symmetry kaleidoscope flip fold",
       .inputs = {whole_peg("source", "Source", Kind::any)},
       .outputs = {{"result", "Result", Kind::any}},
       .parameters = {stand_in("source", "Source", 0.0, "Input"),
                      choice("fold", "Fold", {"along_u", "along_v", "both", "into_sectors"})
                          .column("Fold")
                          .acts_when(there)
                          .help("Along which axis it is folded, or into equal sectors about the middle."),
                      scalar("line_u", "Line at u", 0.0)
                          .share_of_tile()
                          .limits(-64, 64)
                          .column("Fold")
                          .acts_when("connected(source) * ((fold == along_u) + (fold == both))",
                                     "Nothing is folded along u.")
                          .help("Where the upright line lies that is folded at."),
                      scalar("line_v", "Line at v", 0.0)
                          .share_of_tile()
                          .limits(-64, 64)
                          .column("Fold")
                          .acts_when("connected(source) * ((fold == along_v) + (fold == both))",
                                     "Nothing is folded along v.")
                          .help("Where the level line lies that is folded at."),
                      integer("sectors", "Sectors", 6)
                          .count()
                          .useful(1, 16)
                          .limits(1, 180)
                          .column("Sectors")
                          .acts_when("connected(source) * (fold == into_sectors)", "The fold makes no sectors.")
                          .help("How many alike sectors stand about the middle."),
                      scalar("turn", "Turn", 0.0)
                          .degrees()
                          .useful(0, 360)
                          .limits(-3600, 3600)
                          .column("Sectors")
                          .acts_when("connected(source) * (fold == into_sectors)", "The fold makes no sectors.")
                          .help("Where the first sector begins.")},
       .handles = {{Handle::Form::line_u, "line_u"}, {Handle::Form::line_v, "line_v"}, {Handle::Form::angle, "turn"}},
       .emit = emit_mirror,
       .takes_regions = true,
       .takes_sets = true,
       .keeps_normals = true,
       .follows_positions = true});
}

}  // namespace loom
