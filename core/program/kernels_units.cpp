// Kernels that find laid units and stamps at any position, and that sample planes.
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/program/kernels_units.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include <cmath>

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

// Signed distance to a rounded box. Source: the exact box distance of Hart, "Sphere tracing", The Visual Computer 12, 1996.
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

struct Nearest { V distance, unit, x, y; };

HWY_INLINE void consider(const LaidUnits& t, size_t k, V u, V v, Nearest& best) {
  const auto id = static_cast<size_t>(t.unit[k]);
  const V du = hn::Sub(u, set(t.at_u[k])), dv = hn::Sub(v, set(t.at_v[k])), cosine = set(t.cosine[id]), sine = set(t.sine[id]);
  const V x = hn::Sub(hn::Mul(du, cosine), hn::Mul(dv, sine)), y = hn::MulAdd(du, sine, hn::Mul(dv, cosine));
  const bool box = t.outline_first.empty() || t.outline_first[id] == t.outline_first[id + 1];
  const V distance = box ? box_distance(x, y, set(t.half_u[id]), set(t.half_v[id]), set(t.radius[id]))
                         : outline_distance(t, static_cast<size_t>(t.outline_first[id]), static_cast<size_t>(t.outline_first[id + 1]), x, y, set(t.radius[id]));
  const auto closer = hn::Lt(distance, best.distance);
  best.distance = hn::Min(distance, best.distance);
  best.unit = hn::IfThenElse(closer, set(static_cast<float>(id)), best.unit);
  best.x = hn::IfThenElse(closer, x, best.x);
  best.y = hn::IfThenElse(closer, y, best.y);
}

// A vector's lanes mostly share a cell of the grid, or a few along a row: their candidates are tried on all lanes at once.
// A candidate that belongs to another lane's cell does no harm: the nearest wins.
void laid(const StripCall& c) {
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
    const I cu = hn::Min(hn::ConvertTo(di, hn::Mul(u, grid)), most), cv = hn::Min(hn::ConvertTo(di, hn::Mul(v, grid)), most);
    alignas(64) std::int32_t cells[16];
    hn::Store(hn::Add(hn::Mul(cv, hn::Set(di, t.grid)), cu), di, cells);
    Nearest best{set(1e9f), set(-1), hn::Zero(d), hn::Zero(d)};
    // Cells in the order of the lanes, each once in a row: the result does not depend on how wide a vector is.
    for (size_t lane = 0; lane < n; ++lane) {
      if (lane > 0 && cells[lane] == cells[lane - 1]) continue;
      const auto cell = static_cast<size_t>(cells[lane]);
      for (auto k = static_cast<size_t>(t.first[cell]); k < static_cast<size_t>(t.first[cell + 1]); ++k) consider(t, k, u, v, best);
    }
    hn::Store(best.unit, d, c.result[0] + i);
    hn::Store(best.x, d, c.result[1] + i);
    hn::Store(best.y, d, c.result[2] + i);
    hn::Store(hn::Min(best.distance, set(1)), d, c.result[3] + i);
  }
}

// Bilinear on the torus at (u, v); wrapped where a pair crosses the edge.
HWY_INLINE V bilinear(const Plane& plane, V u, V v) {
  const D d;
  const DI di;
  const int size = plane.size();
  const I mask = hn::Set(di, size - 1);
  const V x = hn::Sub(hn::Mul(hn::Sub(u, hn::Floor(u)), set(static_cast<float>(size))), set(0.5f));
  const V y = hn::Sub(hn::Mul(hn::Sub(v, hn::Floor(v)), set(static_cast<float>(size))), set(0.5f));
  const V fx = hn::Floor(x), fy = hn::Floor(y);
  const V tx = hn::Sub(x, fx), ty = hn::Sub(y, fy);
  const I one = hn::Set(di, 1);
  const I x0 = hn::And(hn::ConvertTo(di, fx), mask), x1 = hn::And(hn::Add(x0, one), mask);
  const I y0 = hn::Mul(hn::And(hn::ConvertTo(di, fy), mask), hn::Set(di, size));
  const I y1 = hn::Mul(hn::And(hn::Add(hn::ConvertTo(di, fy), one), mask), hn::Set(di, size));
  const float* p = plane.data();
  const V a = hn::GatherIndex(d, p, hn::Add(y0, x0)), b = hn::GatherIndex(d, p, hn::Add(y0, x1));
  const V e = hn::GatherIndex(d, p, hn::Add(y1, x0)), f = hn::GatherIndex(d, p, hn::Add(y1, x1));
  const V top = hn::MulAdd(hn::Sub(b, a), tx, a), bottom = hn::MulAdd(hn::Sub(f, e), tx, e);
  return hn::MulAdd(hn::Sub(bottom, top), ty, top);
}

// The two levels about the footprint, mixed. A vector whose lanes agree on a level, as most do, reads only those two.
void sample(const StripCall& c) {
  const auto& levels = static_cast<const Sampled&>(*c.resource).levels;
  const D d;
  const int top = static_cast<int>(levels.size()) - 1;
  const float size = static_cast<float>(levels[0]->size());
  for (size_t i = 0; i < c.padded; i += hn::Lanes(d)) {
    const V u = hn::Load(d, c.source[0] + i * c.stride[0]), v = hn::Load(d, c.source[1] + i * c.stride[1]);
    alignas(64) float footprint[16];
    hn::Store(hn::Load(d, c.source[2] + i * c.stride[2]), d, footprint);
    V sum = hn::Zero(d);
    alignas(64) float weight[16];
    int least = top, most = 0;
    float level[16];
    for (size_t k = 0; k < hn::Lanes(d); ++k) {
      const float wide = footprint[k] * size;
      level[k] = wide > 1.01f ? std::min(std::log2(wide), static_cast<float>(top)) : 0;
      least = std::min(least, static_cast<int>(level[k]));
      most = std::max(most, static_cast<int>(std::ceil(level[k])));
    }
    for (int l = least; l <= most; ++l) {
      for (size_t k = 0; k < hn::Lanes(d); ++k) weight[k] = std::max(0.0f, 1 - std::abs(level[k] - static_cast<float>(l)));
      sum = hn::MulAdd(hn::Load(d, weight), bilinear(*levels[static_cast<size_t>(l)], u, v), sum);
    }
    hn::Store(sum, d, c.result[0] + i);
  }
}

}  // namespace loom::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace loom {

