// Kernels for mathematics, curves, tables and chance.
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/program/kernels_maths.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include <hwy/contrib/math/math-inl.h>

#include "core/program/kernels.h"
#include "core/program/resources.h"

HWY_BEFORE_NAMESPACE();
namespace loom::HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;
using D = hn::ScalableTag<float>;
using V = hn::Vec<D>;
using DI = hn::RebindToSigned<D>;
using DU = hn::RebindToUnsigned<D>;

// A source walks on with the strip, or stands still where it is a constant. Everything is copied out of the call first:
// a vector store may alias anything, and what stays behind a reference would be loaded again each time round.
struct Walk {
  explicit Walk(const StripCall& c, size_t k) : at(c.source[k]), step(c.stride[k] * hn::Lanes(D())) {}
  V next() {
    const V v = hn::Load(D(), at);
    at += step;
    return v;
  }
  const float* at;
  size_t step;
};

template <class F>
HWY_INLINE void map1(const StripCall& c, F f) {
  Walk a(c, 0);
  float* out = c.result[0];
  for (float* const end = out + c.padded; out != end; out += hn::Lanes(D())) hn::Store(f(a.next()), D(), out);
}
template <class F>
HWY_INLINE void map2(const StripCall& c, F f) {
  Walk a(c, 0), b(c, 1);
  float* out = c.result[0];
  for (float* const end = out + c.padded; out != end; out += hn::Lanes(D())) {
    const V x = a.next(), y = b.next();
    hn::Store(f(x, y), D(), out);
  }
}
template <class F>
HWY_INLINE void map3(const StripCall& c, F f) {
  Walk a(c, 0), b(c, 1), e(c, 2);
  float* out = c.result[0];
  for (float* const end = out + c.padded; out != end; out += hn::Lanes(D())) {
    const V x = a.next(), y = b.next(), z = e.next();
    hn::Store(f(x, y, z), D(), out);
  }
}

HWY_INLINE V zero() { return hn::Zero(D()); }
HWY_INLINE V set(float x) { return hn::Set(D(), x); }
HWY_INLINE V divide(V a, V b) {
  const auto none = hn::Eq(b, zero());
  return hn::IfThenZeroElse(none, hn::Div(a, hn::IfThenElse(none, set(1), b)));
}
HWY_INLINE V logarithm(V x) {
  const auto positive = hn::Gt(x, zero());
  return hn::IfThenElseZero(positive, hn::Log(D(), hn::IfThenElse(positive, hn::Max(x, set(1e-37f)), set(1))));
}
// Saturates at 1e30, so that what is multiplied with it stays finite.
HWY_INLINE V exponential(V x) { return hn::Exp(D(), hn::Min(hn::Max(x, set(-87)), set(69))); }
HWY_INLINE V sine(V x) { return hn::Sin(D(), hn::Min(hn::Max(x, set(-39000)), set(39000))); }
HWY_INLINE V cosine(V x) { return hn::Cos(D(), hn::Min(hn::Max(x, set(-39000)), set(39000))); }

// |a|^b with the sign of a for odd whole b; other powers of a negative give 0.
HWY_INLINE V power(V a, V b) {
  const V size = exponential(hn::Mul(b, logarithm(hn::Abs(a))));
  const V half = hn::Mul(b, set(0.5f));
  const auto whole = hn::Eq(hn::Floor(b), b);
  const auto odd = hn::Ne(hn::Floor(half), half);
  const V negative = hn::IfThenElseZero(whole, hn::IfThenElse(odd, hn::Neg(size), size));
  const V nonzero = hn::IfThenElse(hn::Lt(a, zero()), negative, size);
  const V of_zero = hn::IfThenElseZero(hn::Eq(b, zero()), set(1));
  return hn::IfThenElse(hn::Eq(a, zero()), of_zero, nonzero);
}

HWY_INLINE V arctangent2(V y, V x) {
  const V pi = set(3.14159265358979f);
  const V swap_q = divide(hn::Min(hn::Abs(y), hn::Abs(x)), hn::Max(hn::Abs(y), hn::Abs(x)));
  V angle = hn::Atan(D(), swap_q);
  angle = hn::IfThenElse(hn::Gt(hn::Abs(y), hn::Abs(x)), hn::Sub(set(1.57079632679490f), angle), angle);
  angle = hn::IfThenElse(hn::Lt(x, zero()), hn::Sub(pi, angle), angle);
  return hn::IfThenElse(hn::Lt(y, zero()), hn::Neg(angle), angle);
}

