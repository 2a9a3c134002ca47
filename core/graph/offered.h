// A value as the parameter that it is offered as: of a material by its dial, of a group on every use.
#pragma once
#include "core/graph/material.h"
#include "core/graph/node_type.h"

namespace loom {

/// Label, help and useful range are the dial's; kind, unit, limits and words those of the first parameter among `nodes`
/// that follows the value.
Parameter offered_parameter(const std::vector<NodePtr>& nodes, const Catalogue& catalogue, const Value& value);

}  // namespace loom
