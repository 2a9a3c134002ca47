// What differs between two documents, by meaning.
#pragma once
#include <string>
#include <vector>

#include "core/graph/material.h"

namespace loom {

struct Change {
  std::string what;   ///< node, name, type, parameter, thread, slot, value, dial, preset, list, group, imprint, measure
  std::string where;  ///< "node worn, level"; within groups "group tide, node ..."
  std::string before, after;  ///< in words; empty: it was not there, it is there no more
  friend bool operator==(const Change&, const Change&) = default;
};

/// From `a` to `b`, in the order of the documents' lists. Nodes, values and groups are known by their identifiers, so
/// that another name is a renaming; where a node stands on the board, notes beside it, guides and marks are no change
/// of meaning.
std::vector<Change> changes(const Material& a, const Material& b);

}  // namespace loom
