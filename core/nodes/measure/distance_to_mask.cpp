// Distance to mask: how far the nearest source lies, and the value that it carries.
#include <algorithm>

#include "core/base/parallel.h"
#include "core/nodes/moved.h"
#include "core/nodes/within_edges.h"

namespace loom {
namespace {

// What each texel's nearest source carries; growth stops at the reach, and beyond it nothing is carried.
Field carried(const Field& value, const DistanceField& field, const Plane& distance, const Stop& stop) {
  const int size = distance.size();
  std::vector<Plane> strands;
  for (int i = 0; i < strand_count(value.kind); ++i) strands.emplace_back(size);
  for_rows(size, 16, stop, [&](int first, int last) {
    for (int y = first; y < last; ++y) {
      const std::int32_t* nearest = field.nearest.get() + static_cast<std::size_t>(y) * static_cast<std::size_t>(size);
      const float* d = distance.row(y);
      for (std::size_t i = 0; i < strands.size(); ++i) {
        const float none = value.kind == Kind::regions ? -1.0f : value.kind == Kind::normal && i == 2 ? 1.0f : 0.0f;
        const float* from = value.strand[i]->data();
        float* out = strands[i].row(y);
        for (int x = 0; x < size; ++x) out[x] = nearest[x] < 0 || d[x] >= 1 ? none : from[nearest[x]];
      }
    }
  });
  Field out = field_of(value.kind, std::move(strands));
  if (value.kind != Kind::regions) return out;
  // The grown cells as regions: each keeps the key of its seed.
  Labels cells = label_parts(
      *out.strand[0], *value.regions, [](int, int, int) { return Turn{}; }, stop);
  out.strand[0] = std::make_shared<Plane>(std::move(cells.index));
  out.regions = std::make_shared<RegionTable>(std::move(cells.table));
  return out;
}

Result<Done> evaluate_distance_to_mask(AreaCall& call) {
  const PlanePtr mask = call.plane("mask");
  const int size = call.size();
  const DistanceField field =
      distance_to(*mask, call.real("level"), call.stop, call.real("reach") * static_cast<float>(size) + 2);
  const float scale = 1 / std::max(call.real("reach") * static_cast<float>(size), 1e-6f);
  Plane distance = smooth_distance(field, *mask, false, call.stop);
  for_rows(size, 16, call.stop, [&](int first, int last) {
    for (int y = first; y < last; ++y)
      for (int x = 0; x < size; ++x) distance.row(y)[x] = std::min(distance.row(y)[x] * scale, 1.0f);
  });
  if (call.wanted("carried")) {
    Field even = field_of(Kind::scalar, {});
    even.strand[0] = call.plane("value");
    const Field* value = call.in("value");
    call.out("carried", map_by_map(value ? *value : even,
                                   [&](const Field& map) { return carried(map, field, distance, call.stop); }));
  }
  call.out("distance", std::move(distance));
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
       .parameters = {scalar("mask", "Mask", 0.0).column("Input").stands_in(),
                      scalar("value", "Value", 1.0)
                          .limits(-1e6, 1e6)
                          .column("Input")
                          .stands_in("(connected(value) == 0) * connected(mask)",
                                     "It comes in at its peg, or there is no mask."),
                      scalar("level", "Level", 0.5)
                          .useful(0.05, 0.95)
                          .limits(-1e4, 1e4)
                          .column("Source")
                          .acts_when("connected(mask)", "There are no sources: connect a mask.")
                          .help("From this value up the mask counts."),
                      scalar("reach", "Reach", 0.1)
                          .share_of_tile()
                          .useful(0.005, 0.5)
                          .limits(0.0001, 2)
                          .column("Source")
                          .acts_when("connected(mask)", "There are no sources: connect a mask.")
                          .help("The distance at which it is 1; beyond it nothing is carried."),
                      ends_parameter("Source", "connected(mask)")},
       .evaluate = [](AreaCall& call) { return within_edges(call, evaluate_distance_to_mask, {"reach"}); },
       .takes_regions = true,
       .takes_sets = true,
       .keeps_normals = true});
}

}  // namespace loom
