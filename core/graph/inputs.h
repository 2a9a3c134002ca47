// What a group, or a material used as one node, asks for: pegs that are wired, typed, or given a picture.
#pragma once
#include <optional>

#include "core/graph/material.h"
#include "core/graph/node_type.h"

namespace loom {

/// What stands in at an input while nothing is connected: a typed value, a picture, or what the nodes inside hold.
inline constexpr const char *kStandsTyped = "typed", *kStandsPicture = "picture", *kStandsInside = "inside";
/// The lane that shows a group's inputs while its inside is shown as a material.
inline constexpr const char* kInputsLane = "comes_in";

/// An input as a node of type kComesIn, and back. A peg's `params` are the node's, but for its kind; a peg that says
/// nothing of what stands in leaves it to the nodes inside.
GroupPeg input_of(const Node& node);
Node node_of(const GroupPeg& input);

/// What stands in at an input.
std::string stands_in(const GroupPeg& input);
bool is_required(const GroupPeg& input);
/// Whether a node is an input of a material, seen alone, for which the nodes that read it stand in themselves: as if
/// their pegs were free.
bool leaves_it_inside(const Node& node);

/// The node's parameter that holds what is typed; null: this kind is not typed.
const char* typed_parameter(const GroupPeg& input);

/// The control by which a use types what stands in, or chooses its picture; it has the input's identifier. Nothing
/// where the nodes inside hold it.
std::optional<Parameter> control_of(const GroupPeg& input);

/// The parameters of the node that stands in at a use; `own` is what the use holds for the control. Nothing where the
/// nodes inside hold it, and nothing has to come in.
std::optional<std::map<std::string, ParamValue>> stand_in(const GroupPeg& input, const ParamValue* own);

/// The same as a node of its own: a Value, a Colour, a Vector or an Image, with the output that gives it.
struct PlainNode {
  Node node;
  std::string peg;
};
std::optional<PlainNode> plain_stand_in(const GroupPeg& input, const ParamValue* own);

}  // namespace loom
