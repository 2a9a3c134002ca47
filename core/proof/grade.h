// What the checks share: grading a figure, percentiles, and where the worst of a map lies.
#pragma once
#include <algorithm>
#include <functional>

#include "core/proof/proof.h"

namespace loom {

std::string figure_text(double x);

/// A figure that has to stay within limits: beyond the first it is told, beyond the second it falls short.
Finding within(std::string slot, double figure, double warn, double fail);
/// One that has to reach them.
Finding reaching(std::string slot, double figure, double warn, double fail);

/// Of two findings the one that is worse; of equal ones the first.
Finding worse(Finding a, Finding b);

/// The value below which a share of the values lies; 0 of none.
float percentile(std::vector<float>& values, double share);

/// Up to eight places whose score is above `least`, the greatest first, no two of one cell of a grid of 24.
std::vector<Place> worst_places(int size, float least, const std::function<float(int x, int y)>& score);

/// Values as they are delivered: colours encoded as sRGB.
Plane as_delivered(const std::string& slot, const Plane& plane);

// The checks, by file.
std::optional<Finding> base_colour_range(const Judged&, const Stop&);
std::optional<Finding> metal_range(const Judged&, const Stop&);
std::optional<Finding> roughness_range(const Judged&, const Stop&);
std::optional<Finding> normal_length(const Judged&, const Stop&);
std::optional<Finding> normal_height(const Judged&, const Stop&);
std::optional<Finding> height_range(const Judged&, const Stop&);
std::optional<Finding> edges(const Judged&, const Stop&);
std::optional<Finding> banding(const Judged&, const Stop&);
std::optional<Finding> repetition(const Judged&, const Stop&);
std::optional<Finding> two_sizes(const Judged&, const Stop&);
std::optional<Finding> finer_than_map(const Judged&, const Stop&);
std::optional<Finding> unused_dials(const Judged&, const Stop&);
std::optional<Finding> not_a_map(const Judged&, const Stop&);

}  // namespace loom
