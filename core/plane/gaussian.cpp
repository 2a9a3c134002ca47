// Gaussian blur on the torus: direct for small sigma, a pyramid of binomials and B-splines for large.
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/plane/gaussian.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

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

// A symmetric kernel over four vectors at a time, as long as they last: one alone would wait for its own sums, and
// fetch the kernel as often as the samples. `pair(k, x)` gives what lies k before and k after x, `put` takes the sum.
template <class Middle, class Pair, class Put>
HWY_INLINE void symmetric(const float* HWY_RESTRICT kernel, int radius, int size, const Middle& middle,
                          const Pair& pair, const Put& put) {
  const D d;
  const int n = static_cast<int>(hn::Lanes(d));
  int x = 0;
  for (; x + 4 * n <= size; x += 4 * n) {
    const V w0 = hn::Set(d, kernel[0]);
    V s0 = hn::Mul(middle(x), w0), s1 = hn::Mul(middle(x + n), w0), s2 = hn::Mul(middle(x + 2 * n), w0),
      s3 = hn::Mul(middle(x + 3 * n), w0);
    for (int k = 1; k <= radius; ++k) {
      const V w = hn::Set(d, kernel[k]);
      s0 = hn::MulAdd(pair(k, x), w, s0);
      s1 = hn::MulAdd(pair(k, x + n), w, s1);
      s2 = hn::MulAdd(pair(k, x + 2 * n), w, s2);
      s3 = hn::MulAdd(pair(k, x + 3 * n), w, s3);
    }
    put(s0, x), put(s1, x + n), put(s2, x + 2 * n), put(s3, x + 3 * n);
  }
  for (; x < size; x += n) {
    V sum = hn::Mul(middle(x), hn::Set(d, kernel[0]));
    for (int k = 1; k <= radius; ++k) sum = hn::MulAdd(pair(k, x), hn::Set(d, kernel[k]), sum);
    put(sum, x);
  }
}

// `padded` holds the row with `radius` wrapped samples on both sides.
void filter_row(const float* HWY_RESTRICT padded, const float* HWY_RESTRICT kernel, int radius, int size,
                float* HWY_RESTRICT out) {
  const D d;
  const float* centre = padded + radius;
  symmetric(
      kernel, radius, size, [&](int x) { return hn::LoadU(d, centre + x); },
      [&](int k, int x) { return hn::Add(hn::LoadU(d, centre + x - k), hn::LoadU(d, centre + x + k)); },
      [&](V sum, int x) { hn::Store(sum, d, out + x); });
}

void filter_columns(const float* const* rows, const float* HWY_RESTRICT kernel, int radius, int size,
                    float* HWY_RESTRICT out) {
  const D d;
  symmetric(
      kernel, radius, size, [&](int x) { return hn::Load(d, rows[radius] + x); },
      [&](int k, int x) { return hn::Add(hn::Load(d, rows[radius - k] + x), hn::Load(d, rows[radius + k] + x)); },
      [&](V sum, int x) { hn::Stream(sum, d, out + x); });
}

// [1 4 6 4 1] / 16 along v, then along u with every second sample kept. `line` has room for size + 8.
void halve_row(const float* const* rows, int size, float* HWY_RESTRICT line, float* HWY_RESTRICT out) {
  const D d;
  float* t = line + 4;
  for (int x = 0; x < size; x += static_cast<int>(hn::Lanes(d))) {
    const V outer = hn::Add(hn::Load(d, rows[0] + x), hn::Load(d, rows[4] + x));
    const V inner = hn::Add(hn::Load(d, rows[1] + x), hn::Load(d, rows[3] + x));
    const V sum = hn::MulAdd(inner, hn::Set(d, 4.0f), hn::MulAdd(hn::Load(d, rows[2] + x), hn::Set(d, 6.0f), outer));
    hn::StoreU(hn::Mul(sum, hn::Set(d, 1.0f / 256.0f)), d, t + x);
  }
  for (int k = 1; k <= 2; ++k) t[-k] = t[size - k], t[size + k - 1] = t[k - 1];
  const int half = size / 2, n = static_cast<int>(hn::Lanes(d));
  int i = 0;
  for (; i + n < half; i += n) {
    V e0, o0, e1, o1, e2, o2;
    hn::LoadInterleaved2(d, t + 2 * i - 2, e0, o0);
    hn::LoadInterleaved2(d, t + 2 * i, e1, o1);
    hn::LoadInterleaved2(d, t + 2 * i + 2, e2, o2);
    hn::StoreU(hn::MulAdd(hn::Add(o0, o1), hn::Set(d, 4.0f), hn::MulAdd(e1, hn::Set(d, 6.0f), hn::Add(e0, e2))), d,
               out + i);
  }
  for (; i < half; ++i) out[i] = 4 * (t[2 * i - 1] + t[2 * i + 1]) + (6 * t[2 * i] + (t[2 * i - 2] + t[2 * i + 2]));
}

