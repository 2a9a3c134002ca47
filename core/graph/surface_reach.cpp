// Both ways along the threads of one graph; a group is taken as a whole.
#include "core/graph/surface_reach.h"

#include <algorithm>
#include <set>
#include <string_view>
#include <unordered_map>
#include <vector>

#include "core/graph/reading.h"
#include "core/graph/validate.h"

namespace loom {
namespace {

SurfaceUse use_of_type(const Material& material, const Catalogue& catalogue, const Node& node, int depth = 0) {
  constexpr int kMostLevels = 64;
  if (const Group* g = material.group_of(node); g && depth < kMostLevels) {
    SurfaceUse most = SurfaceUse::none;
    for (const NodePtr& n : g->nodes) most = std::max(most, use_of_type(material, catalogue, *n, depth + 1));
    return most;
  }
  const NodeType* type = catalogue.find(node.type);
  return type ? type->surface : SurfaceUse::none;
}

// All nodes that are reached from `start` along threads, itself included; backwards: that it rests on.
std::vector<const Node*> reached(const Material& material, const std::string& start, bool backwards) {
  std::unordered_multimap<std::string_view, std::string_view> next;
  for (const Thread& t : material.threads)
    backwards ? next.emplace(t.to_node, t.from_node) : next.emplace(t.from_node, t.to_node);
  std::set<std::string_view> seen{start};
  std::vector<std::string_view> waiting{start};
  std::vector<const Node*> found;
  while (!waiting.empty()) {
    const std::string_view at = waiting.back();
    waiting.pop_back();
    if (const Node* n = material.node(at)) found.push_back(n);
    const auto [first, last] = next.equal_range(at);
    for (auto it = first; it != last; ++it)
      if (seen.insert(it->second).second) waiting.push_back(it->second);
  }
  return found;
}

bool reads_neighbours(const Material& material, const Catalogue& catalogue, const Thread& thread) {
  const Node* to = material.node(thread.to_node);
  const NodeType* type = to && !to->bypass ? catalogue.find(to->type) : nullptr;
  const Peg* in = type ? type->input(thread.to_peg) : nullptr;
  return in && (type->evaluate || reads_whole(*type, to->params, *in));
}

}  // namespace

Error needs_neighbours() {
  return {"", "reads its map away from the point, and what comes in is known only on the points of a shape",
          "Work on the map first, and mix in what depends on the shape behind it"};
}

std::optional<Error> surface_refusal(std::string_view slot) {
  if (slot == "height")
    return Error{"", "shapes the surface, and cannot depend on it", "Connect a map, and colour by the shape instead"};
  if (slot == "opacity")
    return Error{"", "cuts the surface, and cannot depend on it", "Connect a map, and colour by the shape instead"};
  return {};
}

SurfaceUse surface_use(const Material& material, const Catalogue& catalogue, const std::string& node) {
  SurfaceUse most = SurfaceUse::none;
  for (const NodePtr& n : material.nodes) most = std::max(most, use_of_type(material, catalogue, *n));
  if (most == SurfaceUse::none) return most;  // so it is with most materials
  most = SurfaceUse::none;
  for (const Node* n : reached(material, node, true)) most = std::max(most, use_of_type(material, catalogue, *n));
  return most;
}

std::map<std::string, SurfaceUse> slots_on_surface(const Material& material, const Catalogue& catalogue) {
  std::map<std::string, SurfaceUse> slots;
  for (const auto& [slot, from] : material.hem)
    if (const SurfaceUse use = surface_use(material, catalogue, split_output(from).first); use != SurfaceUse::none)
      slots.emplace(slot, use);
  return slots;
}

std::optional<Error> surface_refusal(const Material& material, const Catalogue& catalogue, const Thread& thread) {
  if (surface_use(material, catalogue, thread.from_node) == SurfaceUse::none) return {};
  if (reads_neighbours(material, catalogue, thread)) return needs_neighbours();
  for (const Node* n : reached(material, thread.to_node, false)) {
    for (const Thread& t : material.threads)
      if (t.from_node == n->id && reads_neighbours(material, catalogue, t)) {
        Error e = needs_neighbours();
        e.what = "it would reach '" + label_of(material, catalogue, *material.node(t.to_node)) + "', which " + e.what;
        return e;
      }
    for (const auto& [slot, from] : material.hem)
      if (split_output(from).first == n->id)
        if (auto refused = surface_refusal(slot)) {
          refused->what = "it would reach the slot " + slot + ", which " + refused->what;
          return refused;
        }
  }
  return {};
}

}  // namespace loom
