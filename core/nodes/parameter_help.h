// What each parameter does, in one sentence.
#pragma once
#include <string>

#include "core/graph/node_type.h"

namespace loom {

/// The sentence for a parameter that brings none of its own: the type's, else one that holds for every parameter of
/// this name, else that of a value which stands in at a peg. Empty if there is none.
std::string parameter_help(const NodeType& type, const Parameter& parameter);

}  // namespace loom
