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
  const auto bolt = bolts.find(id);
  return bolt == bolts.end() ? nullptr : bolt->second.get();
}
const Thread* Material::into(std::string_view node, std::string_view peg) const {
  for (const Thread& t : threads)
    if (t.to_node == node && t.to_peg == peg) return &t;
  return nullptr;
}

const Follow* followed(const Node& node, std::string_view param) {
  const auto it = node.params.find(std::string(param));
  return it == node.params.end() ? nullptr : std::get_if<Follow>(&it->second);
}

const ParamValue* plain_value(const Material& material, const Node& node, std::string_view param,
                              const ParamValue& initial) {
  if (const Follow* follow = followed(node, param)) {
    const Value* value = material.value(follow->value);
    return value ? &value->value : nullptr;
  }
  const auto it = node.params.find(std::string(param));
  return it == node.params.end() ? &initial : &it->second;
}

std::pair<std::string, std::string> split_output(std::string_view text) {
  const auto point = text.find('.');
  if (point == std::string_view::npos) return {};
  return {std::string(text.substr(0, point)), std::string(text.substr(point + 1))};
}

const std::vector<Slot>& hem_slots() {
  static const std::vector<Slot> kSlots = {
      {"base_colour", "Base colour", "Surface", 3, true, {0.5f, 0.5f, 0.5f}},
      {"metallic", "Metallic", "Surface", 1, false, {0, 0, 0}},
      {"roughness", "Roughness", "Surface", 1, false, {0.5f, 0.5f, 0.5f}},
      {"normal", "Normal", "Surface", 3, false, {0, 0, 1}},
      {"height", "Height", "Depth", 1, false, {0.5f, 0.5f, 0.5f}},
      {"occlusion", "Occlusion", "Depth", 1, false, {1, 1, 1}},
      {"opacity", "Opacity", "Light", 1, false, {1, 1, 1}},
      {"emissive", "Emissive", "Light", 3, true, {0, 0, 0}},
  };
  return kSlots;
}

const Slot* hem_slot(std::string_view id) { return find_id(hem_slots(), id); }

const std::vector<Slot>& further_slots() {
  static const std::vector<Slot> kSlots = {
      {"specular_weight", "Specular weight", "Specular", 1, false, {1, 1, 1}},
      {"specular_ior", "Specular index", "Specular", 1, false, {1.5f, 1.5f, 1.5f}, 1, 3},
      {"specular_roughness_anisotropy", "Anisotropy", "Specular", 1, false, {0, 0, 0}},
      {"geometry_tangent", "Along", "Specular", 2, false, {1, 0, 0}},
      {"coat_weight", "Coat weight", "Coat", 1, false, {0, 0, 0}},
      {"coat_roughness", "Coat roughness", "Coat", 1, false, {0, 0, 0}},
      {"fuzz_weight", "Fuzz weight", "Fuzz", 1, false, {0, 0, 0}},
      {"fuzz_color", "Fuzz colour", "Fuzz", 3, true, {1, 1, 1}},
      {"fuzz_roughness", "Fuzz roughness", "Fuzz", 1, false, {0.5f, 0.5f, 0.5f}},
      {"geometry_thin_walled", "Thin walled", "Thin walls", 1, false, {0, 0, 0}},
      {"subsurface_weight", "Subsurface weight", "Thin walls", 1, false, {0, 0, 0}},
      {"subsurface_color", "Subsurface colour", "Thin walls", 3, true, {0.8f, 0.8f, 0.8f}},
      {"subsurface_scatter_anisotropy", "Scattered onward", "Thin walls", 1, false, {0, 0, 0}, -1, 1},
  };
  return kSlots;
}

const Slot* known_slot(std::string_view id) {
  const Slot* slot = hem_slot(id);
  return slot ? slot : find_id(further_slots(), id);
}

Kind slot_kind(std::string_view id) {
  const Slot* slot = known_slot(id);
  if (!slot) return Kind::any;
  constexpr std::array kKinds{Kind::scalar, Kind::vector2, Kind::colour};
  return id == "normal" ? Kind::normal : kKinds[static_cast<std::size_t>(slot->channels) - 1];
}

}  // namespace loom
