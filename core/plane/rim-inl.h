// The rim of a stroke, a vector of samples at a time; once for each target.
#if defined(LOOM_RIM_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef LOOM_RIM_INL_H
#undef LOOM_RIM_INL_H
#else
#define LOOM_RIM_INL_H
#endif

#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace loom::HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;

/// How a stroke of a radius covers what lies `away` from its middle, both in breadths of a sample. A hard rim is the
/// share of that breadth that lies within, so that a hair covers as little as it is thin; one that fades over two
/// breadths and more does so by a smooth step.
template <class V>
struct Rim {
  V soft, middle, per_rim, most, smooth;
  Rim(V radius, float softness) {
    const hn::DFromV<V> d;
    const V zero = hn::Zero(d), one = hn::Set(d, 1.0f);
    soft = hn::Mul(radius, hn::Set(d, softness));
    middle = hn::Mul(radius, hn::Set(d, 1 - 0.5f * softness));
    per_rim = hn::Div(one, hn::Max(soft, one));
    most = hn::Min(hn::Add(middle, middle), one);
    smooth = hn::Min(hn::Max(hn::Sub(soft, one), zero), one);
  }
  HWY_INLINE V cover(V away) const {
    const hn::DFromV<V> d;
    V c = hn::Add(hn::Set(d, 0.5f), hn::Mul(hn::Sub(middle, away), per_rim));
    c = hn::Max(hn::Min(c, most), hn::Zero(d));
    const V step = hn::Mul(hn::Mul(c, c), hn::Sub(hn::Set(d, 3.0f), hn::Add(c, c)));
    return hn::Add(c, hn::Mul(smooth, hn::Sub(step, c)));
  }
};

}  // namespace loom::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#endif  // LOOM_RIM_INL_H
