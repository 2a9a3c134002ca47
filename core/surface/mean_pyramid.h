// Planes laid side by side, texel by texel, with their means: what shading reads at a point in one go.
#pragma once
#include <array>
#include <atomic>
#include <mutex>
#include <optional>
#include <vector>

#include "core/base/parallel.h"
#include "core/base/scalar.h"
#include "core/plane/plane.h"

namespace loom {

/// `N` planes of one size. The finest level is laid only when it is wanted: a small picture of large maps never does.
template <std::size_t N>
class MeanPyramid {
 public:
  using Texel = std::array<float, N>;
  using Planes = std::array<const Plane*, N>;  ///< null: `start` everywhere

  /// The planes stay where they are as long as this lives.
  MeanPyramid(const Planes& planes, const Texel& start, int size) : planes_(planes), start_(start), size_(size) {
    coarser_.emplace_back(size / 2);
    for_rows(size / 2, 16, Stop{}, [&](int first, int last) {
      for (int y = first; y < last; ++y) lay_half_row(y);
    });
    while (coarser_.back().size > 1) halve();
  }

  int size() const { return size_; }
  /// To be called before footprints as small as this are read; without it the finest level may be the second.
  void want(float footprint) const {
    if (footprint * static_cast<float>(size_) < 2) std::call_once(finest_laid_, [this] { lay_finest(); });
  }
  /// Bilinear between texels and linear between levels; `footprint` in shares of the tile.
  Texel at(float u, float v, float footprint) const {
    u = fraction(u);
    v = fraction(v);
    const Level* const finest = finest_.load(std::memory_order_acquire);
    const auto level = [&](std::size_t i) -> const Level& { return i > 0 ? coarser_[i - 1] : *finest; };
    const float wanted = std::clamp(std::log2(std::max(footprint * static_cast<float>(size_), 1.0f)),
                                    finest ? 0.0f : 1.0f, static_cast<float>(coarser_.size()));
    const auto low = static_cast<std::size_t>(wanted);
    const float t = wanted - static_cast<float>(low);
    Texel x = bilinear(level(low), u, v);
    if (t > 0.01f && low < coarser_.size()) {
      const Texel y = bilinear(level(low + 1), u, v);
      for (std::size_t k = 0; k < N; ++k) x[k] += (y[k] - x[k]) * t;
    }
    return x;
  }

 private:
  struct Level {
    explicit Level(int width)
        : size(width), data(pooled<float>(N * static_cast<std::size_t>(width) * static_cast<std::size_t>(width))) {}
    float* at(int x, int y) {
      return data.get() +
             N * (static_cast<std::size_t>(y) * static_cast<std::size_t>(size) + static_cast<std::size_t>(x));
    }
    const float* at(int x, int y) const { return const_cast<Level*>(this)->at(x, y); }
    int size;
    Pooled<float> data;
  };

  // One row, interleaved: of each plane, or of what it has everywhere.
  template <class Value>
  void lay_row(Level& level, int y, const Value& value) const {
    for (std::size_t c = 0; c < N; ++c) {
      float* to = level.at(0, y) + c;
      for (int x = 0; x < level.size; ++x, to += N) *to = planes_[c] ? value(*planes_[c], x) : start_[c];
    }
  }
  void lay_half_row(int y) {
    lay_row(coarser_[0], y, [y](const Plane& plane, int x) {
      const float *a = plane.row(2 * y), *b = plane.row(2 * y + 1);
      return 0.25f * (a[2 * x] + a[2 * x + 1] + b[2 * x] + b[2 * x + 1]);
    });
  }
  void lay_finest() const {
    finest_store_.emplace(size_);
    for_rows(size_, 16, Stop{}, [&](int first, int last) {
      for (int y = first; y < last; ++y)
        lay_row(*finest_store_, y, [y](const Plane& plane, int x) { return plane.row(y)[x]; });
    });
    finest_.store(&*finest_store_, std::memory_order_release);
  }
  void halve() {
    const Level& fine = coarser_.back();
    Level coarse(fine.size / 2);
    for_rows(coarse.size, 32, Stop{}, [&](int first, int last) {
      for (int y = first; y < last; ++y) {
        const float *a = fine.at(0, 2 * y), *b = fine.at(0, 2 * y + 1);
        float* to = coarse.at(0, y);
        for (int x = 0; x < coarse.size; ++x, a += 2 * N, b += 2 * N, to += N)
          for (std::size_t c = 0; c < N; ++c) to[c] = 0.25f * (a[c] + a[N + c] + b[c] + b[N + c]);
      }
    });
    coarser_.push_back(std::move(coarse));
  }
  static Texel bilinear(const Level& level, float u, float v) {
    const float x = u * static_cast<float>(level.size) - 0.5f, y = v * static_cast<float>(level.size) - 0.5f;
    const int x0 = whole_below(x), y0 = whole_below(y);
    const float tx = x - static_cast<float>(x0), ty = y - static_cast<float>(y0);
    const int left = wrap(x0, level.size), right = wrap(x0 + 1, level.size), up = wrap(y0, level.size),
              down = wrap(y0 + 1, level.size);
    const float *a = level.at(left, up), *b = level.at(right, up), *c = level.at(left, down),
                *d = level.at(right, down);
    const float wa = (1 - tx) * (1 - ty), wb = tx * (1 - ty), wc = (1 - tx) * ty, wd = tx * ty;
    Texel out;
    for (std::size_t k = 0; k < N; ++k) out[k] = wa * a[k] + wb * b[k] + wc * c[k] + wd * d[k];
    return out;
  }

  Planes planes_;
  Texel start_;
  int size_;
  std::vector<Level> coarser_;  // from half the size on
  mutable std::once_flag finest_laid_;
  mutable std::optional<Level> finest_store_;
  mutable std::atomic<const Level*> finest_{nullptr};  // null until it is laid
};

}  // namespace loom
