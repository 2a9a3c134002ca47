// Blur: even, Gaussian.
#include "core/nodes/node_call.h"
#include "core/plane/filters.h"

namespace loom {
namespace {

Result<Done> evaluate(AreaCall& call) {
  const Field* source = call.in("source");
  if (!source) {
    call.out("result", Plane::filled(call.size(), call.real("source")));
    return Done{};
  }
  Field out;
  out.kind = source->kind;
  for (std::size_t i = 0; i < static_cast<std::size_t>(strand_count(source->kind)); ++i)
    out.strand[i] = std::make_shared<Plane>(blurred(*source->strand[i], 0.5f * call.real("radius"), call.stop));
  call.out("result", std::move(out));
  return call.done();
}

}  // namespace

void add_blur(Catalogue& catalogue) {
  catalogue.add({.id = "blur", .label = "Blur", .rack = Rack::edge, .help = "Softens evenly in all directions.",
    .more = "A Gaussian whose standard deviation is half the radius; large radii by a pyramid (Burt and Adelson 1983), exact to 1e-5.",
    .words = "gaussian smooth soften defocus",
    .inputs = {{"source", "Source", Kind::any}}, .outputs = {{"result", "Result", Kind::any}},
    .parameters = {
      {"source", "Source", ParameterKind::scalar, Unit::none, 0.0, {0, 1}, {-1e6, 1e6}, "Input", {}, {"connected(source) == 0", "It comes in at its peg."}},
      {"radius", "Radius", ParameterKind::scalar, Unit::share_of_tile, 0.01, {0, 0.1}, {0, 0.5}, "Blur", {}, {"connected(source)", "There is nothing to blur: connect a source."}}},
    .evaluate = evaluate});
}

}  // namespace loom
