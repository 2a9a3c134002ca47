// Slopes, normals, occlusion and warping: kernels that read a few neighbours or far ones along lines.
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/plane/relief.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstring>
#include <vector>

#include "core/base/parallel.h"
#include "core/plane/bilinear-inl.h"
#include "core/plane/filters.h"

#ifndef LOOM_RISES
#define LOOM_RISES
namespace loom {
// Where the steps of a direction lead: each between two texels, whose heights' shares are those of their distance to
// the place, by one over how far the place is.
struct Rises {
  const float* const* near;
  const float* const* far;  // null where all steps end on texels
  const float* near_share;
  const float* far_share;
  const float* per_distance;
  int count;
};

// A stretch of a row, read elsewhere: `along` and `across` of the offsets in texels.
struct WarpRun {
  int size, y, from, to;
  const float *u, *v;
  float along, across, joined;
};
}  // namespace loom
#endif

HWY_BEFORE_NAMESPACE();
namespace loom::HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;
using D = hn::ScalableTag<float>;
using V = hn::Vec<D>;

// `mid` has one wrapped sample on both sides.
void normal_row(const float* up, const float* mid, const float* down, int size, float scale, float* HWY_RESTRICT nx,
                float* HWY_RESTRICT ny, float* HWY_RESTRICT nz) {
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

void slope_row(const float* up, const float* mid, const float* down, int size, float scale, float* HWY_RESTRICT du,
               float* HWY_RESTRICT dv) {
  const D d;
  const V k = hn::Set(d, scale);
  for (int x = 0; x < size; x += static_cast<int>(hn::Lanes(d))) {
    hn::StoreU(hn::Mul(hn::Sub(hn::LoadU(d, mid + x + 1), hn::LoadU(d, mid + x - 1)), k), d, du + x);
    hn::StoreU(hn::Mul(hn::Sub(hn::Load(d, down + x), hn::Load(d, up + x)), k), d, dv + x);
  }
}

// Along one direction: the steepest rise to any of the places, or `beyond` where that is steeper.
template <bool kBetween>
void horizon_row_of(const float* HWY_RESTRICT here, const Rises& rises, int size, const float* HWY_RESTRICT beyond,
                    float* HWY_RESTRICT out) {
  const D d;
  const int n = static_cast<int>(hn::Lanes(d));
  const auto rise = [&](int k, int x, V h) {
    const V near = hn::LoadU(d, rises.near[k] + x), per = hn::Set(d, rises.per_distance[k]);
    if constexpr (!kBetween) return hn::Mul(hn::Sub(near, h), per);
    const V top = hn::MulAdd(hn::LoadU(d, rises.far[k] + x), hn::Set(d, rises.far_share[k]),
                             hn::Mul(near, hn::Set(d, rises.near_share[k])));
    return hn::NegMulAdd(h, per, top);
  };
  int x = 0;
  // Four vectors at a time: each maximum waits for the one before it, so one alone would leave the units idle.
  for (; x + 4 * n <= size; x += 4 * n) {
    const V h0 = hn::LoadU(d, here + x), h1 = hn::LoadU(d, here + x + n), h2 = hn::LoadU(d, here + x + 2 * n),
            h3 = hn::LoadU(d, here + x + 3 * n);
    V s0 = hn::Load(d, beyond + x), s1 = hn::Load(d, beyond + x + n), s2 = hn::Load(d, beyond + x + 2 * n),
      s3 = hn::Load(d, beyond + x + 3 * n);
    for (int k = 0; k < rises.count; ++k) {
      s0 = hn::Max(s0, rise(k, x, h0));
      s1 = hn::Max(s1, rise(k, x + n, h1));
      s2 = hn::Max(s2, rise(k, x + 2 * n, h2));
      s3 = hn::Max(s3, rise(k, x + 3 * n, h3));
    }
    hn::Store(s0, d, out + x);
    hn::Store(s1, d, out + x + n);
    hn::Store(s2, d, out + x + 2 * n);
    hn::Store(s3, d, out + x + 3 * n);
  }
  for (; x < size; x += n) {
    const V h = hn::LoadU(d, here + x);
    V s = hn::Load(d, beyond + x);
    for (int k = 0; k < rises.count; ++k) s = hn::Max(s, rise(k, x, h));
    hn::Store(s, d, out + x);
  }
}

void horizon_row(const float* here, const Rises& rises, int size, const float* beyond, float* out) {
  if (rises.far)
    horizon_row_of<true>(here, rises, size, beyond, out);
  else
    horizon_row_of<false>(here, rises, size, beyond, out);
}

// Each value of [first, last) twice, for a row of the next finer level.
void doubled_row(const float* HWY_RESTRICT coarse, int first, int last, float* HWY_RESTRICT fine) {
  for (int x = first; x < last; ++x) fine[2 * x] = fine[2 * x + 1] = coarse[x];
}

// cos^2 of two horizons, 1 / (1 + tan^2) each, added up: over one denominator, since the division is what takes the
// time.
void add_sky(const float* HWY_RESTRICT one_way, const float* HWY_RESTRICT other_way, int size, float share,
             float* HWY_RESTRICT sum) {
  const D d;
  const V one = hn::Set(d, 1.0f);
  for (int x = 0; x < size; x += static_cast<int>(hn::Lanes(d))) {
    const V s = hn::Load(d, one_way + x), t = hn::Load(d, other_way + x);
    const V p = hn::MulAdd(s, s, one), q = hn::MulAdd(t, t, one);
    hn::Store(hn::Add(hn::Load(d, sum + x), hn::Div(hn::Mul(hn::Set(d, share), hn::Add(p, q)), hn::Mul(p, q))), d,
              sum + x);
  }
}

// Each source read where the offsets lead, bilinear; with `joined`, the source itself added and the sum multiplied by
// it.
void warp_run(const float* const* sources, int count, const WarpRun& run, float* const* outs) {
  const D d;
  const V along = hn::Set(d, run.along), across = hn::Set(d, run.across), row = hn::Set(d, static_cast<float>(run.y)),
          joined = hn::Set(d, run.joined);
  const int size = run.size, to = run.to;
  const bool joins = run.joined != 0;
  const float *const u = run.u, *const v = run.v;
  const std::ptrdiff_t here = static_cast<std::ptrdiff_t>(run.y) * size;
  Pairs pairs;
  for (int x = run.from; x < to; x += static_cast<int>(hn::Lanes(d))) {
    const V a = hn::Load(d, u + x), b = hn::Load(d, v + x);
    const V px = hn::MulAdd(across, b, hn::MulAdd(along, a, hn::Iota(d, static_cast<float>(x))));
    const V py = hn::NegMulAdd(across, a, hn::MulAdd(along, b, row));
    const Between places(px, py, size, pairs);
    for (int k = 0; k < count; ++k) {
      V value = places.read(sources[k]);
      if (joins) value = hn::Mul(hn::Add(value, hn::Load(d, sources[k] + here + x)), joined);
      hn::Stream(value, d, outs[k] + x);
    }
  }
}

}  // namespace loom::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace loom {

