// Kernels for gradient and cellular noise on a lattice that closes on the torus.
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/program/kernels_noise.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include <cmath>
#include <utility>
#include <vector>

#include "core/base/hash.h"
#include "core/program/kernels.h"
#include "core/program/resources.h"

HWY_BEFORE_NAMESPACE();
namespace loom::HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;
using D = hn::ScalableTag<float>;
using V = hn::Vec<D>;
using DI = hn::RebindToSigned<D>;
using DU = hn::RebindToUnsigned<D>;
using I = hn::Vec<DI>;

HWY_INLINE V set(float x) { return hn::Set(D(), x); }

HWY_INLINE hn::Vec<DU> pcg_lanes(hn::Vec<DU> v) {
  const DU d;
  const auto state = hn::Add(hn::Mul(v, hn::Set(d, 747796405u)), hn::Set(d, 2891336453u));
  const auto word = hn::Mul(hn::Xor(hn::Shr(state, hn::Add(hn::ShiftRight<28>(state), hn::Set(d, 4u))), state),
                            hn::Set(d, 277803737u));
  return hn::Xor(hn::ShiftRight<22>(word), word);
}

// The whole number x wrapped into 0..period-1; x is a floored float, exact below 2^24.
HWY_INLINE V wrapped(V x, float period) {
  const V q = hn::Floor(hn::Mul(x, set(1.0f / period)));
  V r = hn::Sub(x, hn::Mul(q, set(period)));
  r = hn::IfThenElse(hn::Lt(r, hn::Zero(D())), hn::Add(r, set(period)), r);
  return hn::IfThenElse(hn::Ge(r, set(period)), hn::Sub(r, set(period)), r);
}

// The whole number after x, both within 0..period-1.
HWY_INLINE V after(V x, float period) {
  const V next = hn::Add(x, set(1));
  return hn::IfThenElse(hn::Ge(next, set(period)), hn::Zero(D()), next);
}

// Quintic fade. Source: Perlin, "Improving Noise", SIGGRAPH 2002.
HWY_INLINE V fade(V t) {
  const V inner = hn::MulAdd(t, hn::MulAdd(t, set(6), set(-15)), set(10));
  return hn::Mul(hn::Mul(hn::Mul(t, t), t), inner);
}
inline float fade1(float t) { return t * t * t * (t * (t * 6 - 15) + 10); }

// An octave whose cells are finer than two samples is gone; it is whole from four on.
HWY_INLINE V octave_weight(V footprint, const NoiseTable::Octave& o) {
  const float period = static_cast<float>(o.period_u > o.period_v ? o.period_u : o.period_v);
  const V cell = hn::Div(set(1.0f / period), hn::Max(footprint, set(1e-9f)));  // in samples
  const V t = hn::Min(hn::Max(hn::Mul(hn::Sub(cell, set(2)), set(0.5f)), hn::Zero(D())), set(1));
  return hn::Mul(hn::Mul(t, t), hn::Sub(set(3), hn::Add(t, t)));
}

HWY_INLINE V corner(const NoiseTable& table, const NoiseTable::Octave& o, V ix, V iy, V dx, V dy) {
  const DU du;
  const DI di;
  const auto x = hn::BitCast(du, hn::ConvertTo(di, ix));
  const auto y = hn::BitCast(du, hn::ConvertTo(di, iy));
  const auto h = pcg_lanes(hn::Add(pcg_lanes(hn::Add(x, hn::Set(du, o.seed))), y));
  const auto g = hn::BitCast(di, hn::ShiftRight<26>(h));
  const V gu = hn::GatherIndex(D(), table.gradient_u.data(), g);
  const V gv = hn::GatherIndex(D(), table.gradient_v.data(), g);
  return hn::MulAdd(gu, dx, hn::Mul(gv, dy));
}

// A chance height -1..1 from a hash. With a drift it swings up and down once a round, half of them the other way: their
// mean stays.
HWY_INLINE V height_of(hn::Vec<DU> hash, float drift) {
  const DU du;
  const DI di;
  const V h = hn::Mul(hn::ConvertTo(D(), hn::BitCast(di, hn::ShiftRight<8>(hash))), set(1.0f / 16777216.0f));
  if (drift == 0) return hn::MulAdd(h, set(2), set(-1));
  const auto upward = hn::Eq(hn::ConvertTo(D(), hn::BitCast(di, hn::And(hash, hn::Set(du, 1u)))), set(1));
  const V phase = hn::Add(hn::IfThenElse(upward, hn::Mul(h, set(0.5f)), hn::Mul(h, set(-0.5f))), set(drift));
  const V t = hn::Sub(phase, hn::Floor(phase));
  return hn::Sub(set(1), hn::Abs(hn::MulAdd(t, set(4), set(-2))));
}

HWY_INLINE hn::Vec<DU> hash_at(const NoiseTable::Octave& o, V ix, V iy) {
  const DU du;
  const DI di;
  const auto x = hn::BitCast(du, hn::ConvertTo(di, ix)), y = hn::BitCast(du, hn::ConvertTo(di, iy));
  return pcg_lanes(hn::Add(pcg_lanes(hn::Add(x, hn::Set(du, o.seed))), y));
}
HWY_INLINE V height_at(const NoiseTable& table, const NoiseTable::Octave& o, V ix, V iy) {
  return height_of(hash_at(o, ix, iy), table.drift);
}

HWY_INLINE V octave_at(const NoiseTable& table, const NoiseTable::Octave& o, V u, V v) {
  const float pu = static_cast<float>(o.period_u), pv = static_cast<float>(o.period_v);
  const V x = hn::Mul(u, set(pu)), y = hn::Mul(v, set(pv));
  const V fx = hn::Floor(x), fy = hn::Floor(y);
  const V tx = hn::Sub(x, fx), ty = hn::Sub(y, fy);
  const V x0 = wrapped(fx, pu), y0 = wrapped(fy, pv);
  const V one = set(1);
  const V x1 = after(x0, pu), y1 = after(y0, pv);
  if (table.basis != NoiseTable::Basis::gradient) {
    const V a = height_at(table, o, x0, y0), b = height_at(table, o, x1, y0), c = height_at(table, o, x0, y1),
            d = height_at(table, o, x1, y1);
    if (table.basis == NoiseTable::Basis::facet) {  // two flat triangles a cell
      const V upper = hn::MulAdd(hn::Sub(b, a), tx, hn::MulAdd(hn::Sub(d, b), ty, a));
      const V lower = hn::MulAdd(hn::Sub(c, a), ty, hn::MulAdd(hn::Sub(d, c), tx, a));
      return hn::IfThenElse(hn::Gt(tx, ty), upper, lower);
    }
    const V sx = fade(tx), top = hn::MulAdd(hn::Sub(b, a), sx, a), bottom = hn::MulAdd(hn::Sub(d, c), sx, c);
    return hn::MulAdd(hn::Sub(bottom, top), fade(ty), top);
  }
  const V a = corner(table, o, x0, y0, tx, ty), b = corner(table, o, x1, y0, hn::Sub(tx, one), ty);
  const V c = corner(table, o, x0, y1, tx, hn::Sub(ty, one)),
          d = corner(table, o, x1, y1, hn::Sub(tx, one), hn::Sub(ty, one));
  const V sx = fade(tx), sy = fade(ty);
  const V top = hn::MulAdd(hn::Sub(b, a), sx, a), bottom = hn::MulAdd(hn::Sub(d, c), sx, c);
  return hn::MulAdd(hn::Sub(bottom, top), sy, top);
}

