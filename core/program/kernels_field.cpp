// The kernel that reads a body's signed distances.
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/program/kernels_field.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include "core/program/kernels.h"
#include "core/program/solid_field.h"

HWY_BEFORE_NAMESPACE();
namespace loom::HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;
using D = hn::ScalableTag<float>;
using V = hn::Vec<D>;
using DI = hn::RebindToSigned<D>;
using I = hn::Vec<DI>;

HWY_INLINE V fixed(float x) { return hn::Set(D(), x); }
HWY_INLINE V between(V a, V b, V t) { return hn::MulAdd(t, hn::Sub(b, a), a); }

// Along one axis: the sample below a place that is held within the grid, and the share of the step beyond it.
struct AlongAxis {
  AlongAxis(V place, float first, float step, int samples) {
    const V most = fixed(static_cast<float>(samples - 1));
    const V at = hn::Min(hn::Max(hn::Mul(hn::Sub(place, fixed(first)), fixed(1 / step)), hn::Zero(D())), most);
    const V below = hn::Min(hn::Floor(at), fixed(static_cast<float>(samples - 2)));
    share = hn::Sub(at, below);
    held = hn::MulAdd(at, fixed(step), fixed(first));
    cell = hn::ConvertTo(DI(), below);
  }
  V share, held;
  I cell;
};

void solid_distance(const StripCall& c) {
  const auto& f = static_cast<const SolidField&>(*c.resource);
  const D d;
  const DI di;
  const I row = hn::Set(di, f.samples[0]), layer = hn::Set(di, f.samples[0] * f.samples[1]);
  for (size_t i = 0; i < c.padded; i += hn::Lanes(d)) {
    const V px = hn::Load(d, c.source[0] + i * c.stride[0]), py = hn::Load(d, c.source[1] + i * c.stride[1]),
            pz = hn::Load(d, c.source[2] + i * c.stride[2]);
    const AlongAxis x(px, f.first.x, f.step, f.samples[0]), y(py, f.first.y, f.step, f.samples[1]),
        z(pz, f.first.z, f.step, f.samples[2]);
    const I corner = hn::Add(hn::Add(hn::Mul(z.cell, layer), hn::Mul(y.cell, row)), x.cell);
    V low[4], high[4];  // at the two ends along x: y and z below, y above, z above, both
    for (int k = 0; k < 4; ++k) {
      const I at = hn::Add(corner, hn::Add(k & 1 ? row : hn::Zero(di), k & 2 ? layer : hn::Zero(di)));
      low[k] = hn::GatherIndex(d, f.distance.data(), at);
      high[k] = hn::GatherIndex(d, f.distance.data() + 1, at);
    }
    V on[4], rise[4];
    for (int k = 0; k < 4; ++k) rise[k] = hn::Sub(high[k], low[k]), on[k] = hn::MulAdd(x.share, rise[k], low[k]);
    const V below = between(on[0], on[1], y.share), above = between(on[2], on[3], y.share);
    const V distance = between(below, above, z.share);
    V gx = between(between(rise[0], rise[1], y.share), between(rise[2], rise[3], y.share), z.share);
    V gy = between(hn::Sub(on[1], on[0]), hn::Sub(on[3], on[2]), z.share), gz = hn::Sub(above, below);
    const auto made_one = [&](V& a, V& b, V& e) HWY_ATTR {
      const V length = hn::Sqrt(hn::MulAdd(a, a, hn::MulAdd(b, b, hn::Mul(e, e))));
      const auto none = hn::Lt(length, fixed(1e-12f));  // as far from one side as from the other
      const V by = hn::Div(fixed(1), hn::Max(length, fixed(1e-12f)));
      a = hn::IfThenElse(none, fixed(1), hn::Mul(a, by));
      b = hn::IfThenZeroElse(none, hn::Mul(b, by));
      e = hn::IfThenZeroElse(none, hn::Mul(e, by));
      return length;
    };
    made_one(gx, gy, gz);
    // Beyond the grid: from the place of the surface that the grid's side is nearest to.
    V ox = hn::Sub(px, hn::NegMulAdd(distance, gx, x.held)), oy = hn::Sub(py, hn::NegMulAdd(distance, gy, y.held)),
      oz = hn::Sub(pz, hn::NegMulAdd(distance, gz, z.held));
    const V away =
        hn::Add(hn::Abs(hn::Sub(px, x.held)), hn::Add(hn::Abs(hn::Sub(py, y.held)), hn::Abs(hn::Sub(pz, z.held))));
    const auto beyond = hn::Gt(away, fixed(1e-3f * f.step));
    const V far = made_one(ox, oy, oz);
    hn::Store(hn::IfThenElse(beyond, far, distance), d, c.result[0] + i);
    hn::Store(hn::IfThenElse(beyond, ox, gx), d, c.result[1] + i);
    hn::Store(hn::IfThenElse(beyond, oy, gy), d, c.result[2] + i);
    hn::Store(hn::IfThenElse(beyond, oz, gz), d, c.result[3] + i);
  }
}

}  // namespace loom::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace loom {

HWY_EXPORT(solid_distance);

const Family kSolidDistance{"solid distance", [](const StripCall& c) { HWY_DYNAMIC_DISPATCH(solid_distance)(c); }, 3};

}  // namespace loom
#endif
