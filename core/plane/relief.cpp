// Slopes, normals, occlusion and warping: kernels that read a few neighbours or far ones along lines.
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/plane/relief.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <vector>

#include "core/base/parallel.h"
#include "core/plane/filters.h"

HWY_BEFORE_NAMESPACE();
namespace loom::HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;
using D = hn::ScalableTag<float>;
using V = hn::Vec<D>;

// `mid` has one wrapped sample on both sides.
void normal_row(const float* up, const float* mid, const float* down, int size, float scale, float* HWY_RESTRICT nx, float* HWY_RESTRICT ny, float* HWY_RESTRICT nz) {
  const D d;
  const V k = hn::Set(d, scale), one = hn::Set(d, 1.0f);
  for (int x = 0; x < size; x += static_cast<int>(hn::Lanes(d))) {
    const V du = hn::Mul(hn::Sub(hn::LoadU(d, mid + x + 1), hn::LoadU(d, mid + x - 1)), k);
    const V dv = hn::Mul(hn::Sub(hn::Load(d, down + x), hn::Load(d, up + x)), k);
    const V inverse = hn::Div(one, hn::Sqrt(hn::MulAdd(du, du, hn::MulAdd(dv, dv, one))));
    hn::Stream(hn::Neg(hn::Mul(du, inverse)), d, nx + x);
    hn::Stream(hn::Mul(dv, inverse), d, ny + x);  // v runs down, +Y up
    hn::Stream(inverse, d, nz + x);
  }
}

void slope_row(const float* up, const float* mid, const float* down, int size, float scale, float* HWY_RESTRICT du, float* HWY_RESTRICT dv) {
  const D d;
  const V k = hn::Set(d, scale);
  for (int x = 0; x < size; x += static_cast<int>(hn::Lanes(d))) {
    hn::StoreU(hn::Mul(hn::Sub(hn::LoadU(d, mid + x + 1), hn::LoadU(d, mid + x - 1)), k), d, du + x);
    hn::StoreU(hn::Mul(hn::Sub(hn::Load(d, down + x), hn::Load(d, up + x)), k), d, dv + x);
  }
}

// Along one direction: the steepest rise to any of the `count` rows (already moved to where the steps lead), then
// cos^2 of that horizon, 1 / (1 + tan^2), added to the sum.
void add_openness(const float* HWY_RESTRICT here, const float* const* there, const float* per_distance, int count, int size, float* HWY_RESTRICT sum) {
  const D d;
  const V one = hn::Set(d, 1.0f);
  for (int x = 0; x < size; x += static_cast<int>(hn::Lanes(d))) {
    const V height = hn::LoadU(d, here + x);
    V steepest = hn::Zero(d);
    for (int k = 0; k < count; ++k)
      steepest = hn::Max(steepest, hn::Mul(hn::Sub(hn::LoadU(d, there[k] + x), height), hn::Set(d, per_distance[k])));
    hn::Store(hn::Add(hn::Load(d, sum + x), hn::Div(one, hn::MulAdd(steepest, steepest, one))), d, sum + x);
  }
}

