// Outline: lines where values or regions change. Grow and shrink: a mask's edge moved outwards or inwards.
#include <algorithm>
#include <cmath>

#include "core/base/parallel.h"
#include "core/nodes/node_call.h"
#include "core/nodes/within_edges.h"
#include "core/plane/filters.h"

namespace loom {
namespace {

// A change is looked for over this share of the tile, so that a faint step is the same step at every size.
constexpr int kStepsAcross = 512;

// Marks the texels between which `a` changes by at least `level` (regions: at all); the mark is `span` texels wide.
Plane changes(const Field& source, float level, int span, const Stop& stop) {
  const int size = source.size(), ahead = (span + 1) / 2, behind = span / 2, strands = strand_count(source.kind);
  const bool regions = source.kind == Kind::regions;
  Plane marks(size);
  for_rows(size, 16, stop, [&](int first, int last) {
    for (int y = first; y < last && !stop.asked(); ++y) {
      float* out = marks.row(y);
      std::fill_n(out, size, 0.0f);
      for (int s = 0; s < strands; ++s) {
        const Plane& p = *source.strand[static_cast<std::size_t>(s)];
        const float *row = p.row(y), *up = p.row(wrap(y - behind, size)), *down = p.row(wrap(y + ahead, size));
        for (int x = 0; x < size; ++x) {
          const float across = std::abs(row[wrap(x + ahead, size)] - row[wrap(x - behind, size)]),
                      along = std::abs(down[x] - up[x]);
          const float change = std::max(across, along);
          out[x] = (regions ? change > 0 : change >= level) ? 1.0f : out[x];
        }
      }
    }
  });
  return marks;
}

Result<Done> outline(AreaCall& call) {
  const Field* source = call.in("source");
  const int size = call.size();
  const float half = 0.5f * call.real("width") * static_cast<float>(size);
  if (!source || half <= 0) {
    call.out("mask", Plane::filled(size, 0));
    call.out("height", Plane::filled(size, 0));
    return Done{};
  }
  const int span = std::max(1, (call.toggle("ends_at_edge") ? size / 2 : size) / kStepsAcross);
  const Plane marks = changes(*source, call.real("least_step"), span, call.stop);
  Plane distance = distance_to(marks, 0.5f, call.stop, half + 2).distance;
  Plane mask(size), height(size);
  const float crown = call.real("crown"), start = 0.5f * static_cast<float>(span) - 0.5f;
  for_rows(size, 16, call.stop, [&](int first, int last) {
    for (int y = first; y < last; ++y)
      for (int x = 0; x < size; ++x) {
        // The line's middle lies in the middle of the mark.
        const float marked = distance.row(y)[x], d = marked > 0 ? marked + start : 0;
        const float cover = std::clamp(half - d + 0.5f, 0.0f, 1.0f), t = std::min(d / half, 1.0f);
        mask.row(y)[x] = cover;
        height.row(y)[x] = cover * (1 - crown + crown * std::sqrt(std::max(0.0f, 1 - t * t)));
      }
  });
  call.out("mask", std::move(mask));
  call.out("height", std::move(height));
  return call.done();
}

Result<Done> grow(AreaCall& call) {
  const PlanePtr mask = call.plane("mask");
  const int size = call.size();
  const float by = call.real("distance") * static_cast<float>(size),
              soft = call.real("softness") * static_cast<float>(size);
  if (!call.connected("mask")) {
    call.out("mask", mask->clone());
    return Done{};
  }
  const float limit = std::abs(by) + soft + 3;
  Plane inside = edge_distance(*mask, true, limit, call.stop);
  const Plane outside = edge_distance(*mask, false, limit, call.stop);
  const float edge = std::max(soft, 1.0f);
  for_rows(size, 16, call.stop, [&](int first, int last) {
    for (int y = first; y < last; ++y)
      for (int x = 0; x < size; ++x)
        inside.row(y)[x] = std::clamp(0.5f + (inside.row(y)[x] - outside.row(y)[x] + by) / edge, 0.0f, 1.0f);
  });
  call.out("mask", std::move(inside));
  return call.done();
}

}  // namespace

void add_outline(Catalogue& catalogue) {
  const ActsWhen there{"connected(source)", "There is nothing to line: connect a source or regions."};
  catalogue.add(
      {.id = "outline",
       .label = "Outline",
       .rack = Rack::edge,
       .help = "Lines where values change, however faintly, or between regions, with no gap.",
       .more = "A change counts if it reaches the least step within 1/512 of the tile; between regions every change "
               "counts. The line's width comes from exact distances to it; the crown gives it a round cross-section as "
               "height.",
       .words = "edge detect contour stroke line sobel cracks border",
       .inputs = {{"source", "Source", Kind::any}},
       .outputs = {{"mask", "Line"}, {"height", "Height"}},
       .parameters = {scalar("least_step", "Least step", 0.02)
                          .useful(0.001, 0.3)
                          .limits(1e-6, 1e4)
                          .column("Line")
                          .acts_when(there)
                          .help("How great a step in value makes a line."),
                      scalar("width", "Width", 0.01)
                          .share_of_tile()
                          .useful(0.002, 0.05)
                          .limits(0, 0.5)
                          .column("Line")
                          .acts_when(there)
                          .help("How wide the line is."),
                      scalar("crown", "Crown", 1.0)
                          .share()
                          .column("Line")
                          .acts_when(there)
                          .help("The relief of the line: 0 flat, 1 a half round."),
                      ends_parameter("Line", "connected(source)")},
       .evaluate = [](AreaCall& call) { return within_edges(call, outline, {"width"}); },
       .takes_regions = true});
  const ActsWhen mask{"connected(mask)", "There is nothing to grow: connect a mask."};
  catalogue.add({.id = "grow_and_shrink",
                 .label = "Grow and shrink",
                 .rack = Rack::edge,
                 .help = "Moves a mask's edge outwards, or inwards below 0.",
                 .more = "By exact distance, so corners grow round. The edge is one texel wide, or as soft as asked.",
                 .words = "dilate erode morphology expand choke spread offset",
                 .inputs = {{"mask", "Mask"}},
                 .outputs = {{"mask", "Mask"}},
                 .parameters = {scalar("mask", "Mask", 0.0).column("Input").stands_in(),
                                scalar("distance", "Distance", 0.01)
                                    .share_of_tile()
                                    .useful(-0.05, 0.05)
                                    .limits(-0.5, 0.5)
                                    .column("Edge")
                                    .acts_when(mask)
                                    .help("How far the edge is moved: above 0 outwards, below 0 inwards."),
                                scalar("softness", "Softness", 0.0)
                                    .share_of_tile()
                                    .useful(0, 0.05)
                                    .limits(0, 0.5)
                                    .column("Edge")
                                    .acts_when(mask)
                                    .help("How wide the fading edge is."),
                                ends_parameter("Edge", "connected(mask)")},
                 .evaluate =
                     [](AreaCall& call) {
                       return within_edges(call, grow, {"distance", "softness"});
                     },
                 .working_planes = 5});
}

}  // namespace loom
