// `measure`: what rays find about a mesh, as a map in its coordinates.
#include <algorithm>
#include <iostream>
#include <memory>

#include "cli/call.h"
#include "core/base/parallel.h"
#include "core/io/image.h"
#include "core/surface/charts.h"
#include "core/surface/measured.h"

namespace loom {
namespace {

struct MeasureCall {
  std::string mesh, name, part, out;
  float radius = 0.04f, spread = 0, scale = 1;
  int rays = 64, size = 1024;
};

// What the output of a node of the Mesh rack takes of a measure.
struct Shown {
  const char* output;
  MeasureName measure;
  std::size_t first, count;
  bool to_normal = false;  // the cosine between it and the triangle's normal
};
constexpr Shown kShown[] = {
    {"convex_edges.mask", MeasureName::edges, 0, 1},      {"concave_edges.mask", MeasureName::edges, 1, 1},
    {"edge_angle.degrees", MeasureName::edges, 2, 1},     {"rounded_edge.normal", MeasureName::edges, 3, 3},
    {"rounded_edge.dot", MeasureName::edges, 3, 3, true}, {"mesh_occlusion.open", MeasureName::openness, 0, 1},
    {"bent_normal.normal", MeasureName::openness, 1, 3},  {"thickness.metres", MeasureName::thickness, 0, 1}};

// By its whole name, or that of its node.
const Shown* shown(const std::string& name) {
  for (const Shown& s : kShown)
    if (s.output == name || std::string(s.output).starts_with(name + ".")) return &s;
  return nullptr;
}

Result<std::size_t> part_of(const Mesh& mesh, const std::string& name) {
  const auto found = std::find(mesh.parts.begin(), mesh.parts.end(), name);
  if (found != mesh.parts.end()) return static_cast<std::size_t>(found - mesh.parts.begin());
  std::string known;
  for (const std::string& part : mesh.parts) known += (known.empty() ? "" : ", ") + part;
  return Error{"--part", "'" + name + "' names no part of the mesh", "Its parts are " + known};
}

int measure(const Common& common, const MeasureCall& call) {
  const Shown* what = shown(call.name);
  if (!what) {
    std::string known;
    for (const Shown& s : kShown) known += (known.empty() ? "" : ", ") + std::string(s.output);
    return fail(call.mesh, {"NAME", "'" + call.name + "' is no measure", "Use one of " + known}, kUsage);
  }
  auto read = read_mesh(call.mesh, call.scale);
  if (!read) return fail(call.mesh, read.error());
  const MeshShape mesh(std::move(*read));
  MeshMeasure asked{what->measure, call.radius, call.rays, !call.part.empty(), call.spread};
  const auto part = call.part.empty() ? Result<std::size_t>(std::size_t{0}) : part_of(mesh.mesh(), call.part);
  if (!part) return fail(call.mesh, part.error(), kUsage);
  const auto charts = charts_of(mesh.mesh(), call.size, chart_margin(call.size), Stop{});
  if (!charts) return fail(call.mesh, charts.error());
  if (!charts->own && !common.quiet)
    std::cerr << call.mesh
              << ": warning: it has no coordinates in which every place lies once, so that it was laid out "
                 "anew; render --on writes the mesh with them\n";
  const Atlas atlas(*charts, call.size, chart_margin(call.size) / 2);
  std::vector<Plane> planes;
  for (std::size_t i = 0; i < (what->to_normal ? 1 : what->count); ++i) planes.push_back(Plane::filled(call.size, 0));
  for_rows(call.size, 2, Stop{}, [&](int first, int last) {
    for (int y = first; y < last; ++y)
      for (int x = 0; x < call.size; ++x) {
        const Atlas::Texel& t = atlas.at(x, y);
        if (t.triangle == Atlas::Texel::kNone) continue;
        const std::size_t own = mesh.mesh().part_of[t.triangle];
        if (!call.part.empty() && own != *part) continue;
        const MeasuredPoint point{mesh.position({0, t.triangle, t.b, t.c}), mesh.flat(t.triangle), own,
                                  static_cast<std::uint32_t>(y * call.size + x)};
        const auto found = measured_at(mesh, asked, point);
        if (what->to_normal)
          planes[0].at(x, y) = dot({found[3], found[4], found[5]}, point.normal);
        else
          for (std::size_t i = 0; i < what->count; ++i) planes[i].at(x, y) = found[what->first + i];
      }
  });
  std::vector<Channel> channels;
  for (const Plane& p : planes) channels.push_back({&p});
  const auto done = write_image(call.out, channels, {ImageFormat::exr, 32, false});
  return done ? kDone : fail(call.out, done.error(), kWriting);
}

}  // namespace

std::function<int(const Common&)> measure_call(CLI::App* app) {
  const auto call = std::make_shared<MeasureCall>();
  app->add_option("MESH", call->mesh, "OBJ, PLY, glTF or GLB")->required();
  app->add_option("NAME", call->name, "a measure of the Mesh rack, NAME or NAME.PEG")->required();
  app->add_option("--out", call->out, "X.exr")->required();
  app->add_option("--radius", call->radius, "a share of the mesh's longest side")->check(CLI::Range(1e-4, 4.0));
  app->add_option("--rays", call->rays, "a texel")->check(CLI::Range(4, kMostRays));
  app->add_option("--spread", call->spread, "of thickness: the width of the cone in degrees")
      ->check(CLI::Range(0, 180));
  app->add_option("--part", call->part, "this part alone, as if no other were there");
  app->add_option("--scale", call->scale, "of an OBJ or PLY mesh: metres for its unit")->check(CLI::Range(1e-6, 1e6));
  app->add_option("--size", call->size)->check(CLI::IsMember({256, 512, 1024, 2048, 4096}));
  return [call](const Common& common) { return measure(common, *call); };
}

}  // namespace loom
