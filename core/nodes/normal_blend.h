// How normals are laid over each other, wherever that is needed.
#pragma once
#include "core/nodes/node_call.h"

namespace loom {

/// The detail turned onto the base. Source: reoriented normal mapping, Barré-Brisebois and Hill, "Blending in Detail",
/// 2012.
Strands reoriented(Builder& b, const Strands& base, const Strands& detail);
/// A normal drawn towards flat: 0 is flat, 1 leaves it.
Strands flattened(Builder& b, const Strands& normal, Reg amount);

}  // namespace loom
