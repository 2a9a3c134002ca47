// A tree over the pieces of strokes, and the kernel that asks it.
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/program/painted_space.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include <algorithm>
#include <cmath>

#include "core/plane/rim-inl.h"
#include "core/program/painted_space.h"

#ifndef LOOM_CELL_OF_SPACE
#define LOOM_CELL_OF_SPACE
namespace loom {

inline bool lies_in(const PaintedSpace::Box& box, const std::array<float, 3>& p) {
  for (std::size_t i = 0; i < 3; ++i)
    if (!(p[i] >= box.low[i] && p[i] < box.high[i])) return false;
  return true;
}

// The cell that a place lies in, and its box; places lie side by side, so that the next one mostly lies there too.
class CellFinder {
 public:
  static constexpr std::uint32_t kNone = 0xffffffff;
  explicit CellFinder(const PaintedSpace& space) : space_(space) {}
  std::uint32_t at(const std::array<float, 3>& p) {
    if (last_ != kNone && lies_in(box_, p)) return last_;
    if (!lies_in(space_.box, p)) return kNone;
    box_ = space_.box;
    std::uint32_t cell = 0;
    while (space_.cells[cell].axis < 3) {
      const PaintedSpace::Cell& c = space_.cells[cell];
      const auto axis = static_cast<std::size_t>(c.axis);
      const bool upper = p[axis] >= c.middle;
      (upper ? box_.low : box_.high)[axis] = c.middle;
      cell = c.first + (upper ? 1 : 0);
    }
    return last_ = cell;
  }

 private:
  const PaintedSpace& space_;
  PaintedSpace::Box box_;
  std::uint32_t last_ = kNone;
};

}  // namespace loom
#endif

HWY_BEFORE_NAMESPACE();
namespace loom::HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;
using SpaceD = hn::ScalableTag<float>;
using SpaceV = hn::Vec<SpaceD>;

HWY_INLINE SpaceV everywhere(float x) { return hn::Set(SpaceD(), x); }

struct Spot {
  SpaceV x, y, z, nx, ny, nz, width;
  float widest;
};

// How much of each spot a piece covers; false where it comes near none.
HWY_INLINE bool covered(const PaintedSpace::Piece& piece, const Spot& at, SpaceV& cover) {
  const SpaceD d;
  const SpaceV zero = hn::Zero(d), one = everywhere(1);
  const SpaceV x = hn::Sub(at.x, everywhere(piece.from.x)), y = hn::Sub(at.y, everywhere(piece.from.y)),
               z = hn::Sub(at.z, everywhere(piece.from.z));
  const SpaceV ax = everywhere(piece.along.x), ay = everywhere(piece.along.y), az = everywhere(piece.along.z);
  const SpaceV rise = hn::MulAdd(x, ax, hn::MulAdd(y, ay, hn::Mul(z, az)));
  const SpaceV t = hn::Min(hn::Max(hn::Mul(rise, everywhere(piece.per_square)), zero), one);
  const SpaceV dx = hn::NegMulAdd(t, ax, x), dy = hn::NegMulAdd(t, ay, y), dz = hn::NegMulAdd(t, az, z);
  const SpaceV square = hn::MulAdd(dx, dx, hn::MulAdd(dy, dy, hn::Mul(dz, dz)));
  const float reach = piece.widest + 0.5f * std::min(piece.widest, at.widest);
  if (hn::AllFalse(d, hn::Lt(square, everywhere(reach * reach)))) return false;
  // A sample that is wider than the stroke sees it as if it were as wide: cells know how far a piece reaches.
  const SpaceV width = hn::Max(hn::Min(at.width, everywhere(piece.widest)), everywhere(1e-9f)),
               per_width = hn::Div(one, width);
  const Rim<SpaceV> rim(hn::Mul(hn::MulAdd(t, everywhere(piece.more), everywhere(piece.radius)), per_width),
                        piece.softness);
  SpaceV c = rim.cover(hn::Mul(hn::Sqrt(square), per_width));
  if (piece.faces) {
    const SpaceV nx = hn::MulAdd(t, everywhere(piece.turn.x), everywhere(piece.towards.x)),
                 ny = hn::MulAdd(t, everywhere(piece.turn.y), everywhere(piece.towards.y)),
                 nz = hn::MulAdd(t, everywhere(piece.turn.z), everywhere(piece.towards.z));
    const SpaceV cosine = hn::MulAdd(nx, at.nx, hn::MulAdd(ny, at.ny, hn::Mul(nz, at.nz)));
    // Whole up to some 100 degrees away, nothing from 135 on. Common practice, no source.
    constexpr float kNothing = -0.7f, kWhole = -0.2f;
    const SpaceV s = hn::Min(
        hn::Max(hn::Mul(hn::Sub(cosine, everywhere(kNothing)), everywhere(1 / (kWhole - kNothing))), zero), one);
    c = hn::Mul(c, hn::Mul(hn::Mul(s, s), hn::Sub(everywhere(3), hn::Add(s, s))));
  }
  cover = c;
  return true;
}