// ---- solid: the same in space, whole periods in a unit cube ----

// Gradients are the twelve edges of a cube, by the four highest bits of the hash. Source: Perlin, "Improving Noise",
// SIGGRAPH 2002.
HWY_INLINE V slope_in_space(hn::Vec<DU> hash, V dx, V dy, V dz) {
  const D d;
  const DU du;
  const auto bits = [&](std::uint32_t some) HWY_ATTR { return hn::And(hash, hn::Set(du, some)); };
  const auto below_4 = hn::RebindMask(d, hn::Eq(bits(0xc0000000u), hn::Zero(du)));
  const auto is_12_or_14 = hn::RebindMask(d, hn::Eq(bits(0xd0000000u), hn::Set(du, 0xc0000000u)));
  const auto below_8 = hn::RebindMask(d, hn::Eq(bits(0x80000000u), hn::Zero(du)));
  const V a = hn::IfThenElse(below_8, dx, dy);
  const V b = hn::IfThenElse(below_4, dy, hn::IfThenElse(is_12_or_14, dx, dz));
  const auto sign_a = hn::ShiftLeft<3>(bits(0x10000000u)), sign_b = hn::ShiftLeft<2>(bits(0x20000000u));
  return hn::Add(hn::Xor(a, hn::BitCast(d, sign_a)), hn::Xor(b, hn::BitCast(d, sign_b)));
}

struct Place3 {
  V x, y, z;
};

// The drift of gradients in space carries the third place round with it, so that one whole drift closes.
HWY_INLINE V octave_in_space(const NoiseTable& table, const NoiseTable::Octave& o, const Place3& p) {
  const DU du;
  const DI di;
  const float pu = static_cast<float>(o.period_u), pv = static_cast<float>(o.period_v);
  const V x = hn::Mul(p.x, set(pu)), y = hn::Mul(p.y, set(pv));
  const V z = hn::MulAdd(p.z, set(pu), set(table.basis == NoiseTable::Basis::gradient ? table.drift * pu : 0.0f));
  const V fx = hn::Floor(x), fy = hn::Floor(y), fz = hn::Floor(z), tx = hn::Sub(x, fx), ty = hn::Sub(y, fy),
          tz = hn::Sub(z, fz), one = set(1);
  const V x0 = wrapped(fx, pu), y0 = wrapped(fy, pv), z0 = wrapped(fz, pu);
  const V xs[2] = {x0, after(x0, pu)}, ys[2] = {y0, after(y0, pv)}, zs[2] = {z0, after(z0, pu)};
  const hn::Vec<DU> columns[4] = {hash_at(o, xs[0], ys[0]), hash_at(o, xs[1], ys[0]), hash_at(o, xs[0], ys[1]),
                                  hash_at(o, xs[1], ys[1])};
  V at[8];
  for (int k = 0; k < 8; ++k) {
    const auto zi = hn::BitCast(du, hn::ConvertTo(di, zs[k >> 2]));
    const auto hash = pcg_lanes(hn::Add(columns[k & 3], zi));
    at[k] = table.basis == NoiseTable::Basis::gradient
                ? slope_in_space(hash, k & 1 ? hn::Sub(tx, one) : tx, k >> 1 & 1 ? hn::Sub(ty, one) : ty,
                                 k >> 2 ? hn::Sub(tz, one) : tz)
                : height_of(hash, table.drift);
  }
  if (table.basis == NoiseTable::Basis::facet) {
    // Six tetrahedra a cube (Kuhn, 1960): from corner 0 along the largest place first. Corner numbers add up as they
    // go.
    const auto xy = hn::Ge(tx, ty), yz = hn::Ge(ty, tz), xz = hn::Ge(tx, tz);
    const V most = hn::Max(tx, hn::Max(ty, tz)), least = hn::Min(tx, hn::Min(ty, tz));
    const V middle = hn::Sub(hn::Add(tx, hn::Add(ty, tz)), hn::Add(most, least));
    const V first = hn::IfThenElse(hn::And(xy, xz), at[1], hn::IfThenElse(yz, at[2], at[4]));
    const V last = hn::IfThenElse(hn::And(yz, xz), at[3], hn::IfThenElse(xy, at[5], at[6]));  // all but the least
    V sum = hn::MulAdd(at[0], hn::Sub(one, most), hn::Mul(first, hn::Sub(most, middle)));
    sum = hn::MulAdd(last, hn::Sub(middle, least), sum);
    return hn::MulAdd(at[7], least, sum);
  }
  const V sx = fade(tx), sy = fade(ty), sz = fade(tz);
  V row[4];
  for (int k = 0; k < 4; ++k) row[k] = hn::MulAdd(hn::Sub(at[2 * k + 1], at[2 * k]), sx, at[2 * k]);
  const V near = hn::MulAdd(hn::Sub(row[1], row[0]), sy, row[0]), far = hn::MulAdd(hn::Sub(row[3], row[2]), sy, row[2]);
  return hn::MulAdd(hn::Sub(far, near), sz, near);
}

