// Doubling: twice the way is the way, then the way again from where it led.
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/plane/flow.cpp"
#include <hwy/cache_control.h>
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include <algorithm>
#include <cmath>

#include "core/base/parallel.h"
#include "core/plane/flow.h"

#ifndef LOOM_QUAD_RUN
#define LOOM_QUAD_RUN
namespace loom {
// A stretch of a row of quads: what is written is each quad and the one where its first two numbers lead, `step` texels
// for a length of 1, added up.
struct QuadRun {
  const float* quads;
  std::size_t pitch;
  int size, y, from, to;
  float step, share;
  float* sums;      // a row of quads; null: the last two numbers, times `share`, are added to `means` instead
  float* means[2];  // rows of planes, or null
};
}  // namespace loom
#endif

HWY_BEFORE_NAMESPACE();
namespace loom::HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;
using D = hn::ScalableTag<float>;
using V = hn::Vec<D>;

// One column more than the plane has repeats the first.
void pack(const float* HWY_RESTRICT u, const float* HWY_RESTRICT v, const float* HWY_RESTRICT s,
          const float* HWY_RESTRICT t, int size, float* HWY_RESTRICT quads) {
  const D d;
  for (int x = 0; x < size; x += static_cast<int>(hn::Lanes(d)))
    hn::StoreInterleaved4(hn::Load(d, u + x), hn::Load(d, v + x), hn::Load(d, s + x), hn::Load(d, t + x), d,
                          quads + 4 * x);
  std::copy_n(quads, 4, quads + 4 * size);
}

// Where a vector of texels is read: the quads above and below, and how far between them.
struct QuadPlaces {
  alignas(64) std::int32_t upper[16], lower[16];
  alignas(64) float right[16], down[16];
};

// Found a vector ahead of the reading, and asked for from memory at once: which way the reading turns no hardware
// foresees.
HWY_INLINE void find_places(const QuadRun& run, const float* own, int x, QuadPlaces& at) {
  const D d;
  const hn::RebindToSigned<D> di;
  const auto most = hn::Set(di, run.size - 1), pitch = hn::Set(di, static_cast<int>(run.pitch));
  V u, v, s, t;
  hn::LoadInterleaved4(d, own + 4 * x, u, v, s, t);
  const V step = hn::Set(d, run.step), px = hn::MulAdd(u, step, hn::Iota(d, static_cast<float>(x))),
          py = hn::MulAdd(v, step, hn::Set(d, static_cast<float>(run.y)));
  const V fx = hn::Floor(px), fy = hn::Floor(py);
  const auto x0 = hn::ShiftLeft<2>(hn::And(hn::ConvertTo(di, fx), most)), y0 = hn::ConvertTo(di, fy);
  hn::Store(hn::Sub(px, fx), d, at.right), hn::Store(hn::Sub(py, fy), d, at.down);
  hn::Store(hn::Add(hn::Mul(hn::And(y0, most), pitch), x0), di, at.upper);
  hn::Store(hn::Add(hn::Mul(hn::And(hn::Add(y0, hn::Set(di, 1)), most), pitch), x0), di, at.lower);
  for (std::size_t i = 0; i < hn::Lanes(d); i += 4)
    hwy::Prefetch(run.quads + at.upper[i]), hwy::Prefetch(run.quads + at.lower[i]);
}

// Bilinear at one of the places, added to the quad at `own`: gives that to `put`, as much at a time as a vector holds.
// A texel's four numbers are one load, and its neighbour's the next; where vectors are as wide, both are one.
template <class Put>
HWY_INLINE void joined(const float* above, const float* below, float right, float down, const float* own,
                       const Put& put) {
#if HWY_MAX_BYTES >= 32
  const hn::FixedTag<float, 8> two;
  const hn::FixedTag<float, 4> quad;
  const auto top = hn::LoadU(two, above),
             both = hn::MulAdd(hn::Sub(hn::LoadU(two, below), top), hn::Set(two, down), top);
  const auto left = hn::LowerHalf(quad, both),
             there = hn::MulAdd(hn::Sub(hn::UpperHalf(quad, both), left), hn::Set(quad, right), left);
  put(0, hn::Add(hn::Load(quad, own), there));
#else
  const hn::CappedTag<float, 4> part;
  const auto r = hn::Set(part, right), d = hn::Set(part, down);
  for (int k = 0; k < 4; k += static_cast<int>(hn::Lanes(part))) {
    const auto a = hn::LoadU(part, above + k), e = hn::LoadU(part, below + k);
    const auto left = hn::MulAdd(hn::Sub(e, a), d, a), b = hn::LoadU(part, above + 4 + k),
               over = hn::MulAdd(hn::Sub(hn::LoadU(part, below + 4 + k), b), d, b);
    put(k, hn::Add(hn::Load(part, own + k), hn::MulAdd(hn::Sub(over, left), r, left)));
  }
#endif
}

