// A value as the parameter that it is offered as: of a material by its dial, of a group on every use.
#pragma once
#include "core/graph/material.h"
#include "core/graph/node_type.h"

namespace loom {

/// Label, help, useful range and step are the dial's; unit too, where it has one. Kind, words and names are those of
/// the first parameter among `nodes` that follows the value; limits are what all that follow accept, and the dial.
Parameter offered_parameter(const std::vector<NodePtr>& nodes, const Catalogue& catalogue, const Value& value);

/// Whether a dial acts where the others stand: its formula is not 0 over `values`, each by its name. A choice counts as
/// the place of its word from 0, any other text as 1 unless it is empty. A formula that is faulty counts as acting.
bool dial_acts(const std::vector<NodePtr>& nodes, const std::vector<Value>& values, const Catalogue& catalogue,
               const Value& value);

/// What is wrong with the dial of one of `values`, each with where: its range, limits, step and formula.
std::vector<Error> dial_faults(const std::vector<NodePtr>& nodes, const std::vector<Value>& values,
                               const Catalogue& catalogue, const Value& value);

}  // namespace loom