HWY_INLINE V smoothstep(V from, V to, V x) {
  const auto level = hn::Eq(from, to);
  const V step = hn::IfThenElseZero(hn::Ge(x, from), set(1));
  const V t = hn::Min(hn::Max(divide(hn::Sub(x, from), hn::Sub(to, from)), zero()), set(1));
  return hn::IfThenElse(level, step, hn::Mul(hn::Mul(t, t), hn::Sub(set(3), hn::Add(t, t))));
}

HWY_INLINE V truth(hn::Mask<D> m) { return hn::IfThenElseZero(m, set(1)); }

// pcg() of base/hash.h, lane by lane.
HWY_INLINE hn::Vec<DU> pcg_lanes(hn::Vec<DU> v) {
  const DU d;
  const auto state = hn::Add(hn::Mul(v, hn::Set(d, 747796405u)), hn::Set(d, 2891336453u));
  const auto word = hn::Mul(hn::Xor(hn::Shr(state, hn::Add(hn::ShiftRight<28>(state), hn::Set(d, 4u))), state),
                            hn::Set(d, 277803737u));
  return hn::Xor(hn::ShiftRight<22>(word), word);
}

void random(const StripCall& c) {
  const DU du;
  const auto stream = hn::Set(du, c.step->aux);
  map1(c, [&](V key) {
    const auto h = hn::ShiftRight<8>(pcg_lanes(hn::Xor(hn::BitCast(du, key), stream)));
    return hn::Mul(hn::ConvertTo(D(), hn::BitCast(DI(), h)), set(1.0f / 16777216.0f));
  });
}

void curve(const StripCall& c) {
  const auto& table = static_cast<const CurveTable&>(*c.resource);
  map1(c, [&](V x) {
    V y = set(table.before);
    for (const auto& p : table.pieces) {
      const V t = hn::Min(hn::Mul(hn::Sub(x, set(p.from)), set(p.to > p.from ? 1.0f / (p.to - p.from) : 0.0f)), set(1));
      // Hermite: y0 + t (s0 + t (3d - 2s0 - s1 + t (s0 + s1 - 2d))), d = y1 - y0
      const float d = p.y1 - p.y0;
      const V cubic = hn::MulAdd(t, set(p.slope0 + p.slope1 - 2 * d), set(3 * d - 2 * p.slope0 - p.slope1));
      const V here = hn::MulAdd(t, hn::MulAdd(t, cubic, set(p.slope0)), set(p.y0));
      y = hn::IfThenElse(hn::Ge(x, set(p.from)), here, y);
    }
    if (table.pieces.empty()) return set(table.after);
    return hn::IfThenElse(hn::Ge(x, set(table.pieces.back().to)), set(table.after), y);
  });
}

// Neighbours mostly lie in the same unit: one load serves the whole vector then.
void fetch(const StripCall& c) {
  const auto& column = static_cast<const Column&>(*c.resource).values;
  const D d;
  const hn::RebindToSigned<D> di;
  const size_t n = hn::Lanes(d);
  const float last = static_cast<float>(column.size()) - 1;
  for (size_t i = 0; i < c.padded; i += n) {
    const float* index = c.source[0] + i * c.stride[0];
    const V v = hn::Load(d, index);
    V found = hn::Zero(d);
    if (last < 0) {
    } else if (hn::AllTrue(d, hn::Eq(v, set(index[0])))) {
      if (index[0] >= 0) found = set(column[static_cast<size_t>(std::min(index[0] + 0.5f, last))]);
    } else {
      const V within = hn::Min(hn::Max(hn::Add(v, set(0.5f)), hn::Zero(d)), set(last));
      found = hn::IfThenElseZero(hn::Ge(v, hn::Zero(d)), hn::GatherIndex(d, column.data(), hn::ConvertTo(di, within)));
    }
    hn::Store(found, d, c.result[0] + i);
  }
}

void texel_u(const StripCall& c) {
  const D d;
  for (size_t i = 0; i < c.padded; i += hn::Lanes(d))
    hn::Store(hn::MulAdd(hn::Iota(d, static_cast<float>(i)), set(c.strip->du), set(c.strip->first_u)), d,
              c.result[0] + i);
}

void texel_v(const StripCall& c) {
  const D d;
  for (size_t i = 0; i < c.padded; i += hn::Lanes(d)) hn::Store(set(c.strip->v), d, c.result[0] + i);
}

