// How a plane goes over the edges of its tile, against how it goes inside.
#pragma once
#include "core/base/stop.h"
#include "core/plane/plane.h"

namespace loom {

/// Mean size of the first and second differences over a line between two columns or rows.
struct SeamFigures {
  float first = 0, second = 0;                ///< over the worse of the two edges
  float inside_first = 0, inside_second = 0;  ///< the mean over all lines inside
  float most_first = 0, most_second = 0;      ///< the greatest of any line inside
  bool over_u = true;                         ///< the worse edge is the one between right and left
  /// An edge no line inside comes near to is a seam: half again above the worst of them.
  bool seam() const { return first > 1.5f * most_first + 1e-6f || second > 1.5f * most_second + 1e-6f; }
};

/// Unit: that of the plane, a texel. A tile without a seam has its edges' differences among those of the lines inside.
SeamFigures seam_figures(const Plane& plane, const Stop& stop);

}  // namespace loom
