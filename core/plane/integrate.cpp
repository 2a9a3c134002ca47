// One complex transform carries both slopes; a second brings the height back.
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

// Rows, then columns a few at a time; out of place, so that threads may share the plan.
void transform(const Plan& plan, Grid& grid, int size, const Stop& stop) {
  const auto n = static_cast<std::size_t>(size);
  for_rows(size, 16, stop, [&](int first, int last) {
    std::vector<kiss_fft_cpx> out(n);
    for (int y = first; y < last && !stop.asked(); ++y) {
      kiss_fft_cpx* row = grid.get() + static_cast<std::size_t>(y) * n;
      kiss_fft(plan.get(), row, out.data());
      std::copy(out.begin(), out.end(), row);
    }
  });
  constexpr int kColumns = 8;
  for_rows(size / kColumns, 2, stop, [&](int first, int last) {
    std::vector<kiss_fft_cpx> in(n * kColumns), out(n);
    for (int block = first; block < last && !stop.asked(); ++block) {
      kiss_fft_cpx* top = grid.get() + block * kColumns;
      for (std::size_t y = 0; y < n; ++y)
        for (std::size_t k = 0; k < kColumns; ++k) in[k * n + y] = top[y * n + k];
      for (std::size_t k = 0; k < kColumns; ++k) {
        kiss_fft(plan.get(), in.data() + k * n, out.data());
        std::copy(out.begin(), out.end(), in.begin() + static_cast<std::ptrdiff_t>(k * n));
      }
      for (std::size_t y = 0; y < n; ++y)
        for (std::size_t k = 0; k < kColumns; ++k) top[y * n + k] = in[k * n + y];
    }
  });
}

}  // namespace

Plane height_from_slopes(const Plane& du, const Plane& dv, const Stop& stop) {
  const int size = du.size();
  const auto n = static_cast<std::size_t>(size);
  const Plan forward(kiss_fft_alloc(size, 0, nullptr, nullptr)), backward(kiss_fft_alloc(size, 1, nullptr, nullptr));
  Grid grid = pooled<kiss_fft_cpx>(n * n);
  for_rows(size, 32, stop, [&](int first, int last) {
    for (int y = first; y < last; ++y)
      for (int x = 0; x < size; ++x) grid[static_cast<std::size_t>(y) * n + static_cast<std::size_t>(x)] = {du.row(y)[x], dv.row(y)[x]};
  });
  transform(forward, grid, size, stop);
  // With C = P + iQ: P and Q are the parts of C that are symmetric and antisymmetric about 0; the height is
  // -i (ku P + kv Q) / (2 pi (ku^2 + kv^2)).
  Grid height = pooled<kiss_fft_cpx>(n * n);
  const auto wave = [size](int k) { return static_cast<float>(k <= size / 2 ? k : k - size); };
  for_rows(size, 32, stop, [&](int first, int last) {
    for (int y = first; y < last; ++y)
      for (int x = 0; x < size; ++x) {
        const auto at = [&](int i, int j) { return grid[static_cast<std::size_t>(wrap(j, size)) * n + static_cast<std::size_t>(wrap(i, size))]; };
        const kiss_fft_cpx c = at(x, y), m = at(-x, -y);
        const float pr = 0.5f * (c.r + m.r), pi = 0.5f * (c.i - m.i), qr = 0.5f * (c.i + m.i), qi = 0.5f * (m.r - c.r);
        // The highest wave has no direction of its own.
        const float ku = x == size / 2 ? 0 : wave(x), kv = y == size / 2 ? 0 : wave(y), k2 = ku * ku + kv * kv;
        const float scale = k2 > 0 ? 1 / (6.2831853f * k2 * static_cast<float>(n) * static_cast<float>(n)) : 0;
        height[static_cast<std::size_t>(y) * n + static_cast<std::size_t>(x)] = {(ku * pi + kv * qi) * scale, -(ku * pr + kv * qr) * scale};
      }
  });
  transform(backward, height, size, stop);
  Plane out(size);
  for_rows(size, 32, stop, [&](int first, int last) {
    for (int y = first; y < last; ++y)
      for (int x = 0; x < size; ++x) out.row(y)[x] = height[static_cast<std::size_t>(y) * n + static_cast<std::size_t>(x)].r;
  });
  return out;
}

}  // namespace loom