void maths(const StripCall& c) {
  switch (c.step->op) {
    case Op::texel_u:
      return texel_u(c);
    case Op::texel_v:
      return texel_v(c);
    case Op::negate:
      return map1(c, [](V a) { return hn::Neg(a); });
    case Op::absolute:
      return map1(c, [](V a) { return hn::Abs(a); });
    case Op::floor:
      return map1(c, [](V a) { return hn::Floor(a); });
    case Op::ceiling:
      return map1(c, [](V a) { return hn::Ceil(a); });
    case Op::round:
      return map1(c, [](V a) { return hn::Floor(hn::Add(a, set(0.5f))); });
    case Op::fraction:
      return map1(c, [](V a) { return hn::Sub(a, hn::Floor(a)); });
    case Op::root:
      return map1(c, [](V a) { return hn::Sqrt(hn::Max(a, zero())); });
    case Op::exponential:
      return map1(c, exponential);
    case Op::logarithm:
      return map1(c, logarithm);
    case Op::sine:
      return map1(c, sine);
    case Op::cosine:
      return map1(c, cosine);
    case Op::tangent:
      return map1(c, [](V a) { return divide(sine(a), cosine(a)); });
    case Op::arcsine:
      return map1(c, [](V a) { return hn::Asin(D(), hn::Min(hn::Max(a, set(-1)), set(1))); });
    case Op::arccosine:
      return map1(c, [](V a) { return hn::Acos(D(), hn::Min(hn::Max(a, set(-1)), set(1))); });
    case Op::arctangent:
      return map1(c, [](V a) { return hn::Atan(D(), a); });
    case Op::sign:
      return map1(c, [](V a) { return hn::Sub(truth(hn::Gt(a, zero())), truth(hn::Lt(a, zero()))); });
    case Op::add:
      return map2(c, [](V a, V b) { return hn::Add(a, b); });
    case Op::subtract:
      return map2(c, [](V a, V b) { return hn::Sub(a, b); });
    case Op::multiply:
      return map2(c, [](V a, V b) { return hn::Mul(a, b); });
    case Op::divide:
      return map2(c, divide);
    case Op::minimum:
      return map2(c, [](V a, V b) { return hn::Min(a, b); });
    case Op::maximum:
      return map2(c, [](V a, V b) { return hn::Max(a, b); });
    case Op::power:
      return map2(c, power);
    case Op::modulo:
      return map2(c, [](V a, V b) {
        return hn::IfThenZeroElse(hn::Eq(b, zero()), hn::Sub(a, hn::Mul(b, hn::Floor(divide(a, b)))));
      });
    case Op::arctangent2:
      return map2(c, arctangent2);
    case Op::less:
      return map2(c, [](V a, V b) { return truth(hn::Lt(a, b)); });
    case Op::greater:
      return map2(c, [](V a, V b) { return truth(hn::Gt(a, b)); });
    case Op::less_equal:
      return map2(c, [](V a, V b) { return truth(hn::Le(a, b)); });
    case Op::equal:
      return map2(c, [](V a, V b) { return truth(hn::Eq(a, b)); });
    case Op::select:
      return map3(c, [](V s, V a, V b) { return hn::IfThenElse(hn::Ne(s, zero()), a, b); });
    case Op::multiply_add:
      return map3(c, [](V a, V b, V x) { return hn::MulAdd(a, b, x); });
    case Op::smoothstep:
      return map3(c, smoothstep);
    case Op::random:
      return random(c);
    default:
      return;
  }
}

void stream(const float* HWY_RESTRICT from, size_t count, float* HWY_RESTRICT to) {
  const D d;
  for (size_t i = 0; i < count; i += hn::Lanes(d)) hn::Stream(hn::Load(d, from + i), d, to + i);
}

}  // namespace loom::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace loom {

HWY_EXPORT(maths);
HWY_EXPORT(stream);
HWY_EXPORT(curve);
HWY_EXPORT(fetch);

const Family kCurve{"curve", [](const StripCall& c) { HWY_DYNAMIC_DISPATCH(curve)(c); }, 1};
const Family kFetch{"fetch", [](const StripCall& c) { HWY_DYNAMIC_DISPATCH(fetch)(c); }};

void stream_row(const float* from, std::size_t count, float* to) { HWY_DYNAMIC_DISPATCH(stream)(from, count, to); }

void run_kernel(const StripCall& call) {
  if (call.step->family)
    call.step->family->run(call);
  else
    HWY_DYNAMIC_DISPATCH(maths)(call);
}

}  // namespace loom
#endif
