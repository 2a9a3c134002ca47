// Exact distance on the torus with the nearest source: a column pass over wide panels, then rows.
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/plane/distance.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <vector>

#include "core/base/parallel.h"
#include "core/plane/filters.h"

#ifndef LOOM_DISTANCE_NEAR
#define LOOM_DISTANCE_NEAR
namespace loom {
constexpr int kNear = 8;    // columns on each side that are asked whether they beat one
constexpr int kBlock = 32;  // columns that are bounded together
}  // namespace loom
#endif

HWY_BEFORE_NAMESPACE();
namespace loom::HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;

// One step down (or up) a panel of columns: rows since the last source, saturated. Plain loops: the compiler vectorises
// them for each instruction set.
void column_step(const float* HWY_RESTRICT mask, float level, int width, std::int16_t* HWY_RESTRICT since,
                 std::int16_t* HWY_RESTRICT out) {
  for (int x = 0; x < width; ++x) {
    const std::int16_t next = static_cast<std::int16_t>(since[x] < 16000 ? since[x] + 1 : 16000);
    const std::int16_t d = mask[x] >= level ? std::int16_t{0} : next;
    since[x] = d;
    out[x] = d;
  }
}

// `out` holds rows since the last source above; keep the nearer of that and the one below, negative for above.
void column_back(const float* HWY_RESTRICT mask, float level, int width, std::int16_t* HWY_RESTRICT since,
                 std::int16_t* HWY_RESTRICT out) {
  for (int x = 0; x < width; ++x) {
    const std::int16_t next = static_cast<std::int16_t>(since[x] < 16000 ? since[x] + 1 : 16000);
    const std::int16_t d = mask[x] >= level ? std::int16_t{0} : next;
    since[x] = d;
    const std::int16_t up = out[x];
    out[x] = d < up ? d : static_cast<std::int16_t>(-up);
  }
}

// Squares of the column distances, with `reach` wrapped samples on both sides; returns the largest.
std::int32_t square_row(const std::int16_t* HWY_RESTRICT column, int size, std::int32_t limit,
                        std::int32_t* HWY_RESTRICT squares) {
  std::int32_t most = 0;
  for (int x = 0; x < size; ++x) {
    const std::int32_t g = column[x];
    const std::int32_t square = g * g;
    squares[x] = square < limit ? square : limit;
    most = squares[x] > most ? squares[x] : most;
  }
  return most;
}

// The least and the largest of every block of a row.
void bound_blocks(const std::int32_t* HWY_RESTRICT squares, int blocks, std::int32_t* HWY_RESTRICT least,
                  std::int32_t* HWY_RESTRICT most) {
  const hn::CappedTag<std::int32_t, kBlock> d;
  for (int i = 0; i < blocks; ++i) {
    auto low = hn::LoadU(d, squares + i * kBlock), high = low;
    for (int k = static_cast<int>(hn::Lanes(d)); k < kBlock; k += static_cast<int>(hn::Lanes(d))) {
      const auto here = hn::LoadU(d, squares + i * kBlock + k);
      low = hn::Min(low, here), high = hn::Max(high, here);
    }
    least[i] = hn::GetLane(hn::MinOfLanes(d, low)), most[i] = hn::GetLane(hn::MaxOfLanes(d, high));
  }
}

// Which steps outwards a block has to try whose columns are all alike, by bits: bit m for steps 32 m + 1 to 32 m + 32.
// Nothing comes from a block whose least, with the way there, is no less than what is here.
std::uint32_t steps_needed(const std::int32_t* least, std::int32_t here, int block, int blocks, int reach) {
  std::uint32_t needed = 0;
  for (int j = 1; (j - 1) * kBlock < reach; ++j) {
    const std::int32_t gap = (j - 1) * kBlock + 1,
                       nearest = std::min(least[(block + j) & (blocks - 1)], least[(block - j) & (blocks - 1)]);
    if (gap * gap >= here) break;
    if (gap * gap + nearest < here) needed |= 3u << (j - 1);
  }
  return needed;
}

using DI = hn::ScalableTag<std::int32_t>;
using I = hn::Vec<DI>;