// Positions of a row in texels: whole part as an index, fraction beside it.
void warp_row(const float* HWY_RESTRICT source, int size, int y, const float* HWY_RESTRICT du, const float* HWY_RESTRICT dv, float* HWY_RESTRICT out) {
  const D d;
  const hn::RebindToSigned<D> di;
  const auto mask = hn::Set(di, size - 1), one = hn::Set(di, 1), width = hn::Set(di, size);
  const V scale = hn::Set(d, static_cast<float>(size));
  const int n = static_cast<int>(hn::Lanes(d));
  alignas(64) std::int32_t at0[16], at1[16];
  alignas(64) float a[16], b[16], e[16], f[16];
  for (int x = 0; x < size; x += n) {
    const V px = hn::MulAdd(hn::Load(d, du + x), scale, hn::Iota(d, static_cast<float>(x)));
    const V py = hn::MulAdd(hn::Load(d, dv + x), scale, hn::Set(d, static_cast<float>(y)));
    const V fx = hn::Floor(px), fy = hn::Floor(py);
    const V tx = hn::Sub(px, fx), ty = hn::Sub(py, fy);
    const auto x0 = hn::And(hn::ConvertTo(di, fx), mask);
    const auto row0 = hn::Mul(hn::And(hn::ConvertTo(di, fy), mask), width);
    const auto row1 = hn::Mul(hn::And(hn::Add(hn::ConvertTo(di, fy), one), mask), width);
    V va, vb, ve, vf;
    if (hn::AllTrue(di, hn::Lt(x0, hn::Sub(mask, hn::Zero(di))))) {
      // A pair of neighbours is one load of eight bytes: quicker than the hardware's gather.
      hn::Store(hn::Add(row0, x0), di, at0);
      hn::Store(hn::Add(row1, x0), di, at1);
      for (int i = 0; i < n; ++i) {
        float upper[2], lower[2];
        std::memcpy(upper, source + at0[i], 8);
        std::memcpy(lower, source + at1[i], 8);
        a[i] = upper[0], b[i] = upper[1], e[i] = lower[0], f[i] = lower[1];
      }
      va = hn::Load(d, a), vb = hn::Load(d, b), ve = hn::Load(d, e), vf = hn::Load(d, f);
    } else {
      const auto x1 = hn::And(hn::Add(x0, one), mask);
      va = hn::GatherIndex(d, source, hn::Add(row0, x0)), vb = hn::GatherIndex(d, source, hn::Add(row0, x1));
      ve = hn::GatherIndex(d, source, hn::Add(row1, x0)), vf = hn::GatherIndex(d, source, hn::Add(row1, x1));
    }
    const V top = hn::MulAdd(hn::Sub(vb, va), tx, va), bottom = hn::MulAdd(hn::Sub(vf, ve), tx, ve);
    hn::Stream(hn::MulAdd(hn::Sub(bottom, top), ty, top), d, out + x);
  }
}

}  // namespace loom::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace loom {

HWY_EXPORT(normal_row);
HWY_EXPORT(slope_row);
HWY_EXPORT(add_openness);
HWY_EXPORT(warp_row);

namespace {

// A row with `pad` wrapped samples on both sides, for loads that run over the edge.
class Padded {
 public:
  Padded(int size, int pad) : size_(size), pad_(pad), data_(static_cast<std::size_t>(size + 2 * pad) + 16) {}
  const float* load(const float* row) {
    std::memcpy(data_.data() + pad_, row, static_cast<std::size_t>(size_) * sizeof(float));
    for (int k = 0; k < pad_; ++k) {
      data_[static_cast<std::size_t>(pad_ - 1 - k)] = row[wrap(size_ - 1 - k, size_)];
      data_[static_cast<std::size_t>(pad_ + size_ + k)] = row[wrap(k, size_)];
    }
    return data_.data() + pad_;
  }

 private:
  int size_, pad_;
  std::vector<float> data_;
};

struct March { int du, dv; float distance; };  // texels, and tile shares

// Steps along a direction, dense near and sparse far, on whole texels so that rows are read as they lie.
std::vector<March> steps_along(double angle, int size, double reach) {
  constexpr int kSteps = 32;
  std::vector<March> steps;
  for (int k = 1; k <= kSteps; ++k) {
    const double t = static_cast<double>(k) / kSteps, r = std::max(reach * size * t * t, static_cast<double>(std::min(k, 2)));
    const int du = static_cast<int>(std::lround(r * std::cos(angle))), dv = static_cast<int>(std::lround(r * std::sin(angle)));
    if ((du == 0 && dv == 0) || (!steps.empty() && steps.back().du == du && steps.back().dv == dv)) continue;
    steps.push_back({du, dv, static_cast<float>(std::hypot(du, dv) / size)});
  }
  return steps;
}

}  // namespace

void slopes(const Plane& source, Plane& du, Plane& dv, const Stop& stop) {
  const int size = source.size();
  for_rows(size, 32, stop, [&](int first, int last) {
    Padded padded(size, 1);
    for (int y = first; y < last; ++y)
      HWY_DYNAMIC_DISPATCH(slope_row)(source.row(wrap(y - 1, size)), padded.load(source.row(y)), source.row(wrap(y + 1, size)), size, 0.5f * static_cast<float>(size), du.row(y), dv.row(y));
  });
}