// Folded sums. Source: Musgrave in Ebert et al., "Texturing and Modeling", chapter 16 (offsets 1 and 0.7); the result
// is brought to 0..1 by the sum of the amplitudes and given back as -1..1.
template <class Octave>
HWY_INLINE V folded_sum(const NoiseTable& table, V footprint, const Octave& octave) {
  const bool gradient = table.basis == NoiseTable::Basis::gradient;
  const V one = set(1), zero = hn::Zero(D());
  V sum = zero, carried = one;
  float all = 0;
  for (const auto& o : table.octaves) {
    const V weight = octave_weight(footprint, o);
    const V n = hn::Min(hn::Max(hn::Mul(octave(o), set(gradient ? 1.35f : 1.0f)), set(-1)), one);
    V signal = zero;
    if (table.sum == NoiseTable::Sum::billowed) signal = hn::Abs(n);
    if (table.sum == NoiseTable::Sum::ridged) {
      const V ridge = hn::Sub(one, hn::Abs(n));
      signal = hn::Mul(hn::Mul(ridge, ridge), carried);
      carried = hn::Min(hn::Max(hn::Mul(signal, set(2)), zero), one);
    }
    if (table.sum == NoiseTable::Sum::hybrid) {
      signal = hn::Mul(hn::Mul(hn::Add(n, set(0.7f)), set(1 / 1.7f)), carried);
      carried = hn::Min(hn::Max(hn::Mul(carried, hn::Add(n, set(0.7f))), zero), one);
    }
    sum = hn::MulAdd(hn::Mul(signal, weight), set(o.amplitude), sum);
    all += o.amplitude;
  }
  return hn::MulAdd(sum, set(2 / std::max(all, 1e-6f)), set(-1));
}

template <class Octave>
HWY_INLINE V octave_sum(const NoiseTable& table, V footprint, const Octave& octave) {
  if (table.sum != NoiseTable::Sum::plain) return folded_sum(table, footprint, octave);
  const D d;
  V sum = hn::Zero(d);
  for (const auto& o : table.octaves) {
    const V weight = octave_weight(footprint, o);
    if (hn::AllTrue(d, hn::Eq(weight, hn::Zero(d)))) continue;
    sum = hn::MulAdd(octave(o), hn::Mul(weight, set(o.amplitude)), sum);
  }
  return hn::Mul(sum, set(table.norm));
}

void noise_general(const StripCall& c) {
  const auto& table = static_cast<const NoiseTable&>(*c.resource);
  const D d;
  for (size_t i = 0; i < c.padded; i += hn::Lanes(d)) {
    const V u = hn::Load(d, c.source[0] + i * c.stride[0]), v = hn::Load(d, c.source[1] + i * c.stride[1]);
    const V footprint = hn::Load(d, c.source[2] + i * c.stride[2]);
    hn::Store(
        octave_sum(table, footprint, [&](const NoiseTable::Octave& o) HWY_ATTR { return octave_at(table, o, u, v); }),
        d, c.result[0] + i);
  }
}

void solid_noise(const StripCall& c) {
  const auto& table = static_cast<const NoiseTable&>(*c.resource);
  const D d;
  for (size_t i = 0; i < c.padded; i += hn::Lanes(d)) {
    const Place3 p{hn::Load(d, c.source[0] + i * c.stride[0]), hn::Load(d, c.source[1] + i * c.stride[1]),
                   hn::Load(d, c.source[2] + i * c.stride[2])};
    const V footprint = hn::Load(d, c.source[3] + i * c.stride[3]);
    hn::Store(octave_sum(table, footprint,
                         [&](const NoiseTable::Octave& o) HWY_ATTR { return octave_in_space(table, o, p); }),
              d, c.result[0] + i);
  }
}

// The strip's row crosses each lattice column once: blend its two gradients along v there, and only there.
// A column then is P * dx + Q, and a sample blends two columns.
constexpr size_t kMostColumns = kStrip + 64;

HWY_INLINE float gradient_blend(const NoiseTable& t, const NoiseTable::Octave& o, int x, int y0, int y1, float ty,
                                float sy, float& q) {
  const std::uint32_t hx = pcg(static_cast<std::uint32_t>(x) + o.seed);
  const std::uint32_t g0 = pcg(hx + static_cast<std::uint32_t>(y0)) >> 26,
                      g1 = pcg(hx + static_cast<std::uint32_t>(y1)) >> 26;
  const float q0 = t.gradient_v[g0] * ty, q1 = t.gradient_v[g1] * (ty - 1);
  q = q0 + sy * (q1 - q0);
  return t.gradient_u[g0] + sy * (t.gradient_u[g1] - t.gradient_u[g0]);
}

void octave_row(const StripCall& c, const NoiseTable& table, const NoiseTable::Octave& o, float weight) {
  alignas(64) float p[kMostColumns] = {}, q[kMostColumns] = {};
  const D d;
  [[maybe_unused]] const DI di;
  const float pu = static_cast<float>(o.period_u), pv = static_cast<float>(o.period_v);
  const float y = c.strip->v * pv, fy = std::floor(y), ty = y - fy, sy = fade1(ty);
  const int y0 = ((static_cast<int>(fy) % o.period_v) + o.period_v) % o.period_v, y1 = (y0 + 1) % o.period_v;
  const int x_first = static_cast<int>(std::floor(c.strip->first_u * pu));
  const int x_last =
      static_cast<int>(std::floor((c.strip->first_u + c.strip->du * static_cast<float>(c.padded)) * pu)) + 2;
  for (int x = x_first; x <= x_last; ++x)
    p[x - x_first] = gradient_blend(table, o, x % o.period_u, y0, y1, ty, sy, q[x - x_first]);
  const V gain = set(o.amplitude * weight);
  for (size_t i = 0; i < c.padded; i += hn::Lanes(d)) {
    const V x = hn::Mul(hn::Load(d, c.source[0] + i), set(pu));
    const V fx = hn::Floor(x), tx = hn::Sub(x, fx);
    // Cells are at least two samples wide (finer octaves have no weight), so a vector's columns fit into one vector and
    // are picked by a permutation: gathers are several times slower.
    const float first = hn::GetLane(fx);
    const int offset = static_cast<int>(first) - x_first;
#if HWY_TARGET == HWY_SCALAR
    const V left = hn::MulAdd(set(p[offset]), tx, set(q[offset]));
    const V right = hn::MulAdd(set(p[offset + 1]), hn::Sub(tx, set(1)), set(q[offset + 1]));
#else
    const I at = hn::ConvertTo(di, hn::Sub(fx, set(first)));
    const auto here = hn::IndicesFromVec(d, at), next = hn::IndicesFromVec(d, hn::Add(at, hn::Set(di, 1)));
    const V columns_p = hn::LoadU(d, p + offset), columns_q = hn::LoadU(d, q + offset);
    const V left = hn::MulAdd(hn::TableLookupLanes(columns_p, here), tx, hn::TableLookupLanes(columns_q, here));
    const V right =
        hn::MulAdd(hn::TableLookupLanes(columns_p, next), hn::Sub(tx, set(1)), hn::TableLookupLanes(columns_q, next));
#endif
    const V n = hn::MulAdd(hn::Sub(right, left), fade(tx), left);
    hn::Store(hn::MulAdd(n, gain, hn::Load(d, c.result[0] + i)), d, c.result[0] + i);
  }
}

