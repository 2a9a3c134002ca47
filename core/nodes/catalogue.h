// All node types of Wild Loom.
#pragma once
#include "core/graph/node_type.h"

namespace loom {

/// Built on first use; afterwards the same for every thread.
const Catalogue& catalogue();

/// docs/nodes.md: every type with its pegs, parameters and help.
std::string catalogue_markdown();

}  // namespace loom
