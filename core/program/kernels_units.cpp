// Kernels that find laid units and stamps at any position, and that sample planes.
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/program/kernels_units.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include <hwy/contrib/math/math-inl.h>

#include <algorithm>
#include <cmath>

#include "core/plane/bilinear-inl.h"
#include "core/program/builder.h"
#include "core/program/kernels.h"
#include "core/program/resources.h"

HWY_BEFORE_NAMESPACE();
namespace loom::HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;
using D = hn::ScalableTag<float>;
using V = hn::Vec<D>;
using DI = hn::RebindToSigned<D>;
using I = hn::Vec<DI>;

HWY_INLINE V set(float x) { return hn::Set(D(), x); }

// Signed distance to a rounded box. Source: the exact box distance of Hart, "Sphere tracing", The Visual Computer 12,
// 1996.
HWY_INLINE V box_distance(V x, V y, V half_u, V half_v, V radius) {
  const V zero = hn::Zero(D());
  const V qx = hn::Add(hn::Sub(hn::Abs(x), half_u), radius), qy = hn::Add(hn::Sub(hn::Abs(y), half_v), radius);
  const V ox = hn::Max(qx, zero), oy = hn::Max(qy, zero);
  return hn::Sub(hn::Add(hn::Sqrt(hn::MulAdd(ox, ox, hn::Mul(oy, oy))), hn::Min(hn::Max(qx, qy), zero)), radius);
}

// Signed distance to a simple polygon: to its nearest edge, the sign by how often a ray crosses it.
// Source: the crossing count of Hormann and Agathos, "The point in polygon problem", Computational Geometry 20, 2001.
HWY_INLINE V outline_distance(const LaidUnits& t, size_t from, size_t to, V x, V y, V radius) {
  const D d;
  V least = set(1e9f);
  auto inside = hn::Lt(set(1), set(0));
  for (size_t i = from, j = to - 1; i < to; j = i++) {
    const float ax = t.outline_x[j], ay = t.outline_y[j], ex = t.outline_x[i] - ax, ey = t.outline_y[i] - ay;
    const V wx = hn::Sub(x, set(ax)), wy = hn::Sub(y, set(ay));
    const V along = hn::Mul(hn::MulAdd(wx, set(ex), hn::Mul(wy, set(ey))), set(1 / (ex * ex + ey * ey)));
    const V share = hn::Min(hn::Max(along, hn::Zero(d)), set(1));
    const V px = hn::NegMulAdd(share, set(ex), wx), py = hn::NegMulAdd(share, set(ey), wy);
    least = hn::Min(least, hn::MulAdd(px, px, hn::Mul(py, py)));
    if (ey == 0) continue;
    const auto below = hn::Lt(wy, hn::Zero(d)), beyond = hn::Lt(wy, set(ey));
    const auto right = hn::Lt(hn::Mul(wy, set(ex / ey)), wx);  // the edge passes to the left of the sample
    inside = hn::Xor(inside, hn::And(hn::Xor(below, beyond), right));
  }
  const V distance = hn::Sqrt(least);
  return hn::Sub(hn::IfThenElse(inside, hn::Neg(distance), distance), radius);
}

struct Nearest {
  V distance, unit, x, y;
  V next, joint, next_joint;  // the distance of the unit after it, and what both keep free: where joints are kept
};

