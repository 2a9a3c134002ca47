// Look-ups in a material, and the hem's slots.
#include "core/graph/material.h"

#include <algorithm>
#include <array>

namespace loom {

Material::Material() = default;
Material::~Material() = default;
Material::Material(const Material&) = default;
Material::Material(Material&&) noexcept = default;
Material& Material::operator=(const Material&) = default;
Material& Material::operator=(Material&&) noexcept = default;
namespace {

template <class List>
auto find_id(const List& list, std::string_view id) -> decltype(&*list.begin()) {
  const auto it = std::find_if(list.begin(), list.end(), [&](const auto& x) { return x.id == id; });
  return it == list.end() ? nullptr : &*it;
}

// Slots that stand in no hem until they are asked for by name, and are lit all the same: one number each. The names of
// the open PBR surface of MaterialX 1.39.
constexpr std::array<std::string_view, 4> kFurther{"specular_weight", "specular_ior", "coat_weight", "coat_roughness"};

}  // namespace

const Node* Material::node(std::string_view id) const {
  for (const NodePtr& n : nodes)
    if (n->id == id) return n.get();
  return nullptr;
}
const Value* Material::value(std::string_view id) const { return find_id(values, id); }
const Lane* Material::lane(std::string_view id) const { return find_id(lanes, id); }
const Group* Material::group(std::string_view id) const {
  for (const auto& g : groups)
    if (g->id == id) return g.get();
  return nullptr;
}
const Thread* Material::into(std::string_view node, std::string_view peg) const {
  for (const Thread& t : threads)
    if (t.to_node == node && t.to_peg == peg) return &t;
  return nullptr;
}

std::pair<std::string, std::string> split_output(std::string_view text) {
  const auto point = text.find('.');
  if (point == std::string_view::npos) return {};
  return {std::string(text.substr(0, point)), std::string(text.substr(point + 1))};
}

const std::vector<Slot>& hem_slots() {
  static const std::vector<Slot> kSlots = {
      {"base_colour", "Base colour", 3, true, {0.5f, 0.5f, 0.5f}},
      {"metallic", "Metallic", 1, false, {0, 0, 0}},
      {"roughness", "Roughness", 1, false, {0.5f, 0.5f, 0.5f}},
      {"normal", "Normal", 3, false, {0, 0, 1}},
      {"height", "Height", 1, false, {0.5f, 0.5f, 0.5f}},
      {"occlusion", "Occlusion", 1, false, {1, 1, 1}},
      {"opacity", "Opacity", 1, false, {1, 1, 1}},
      {"emissive", "Emissive", 3, true, {0, 0, 0}},
  };
  return kSlots;
}

const Slot* hem_slot(std::string_view id) { return find_id(hem_slots(), id); }

Kind slot_kind(std::string_view id) {
  const Slot* slot = hem_slot(id);
  if (!slot) return std::count(kFurther.begin(), kFurther.end(), id) ? Kind::scalar : Kind::any;
  return id == "normal" ? Kind::normal : slot->channels == 3 ? Kind::colour : Kind::scalar;
}

}  // namespace loom
