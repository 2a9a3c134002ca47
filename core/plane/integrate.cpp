// One complex transform carries both slopes; half of one brings the height back, which is real.
#include "core/plane/integrate.h"

#include <kiss_fft.h>

#include <memory>
#include <vector>

#include "core/base/parallel.h"

namespace loom {
namespace {

struct FreePlan { void operator()(kiss_fft_cfg c) const { kiss_fft_free(c); } };
using Plan = std::unique_ptr<std::remove_pointer_t<kiss_fft_cfg>, FreePlan>;
using Grid = Pooled<kiss_fft_cpx>;

// Each of the first `columns` columns, eight at a time and out of place, so that threads may share the plan. A row holds `stride` values.
void transform_columns(const Plan& plan, Grid& grid, int size, int columns, std::size_t stride, const Stop& stop) {
  constexpr std::size_t kColumns = 8;
  const auto n = static_cast<std::size_t>(size);
  for_rows((columns + 7) / 8, 2, stop, [&](int first, int last) {
    std::vector<kiss_fft_cpx> in(n * kColumns), out(n);
    for (int block = first; block < last && !stop.asked(); ++block) {
      kiss_fft_cpx* top = grid.get() + static_cast<std::size_t>(block) * kColumns;
      for (std::size_t y = 0; y < n; ++y)
        for (std::size_t k = 0; k < kColumns; ++k) in[k * n + y] = top[y * stride + k];
      for (std::size_t k = 0; k < kColumns; ++k) {
        kiss_fft(plan.get(), in.data() + k * n, out.data());
        std::copy(out.begin(), out.end(), in.begin() + static_cast<std::ptrdiff_t>(k * n));
      }
      for (std::size_t y = 0; y < n; ++y)
        for (std::size_t k = 0; k < kColumns; ++k) top[y * stride + k] = in[k * n + y];
    }
  });
}

// The transform of P + iQ over the whole plane. `stride`: no power of two, or a column's values would fight for one place in the cache.
Grid spectrum_of(const Plan& plan, const Plane& p, const Plane& q, std::size_t stride, const Stop& stop) {
  const int size = p.size();
  const auto n = static_cast<std::size_t>(size);
  Grid grid = pooled<kiss_fft_cpx>(n * stride);
  for_rows(size, 16, stop, [&](int first, int last) {
    std::vector<kiss_fft_cpx> row(n);
    for (int y = first; y < last && !stop.asked(); ++y) {
      for (std::size_t x = 0; x < n; ++x) row[x] = {p.row(y)[x], q.row(y)[x]};
      kiss_fft(plan.get(), row.data(), grid.get() + static_cast<std::size_t>(y) * stride);
    }
  });
  transform_columns(plan, grid, size, size, stride, stop);
  return grid;
}

// From the transform of P + iQ, whose parts symmetric and antisymmetric about 0 are P's and Q's, the height's:
// -i (ku P + kv Q) / (2 pi (ku^2 + kv^2)). The height is real, so waves of u from 0 to half the size say it all.
Grid half_spectrum_of_height(const Grid& grid, int size, std::size_t whole_stride, std::size_t stride, const Stop& stop) {
  const auto n = static_cast<std::size_t>(size), half = n / 2;
  Grid height = pooled<kiss_fft_cpx>(n * stride);
  const float whole = 6.2831853f * static_cast<float>(n) * static_cast<float>(n);
  for_rows(size, 32, stop, [&](int first, int last) {
    for (int y = first; y < last; ++y) {
      const kiss_fft_cpx *row = grid.get() + static_cast<std::size_t>(y) * whole_stride, *mirrored = grid.get() + static_cast<std::size_t>(wrap(-y, size)) * whole_stride;
      kiss_fft_cpx* to = height.get() + static_cast<std::size_t>(y) * stride;
      // The highest wave has no direction of its own.
      const float kv = y == size / 2 ? 0 : static_cast<float>(y < size / 2 ? y : y - size);
      for (std::size_t x = 0; x <= half; ++x) {
        const kiss_fft_cpx c = row[x], m = mirrored[x == 0 ? 0 : n - x];
        const float pr = 0.5f * (c.r + m.r), pi = 0.5f * (c.i - m.i), qr = 0.5f * (c.i + m.i), qi = 0.5f * (m.r - c.r);
        const float ku = x == half ? 0 : static_cast<float>(x), k2 = ku * ku + kv * kv, scale = k2 > 0 ? 1 / (whole * k2) : 0;
        to[x] = {(ku * pi + kv * qi) * scale, -(ku * pr + kv * qr) * scale};
      }
      std::fill(to + half + 1, to + stride, kiss_fft_cpx{0, 0});
    }
  });
  return height;
}

// Two rows of a half spectrum make one transform: the first comes back as its real part, the second as its imaginary one.
void rows_back(const Plan& plan, const Grid& height, std::size_t stride, Plane& out, const Stop& stop) {
  const int size = out.size();
  const auto n = static_cast<std::size_t>(size), half = n / 2;
  for_rows(size / 2, 8, stop, [&](int first, int last) {
    std::vector<kiss_fft_cpx> in(n), back(n);
    for (int pair = first; pair < last && !stop.asked(); ++pair) {
      const kiss_fft_cpx *a = height.get() + static_cast<std::size_t>(2 * pair) * stride, *b = a + stride;
      for (std::size_t x = 0; x <= half; ++x) in[x] = {a[x].r - b[x].i, a[x].i + b[x].r};
      for (std::size_t x = 1; x < half; ++x) in[n - x] = {a[x].r + b[x].i, b[x].r - a[x].i};
      kiss_fft(plan.get(), in.data(), back.data());
      for (std::size_t x = 0; x < n; ++x) out.row(2 * pair)[x] = back[x].r, out.row(2 * pair + 1)[x] = back[x].i;
    }
  });
}

}  // namespace

Plane height_from_slopes(const Plane& du, const Plane& dv, const Stop& stop) {
  const int size = du.size();
  const Plan forward(kiss_fft_alloc(size, 0, nullptr, nullptr)), backward(kiss_fft_alloc(size, 1, nullptr, nullptr));
  const std::size_t stride = static_cast<std::size_t>(size) / 2 + 8, whole_stride = static_cast<std::size_t>(size) + 8;
  Grid height = half_spectrum_of_height(spectrum_of(forward, du, dv, whole_stride, stop), size, whole_stride, stride, stop);
  transform_columns(backward, height, size, size / 2 + 1, stride, stop);
  Plane out(size);
  rows_back(backward, height, stride, out, stop);
  return out;
}

}  // namespace loom
