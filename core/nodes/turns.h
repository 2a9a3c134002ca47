// A whole turn, for nodes that go round.
#pragma once

namespace loom {

inline constexpr float kTau = 6.28318530717958648f;

}  // namespace loom
