// Bevel: a slope along the edge of a mask, inside, outside or on both sides.
#include <algorithm>
#include <cmath>

#include "core/base/parallel.h"
#include "core/nodes/each_strand.h"
#include "core/nodes/within_edges.h"
#include "core/plane/filters.h"

namespace loom {
namespace {

constexpr std::size_t kPlaces = 4096;  // of the table from which the slope is read

// A row of the map that is read, from its left to its right.
std::vector<float> read_row(const Plane& map, float v) {
  const float y = v * static_cast<float>(map.size()) - 0.5f, below = y - std::floor(y);
  const float *first = map.row(wrap(static_cast<int>(std::floor(y)), map.size())),
              *second = map.row(wrap(static_cast<int>(std::floor(y)) + 1, map.size()));
  std::vector<float> row(static_cast<std::size_t>(map.size()));
  for (std::size_t i = 0; i < row.size(); ++i) row[i] = first[i] + (second[i] - first[i]) * below;
  return row;
}

// What the map's row makes of places 0 to 1; its ends are not wrapped.
void shape_by_row(std::vector<float>& table, const std::vector<float>& row) {
  for (float& t : table) {
    const float x = std::clamp(t * static_cast<float>(row.size()) - 0.5f, 0.0f, static_cast<float>(row.size() - 1));
    const auto i = std::min(static_cast<std::size_t>(x), row.size() - 2);
    t = row[i] + (row[i + 1] - row[i]) * (x - static_cast<float>(i));
  }
}

void shape_by_curve(std::vector<float>& table, const Points& points) {
  Builder b(Domain::numbers());
  b.store(b.apply(kCurve, {b.attribute(0)}, smooth_curve(points), 1)[0], 0);
  std::vector<float> shaped(table.size());
  const float* in = table.data();
  float* out = shaped.data();
  run_samples(b.build(), table.size(), {&in, 1}, {&out, 1}, Stop{});
  table.swap(shaped);
}

// The shape of the slope over t = 0 (foot) to 1 (top).
std::vector<float> profile(const AreaCall& call) {
  std::vector<float> table(kPlaces + 1);
  const float rounding = call.real("rounding");
  for (std::size_t i = 0; i < table.size(); ++i) {
    const float t = static_cast<float>(i) / static_cast<float>(kPlaces);
    const float round = std::sqrt(std::max(0.0f, 1 - (1 - t) * (1 - t)));
    table[i] = t + rounding * (round - t);
  }
  const auto* points = std::get_if<Points>(&call.param("profile"));
  if (call.connected("profile_map"))
    shape_by_row(table, read_row(*call.plane("profile_map"), call.real("profile_row")));
  else if (points && points->size() > 1)
    shape_by_curve(table, *points);
  return table;
}

// What is sloped: the mask, or wherever there is a region.
PlanePtr body_of(const AreaCall& call) {
  const Field* regions = call.in("regions");
  if (call.connected("mask") || !regions) return call.plane("mask");
  const Plane& index = *regions->strand[0];
  auto body = std::make_shared<Plane>(index.size());
  for_rows(index.size(), 16, call.stop, [&](int first, int last) {
    for (int y = first; y < last; ++y)
      for (int x = 0; x < index.size(); ++x) body->row(y)[x] = index.row(y)[x] >= 0 ? 1.0f : 0.0f;
  });
  return body;
}

// Where regions adjoin, their common border is an edge too: the distance to it is half a texel more than to the texels
// beside it.
void bound_by_borders(Plane& within, const Plane& index, float limit, const Stop& stop) {
  const int size = index.size();
  Plane beside(size);
  for_rows(size, 16, stop, [&](int first, int last) {
    for (int y = first; y < last; ++y) {
      const float *row = index.row(y), *up = index.row(wrap(y - 1, size)), *down = index.row(wrap(y + 1, size));
      for (int x = 0; x < size; ++x) {
        const float own = row[x];
        const auto other = [own](float there) { return there >= 0 && there != own; };
        const bool border = own >= 0 && (other(row[wrap(x - 1, size)]) || other(row[wrap(x + 1, size)]) ||
                                         other(up[x]) || other(down[x]));
        beside.row(y)[x] = border ? 1.0f : 0.0f;
      }
    }
  });
  const Plane distance = distance_to(beside, 0.5f, stop, limit).distance;
  for_rows(size, 16, stop, [&](int first, int last) {
    for (int y = first; y < last; ++y)
      for (int x = 0; x < size; ++x) within.row(y)[x] = std::min(within.row(y)[x], distance.row(y)[x] + 0.5f);
  });
}

Result<Done> evaluate_bevel(AreaCall& call) {
  const PlanePtr mask = body_of(call);
  const int size = call.size();
  const float width = std::max(call.real("width") * static_cast<float>(size), 1e-3f);
  const bool inside = !call.is("side", "outside"), outside = !call.is("side", "inside");
  const auto table = profile(call);
  Plane within, beyond;
  if (inside) within = edge_distance(*mask, true, width + 2, call.stop);
  if (outside) beyond = edge_distance(*mask, false, width + 2, call.stop);
  if (const Field* regions = call.in("regions"); regions && inside)
    bound_by_borders(within, *regions->strand[0], width + 2, call.stop);
  Plane height(size);
  for_rows(size, 16, call.stop, [&](int first, int last) {
    for (int y = first; y < last; ++y)
      for (int x = 0; x < size; ++x) {
        // Signed distance from the edge, positive inside, in shares of the slope.
        const float d = (inside ? within.row(y)[x] : 0) - (outside ? beyond.row(y)[x] : 0);
        const float base = inside && outside ? 0.5f + d / width : inside ? d / width : 1 + d / width;
        const float at = std::clamp(base, 0.0f, 1.0f) * static_cast<float>(kPlaces);
        const auto i = std::min(static_cast<std::size_t>(at), kPlaces - 1);
        const float t = at - static_cast<float>(i);
        height.row(y)[x] = table[i] + (table[i + 1] - table[i]) * t;
      }
  });
  const bool edged = call.connected("mask") || call.connected("regions");
  if (!edged || call.real("width") <= 0)
    height = mask->clone();
  else if (const float smoothing = call.real("smoothing"); smoothing > 0)
    height = blurred(height, smoothing, call.stop);
  if (call.wanted("normal")) {
    const double depth = call.measures().relief_metres / call.measures().tile_metres;
    auto n = normals(height, static_cast<float>(depth) * call.real("strength"), call.stop);
    Field normal;
    normal.kind = Kind::normal;
    for (std::size_t i = 0; i < 3; ++i) normal.strand[i] = std::make_shared<Plane>(std::move(n[i]));
    call.out("normal", std::move(normal));
  }
  call.out("height", std::move(height));
  return call.done();
}

}  // namespace

void add_bevel(Catalogue& catalogue) {
  const std::string edged = "max(connected(mask), connected(regions))";
  const ActsWhen wide{"(width > 0) * " + edged, "A bevel of width 0, or without a mask or regions, has no slope."};
  const ActsWhen drawn{"(width > 0) * " + edged + " * (connected(profile_map) == 0)",
                       "The profile is read from the map, or there is no slope."};
  const ActsWhen read{"(width > 0) * " + edged + " * connected(profile_map)",
                      "No profile is read from a map: connect one."};
  catalogue.add(
      {.id = "bevel",
       .label = "Bevel",
       .rack = Rack::edge,
       .help = "Slopes along the edge of a mask or of regions, as height and as normal.",
       .more = "Exact distances on the torus with the edge placed inside a texel by its coverage (Gustavson and Strand "
               "2011); regions that adjoin are parted along their common border. Width 0 is no bevel. The profile is "
               "drawn as a curve, or read from a map along a line, from its left (the foot) to its right (the top); "
               "the line is shown on the map and can be dragged there.",
       .words = "chamfer edge round slope emboss moulding",
       .inputs = {{"mask", "Mask"},
                  {"regions", "Regions", Kind::regions},
                  {.id = "profile_map", .label = "Profile map", .own_frame = true}},
       .outputs = {{"height", "Height"}, {"normal", "Normal", Kind::normal}},
       .parameters = {scalar("mask", "Mask", 0.0)
                          .column("Input")
                          .stands_in(edged + " == 0", "It comes in at its peg, or regions do."),
                      choice("side", "Side", {"inside", "outside", "both"})
                          .column("Slope")
                          .acts_when(wide)
                          .help("On which side of the mask's edge the slope lies."),
                      scalar("width", "Width", 0.016)
                          .share_of_tile()
                          .useful(0, 0.1)
                          .limits(0, 0.5)
                          .column("Slope")
                          .acts_when(edged, "There is no edge: connect a mask or regions.")
                          .help("How wide the slope is."),
                      scalar("smoothing", "Smoothing", 0.0)
                          .share_of_tile()
                          .useful(0, 0.02)
                          .limits(0, 0.5)
                          .column("Slope")
                          .acts_when(wide)
                          .help("Rounds the slope and its corners, as wide as this."),
                      scalar("strength", "Strength", 1.0)
                          .times()
                          .useful(0, 4)
                          .limits(-1000, 1000)
                          .column("Normal")
                          .help("How steep the relief counts: 1 is as the material's own height says."),
                      scalar("rounding", "Rounding", 0.5)
                          .share()
                          .column("Profile")
                          .acts_when(wide)
                          .help("From a straight slope at 0 to a quarter of a circle at 1."),
                      points("profile", "Profile")
                          .ends("Foot", "Top")
                          .limits(-100, 100)
                          .column("Profile")
                          .acts_when(drawn)
                          .help("The shape of the slope from its foot to its top."),
                      scalar("profile_row", "Profile row", 0.5)
                          .share_of_tile()
                          .column("Profile")
                          .acts_when(read)
                          .help("Which row of the connected map is the profile."),
                      ends_parameter("Slope", "(width > 0) * max(connected(mask), connected(regions))")},
       .handles = {{.form = Handle::Form::line_v, .parameter = "profile_row", .peg = "profile_map"}},
       .evaluate = [](AreaCall& call) {
         return within_edges(call, evaluate_bevel, {"width", "smoothing"});
       }});
}

}  // namespace loom