// Steps outwards from a vector of texels, until no farther column can be nearer.
HWY_INLINE void search_steps(const std::int32_t* squares, int first, int last, I& least, I& at) {
  const DI d;
  for (int k = first; k <= last; ++k) {
    const auto far = hn::Set(d, k * k);
    if (hn::AllTrue(d, hn::Lt(least, far))) break;
    const auto right = hn::Add(hn::LoadU(d, squares + k), far), left = hn::Add(hn::LoadU(d, squares - k), far);
    const auto better = hn::Lt(right, least);
    least = hn::Min(least, right);
    at = hn::IfThenElse(better, hn::Set(d, k), at);
    const auto better_left = hn::Lt(left, least);
    least = hn::Min(least, left);
    at = hn::IfThenElse(better_left, hn::Set(d, -k), at);
  }
}

// The nearest of each texel. `squares` is padded by `reach` on both sides; `least_of` and `most_of` bound its blocks,
// if any are given.
void search_block(const std::int32_t* squares, int width, int reach, const std::int32_t* least_of,
                  const std::int32_t* most_of, int blocks, std::int32_t* HWY_RESTRICT best,
                  std::int32_t* HWY_RESTRICT from) {
  const DI d;
  bool alike = false;
  std::uint32_t needed = 0;
  for (int x = 0; x < width; x += static_cast<int>(hn::Lanes(d))) {
    if (blocks > 0 && x % kBlock == 0) {
      const int block = x / kBlock;
      alike = least_of[block] == most_of[block];
      if (alike) needed = steps_needed(least_of, most_of[block], block, blocks, reach);
    }
    I least = hn::LoadU(d, squares + x), at = hn::Zero(d);
    if (!alike)
      search_steps(squares + x, 1, reach, least, at);
    else
      for (int m = 0; needed >> m; ++m)
        if (needed >> m & 1) search_steps(squares + x, m * kBlock + 1, std::min((m + 1) * kBlock, reach), least, at);
    hn::StoreU(least, d, best + x);
    hn::StoreU(at, d, from + x);
  }
}

// Marks the columns that the lower envelope may hold. A parabola that is beaten at its own place from both sides is
// nowhere the lowest: two of them differ by a straight line. `squares` is padded by kNear on both sides.
void mark_candidates(const std::int32_t* squares, int size, std::int32_t* HWY_RESTRICT keep) {
  const hn::ScalableTag<std::int32_t> d;
  for (int x = 0; x < size; x += static_cast<int>(hn::Lanes(d))) {
    const auto here = hn::LoadU(d, squares + x);
    auto left = here, right = here;
    for (int k = 1; k <= kNear; ++k) {
      const auto far = hn::Set(d, k * k);
      left = hn::Min(left, hn::Add(hn::LoadU(d, squares + x - k), far));
      right = hn::Min(right, hn::Add(hn::LoadU(d, squares + x + k), far));
    }
    const auto beaten = hn::And(hn::Lt(left, here), hn::Lt(right, here));
    hn::StoreU(hn::IfThenZeroElse(beaten, hn::Set(d, 1)), d, keep + x);
  }
}

void finish_row(const std::int32_t* HWY_RESTRICT best, int size, float* HWY_RESTRICT out) {
  const hn::ScalableTag<float> d;
  const hn::RebindToSigned<decltype(d)> di;
  for (int x = 0; x < size; x += static_cast<int>(hn::Lanes(d)))
    hn::Store(hn::Sqrt(hn::ConvertTo(d, hn::LoadU(di, best + x))), d, out + x);
}

// The row and column of the nearest source as one index.
void nearest_row(const std::int32_t* HWY_RESTRICT from, const std::int16_t* HWY_RESTRICT column, int y, int size,
                 std::int32_t* HWY_RESTRICT nearest) {
  const int mask = size - 1;
  for (int x = 0; x < size; ++x) {
    const int sx = (x + from[x]) & mask;
    nearest[x] = ((y + column[sx]) & mask) * size + sx;
  }
}

void smooth_row(const float* HWY_RESTRICT distance, const std::int32_t* HWY_RESTRICT nearest,
                const float* HWY_RESTRICT mask, int size, float sign, float base, float* HWY_RESTRICT out) {
  for (int x = 0; x < size; ++x) {
    const float coverage = base + sign * mask[nearest[x]];
    const float d = distance[x] - (std::fmin(std::fmax(coverage, 0.5f), 1.0f) - 0.5f);
    out[x] = d > 0 ? d : 0;
  }
}

}  // namespace loom::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace loom {

