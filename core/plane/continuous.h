// A picture made to tile without ghosts of itself.
#pragma once
#include <cstdint>
#include <vector>

#include "core/base/stop.h"
#include "core/plane/plane.h"

namespace loom {

/// Patches of the picture, drawn anew at every corner of a grid that closes on the torus, are blended so that histogram
/// and contrast stay. `channels`: planes of one size, 64 or more; three are taken along their principal axes. `cells`:
/// 3 or more either way; a patch is two cells wide. Result as the picture. Source: Heitz and Neyret, "High-performance
/// by-example noise using a histogram-preserving blending operator", Proc. ACM Comput. Graph. Interact. Tech. 1(2),
/// 2018; the grid is of right-angled triangles so that it closes on a square. Unspecified once `stop` is asked.
std::vector<Plane> made_continuous(const std::vector<Plane>& channels, int cells, std::uint32_t seed,
                                   const Stop& stop = {});

/// A picture of any shape on a square plane: a tent as wide as a texel of the coarser of the two, the border repeated.
/// `values`: `width` x `height`, `step` floats apart.
Plane resampled(const float* values, std::size_t step, int width, int height, int size);

}  // namespace loom
