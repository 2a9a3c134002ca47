// Groups: folding nodes into a definition, taking it apart again, and looking inside.
#pragma once
#include "core/graph/edit.h"

namespace loom::edit {

/// Folds nodes into a new group with an instance in their place: its pegs are the threads that were cut, values of the
/// document stay followed from inside. Error: nothing chosen, or a node outside lies between the chosen ones.
Result<Material> fold(Material m, const Catalogue& catalogue, const std::vector<std::string>& nodes,
                      const std::string& name, std::string* instance = nullptr);
/// Puts an instance's nodes in its place; the definition goes with its last use. What the instance sets of the group's
/// values is written into the nodes that follow them, and what stood in at its inputs becomes nodes. An instance with a
/// seed of its own draws other chances afterwards. A bolt stays what it is.
Material take_apart(Material m, const std::string& instance, std::vector<std::string>* fresh = nullptr);
/// Gives an instance a definition of its own, so that later changes reach no other use.
Material own_copy(Material m, const std::string& instance);
/// How many instances use a definition, within other groups too.
int uses_of(const Material& m, const std::string& group);
/// Whether some definition uses itself, at any depth.
bool holds_itself(const Material& m);
Material describe_group(Material m, const std::string& group, const std::string& name, const std::string& help);
/// A further use of a definition.
Material add_use(Material m, const std::string& group, const std::string& lane, int column, int row,
                 std::string* instance = nullptr);

/// A group's inside as a material that every other edit works on: its inputs are nodes of type kComesIn in a lane of
/// their own, its outputs the hem; the document's values can be seen, and changed, from inside.
Material inside_of(const Material& m, const std::string& group);
/// The document with the group as such a view shows it. Pegs that are gone take their threads along, at every use.
Material with_inside(Material m, const Catalogue& catalogue, const std::string& group, const Material& view);
/// A further input, in a view.
Material add_group_input(Material view, const std::string& label);
/// Puts the nodes that stand for a group's inputs, and their threads, into a view of its inside.
void show_inputs(Material& view, const Group& group);
/// The identifier of the node that stands for an input while the inside is shown.
std::string comes_in_id(const Group& group, const std::string& input);

}  // namespace loom::edit
