// The clip of noises: what lies between two ends fills the range, the rest is cut off.
#pragma once
#include "core/nodes/node_call.h"

namespace loom {

/// The value as it is; while the toggle "clip" is on, 0 up to "clip_low", 1 from "clip_high" on, straight between.
Reg clipped(const Emitter& e, Reg value);

/// Its parameters: the toggle and the two ends.
std::vector<Parameter> clip_parameters();

}  // namespace loom