void noise_on_rows(const StripCall& c) {
  const auto& table = static_cast<const NoiseTable&>(*c.resource);
  const D d;
  for (size_t i = 0; i < c.padded; i += hn::Lanes(d)) hn::Store(hn::Zero(d), d, c.result[0] + i);
  for (const auto& o : table.octaves) {
    const float weight = hn::GetLane(octave_weight(hn::Set(d, c.source[2][0]), o));
    if (weight > 0) octave_row(c, table, o, weight);
  }
  for (size_t i = 0; i < c.padded; i += hn::Lanes(d))
    hn::Store(hn::Mul(hn::Load(d, c.result[0] + i), set(table.norm)), d, c.result[0] + i);
}

// ---- speckle ----

// cos of x turns, to 1e-4: what a sum of dozens of impulses asks for. The series of the cosine over half a turn.
HWY_INLINE V cosine_of_turns(V x) {
  const V t = hn::Sub(x, hn::Floor(hn::Add(x, set(0.5f)))), q = hn::Mul(t, t);
  V p = hn::MulAdd(q, set(7.9035364f), set(-26.4262568f));
  for (const float c : {60.2446414f, -85.4568172f, 64.9393940f, -19.7392088f, 1.0f}) p = hn::MulAdd(p, q, set(c));
  return p;
}

// Waves shorter than two samples fade out, whole from four on. `highest` in turns a tile.
HWY_INLINE V fading(float highest, V footprint) {
  const D d;
  const V samples = hn::Div(set(1 / std::max(highest, 1e-6f)), hn::Max(footprint, set(1e-9f)));
  return hn::Min(hn::Max(hn::Mul(hn::Sub(samples, set(2)), set(0.5f)), hn::Zero(d)), set(1));
}

// Every impulse in the three by three cells about a sample, under the window (1 - r^2)^3 with a radius of one cell.
// Source: sparse convolution with Gabor kernels (Lagae et al., SIGGRAPH 2009); the window stands for their Gaussian.
void speckle(const StripCall& c) {
  const auto& t = static_cast<const SpeckleTable&>(*c.resource);
  const D d;
  const size_t n = hn::Lanes(d);
  const float nu = static_cast<float>(t.cells_u), nv = static_cast<float>(t.cells_v);
  for (size_t i = 0; i < c.padded; i += n) {
    const V u = hn::Load(d, c.source[0] + i * c.stride[0]), v = hn::Load(d, c.source[1] + i * c.stride[1]);
    const V x = hn::Mul(hn::Sub(u, hn::Floor(u)), set(nu)), y = hn::Mul(hn::Sub(v, hn::Floor(v)), set(nv));
    const V cx = hn::Min(hn::Floor(x), set(nu - 1)), cy = hn::Min(hn::Floor(y), set(nv - 1));
    alignas(64) float column[16], row[16];
    hn::Store(cx, d, column);
    hn::Store(cy, d, row);
    V sum = hn::Zero(d);
    for (size_t lane = 0; lane < n; ++lane) {
      bool seen = false;  // lanes of one cell are served together
      for (size_t k = 0; k < lane && !seen; ++k) seen = column[k] == column[lane] && row[k] == row[lane];
      if (seen) continue;
      const auto here = hn::And(hn::Eq(cx, set(column[lane])), hn::Eq(cy, set(row[lane])));
      V part = hn::Zero(d);
      for (int j = -1; j <= 1; ++j)
        for (int k = -1; k <= 1; ++k) {
          const int gx = static_cast<int>(column[lane]) + k, gy = static_cast<int>(row[lane]) + j;
          const int wx = (gx + t.cells_u) % t.cells_u, wy = (gy + t.cells_v) % t.cells_v;
          const auto from = static_cast<size_t>((wy * t.cells_u + wx) * t.impulses);
          for (size_t m = from; m < from + static_cast<size_t>(t.impulses); ++m) {
            const V dx = hn::Sub(x, set(static_cast<float>(gx) + t.x[m])),
                    dy = hn::Sub(y, set(static_cast<float>(gy) + t.y[m]));
            const V window = hn::Max(hn::Sub(set(1), hn::MulAdd(dx, dx, hn::Mul(dy, dy))), hn::Zero(d));
            const V wave =
                cosine_of_turns(hn::MulAdd(dx, set(t.wave_x[m]), hn::MulAdd(dy, set(t.wave_y[m]), set(t.phase[m]))));
            part = hn::MulAdd(hn::Mul(hn::Mul(window, window), window), hn::Mul(wave, set(t.weight[m])), part);
          }
        }
      sum = hn::IfThenElse(here, part, sum);
    }
    hn::Store(hn::Mul(hn::Mul(sum, fading(t.highest, hn::Load(d, c.source[2] + i * c.stride[2]))), set(t.norm)), d,
              c.result[0] + i);
  }
}

// What the cells about one hold, drawn from their hashes; a sample beside the last one finds it again. `from` to `to`:
// the cells' offsets, along every axis. `draw(hash, dx, dy, dz, all)` adds what the cell at that offset holds.
template <class Item, class Draw>
class CellsInSpace {
 public:
  CellsInSpace(std::uint32_t seed, int period_u, int period_v, Draw draw, int from, int to)
      : seed_(seed), period_u_(period_u), period_v_(period_v), from_(from), to_(to), draw_(std::move(draw)) {}
  const std::vector<Item>& about(float x, float y, float z) {
    if (known_ && x == x_ && y == y_ && z == z_) return all_;
    known_ = true, x_ = x, y_ = y, z_ = z;
    all_.clear();
    for (int dz = from_; dz <= to_; ++dz)
      for (int dy = from_; dy <= to_; ++dy)
        for (int dx = from_; dx <= to_; ++dx)
          draw_(pcg(whole(z, dz, period_u_) + pcg(whole(y, dy, period_v_) + pcg(whole(x, dx, period_u_) + seed_))),
                static_cast<float>(dx), static_cast<float>(dy), static_cast<float>(dz), all_);
    return all_;
  }

