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

/// The scalar product of two values of one kind.
inline Reg dot(Builder& b, const Strands& p, const Strands& q) {
  Reg sum = b.constant(0);
  for (std::size_t i = 0; i < static_cast<std::size_t>(strand_count(p.kind)); ++i)
    sum = b.multiply_add(p.at[i], q.at[i], sum);
  return sum;
}

/// The curve's table: cubic through the points without overshoot. Source: Fritsch and Carlson, SIAM J. Numer. Anal. 17,
/// 1980.
std::shared_ptr<CurveTable> smooth_curve(const Points& points);

}  // namespace loom