template <bool kJoints>
HWY_INLINE void consider(const LaidUnits& t, size_t k, V u, V v, Nearest& best) {
  const auto id = static_cast<size_t>(t.unit[k]);
  const V du = hn::Sub(u, set(t.at_u[k])), dv = hn::Sub(v, set(t.at_v[k])), cosine = set(t.cosine[id]),
          sine = set(t.sine[id]);
  const V x = hn::Sub(hn::Mul(du, cosine), hn::Mul(dv, sine)), y = hn::MulAdd(du, sine, hn::Mul(dv, cosine));
  const bool box = t.outline_first.empty() || t.outline_first[id] == t.outline_first[id + 1];
  const V distance = box ? box_distance(x, y, set(t.half_u[id]), set(t.half_v[id]), set(t.radius[id]))
                         : outline_distance(t, static_cast<size_t>(t.outline_first[id]),
                                            static_cast<size_t>(t.outline_first[id + 1]), x, y, set(t.radius[id]));
  const auto closer = hn::Lt(distance, best.distance);
  if constexpr (kJoints) {
    // Lanes of two cells try a unit twice: it is not its own neighbour.
    const V joint = set(t.joint[id]);
    const auto second = hn::And(hn::Lt(distance, best.next), hn::Ne(best.unit, set(static_cast<float>(id))));
    best.next_joint = hn::IfThenElse(closer, best.joint, hn::IfThenElse(second, joint, best.next_joint));
    best.next = hn::IfThenElse(closer, best.distance, hn::IfThenElse(second, distance, best.next));
    best.joint = hn::IfThenElse(closer, joint, best.joint);
  }
  best.distance = hn::Min(distance, best.distance);
  best.unit = hn::IfThenElse(closer, set(static_cast<float>(id)), best.unit);
  best.x = hn::IfThenElse(closer, x, best.x);
  best.y = hn::IfThenElse(closer, y, best.y);
}

// A vector's lanes mostly share a cell of the grid, or a few along a row: their candidates are tried on all lanes at
// once. A candidate that belongs to another lane's cell does no harm: the nearest wins.
template <bool kJoints>
void laid_units(const StripCall& c) {
  const auto& t = static_cast<const LaidUnits&>(*c.resource);
  const D d;
  const DI di;
  const size_t n = hn::Lanes(d);
  const V grid = set(static_cast<float>(t.grid));
  const I most = hn::Set(di, t.grid - 1);
  for (size_t i = 0; i < c.padded; i += n) {
    V u = hn::Load(d, c.source[0] + i * c.stride[0]), v = hn::Load(d, c.source[1] + i * c.stride[1]);
    u = hn::Sub(u, hn::Floor(u));
    v = hn::Sub(v, hn::Floor(v));
    const I cu = hn::Min(hn::ConvertTo(di, hn::Mul(u, grid)), most),
            cv = hn::Min(hn::ConvertTo(di, hn::Mul(v, grid)), most);
    alignas(64) std::int32_t cells[16];
    hn::Store(hn::Add(hn::Mul(cv, hn::Set(di, t.grid)), cu), di, cells);
    Nearest best{set(1e9f), set(-1), hn::Zero(d), hn::Zero(d), set(1e9f), hn::Zero(d), hn::Zero(d)};
    // Cells in the order of the lanes, each once in a row: the result does not depend on how wide a vector is.
    for (size_t lane = 0; lane < n; ++lane) {
      if (lane > 0 && cells[lane] == cells[lane - 1]) continue;
      const auto cell = static_cast<size_t>(cells[lane]);
      for (auto k = static_cast<size_t>(t.first[cell]); k < static_cast<size_t>(t.first[cell + 1]); ++k)
        consider<kJoints>(t, k, u, v, best);
    }
    // Units that collide keep their joint between them: each ends half a joint before the line that is as far from
    // both. Where they do not, their distances add up to a joint or more, and nothing changes.
    if constexpr (kJoints) {
      const V joint = hn::Mul(hn::Add(best.joint, best.next_joint), set(0.9999f));
      best.distance = hn::Max(best.distance, hn::Mul(hn::Add(hn::Sub(best.distance, best.next), joint), set(0.5f)));
    }
    hn::Store(best.unit, d, c.result[0] + i);
    hn::Store(best.x, d, c.result[1] + i);
    hn::Store(best.y, d, c.result[2] + i);
    hn::Store(hn::Min(best.distance, set(1)), d, c.result[3] + i);
  }
}

void laid(const StripCall& c) {
  if (static_cast<const LaidUnits&>(*c.resource).joint.empty())
    laid_units<false>(c);
  else
    laid_units<true>(c);
}