 private:
  static std::uint32_t whole(float at, int d, int n) {
    return static_cast<std::uint32_t>((((std::abs(at) < 1e9f ? static_cast<int>(at) : 0) + d) % n + n) % n);
  }
  std::uint32_t seed_;
  int period_u_, period_v_, from_, to_;
  Draw draw_;
  bool known_ = false;
  float x_ = 0, y_ = 0, z_ = 0;
  std::vector<Item> all_;
};

template <class Item, class Draw>
CellsInSpace<Item, Draw> make_cells(std::uint32_t seed, int period_u, int period_v, Draw draw, int from = -1,
                                    int to = 1) {
  return {seed, period_u, period_v, std::move(draw), from, to};
}

// The next of a cell's draws.
inline float drawn(std::uint32_t& hash) {
  hash = pcg(hash);
  return static_cast<float>(hash >> 8) * (1.0f / 16777216.0f);
}

// A unit direction: all alike without spread, in the plane of x and y; a full spread is even over all directions, as
// the height on a ball is.
struct Direction {
  float x, y, z;
};
inline Direction drawn_direction(std::uint32_t& hash, float along, float spread) {
  const float turn = along + spread * 3.14159265f * (2 * drawn(hash) - 1), up = spread * (2 * drawn(hash) - 1),
              level = std::sqrt(1 - up * up);
  return {level * std::cos(turn), -level * std::sin(turn), up};
}

// Calls `each(lane, here)` for one lane of every cell that a vector of samples lies in; `here` are the lanes of the
// same cell.
template <class Each>
HWY_INLINE void each_cell(V cx, V cy, V cz, const Each& each) {
  const D d;
  const size_t n = hn::Lanes(d);
  alignas(64) float column[16], row[16], layer[16];
  hn::Store(cx, d, column);
  hn::Store(cy, d, row);
  hn::Store(cz, d, layer);
  for (size_t lane = 0; lane < n; ++lane) {
    bool seen = false;
    for (size_t k = 0; k < lane && !seen; ++k)
      seen = column[k] == column[lane] && row[k] == row[lane] && layer[k] == layer[lane];
    if (!seen)
      each(column[lane], row[lane], layer[lane],
           hn::And(hn::Eq(cx, set(column[lane])), hn::And(hn::Eq(cy, set(row[lane])), hn::Eq(cz, set(layer[lane])))));
  }
}

void solid_speckle(const StripCall& c) {
  const auto& t = static_cast<const SpeckleTable&>(*c.resource);
  const D d;
  struct Impulse {
    float x, y, z, phase, weight;
    Direction wave;
  };  // places from the middle cell's corner, in cells
  auto cells = make_cells<Impulse>(t.seed, t.cells_u, t.cells_v,
                                   [&t](std::uint32_t hash, float dx, float dy, float dz, std::vector<Impulse>& all) {
                                     for (int m = 0; m < t.impulses; ++m) {
                                       Impulse i{};
                                       i.x = dx + drawn(hash), i.y = dy + drawn(hash), i.z = dz + drawn(hash);
                                       i.wave = drawn_direction(hash, t.along, t.spread);
                                       i.phase = drawn(hash);
                                       i.weight = 2 * drawn(hash) - 1;
                                       all.push_back(i);
                                     }
                                   });
  for (size_t i = 0; i < c.padded; i += hn::Lanes(d)) {
    const auto at = [&](int axis, int count) HWY_ATTR {
      return hn::Mul(hn::Load(d, c.source[axis] + i * c.stride[axis]), set(static_cast<float>(count)));
    };
    const V x = at(0, t.cells_u), y = at(1, t.cells_v), z = at(2, t.cells_u), cx = hn::Floor(x), cy = hn::Floor(y),
            cz = hn::Floor(z);
    const V own_x = hn::Sub(x, cx), own_y = hn::Sub(y, cy), own_z = hn::Sub(z, cz), turns = set(t.frequency);
    V sum = hn::Zero(d);
    each_cell(cx, cy, cz, [&](float column, float row, float layer, hn::Mask<D> here) HWY_ATTR {
      V part = hn::Zero(d);
      for (const Impulse& m : cells.about(column, row, layer)) {
        const V dx = hn::Sub(own_x, set(m.x)), dy = hn::Sub(own_y, set(m.y)), dz = hn::Sub(own_z, set(m.z));
        const V window = hn::Max(hn::Sub(set(1), hn::MulAdd(dx, dx, hn::MulAdd(dy, dy, hn::Mul(dz, dz)))), hn::Zero(d));
        const V way = hn::MulAdd(dx, set(m.wave.x), hn::MulAdd(dy, set(m.wave.y), hn::Mul(dz, set(m.wave.z))));
        part = hn::MulAdd(hn::Mul(hn::Mul(window, window), window),
                          hn::Mul(cosine_of_turns(hn::MulAdd(way, turns, set(m.phase))), set(m.weight)), part);
      }
      sum = hn::IfThenElse(here, part, sum);
    });
    hn::Store(
        hn::Mul(hn::Mul(sum, fading(t.highest, hn::Load(d, c.source[3] + i * c.stride[3]))), set(t.norm_in_space)), d,
        c.result[0] + i);
  }
}

