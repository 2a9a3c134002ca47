// Checks a material against the catalogue: what does not fit, where, and how to mend it.
#pragma once
#include <memory>
#include <optional>
#include <vector>

#include "core/graph/material.h"
#include "core/graph/node_type.h"

namespace loom {

/// Whether a text may name a node, a value or a slot: up to 64 small letters, digits and _, beginning with a letter.
bool is_identifier(std::string_view id);

/// All faults of a document, none if it can be woven. Groups are checked too.
std::vector<Error> validate(const Material& material, const Catalogue& catalogue);
/// The same, and the nodes' formulas tried as they would be woven: what is written for good must stand up to this.
std::vector<Error> all_faults(const Material& material, const Catalogue& catalogue);

/// Why its groups cannot be unfolded, if they cannot: one holds itself, or all come to too much.
std::optional<Error> unfolding_fault(const Material& material);

/// Why a value does not suit a parameter, with the choices or limits; nothing where it does. `where` is empty, or a
/// place in a formula. Rules, formulas over units and follows are for `validate`.
std::optional<Error> misfit(const Parameter& parameter, const ParamValue& value);

/// The kind that a node's output gives, after polymorphic types took their widest input.
Kind output_kind(const Material& material, const Catalogue& catalogue, const std::string& node, const std::string& peg);

/// Why a thread may not be laid from an output to an input, empty if it may. Refuses cycles.
std::string refusal(const Material& material, const Catalogue& catalogue, const Thread& thread);

/// The pegs of any node, also of a group's instance.
std::vector<Peg> inputs_of(const Material& material, const Catalogue& catalogue, const Node& node);
std::vector<Peg> outputs_of(const Material& material, const Catalogue& catalogue, const Node& node);
/// The type of any node; of a group's instance: its pegs, and its values with dials as parameters, beside a seed. Null:
/// there is none.
std::shared_ptr<const NodeType> type_of(const Material& material, const Catalogue& catalogue, const Node& node);
/// What the artist calls a node: its own name, its group's, or its type's label.
std::string label_of(const Material& material, const Catalogue& catalogue, const Node& node);

}  // namespace loom
