// A material as the parts of a mesh wear it.
#pragma once
#include <span>

#include "core/surface/worn.h"
#include "core/weave/weaver.h"

namespace loom {

struct WornMaterial {
  Worn worn;
  std::map<int, Error> faults;  ///< as of Woven
};

/// Weaves the hem of all and those of `parts` that have their own; `parts` are the mesh's, none on a shape.
/// Error   as of Weaver::weave.
Result<WornMaterial> weave_worn(Weaver& weaver, const FlatGraph& graph, std::span<const std::string> parts, int size,
                                const Stop& stop, const WeaveOptions& options = {});

/// Parts with a hem of their own that a mesh does not have; they keep it.
std::vector<std::string> parts_not_there(const Material& material, std::span<const std::string> parts);

}  // namespace loom
