// Slopes, normals, occlusion and warping: kernels that read a few neighbours or far ones along lines.
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/plane/relief.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstring>
#include <deque>
#include <vector>

#include "core/base/parallel.h"
#include "core/base/scalar.h"
#include "core/plane/bilinear-inl.h"
#include "core/plane/filters.h"

#ifndef LOOM_RISES
#define LOOM_RISES
namespace loom {
// Where the steps of a direction lead: to faces of texels, beside their middle, by one over how far each is.
struct Rises {
  const float* face;
  const float* slope;            // along the face; null where all steps end in its middle
  const std::ptrdiff_t* offset;  // of the texel, for both
  const float* aside;            // how far beside its middle, over the distance
  const float* per_distance;
  int count;
};

constexpr int kSky = 12;                   // directions in which the horizon is looked for
constexpr float kSkyBend = 1.7320508076f;  // twice the cosine of the angle between two of them
constexpr float kSkyRound = 2 - kSkyBend;  // what a level horizon has of a corner
constexpr float kSkyBulge = 0.047f;        // by how much a sine's square exceeds that of its chord, in the mean

// A wall within a texel stands anywhere in it, at the distances at which a level looks: this much of it counts at its
// near side.
constexpr float kSeenOfWalls = 0.85f;

// Rows to which the heights of the left, right, upper and lower faces go, and the slopes along u and v.
enum Part : std::size_t { kLeft, kRight, kUpper, kLower, kSlopeU, kSlopeV, kParts };
struct Faces {
  std::array<float*, kParts> part;
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

// The lesser of two slopes if they agree, else none: what a texel's height does to both sides without a peak of its
// own. Source: van Leer, J. Comput. Phys. 32, 1979; the least slope after Roe, Ann. Rev. Fluid Mech. 18, 1986.
HWY_INLINE V lesser_slope(V a, V b) {
  const D d;
  const V zero = hn::Zero(d);
  return hn::Add(hn::Max(hn::Min(a, b), zero), hn::Min(hn::Max(a, b), zero));
}

// How much higher a texel counts because a wall stands inside it: what lies on its two sides goes on up to it and
// leaves a step, that neither its own slope nor what runs up to it explains. Of five heights along a line.
HWY_INLINE V wall_within(const V* h) {
  const D d;
  const V half = hn::Set(d, 0.5f), zero = hn::Zero(d), one = hn::Set(d, 1.0f);
  const V up_to = hn::Sub(h[1], h[0]), in = hn::Sub(h[2], h[1]), out = hn::Sub(h[3], h[2]), on = hn::Sub(h[4], h[3]);
  const V before = hn::MulAdd(lesser_slope(up_to, in), half, h[1]),
          behind = hn::NegMulAdd(lesser_slope(out, on), half, h[3]);
  const V step = hn::Abs(hn::Sub(behind, before)), left_over = hn::Sub(step, hn::Abs(lesser_slope(in, out))),
          beside = hn::Max(hn::Abs(up_to), hn::Abs(on));
  // A wall leaves over half of its step or more, the bend at the foot of a slope a third; and beside a wall it is
  // level, where the ground only bends it is steep on one side.
  const V inverse = hn::Div(one, hn::Max(step, hn::Set(d, 1e-12f)));
  const V sharp = hn::MulSub(hn::Mul(left_over, inverse), hn::Set(d, 6.0f), hn::Set(d, 2.0f)),
          level = hn::NegMulAdd(hn::Mul(beside, inverse), hn::Set(d, 4.0f), hn::Set(d, 2.0f));
  const V weight = hn::Min(one, hn::Max(zero, hn::Min(sharp, level)));
  return hn::Mul(weight, hn::Max(zero, hn::Sub(hn::Max(before, behind), h[2])));
}

// A level as it is seen from afar: a texel with a wall inside counts nearly as high as the wall, or every wall would be
// found up to a texel late. `rows` two above to two below; the middle one has two wrapped samples on both
// sides.
void walls_row(const float* const* rows, int size, float* HWY_RESTRICT out) {
  const D d;
  for (int x = 0; x < size; x += static_cast<int>(hn::Lanes(d))) {
    V along[5], across[5];
    for (int k = 0; k < 5; ++k) along[k] = hn::LoadU(d, rows[2] + x + k - 2), across[k] = hn::LoadU(d, rows[k] + x);
    const V higher = hn::Max(wall_within(along), wall_within(across));
    hn::Store(hn::MulAdd(higher, hn::Set(d, kSeenOfWalls), along[2]), d, out + x);
  }
}

// The height of a texel's face as it is seen from the neighbour before it: half way between the two where the ground
// goes on, the texel's own where a wall stands between them or ends before it, which is where the step is more than
// twice as steep as what lies beside it, or less than half. `far`, `near` before it, `behind`; `own` is what its slope
// makes of its face.
HWY_INLINE V face_towards(V far, V near, V here, V behind, V own) {
  const D d;
  const V half = hn::Set(d, 0.5f), zero = hn::Zero(d);
  const V step = hn::Abs(hn::Sub(here, near)), between = hn::Mul(hn::Add(here, near), half),
          beside = hn::Max(hn::Abs(hn::Sub(near, far)), hn::Abs(hn::Sub(behind, here))), rest = hn::Sub(own, between);
  const V sheer = hn::Max(
      zero, hn::Max(hn::NegMulAdd(hn::Set(d, 2.0f), beside, step), hn::NegMulAdd(hn::Set(d, 2.0f), step, beside)));
  return hn::Add(between, hn::Min(hn::Max(rest, hn::Neg(sheer)), sheer));
}

// A row's heights on the four faces of its texels, and its slopes. `rows` two above to two below; the middle one has
// two wrapped samples on both sides.
void face_row(const float* const* rows, int size, const Faces& to) {
  const D d;
  const V half = hn::Set(d, 0.5f);
  for (int x = 0; x < size; x += static_cast<int>(hn::Lanes(d))) {
    V along[5], across[5];
    for (int k = 0; k < 5; ++k) along[k] = hn::LoadU(d, rows[2] + x + k - 2), across[k] = hn::LoadU(d, rows[k] + x);
    const auto store = [&](const V* h, float* before, float* behind, float* slopes) {
      const V slope = lesser_slope(hn::Sub(h[3], h[2]), hn::Sub(h[2], h[1]));
      hn::StoreU(face_towards(h[0], h[1], h[2], h[3], hn::NegMulAdd(slope, half, h[2])), d, before + x);
      hn::StoreU(face_towards(h[4], h[3], h[2], h[1], hn::MulAdd(slope, half, h[2])), d, behind + x);
      hn::StoreU(slope, d, slopes + x);
    };
    store(along, to.part[kLeft], to.part[kRight], to.part[kSlopeU]);
    store(across, to.part[kUpper], to.part[kLower], to.part[kSlopeV]);
  }
}

// Along one direction: the steepest rise to any of the places, or `beyond` where that is steeper.
template <bool kBeside>
void horizon_row_of(const float* HWY_RESTRICT here, const Rises& rises, int size, const float* HWY_RESTRICT beyond,
                    float* HWY_RESTRICT out) {
  const D d;
  const int n = static_cast<int>(hn::Lanes(d));
  const auto rise = [&](int k, int x, V h) {
    const V straight =
        hn::Mul(hn::Sub(hn::LoadU(d, rises.face + rises.offset[k] + x), h), hn::Set(d, rises.per_distance[k]));
    if constexpr (!kBeside) return straight;
    return hn::MulAdd(hn::LoadU(d, rises.slope + rises.offset[k] + x), hn::Set(d, rises.aside[k]), straight);
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
  if (rises.slope)
    horizon_row_of<true>(here, rises, size, beyond, out);
  else
    horizon_row_of<false>(here, rises, size, beyond, out);
}

// Each value of [first, last) twice, for a row of the next finer level.
void doubled_row(const float* HWY_RESTRICT coarse, int first, int last, float* HWY_RESTRICT fine) {
  for (int x = first; x < last; ++x) fine[2 * x] = fine[2 * x + 1] = coarse[x];
}

// The arctangent of 0 and above, to 2e-6: of what is at most 1, the complement above.
HWY_INLINE V arctangent(V t) {
  const D d;
  const V one = hn::Set(d, 1.0f);
  const auto steep = hn::Gt(t, one);
  const V z = hn::IfThenElse(steep, hn::Div(one, t), t), s = hn::Mul(z, z);
  V p = hn::Zero(d);
  for (const float c : kArctangent) p = hn::MulAdd(p, s, hn::Set(d, c));
  p = hn::Mul(p, z);
  return hn::IfThenElse(steep, hn::Sub(hn::Set(d, 1.57079632679f), p), p);
}

// The mean of cos^2 = 1 / (1 + t^2) over a sector between two directions, t running evenly from one to the other.
HWY_INLINE V mean_between(V from, V to, V arc_from, V arc_to) {
  const D d;
  const V change = hn::Sub(to, from);
  const auto even = hn::Lt(hn::Abs(change), hn::Set(d, 2e-3f));
  return hn::Div(hn::IfThenElse(even, hn::Set(d, 1.0f), hn::Sub(arc_to, arc_from)),
                 hn::IfThenElse(even, hn::MulAdd(from, to, hn::Set(d, 1.0f)), change));
}

// The mean of cos^2 of the horizon over all directions, from its tangents in kSky of them. The tangent of an upright
// wall is a sine over the directions, so two neighbours tell how it goes on: where what comes from both sides meets
// below both, there is a corner in between.
void sky_row(const float* const* tangents, int size, float* HWY_RESTRICT sky) {
  const D d;
  const V zero = hn::Zero(d), one = hn::Set(d, 1.0f), bend = hn::Set(d, kSkyBend), least = hn::Set(d, 2e-3f);
  for (int x = 0; x < size; x += static_cast<int>(hn::Lanes(d))) {
    const auto at = [&](int k) { return hn::Load(d, tangents[(k + kSky) % kSky] + x); };
    V sum = zero, before = at(-1), from = at(0), to = at(1), arc = arctangent(from);
    for (int k = 0; k < kSky; ++k) {
      const V after = at(k + 2), next_arc = arctangent(to);
      // How far what comes from one side stays below the other end: both positive at a corner. A round pit, whose
      // horizon is level, has something of one in every sector: that much does not count, a right angle counts whole.
      const V on = hn::MulSub(bend, from, before), back = hn::MulSub(bend, to, after), p = hn::Sub(from, back),
              q = hn::Sub(to, on), lesser = hn::Max(zero, hn::Min(p, q));
      // One division for both shares: divisions are what takes the time here.
      const V total = hn::Max(hn::Add(from, to), least), both = hn::Max(hn::Add(p, q), least),
              inverse = hn::Div(one, hn::Mul(total, both));
      const V sharp = hn::Mul(hn::Mul(hn::Add(lesser, lesser), both), inverse);
      V mean = mean_between(from, to, arc, next_arc);
      // A sine bulges beyond its chord, a level horizon does not.
      const V straight = hn::Max(zero, hn::NegMulAdd(sharp, hn::Set(d, 1 / kSkyRound), one));
      mean = hn::NegMulAdd(hn::Mul(hn::Mul(straight, hn::Set(d, kSkyBulge)), mean), hn::Sub(one, mean), mean);
      const V weight = hn::Min(one, hn::Mul(hn::Sub(sharp, hn::Set(d, kSkyRound)), hn::Set(d, 3.0f)));
      if (const auto corner = hn::Gt(weight, zero); !hn::AllFalse(d, corner)) {
        const V share = hn::Mul(hn::Mul(p, total), inverse),
                meet = hn::Max(zero, hn::NegMulAdd(hn::Sub(from, on), share, from)), arc_meet = arctangent(meet);
        const V one_side = mean_between(from, meet, arc, arc_meet), other = mean_between(meet, to, arc_meet, next_arc);
        const V parted = hn::MulAdd(share, hn::Sub(one_side, other), other);
        mean = hn::IfThenElse(corner, hn::MulAdd(weight, hn::Sub(parted, mean), mean), mean);
      }
      sum = hn::Add(sum, mean);
      before = from, from = to, to = after, arc = next_arc;
    }
    hn::Store(hn::Mul(sum, hn::Set(d, 1.0f / kSky)), d, sky + x);
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
HWY_EXPORT(walls_row);
HWY_EXPORT(face_row);
HWY_EXPORT(horizon_row);
HWY_EXPORT(doubled_row);
HWY_EXPORT(sky_row);
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

// How far each level looks, in its own texels: the finest takes every texel, the next goes on in steps of one part in
// five or less, all others of one part in ten: beside the finest they cost little.
constexpr int kFarthest = 18;
struct Span {
  int nearest, farthest;
};
constexpr Span span_of(std::size_t level) {
  return level == 0 ? Span{1, 9} : level == 1 ? Span{5, kFarthest} : Span{10, kFarthest};
}

Plane with_walls(const Plane& height, const Stop& stop) {
  const int size = height.size();
  Plane seen(size);
  for_rows(size, 32, stop, [&](int first, int last) {
    Padded padded(size, 2);
    for (int y = first; y < last; ++y) {
      std::array<const float*, 5> rows;
      for (int k = 0; k < 5; ++k) rows[static_cast<std::size_t>(k)] = height.row(wrap(y + k - 2, size));
      rows[2] = padded.load(rows[2]);
      HWY_DYNAMIC_DISPATCH(walls_row)(rows.data(), size, seen.row(y));
    }
  });
  return seen;
}

// The faces of a level's texels, of the rows about a stretch: with wrapped samples on both sides so that every step
// reads straight on.
class FaceRows {
 public:
  /// `here` is what the level looks from, `seen` what it looks at.
  FaceRows(const Plane& here, const Plane& seen) : here_(here), seen_(seen), stride_(stride_of(seen.size())) {}
  static std::size_t stride_of(int size) { return static_cast<std::size_t>(size + 2 * kPad); }
  /// Rows [first, last), which may lie round the tile.
  void fill(int first, int last) {
    const int size = seen_.size();
    first_ = first;
    if (const std::size_t count = stride_ * static_cast<std::size_t>(last - first) + 16; count > held_)
      for (auto& part : part_) part = pooled<float>(count);
    held_ = std::max(held_, stride_ * static_cast<std::size_t>(last - first) + 16);
    Padded padded(size, 2);
    for (int y = first; y < last; ++y) {
      const std::size_t at = static_cast<std::size_t>(y - first) * stride_ + kPad;
      Faces to;
      for (std::size_t i = 0; i < kParts; ++i) to.part[i] = part_[i].get() + at;
      std::array<const float*, 5> rows;
      for (int k = 0; k < 5; ++k) rows[static_cast<std::size_t>(k)] = seen_.row(wrap(y + k - 2, size));
      rows[2] = padded.load(rows[2]);
      HWY_DYNAMIC_DISPATCH(face_row)(rows.data(), size, to);
      for (float* row : to.part)
        for (int k = 0; k < kPad; ++k) row[-1 - k] = row[wrap(-1 - k, size)], row[size + k] = row[wrap(k, size)];
    }
  }
  const float* row(Part part, int y) const {
    return part_[part].get() + static_cast<std::size_t>(y - first_) * stride_ + kPad;
  }
  const float* here(int y) const { return here_.row(y); }
  int size() const { return seen_.size(); }

 private:
  static constexpr int kPad = 32;
  const Plane &here_, &seen_;
  std::size_t stride_, held_ = 0;
  std::array<Pooled<float>, kParts> part_;
  int first_ = 0;
};

// Steps to faces of texels of a level: how far beside their middle, and one, over the distance; in relief per tile
// width.
struct March {
  std::vector<std::ptrdiff_t> offset;  // in a plane of FaceRows
  std::vector<float> aside, per_distance;
  bool beside = false;  // any of them
};

// The steps along a direction, level by level.
struct Direction {
  Part face, slope;
  std::vector<March> marches;
};

March steps_along(double angle, std::size_t level, int full_size, double reach, double depth) {
  March march;
  const double c = std::cos(angle), s = std::sin(angle), longer = std::max(std::abs(c), std::abs(s)),
               texel = static_cast<double>(1u << level) / full_size;
  const bool across = std::abs(c) >= std::abs(s);  // u is the nearer axis
  for (int r = span_of(level).nearest; r <= span_of(level).farthest; ++r) {
    const double distance = (r - 0.5) / longer * texel;
    if (distance > reach && !(level == 0 && r == 1)) continue;
    const int along = across ? (c > 0 ? r : -r) : (s > 0 ? r : -r);
    const double aside = (across ? s : c) * (r - 0.5) / longer, per = depth / distance;
    const int texels = static_cast<int>(std::floor(aside + 0.5));
    const int du = across ? along : texels, dv = across ? texels : along;
    march.offset.push_back(static_cast<std::ptrdiff_t>(FaceRows::stride_of(full_size >> level)) * dv + du);
    march.aside.push_back(static_cast<float>((aside - texels) * per));
    march.per_distance.push_back(static_cast<float>(per));
    march.beside |= std::abs(aside - texels) > 1e-6;
  }
  return march;
}

Direction direction_of(int k, std::size_t levels, int size, float reach, float depth) {
  const double angle = 2 * 3.14159265358979 * k / kSky, c = std::cos(angle), s = std::sin(angle);
  const bool across = std::abs(c) >= std::abs(s);
  Direction way{across ? (c > 0 ? kLeft : kRight) : (s > 0 ? kUpper : kLower), across ? kSlopeV : kSlopeU, {}};
  for (std::size_t l = 0; l < levels; ++l)
    way.marches.push_back(steps_along(angle, l, size, static_cast<double>(reach), static_cast<double>(depth)));
  return way;
}

// Horizons along one direction over a panel of columns and some rows, level by level from the coarsest: what a coarse
// level sees beyond is what the finer starts from. A panel is so small that what one level reads stays in the nearest
// cache, and what all of them find in the next.
class HorizonPanel {
 public:
  static constexpr int kColumns = 256, kRows = 16;

  explicit HorizonPanel(const std::vector<FaceRows>& levels) : levels_(levels) {
    for (auto& found : found_) found = pooled<float>(static_cast<std::size_t>(kRows * kStride));
    beyond_ = pooled<float>(kStride);
  }
  /// The tangents of `rows` rows from (x, y) on, kColumns apart.
  void find(const Direction& way, int x, int y, int rows, float* out) {
    Columns finer = columns_of(x, levels_.size() - 1);
    for (std::size_t l = levels_.size(); l-- > 0;) {
      const Columns at = columns_of(x, l);
      const int first = y >> l, last = (y + rows - 1) >> l;
      for (int row = first; row <= last; ++row) {
        const float* beyond = nullptr;
        if (l + 1 < levels_.size()) {
          const float* coarse = found(l + 1, row / 2 - (y >> (l + 1))) - finer.first;
          HWY_DYNAMIC_DISPATCH(doubled_row)(coarse, at.first / 2, (at.last + 1) / 2, beyond_.get() - at.first);
          beyond = beyond_.get();
        }
        march(way, l, row, at, beyond, l == 0 ? out + (row - y) * kColumns : found(l, row - first));
      }
      finer = at;
    }
  }

 private:
  static constexpr int kWhole = 16, kStride = kColumns + 2 * kWhole;  // columns of the widest vector
  struct Columns {
    int first, last;
  };
  Columns columns_of(int x, std::size_t level) const {
    int first = x, last = x + kColumns;
    for (std::size_t l = 0; l <= level; ++l) {
      if (l > 0) first /= 2, last = (last + 1) / 2;
      first = first / kWhole * kWhole;
      last = std::min((last + kWhole - 1) / kWhole * kWhole, levels_[l].size());
    }
    return {first, last};
  }
  float* found(std::size_t level, int row) { return found_[level % 2].get() + row * kStride; }
  void march(const Direction& way, std::size_t l, int y, Columns at, const float* beyond, float* out) {
    const FaceRows& level = levels_[l];
    const March& march = way.marches[l];
    const Rises rises{level.row(way.face, y) + at.first,
                      march.beside ? level.row(way.slope, y) + at.first : nullptr,
                      march.offset.data(),
                      march.aside.data(),
                      march.per_distance.data(),
                      static_cast<int>(march.offset.size())};
    if (!beyond) beyond = std::fill_n(beyond_.get(), at.last - at.first, 0.0f) - (at.last - at.first);
    HWY_DYNAMIC_DISPATCH(horizon_row)(level.here(y) + at.first, rises, at.last - at.first, beyond, out);
  }

  const std::vector<FaceRows>& levels_;
  std::array<Pooled<float>, 2> found_;  // of this level and of the coarser
  Pooled<float> beyond_;
};

// A level of the pyramid of heights: what it looks from, and what is seen of it.
struct Level {
  const Plane *here, *seen;
};

// All directions over a stretch of rows.
class SkyStretch {
 public:
  SkyStretch(const std::vector<Level>& levels, const std::vector<Direction>& ways)
      : ways_(ways), found_(pooled<float>(static_cast<std::size_t>(kSky * kPanel))) {
    levels_.reserve(levels.size());
    for (const Level& level : levels) levels_.emplace_back(*level.here, *level.seen);
  }
  void add(int first, int last, Plane& open) {
    for (std::size_t l = 0; l < levels_.size(); ++l)
      levels_[l].fill((first >> l) - span_of(l).farthest, ((last - 1) >> l) + span_of(l).farthest + 1);
    HorizonPanel panel(levels_);
    for (int y = first; y < last; y += HorizonPanel::kRows)
      for (int x = 0; x < open.size(); x += HorizonPanel::kColumns)
        add_panel(panel, x, y, std::min(HorizonPanel::kRows, last - y), open);
  }

 private:
  static constexpr int kPanel = HorizonPanel::kRows * HorizonPanel::kColumns;
  void add_panel(HorizonPanel& panel, int x, int y, int rows, Plane& open) {
    for (int k = 0; k < kSky; ++k)
      panel.find(ways_[static_cast<std::size_t>(k)], x, y, rows, found_.get() + k * kPanel);
    for (int r = 0; r < rows; ++r) {
      std::array<const float*, kSky> tangents;
      for (int k = 0; k < kSky; ++k)
        tangents[static_cast<std::size_t>(k)] = found_.get() + k * kPanel + r * HorizonPanel::kColumns;
      HWY_DYNAMIC_DISPATCH(sky_row)
      (tangents.data(), std::min(HorizonPanel::kColumns, open.size() - x), open.row(y + r) + x);
    }
  }
  const std::vector<Direction>& ways_;
  std::vector<FaceRows> levels_;
  Pooled<float> found_;
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
  const int size = height.size();
  std::deque<Plane> means, seen;  // of the pyramid, and of all levels with their walls
  std::vector<Level> levels{{&height, &seen.emplace_back(with_walls(height, stop))}};
  while (static_cast<double>(span_of(levels.size() - 1).farthest << (levels.size() - 1)) <
             static_cast<double>(reach) * size &&
         levels.back().seen->size() > kLeastSize && !stop.asked()) {
    means.push_back(reduced(means.empty() ? height : means.back()));
    const Plane& walled = seen.emplace_back(with_walls(means.back(), stop));
    levels.push_back({&walled, &walled});
  }
  std::vector<Direction> ways;
  for (int k = 0; k < kSky; ++k) ways.push_back(direction_of(k, levels.size(), size, reach, depth));
  Plane open(size);
  for_rows(size, 64, stop, [&](int first, int last) { SkyStretch(levels, ways).add(first, last, open); });
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