// Bilinear on the torus at (u, v), shares of the tile.
HWY_INLINE V bilinear(const Plane& plane, V u, V v) {
  const V size = set(static_cast<float>(plane.size())), half = set(0.5f);
  Pairs pairs;
  return Between(hn::Sub(hn::Mul(hn::Sub(u, hn::Floor(u)), size), half),
                 hn::Sub(hn::Mul(hn::Sub(v, hn::Floor(v)), size), half), plane.size(), pairs)
      .read(plane.data());
}

// The two levels about the footprint, mixed. A vector whose lanes agree on a level, as most do, reads only those two.
void sample(const StripCall& c) {
  const auto& levels = static_cast<const Sampled&>(*c.resource).levels;
  const D d;
  const V size = set(static_cast<float>(levels[0]->size())), top = set(static_cast<float>(levels.size() - 1)),
          one = set(1);
  for (size_t i = 0; i < c.padded; i += hn::Lanes(d)) {
    const V u = hn::Load(d, c.source[0] + i * c.stride[0]), v = hn::Load(d, c.source[1] + i * c.stride[1]);
    const V wide = hn::Mul(hn::Load(d, c.source[2] + i * c.stride[2]), size);
    V sum;
    if (hn::AllTrue(d, hn::Le(wide, set(1.01f)))) {
      sum = bilinear(*levels[0], u, v);
    } else {
      const V level = hn::IfThenElseZero(hn::Gt(wide, set(1.01f)), hn::Min(hn::Log2(d, hn::Max(wide, one)), top));
      const int least = static_cast<int>(hn::GetLane(hn::MinOfLanes(d, level))),
                most = static_cast<int>(std::ceil(hn::GetLane(hn::MaxOfLanes(d, level))));
      sum = hn::Zero(d);
      for (int l = least; l <= most; ++l) {
        const V weight = hn::Max(hn::Zero(d), hn::Sub(one, hn::Abs(hn::Sub(level, set(static_cast<float>(l))))));
        sum = hn::MulAdd(weight, bilinear(*levels[static_cast<size_t>(l)], u, v), sum);
      }
    }
    hn::Store(sum, d, c.result[0] + i);
  }
}

void nearest(const StripCall& c) {
  const Plane& plane = *static_cast<const Sampled&>(*c.resource).levels[0];
  const D d;
  const DI di;
  const V size = set(static_cast<float>(plane.size()));
  const I last = hn::Set(di, plane.size() - 1), stride = hn::Set(di, plane.size());
  const auto texel = [&](V at) { return hn::Min(hn::ConvertTo(di, hn::Mul(hn::Sub(at, hn::Floor(at)), size)), last); };
  for (size_t i = 0; i < c.padded; i += hn::Lanes(d)) {
    const I x = texel(hn::Load(d, c.source[0] + i * c.stride[0])),
            y = texel(hn::Load(d, c.source[1] + i * c.stride[1]));
    hn::Store(hn::GatherIndex(d, plane.data(), hn::Add(hn::Mul(y, stride), x)), d, c.result[0] + i);
  }
}

// A motif's value at its own coordinates 0..1: no wrapping, its border texels reach half a texel out.
// `covers`: of each texel only whether the motif is there.
HWY_INLINE V motif_at(const Plane& plane, V x, V y, bool covers = false) {
  const D d;
  const DI di;
  const V size = set(static_cast<float>(plane.size())), most = set(static_cast<float>(plane.size() - 1)),
          zero = hn::Zero(d);
  const V px = hn::Min(hn::Max(hn::MulAdd(x, size, set(-0.5f)), zero), most),
          py = hn::Min(hn::Max(hn::MulAdd(y, size, set(-0.5f)), zero), most);
  const V fx = hn::Floor(px), fy = hn::Floor(py), tx = hn::Sub(px, fx), ty = hn::Sub(py, fy);
  const I last = hn::Set(di, plane.size() - 1), one = hn::Set(di, 1), stride = hn::Set(di, plane.size());
  const I x0 = hn::ConvertTo(di, fx), x1 = hn::Min(hn::Add(x0, one), last), y0 = hn::ConvertTo(di, fy),
          y1 = hn::Min(hn::Add(y0, one), last);
  const I above = hn::Mul(y0, stride), below = hn::Mul(y1, stride);
  const float* p = plane.data();
  V a = hn::GatherIndex(d, p, hn::Add(above, x0)), b = hn::GatherIndex(d, p, hn::Add(above, x1));
  V e = hn::GatherIndex(d, p, hn::Add(below, x0)), f = hn::GatherIndex(d, p, hn::Add(below, x1));
  if (covers)
    for (V* at : {&a, &b, &e, &f}) *at = hn::IfThenElseZero(hn::Gt(*at, set(kNothing)), set(1));
  const V top = hn::MulAdd(hn::Sub(b, a), tx, a), bottom = hn::MulAdd(hn::Sub(f, e), tx, e);
  return hn::MulAdd(hn::Sub(bottom, top), ty, top);
}