HWY_EXPORT(normal_row);
HWY_EXPORT(slope_row);
HWY_EXPORT(horizon_row);
HWY_EXPORT(doubled_row);
HWY_EXPORT(add_sky);
HWY_EXPORT(warp_run);

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

// How far each level looks, in its own texels: the finest takes every texel, the next reaches as far again and more in
// steps of one part in six or less, all others of one part in twelve: beside the finest they cost little.
constexpr int kFarthest = 22;
struct Span {
  int nearest, farthest;
};
constexpr Span span_of(std::size_t level) {
  return level == 0 ? Span{1, 11} : level == 1 ? Span{6, 22} : Span{12, kFarthest};
}

// A height at one level of its mean pyramid, with wrapped samples on both sides so that every step reads straight on.
struct ReliefLevel {
  static constexpr int kPad = 32;
  ReliefLevel(const Plane& height, const Stop& stop)
      : size(height.size()),
        stride(static_cast<std::size_t>(size + 2 * kPad)),
        data(pooled<float>(stride * static_cast<std::size_t>(size) + 16)) {
    for_rows(size, 32, stop, [&](int first, int last) {
      for (int y = first; y < last; ++y) {
        float* to = data.get() + static_cast<std::size_t>(y) * stride + kPad;
        std::memcpy(to, height.row(y), static_cast<std::size_t>(size) * sizeof(float));
        for (int k = 0; k < kPad; ++k)
          to[-1 - k] = height.row(y)[wrap(-1 - k, size)], to[size + k] = height.row(y)[wrap(k, size)];
      }
    });
  }
  const float* row(int y) const { return data.get() + static_cast<std::size_t>(wrap(y, size)) * stride + kPad; }
  int size;
  std::size_t stride;
  Pooled<float> data;
};