// The cubic B-spline's two-scale relation: the row between (or at) coarse rows, then twice the samples along u.
void double_row(const float* a, const float* b, const float* c, bool between, int coarse, float* HWY_RESTRICT line,
                float* HWY_RESTRICT out) {
  const D d;
  float* t = line + 16;
  const int n = static_cast<int>(hn::Lanes(d));
  for (int x = 0; x < coarse; x += n) {
    const V mid = hn::LoadU(d, b + x), next = hn::LoadU(d, c + x);
    const V at = hn::Mul(hn::MulAdd(mid, hn::Set(d, 6.0f), hn::Add(hn::LoadU(d, a + x), next)), hn::Set(d, 0.125f));
    hn::StoreU(between ? hn::Mul(hn::Add(mid, next), hn::Set(d, 0.5f)) : at, d, t + x);
  }
  t[-1] = t[coarse - 1];
  t[coarse] = t[0];
  for (int x = 0; x < coarse; x += n) {
    const V mid = hn::LoadU(d, t + x), next = hn::LoadU(d, t + x + 1);
    const V even =
        hn::Mul(hn::MulAdd(mid, hn::Set(d, 6.0f), hn::Add(hn::LoadU(d, t + x - 1), next)), hn::Set(d, 0.125f));
    const V odd = hn::Mul(hn::Add(mid, next), hn::Set(d, 0.5f));
    hn::StoreInterleaved2(even, odd, d, out + 2 * x);
  }
}

}  // namespace loom::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace loom {

HWY_EXPORT(filter_row);
HWY_EXPORT(filter_columns);
HWY_EXPORT(halve_row);
HWY_EXPORT(double_row);