HWY_EXPORT(column_step);
HWY_EXPORT(column_back);
HWY_EXPORT(square_row);
HWY_EXPORT(bound_blocks);
HWY_EXPORT(search_block);
HWY_EXPORT(mark_candidates);
HWY_EXPORT(finish_row);
HWY_EXPORT(nearest_row);
HWY_EXPORT(smooth_row);

namespace {

constexpr std::int16_t kNone = 16000;
constexpr int kPanel = 1024;
constexpr int kSearch = 256;  // columns; rows with farther sources take the envelope

void column_pass(const Plane& mask, float level, std::int16_t* column, const Stop& stop) {
  const int size = mask.size(), width = std::min(size, std::max(kPanel, size / 2));
  for_rows(size / width, 1, stop, [&](int first, int last) {
    std::vector<std::int16_t> since(static_cast<std::size_t>(width)), unused(static_cast<std::size_t>(width));
    for (int panel = first; panel < last; ++panel) {
      const int x = panel * width;
      const auto out = [&](int y) { return column + static_cast<std::size_t>(y) * static_cast<std::size_t>(size) + x; };
      std::fill(since.begin(), since.end(), kNone);
      // The state that wraps into row 0: climb from the last row only until every column has met a source.
      int open = width;
      for (int y = size - 1; y >= 0 && open > 0; --y) {
        const float* m = mask.row(y) + x;
        for (int i = 0; i < width; ++i)
          if (since[static_cast<std::size_t>(i)] == kNone && m[i] >= level)
            since[static_cast<std::size_t>(i)] = static_cast<std::int16_t>(size - 1 - y), --open;
      }
      for (int y = 0; y < size; ++y)
        HWY_DYNAMIC_DISPATCH(column_step)(mask.row(y) + x, level, width, since.data(), out(y));
      std::fill(since.begin(), since.end(), kNone);
      open = width;
      for (int y = 0; y < size && open > 0; ++y) {
        const float* m = mask.row(y) + x;
        for (int i = 0; i < width; ++i)
          if (since[static_cast<std::size_t>(i)] == kNone && m[i] >= level)
            since[static_cast<std::size_t>(i)] = static_cast<std::int16_t>(y), --open;
      }
      for (int y = size - 1; y >= 0 && !stop.asked(); --y)
        HWY_DYNAMIC_DISPATCH(column_back)(mask.row(y) + x, level, width, since.data(), out(y));
    }
  });
}

// A bound for how far along the row any texel's nearest source lies: no texel of a block is farther from it than from
// the best column of a block nearby.
int reach_needed(const std::vector<std::int32_t>& least, int size) {
  const int blocks = static_cast<int>(least.size());
  if (blocks < 1) return size / 2;
  std::int32_t most = 0;
  for (int i = 0; i < blocks; ++i) {
    std::int32_t bound = least[static_cast<std::size_t>(i)] + kBlock * kBlock;
    for (int j = 1; j <= kSearch / kBlock && j < blocks; ++j) {
      const std::int32_t far = (j + 1) * kBlock * (j + 1) * kBlock;
      bound = std::min({bound, least[static_cast<std::size_t>((i + j) & (blocks - 1))] + far,
                        least[static_cast<std::size_t>((i - j) & (blocks - 1))] + far});
    }
    most = std::max(most, bound);
  }
  return static_cast<int>(std::ceil(std::sqrt(static_cast<double>(most)))) + 1;
}

struct Envelope {
  std::vector<std::int32_t> keep;
  std::vector<int> at;
  std::vector<double> from;
};

// Lower envelope of parabolas over one row that is cut at its smallest entry: nothing beats that one across the cut.
void envelope_row(const std::int32_t* squares, int size, Envelope& e, std::int32_t* best, std::int32_t* from) {
  const int cut = static_cast<int>(std::min_element(squares, squares + size) - squares);
  const auto square = [&](int i) { return squares[(cut + i) & (size - 1)]; };
  e.keep.resize(static_cast<std::size_t>(size) + 16);
  HWY_DYNAMIC_DISPATCH(mark_candidates)(squares, size, e.keep.data());
  e.at.clear();
  e.from.clear();
  for (int i = 0; i <= size; ++i) {
    if (!e.keep[static_cast<std::size_t>((cut + i) & (size - 1))]) continue;
    double meet = -1;
    while (!e.at.empty()) {
      const int j = e.at.back();
      meet = static_cast<double>(static_cast<std::int64_t>(square(i)) - square(j) + static_cast<std::int64_t>(i) * i -
                                 static_cast<std::int64_t>(j) * j) /
             (2.0 * (i - j));
      if (meet > e.from.back()) break;
      e.at.pop_back();
      e.from.pop_back();
    }
    if (e.at.empty()) meet = -1;
    e.at.push_back(i);
    e.from.push_back(meet);
  }
  std::size_t k = 0;
  for (int i = 0; i < size; ++i) {
    while (k + 1 < e.at.size() && e.from[k + 1] < i) ++k;
    const int x = (cut + i) & (size - 1), gap = e.at[k] - i;
    best[x] = gap * gap + square(e.at[k]);
    from[x] = gap;
  }
}

}  // namespace

