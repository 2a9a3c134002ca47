#include "core/graph/hem.h"

namespace loom {
namespace {

Parameter of_hem(const Slot& slot) {
  const std::string id(slot.id);
  return slot_parameter(slot)
      .column(slot.section)
      .acts_when("connected(" + id + ") == 0", "A thread ends in this slot.")
      .help("What the slot holds while no thread ends in it. Without a value it stays empty.");
}

NodeType described_hem() {
  NodeType t;
  t.id = kHemNode;
  t.label = "Hem";
  t.help = "What the material gives: its measures, and values for slots without a thread.";
  t.parameters = {scalar("tile_metres", "Tile's side", Material().tile_metres)
                      .metres()
                      .useful(0.1, 4)
                      .limits(kLeastTile, kMostTile)
                      .column("Measures")
                      .help("How long the tile's side is in the world: relief and deliveries reckon with it."),
                  scalar("relief_metres", "Relief's depth", Material().relief_metres)
                      .millimetres()
                      .useful(0, 0.1)
                      .limits(kLeastRelief, kMostRelief)
                      .column("Measures")
                      .help("How far a height of 1 stands above a height of 0.")};
  for (const auto* slots : {&hem_slots(), &further_slots()})
    for (const Slot& s : *slots)
      if (takes_typed_value(s.id)) t.parameters.push_back(of_hem(s));
  return t;
}

}  // namespace

const NodeType& hem_type() {
  static const NodeType kType = described_hem();
  return kType;
}

Node hem_node(const Material& material) {
  Node n;
  n.id = n.type = kHemNode;
  n.params = {material.hem_values.begin(), material.hem_values.end()};
  n.params["tile_metres"] = material.tile_metres;
  n.params["relief_metres"] = material.relief_metres;
  return n;
}

ParameterBuilder slot_parameter(const Slot& slot) {
  const std::string id(slot.id), label(slot.label);
  if (slot_kind(slot.id) == Kind::colour)
    return colour(id, label, Vector(slot.fallback, slot.fallback + 3)).limits(0, 1000);
  return scalar(id, label, static_cast<double>(slot.fallback[0]))
      .useful(static_cast<double>(slot.least), static_cast<double>(slot.most))
      .limits(-1e6, 1e6);
}

bool takes_typed_value(std::string_view slot) {
  const Kind kind = slot_kind(slot);
  return kind == Kind::scalar || kind == Kind::colour;
}

bool slot_is_filled(const Material& material, const std::string& slot) {
  return material.hem.count(slot) || material.hem_values.count(slot);
}

namespace edit {

Material set_of_hem(Material m, const std::string& parameter, const ParamValue& value) {
  const auto* number = std::get_if<double>(&value);
  if (parameter == "tile_metres" && number)
    m.tile_metres = *number;
  else if (parameter == "relief_metres" && number)
    m.relief_metres = *number;
  else if (hem_type().parameter(parameter))
    m.hem_values[parameter] = value;
  return m;
}

Material reset_of_hem(Material m, const std::string& parameter) {
  m.hem_values.erase(parameter);
  if (parameter == "tile_metres") m.tile_metres = Material().tile_metres;
  if (parameter == "relief_metres") m.relief_metres = Material().relief_metres;
  return m;
}

Material exchange_hems(Material m, const std::string& part) {
  if (const auto own = m.part_hems.find(part); own != m.part_hems.end()) {
    std::swap(own->second.hem, m.hem);
    std::swap(own->second.hem_values, m.hem_values);
  }
  return m;
}

Material worn_by_part(const Material& m, const std::string& part) {
  Material own = exchange_hems(m, part);
  own.part_hems.clear();
  own.name += " " + part;
  return own;
}

Material give_own_hem(Material m, const std::string& part) {
  m.part_hems.try_emplace(part, PartHem{m.hem, m.hem_values});
  return m;
}

Material take_own_hem(Material m, const std::string& part) {
  m.part_hems.erase(part);
  return m;
}

}  // namespace edit
}  // namespace loom
