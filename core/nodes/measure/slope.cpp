// Slope and Curvature from height, in real units; Relief light.
#include <cmath>

#include "core/base/parallel.h"
#include "core/nodes/moved.h"
#include "core/nodes/within_edges.h"
#include "core/plane/filters.h"

namespace loom {
namespace {

float slope_depth(const NodeCall& call) {
  return static_cast<float>(call.measures().relief_metres / call.measures().tile_metres) * call.real("strength");
}

struct Slopes {
  Plane u, v;
};

// In relief per tile width.
Slopes slopes_of(const AreaCall& call, const Plane& height) {
  Slopes s{Plane(call.size()), Plane(call.size())};
  slopes(height, s.u, s.v, call.stop);
  return s;
}

// Scaled to true slopes.
Slopes true_slopes(const AreaCall& call, const Plane& height) {
  Slopes s = slopes_of(call, height);
  const float depth = slope_depth(call);
  for_rows(call.size(), 64, call.stop, [&](int first, int last) {
    for (int y = first; y < last; ++y)
      for (int x = 0; x < call.size(); ++x) s.u.row(y)[x] *= depth, s.v.row(y)[x] *= depth;
  });
  return s;
}

Plane softened(const AreaCall& call) { return blurred(*call.plane("height"), 0.5f * call.real("radius"), call.stop); }

// On the strip program: its functions run on whole vectors.
Result<Done> slope(AreaCall& call) {
  Slopes s = slopes_of(call, softened(call));
  const int size = call.size();
  Builder b(Domain::texels(size));
  const Reg depth = b.constant(slope_depth(call));
  const Reg du = b.mul(b.read(std::make_shared<Plane>(std::move(s.u))), depth),
            dv = b.mul(b.read(std::make_shared<Plane>(std::move(s.v))), depth);
  b.store(b.mul(b.apply(Op::arctangent, b.length(du, dv)), 0.63661977f), 0);
  b.store(b.fract(b.mul(b.apply(Op::arctangent2, b.neg(dv), du), 0.15915494f)), 1);
  b.store(du, 2);
  b.store(dv, 3);
  const auto made_if = [&](const char* peg) { return call.wanted(peg) ? Plane(size) : Plane(); };
  Plane steep(size), direction = made_if("direction"), along_u = made_if("gradient"), along_v = made_if("gradient");
  const auto target = [&](const char* peg, Plane& p) { return call.wanted(peg) ? &p : nullptr; };
  Plane* const outputs[] = {&steep, target("direction", direction), target("gradient", along_u),
                            target("gradient", along_v)};
  run_texels(b.build(), size, outputs, call.stop);
  call.out("steepness", std::move(steep));
  if (call.wanted("direction")) call.out("direction", std::move(direction));
  if (call.wanted("gradient")) {
    std::vector<Plane> strands;
    strands.push_back(std::move(along_u));
    strands.push_back(std::move(along_v));
    call.out("gradient", field_of(Kind::vector2, std::move(strands)));
  }
  return call.done();
}

// The strongest bulge or hollow becomes 1; one factor for all, so that they stay comparable.
void fill_range(std::initializer_list<Plane*> planes, const Stop& stop) {
  const Range mean = range_of(**planes.begin());
  const float most = std::max(mean.most, -mean.least);
  if (!(most > 0)) return;
  for (Plane* p : planes)
    for_rows(p->size(), 64, stop, [&](int first, int last) {
      for (int y = first; y < last; ++y)
        for (int x = 0; x < p->size(); ++x) p->row(y)[x] /= most;
    });
}

Result<Done> curvature(AreaCall& call) {
  Slopes s = true_slopes(call, softened(call));
  const int size = call.size();
  // The mean curvature is half the divergence of the unit normal; times the radius it is a plain number.
  for_rows(size, 64, call.stop, [&](int first, int last) {
    for (int y = first; y < last; ++y)
      for (int x = 0; x < size; ++x) {
        const float inverse = 1 / std::sqrt(1 + s.u.row(y)[x] * s.u.row(y)[x] + s.v.row(y)[x] * s.v.row(y)[x]);
        s.u.row(y)[x] *= inverse;
        s.v.row(y)[x] *= inverse;
      }
  });
  Plane mean(size), convex(size), concave(size);
  const float scale = 0.25f * static_cast<float>(size) * std::max(call.real("radius"), 1e-4f);
  for_rows(size, 32, call.stop, [&](int first, int last) {
    for (int y = first; y < last; ++y) {
      const float *up = s.v.row(wrap(y - 1, size)), *down = s.v.row(wrap(y + 1, size)), *row = s.u.row(y);
      for (int x = 0; x < size; ++x) {
        const float h = -scale * (row[wrap(x + 1, size)] - row[wrap(x - 1, size)] + down[x] - up[x]);
        mean.row(y)[x] = h;
        convex.row(y)[x] = std::max(h, 0.0f);
        concave.row(y)[x] = std::max(-h, 0.0f);
      }
    }
  });
  if (call.toggle("full_range")) fill_range({&mean, &convex, &concave}, call.stop);
  call.out("mean", std::move(mean));
  call.out("convex", std::move(convex));
  call.out("concave", std::move(concave));
  return call.done();
}

Result<Done> light(AreaCall& call) {
  const Slopes s = true_slopes(call, *call.plane("height"));
  const float turn = call.real("direction") * 0.017453292519943f, rise = call.real("elevation") * 0.017453292519943f;
  const float lx = std::cos(turn) * std::cos(rise), ly = -std::sin(turn) * std::cos(rise), lz = std::sin(rise);
  Plane out(call.size());
  for_rows(call.size(), 32, call.stop, [&](int first, int last) {
    for (int y = first; y < last; ++y)
      for (int x = 0; x < call.size(); ++x) {
        const float du = s.u.row(y)[x], dv = s.v.row(y)[x];
        out.row(y)[x] = std::max(0.0f, (lz - du * lx - dv * ly) / std::sqrt(1 + du * du + dv * dv));
      }
  });
  call.out("light", std::move(out));
  return call.done();
}

Parameter measured_height() {
  return scalar("height", "Height", 0.0)
      .limits(-1e4, 1e4)
      .column("Input")
      .stands_in("0 > 1", "An even height has no relief: connect a map.");
}

}  // namespace

void add_slope(Catalogue& catalogue) {
  const ActsWhen there{"connected(height)", "There is no relief: connect a height."};
  const Parameter strength = scalar("strength", "Strength", 1.0)
                                 .times()
                                 .useful(0, 4)
                                 .limits(-100, 100)
                                 .column("Relief")
                                 .acts_when(there)
                                 .help("How steep the relief counts: 1 is as the material's own height says.");
  const Parameter radius = scalar("radius", "Radius", 0.01)
                               .share_of_tile()
                               .useful(0.002, 0.05)
                               .limits(0, 0.5)
                               .column("Relief")
                               .acts_when(there)
                               .help("How far about a place is looked: wider sees coarser shapes only.");
  catalogue.add(
      {.id = "slope",
       .label = "Slope",
       .rack = Rack::measure,
       .help = "How steep a height is, and which way it rises.",
       .more = "Steepness is the angle from the level as a share of 90 degrees; direction is where it rises "
               "to, in turns, anticlockwise from the right; the gradient is the rise for each length along u and v, v "
               "downwards. In real units, softened by the radius.",
       .words = "gradient steepness angle incline direction aspect",
       .inputs = {{"height", "Height"}},
       .outputs = {{"steepness", "Steepness"}, {"direction", "Direction"}, {"gradient", "Gradient", Kind::vector2}},
       .parameters = {measured_height(), strength, radius, ends_parameter("Relief", "connected(height)")},
       .evaluate = [](AreaCall& call) { return within_edges(call, slope, {"radius"}); }});
  catalogue.add(
      {.id = "curvature_from_height",
       .label = "Curvature from height",
       .rack = Rack::measure,
       .help = "How much a height bulges or hollows, convex and concave apart.",
       .more = "Mean curvature, half the divergence of the unit normal, times the radius: a bowl of that "
               "radius has 1. Convex is positive. The height is softened by the radius first. Full range divides all "
               "three by the strongest of the map.",
       .words = "convex concave edges cavity wear curvature bulge",
       .inputs = {{"height", "Height"}},
       .outputs = {{"mean", "Mean"}, {"convex", "Convex"}, {"concave", "Concave"}},
       .parameters = {measured_height(), strength, radius,
                      toggle("full_range", "Full range")
                          .column("Relief")
                          .acts_when(there)
                          .help("The strongest bulge or hollow of the whole map becomes 1."),
                      ends_parameter("Relief", "connected(height)")},
       .evaluate = [](AreaCall& call) { return within_edges(call, curvature, {"radius"}); }});
  catalogue.add({.id = "relief_light",
                 .label = "Relief light",
                 .rack = Rack::edge,
                 .help = "A height under a single light, as a grey.",
                 .more =
                     "The cosine between the surface and the light, 0 where it turns away. The light comes from the "
                     "direction, anticlockwise from the right, at its rise above the level.",
                 .words = "emboss shade light bump directional highlight",
                 .inputs = {{"height", "Height"}},
                 .outputs = {{"light", "Light"}},
                 .parameters = {measured_height(), strength,
                                scalar("direction", "Direction", 135.0)
                                    .degrees()
                                    .useful(0, 360)
                                    .limits(-3600, 3600)
                                    .column("Light")
                                    .acts_when(there)
                                    .help("From where the light comes, anticlockwise from the right."),
                                scalar("elevation", "Elevation", 45.0)
                                    .degrees()
                                    .useful(0, 90)
                                    .column("Light")
                                    .help("How high the light stands: 0 grazes, 90 shines straight down."),
                                ends_parameter("Relief", "connected(height)")},
                 .evaluate = [](AreaCall& call) { return within_edges(call, light, {}); }});
}

}  // namespace loom
