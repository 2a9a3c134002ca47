// Bodies from mesh files, for nodes that ask how far a place is from them.
#pragma once
#include <memory>
#include <string_view>

#include "core/nodes/node_call.h"
#include "core/program/solid_field.h"

namespace loom {

/// The body in the file that the parameter names; where none is chosen, a mooring post of Lantern Quay. Null with
/// `e.fault` set: it cannot be read, or bounds no body; null without: it was broken off.
std::shared_ptr<const SolidField> closed_mesh(Emitter& e, std::string_view parameter);

}  // namespace loom
