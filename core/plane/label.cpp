// Connected regions on the torus: runs along rows, joined by a union-find that knows how many tiles apart they lie.
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/plane/label.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <cstring>
#include <functional>
#include <vector>

#include "core/base/hash.h"
#include "core/base/parallel.h"
#include "core/plane/filters.h"

HWY_BEFORE_NAMESPACE();
namespace loom::HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;

// One bit a texel: at or above the level. `size` is a multiple of 16.
void mask_bits(const float* HWY_RESTRICT row, int size, float level, std::uint8_t* HWY_RESTRICT bits) {
  const hn::CappedTag<float, 8> d;
  const int n = static_cast<int>(hn::Lanes(d));
  if (n == 8) {
    for (int x = 0; x < size; x += 8)
      hn::StoreMaskBits(d, hn::Ge(hn::Load(d, row + x), hn::Set(d, level)), bits + x / 8);
  } else {
    for (int x = 0; x < size; x += 8) {
      unsigned byte = 0;
      for (int i = 0; i < 8; ++i) byte |= static_cast<unsigned>(row[x + i] >= level) << i;
      bits[x / 8] = static_cast<std::uint8_t>(byte);
    }
  }
}

}  // namespace loom::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace loom {

HWY_EXPORT(mask_bits);

namespace {

struct Run {
  int from, to;   // [from, to)
  int label = 0;  // runs of different labels do not join
};
using Runs = std::vector<std::vector<Run>>;  // row by row

std::vector<Run> runs_of(const float* row, int size, float level) {
  std::vector<std::uint8_t> bytes(static_cast<std::size_t>(size) / 8 + 8, 0);
  HWY_DYNAMIC_DISPATCH(mask_bits)(row, size, level, bytes.data());
  std::vector<Run> runs;
  unsigned carry = 0;
  int start = 0;
  for (int x = 0; x < size; x += 64) {
    std::uint64_t word = 0;
    std::memcpy(&word, bytes.data() + x / 8, std::min(8, (size - x) / 8));
    std::uint64_t edges = word ^ (word << 1 | carry);
    const int width = std::min(64, size - x);
    if (width < 64) edges &= (std::uint64_t{1} << width) - 1;
    while (edges) {
      const int at = x + __builtin_ctzll(edges);
      edges &= edges - 1;
      if (word >> (at - x) & 1)
        start = at;
      else
        runs.push_back({start, at});
    }
    carry = static_cast<unsigned>(word >> (width - 1) & 1);
  }
  if (carry) runs.push_back({start, size});
  return runs;
}

// Spans of one label; -1 is none.
std::vector<Run> label_runs_of(const float* row, int size) {
  std::vector<Run> runs;
  for (int x = 0; x < size;) {
    const int from = x;
    while (x < size && row[x] == row[from]) ++x;
    if (row[from] >= 0) runs.push_back({from, x, static_cast<int>(row[from])});
  }
  return runs;
}

// Each run knows its parent and how many whole tiles it lies away from it. A loop whose ends differ runs round the
// torus.
class Forest {
 public:
  explicit Forest(std::size_t n) : parent_(n), du_(n, 0), dv_(n, 0), round_u_(n, 0), round_v_(n, 0) {
    for (std::size_t i = 0; i < n; ++i) parent_[i] = static_cast<int>(i);
  }
  struct Place {
    int root, du, dv;
  };
  Place find(int i) {
    int root = i, u = 0, v = 0;
    while (parent_[at(root)] != root) u += du_[at(root)], v += dv_[at(root)], root = parent_[at(root)];
    int step = i, su = u, sv = v;
    while (parent_[at(step)] != root && step != root) {  // everyone on the way points at the root from now on
      const int next = parent_[at(step)], nu = su - du_[at(step)], nv = sv - dv_[at(step)];
      parent_[at(step)] = root;
      du_[at(step)] = static_cast<std::int16_t>(su);
      dv_[at(step)] = static_cast<std::int16_t>(sv);
      step = next, su = nu, sv = nv;
    }
    return {root, u, v};
  }
  /// Run b, moved by (u, v) tiles, touches run a.
  void join(int a, int b, int u, int v) {
    const Place p = find(a), q = find(b);
    const int shift_u = u + p.du - q.du, shift_v = v + p.dv - q.dv;  // of b's frame within a's
    if (p.root == q.root) {
      if (shift_u) round_u_[at(p.root)] = 1;
      if (shift_v) round_v_[at(p.root)] = 1;
      return;
    }
    // The earlier run stays the root, so that regions are numbered as they appear.
    const bool keep_a = p.root < q.root;
    const int root = keep_a ? p.root : q.root, child = keep_a ? q.root : p.root;
    parent_[at(child)] = root;
    du_[at(child)] = static_cast<std::int16_t>(keep_a ? shift_u : -shift_u);
    dv_[at(child)] = static_cast<std::int16_t>(keep_a ? shift_v : -shift_v);
    round_u_[at(root)] |= round_u_[at(child)];
    round_v_[at(root)] |= round_v_[at(child)];
  }
  bool round_u(int root) const { return round_u_[at(root)] != 0; }
  bool round_v(int root) const { return round_v_[at(root)] != 0; }

