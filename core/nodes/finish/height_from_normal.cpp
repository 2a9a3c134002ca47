// Height from normal: the relief whose slopes a normal map shows.
#include <algorithm>
#include <cmath>

#include "core/base/parallel.h"
#include "core/nodes/node_call.h"
#include "core/plane/integrate.h"

namespace loom {
namespace {

Result<Done> evaluate_height_from_normal(AreaCall& call) {
  const Field* normal = call.in("normal");
  const int size = call.size();
  if (!normal) {
    call.out("height", Plane::filled(size, 0.5f));
    return Done{};
  }
  const float scale =
      call.real("strength") * static_cast<float>(call.measures().tile_metres / call.measures().relief_metres);
  Plane du(size), dv(size);
  for_rows(size, 32, call.stop, [&](int first, int last) {
    for (int y = first; y < last; ++y)
      for (int x = 0; x < size; ++x) {
        // A normal that lies level has no finite slope: 60 to 1 is as steep as it gets.
        const float z = std::max(normal->strand[2]->row(y)[x], 1.0f / 60);
        du.row(y)[x] = -scale * normal->strand[0]->row(y)[x] / z;
        dv.row(y)[x] = scale * normal->strand[1]->row(y)[x] / z;
      }
  });
  call.out("height", height_from_slopes(du, dv, call.stop, 0.5f));
  return call.done();
}

}  // namespace

void add_height_from_normal(Catalogue& catalogue) {
  catalogue.add({.id = "height_from_normal",
                 .label = "Height from normal",
                 .rack = Rack::finish,
                 .help = "The height whose slopes a normal map shows, in real units, about one half.",
                 .more = "Least squares over all waves of the torus (Frankot and Chellappa 1988). What no height can "
                         "have, such as a slope that only rises, is left out.",
                 .words = "integrate depth displacement normal to height",
                 .inputs = {{"normal", "Normal", Kind::normal}},
                 .outputs = {{"height", "Height"}},
                 .parameters = {scalar("strength", "Strength", 1.0)
                                    .times()
                                    .useful(0, 4)
                                    .limits(-100, 100)
                                    .column("Relief")
                                    .acts_when("connected(normal)", "A flat surface has no relief: connect a normal.")
                                    .help("How steep the relief counts: 1 is as the material's own height says.")},
                 .evaluate = evaluate_height_from_normal,
                 .working_planes = 6});
}

}  // namespace loom
