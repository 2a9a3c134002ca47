// Area operations on the torus. Shapes: every target has its source's size. Bits: independent of the number of threads.
// Error: all stop early when `stop` is asked; the target is then unspecified.
#pragma once
#include <array>
#include <functional>
#include <vector>

#include "core/base/stop.h"
#include "core/plane/plane.h"

namespace loom {

/// Gaussian blur. `sigma` in shares of the tile, 0..0.5; 0 copies.
/// Source: direct sum for small sigma; above, a binomial pyramid after Burt and Adelson, IEEE Trans. Comm. 31(4), 1983.
Plane blurred(const Plane& source, float sigma, const Stop& stop);

/// Exact Euclidean distance to the nearest texel whose mask is at or above `level`.
struct DistanceField {
  Plane distance;                ///< in texels; kFar everywhere when no texel is a source
  Pooled<std::int32_t> nearest;  ///< index of the nearest source texel, -1 if there is none
};
constexpr float kFar = 1e9f;
/// Source: Meijster, Roerdink and Hesselink, "A general algorithm for computing distance transforms in linear time",
/// 2000; each row is cut at its smallest column distance, where the cut is exact on the torus. `limit` in texels: what
/// lies farther is only known to be at least that far, and comes quicker.
DistanceField distance_to(const Plane& mask, float level, const Stop& stop, float limit = 1e6f);

/// Distance in texels with the edge placed inside a texel by its coverage, so that it does not step with the grid.
/// Source: the coverage offset of Gustavson and Strand, "Anti-aliased Euclidean distance transform", 2011.
Plane smooth_distance(const DistanceField& field, const Plane& mask, bool inverted, const Stop& stop);

/// Distance in texels from the edge of a mask (where it passes one half), to those inside it or to those outside; 0 on
/// the other side. To `limit` texels. The edge is a line in each texel that it passes, laid by the coverage and by the
/// slope of the mask about it (Gustavson and Strand, 2011), so that the distance falls as evenly as the edge runs: on a
/// disc its direction strays from the radius by 0.25 degrees in the mean at most at 512, 0.17 from 1024 on.
Plane edge_distance(const Plane& mask, bool inside, float limit, const Stop& stop);

/// Connected regions (edges and corners touch: 8 neighbours if `corners`) of texels at or above `level`; -1 outside.
/// The table holds box, centre and area; a region across the tile's edge is one, one that runs round the tile too.
struct Labels {
  Plane index;
  RegionTable table;
  std::vector<int> label_of;  ///< of `label_parts`: the label that each part had
};
Labels label_regions(const Plane& mask, float level, bool corners, const Stop& stop);
/// The parts of a plane of labels (-1: none) that hang together by their edges, each with the key that `table` gives
/// its label. `turn_of(label, x, y)`: how the box of a part that covers texel (x, y) is turned.
struct Turn {
  float cosine = 1, sine = 0;
};
Labels label_parts(const Plane& labels, const RegionTable& table,
                   const std::function<Turn(int label, int x, int y)>& turn_of, const Stop& stop);

/// Reads `source` at each texel's place plus the offset (shares of the tile), bilinear.
Plane warped(const Plane& source, const Plane& offset_u, const Plane& offset_v, const Stop& stop);
/// Two planes as offsets in shares of the tile, turned and scaled on the way: (along u + across v, along v - across u).
struct Offset {
  const Plane& u;
  const Plane& v;
  float along = 1, across = 0;
};
/// The same for several strands. With `joined` other than 0: the source as it is added to what is read, and the sum
/// multiplied by `joined`.
std::vector<Plane> warped(const std::vector<const Plane*>& sources, const Offset& offset, const Stop& stop,
                          float joined = 0);

/// Slopes by central differences, per tile width: d/du and d/dv.
void slopes(const Plane& source, Plane& du, Plane& dv, const Stop& stop);

/// Tangent-space normals of a height, +Y up; `depth` = relief / tile width. Components -1..1.
std::array<Plane, 3> normals(const Plane& height, float depth, const Stop& stop);

/// Cosine-weighted visibility of the sky over a height field, normal up: 1 open, 0 closed.
/// `depth` = relief / tile width, `reach` in shares of the tile. Source: horizon integral after Max, "Horizon mapping",
/// The Visual Computer 4, 1988: cos^2 of the horizon's elevation over all directions, its tangent found in 12 of them
/// and taken to run between them as those of upright walls do. Far horizons are looked for on coarser levels of a mean
/// pyramid, at one part in nine of their distance or less. Joints of 20 texels and more, at any angle, come out within
/// 0.0165, slopes within 0.004.
Plane occlusion(const Plane& height, float depth, float reach, const Stop& stop);

}  // namespace loom