// From the last stroke to the first: what the later ones hide need not be known.
struct Coated {
  SpaceV cover;
  std::array<SpaceV, 3> paint;
  SpaceV seen;  // how much shows of what lies below

  // False where nothing shows any more. What shows by less than a millionth is hidden, for every lane by itself, so
  // that it does not matter which others go on.
  HWY_INLINE bool lay_below(const PaintedSpace::Coat& coat, SpaceV by, std::size_t strands) {
    const SpaceD d;
    const SpaceV c = hn::Mul(seen, hn::Mul(everywhere(coat.strength), by));
    if (!coat.erase) {
      cover = hn::Add(cover, c);
      for (std::size_t k = 0; k < strands; ++k) paint[k] = hn::MulAdd(c, everywhere(coat.paint[k]), paint[k]);
    }
    const SpaceV left = hn::Sub(seen, c);
    const auto shows = hn::Gt(left, everywhere(1e-6f));
    seen = hn::IfThenElseZero(shows, left);
    return !hn::AllFalse(d, shows);
  }
};

HWY_INLINE Coated coated(const PaintedSpace& space, const PaintedSpace::Cell& cell, const Spot& at,
                         std::size_t strands) {
  const SpaceV none = hn::Zero(SpaceD());
  Coated out{none, {none, none, none}, everywhere(1)};
  const std::uint32_t* near = space.near.data() + cell.first;
  for (std::uint32_t i = cell.count; i > 0;) {
    const std::uint32_t coat = space.pieces[near[i - 1]].coat;
    SpaceV most = none;
    bool any = false;
    for (; i > 0 && space.pieces[near[i - 1]].coat == coat; --i) {
      SpaceV c;
      if (!covered(space.pieces[near[i - 1]], at, c)) continue;
      most = hn::Max(most, c);
      any = true;
    }
    if (any && !out.lay_below(space.coats[coat], most, strands)) break;
  }
  return out;
}

// One lane after another names its cell; all lanes that lie in it are painted at once.
void painted_in_space(const StripCall& c) {
  const SpaceD d;
  const std::size_t n = hn::Lanes(d), strands = c.step->results - std::size_t{1};
  const auto& space = *static_cast<const PaintedSpace*>(c.resource);
  CellFinder finder(space);
  std::array<std::uint32_t, 16> cell;
  alignas(64) std::array<float, 16> x, y, z, own;
  for (std::size_t i = 0; i < c.padded; i += n) {
    const auto source = [&](std::size_t k) { return hn::LoadU(d, c.source[k] + i * c.stride[k]); };
    const Spot at{source(0), source(1), source(2), source(3),
                  source(4), source(5), source(6), hn::GetLane(hn::MaxOfLanes(d, source(6)))};
    for (std::size_t k = 0; k < c.step->results; ++k) hn::StoreU(hn::Zero(d), d, c.result[k] + i);
    hn::Store(at.x, d, x.data()), hn::Store(at.y, d, y.data()), hn::Store(at.z, d, z.data());
    for (std::size_t k = 0; k < n; ++k) cell[k] = finder.at({x[k], y[k], z[k]});
    for (std::size_t first = 0; first < n; ++first) {
      const std::uint32_t here = cell[first];
      if (here == CellFinder::kNone) continue;
      for (std::size_t k = 0; k < n; ++k) {
        own[k] = cell[k] == here ? 1.0f : 0.0f;
        if (cell[k] == here) cell[k] = CellFinder::kNone;
      }
      if (space.cells[here].count == 0) continue;
      const Coated found = coated(space, space.cells[here], at, strands);
      const auto mask = hn::Gt(hn::Load(d, own.data()), hn::Zero(d));
      const auto put = [&](SpaceV value, float* to) {
        hn::StoreU(hn::IfThenElse(mask, value, hn::LoadU(d, to)), d, to);
      };
      put(found.cover, c.result[0] + i);
      for (std::size_t k = 0; k < strands; ++k) put(found.paint[k], c.result[k + 1] + i);
    }
  }
}

}  // namespace loom::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace loom {
namespace {

HWY_EXPORT(painted_in_space);
void run_painted_space(const StripCall& c) { HWY_DYNAMIC_DISPATCH(painted_in_space)(c); }

constexpr int kDeepest = 40;
constexpr std::size_t kFew = 16, kMostNear = std::size_t{1} << 24;
constexpr float kWorth = 1.3f;  // a cell is halved while both halves hold less than so many times its pieces

float part(Vec3 v, std::size_t axis) { return axis == 0 ? v.x : axis == 1 ? v.y : v.z; }

// How far a piece comes: half as wide again, for samples that are as wide as it.
float reach_of(const PaintedSpace::Piece& p) { return 1.5f * p.widest; }

bool comes_near(const PaintedSpace::Piece& p, const PaintedSpace::Box& box) {
  const float reach = reach_of(p);
  Vec3 middle{};
  float diagonal = 0;
  for (std::size_t i = 0; i < 3; ++i) {
    const float from = part(p.from, i), to = from + part(p.along, i), half = 0.5f * (box.high[i] - box.low[i]);
    if (std::max(from, to) + reach < box.low[i] || std::min(from, to) - reach > box.high[i]) return false;
    (i == 0 ? middle.x : i == 1 ? middle.y : middle.z) = box.low[i] + half;
    diagonal += half * half;
  }
  const Vec3 to = middle - p.from;
  const float t = std::clamp(dot(to, p.along) * p.per_square, 0.0f, 1.0f);
  return length(to - p.along * t) <= reach + std::sqrt(diagonal);
}

}  // namespace