// `level` of each lane, from 0 to the last. Lanes mostly agree on one: only the levels that some lane is near are read.
HWY_INLINE V motif_value(const std::vector<PlanePtr>& levels, V x, V y, V level, bool covers) {
  const D d;
  const int least = static_cast<int>(hn::GetLane(hn::MinOfLanes(d, level))),
            most = static_cast<int>(std::ceil(hn::GetLane(hn::MaxOfLanes(d, level))));
  if (least == most) return motif_at(*levels[static_cast<size_t>(least)], x, y, covers && least == 0);
  V sum = hn::Zero(d);
  for (int l = least; l <= most; ++l) {
    const V weight = hn::Max(hn::Zero(d), hn::Sub(set(1), hn::Abs(hn::Sub(level, set(static_cast<float>(l))))));
    sum = hn::MulAdd(weight, motif_at(*levels[static_cast<size_t>(l)], x, y, covers && l == 0), sum);
  }
  return sum;
}

// The best of the stamps so far; `met` where one counted at all. The unit that a sample belongs to is told apart from
// the value it shows, which may be the background's.
struct Topmost {
  V unit, x, y, value, met, of_unit;
};

template <class Mask>
HWY_INLINE void overlap(Overlap way, const Mask here, const Mask covered, V unit, V x, V y, V value, Topmost& best) {
  const D d;
  const V zero = hn::Zero(d);
  auto takes = hn::And(here, hn::Gt(value, zero));  // newest and summed
  if (way == Overlap::highest) takes = hn::And(here, hn::Gt(value, best.value));
  if (way == Overlap::lowest)
    takes = hn::And(hn::And(here, hn::Ne(value, zero)), hn::Or(hn::Eq(best.met, zero), hn::Lt(value, best.value)));
  if (way == Overlap::summed)
    best.value = hn::Add(best.value, hn::IfThenElseZero(here, value));
  else
    best.value = hn::IfThenElse(takes, value, best.value);
  best.met = hn::IfThenElse(takes, set(1), best.met);
  const auto none = hn::Lt(best.unit, zero);
  auto owns = hn::And(here, covered);
  if (way == Overlap::highest) owns = hn::And(owns, hn::Or(none, hn::Gt(value, best.of_unit)));
  if (way == Overlap::lowest) owns = hn::And(owns, hn::Or(none, hn::Lt(value, best.of_unit)));
  best.of_unit = hn::IfThenElse(owns, value, best.of_unit);
  best.unit = hn::IfThenElse(owns, unit, best.unit);
  best.x = hn::IfThenElse(owns, x, best.x);
  best.y = hn::IfThenElse(owns, y, best.y);
}