DistanceField distance_to(const Plane& mask, float level, const Stop& stop, float limit) {
  const int size = mask.size();
  const std::size_t count = mask.texels();
  DistanceField field{Plane(size), pooled<std::int32_t>(count)};
  const Pooled<std::int16_t> column = pooled<std::int16_t>(count);
  column_pass(mask, level, column.get(), stop);
  const auto most_square = static_cast<std::int32_t>(
      std::min(std::ceil(static_cast<double>(limit)) * std::ceil(static_cast<double>(limit)), 2.0 * kNone * kNone));
  for_rows(size, 16, stop, [&](int first, int last) {
    const int reach = std::min(kSearch, size / 2);
    std::vector<std::int32_t> padded(static_cast<std::size_t>(size + 2 * reach) + 64),
        best(static_cast<std::size_t>(size) + 16), from(static_cast<std::size_t>(size) + 16);
    const int blocks = size / kBlock;
    std::vector<std::int32_t> least(static_cast<std::size_t>(blocks)), largest(static_cast<std::size_t>(blocks));
    Envelope envelope;
    for (int y = first; y < last && !stop.asked(); ++y) {
      const std::int16_t* g = column.get() + static_cast<std::size_t>(y) * static_cast<std::size_t>(size);
      std::int32_t* squares = padded.data() + reach;
      const std::int32_t most = HWY_DYNAMIC_DISPATCH(square_row)(g, size, most_square, squares);
      std::int32_t* nearest = field.nearest.get() + static_cast<std::size_t>(y) * static_cast<std::size_t>(size);
      for (int k = 0; k < reach; ++k) squares[-1 - k] = squares[size - 1 - k], squares[size + k] = squares[k];
      // No texel is farther from its source than its own column is: the search need not go beyond that. Where all are
      // near, bounds save less than they take.
      const bool near = most < reach * reach;
      const int bounded = near && most <= 4 * kBlock * kBlock ? 0 : blocks;
      HWY_DYNAMIC_DISPATCH(bound_blocks)(squares, bounded, least.data(), largest.data());
      if (near || reach_needed(least, size) <= reach) {
        HWY_DYNAMIC_DISPATCH(search_block)
        (squares, size, reach, least.data(), largest.data(), bounded, best.data(), from.data());
      } else {
        envelope_row(squares, size, envelope, best.data(), from.data());
      }
      HWY_DYNAMIC_DISPATCH(finish_row)(best.data(), size, field.distance.row(y));
      HWY_DYNAMIC_DISPATCH(nearest_row)(from.data(), g, y, size, nearest);
      if (std::abs(static_cast<int>(g[0])) >= kNone &&
          std::all_of(g, g + size, [](std::int16_t d) { return std::abs(static_cast<int>(d)) >= kNone; })) {
        std::fill_n(field.distance.row(y), size, kFar);
        std::fill_n(nearest, size, -1);
      }
    }
  });
  return field;
}

Plane smooth_distance(const DistanceField& field, const Plane& mask, bool inverted, const Stop& stop) {
  const int size = mask.size();
  Plane out(size);
  for_rows(size, 32, stop, [&](int first, int last) {
    for (int y = first; y < last; ++y) {
      const std::int32_t* nearest = field.nearest.get() + static_cast<std::size_t>(y) * static_cast<std::size_t>(size);
      if (nearest[0] < 0)
        std::fill_n(out.row(y), size, kFar);
      else
        HWY_DYNAMIC_DISPATCH(smooth_row)
      (field.distance.row(y), nearest, mask.data(), size, inverted ? -1.0f : 1.0f, inverted ? 1.0f : 0.0f, out.row(y));
    }
  });
  return out;
}

}  // namespace loom
#endif
