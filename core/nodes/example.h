// A small graph that shows what a node type does: for its help and for the pictures in docs/nodes.md.
#pragma once
#include <string>

#include "core/graph/material.h"
#include "core/graph/node_type.h"

namespace loom {

/// A material in which a node `shown` of this type stands with its parameters at their start and something fitting on
/// its inputs.
Material example_of(const NodeType& type, const Catalogue& catalogue);

/// The output that tells most of it, NODE.PEG.
std::string example_output(const NodeType& type);

}  // namespace loom