// One stamp over the lanes of `here`; `fine` is the logarithm of the footprint.
template <class Mask>
HWY_INLINE void stamp(const Stamps& s, size_t k, Mask here, V u, V v, V fine, Topmost& best) {
  const D d;
  const LaidUnits& t = s.units;
  const auto id = static_cast<size_t>(t.unit[k]);
  const V du = hn::Sub(u, set(t.at_u[k])), dv = hn::Sub(v, set(t.at_v[k])), cosine = set(t.cosine[id]),
          sine = set(t.sine[id]);
  const V x = hn::Div(hn::Sub(hn::Mul(du, cosine), hn::Mul(dv, sine)), set(t.half_u[id])),
          y = hn::Div(hn::MulAdd(du, sine, hn::Mul(dv, cosine)), set(t.half_v[id]));
  here = hn::And(here, hn::And(hn::Le(hn::Abs(x), set(1)), hn::Le(hn::Abs(y), set(1))));
  if (hn::AllFalse(d, here)) return;
  const auto m = static_cast<size_t>(s.motif[id]);
  const auto& motif = s.motifs[m];
  // A little finer than the sample is wide: bilinear reading widens an edge by a texel of its own.
  const float texels = 0.7f * 0.5f / std::min(t.half_u[id], t.half_v[id]) * static_cast<float>(motif[0]->size());
  const V level =
      hn::Min(hn::Max(hn::Add(fine, set(std::log2(texels))), hn::Zero(d)), set(static_cast<float>(motif.size() - 1)));
  const V half = set(0.5f), mx = hn::MulAdd(x, half, half), my = hn::MulAdd(y, half, half);
  const V value = motif_value(motif, mx, my, level, s.covers);
  // A sample belongs to the stamp that covers half of it or more: where the mask says so.
  const V cover = s.covers ? value : motif_value(s.covers_of[m], mx, my, level, true);
  overlap(s.overlap, here, hn::Ge(cover, half), set(static_cast<float>(id)), hn::Mul(x, set(t.half_u[id])),
          hn::Mul(y, set(t.half_v[id])), hn::Mul(value, set(s.tone[id])), best);
}

// Lanes that share a cell of the grid go through its candidates together, in the candidates' order.
void stamped(const StripCall& c) {
  const auto& s = static_cast<const Stamps&>(*c.resource);
  const LaidUnits& t = s.units;
  const D d;
  const DI di;
  const V grid = set(static_cast<float>(t.grid));
  const I most = hn::Set(di, t.grid - 1);
  for (size_t i = 0; i < c.padded; i += hn::Lanes(d)) {
    V u = hn::Load(d, c.source[0] + i * c.stride[0]), v = hn::Load(d, c.source[1] + i * c.stride[1]);
    u = hn::Sub(u, hn::Floor(u));
    v = hn::Sub(v, hn::Floor(v));
    const V fine = hn::Log2(d, hn::Max(hn::Load(d, c.source[2] + i * c.stride[2]), set(1e-12f)));
    const I cu = hn::Min(hn::ConvertTo(di, hn::Mul(u, grid)), most),
            cv = hn::Min(hn::ConvertTo(di, hn::Mul(v, grid)), most);
    const I cells = hn::Add(hn::Mul(cv, hn::Set(di, t.grid)), cu);
    alignas(64) std::int32_t cell[16];
    hn::Store(cells, di, cell);
    Topmost best{set(-1), hn::Zero(d), hn::Zero(d), set(s.background), hn::Zero(d), hn::Zero(d)};
    for (size_t lane = 0; lane < hn::Lanes(d); ++lane) {
      if (std::find(cell, cell + lane, cell[lane]) != cell + lane) continue;
      const auto here = hn::RebindMask(d, hn::Eq(cells, hn::Set(di, cell[lane])));
      const auto at = static_cast<size_t>(cell[lane]);
      for (auto k = static_cast<size_t>(t.first[at]); k < static_cast<size_t>(t.first[at + 1]); ++k)
        stamp(s, k, here, u, v, fine, best);
    }
    hn::Store(best.unit, d, c.result[0] + i);
    hn::Store(best.x, d, c.result[1] + i);
    hn::Store(best.y, d, c.result[2] + i);
    hn::Store(best.value, d, c.result[3] + i);
  }
}

}  // namespace loom::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace loom {

HWY_EXPORT(laid);
HWY_EXPORT(sample);
HWY_EXPORT(nearest);
HWY_EXPORT(stamped);

