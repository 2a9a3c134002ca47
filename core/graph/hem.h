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

/// Whether a slot gives something: a thread ends there, or a value is typed.
bool slot_is_filled(const Material& material, const std::string& slot);

namespace edit {

Material set_of_hem(Material m, const std::string& parameter, const ParamValue& value);
/// A measure as it is at first, a slot without a typed value.
Material reset_of_hem(Material m, const std::string& parameter);

}  // namespace edit
}  // namespace loom
