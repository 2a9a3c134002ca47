// How a node reads what comes in at a peg, as its parameters stand.
#pragma once
#include <map>
#include <string>

#include "core/graph/node_type.h"

namespace loom {

using Params = std::map<std::string, ParamValue>;  ///< those that were set; all others are as they start

/// Whether what a per-unit parameter holds is a rule or a formula that reads a map.
bool reads_a_map(const ParamValue& value);
/// Whether any of them does.
bool reads_maps_at_units(const NodeType& type, const Params& params);
/// Whether the input is read away from its texel, as a finished plane.
bool reads_whole(const NodeType& type, const Params& params, const Peg& peg);
/// Whether the kernel asks how its value at this peg changes from sample to sample: a formula that reads maps
/// elsewhere.
bool reads_slopes(const NodeType& type, const Params& params, const Peg& peg);

}  // namespace loom