 private:
  static std::size_t at(int i) { return static_cast<std::size_t>(i); }
  std::vector<int> parent_;
  std::vector<std::int16_t> du_, dv_;
  std::vector<char> round_u_, round_v_;
};

// Of one region: its texels' number and mean place, and its extent along its own axes, in texels.
struct Sum {
  explicit Sum(Turn turn) : cosine(turn.cosine), sine(turn.sine) {}
  double u = 0, v = 0, area = 0, cosine, sine;
  double least_x = 1e9, most_x = -1e9, least_y = 1e9, most_y = -1e9;
  void reach(int at_u, int at_v) {
    const double x = at_u * cosine - at_v * sine, y = at_u * sine + at_v * cosine;
    least_x = std::min(least_x, x), most_x = std::max(most_x, x);
    least_y = std::min(least_y, y), most_y = std::max(most_y, y);
  }
};

using TurnOf = std::function<Turn(int label, int x, int y)>;

Labels joined(const Runs& rows, int size, bool corners, const TurnOf& turn_of, const Stop& stop) {
  std::vector<int> base(static_cast<std::size_t>(size) + 1, 0);
  for (int y = 0; y < size; ++y)
    base[static_cast<std::size_t>(y) + 1] =
        base[static_cast<std::size_t>(y)] + static_cast<int>(rows[static_cast<std::size_t>(y)].size());
  Forest forest(static_cast<std::size_t>(base.back()));
  const int touch = corners ? 1 : 0;
  for (int y = 0; y < size && !stop.asked(); ++y) {
    const auto& here = rows[static_cast<std::size_t>(y)];
    const int below = wrap(y + 1, size), down = y + 1 == size ? 1 : 0;
    const auto& next = rows[static_cast<std::size_t>(below)];
    const int a0 = base[static_cast<std::size_t>(y)], b0 = base[static_cast<std::size_t>(below)];
    if (here.empty()) continue;
    if (here.front().from == 0 && here.back().to == size && here.front().label == here.back().label)
      forest.join(a0 + static_cast<int>(here.size()) - 1, a0, 1, 0);
    for (std::size_t i = 0, j = 0; i < here.size() && j < next.size();) {
      if (here[i].from < next[j].to + touch && next[j].from < here[i].to + touch && here[i].label == next[j].label)
        forest.join(a0 + static_cast<int>(i), b0 + static_cast<int>(j), 0, down);
      if (here[i].to < next[j].to)
        ++i;
      else
        ++j;
    }
    if (corners && !next.empty()) {  // diagonal over the seam along u
      if (here.front().from == 0 && next.back().to == size)
        forest.join(a0, b0 + static_cast<int>(next.size()) - 1, -1, down);
      if (here.back().to == size && next.front().from == 0)
        forest.join(a0 + static_cast<int>(here.size()) - 1, b0, 1, down);
    }
  }
  // Number the roots as they appear, gather sums in row order.
  std::vector<int> number(static_cast<std::size_t>(base.back()), -1), of_run(static_cast<std::size_t>(base.back()));
  std::vector<int> root_of, label_of;
  std::vector<Sum> sums;
  for (int y = 0; y < size; ++y)
    for (std::size_t i = 0; i < rows[static_cast<std::size_t>(y)].size(); ++i) {
      const int run = base[static_cast<std::size_t>(y)] + static_cast<int>(i);
      const auto place = forest.find(run);
      int& n = number[static_cast<std::size_t>(place.root)];
      const Run& r = rows[static_cast<std::size_t>(y)][i];
      if (n < 0) {
        n = static_cast<int>(sums.size());
        sums.emplace_back(turn_of(r.label, r.from, y));
        root_of.push_back(place.root);
        label_of.push_back(r.label);
      }
      of_run[static_cast<std::size_t>(run)] = n;
      Sum& s = sums[static_cast<std::size_t>(n)];
      const int u0 = r.from + place.du * size, u1 = r.to + place.du * size, v = y + place.dv * size;
      s.area += r.to - r.from;
      s.u += 0.5 * (u0 + u1) * (r.to - r.from);
      s.v += (v + 0.5) * (r.to - r.from);
      s.reach(u0, v);
      s.reach(u1, v + 1);
      if (s.sine == 0) continue;
      s.reach(u0, v + 1);
      s.reach(u1, v);
    }
  Labels labels{Plane(size), {}, std::move(label_of)};
  labels.table.resize(sums.size());
  const float texel = 1.0f / static_cast<float>(size);
  for (std::size_t i = 0; i < sums.size(); ++i) {
    const Sum& s = sums[i];
    RegionTable& t = labels.table;
    const bool ru = forest.round_u(root_of[i]), rv = forest.round_v(root_of[i]);
    const auto fraction = [](double x) { return static_cast<float>(x - std::floor(x)); };
    t.key[i] = pcg(static_cast<std::uint32_t>(i) + 1);
    t.centre_u[i] = fraction(s.u / s.area / size);
    t.centre_v[i] = fraction(s.v / s.area / size);
    t.size_u[i] = ru ? 1 : std::min(1.0f, static_cast<float>(s.most_x - s.least_x) * texel);
    t.size_v[i] = rv ? 1 : std::min(1.0f, static_cast<float>(s.most_y - s.least_y) * texel);
    t.cosine[i] = static_cast<float>(s.cosine);
    t.sine[i] = static_cast<float>(s.sine);
    const auto corner_u = [&](double x, double y) { return x * s.cosine + y * s.sine; };
    const auto corner_v = [&](double x, double y) { return y * s.cosine - x * s.sine; };
    t.box_u[i] = ru ? 0 : fraction(corner_u(s.least_x, s.least_y) / size);
    t.box_v[i] = rv ? 0 : fraction(corner_v(s.least_x, s.least_y) / size);
    if (s.sine != 0) {  // within a turned box one counts from its middle
      const double x = 0.5 * (s.least_x + s.most_x), y = 0.5 * (s.least_y + s.most_y);
      t.centre_u[i] = fraction(corner_u(x, y) / size);
      t.centre_v[i] = fraction(corner_v(x, y) / size);
    }
    t.area[i] = static_cast<float>(s.area / (static_cast<double>(size) * size));
  }
  for_rows(size, 32, stop, [&](int first, int last) {
    for (int y = first; y < last; ++y) {
      float* out = labels.index.row(y);
      std::fill_n(out, size, -1.0f);
      const auto& runs = rows[static_cast<std::size_t>(y)];
      for (std::size_t i = 0; i < runs.size(); ++i)
        std::fill(out + runs[i].from, out + runs[i].to,
                  static_cast<float>(of_run[static_cast<std::size_t>(base[static_cast<std::size_t>(y)]) + i]));
    }
  });
  return labels;
}

}  // namespace

Labels label_regions(const Plane& mask, float level, bool corners, const Stop& stop) {
  const int size = mask.size();
  Runs rows(static_cast<std::size_t>(size));
  for_rows(size, 32, stop, [&](int first, int last) {
    for (int y = first; y < last; ++y) rows[static_cast<std::size_t>(y)] = runs_of(mask.row(y), size, level);
  });
  return joined(
      rows, size, corners, [](int, int, int) { return Turn{}; }, stop);
}

Labels label_parts(const Plane& labels, const RegionTable& table, const TurnOf& turn_of, const Stop& stop) {
  const int size = labels.size();
  Runs rows(static_cast<std::size_t>(size));
  for_rows(size, 32, stop, [&](int first, int last) {
    for (int y = first; y < last; ++y) rows[static_cast<std::size_t>(y)] = label_runs_of(labels.row(y), size);
  });
  Labels parts = joined(rows, size, false, turn_of, stop);
  for (std::size_t i = 0; i < parts.table.count(); ++i)
    parts.table.key[i] = table.key[static_cast<std::size_t>(parts.label_of[i])];
  return parts;
}

}  // namespace loom
#endif