PaintedSpace::PaintedSpace(const Strokes& strokes, std::size_t strands) {
  for (const HandStrokePtr& s : strokes.all)
    if (s->on_shape && !s->points.empty() && !s->paint.empty()) add(*s, strands);
  cells.push_back({3, 0, 0, 0});
  if (pieces.empty()) return;
  constexpr float kFar = 1e30f;
  box.low.fill(kFar), box.high.fill(-kFar);
  std::vector<std::uint32_t> all;
  for (std::uint32_t k = 0; k < pieces.size(); ++k) {
    const Piece& p = pieces[k];
    for (std::size_t i = 0; i < 3; ++i) {
      const float from = part(p.from, i), to = from + part(p.along, i);
      box.low[i] = std::min(box.low[i], std::min(from, to) - reach_of(p));
      box.high[i] = std::max(box.high[i], std::max(from, to) + reach_of(p));
    }
    all.push_back(k);
  }
  halve(0, box, std::move(all), 0);
}

void PaintedSpace::add(const HandStroke& s, std::size_t strands) {
  Coat coat{s.strength, s.erase, {}};
  for (std::size_t k = 0; k < 3; ++k) coat.paint[k] = s.paint[s.paint.size() == strands && k < strands ? k : 0];
  for (std::size_t i = 0; i < std::max<std::size_t>(s.points.size(), 2) - 1; ++i) {
    const StrokePoint &a = s.points[i], &b = s.points[std::min(i + 1, s.points.size() - 1)];
    const Vec3 from{a.x, a.y, a.z}, along = Vec3{b.x, b.y, b.z} - from;
    const Vec3 towards{a.towards_x, a.towards_y, a.towards_z}, then{b.towards_x, b.towards_y, b.towards_z};
    const float square = dot(along, along), radius = s.radius * a.pressure, end = s.radius * b.pressure;
    if (!(std::max(radius, end) > 0)) continue;
    pieces.push_back({from, along, square > 0 ? 1 / square : 0, radius, end - radius, std::max(radius, end), s.softness,
                      towards, then - towards, dot(towards, towards) > 0 && dot(then, then) > 0,
                      static_cast<std::uint32_t>(coats.size())});
  }
  coats.push_back(coat);
}

// Across its longest side first; across another where that tells no pieces apart.
void PaintedSpace::halve(std::size_t cell, const Box& whole, std::vector<std::uint32_t> within, int depth) {
  std::array<std::size_t, 3> axes{0, 1, 2};
  std::sort(axes.begin(), axes.end(),
            [&](std::size_t a, std::size_t b) { return whole.high[a] - whole.low[a] > whole.high[b] - whole.low[b]; });
  const auto most = static_cast<std::size_t>(kWorth * static_cast<float>(within.size()));
  const bool may = within.size() > kFew && depth < kDeepest && near.size() < kMostNear;
  for (std::size_t i = 0; may && i < 3; ++i) {
    const std::size_t axis = axes[i];
    std::array<Box, 2> halves{whole, whole};
    halves[0].high[axis] = halves[1].low[axis] = 0.5f * (whole.low[axis] + whole.high[axis]);
    std::array<std::vector<std::uint32_t>, 2> own;
    for (std::size_t h = 0; h < 2; ++h)
      std::copy_if(within.begin(), within.end(), std::back_inserter(own[h]),
                   [&](std::uint32_t k) { return comes_near(pieces[k], halves[h]); });
    if (own[0].size() + own[1].size() > most) continue;
    const auto first = static_cast<std::uint32_t>(cells.size());
    cells[cell] = {static_cast<int>(axis), halves[0].high[axis], first, 0};
    cells.resize(cells.size() + 2);
    within = {};
    for (std::size_t h = 0; h < 2; ++h) halve(first + h, halves[h], std::move(own[h]), depth + 1);
    return;
  }
  cells[cell] = {3, 0, static_cast<std::uint32_t>(near.size()), static_cast<std::uint32_t>(within.size())};
  near.insert(near.end(), within.begin(), within.end());
}

std::size_t PaintedSpace::bytes() const {
  return pieces.size() * sizeof(Piece) + coats.size() * sizeof(Coat) + cells.size() * sizeof(Cell) +
         near.size() * sizeof(std::uint32_t);
}

const Family kPaintedSpace{"painted_space", run_painted_space, 3};

}  // namespace loom
#endif
