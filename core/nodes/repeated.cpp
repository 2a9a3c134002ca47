#include "core/nodes/repeated.h"

#include "core/nodes/node_call.h"

namespace loom {
namespace {

void emit_repeated(Emitter& e) {
  Builder& b = e.b;
  if (!e.whole("source")) return e.out("result", e.in("source"));
  const float n = e.real("repeats");
  const Reg u = b.mul(b.u(), n), v = b.mul(b.v(), n);
  e.out("result", e.read_to_scale("source", u, v, b.footprint(u, v)));
}

}  // namespace

const NodeType& repeated_type() {
  static const NodeType kType = {.id = "repeated",
                                 .label = "Repeated",
                                 .rack = Rack::move,
                                 .help = "Lays a whole material several times across the tile.",
                                 .inputs = {whole_peg("source", "Source", Kind::any)},
                                 .outputs = {{"result", "Result", Kind::any}},
                                 .parameters = {integer("repeats", "Repeats", 1).limits(1, 64)},
                                 .emit = emit_repeated,
                                 .takes_regions = true,
                                 .takes_sets = true,
                                 .keeps_normals = true};
  return kType;
}

}  // namespace loom