template <bool kEnds>
void join_run(const QuadRun& run) {
  const D d;
  const int n = static_cast<int>(hn::Lanes(d)), last = run.to;
  const float *const quads = run.quads, *const own = quads + static_cast<std::size_t>(run.y) * run.pitch;
  const hn::CappedTag<float, 4> quad;
  QuadPlaces places[2];
  alignas(64) float ended[64];
  float *const sums = run.sums, *const means0 = run.means[0], *const means1 = run.means[1];
  const V share = hn::Set(d, run.share);
  find_places(run, own, run.from, places[0]);
  for (int x = run.from, turn = 0; x < last; x += n, turn ^= 1) {
    if (x + n < last) find_places(run, own, x + n, places[turn ^ 1]);
    const QuadPlaces& at = places[turn];
    const float* const here = own + 4 * x;
    for (int i = 0; i < n; ++i) {
      const float *above = quads + at.upper[i], *below = quads + at.lower[i];
      joined(above, below, at.right[i], at.down[i], here + 4 * i, [&](int k, hn::Vec<hn::CappedTag<float, 4>> sum) {
        if constexpr (kEnds)
          hn::Store(sum, quad, ended + 4 * i + k);
        else
          hn::Stream(sum, quad, sums + 4 * (x + i) + k);
      });
    }
    if constexpr (kEnds) {
      V u, v, s, t;
      hn::LoadInterleaved4(d, ended, u, v, s, t);
      hn::Store(hn::MulAdd(s, share, hn::Load(d, means0 + x)), d, means0 + x);
      if (means1) hn::Store(hn::MulAdd(t, share, hn::Load(d, means1 + x)), d, means1 + x);
    }
  }
  if (!kEnds && run.from == 0) std::copy_n(sums, 4, sums + 4 * run.size);
}

void join(const QuadRun& run) { run.sums ? join_run<false>(run) : join_run<true>(run); }

}  // namespace loom::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace loom {

HWY_EXPORT(pack);
HWY_EXPORT(join);

namespace {

constexpr int kStretch = 512;

// Four numbers a texel, side by side, and one column more than the plane has.
class Quads {
 public:
  explicit Quads(int size)
      : pitch_(4 * static_cast<std::size_t>(size + 4)), data_(pooled<float>(pitch_ * static_cast<std::size_t>(size))) {}
  std::size_t pitch() const { return pitch_; }
  float* row(int y) { return data_.get() + static_cast<std::size_t>(y) * pitch_; }