std::array<Plane, 3> normals(const Plane& height, float depth, const Stop& stop) {
  const int size = height.size();
  std::array<Plane, 3> n{Plane(size), Plane(size), Plane(size)};
  for_rows(size, 32, stop, [&](int first, int last) {
    Padded padded(size, 1);
    for (int y = first; y < last; ++y)
      HWY_DYNAMIC_DISPATCH(normal_row)(height.row(wrap(y - 1, size)), padded.load(height.row(y)), height.row(wrap(y + 1, size)), size, 0.5f * static_cast<float>(size) * depth, n[0].row(y), n[1].row(y), n[2].row(y));
  });
  return n;
}

Plane occlusion(const Plane& height, float depth, float reach, const Stop& stop) {
  constexpr int kDirections = 16;
  const int size = height.size();
  Plane open(size);
  std::vector<std::vector<March>> marches;
  int pad = 1;
  for (int k = 0; k < kDirections; ++k) {
    marches.push_back(steps_along(2 * 3.14159265358979 * (k + 0.5) / kDirections, size, static_cast<double>(reach)));
    for (const March& m : marches.back()) pad = std::max(pad, std::abs(m.du));
  }
  // A copy with wrapped samples on both sides lets every step read straight on.
  const std::size_t stride = static_cast<std::size_t>(size + 2 * pad + 16);
  std::vector<float> wide(stride * static_cast<std::size_t>(size));
  for_rows(size, 32, stop, [&](int first, int last) {
    for (int y = first; y < last; ++y) {
      float* row = wide.data() + static_cast<std::size_t>(y) * stride;
      for (int x = -pad; x < 0; ++x) row[x + pad] = height.row(y)[wrap(x, size)];
      std::memcpy(row + pad, height.row(y), static_cast<std::size_t>(size) * sizeof(float));
      for (int x = size; x < size + pad; ++x) row[x + pad] = height.row(y)[wrap(x, size)];
    }
  });
  for_rows(size, 8, stop, [&](int first, int last) {
    std::vector<const float*> there;
    std::vector<float> per_distance;
    for (int y = first; y < last && !stop.asked(); ++y) {
      std::fill_n(open.row(y), size, 0.0f);
      for (const auto& march : marches) {
        there.clear();
        per_distance.clear();
        for (const March& m : march) {
          there.push_back(wide.data() + static_cast<std::size_t>(wrap(y + m.dv, size)) * stride + pad + m.du);
          per_distance.push_back(depth / m.distance);
        }
        HWY_DYNAMIC_DISPATCH(add_openness)(height.row(y), there.data(), per_distance.data(), static_cast<int>(there.size()), size, open.row(y));
      }
      for (int x = 0; x < size; ++x) open.row(y)[x] *= 1.0f / kDirections;
    }
  });
  return open;
}

std::vector<Plane> warped(const std::vector<const Plane*>& sources, const OffsetRow& offsets, const Stop& stop) {
  const int size = sources[0]->size();
  std::vector<Plane> out;
  for (std::size_t i = 0; i < sources.size(); ++i) out.emplace_back(size);
  for_rows(size, 16, stop, [&](int first, int last) {
    std::vector<float> buffer(static_cast<std::size_t>(size) * 2 + 64);
    float* du = reinterpret_cast<float*>((reinterpret_cast<std::uintptr_t>(buffer.data()) + 63) / 64 * 64);
    float* dv = du + size;
    for (int y = first; y < last && !stop.asked(); ++y) {
      offsets(y, du, dv);
      for (std::size_t i = 0; i < sources.size(); ++i) HWY_DYNAMIC_DISPATCH(warp_row)(sources[i]->data(), size, y, du, dv, out[i].row(y));
    }
  });
  return out;
}

Plane warped(const Plane& source, const Plane& offset_u, const Plane& offset_v, const Stop& stop) {
  const std::size_t bytes = static_cast<std::size_t>(source.size()) * sizeof(float);
  return std::move(warped({&source}, [&](int y, float* du, float* dv) {
    std::memcpy(du, offset_u.row(y), bytes);
    std::memcpy(dv, offset_v.row(y), bytes);
  }, stop)[0]);
}

}  // namespace loom
#endif