// The distance to a rod is that to its middle line, less half its width: exact. No rod reaches beyond the cells about
// its own.
void solid_fibres(const StripCall& c) {
  const auto& t = static_cast<const FibreTable&>(*c.resource);
  const D d;
  struct Rod {
    float x, y, z, half, tone;
    Direction way;
  };
  auto cells = make_cells<Rod>(
      t.seed, t.cells, t.cells, [&t](std::uint32_t hash, float dx, float dy, float dz, std::vector<Rod>& all) {
        const int count = static_cast<int>(t.rods + drawn(hash));
        for (int m = 0; m < count; ++m) {
          Rod r{};
          r.x = dx + drawn(hash), r.y = dy + drawn(hash), r.z = dz + drawn(hash);
          r.half = std::max(0.0f, t.half_length * (1 - t.length_spread * drawn(hash)) - t.half_width);
          r.way = drawn_direction(hash, t.along, t.spread);
          r.tone = drawn(hash);
          all.push_back(r);
        }
      });
  const float wide = static_cast<float>(t.cells);
  for (size_t i = 0; i < c.padded; i += hn::Lanes(d)) {
    const auto at = [&](int axis)
                        HWY_ATTR { return hn::Mul(hn::Load(d, c.source[axis] + i * c.stride[axis]), set(wide)); };
    const V x = at(0), y = at(1), z = at(2), cx = hn::Floor(x), cy = hn::Floor(y), cz = hn::Floor(z);
    const V own_x = hn::Sub(x, cx), own_y = hn::Sub(y, cy), own_z = hn::Sub(z, cz);
    V nearest = set(1e9f), tone = hn::Zero(d);
    each_cell(cx, cy, cz, [&](float column, float row, float layer, hn::Mask<D> here) HWY_ATTR {
      V least = set(4.0f), own = hn::Zero(d);
      for (const Rod& r : cells.about(column, row, layer)) {
        const V dx = hn::Sub(own_x, set(r.x)), dy = hn::Sub(own_y, set(r.y)), dz = hn::Sub(own_z, set(r.z));
        const V along = hn::MulAdd(dx, set(r.way.x), hn::MulAdd(dy, set(r.way.y), hn::Mul(dz, set(r.way.z))));
        const V on = hn::Max(hn::Min(along, set(r.half)), set(-r.half));
        const V qx = hn::NegMulAdd(on, set(r.way.x), dx), qy = hn::NegMulAdd(on, set(r.way.y), dy),
                qz = hn::NegMulAdd(on, set(r.way.z), dz);
        const V square = hn::MulAdd(qx, qx, hn::MulAdd(qy, qy, hn::Mul(qz, qz)));
        own = hn::IfThenElse(hn::Lt(square, least), set(r.tone), own);
        least = hn::Min(least, square);
      }
      nearest = hn::IfThenElse(here, least, nearest);
      tone = hn::IfThenElse(here, own, tone);
    });
    hn::Store(hn::Mul(hn::Sub(hn::Sqrt(nearest), set(t.half_width)), set(1 / wide)), d, c.result[0] + i);
    hn::Store(tone, d, c.result[1] + i);
  }
}

// ---- cellular ----

HWY_INLINE I cell_index(V ix, V iy, const CellTable& t) {
  const DI di;
  const V x = wrapped(ix, static_cast<float>(t.cells_u)), y = wrapped(iy, static_cast<float>(t.cells_v));
  return hn::ConvertTo(di, hn::MulAdd(y, set(static_cast<float>(t.cells_u)), x));
}

// Cells about one that all lanes of a vector share: then a point is read once and not gathered lane by lane.
class SharedCells {
 public:
  static constexpr int kReach = 3;
  explicit SharedCells(const CellTable& t) : t_(t) {}
  bool about(V x, V y) {  // whole numbers
    const D d;
    const float fx = hn::GetLane(x), fy = hn::GetLane(y);
    if (!hn::AllTrue(d, hn::And(hn::Eq(x, set(fx)), hn::Eq(y, set(fy))))) return false;
    if (!known_ || fx != x_ || fy != y_) {
      known_ = true;
      x_ = fx, y_ = fy;
      const auto whole = [](int i, int n) { return ((i % n) + n) % n; };
      for (int k = -kReach; k <= kReach; ++k) {
        column_[k + kReach] = whole(static_cast<int>(fx) + k, t_.cells_u);
        row_[k + kReach] = whole(static_cast<int>(fy) + k, t_.cells_v) * t_.cells_u;
      }
    }
    return true;
  }
  size_t at(int ox, int oy) const { return static_cast<size_t>(row_[oy + kReach] + column_[ox + kReach]); }

 private:
  const CellTable& t_;
  bool known_ = false;
  float x_ = 0, y_ = 0;
  int column_[2 * kReach + 1] = {}, row_[2 * kReach + 1] = {};
};

// In squares for the Euclidean measure.
HWY_INLINE V apart(CellTable::Measure measure, V dx, V dy) {
  if (measure == CellTable::Measure::manhattan) return hn::Add(hn::Abs(dx), hn::Abs(dy));
  if (measure == CellTable::Measure::chebyshev) return hn::Max(hn::Abs(dx), hn::Abs(dy));
  return hn::MulAdd(dx, dx, hn::Mul(dy, dy));
}

// Four by four cells about the sample hold the nearest point for certain; by the Manhattan measure six by six.
// Source: Worley, "A Cellular Texture Basis Function", SIGGRAPH 1996.
void cellular(const StripCall& c) {
  const auto& t = static_cast<const CellTable&>(*c.resource);
  const D d;
  SharedCells cells(t);
  for (size_t i = 0; i < c.padded; i += hn::Lanes(d)) {
    const V x = hn::Mul(hn::Load(d, c.source[0] + i * c.stride[0]), set(static_cast<float>(t.cells_u)));
    const V y = hn::Mul(hn::Load(d, c.source[1] + i * c.stride[1]), set(static_cast<float>(t.cells_v)));
    const V bx = hn::Floor(hn::Sub(x, set(0.5f))), by = hn::Floor(hn::Sub(y, set(0.5f)));
    V first = set(1e9f), second = set(1e9f), tone = hn::Zero(d);
    const bool shared = cells.about(bx, by);
    const int more = t.measure == CellTable::Measure::manhattan ? 1 : 0;
    for (int oy = -1 - more; oy <= 2 + more; ++oy)
      for (int ox = -1 - more; ox <= 2 + more; ++ox) {
        const V ix = hn::Add(bx, set(static_cast<float>(ox))), iy = hn::Add(by, set(static_cast<float>(oy)));
        V pu, pv, own;
        if (shared) {
          const size_t k = cells.at(ox, oy);
          pu = set(t.point_u[k]), pv = set(t.point_v[k]), own = set(t.tone[k]);
        } else {
          const I cell = cell_index(ix, iy, t);
          pu = hn::GatherIndex(d, t.point_u.data(), cell), pv = hn::GatherIndex(d, t.point_v.data(), cell),
          own = hn::GatherIndex(d, t.tone.data(), cell);
        }
        const V dx = hn::Sub(hn::Add(ix, pu), x), dy = hn::Sub(hn::Add(iy, pv), y);
        const V square = apart(t.measure, dx, dy);
        const auto closer = hn::Lt(square, first);
        second = hn::Min(second, hn::Max(first, square));
        tone = hn::IfThenElse(closer, own, tone);
        first = hn::Min(first, square);
      }
    const bool squared = t.measure == CellTable::Measure::euclidean;
    hn::Store(squared ? hn::Sqrt(first) : first, d, c.result[0] + i);
    hn::Store(squared ? hn::Sqrt(second) : second, d, c.result[1] + i);
    hn::Store(tone, d, c.result[2] + i);
  }
}

