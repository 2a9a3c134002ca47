// Laying one value over another: what Blend and Layers share.
#pragma once
#include "core/nodes/node_call.h"

namespace loom {

/// The words of the parameter "mode".
const std::vector<std::string>& blend_modes();

/// `upper` over `lower` by `mode`, as far as `weight`; both of one kind. Nothing is clamped.
/// Scalars, vectors and colours strand by strand; normals are mixed and made unit length in plain mode, and turned onto
/// each other in any other; sets map by map, each by its own right rule: a map
/// that `upper` lacks is kept, one that `lower` lacks counts as nothing there.
Strands blended(Builder& b, const std::string& mode, const Strands& lower, const Strands& upper, Reg weight);

/// What stands for a map that is not there: zeros, a flat normal.
Strands nothing(Builder& b, Kind kind);

}  // namespace loom