namespace {

Reg column(Builder& b, const std::vector<float>& values, Reg unit) {
  auto table = std::make_shared<Column>();
  table->values = values;
  return b.apply(kFetch, {unit}, table, 1)[0];
}

// x and y within a unit turn with it; the signed distance falls by as much as one walks, in whichever direction.
Slopes slope_within(Builder& b, const LaidUnits& units, Reg unit, Slopes u, Slopes v, int result) {
  const Reg c = column(b, units.cosine, unit), s = column(b, units.sine, unit);
  const auto along = [&](Reg du, Reg dv) {
    return result == 1 ? b.sub(b.mul(du, c), b.mul(dv, s)) : b.add(b.mul(du, s), b.mul(dv, c));
  };
  return {along(u.first, v.first), along(u.second, v.second)};
}

// A continuous result beside others that jump: its differences over a footprint.
Slopes differences(Builder& b, const Family& family, std::span<const Reg> sources, const ResourcePtr& table,
                   int result) {
  const auto at = static_cast<std::size_t>(result);
  const auto [uu, uv] = b.slope(sources[0]);
  const auto [vu, vv] = b.slope(sources[1]);
  const Reg here = b.apply(family, sources, table, 4)[at];
  const auto towards = [&](Reg su, Reg sv) {
    std::array<Reg, 3> moved{b.multiply_add(su, b.footprint(), sources[0]),
                             b.multiply_add(sv, b.footprint(), sources[1]), sources[sources.size() - 1]};
    return b.div(b.sub(b.apply(family, {moved.data(), sources.size()}, table, 4)[at], here), b.footprint());
  };
  return {towards(uu, vu), towards(uv, vv)};
}

Slopes slope_of_units(Builder& b, const Family& family, const LaidUnits& units, std::span<const Reg> sources,
                      const ResourcePtr& table, int result) {
  if (result == 3) return differences(b, family, sources, table, result);
  const Reg unit = b.apply(family, sources, table, 4)[0];
  return slope_within(b, units, unit, b.slope(sources[0]), b.slope(sources[1]), result);
}

Slopes slope_of_laid(Builder& b, std::span<const Reg> sources, const ResourcePtr& table, int result) {
  return slope_of_units(b, kLaid, static_cast<const LaidUnits&>(*table), sources, table, result);
}
Slopes slope_of_stamped(Builder& b, std::span<const Reg> sources, const ResourcePtr& table, int result) {
  return slope_of_units(b, kStamped, static_cast<const Stamps&>(*table).units, sources, table, result);
}

// The smaller of the differences to both neighbours, along u and v, in values over the tile's width.
void run_differences(const StripCall& c) {
  const Plane& plane = *static_cast<const Sampled&>(*c.resource).levels[0];
  const int size = plane.size(), x0 = static_cast<int>(c.strip->first_u / c.strip->du),
            y = static_cast<int>(c.strip->v / c.strip->du);
  const float *row = plane.row(y), *above = plane.row(wrap(y - 1, size)), *below = plane.row(wrap(y + 1, size)),
              per_tile = static_cast<float>(size);
  const auto smaller = [](float a, float b) { return std::abs(a) < std::abs(b) ? a : b; };
  for (std::size_t i = 0; i < c.padded; ++i) {
    const int x = wrap(x0 + static_cast<int>(i), size);
    c.result[0][i] = per_tile * smaller(row[wrap(x + 1, size)] - row[x], row[x] - row[wrap(x - 1, size)]);
    c.result[1][i] = per_tile * smaller(below[x] - row[x], row[x] - above[x]);
  }
}

constexpr unsigned kUnit = 1u << 0;  // the unit's index

void run_laid(const StripCall& c) { HWY_DYNAMIC_DISPATCH(laid)(c); }
void run_stamped(const StripCall& c) { HWY_DYNAMIC_DISPATCH(stamped)(c); }
void run_sample(const StripCall& c) { HWY_DYNAMIC_DISPATCH(sample)(c); }
void run_nearest(const StripCall& c) { HWY_DYNAMIC_DISPATCH(nearest)(c); }

}  // namespace

const Family kLaid{"laid", run_laid, 2, kUnit, slope_of_laid};
const Family kStamped{"stamped", run_stamped, 2, kUnit, slope_of_stamped};
const Family kSample{"sample", run_sample, 2};
const Family kNearest{"nearest", run_nearest, 0, 1};
const Family kDifferences{"differences", run_differences, 0, 3};

}  // namespace loom
#endif
