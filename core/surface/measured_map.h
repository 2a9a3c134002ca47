// A measure of a mesh as a map in its coordinates.
#pragma once
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/plane/plane.h"
#include "core/surface/charts.h"
#include "core/surface/measured.h"

namespace loom {

/// What an output of the Mesh rack shows of a measure.
struct MeasureOutput {
  std::string_view output;  ///< NODE.PEG
  MeasureName measure;
  std::size_t first, count;  ///< of its numbers
  bool to_normal = false;    ///< the cosine between these, a direction, and the triangle's normal
};
const std::vector<MeasureOutput>& measure_outputs();
/// By its whole name, or that of its node; null: there is none.
const MeasureOutput* measure_output(std::string_view name);

/// One plane for each number, measured at the places that the texels show, 0 where they show none; of one part alone if
/// that is given.
std::vector<Plane> measured_map(const MeshShape& mesh, const Atlas& atlas, const MeasureOutput& output,
                                const MeshMeasure& what, std::optional<std::size_t> part);

}  // namespace loom