HWY_EXPORT(laid);
HWY_EXPORT(sample);

namespace {

// A motif's value at its own coordinates 0..1: no wrapping, its border texels reach half a texel out.
float motif_at(const Plane& p, float x, float y) {
  const float size = static_cast<float>(p.size());
  const float fx = std::clamp(x * size - 0.5f, 0.0f, size - 1), fy = std::clamp(y * size - 0.5f, 0.0f, size - 1);
  const int x0 = static_cast<int>(fx), y0 = static_cast<int>(fy);
  const int x1 = std::min(x0 + 1, p.size() - 1), y1 = std::min(y0 + 1, p.size() - 1);
  const float tx = fx - static_cast<float>(x0), ty = fy - static_cast<float>(y0);
  const float* a = p.row(y0);
  const float* b = p.row(y1);
  const float above = a[x0] + (a[x1] - a[x0]) * tx, below = b[x0] + (b[x1] - b[x0]) * tx;
  return above + (below - above) * ty;
}

float motif_value(const std::vector<PlanePtr>& levels, float x, float y, float wide) {
  const float top = static_cast<float>(levels.size() - 1);
  // A little finer than the sample is wide: bilinear reading widens an edge by a texel of its own.
  const float level = 0.7f * wide > 1 ? std::min(std::log2(0.7f * wide), top) : 0;
  const auto low = static_cast<std::size_t>(level);
  const float t = level - static_cast<float>(low);
  const float a = motif_at(*levels[low], x, y);
  return t > 0 ? a + (motif_at(*levels[low + 1], x, y) - a) * t : a;
}

struct Found { float unit, x, y, value; };

Found stamp_at(const Stamps& s, float u, float v, float footprint) {
  const LaidUnits& t = s.units;
  u -= std::floor(u);
  v -= std::floor(v);
  const int cu = std::min(static_cast<int>(u * static_cast<float>(t.grid)), t.grid - 1);
  const int cv = std::min(static_cast<int>(v * static_cast<float>(t.grid)), t.grid - 1);
  const auto cell = static_cast<std::size_t>(cv) * static_cast<std::size_t>(t.grid) + static_cast<std::size_t>(cu);
  Found best{-1, 0, 0, s.background};
  bool any = false;
  for (auto k = static_cast<std::size_t>(t.first[cell]); k < static_cast<std::size_t>(t.first[cell + 1]); ++k) {
    const auto id = static_cast<std::size_t>(t.unit[k]);
    const float du = u - t.at_u[k], dv = v - t.at_v[k];
    const float x = (du * t.cosine[id] - dv * t.sine[id]) / t.half_u[id], y = (du * t.sine[id] + dv * t.cosine[id]) / t.half_v[id];
    if (std::abs(x) > 1 || std::abs(y) > 1) continue;
    const auto& motif = s.motifs[static_cast<std::size_t>(s.motif[id])];
    const float texels = footprint * 0.5f / std::min(t.half_u[id], t.half_v[id]) * static_cast<float>(motif[0]->size());
    const float value = motif_value(motif, 0.5f * x + 0.5f, 0.5f * y + 0.5f, texels) * s.tone[id];
    // A stamp is under the sample where its motif itself is more than nothing there, however coarse the level that is read.
    const bool under = motif_at(*motif[0], 0.5f * x + 0.5f, 0.5f * y + 0.5f) > 0.004f;
    Found here{static_cast<float>(id), x * t.half_u[id], y * t.half_v[id], value};
    if (!under) here = {best.unit, best.x, best.y, value};
    switch (s.overlap) {
      case Overlap::highest: if (value > best.value) best = here; break;
      case Overlap::lowest: if (!any ? value != 0 : value < best.value && value != 0) best = here, any = true; break;
      case Overlap::newest: if (value > 0) best = here; break;
      case Overlap::summed: {
        const float sum = best.value + value;
        if (value > 0) best = here;
        best.value = sum;
        break;
      }
    }
  }
  return best;
}

void stamped(const StripCall& c) {
  const auto& s = static_cast<const Stamps&>(*c.resource);
  for (std::size_t i = 0; i < c.padded; ++i) {
    const Found f = stamp_at(s, c.source[0][i * c.stride[0]], c.source[1][i * c.stride[1]], c.source[2][i * c.stride[2]]);
    c.result[0][i] = f.unit;
    c.result[1][i] = f.x;
    c.result[2][i] = f.y;
    c.result[3][i] = f.value;
  }
}

}  // namespace

void run_units(const StripCall& call) {
  if (call.step->op == Op::laid) HWY_DYNAMIC_DISPATCH(laid)(call);
  else stamped(call);
}
void run_sample(const StripCall& call) { HWY_DYNAMIC_DISPATCH(sample)(call); }

}  // namespace loom
#endif