// A point in space, from the middle cell's corner, and the cell that holds it.
struct PointInSpace {
  float x, y, z, tone, column, row, layer;
};
auto points_in_space(const CellTable& t, int from, int to) {
  return make_cells<PointInSpace>(
      t.seed, t.cells_u, t.cells_v,
      [jitter = t.jitter](std::uint32_t hash, float dx, float dy, float dz, std::vector<PointInSpace>& all) {
        const auto draw = [&hash] {
          return static_cast<float>(std::exchange(hash, pcg(hash)) >> 8) * (1.0f / 16777216.0f);
        };
        const auto place = [&](float cell) { return cell + 0.5f + jitter * (draw() - 0.5f); };
        PointInSpace p{};
        p.x = place(dx), p.y = place(dy), p.z = place(dz);
        p.tone = draw();
        p.column = dx, p.row = dy, p.layer = dz;
        all.push_back(p);
      },
      from, to);
}

// In squares for the Euclidean measure.
HWY_INLINE V apart_in_space(CellTable::Measure measure, V dx, V dy, V dz) {
  if (measure == CellTable::Measure::manhattan) return hn::Add(hn::Abs(dx), hn::Add(hn::Abs(dy), hn::Abs(dz)));
  if (measure == CellTable::Measure::chebyshev) return hn::Max(hn::Abs(dx), hn::Max(hn::Abs(dy), hn::Abs(dz)));
  return hn::MulAdd(dx, dx, hn::MulAdd(dy, dy, hn::Mul(dz, dz)));
}

struct NearestInSpace {
  V first, second, tone, dx, dy, dz, column, row, layer;
};

// Four by four by four cells about a sample hold the nearest: beyond them nothing is nearer than one and a half.
template <class Cells>
HWY_INLINE NearestInSpace nearest_in_space(Cells& cells, CellTable::Measure measure, V x, V y, V z) {
  const D d;
  const V half = set(0.5f), none = hn::Zero(d);
  const V bx = hn::Floor(hn::Sub(x, half)), by = hn::Floor(hn::Sub(y, half)), bz = hn::Floor(hn::Sub(z, half));
  const V own_x = hn::Sub(x, bx), own_y = hn::Sub(y, by), own_z = hn::Sub(z, bz);
  NearestInSpace found{set(1e9f), set(1e9f), none, none, none, none, none, none, none};
  each_cell(bx, by, bz, [&](float column, float row, float layer, hn::Mask<D> here) HWY_ATTR {
    for (const PointInSpace& p : cells.about(column, row, layer)) {
      const V dx = hn::Sub(set(p.x), own_x), dy = hn::Sub(set(p.y), own_y), dz = hn::Sub(set(p.z), own_z),
              far = apart_in_space(measure, dx, dy, dz);
      const auto closer = hn::And(here, hn::Lt(far, found.first));
      found.second = hn::IfThenElse(here, hn::Min(found.second, hn::Max(found.first, far)), found.second);
      found.first = hn::IfThenElse(closer, far, found.first);
      found.tone = hn::IfThenElse(closer, set(p.tone), found.tone);
      found.dx = hn::IfThenElse(closer, dx, found.dx), found.dy = hn::IfThenElse(closer, dy, found.dy),
      found.dz = hn::IfThenElse(closer, dz, found.dz);
      found.column = hn::IfThenElse(closer, set(column + p.column), found.column);
      found.row = hn::IfThenElse(closer, set(row + p.row), found.row);
      found.layer = hn::IfThenElse(closer, set(layer + p.layer), found.layer);
    }
  });
  return found;
}

struct SpaceOfCells {
  V x, y, z;
};
HWY_INLINE SpaceOfCells in_cells(const StripCall& c, const CellTable& t, size_t i) {
  const D d;
  const auto at = [&](size_t axis, int count) HWY_ATTR {
    return hn::Mul(hn::Load(d, c.source[axis] + i * c.stride[axis]), set(static_cast<float>(count)));
  };
  return {at(0, t.cells_u), at(1, t.cells_v), at(2, t.cells_u)};
}

void solid_cells(const StripCall& c) {
  const auto& t = static_cast<const CellTable&>(*c.resource);
  const D d;
  const bool squared = t.measure == CellTable::Measure::euclidean;
  auto cells = points_in_space(t, -1, 2);
  for (size_t i = 0; i < c.padded; i += hn::Lanes(d)) {
    const SpaceOfCells p = in_cells(c, t, i);
    const NearestInSpace found = nearest_in_space(cells, t.measure, p.x, p.y, p.z);
    hn::Store(squared ? hn::Sqrt(found.first) : found.first, d, c.result[0] + i);
    hn::Store(squared ? hn::Sqrt(found.second) : found.second, d, c.result[1] + i);
    hn::Store(found.tone, d, c.result[2] + i);
  }
}

// Distance to the nearest plane half way between the nearest point and its neighbours, five by five by five cells about
// its cell.
void solid_border(const StripCall& c) {
  const auto& t = static_cast<const CellTable&>(*c.resource);
  const D d;
  auto cells = points_in_space(t, -1, 2), neighbours = points_in_space(t, -2, 2);
  for (size_t i = 0; i < c.padded; i += hn::Lanes(d)) {
    const SpaceOfCells p = in_cells(c, t, i);
    const NearestInSpace nearest = nearest_in_space(cells, CellTable::Measure::euclidean, p.x, p.y, p.z);
    const V own_x = hn::Sub(p.x, nearest.column), own_y = hn::Sub(p.y, nearest.row),
            own_z = hn::Sub(p.z, nearest.layer);
    V border = set(1e9f);
    each_cell(
        nearest.column, nearest.row, nearest.layer,
        [&](float column, float row, float layer, hn::Mask<D> here) HWY_ATTR {
          for (const PointInSpace& q : neighbours.about(column, row, layer)) {
            if (q.column == 0 && q.row == 0 && q.layer == 0) continue;
            const V qx = hn::Sub(set(q.x), own_x), qy = hn::Sub(set(q.y), own_y), qz = hn::Sub(set(q.z), own_z);
            const V ex = hn::Sub(qx, nearest.dx), ey = hn::Sub(qy, nearest.dy), ez = hn::Sub(qz, nearest.dz);
            const V square = hn::MulAdd(ex, ex, hn::MulAdd(ey, ey, hn::Mul(ez, ez)));
            const V along = hn::MulAdd(hn::Add(nearest.dx, qx), ex,
                                       hn::MulAdd(hn::Add(nearest.dy, qy), ey, hn::Mul(hn::Add(nearest.dz, qz), ez)));
            const V distance = hn::Div(hn::Mul(along, set(0.5f)), hn::Sqrt(hn::Max(square, set(1e-12f))));
            border = hn::IfThenElse(hn::And(here, hn::Gt(square, set(1e-10f))), hn::Min(border, distance), border);
          }
        });
    hn::Store(hn::Max(border, hn::Zero(d)), d, c.result[0] + i);
  }
}

