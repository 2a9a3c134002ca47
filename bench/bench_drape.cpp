// The lit picture at 768 x 768 with maps of 1024: first answer, clean frame and path sample, with relief and without.
//   bench_drape FILE.loom [runs]
#include <algorithm>
#include <chrono>
#include <cstdio>
#include <cstdlib>

#include "core/bolt/package.h"
#include "core/nodes/catalogue.h"
#include "core/program/builder.h"
#include "core/surface/drape.h"
#include "core/weave/hem_maps.h"

using namespace loom;
using Clock = std::chrono::steady_clock;

namespace {

double since(Clock::time_point start) {
  return std::chrono::duration<double, std::milli>(Clock::now() - start).count();
}

template <class Work>
double median(int runs, const Work& work) {
  std::vector<double> times;
  for (int i = 0; i < runs; ++i) {
    const auto start = Clock::now();
    work(i);
    times.push_back(since(start));
  }
  std::sort(times.begin(), times.end());
  return times[times.size() / 2];
}

HemMaps woven(const Material& material, int size) {
  const auto graph = flatten(material, catalogue());
  if (!graph) std::exit(1);
  Weaver weaver(std::size_t{1} << 30);
  const auto hem = weave_hem(weaver, *graph, graph->hem, size, Stop{});
  if (!hem) std::exit(1);
  return *hem;
}

// The same slots, each even: what they cost the light without what gives them.
std::shared_ptr<const SurfaceProgram> evened(const SurfaceProgram& program) {
  Builder b(Domain::surface_points());
  auto even = std::make_shared<SurfaceProgram>();
  for (const auto& out : program.outputs)
    for (int i = 0; i < strand_count(out.kind); ++i) b.store(b.constant(0.5f), static_cast<int>(out.first) + i);
  even->program = b.build();
  even->outputs = program.outputs;
  return even;
}

// What the slots cost that depend on the shape: the same picture with even ones and with them, in turn.
void shading_graph(const std::shared_ptr<const SurfaceMaps>& maps, const std::shared_ptr<const SurfaceProgram>& program,
                   int runs) {
  for (const ShapeName shape : {ShapeName::tile, ShapeName::ball}) {
    DrapeView view;
    view.shape = shape;
    view.camera = Camera::start(shape);
    view.width = view.height = 768;
    const auto with = maps->under(program), even = maps->under(evened(*program));
    std::vector<double> bare, added;
    for (int i = 0; i < runs; ++i) {
      bare.push_back(median(1, [&](int) { Drape(even, view).first_answer(1, Stop{}); }));
      added.push_back(median(1, [&](int) { Drape(with, view).first_answer(1, Stop{}); }) - bare.back());
    }
    std::sort(bare.begin(), bare.end());
    std::sort(added.begin(), added.end());
    std::printf("%s, clean: %.1f ms; the shading graph (%zu steps) adds %.1f ms\n",
                shape == ShapeName::tile ? "tile" : "ball", bare[bare.size() / 2], program->program.code.size(),
                added[added.size() / 2]);
  }
}

}  // namespace

int main(int argc, char** argv) {
  if (argc < 2) return std::fprintf(stderr, "bench_drape FILE.loom [runs]\n"), 2;
  const int runs = argc > 2 ? std::max(1, std::atoi(argv[2])) : 9;
  const auto material = open_material(argv[1]);
  if (!material) return std::fprintf(stderr, "%s\n", material.error().text().c_str()), 1;
  const auto hem = woven(*material, 1024);
  const Extent extent{material->tile_metres, material->relief_metres};
  std::shared_ptr<const SurfaceMaps> maps;
  std::printf("maps laid: %.0f ms", median(3, [&](int) { maps = std::make_shared<SurfaceMaps>(hem.slots, extent); }));
  std::printf(", their relief: %.0f ms\n", median(1, [&](int) { maps->relief(); }));
  if (hem.over_surface) return shading_graph(maps, hem.over_surface, runs), 0;
  std::printf("%-8s %-8s %8s %8s %8s %8s %8s %8s\n", "shape", "relief", "first", "kept", "turned", "clean", "sample",
              "noise16");
  for (std::size_t s = 0; s < shape_names().size(); ++s)
    for (const bool relief : {false, true}) {
      DrapeView view;
      view.shape = static_cast<ShapeName>(s);
      view.camera = Camera::start(view.shape);
      view.width = view.height = 768;
      view.relief = relief;
      Drape(maps, view).first_answer(1, Stop{});  // whatever is made once
      const auto light_turned = [&](Drape::Sight* kept) {
        return median(runs, [&](int i) {
          view.light_degrees = static_cast<float>(i * 10);
          Drape(maps, view).first_answer(Drape::quick_step(view), Stop{}, kept);
        });
      };
      Drape::Sight sight;
      const double first = light_turned(nullptr), kept = light_turned(&sight);
      const double turned = median(runs, [&](int i) {
        view.camera.azimuth = static_cast<float>(i * 7);
        Drape(maps, view).first_answer(Drape::quick_step(view), Stop{});
      });
      const double clean = median(runs / 2 + 1, [&](int) { Drape(maps, view).first_answer(1, Stop{}); });
      Drape drape(maps, view);
      const double sample = median(16, [&](int) { drape.add_sample(Stop{}); });
      std::printf("%-8s %-8s %8.1f %8.1f %8.1f %8.1f %8.1f %7.1f%%\n", shape_names()[s].first.c_str(),
                  relief ? "true" : "none", first, kept, turned, clean, sample, 100 * drape.noise().value_or(0));
    }
}
