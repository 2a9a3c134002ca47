// Edits: pure functions from one material to the next. Each is one undo step.
#pragma once
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "core/graph/material.h"
#include "core/graph/node_type.h"

namespace loom::edit {

/// A material without nodes: one lane, nothing in the hem.
Material empty_material();

/// An identifier like `base` that nothing in the material uses yet.
std::string free_id(const Material& m, const std::string& base);
/// The first free row at or below `row` in a lane's column.
int free_row(const Material& m, const std::string& lane, int column, int row);

/// A new node gets a seed that no node of the material uses.
Material add_node(Material m, const Catalogue& catalogue, const std::string& type, const std::string& lane, int column,
                  int row, std::string* id = nullptr);
Material remove_nodes(Material m, const std::vector<std::string>& ids);
/// Replaces whatever thread ended in that peg.
Material connect(Material m, const Thread& thread);
Material disconnect(Material m, const std::string& to_node, const std::string& to_peg);
Material set_hem(Material m, const std::string& slot, const std::string& output);  ///< empty output: unplug
Material set_param(Material m, const std::string& node, const std::string& param, const ParamValue& value);
Material reset_param(Material m, const std::string& node, const std::string& param);
Material set_bypass(Material m, const std::string& node, bool on);
/// The places that the thread ending in NODE.PEG is led through; none: the way that the board finds.
Material set_guides(Material m, const std::string& peg, const std::vector<Guide>& through);
Material rename_node(Material m, const std::string& node, const std::string& name);
/// Arranges the numbered items of a node's list anew: `order` holds their old numbers from 1; 0 stands for a fresh
/// item, and a number that comes twice copies its item, threads included. Too long an order is cut to what the type can
/// hold.
Material arrange_items(Material m, const Catalogue& catalogue, const std::string& node, std::vector<int> order);
struct Placing {
  std::string node, lane;
  int column, row;
};
Material place_nodes(Material m, const std::vector<Placing>& places);
/// Copies of nodes with the threads between them (and from outside, if `with_inputs`); their seeds stay.
Material duplicate(Material m, const std::vector<std::string>& ids, bool with_inputs,
                   std::vector<std::string>* fresh = nullptr);
/// Puts the nodes of a snippet under (lane, column, row); identifiers that clash are changed. Slots that the snippet
/// connects are connected where they are empty.
Material paste(Material m, const Material& snippet, const std::string& lane, int column, int row,
               std::vector<std::string>* fresh = nullptr);
/// A set of the snippet's nodes for each of the parts, which get hems of their own: as what they wore, but for the
/// slots that the snippet connects or gives a value.
Material paste_onto(Material m, const Material& snippet, const std::vector<std::string>& parts, const std::string& lane,
                    int column, int row, std::vector<std::string>* fresh = nullptr);

/// The names of all files that nodes read, groups and followed values included.
std::vector<std::string> file_names(const Material& m, const Catalogue& catalogue);
/// Gives every file that a node reads another name.
Material rename_files(Material m, const Catalogue& catalogue,
                      const std::function<std::string(const std::string&)>& name);

Material add_lane(Material m, const std::string& name, std::string* id = nullptr);
Material rename_lane(Material m, const std::string& lane, const std::string& name);
Material tint_lane(Material m, const std::string& lane, int tint);
/// Moves a lane by so many places, its nodes along.
Material move_lane(Material m, const std::string& lane, int by);
Material collapse_lane(Material m, const std::string& lane, bool collapsed);
/// What is written beside a node; an empty text takes it away.
Material set_note(Material m, const std::string& node, const std::string& text);
/// A stage that begins at `row`: a fresh one, or another name for the one that begins there; an empty name takes it
/// away.
Material set_stage(Material m, int row, const std::string& name);
/// Shows a thread by its output's name, or as a line again.
Material set_alias(Material m, const std::string& to_node, const std::string& to_peg, bool alias);

/// Lays the nodes out anew: each lane from its sources down, in the order of their rows. A node keeps its stage; stages
/// begin below what they follow.
Material tidy(Material m);

/// Makes a parameter follow a new value, which others can follow too; `name` is an identifier, and gets a number if it
/// is taken.
Material make_value(Material m, const Catalogue& catalogue, const std::string& node, const std::string& param,
                    const std::string& name, std::string* id = nullptr);
/// Makes a parameter a dial: creates the value, its dial and the follow in one step.
Material make_dial(Material m, const Catalogue& catalogue, const std::string& node, const std::string& param,
                   std::string* id = nullptr);
/// Parameters that followed the value get its number back.
Material remove_value(Material m, const std::string& id);
/// Under another name, with all who follow it; unchanged if the name is taken or no identifier.
Material rename_value(Material m, const std::string& id, const std::string& name);
Material set_value(Material m, const std::string& id, const ParamValue& value);
Material set_dial(Material m, const std::string& id, const Dial& dial);
/// So many places among the dials; values that are none stand between them and are passed over.
Material move_dial(Material m, const std::string& id, int by);
Material apply_preset(Material m, const Preset& preset);
/// The state at hand as a preset; one of that name is brought up to it.
Material keep_preset(Material m, const std::string& name);
/// Unchanged where there is none of that name, or another has the new one, or it is empty.
Material rename_preset(Material m, const std::string& from, const std::string& to);
Material remove_preset(Material m, const std::string& name);
/// So many places later; negative: earlier.
Material move_preset(Material m, const std::string& name, int by);

}  // namespace loom::edit
