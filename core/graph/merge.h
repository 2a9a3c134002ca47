// Two descendants of one document brought together, for version control.
#pragma once
#include <string>
#include <string_view>
#include <vector>

#include "core/base/error.h"
#include "core/graph/material.h"
#include "core/graph/node_type.h"

namespace loom {

struct Merged {
  Material material;
  std::vector<Error> clashes;  ///< what both changed, and what was taken: always ours
};

/// What either changed since `base` is in it. Nodes, lanes, values and groups are one thing by their identifiers,
/// presets and lists by their names, threads by where they end. What both changed in different ways is as in `ours`,
/// and named; so is what the one changed and the other took away. A thread of theirs whose end is gone, or that would
/// close a ring, is left out and named. A node of theirs stands below one of ours that came into the same place. Error
/// a text that is no document, with which.
Result<Merged> merge(std::string_view base, std::string_view ours, std::string_view theirs, const Catalogue& catalogue);

}  // namespace loom
