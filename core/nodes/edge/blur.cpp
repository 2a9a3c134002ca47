// Blur: even, along a line, or by a map of radii.
#include <cmath>

#include "core/base/parallel.h"
#include "core/nodes/moved.h"
#include "core/nodes/within_edges.h"
#include "core/plane/flow.h"

namespace loom {
namespace {

// Blurs of rising width; each texel takes the mean of the two that its own radius lies between.
Plane blurred_by_map(const Plane& source, const Plane& map, float radius, int an_octave, const Stop& stop) {
  const int size = source.size();
  // From one texel's width upwards in even steps of the radius' logarithm.
  const float least = 0.75f / static_cast<float>(size);
  const int levels =
      radius <= least ? 1 : 1 + static_cast<int>(std::ceil(std::log2(radius / least) * static_cast<float>(an_octave)));
  const auto radius_of = [&](int level) {
    return level == 0 ? 0.0f : radius * std::exp2(static_cast<float>(level - levels) / static_cast<float>(an_octave));
  };
  Plane out(size), below = source.clone();
  for (int level = 1; level <= levels && !stop.asked(); ++level) {
    const Plane above = blurred(source, 0.5f * radius_of(level), stop);
    const float low = radius_of(level - 1), high = radius_of(level);
    for_rows(size, 32, stop, [&](int first, int last) {
      for (int y = first; y < last; ++y) {
        const float *m = map.row(y), *a = below.row(y), *b = above.row(y);
        float* to = out.row(y);
        for (int x = 0; x < size; ++x) {
          const float wanted = std::min(std::max(m[x], 0.0f), 1.0f) * radius;
          if (wanted < low || (wanted >= high && level < levels)) continue;
          // Variances add, so the mean is taken in squares of the radius.
          const float t = std::min(1.0f, (wanted * wanted - low * low) / (high * high - low * low));
          to[x] = a[x] + (b[x] - a[x]) * t;
        }
      }
    });
    below = above.clone();
  }
  return out;
}

Result<Done> evaluate_blur(AreaCall& call) {
  const Field* source = call.in("source");
  if (!source) {
    call.out("result", Plane::filled(call.size(), call.real("source")));
    return Done{};
  }
  Field out;
  out.kind = source->kind;
  const float radius = call.real("radius");
  const PlanePtr map = call.is("by", "map_of_radii") ? call.plane("map") : nullptr;
  for (std::size_t i = 0; i < static_cast<std::size_t>(strand_count(source->kind)); ++i) {
    const Plane& from = *source->strand[i];
    Plane p = call.is("by", "line")
                  ? line_blurred(from, 2 * radius, call.real("direction") * 0.017453292519943f, call.stop)
              : map ? blurred_by_map(from, *map, radius, call.integer("quality"), call.stop)
                    : blurred(from, 0.5f * radius, call.stop);
    out.strand[i] = std::make_shared<Plane>(std::move(p));
  }
  if (out.kind == Kind::normal) normalise(out, call.stop);
  call.out("result", std::move(out));
  return call.done();
}

}  // namespace

void add_blur(Catalogue& catalogue) {
  catalogue.add(
      {.id = "blur",
       .label = "Blur",
       .rack = Rack::edge,
       .help = "Softens evenly, along a line, or as far as a map tells.",
       .more = "Even: a Gaussian whose standard deviation is half the radius; large radii by a pyramid (Burt and "
               "Adelson 1983), exact to 1e-5. Line: a smooth window from -radius to +radius. Map: white takes the "
               "whole radius, grey its share; between blurs of 1 to 4 widths an octave, without rings or dark edges.",
       .words = "gaussian smooth soften defocus motion directional depth",
       .inputs = {{"source", "Source", Kind::any}, {"map", "Map"}},
       .outputs = {{"result", "Result", Kind::any}},
       .parameters =
           {stand_in("source", "Source", 0.0, "Input"),
            scalar("map", "Map", 0.5)
                .share()
                .column("Input")
                .stands_in("connected(source) * (by == map_of_radii) * (connected(map) == 0)",
                           "It comes in at its peg, or the blur does not go by a map."),
            choice("by", "By", {"even", "line", "map_of_radii"})
                .column("Blur")
                .acts_when("connected(source)", "There is nothing to blur: connect a source.")
                .help("As wide everywhere, along a line, or as wide at each place as a map says."),
            scalar("radius", "Radius", 0.01)
                .share_of_tile()
                .useful(0, 0.1)
                .limits(0, 0.25)
                .column("Blur")
                .acts_when("connected(source)", "There is nothing to blur: connect a source.")
                .help("How wide it is blurred."),
            scalar("direction", "Direction", 0.0)
                .degrees()
                .useful(0, 180)
                .limits(-3600, 3600)
                .column("Blur")
                .acts_when("connected(source) * (by == line)", "Only a blur along a line has a direction.")
                .help("Which way it runs, in degrees anticlockwise from the right."),
            integer("quality", "Widths an octave", 2)
                .count()
                .useful(1, 4)
                .column("Blur")
                .acts_when("connected(source) * (by == map_of_radii)",
                           "Only a blur by a map is put together from widths.")
                .help("How many widths are worked out from one radius to its double; more are truer and take longer."),
            ends_parameter("Blur", "connected(source)")},
       .evaluate = [](AreaCall& call) { return within_edges(call, evaluate_blur, {"radius"}); },
       .keeps_normals = true,
       .working_planes = 3});
}

}  // namespace loom