// A step: whole texels of the level along the nearer axis, and across it between two of them, the farther with a share.
struct March {
  int du, dv, far_du, far_dv;
  float far, per_distance;
};  // relief per tile width over the distance

std::vector<March> steps_along(double angle, std::size_t level, int full_size, double reach, double depth) {
  std::vector<March> steps;
  const double c = std::cos(angle), s = std::sin(angle), longer = std::max(std::abs(c), std::abs(s)),
               texel = static_cast<double>(1u << level) / full_size;
  const bool across = std::abs(c) >= std::abs(s);  // u is the nearer axis
  for (int r = span_of(level).nearest; r <= span_of(level).farthest; ++r) {
    const double distance = r / longer * texel;
    if (distance > reach && !(level == 0 && r == 1)) continue;
    const int along = across ? (c > 0 ? r : -r) : (s > 0 ? r : -r);
    const double aside = (across ? s : c) * r / longer;
    const int low = static_cast<int>(std::floor(aside + 1e-9));
    const auto far = static_cast<float>(aside - low), per = static_cast<float>(depth / distance);
    steps.push_back(across ? March{along, low, along, low + 1, far, per} : March{low, along, low + 1, along, far, per});
  }
  return steps;
}

// Horizons along one direction over a panel of columns, level by level from the coarsest: what a coarse level sees
// beyond is what the finer starts from. A panel is so narrow that the rows which the steps lead to stay in the nearest
// cache.
class HorizonRows {
 public:
  static constexpr int kPanel = 512;

  explicit HorizonRows(const std::vector<ReliefLevel>& levels) : levels_(levels), at_(levels.size()) {
    for (const ReliefLevel& l : levels)
      found_.push_back(pooled<float>(static_cast<std::size_t>(l.size))),
          beyond_.push_back(pooled<float>(static_cast<std::size_t>(l.size)));
    std::fill_n(beyond_.back().get(), levels.back().size, 0.0f);
  }
  void start(const std::vector<std::vector<March>>& marches, int first) {
    marches_ = &marches;
    constexpr int kWhole = 16;  // columns of the widest vector
    int last = first + kPanel;
    for (std::size_t l = 0; l < at_.size(); ++l) {
      first = first / kWhole * kWhole;
      last = std::min((last + kWhole - 1) / kWhole * kWhole, levels_[l].size);
      at_[l] = {first, last, -1};
      first /= 2, last = (last + 1) / 2;
    }
  }
  /// Row `y` of level `l`, whole width, of which the panel is filled; rows of a level are asked for in rising order.
  const float* at(std::size_t l, int y) {
    auto& [first, last, row] = at_[l];
    if (row == y) return found_[l].get();
    const ReliefLevel& level = levels_[l];
    if (l + 1 < levels_.size())
      HWY_DYNAMIC_DISPATCH(doubled_row)(at(l + 1, y / 2), first / 2, (last + 1) / 2, beyond_[l].get());
    const auto& marches = (*marches_)[l];
    for (std::size_t k = 0; k < marches.size(); ++k) {
      const March& m = marches[k];
      near_[k] = level.row(y + m.dv) + m.du + first, far_[k] = level.row(y + m.far_dv) + m.far_du + first;
      near_share_[k] = (1 - m.far) * m.per_distance, far_share_[k] = m.far * m.per_distance, per_[k] = m.per_distance;
    }
    const bool between = std::ranges::any_of(marches, [](const March& m) { return m.far > 1e-6f; });
    const Rises rises{near_.data(), between ? far_.data() : nullptr, near_share_.data(), far_share_.data(),
                      per_.data(),  static_cast<int>(marches.size())};
    HWY_DYNAMIC_DISPATCH(horizon_row)
    (level.row(y) + first, rises, last - first, beyond_[l].get() + first, found_[l].get() + first);
    row = y;
    return found_[l].get();
  }

 private:
  struct At {
    int first, last, row;
  };
  const std::vector<ReliefLevel>& levels_;
  const std::vector<std::vector<March>>* marches_ = nullptr;
  std::vector<At> at_;
  std::vector<Pooled<float>> found_, beyond_;
  std::array<const float*, kFarthest> near_, far_;
  std::array<float, kFarthest> near_share_, far_share_, per_;
};

}  // namespace

