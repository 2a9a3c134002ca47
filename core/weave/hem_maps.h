// All that a hem gives, by slot.
#pragma once
#include "core/graph/material.h"
#include "core/weave/weaver.h"

namespace loom {

struct HemMaps {
  std::map<std::string, Field> slots;
  std::shared_ptr<const SurfaceProgram> over_surface;  ///< slots that are no maps; null: there are none
  std::map<int, Error> faults;                         ///< as of Woven
};

/// Weaves every slot of a hem of the graph as the kind that it takes. Error: as of Weaver::weave.
Result<HemMaps> weave_hem(Weaver& weaver, const FlatGraph& graph, const FlatHem& hem, int size, const Stop& stop,
                          const WeaveOptions& options = {});

}  // namespace loom
