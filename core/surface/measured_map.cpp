#include "core/surface/measured_map.h"

#include <algorithm>

#include "core/base/parallel.h"

namespace loom {

const std::vector<MeasureOutput>& measure_outputs() {
  static const std::vector<MeasureOutput> kOutputs = {{"convex_edges.mask", MeasureName::edges, kConvex, 1},
                                                      {"concave_edges.mask", MeasureName::edges, kConcave, 1},
                                                      {"edge_angle.degrees", MeasureName::edges, kTurn, 1},
                                                      {"rounded_edge.normal", MeasureName::edges, kRoundedNormal, 3},
                                                      {"rounded_edge.dot", MeasureName::edges, kRoundedNormal, 3, true},
                                                      {"mesh_occlusion.open", MeasureName::openness, kOpen, 1},
                                                      {"bent_normal.normal", MeasureName::openness, kBentNormal, 3},
                                                      {"thickness.metres", MeasureName::thickness, kMetres, 1}};
  return kOutputs;
}

const MeasureOutput* measure_output(std::string_view name) {
  const auto& all = measure_outputs();
  const auto found = std::find_if(all.begin(), all.end(), [&](const MeasureOutput& o) {
    return o.output == name || o.output.starts_with(std::string(name) + ".");
  });
  return found == all.end() ? nullptr : &*found;
}

namespace {

// Every second texel of a row, from `x` on.
void measure_row(const MeshShape& mesh, const Atlas& atlas, std::optional<std::size_t> part, const MeshProbe& probe,
                 const MeasureOutput& output, std::size_t x, int y, std::vector<Plane>& planes) {
  const auto write = [&](std::size_t at, const MeasuredPoint& point, const MeasuredNumbers& found) {
    const float* const numbers = &found[output.first];
    if (output.to_normal)
      planes[0].row(y)[at] = dot({numbers[0], numbers[1], numbers[2]}, point.normal);
    else
      for (std::size_t i = 0; i < output.count; ++i) planes[i].row(y)[at] = numbers[i];
  };
  ProbeLine line(probe, MeshProbe::kWhole, write);
  for (; x < static_cast<std::size_t>(atlas.size()); x += 2) {
    const Atlas::Texel& t = atlas.at(static_cast<int>(x), y);
    if (t.triangle == Atlas::Texel::kNone || (part && mesh.mesh().part_of[t.triangle] != *part)) continue;
    line.add(x, {mesh.position({0, t.triangle, t.b, t.c}), mesh.flat(t.triangle), mesh.mesh().part_of[t.triangle]});
  }
  line.finish();
}

}  // namespace

std::vector<Plane> measured_map(const MeshShape& mesh, const Atlas& atlas, const MeasureOutput& output,
                                const MeshMeasure& what, std::optional<std::size_t> part) {
  std::vector<Plane> planes;
  for (std::size_t i = 0; i < (output.to_normal ? 1 : output.count); ++i)
    planes.push_back(Plane::filled(atlas.size(), 0));
  // Four neighbours look in directions of their own, so that what these leave out is not the same all over.
  std::vector<MeshProbe> probes;
  for (std::uint32_t draw = 0; draw < 4; ++draw) probes.emplace_back(mesh, what, draw);
  for_rows(atlas.size(), 2, Stop{}, [&](int first, int last) {
    for (int y = first; y < last; ++y)
      for (const std::size_t x : {0u, 1u})
        measure_row(mesh, atlas, part, probes[x + 2 * static_cast<std::size_t>(y % 2)], output, x, y, planes);
  });
  return planes;
}

}  // namespace loom
