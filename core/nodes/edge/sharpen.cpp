// Sharpen: adds what a blur takes away.
#include "core/base/parallel.h"
#include "core/nodes/moved.h"
#include "core/nodes/within_edges.h"
#include "core/plane/filters.h"

namespace loom {
namespace {

Result<Done> evaluate_sharpen(AreaCall& call) {
  const Field* source = call.in("source");
  if (!source) {
    call.out("result", Plane::filled(call.size(), call.real("source")));
    return Done{};
  }
  Field out;
  out.kind = source->kind;
  const float amount = call.real("amount");
  for (std::size_t i = 0; i < static_cast<std::size_t>(strand_count(source->kind)); ++i) {
    const Plane& from = *source->strand[i];
    Plane soft = blurred(from, 0.5f * call.real("radius"), call.stop);
    for_rows(call.size(), 64, call.stop, [&](int first, int last) {
      for (int y = first; y < last; ++y)
        for (int x = 0; x < call.size(); ++x)
          soft.row(y)[x] = from.row(y)[x] + amount * (from.row(y)[x] - soft.row(y)[x]);
    });
    out.strand[i] = std::make_shared<Plane>(std::move(soft));
  }
  if (out.kind == Kind::normal) normalise(out, call.stop);
  call.out("result", std::move(out));
  return call.done();
}

}  // namespace

void add_sharpen(Catalogue& catalogue) {
  const ActsWhen there{"connected(source)", "There is nothing to sharpen: connect a source."};
  catalogue.add(
      {.id = "sharpen",
       .label = "Sharpen",
       .rack = Rack::edge,
       .help = "Deepens the differences to the surroundings.",
       .more = "source + amount x (source - Gaussian of the source), unsharp masking; values may leave 0 to 1.",
       .words = "unsharp detail highpass crisp",
       .inputs = {{"source", "Source", Kind::any}},
       .outputs = {{"result", "Result", Kind::any}},
       .parameters = {stand_in("source", "Source", 0.0, "Input"),
                      scalar("amount", "Amount", 1.0)
                          .times()
                          .useful(0, 4)
                          .limits(-1, 100)
                          .column("Sharpen")
                          .acts_when(there)
                          .help("How much of the lost detail is added."),
                      scalar("radius", "Radius", 0.01)
                          .share_of_tile()
                          .useful(0.002, 0.1)
                          .limits(0, 0.5)
                          .column("Sharpen")
                          .acts_when(there)
                          .help("How coarse the detail is that is brought out."),
                      ends_parameter("Sharpen", "connected(source)")},
       .evaluate = [](AreaCall& call) { return within_edges(call, evaluate_sharpen, {"radius"}); },
       .keeps_normals = true});
}

}  // namespace loom
