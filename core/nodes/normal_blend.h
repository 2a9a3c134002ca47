// How normals are laid over each other, wherever that is needed.
#pragma once
#include "core/nodes/node_call.h"

namespace loom {

/// The detail turned onto the base. Source: reoriented normal mapping, Barré-Brisebois and Hill, "Blending in Detail",
/// 2012.
Strands reoriented(Builder& b, const Strands& base, const Strands& detail);
/// A normal whose slopes are multiplied by `amount`: 0 is flat, 1 leaves it, above 1 is steeper. It never points down.
Strands flattened(Builder& b, const Strands& normal, Reg amount);

}  // namespace loom
