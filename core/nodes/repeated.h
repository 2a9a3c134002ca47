// A whole material laid several times across the tile, its relief made smaller along with it.
#pragma once
#include "core/graph/node_type.h"

namespace loom {

/// Not in the catalogue: a bolt's outputs pass through one. Input `source` and output `result` of any kind, parameter
/// `repeats`. Normals stay as they are, since a smaller copy has the same slopes.
const NodeType& repeated_type();

}  // namespace loom
