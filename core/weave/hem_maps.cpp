// Maps first, then what only the shape can tell.
#include "core/weave/hem_maps.h"

namespace loom {

Result<HemMaps> weave_hem(Weaver& weaver, const FlatGraph& graph, const FlatHem& hem, int size, const Stop& stop,
                          const WeaveOptions& options) {
  std::vector<std::string> slots;
  std::vector<Want> wants;
  std::map<std::string, Want> over_surface;
  for (const auto& [slot, ref] : hem) {
    const Want want(ref, slot_kind(slot));
    if (graph.surface_of(ref) != SurfaceUse::none) {
      over_surface.emplace(slot, want);
    } else {
      slots.push_back(slot);
      wants.push_back(want);
    }
  }
  auto woven = weaver.weave(graph, wants, size, stop, options);
  if (!woven) return woven.error();
  HemMaps maps{{}, nullptr, std::move(woven->faults)};
  for (std::size_t i = 0; i < slots.size(); ++i) maps.slots[slots[i]] = std::move(woven->fields[i]);
  if (over_surface.empty()) return maps;
  auto shaded = weaver.over_surface(graph, over_surface, size, stop, options);
  if (!shaded) return shaded.error();
  maps.faults.merge(shaded->faults);
  maps.over_surface = std::make_shared<SurfaceProgram>(std::move(shaded->program));
  return maps;
}

}  // namespace loom
