// Building the pyramids, and the walk through them.
#include "core/surface/relief.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <limits>

#include "core/base/parallel.h"
#include "core/base/scalar.h"

namespace loom {
namespace {

constexpr int kLeastLevel = 4;  // texels
constexpr float kNever = std::numeric_limits<float>::infinity();

std::size_t at(int x, int y, int size) {
  return static_cast<std::size_t>(y) * static_cast<std::size_t>(size) + static_cast<std::size_t>(x);
}

void most_of_corners(const float* height, int size, float* most) {
  for_rows(size, 32, Stop{}, [&](int first, int last) {
    for (int y = first; y < last; ++y) {
      const float *a = height + at(0, y, size), *b = height + at(0, wrap(y + 1, size), size);
      float* to = most + at(0, y, size);
      for (int x = 0; x + 1 < size; ++x) to[x] = std::max(std::max(a[x], a[x + 1]), std::max(b[x], b[x + 1]));
      to[size - 1] = std::max(std::max(a[size - 1], a[0]), std::max(b[size - 1], b[0]));
    }
  });
}

void most_of_four(const float* fine, int size, float* coarse) {
  for_rows(size / 2, 32, Stop{}, [&](int first, int last) {
    for (int y = first; y < last; ++y) {
      const float *a = fine + at(0, 2 * y, size), *b = fine + at(0, 2 * y + 1, size);
      float* to = coarse + at(0, y, size / 2);
      for (int x = 0; x < size / 2; ++x)
        to[x] = std::max(std::max(a[2 * x], a[2 * x + 1]), std::max(b[2 * x], b[2 * x + 1]));
    }
  });
}

// The first root in (0, most] of a t^2 + b t + c, which is above 0 at 0.
std::optional<float> first_root(float a, float b, float c, float most) {
  const float inner = b * b - 4 * a * c;
  if (inner < 0) return {};
  const float root = std::sqrt(inner);
  float t;
  if (b < 0)
    t = 2 * c / (root - b);
  else if (a < 0)
    t = (b + root) / (-2 * a);
  else
    return {};
  if (t > most) return {};
  return t;
}

}  // namespace

ReliefField::Level ReliefField::level_of(Plane height) {
  const int size = height.size();
  Level level{size, pooled<float>(height.texels()), {}};
  std::copy_n(height.data(), height.texels(), level.height.get());
  level.most.push_back(pooled<float>(height.texels()));
  most_of_corners(level.height.get(), size, level.most[0].get());
  for (int side = size; side > 1; side /= 2) {
    level.most.push_back(pooled<float>(at(0, side / 2, side / 2)));
    most_of_four(level.most[level.most.size() - 2].get(), side, level.most.back().get());
  }
  return level;
}

ReliefField::ReliefField(const Plane& height) {
  Plane finite(height.size());
  for_rows(height.size(), 32, Stop{}, [&](int first, int last) {
    for (int y = first; y < last; ++y) {
      const float* from = height.row(y);
      float* to = finite.row(y);
      for (int x = 0; x < height.size(); ++x) to[x] = std::abs(from[x]) < 1e6f ? from[x] : 0;
    }
  });
  const Range range = range_of(finite);
  lowest_ = range.least;
  highest_ = range.most;
  while (finite.size() > kLeastLevel) {
    Plane coarser = reduced(finite);
    levels_.push_back(level_of(std::move(finite)));
    finite = std::move(coarser);
  }
}

ReliefField::Patch ReliefField::patch(const Level& level, int x, int y) {
  const int x0 = wrap(x, level.size), x1 = wrap(x + 1, level.size);
  const float *up = level.height.get() + at(0, wrap(y, level.size), level.size),
              *down = level.height.get() + at(0, wrap(y + 1, level.size), level.size);
  return {up[x0], up[x1] - up[x0], down[x0] - up[x0], up[x0] - up[x1] - down[x0] + down[x1]};
}

std::optional<float> ReliefField::meets(const Stretch& stretch, int level) const {
  const Level& l = levels_[static_cast<std::size_t>(std::clamp(level, 0, levels() - 1))];
  const auto size = static_cast<float>(l.size);
  const float x0 = fraction(stretch.u0) * size - 0.5f, y0 = fraction(stretch.v0) * size - 0.5f, h0 = stretch.h0;
  const float dx = (stretch.u1 - stretch.u0) * size, dy = (stretch.v1 - stretch.v0) * size,
              dh = stretch.h1 - stretch.h0;
  const float per_x = dx != 0 ? 1 / dx : kNever, per_y = dy != 0 ? 1 / dy : kNever, per_h = dh != 0 ? 1 / dh : kNever;
  const int on_x = dx > 0, on_y = dy > 0, top = static_cast<int>(l.most.size()) - 1;
  // Begins where a cell is about as wide as the stretch is long.
  const auto longer = static_cast<unsigned>(std::min(std::max(std::abs(dx), std::abs(dy)), 1e6f));
  int k = std::min(static_cast<int>(std::bit_width(longer)), top);
  int x = whole_below(x0) >> k, y = whole_below(y0) >> k;
  for (float t = 0;;) {
    const auto side = static_cast<float>(1 << k);
    const float out_x = dx != 0 ? (static_cast<float>(x + on_x) * side - x0) * per_x : kNever,
                out_y = dy != 0 ? (static_cast<float>(y + on_y) * side - y0) * per_y : kNever;
    const float out = std::max(std::min({out_x, out_y, 1.0f}), t);
    const float h_in = h0 + dh * t, h_out = h0 + dh * out;
    const int cells = l.size >> k;
    const float most = l.most[static_cast<std::size_t>(k)][at(wrap(x, cells), wrap(y, cells), cells)];
    if (std::min(h_in, h_out) <= most) {
      if (k > 0) {
        if (h_in > most && dh < 0) t = std::clamp((most - h0) * per_h, t, out);  // above it until there
        --k;
        const auto half = static_cast<float>(1 << k);
        x = 2 * x + (x0 + dx * t >= static_cast<float>(2 * x + 1) * half);
        y = 2 * y + (y0 + dy * t >= static_cast<float>(2 * y + 1) * half);
        continue;
      }
      const Patch p = patch(l, x, y);
      const float fx = x0 + dx * t - static_cast<float>(x), fy = y0 + dy * t - static_cast<float>(y);
      const float above = h_in - (p.corner + p.along_x * fx + p.along_y * fy + p.twist * fx * fy);
      if (above <= 0) return t;
      const float slope = dh - (p.along_x * dx + p.along_y * dy + p.twist * (fx * dy + fy * dx));
      if (const auto root = first_root(-p.twist * dx * dy, slope, above, out - t)) return t + *root;
    }
    if (!(out < 1)) return {};
    t = out;
    bool leaves;  // the cell that holds four of these
    if (out_x < out_y) {
      x += on_x ? 1 : -1;
      leaves = (x & 1) != on_x;
    } else {
      y += on_y ? 1 : -1;
      leaves = (y & 1) != on_y;
    }
    if (leaves && k < top) ++k, x >>= 1, y >>= 1;
  }
}

ReliefField::Ground ReliefField::ground(float u, float v, int level) const {
  const Level& l = levels_[static_cast<std::size_t>(std::clamp(level, 0, levels() - 1))];
  const auto size = static_cast<float>(l.size);
  const float x = fraction(u) * size - 0.5f, y = fraction(v) * size - 0.5f;
  const float fx = fraction(x), fy = fraction(y);
  const Patch p = patch(l, whole_below(x), whole_below(y));
  return {p.corner + p.along_x * fx + p.along_y * fy + p.twist * fx * fy, (p.along_x + p.twist * fy) * size,
          (p.along_y + p.twist * fx) * size};
}

}  // namespace loom