 private:
  std::size_t pitch_;
  Pooled<float> data_;
};

// The mean of a plane and itself moved by (du, dv) texels, bilinear: rows are read as they lie.
Plane paired(const Plane& p, double du, double dv, const Stop& stop) {
  const int size = p.size(), iu = static_cast<int>(std::floor(du)), iv = static_cast<int>(std::floor(dv));
  const auto fu = static_cast<float>(du - iu), fv = static_cast<float>(dv - iv);
  Plane out(size);
  for_rows(size, 32, stop, [&](int first, int last) {
    std::vector<float> moved(static_cast<std::size_t>(size) + 1);
    for (int y = first; y < last; ++y) {
      const float *a = p.row(wrap(y + iv, size)), *b = p.row(wrap(y + iv + 1, size)), *here = p.row(y);
      for (int x = 0; x <= size; ++x) {
        const int at = wrap(x + iu, size);
        moved[static_cast<std::size_t>(x)] = a[at] + (b[at] - a[at]) * fv;
      }
      float* to = out.row(y);
      for (int x = 0; x < size; ++x) {
        const float there = moved[static_cast<std::size_t>(x)] +
                            (moved[static_cast<std::size_t>(x) + 1] - moved[static_cast<std::size_t>(x)]) * fu;
        to[x] = 0.5f * (here[x] + there);
      }
    }
  });
  return out;
}

// One direction of a smear, from the field and one or two planes on; ways are kept in lengths of a step. `means`: added
// to.
void add_means(const std::vector<const Plane*>& sources, const Plane& field_u, const Plane& field_v, float step,
               int doublings, float share, std::vector<float*> means, const Stop& stop) {
  const int size = field_u.size();
  Quads from(size), to(size);
  for_rows(size, 16, stop, [&](int first, int last) {
    for (int y = first; y < last; ++y) HWY_DYNAMIC_DISPATCH(pack)
    (field_u.row(y), field_v.row(y), sources.front()->row(y), sources.back()->row(y), size, from.row(y));
  });
  for (int i = 0; i < doublings && !stop.asked(); ++i) {
    const bool ends = i + 1 == doublings;
    for_rows(size, 32, stop, [&](int first, int last) {
      // Stretches below one another: what one reads between two rows, the next finds in the nearest cache.
      for (int x = 0; x < size && !stop.asked(); x += kStretch)
        for (int y = first; y < last; ++y) {
          QuadRun run{from.row(0),
                      from.pitch(),
                      size,
                      y,
                      x,
                      std::min(x + kStretch, size),
                      step * static_cast<float>(size),
                      share,
                      ends ? nullptr : to.row(y),
                      {nullptr, nullptr}};
          for (std::size_t k = 0; ends && k < means.size(); ++k)
            run.means[k] = means[k] + static_cast<std::size_t>(y) * static_cast<std::size_t>(size);
          HWY_DYNAMIC_DISPATCH(join)(run);
        }
    });
    std::swap(from, to);
  }
}

}  // namespace

std::vector<Plane> way_along(const Plane& field_u, const Plane& field_v, float share, int doublings, const Stop& stop) {
  std::vector<Plane> way;
  const auto u = [&]() -> const Plane& { return way.empty() ? field_u : way[0]; };
  const auto v = [&]() -> const Plane& { return way.empty() ? field_v : way[1]; };
  for (int i = 0; i < doublings && !stop.asked(); ++i) way = warped({&u(), &v()}, {u(), v(), share}, stop, 1);
  return way;
}

std::vector<Plane> followed(const std::vector<const Plane*>& sources, const Plane& field_u, const Plane& field_v,
                            float share, int doublings, const Stop& stop) {
  const auto way = way_along(field_u, field_v, share, doublings, stop);
  return warped(sources, {way.empty() ? field_u : way[0], way.empty() ? field_v : way[1], share}, stop);
}

std::vector<Plane> smeared(const std::vector<const Plane*>& sources, const Plane& field_u, const Plane& field_v,
                           float length, int doublings, const Stop& stop) {
  const float step = length / static_cast<float>(1 << doublings), share = 1 / static_cast<float>(1 << doublings);
  std::vector<Plane> all;
  for (std::size_t i = 0; i < sources.size(); ++i) all.push_back(Plane::filled(field_u.size(), 0));
  for (std::size_t i = 0; i < sources.size(); i += 2) {
    const std::size_t count = std::min<std::size_t>(2, sources.size() - i);
    const std::vector<const Plane*> two(sources.begin() + static_cast<std::ptrdiff_t>(i),
                                        sources.begin() + static_cast<std::ptrdiff_t>(i + count));
    std::vector<float*> means;
    for (std::size_t k = i; k < i + count; ++k) means.push_back(all[k].data());
    for (const float way : {step, -step}) add_means(two, field_u, field_v, way, doublings - 1, share, means, stop);
  }
  return all;
}

Plane line_blurred(const Plane& source, float length, float radians, const Stop& stop) {
  const double texels = static_cast<double>(length) * source.size();
  if (texels < 1e-3) return source.clone();
  // Two even windows of half the length each: together a window that falls off evenly to both ends.
  const int doublings = std::clamp(static_cast<int>(std::ceil(std::log2(std::max(texels / 2, 1.0)))) + 1, 1, 12);
  const double c = std::cos(static_cast<double>(radians)), s = -std::sin(static_cast<double>(radians)),
               step = texels / 2 / (1 << doublings);
  Plane p = source.clone();
  for (const double way : {1.0, -1.0})
    for (int i = 0; i < doublings && !stop.asked(); ++i)
      p = paired(p, way * c * step * (1 << i), way * s * step * (1 << i), stop);
  return p;
}

}  // namespace loom
#endif
