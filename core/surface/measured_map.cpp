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

std::vector<Plane> measured_map(const MeshShape& mesh, const Atlas& atlas, const MeasureOutput& output,
                                const MeshMeasure& what, std::optional<std::size_t> part) {
  const int size = atlas.size();
  std::vector<Plane> planes;
  for (std::size_t i = 0; i < (output.to_normal ? 1 : output.count); ++i) planes.push_back(Plane::filled(size, 0));
  for_rows(size, 2, Stop{}, [&](int first, int last) {
    for (int y = first; y < last; ++y)
      for (int x = 0; x < size; ++x) {
        const Atlas::Texel& t = atlas.at(x, y);
        if (t.triangle == Atlas::Texel::kNone) continue;
        const MeasuredPoint point{mesh.position({0, t.triangle, t.b, t.c}), mesh.flat(t.triangle),
                                  mesh.mesh().part_of[t.triangle], static_cast<std::uint32_t>(y * size + x)};
        if (part && point.part != *part) continue;
        const auto found = measured_at(mesh, what, point);
        const float* numbers = &found[output.first];
        if (output.to_normal)
          planes[0].at(x, y) = dot({numbers[0], numbers[1], numbers[2]}, point.normal);
        else
          for (std::size_t i = 0; i < output.count; ++i) planes[i].at(x, y) = numbers[i];
      }
  });
  return planes;
}

}  // namespace loom
