// `measure`: what rays find about a mesh, as a map in its coordinates.
#include <algorithm>
#include <iostream>
#include <memory>

#include "cli/call.h"
#include "core/io/image.h"
#include "core/surface/measured_map.h"

namespace loom {
namespace {

struct MeasureCall {
  std::string mesh, name, part, out;
  float radius = 0.04f, spread = 0, scale = 1;
  int rays = 64, size = 1024;
};

Result<std::size_t> part_of(const Mesh& mesh, const std::string& name) {
  const auto found = std::find(mesh.parts.begin(), mesh.parts.end(), name);
  if (found != mesh.parts.end()) return static_cast<std::size_t>(found - mesh.parts.begin());
  std::string known;
  for (const std::string& part : mesh.parts) known += (known.empty() ? "" : ", ") + part;
  return Error{"--part", "'" + name + "' names no part of the mesh", "Its parts are " + known};
}

int measure(const Common& common, const MeasureCall& call) {
  const MeasureOutput* output = measure_output(call.name);
  if (!output) {
    std::string known;
    for (const MeasureOutput& o : measure_outputs()) known += (known.empty() ? "" : ", ") + std::string(o.output);
    return fail(call.mesh, {"NAME", "'" + call.name + "' is no measure", "Use one of " + known}, kUsage);
  }
  auto read = read_mesh(call.mesh, call.scale);
  if (!read) return fail(call.mesh, read.error());
  const MeshShape mesh(std::move(*read));
  std::optional<std::size_t> part;
  if (!call.part.empty()) {
    const auto named = part_of(mesh.mesh(), call.part);
    if (!named) return fail(call.mesh, named.error(), kUsage);
    part = *named;
  }
  const MeshMeasure what{output->measure, call.radius, call.rays, part.has_value(), call.spread};
  const auto charts = charts_of(mesh.mesh(), call.size, chart_margin(call.size), Stop{});
  if (!charts) return fail(call.mesh, charts.error());
  if (!charts->own && !common.quiet)
    std::cerr << call.mesh
              << ": warning: it has no coordinates in which every place lies once, so that it was laid out "
                 "anew; render --on writes the mesh with them\n";
  const Atlas atlas(*charts, call.size, chart_margin(call.size) / 2);
  const auto planes = measured_map(mesh, atlas, *output, what, part);
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
