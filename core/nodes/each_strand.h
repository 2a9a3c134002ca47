// Applies a scalar step to every strand of a value.
#pragma once
#include "core/nodes/node_call.h"

namespace loom {

template <class F>
Strands each_strand(const Strands& in, const F& f) {
  Strands out{.kind = in.kind};
  for (std::size_t i = 0; i < static_cast<std::size_t>(strand_count(in.kind)); ++i) out.at[i] = f(in.at[i]);
  return out;
}

/// The curve's table: cubic through the points without overshoot. Source: Fritsch and Carlson, SIAM J. Numer. Anal. 17,
/// 1980.
std::shared_ptr<CurveTable> smooth_curve(const Points& points);

}  // namespace loom
