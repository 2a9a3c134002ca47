// Colours met along a stroke, as few stops.
#pragma once
#include <array>
#include <vector>

#include "core/graph/value.h"

namespace loom {

/// Stops that follow `colours` (linear Rec. 709, evenly spaced from 0 to 1) to within `tolerance` in every channel, at
/// most `most` (2 or more): from the two ends on, the colour that lies farthest from the straight line between its
/// neighbours is added. Source: Ramer, "An iterative procedure for the polygonal approximation of plane curves", 1972.
Stops stroke_stops(const std::vector<std::array<double, 3>>& colours, double tolerance = 0.01, std::size_t most = 12);

}  // namespace loom
