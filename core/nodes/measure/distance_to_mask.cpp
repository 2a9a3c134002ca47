// Distance to mask: how far the nearest source lies, and the value that it carries.
#include <algorithm>

#include "core/base/parallel.h"
#include "core/nodes/node_call.h"
#include "core/plane/filters.h"

namespace loom {
namespace {

Result<Done> evaluate(AreaCall& call) {
  const PlanePtr mask = call.plane("mask");
  const int size = call.size();
  const DistanceField field =
      distance_to(*mask, call.real("level"), call.stop, call.real("reach") * static_cast<float>(size) + 2);
  const float scale = 1 / std::max(call.real("reach") * static_cast<float>(size), 1e-6f);
  Plane distance = smooth_distance(field, *mask, false, call.stop);
  const Field* value = call.in("value");
  Field carried;
  carried.kind = value ? value->kind : Kind::scalar;
  std::vector<Plane> strands;
  for (int i = 0; i < strand_count(carried.kind); ++i) strands.emplace_back(size);
  for_rows(size, 16, call.stop, [&](int first, int last) {
    for (int y = first; y < last; ++y) {
      const std::int32_t* nearest = field.nearest.get() + static_cast<std::size_t>(y) * static_cast<std::size_t>(size);
      float* d = distance.row(y);
      for (int x = 0; x < size; ++x) d[x] = std::min(d[x] * scale, 1.0f);
      for (std::size_t i = 0; i < strands.size(); ++i) {
        const float* from = value ? value->strand[i]->data() : nullptr;
        float* out = strands[i].row(y);
        // Growth stops at the reach: beyond it nothing is carried.
        for (int x = 0; x < size; ++x)
          out[x] = nearest[x] < 0 || d[x] >= 1 ? 0 : from ? from[nearest[x]] : call.real("value");
      }
    }
  });
  for (std::size_t i = 0; i < strands.size(); ++i) carried.strand[i] = std::make_shared<Plane>(std::move(strands[i]));
  call.out("distance", std::move(distance));
  call.out("carried", std::move(carried));
  return call.done();
}

}  // namespace

void add_distance_to_mask(Catalogue& catalogue) {
  catalogue.add(
      {.id = "distance_to_mask",
       .label = "Distance to mask",
       .rack = Rack::measure,
       .help = "How far the nearest white lies, up to a reach, and the value found there.",
       .more = "Exact Euclidean distance on the torus (Meijster, Roerdink and Hesselink 2000). 0 at a source, 1 at the "
               "reach. A source is at or above the level.",
       .words = "grow expand voronoi edt falloff spread dilate",
       .inputs = {{"mask", "Mask"}, {"value", "Value", Kind::any}},
       .outputs = {{"distance", "Distance"}, {"carried", "Carried value", Kind::any}},
       .parameters = {{"mask",
                       "Mask",
                       ParameterKind::scalar,
                       Unit::none,
                       0.0,
                       {0, 1},
                       {0, 1},
                       "Input",
                       {},
                       {"connected(mask) == 0", "It comes in at its peg."}},
                      {"value",
                       "Value",
                       ParameterKind::scalar,
                       Unit::none,
                       1.0,
                       {0, 1},
                       {-1e6, 1e6},
                       "Input",
                       {},
                       {"(connected(value) == 0) * connected(mask)", "It comes in at its peg, or there is no mask."}},
                      {"level",
                       "Level",
                       ParameterKind::scalar,
                       Unit::none,
                       0.5,
                       {0.05, 0.95},
                       {-1e4, 1e4},
                       "Source",
                       {},
                       {"connected(mask)", "There are no sources: connect a mask."}},
                      {"reach",
                       "Reach",
                       ParameterKind::scalar,
                       Unit::share_of_tile,
                       0.1,
                       {0.005, 0.5},
                       {0.0001, 2},
                       "Source",
                       {},
                       {"connected(mask)", "There are no sources: connect a mask."}}},
       .evaluate = evaluate});
}

}  // namespace loom
