// A bolt as one node: its material made the definition of a node, as a group is.
#pragma once
#include <map>

#include "core/graph/changes.h"
#include "core/graph/material.h"
#include "core/graph/node_type.h"

namespace loom {

/// The parameter that says how many times a bolt is laid across the tile of the material that uses it.
inline constexpr const char* kRepeats = "repeats";
/// The output that carries all slots in one cord.
inline constexpr const char* kCordOutput = "set";

/// The definition and those of the groups and bolts that it uses, by the names that nodes have for them. Its inputs are
/// the material's nodes of type kComesIn, its parameters the dials, its outputs the slots of the hem, and the cord of
/// them. Hems of single parts stay behind. Files of the bolt are named by `file_of`.
std::map<std::string, std::shared_ptr<const Group>> definitions_of(const Material& bolt, const BoltReference& reference,
                                                                   const Catalogue& catalogue);
/// How the files of a bolt are named within its definition.
std::string file_of(const BoltReference& reference, const std::string& name);

/// How many times a bolt is laid so that it comes nearest to its true size on a tile.
int repeats_to_scale(const Measures& bolt, const Measures& around);

Parameter repeats_of(const Group& bolt);
/// One sentence: which bolt, how large it is drawn, and what its height is in the relief around it.
std::string told_of_bolt(const Group& bolt, const Node& node, const Material& around);

/// What a definition gives, as a material again, in `around`, which has it: to be woven and compared.
Material bolt_material(const Group& bolt, const Material& around);
/// What differs between two of them by meaning.
std::vector<Change> bolt_changes(const Group& before, const Group& after, const Material& around);

namespace edit {

/// A node that stands for a bolt whose definition `m.bolts` has; laid as often as comes nearest to its true size.
Material add_bolt(Material m, const BoltReference& reference, const std::string& lane, int column, int row,
                  std::string* id = nullptr);
/// Another version of a bolt for all nodes that stand for the one with this key: what the new one has under the same
/// names stays connected and set. Its definition is in `m.bolts`.
Material exchange_bolt(Material m, const Catalogue& catalogue, const std::string& key, const BoltReference& fresh);
/// What a preset of the bolt sets; dials that it does not name go back to where they start.
Material take_bolt_preset(Material m, const std::string& node, const std::string& preset);

}  // namespace edit
}  // namespace loom
