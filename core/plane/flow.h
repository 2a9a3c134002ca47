// Moving along fields of offsets in many small steps, by doubling; and means along a line. All on the torus.
#pragma once
#include "core/plane/filters.h"

namespace loom {

/// The sources, read where one arrives after 2^doublings steps, each `share` of the field's offset at the place reached
/// so far. Source: scaling and squaring (Arsigny et al., "A Log-Euclidean Framework for Statistics on Diffeomorphisms",
/// MICCAI 2006).
std::vector<Plane> followed(const std::vector<const Plane*>& sources, const Plane& field_u, const Plane& field_v,
                            float share, int doublings, const Stop& stop);

/// Where such steps lead: offsets as `followed` reads by, in multiples of 1 / share; empty for no doubling at all.
std::vector<Plane> way_along(const Plane& field_u, const Plane& field_v, float share, int doublings, const Stop& stop);

/// The mean of 2^doublings samples along such a way, half ahead and half behind, both from here; `doublings` at
/// least 2. Source: line integral convolution (Cabral and Leedom, SIGGRAPH 1993), summed by doubling.
std::vector<Plane> smeared(const std::vector<const Plane*>& sources, const Plane& field_u, const Plane& field_v,
                           float length, int doublings, const Stop& stop);

/// The mean along a straight line of `length` (share of the tile) at `radians` (anticlockwise as seen); a smooth
/// window.
Plane line_blurred(const Plane& source, float length, float radians, const Stop& stop);

}  // namespace loom
