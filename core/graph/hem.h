// The hem as something with parameters: the material's measures, and typed values for slots without a thread.
#pragma once
#include "core/graph/material.h"
#include "core/graph/node_type.h"

namespace loom {

/// Stands for the hem where a node is asked for; no node can be called so.
inline constexpr const char* kHemNode = "#hem";

/// Metres.
inline constexpr double kLeastTile = 1e-3, kMostTile = 1e4, kLeastRelief = 1e-6, kMostRelief = 1e3;

/// Its parameters: `tile_metres`, `relief_metres`, and each fixed slot that can hold a number or a colour, under the
/// slot's name. A slot's parameter acts while no thread ends in it.
const NodeType& hem_type();

/// What they hold; of slots only those with a typed value.
Node hem_node(const Material& material);

/// The value of a slot as a parameter of the slot's name; the slot takes typed values.
ParameterBuilder slot_parameter(const Slot& slot);

/// Whether a number or a colour can be typed into a slot.
bool takes_typed_value(std::string_view slot);

/// Calls `take(part, hem, values)` for the hem of all, where `part` is empty, and for that of each part.
template <class M, class Take>
void each_hem(M& material, const Take& take) {
  take(std::string(), material.hem, material.hem_values);
  for (auto& [part, own] : material.part_hems) take(part, own.hem, own.hem_values);
}
/// How an error's place begins within the hem of a part; nothing for the hem of all.
inline std::string within_part(const std::string& part) { return part.empty() ? "" : "part " + part + ", "; }

/// Whether a slot gives something: a thread ends there, or a value is typed.
bool slot_is_filled(const Material& material, const std::string& slot);

namespace edit {

Material set_of_hem(Material m, const std::string& parameter, const ParamValue& value);
/// A measure as it is at first, a slot without a typed value.
Material reset_of_hem(Material m, const std::string& parameter);

/// A part's own hem in the place of the hem of all, and that in its place: so a part is looked at and edited. Done
/// twice all is as before. Unchanged where the part has none.
Material exchange_hems(Material m, const std::string& part);
/// What a part wears as a material of its own, which has the names of both; no part has another hem then.
Material worn_by_part(const Material& m, const std::string& part);
/// The part gets a hem of its own, which starts as what it wears.
Material give_own_hem(Material m, const std::string& part);
/// The part wears the hem of all again.
Material take_own_hem(Material m, const std::string& part);

}  // namespace edit
}  // namespace loom