namespace {

constexpr float kDirectTexels = 4.0f;
constexpr int kLeastForVectors = 16;

std::vector<float> gaussian_kernel(double sigma) {
  const int radius = std::max(1, static_cast<int>(std::ceil(4.5 * sigma)));
  std::vector<double> w(static_cast<std::size_t>(radius) + 1);
  double sum = 0;
  for (int k = 0; k <= radius; ++k) {
    w[static_cast<std::size_t>(k)] = std::exp(-0.5 * k * k / (sigma * sigma));
    sum += (k ? 2 : 1) * w[static_cast<std::size_t>(k)];
  }
  std::vector<float> kernel;
  for (const double x : w) kernel.push_back(static_cast<float>(x / sum));
  return kernel;
}

int modulo(int i, int size) { return ((i % size) + size) % size; }

struct AlignedRows {  // rows of floats, each aligned for vectors
  AlignedRows(int rows, int width)
      : stride((width + 15) / 16 * 16 + 16), data(static_cast<std::size_t>(rows * stride) + 16) {
    base = reinterpret_cast<float*>((reinterpret_cast<std::uintptr_t>(data.data()) + 63) / 64 * 64);
  }
  float* row(int y) { return base + static_cast<std::ptrdiff_t>(y) * stride; }
  int stride;
  std::vector<float> data;
  float* base;
};

// Panels of columns, so narrow that their ring of rows stays in the nearest cache: rows are filtered along u into the
// ring, and along v from there.
Plane direct(const Plane& source, double sigma, const Stop& stop) {
  constexpr int kPanel = 256;
  const auto kernel = gaussian_kernel(sigma);
  const int radius = static_cast<int>(kernel.size()) - 1, size = source.size(), panel = std::min(kPanel, size),
            ring = 2 * radius + 1;
  Plane target(size);
  for_rows(size, std::max(16, size / 16), stop, [&](int first, int last) {
    AlignedRows held(ring, panel);
    std::vector<float> padded(static_cast<std::size_t>(panel + 2 * radius) + 16);
    // The ring's rows twice over: from any of them on, they stand in order.
    std::vector<const float*> rows(static_cast<std::size_t>(2 * ring));
    for (int k = 0; k < 2 * ring; ++k) rows[static_cast<std::size_t>(k)] = held.row(k % ring);
    for (int left = 0; left < size && !stop.asked(); left += panel) {
      const bool inside = left >= radius && left + panel + radius + 16 <= size;
      const auto take = [&](int y, int slot) {
        const float* from = source.row(modulo(y, size));
        const float* padded_row = from + left - radius;
        const float* soon =
            source.row(modulo(y + 3, size)) + left;  // rows lie pages apart: the machine does not foresee the next
        for (int x = 0; x < panel; x += 16) __builtin_prefetch(soon + x);
        if (!inside) {
          std::memcpy(padded.data() + radius, from + left, static_cast<std::size_t>(panel) * sizeof(float));
          for (int k = 0; k < radius; ++k) {
            padded[static_cast<std::size_t>(k)] = from[modulo(left + k - radius, size)];
            padded[static_cast<std::size_t>(panel + radius + k)] = from[modulo(left + panel + k, size)];
          }
          padded_row = padded.data();
        }
        HWY_DYNAMIC_DISPATCH(filter_row)(padded_row, kernel.data(), radius, panel, held.row(slot));
      };
      for (int k = 0; k < 2 * radius; ++k) take(first - radius + k, k);
      int oldest = 0, newest = 2 * radius;
      for (int y = first; y < last && !stop.asked(); ++y) {
        take(y + radius, newest);
        HWY_DYNAMIC_DISPATCH(filter_columns)(rows.data() + oldest, kernel.data(), radius, panel, target.row(y) + left);
        oldest = oldest + 1 == ring ? 0 : oldest + 1;
        newest = newest + 1 == ring ? 0 : newest + 1;
      }
    }
  });
  return target;
}

Plane halved(const Plane& source, const Stop& stop) {
  const int size = source.size();
  Plane half(size / 2);
  for_rows(size / 2, 32, stop, [&](int first, int last) {
    std::vector<float> line(static_cast<std::size_t>(size) + 32);
    for (int y = first; y < last; ++y) {
      const float* rows[5];
      for (int k = 0; k < 5; ++k) rows[k] = source.row(wrap(2 * y - 2 + k, size));
      HWY_DYNAMIC_DISPATCH(halve_row)(rows, size, line.data(), half.row(y));
    }
  });
  return half;
}

Plane doubled(const Plane& source, const Stop& stop) {
  const int coarse = source.size();
  Plane twice(coarse * 2);
  for_rows(coarse, 16, stop, [&](int first, int last) {
    std::vector<float> line(static_cast<std::size_t>(coarse) + 64);
    for (int y = first; y < last; ++y) {
      const float *a = source.row(wrap(y - 1, coarse)), *b = source.row(y), *c = source.row(wrap(y + 1, coarse));
      HWY_DYNAMIC_DISPATCH(double_row)(a, b, c, false, coarse, line.data(), twice.row(2 * y));
      HWY_DYNAMIC_DISPATCH(double_row)(a, b, c, true, coarse, line.data(), twice.row(2 * y + 1));
    }
  });
  return twice;
}

}  // namespace

Plane blurred(const Plane& source, float sigma, const Stop& stop) {
  const int size = source.size();
  const double texels = static_cast<double>(sigma) * size;
  if (texels < 0.05) return source.clone();
  int levels = 0;
  while (texels / (2 << levels) >= kDirectTexels && (size >> (levels + 1)) >= kLeastForVectors) ++levels;
  if (levels == 0) return direct(source, texels, stop);
  // Each level's binomial, down and up, has a variance of its own: the middle Gaussian gets what is left.
  const double four = std::pow(4.0, levels);
  const double middle = std::sqrt((texels * texels - 2 * (four - 1) / 3) / four);
  Plane low = halved(source, stop);
  for (int l = 1; l < levels; ++l) low = halved(low, stop);
  low = direct(low, middle, stop);
  for (int l = 0; l < levels; ++l) low = doubled(low, stop);
  return low;
}

}  // namespace loom
#endif
