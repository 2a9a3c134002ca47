// Bilinear reading on the torus, a vector of places at a time; once for each target.
#if defined(LOOM_BILINEAR_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef LOOM_BILINEAR_INL_H
#undef LOOM_BILINEAR_INL_H
#else
#define LOOM_BILINEAR_INL_H
#endif

#include <hwy/highway.h>

#include <cstdint>
#include <cstring>

HWY_BEFORE_NAMESPACE();
namespace loom::HWY_NAMESPACE {

/// Where the pairs of neighbours lie that are read. Apart from Between, which so can stay in registers.
struct Pairs {
  alignas(64) std::int32_t upper[16], lower[16];
};

/// The four texels about each place (px, py), in texels from the middle of the first; serves every plane of `size` that
/// is read there.
class Between {
  using D = hwy::HWY_NAMESPACE::ScalableTag<float>;
  using V = hwy::HWY_NAMESPACE::Vec<D>;
  using DI = hwy::HWY_NAMESPACE::RebindToSigned<D>;
  using I = hwy::HWY_NAMESPACE::Vec<DI>;

 public:
  HWY_INLINE Between(V px, V py, int size, Pairs& at) : at_(at) {
    namespace hn = hwy::HWY_NAMESPACE;
    const DI di;
    const I most = hn::Set(di, size - 1), one = hn::Set(di, 1), width = hn::Set(di, size);
    const V fx = hn::Floor(px), fy = hn::Floor(py);
    tx_ = hn::Sub(px, fx), ty_ = hn::Sub(py, fy);
    const I y = hn::ConvertTo(di, fy);
    x0_ = hn::And(hn::ConvertTo(di, fx), most), x1_ = hn::And(hn::Add(x0_, one), most);
    row0_ = hn::Mul(hn::And(y, most), width), row1_ = hn::Mul(hn::And(hn::Add(y, one), most), width);
    in_pairs_ = hn::AllTrue(di, hn::Lt(x0_, most));
    if (in_pairs_) hn::Store(hn::Add(row0_, x0_), di, at_.upper), hn::Store(hn::Add(row1_, x0_), di, at_.lower);
  }

  HWY_INLINE V read(const float* source) const {
    namespace hn = hwy::HWY_NAMESPACE;
    const D d;
    V a, b, e, f;
    if (in_pairs_) {
      // A pair of neighbours is one load of eight bytes: quicker than the hardware's gather.
      alignas(64) float upper[32], lower[32];
      for (size_t i = 0; i < hn::Lanes(d); ++i) {
        std::memcpy(upper + 2 * i, source + at_.upper[i], 8);
        std::memcpy(lower + 2 * i, source + at_.lower[i], 8);
      }
      hn::LoadInterleaved2(d, upper, a, b);
      hn::LoadInterleaved2(d, lower, e, f);
    } else {
      a = hn::GatherIndex(d, source, hn::Add(row0_, x0_)), b = hn::GatherIndex(d, source, hn::Add(row0_, x1_));
      e = hn::GatherIndex(d, source, hn::Add(row1_, x0_)), f = hn::GatherIndex(d, source, hn::Add(row1_, x1_));
    }
    const V top = hn::MulAdd(hn::Sub(b, a), tx_, a), bottom = hn::MulAdd(hn::Sub(f, e), tx_, e);
    return hn::MulAdd(hn::Sub(bottom, top), ty_, top);
  }

 private:
  V tx_, ty_;
  I x0_, x1_, row0_, row1_;
  bool in_pairs_;
  Pairs& at_;
};

}  // namespace loom::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#endif
