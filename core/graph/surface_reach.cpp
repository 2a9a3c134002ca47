// Both ways along the threads of one graph; a group is taken as a whole.
#include "core/graph/surface_reach.h"

#include <algorithm>
#include <set>
#include <string_view>
#include <unordered_map>
#include <vector>

#include "core/graph/hem.h"
#include "core/graph/reading.h"
#include "core/graph/validate.h"

namespace loom {
namespace {

// What nodes use themselves; a group what any of its nodes does.
class OwnUse {
 public:
  OwnUse(const Material& material, const Catalogue& catalogue) : material_(material), catalogue_(catalogue) {}
  SurfaceUse operator()(const Node& node) {
    const Group* g = material_.group_of(node);
    if (!g) {
      const NodeType* type = catalogue_.find(node.type);
      return type ? own_surface_use(*type, node.params) : SurfaceUse::none;
    }
    const auto [it, fresh] = groups_.emplace(g, SurfaceUse::none);
    if (!fresh) return it->second;
    SurfaceUse most = SurfaceUse::none;
    for (const NodePtr& n : g->nodes) most = std::max(most, (*this)(*n));
    return groups_[g] = most;
  }
  /// Whether any node does. Most materials have none, and nothing of them needs to be followed.
  bool any() {
    return std::ranges::any_of(material_.nodes, [&](const NodePtr& n) { return (*this)(*n) != SurfaceUse::none; });
  }

 private:
  const Material& material_;
  const Catalogue& catalogue_;
  std::unordered_map<const Group*, SurfaceUse> groups_;
};

// One graph, made ready to be followed along its threads.
class Reach {
 public:
  Reach(const Material& material, const Catalogue& catalogue, OwnUse& own) : catalogue_(catalogue), own_(own) {
    for (const NodePtr& n : material.nodes) nodes_.emplace(n->id, n.get());
    for (const Thread& t : material.threads) {
      from_.emplace(t.from_node, &t);
      into_.emplace(t.to_node, &t);
    }
  }

  SurfaceUse use(const std::string& node) {
    SurfaceUse most = SurfaceUse::none;
    for (const std::string_view at : reached(node, true))
      if (const auto it = nodes_.find(at); it != nodes_.end()) most = std::max(most, own_(*it->second));
    return most;
  }
  /// All nodes along the threads from `start`, itself included; backwards: that it rests on.
  std::set<std::string_view> reached(std::string_view start, bool backwards) const {
    std::set<std::string_view> seen{start};
    std::vector<std::string_view> waiting{start};
    while (!waiting.empty()) {
      const auto [first, last] = (backwards ? into_ : from_).equal_range(waiting.back());
      waiting.pop_back();
      for (auto it = first; it != last; ++it) {
        const std::string& next = backwards ? it->second->from_node : it->second->to_node;
        if (seen.insert(next).second) waiting.push_back(next);
      }
    }
    return seen;
  }
  /// The node at whose peg a thread's map is read away from its texel; null: it is not.
  const Node* reads_neighbours(const Thread& thread) const {
    const auto it = nodes_.find(thread.to_node);
    if (it == nodes_.end() || it->second->bypass) return nullptr;
    const NodeType* type = catalogue_.find(it->second->type);
    const Peg* in = type ? type->input(thread.to_peg) : nullptr;
    return in && (type->evaluate || reads_whole(*type, it->second->params, *in)) ? it->second : nullptr;
  }

 private:
  const Catalogue& catalogue_;
  OwnUse& own_;
  std::unordered_map<std::string_view, const Node*> nodes_;
  std::unordered_multimap<std::string_view, const Thread*> from_, into_;
};

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
  OwnUse own(material, catalogue);
  return own.any() ? Reach(material, catalogue, own).use(node) : SurfaceUse::none;
}

std::map<std::string, SurfaceUse> slots_on_surface(const Material& material, const Catalogue& catalogue) {
  std::map<std::string, SurfaceUse> slots;
  OwnUse own(material, catalogue);
  if (!own.any()) return slots;
  Reach reach(material, catalogue, own);
  for (const auto& [slot, from] : material.hem)
    if (const SurfaceUse use = reach.use(split_output(from).first); use != SurfaceUse::none) slots.emplace(slot, use);
  return slots;
}

std::optional<Error> surface_refusal(const Material& material, const Catalogue& catalogue, const Thread& thread) {
  OwnUse own(material, catalogue);
  if (!own.any()) return {};
  Reach reach(material, catalogue, own);
  if (reach.use(thread.from_node) == SurfaceUse::none) return {};
  if (reach.reads_neighbours(thread)) return needs_neighbours();
  const auto below = reach.reached(thread.to_node, false);
  for (const Thread& t : material.threads)
    if (const Node* reader = below.count(t.from_node) ? reach.reads_neighbours(t) : nullptr) {
      Error e = needs_neighbours();
      e.what = "it would reach '" + label_of(material, catalogue, *reader) + "', which " + e.what;
      return e;
    }
  std::optional<Error> refused;
  each_hem(material, [&](const std::string&, const auto& hem, const auto&) {
    for (const auto& [slot, from] : hem) {
      auto why = refused || !below.count(split_output(from).first) ? std::nullopt : surface_refusal(slot);
      if (!why) continue;
      why->what = "it would reach the slot " + slot + ", which " + why->what;
      refused = std::move(why);
    }
  });
  return refused;
}

}  // namespace loom
