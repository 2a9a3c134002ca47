// Edits that rework a graph as it stands: splicing, lifting out, replacing, mixing two, and what feeds what.
#pragma once
#include <functional>
#include <string_view>

#include "core/graph/edit.h"

namespace loom::edit {

/// Whether a peg takes data that is worked on; not places to evaluate at, and not maps for rules.
bool feeds_data(std::string_view peg);
/// The input that an output (NODE.PEG or PEG) of this kind feeds in such a node: coordinates go where places are taken,
/// all else to the first peg of data that takes it and is `free`. Null: there is none.
const Peg* feeding_peg(const NodeType& type, std::string_view output, Kind kind,
                       const std::function<bool(const Peg&)>& free = {});

/// All nodes that `ids` read, directly or through others; or that read them. Without `ids` themselves, in the
/// document's order.
std::vector<std::string> upstream(const Material& m, const std::vector<std::string>& ids);
std::vector<std::string> downstream(const Material& m, const std::vector<std::string>& ids);
/// Nodes from which no slot of the hem is reached.
std::vector<std::string> feeding_nothing(const Material& m);

/// Puts a node after an output: it reads the output at its first peg that fits, and takes over the output's threads and
/// slots where its first output converts. Unchanged if no peg fits.
Material splice_after(Material m, const Catalogue& catalogue, const std::string& output, const std::string& node);
/// The same for one thread alone.
Material splice_into(Material m, const Catalogue& catalogue, const Thread& thread, const std::string& node);
/// Takes a node out; what read it then reads what came in at its first connected peg, where that converts.
Material lift_out(Material m, const Catalogue& catalogue, const std::string& node);
/// Exchanges the first two inputs that take the same kind, threads and parameters alike. Empty: the node has no such
/// pair.
std::optional<Material> swap_inputs(const Material& m, const Catalogue& catalogue, const std::string& node);
/// Makes a node one of another type. Parameters stay where the new type has one of that identifier whose limits and
/// words hold the value; threads stay on pegs of the same identifier, else on the next free peg that they convert to;
/// the hem likewise.
Material replace_type(Material m, const Catalogue& catalogue, const std::string& node, const std::string& type);
/// A Blend below two outputs, the first as lower; their common readers and slots read it instead of the second.
Material blend_two(Material m, const Catalogue& catalogue, const std::string& lower, const std::string& upper,
                   std::string* id = nullptr);
/// Steps a choice of each node that has it (such as Blend's mode) to the next or previous word.
Material step_choice(Material m, const Catalogue& catalogue, const std::vector<std::string>& nodes,
                     const std::string& parameter, int by);
/// Gives `nodes` the parameters of `from` that they know too: all, or those in `only`. Seeds stay.
Material paste_parameters(Material m, const Catalogue& catalogue, const Node& from,
                          const std::vector<std::string>& nodes, const std::vector<std::string>& only = {});

}  // namespace loom::edit
