#include "core/bolt/worn_material.h"

#include "core/weave/hem_maps.h"

namespace loom {

Result<WornMaterial> weave_worn(Weaver& weaver, const FlatGraph& graph, std::span<const std::string> parts, int size,
                                const Stop& stop, const WeaveOptions& options) {
  std::map<int, Error> faults;
  WeaveOptions kept = options;
  kept.keep |= !graph.part_hems.empty();  // hems share much of what they rest on
  const auto laid = [&](const FlatHem& hem) -> Result<std::shared_ptr<const SurfaceMaps>> {
    auto maps = weave_hem(weaver, graph, hem, size, stop, kept);
    if (!maps) return maps.error();
    faults.merge(maps->faults);
    return std::shared_ptr<const SurfaceMaps>(std::make_shared<SurfaceMaps>(
        maps->slots, Extent{graph.measures.tile_metres, graph.measures.relief_metres}, maps->over_surface));
  };
  const auto everywhere = laid(graph.hem);
  if (!everywhere) return everywhere.error();
  Outfit outfit(*everywhere);
  for (const std::string& part : parts) {
    const auto own = graph.part_hems.find(part);
    if (own == graph.part_hems.end() || outfit.of_part.count(part)) continue;
    const auto maps = laid(own->second);
    if (!maps) return maps.error();
    outfit.of_part[part] = *maps;
  }
  return WornMaterial{outfit.on(parts), std::move(faults)};
}

std::vector<std::string> parts_not_there(const Material& material, std::span<const std::string> parts) {
  std::vector<std::string> gone;
  for (const auto& [part, own] : material.part_hems)
    if (std::find(parts.begin(), parts.end(), part) == parts.end()) gone.push_back(part);
  return gone;
}

}  // namespace loom