// Distance to the nearest bisector between the nearest point and its neighbours, five by five cells about its cell.
void cell_border(const StripCall& c) {
  const auto& t = static_cast<const CellTable&>(*c.resource);
  const D d;
  SharedCells about_sample(t), about_nearest(t);
  for (size_t i = 0; i < c.padded; i += hn::Lanes(d)) {
    const V x = hn::Mul(hn::Load(d, c.source[0] + i * c.stride[0]), set(static_cast<float>(t.cells_u)));
    const V y = hn::Mul(hn::Load(d, c.source[1] + i * c.stride[1]), set(static_cast<float>(t.cells_v)));
    const V bx = hn::Floor(hn::Sub(x, set(0.5f))), by = hn::Floor(hn::Sub(y, set(0.5f)));
    V first = set(1e9f), px = hn::Zero(d), py = hn::Zero(d), cx = bx, cy = by;
    const auto visit = [&](const SharedCells* shared, int ox, int oy, V ix, V iy, V& dx, V& dy) HWY_ATTR {
      if (shared) {
        const size_t k = shared->at(ox, oy);
        dx = hn::Sub(hn::Add(ix, set(t.point_u[k])), x);
        dy = hn::Sub(hn::Add(iy, set(t.point_v[k])), y);
        return;
      }
      const I cell = cell_index(ix, iy, t);
      dx = hn::Sub(hn::Add(ix, hn::GatherIndex(d, t.point_u.data(), cell)), x);
      dy = hn::Sub(hn::Add(iy, hn::GatherIndex(d, t.point_v.data(), cell)), y);
    };
    const SharedCells* const here = about_sample.about(bx, by) ? &about_sample : nullptr;
    for (int oy = -1; oy <= 2; ++oy)
      for (int ox = -1; ox <= 2; ++ox) {
        const V ix = hn::Add(bx, set(static_cast<float>(ox))), iy = hn::Add(by, set(static_cast<float>(oy)));
        V dx, dy;
        visit(here, ox, oy, ix, iy, dx, dy);
        const V square = hn::MulAdd(dx, dx, hn::Mul(dy, dy));
        const auto closer = hn::Lt(square, first);
        first = hn::Min(first, square);
        px = hn::IfThenElse(closer, dx, px);
        py = hn::IfThenElse(closer, dy, py);
        cx = hn::IfThenElse(closer, ix, cx);
        cy = hn::IfThenElse(closer, iy, cy);
      }
    const SharedCells* const there = about_nearest.about(cx, cy) ? &about_nearest : nullptr;
    V border = set(1e9f);
    for (int oy = -2; oy <= 2; ++oy)
      for (int ox = -2; ox <= 2; ++ox) {
        if (ox == 0 && oy == 0) continue;
        V qx, qy;
        visit(there, ox, oy, hn::Add(cx, set(static_cast<float>(ox))), hn::Add(cy, set(static_cast<float>(oy))), qx,
              qy);
        const V ex = hn::Sub(qx, px), ey = hn::Sub(qy, py);
        const V square = hn::MulAdd(ex, ex, hn::Mul(ey, ey));
        const V along = hn::MulAdd(hn::Add(px, qx), ex, hn::Mul(hn::Add(py, qy), ey));
        const V distance = hn::Div(hn::Mul(along, set(0.5f)), hn::Sqrt(hn::Max(square, set(1e-12f))));
        border = hn::IfThenElse(hn::Gt(square, set(1e-10f)), hn::Min(border, distance), border);
      }
    hn::Store(hn::Max(border, hn::Zero(d)), d, c.result[0] + i);
  }
}

}  // namespace loom::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace loom {

HWY_EXPORT(noise_general);
HWY_EXPORT(noise_on_rows);
HWY_EXPORT(speckle);
HWY_EXPORT(solid_noise);
HWY_EXPORT(solid_cells);
HWY_EXPORT(solid_border);
HWY_EXPORT(solid_speckle);
HWY_EXPORT(solid_fibres);
HWY_EXPORT(cellular);
HWY_EXPORT(cell_border);

namespace {

void run_gradient_noise(const StripCall& call) {
  const auto& table = static_cast<const NoiseTable&>(*call.resource);
  const bool rows = table.basis == NoiseTable::Basis::gradient && table.sum == NoiseTable::Sum::plain;
  if (rows && call.step->plain && call.strip->du > 0 && call.stride[2] == 0)
    HWY_DYNAMIC_DISPATCH(noise_on_rows)(call);
  else
    HWY_DYNAMIC_DISPATCH(noise_general)(call);
}

constexpr unsigned kTone = 1u << 2, kRodTone = 1u << 1;  // results that are level within a cell, or along a rod

}  // namespace

const Family kGradientNoise{"gradient noise", run_gradient_noise, 2};
const Family kSolidNoise{"solid noise", [](const StripCall& c) { HWY_DYNAMIC_DISPATCH(solid_noise)(c); }, 3};
const Family kSpeckle{"speckle", [](const StripCall& c) { HWY_DYNAMIC_DISPATCH(speckle)(c); }, 2};
const Family kSolidSpeckle{"solid speckle", [](const StripCall& c) { HWY_DYNAMIC_DISPATCH(solid_speckle)(c); }, 3};
const Family kSolidFibres{"fibres", [](const StripCall& c) { HWY_DYNAMIC_DISPATCH(solid_fibres)(c); }, 3, kRodTone};
const Family kCells{"cells", [](const StripCall& c) { HWY_DYNAMIC_DISPATCH(cellular)(c); }, 2, kTone};
const Family kCellBorder{"cell border", [](const StripCall& c) { HWY_DYNAMIC_DISPATCH(cell_border)(c); }, 2};
const Family kSolidCells{"solid cells", [](const StripCall& c) { HWY_DYNAMIC_DISPATCH(solid_cells)(c); }, 3, kTone};
const Family kSolidBorder{"solid border", [](const StripCall& c) { HWY_DYNAMIC_DISPATCH(solid_border)(c); }, 3};

}  // namespace loom
#endif
