// Follow: many small steps along an offset field. Smear: the mean along it.
#include <cmath>

#include "core/nodes/moved.h"
#include "core/plane/flow.h"

namespace loom {
namespace {

bool passes_through(AreaCall& call) {
  const Field* source = call.in("source");
  if (source && call.connected("field")) return false;
  if (source)
    call.out("result", *source);
  else
    call.out("result", Plane::filled(call.size(), call.real("source")));
  return true;
}

Result<Done> follow(AreaCall& call) {
  if (passes_through(call)) return Done{};
  const Field& field = *call.in("field");
  const int doublings = call.integer("doublings");
  const float share = call.real("amount") / static_cast<float>(1 << doublings);
  const auto way = way_along(*field.strand[0], *field.strand[1], share, doublings, call.stop);
  const Plane &u = way.empty() ? *field.strand[0] : way[0], &v = way.empty() ? *field.strand[1] : way[1];
  call.out("result", moved_by(*call.in("source"), {u, v, share}, call.stop));
  return call.done();
}

Result<Done> smear(AreaCall& call) {
  if (passes_through(call)) return Done{};
  const Field& field = *call.in("field");
  call.out("result", map_by_map(*call.in("source"), [&](const Field& map) {
             Field out = field_of(map.kind, smeared(strands_of(map), *field.strand[0], *field.strand[1],
                                                    call.real("length"), 5, call.stop));
             if (map.kind == Kind::normal) normalise(out, call.stop);
             return out;
           }));
  return call.done();
}

}  // namespace

void add_flow(Catalogue& catalogue) {
  const ActsWhen both{"connected(source) * connected(field)", "Connect a source and a field first."};
  const Parameter source = stand_in("source", "Source", 0.0, "Input");
  const std::vector<Peg> in{{"source", "Source", Kind::any}, {"field", "Field", Kind::vector2}},
      out{{"result", "Result", Kind::any}};
  catalogue.add(
      {.id = "follow",
       .label = "Follow",
       .rack = Rack::move,
       .help = "Reads a map from where many small steps along a field of offsets lead.",
       .more = "The amount is divided over 2^doublings steps, each along the field at the place reached so far; worked "
               "out by doubling. One step is a leap, as Warp does.",
       .words = "advect flow vector field drift current streamline",
       .inputs = in,
       .outputs = out,
       .parameters = {source,
                      scalar("amount", "Amount", 0.1)
                          .share_of_tile()
                          .useful(-0.5, 0.5)
                          .limits(-4, 4)
                          .column("Way")
                          .acts_when(both)
                          .help("How far is gone in all, for a field vector of length 1."),
                      integer("doublings", "Steps doubled", 4)
                          .count()
                          .useful(0, 6)
                          .limits(0, 8)
                          .column("Way")
                          .acts_when(both)
                          .help("How fine the steps are: 0 is one leap, 4 are 16 steps, 6 are 64.")},
       .evaluate = follow,
       .takes_regions = true,
       .takes_sets = true,
       .keeps_normals = true,
       .working_planes = 3});
  catalogue.add(
      {.id = "smear",
       .label = "Smear",
       .rack = Rack::move,
       .help = "The mean of a map along a field of directions.",
       .more = "Line integral convolution (Cabral and Leedom 1993) over 32 samples, half ahead and half behind, by "
               "doubling. Length is the way for a field vector of length 1.",
       .words = "streak drag lic motion directional brush",
       .inputs = in,
       .outputs = out,
       .parameters = {source, scalar("length", "Length", 0.1)
                                  .share_of_tile()
                                  .useful(0, 0.4)
                                  .limits(0, 2)
                                  .column("Way")
                                  .acts_when(both)
                                  .help("How far along the field the mean is taken, for a field vector of length 1.")},
       .evaluate = smear,
       .takes_sets = true,
       .keeps_normals = true,
       .working_planes = 9});
}

}  // namespace loom
