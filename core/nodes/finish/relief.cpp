// Normal from height and Occlusion from height, in real units.
#include <cmath>

#include "core/base/parallel.h"
#include "core/nodes/node_call.h"
#include "core/nodes/within_edges.h"
#include "core/plane/filters.h"

namespace loom {
namespace {

float depth_of(const NodeCall& call) {
  return static_cast<float>(call.measures().relief_metres / call.measures().tile_metres) * call.real("strength");
}

Result<Done> normal(AreaCall& call) {
  auto n = normals(*call.plane("height"), depth_of(call), call.stop);
  Field out;
  out.kind = Kind::normal;
  for (std::size_t i = 0; i < 3; ++i) out.strand[i] = std::make_shared<Plane>(std::move(n[i]));
  call.out("normal", std::move(out));
  return call.done();
}

Result<Done> sky(AreaCall& call) {
  call.out("occlusion", occlusion(*call.plane("height"), depth_of(call), call.real("reach"), call.stop));
  return call.done();
}

Parameter height_parameter() {
  return scalar("height", "Height", 0.0)
      .limits(-1e4, 1e4)
      .column("Input")
      .stands_in("0 > 1", "An even height has no relief: connect a map.");
}

}  // namespace

void add_relief(Catalogue& catalogue) {
  const ActsWhen connected{"connected(height)", "There is no relief: connect a height."};
  catalogue.add({.id = "normal_from_height",
                 .label = "Normal from height",
                 .rack = Rack::finish,
                 .help = "The surface direction of a height, in real units.",
                 .more = "Central differences; height 0 to 1 is the material's relief over its tile's width. +Y up, "
                         "components -1 to 1.",
                 .words = "normal map bump tangent",
                 .inputs = {{"height", "Height"}},
                 .outputs = {{"normal", "Normal", Kind::normal}},
                 .parameters = {height_parameter(),
                                scalar("strength", "Strength", 1.0)
                                    .times()
                                    .useful(0, 4)
                                    .limits(-100, 100)
                                    .column("Relief")
                                    .acts_when(connected)
                                    .help("How steep the relief counts: 1 is as the material's own height says."),
                                ends_parameter("Relief", "connected(height)")},
                 .evaluate = [](AreaCall& call) { return within_edges(call, normal, {}); }});
  catalogue.add(
      {.id = "occlusion_from_height",
       .label = "Occlusion from height",
       .rack = Rack::measure,
       .help = "How much of the sky each place sees, in real units.",
       .more = "Cosine-weighted: the mean over 16 directions of the horizon's squared cosine (after Max 1988), near "
               "ones looked for texel by texel, far ones at one part in six of their distance. 1 is open.",
       .words = "ambient ao cavity shadow crevice",
       .inputs = {{"height", "Height"}},
       .outputs = {{"occlusion", "Occlusion"}},
       .parameters = {height_parameter(),
                      scalar("strength", "Strength", 1.0)
                          .times()
                          .useful(0, 4)
                          .limits(0, 100)
                          .column("Relief")
                          .acts_when(connected)
                          .help("How steep the relief counts: 1 is as the material's own height says."),
                      scalar("reach", "Reach", 0.1)
                          .share_of_tile()
                          .useful(0.005, 0.5)
                          .limits(0.001, 1)
                          .column("Relief")
                          .acts_when(connected)
                          .help("How far away what stands higher still takes light."),
                      ends_parameter("Relief", "connected(height)")},
       .evaluate = [](AreaCall& call) { return within_edges(call, sky, {"reach"}); },
       .working_planes = 6});
}

}  // namespace loom
