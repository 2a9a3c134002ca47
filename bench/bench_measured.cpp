// Measures of a mesh at as many points as a map of 1024 x 1024 has texels: bench_measured [MESH] [RAYS].
#include <chrono>
#include <cstdio>
#include <cstdlib>

#include "core/surface/measured.h"

using namespace loom;

int main(int argc, char** argv) {
  auto mesh = read_mesh(argc > 1 ? argv[1] : "demo/bollard.glb");
  if (!mesh) return std::fprintf(stderr, "%s\n", mesh.error().text().c_str()), 1;
  const int rays = argc > 2 ? std::atoi(argv[2]) : 64;
  const auto shape = std::make_shared<const MeshShape>(std::move(*mesh));
  std::printf("%zu triangles, %d rays\n", shape->mesh().triangle.size(), rays);
  const std::pair<const char*, MeshMeasure> all[] = {
      {"edges", {.name = MeasureName::edges, .rays = rays}},
      {"openness", {.name = MeasureName::openness, .rays = rays}},
      {"openness, radius 1", {.name = MeasureName::openness, .radius = 1, .rays = rays}},
      {"thickness, cone", {.name = MeasureName::thickness, .rays = rays, .spread = 60}}};
  for (const auto& [name, what] : all)
    for (const std::size_t points : {std::size_t{1} << 14, std::size_t{1} << 20}) {
      const auto start = std::chrono::steady_clock::now();
      const auto made = Measured::make(shape, what, points, Stop{});
      const double ms = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
      std::printf("%-20s %8zu points %8.0f ms  (%.1f million rays a second)\n", name, (*made)->points(), ms,
                  static_cast<double>((*made)->points()) * rays / ms / 1000);
    }
}
