// What a bright place spreads over the picture, as in an eye or a lens.
#pragma once
#include <vector>

#include "core/base/vec3.h"

namespace loom {

/// Radiance, `width` x `height`, rows from the top: each pixel gives nine hundredths of its light to its surroundings,
/// near and far; what is even stays even, and no light is made. Source of the method: Spencer, Shirley, Zimmerman and
/// Greenberg, "Physically-Based Glare Effects for Digital Images", SIGGRAPH 1995, its falling point spread by three
/// Gaussians of 0.4, 1.6 and 6.4 per cent of the picture's height.
void add_glow(std::vector<Vec3>& radiance, int width, int height);

}  // namespace loom
