// All that the hem gives, by slot.
#pragma once
#include "core/graph/material.h"
#include "core/weave/weaver.h"

namespace loom {

struct HemMaps {
  std::map<std::string, Field> slots;
  std::map<int, Error> faults;  ///< as of Woven
};
/// Weaves every slot as the kind that it takes. Error: as of Weaver::weave.
inline Result<HemMaps> weave_hem(Weaver& weaver, const FlatGraph& graph, int size, const Stop& stop,
                                 const WeaveOptions& options = {}) {
  std::vector<Want> wants;
  for (const auto& [slot, ref] : graph.hem) wants.emplace_back(ref, slot_kind(slot));
  auto woven = weaver.weave(graph, wants, size, stop, options);
  if (!woven) return woven.error();
  HemMaps maps{{}, std::move(woven->faults)};
  std::size_t i = 0;
  for (const auto& [slot, ref] : graph.hem) maps.slots[slot] = woven->fields[i++];
  return maps;
}

}  // namespace loom