void slopes(const Plane& source, Plane& du, Plane& dv, const Stop& stop) {
  const int size = source.size();
  for_rows(size, 32, stop, [&](int first, int last) {
    Padded padded(size, 1);
    for (int y = first; y < last; ++y) HWY_DYNAMIC_DISPATCH(slope_row)
    (source.row(wrap(y - 1, size)), padded.load(source.row(y)), source.row(wrap(y + 1, size)), size,
     0.5f * static_cast<float>(size), du.row(y), dv.row(y));
  });
}

std::array<Plane, 3> normals(const Plane& height, float depth, const Stop& stop) {
  const int size = height.size();
  std::array<Plane, 3> n{Plane(size), Plane(size), Plane(size)};
  for_rows(size, 32, stop, [&](int first, int last) {
    Padded padded(size, 1);
    for (int y = first; y < last; ++y) HWY_DYNAMIC_DISPATCH(normal_row)
    (height.row(wrap(y - 1, size)), padded.load(height.row(y)), height.row(wrap(y + 1, size)), size,
     0.5f * static_cast<float>(size) * depth, n[0].row(y), n[1].row(y), n[2].row(y));
  });
  return n;
}

Plane occlusion(const Plane& height, float depth, float reach, const Stop& stop) {
  constexpr int kDirections = 16;
  const int size = height.size();
  std::vector<ReliefLevel> levels;
  levels.emplace_back(height, stop);
  Plane coarse = height.size() > kLeastSize ? reduced(height) : Plane();
  while (static_cast<double>(span_of(levels.size() - 1).farthest << (levels.size() - 1)) <
             static_cast<double>(reach) * size &&
         levels.back().size > kLeastSize && !stop.asked()) {
    levels.emplace_back(coarse, stop);
    coarse = reduced(coarse);
  }
  std::vector<std::vector<std::vector<March>>> marches;  // by direction and level
  for (int k = 0; k < kDirections; ++k) {
    marches.emplace_back();
    for (std::size_t l = 0; l < levels.size(); ++l)
      marches.back().push_back(steps_along(2 * 3.14159265358979 * k / kDirections, l, size, static_cast<double>(reach),
                                           static_cast<double>(depth)));
  }
  Plane open(size);
  for_rows(size, 64, stop, [&](int first, int last) {
    for (int y = first; y < last; ++y) std::fill_n(open.row(y), size, 0.0f);
    HorizonRows one_way(levels), other_way(levels);
    for (int x = 0; x < size && !stop.asked(); x += HorizonRows::kPanel)
      for (std::size_t k = 0; k < kDirections; k += 2) {
        one_way.start(marches[k], x);
        other_way.start(marches[k + 1], x);
        for (int y = first; y < last; ++y) HWY_DYNAMIC_DISPATCH(add_sky)
        (one_way.at(0, y) + x, other_way.at(0, y) + x, std::min(HorizonRows::kPanel, size - x), 1.0f / kDirections,
         open.row(y) + x);
      }
  });
  return open;
}

std::vector<Plane> warped(const std::vector<const Plane*>& sources, const Offset& offset, const Stop& stop,
                          float joined) {
  // Stretches below one another: what one reads between two rows, the next finds in the nearest cache.
  constexpr int kRows = 32, kStretch = 512;
  const int size = sources[0]->size();
  const auto texels = static_cast<float>(size);
  std::vector<Plane> out;
  std::vector<const float*> from;
  for (const Plane* source : sources) out.emplace_back(size), from.push_back(source->data());
  for_rows(size, kRows, stop, [&](int first, int last) {
    std::vector<float*> to(out.size());
    for (int x = 0; x < size && !stop.asked(); x += kStretch)
      for (int y = first; y < last; ++y) {
        for (std::size_t i = 0; i < out.size(); ++i) to[i] = out[i].row(y);
        HWY_DYNAMIC_DISPATCH(warp_run)
        (from.data(), static_cast<int>(from.size()),
         {size, y, x, std::min(x + kStretch, size), offset.u.row(y), offset.v.row(y), offset.along * texels,
          offset.across * texels, joined},
         to.data());
      }
  });
  return out;
}

Plane warped(const Plane& source, const Plane& offset_u, const Plane& offset_v, const Stop& stop) {
  return std::move(warped({&source}, {offset_u, offset_v}, stop)[0]);
}

}  // namespace loom
#endif
