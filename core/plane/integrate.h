// Heights from slopes, on the torus.
#pragma once
#include "core/plane/filters.h"

namespace loom {

/// The height of the given mean whose slopes come nearest, in the least-squares sense, to `du` and `dv` (per tile
/// width). Source: Frankot and Chellappa, "A method for enforcing integrability in shape from shading", PAMI 10(4),
/// 1988.
Plane height_from_slopes(const Plane& du, const Plane& dv, const Stop& stop, float mean = 0);

}  // namespace loom
