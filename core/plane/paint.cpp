// Bands of rows over all cores, each with all strokes in their order: nothing depends on how rows are shared out.
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/plane/paint.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <vector>

#include "core/base/parallel.h"
#include "core/base/scalar.h"
#include "core/plane/paint.h"
#include "core/plane/rim-inl.h"

#ifndef LOOM_PAINT_PIECE
#define LOOM_PAINT_PIECE
namespace loom {

// A straight piece of a stroke over one row of texels; lengths in texels.
struct PieceOnRow {
  float x, y;                          // its beginning, from the first texel's centre
  float along_x, along_y, per_square;  // to its end, and 1 over the square of that
  float radius, more;                  // at its beginning, and by how much it grows to its end
  float softness;
};

}  // namespace loom
#endif

HWY_BEFORE_NAMESPACE();
namespace loom::HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;

template <class RimAt>
HWY_INLINE void cover_by(const PieceOnRow& piece, int count, const RimAt& rim_at, float* HWY_RESTRICT cover) {
  const hn::ScalableTag<float> d;
  const int n = static_cast<int>(hn::Lanes(d));
  const auto zero = hn::Zero(d), one = hn::Set(d, 1.0f);
  const auto ax = hn::Set(d, piece.along_x), ay = hn::Set(d, piece.along_y), y = hn::Set(d, -piece.y);
  const auto rise = hn::Set(d, -piece.y * piece.along_y), per = hn::Set(d, piece.per_square);
  for (int i = 0; i < count; i += n) {
    const auto x = hn::Sub(hn::Iota(d, static_cast<float>(i)), hn::Set(d, piece.x));
    const auto t = hn::Min(hn::Max(hn::Mul(hn::Add(hn::Mul(x, ax), rise), per), zero), one);
    const auto dx = hn::Sub(x, hn::Mul(t, ax)), dy = hn::Sub(y, hn::Mul(t, ay));
    const auto away = hn::Sqrt(hn::Add(hn::Mul(dx, dx), hn::Mul(dy, dy)));
    hn::StoreU(hn::Max(rim_at(t).cover(away), hn::LoadU(d, cover + i)), d, cover + i);
  }
}

// Raises what is covered to what the piece covers.
void cover_row(const PieceOnRow& piece, int count, float* HWY_RESTRICT cover) {
  const hn::ScalableTag<float> d;
  using V = hn::Vec<decltype(d)>;
  const V radius = hn::Set(d, piece.radius), more = hn::Set(d, piece.more);
  if (piece.more == 0) {
    const Rim<V> rim(radius, piece.softness);
    return cover_by(
        piece, count, [&](V) { return rim; }, cover);
  }
  cover_by(
      piece, count, [&](V t) { return Rim<V>(hn::Add(radius, hn::Mul(t, more)), piece.softness); }, cover);
}

// ground + share * cover * (value - ground) in each plane, and nothing is covered any more.
void lay_row(float* HWY_RESTRICT cover, int count, float share, const float* values, float* const* out, int planes) {
  const hn::ScalableTag<float> d;
  const int n = static_cast<int>(hn::Lanes(d));
  int i = 0;
  for (; i + n <= count; i += n) {
    const auto c = hn::Mul(hn::Set(d, share), hn::LoadU(d, cover + i));
    for (int k = 0; k < planes; ++k) {
      const auto was = hn::LoadU(d, out[k] + i);
      hn::StoreU(hn::Add(was, hn::Mul(c, hn::Sub(hn::Set(d, values[k]), was))), d, out[k] + i);
    }
    hn::StoreU(hn::Zero(d), d, cover + i);
  }
  for (; i < count; ++i) {
    for (int k = 0; k < planes; ++k) out[k][i] = out[k][i] + share * cover[i] * (values[k] - out[k][i]);
    cover[i] = 0;
  }
}

}  // namespace loom::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace loom {
namespace {

HWY_EXPORT(cover_row);
HWY_EXPORT(lay_row);

constexpr int kBand = 32, kPadding = 32;  // rows; floats behind a row that a vector may reach, where nothing is covered

// Where a stroke lies, its width included: shares of the tile.
struct Box {
  float left = std::numeric_limits<float>::max(), right = -left, top = left, bottom = -left;
};
Box box_of(const HandStroke& s) {
  Box box;
  for (const StrokePoint& p : s.points) {
    const float r = s.radius * p.pressure;
    box.left = std::min(box.left, p.x - r), box.right = std::max(box.right, p.x + r);
    box.top = std::min(box.top, p.y - r), box.bottom = std::max(box.bottom, p.y + r);
  }
  return box;
}

// One band of rows on its way.
class Band {
 public:
  Band(Painted& painted, int first, int last)
      : painted_(painted),
        size_(painted.cover.size()),
        first_(first),
        last_(last),
        stride_(static_cast<std::size_t>(size_ + kPadding)),
        cover_(stride_ * static_cast<std::size_t>(last - first), 0.0f),
        spans_(static_cast<std::size_t>(last - first)) {}

  void draw(const HandStroke& s, const Box& box) {
    touched_ = false;
    const float rim = 1 / static_cast<float>(size_);  // what is thinner than a texel still reaches one
    const auto from = [](float most) { return static_cast<int>(std::ceil(-most)); };
    const auto to = [](float least) { return static_cast<int>(std::floor(1 - least)); };
    for (int v = from(box.bottom + rim); v <= to(box.top - rim); ++v) {
      const float top = (box.top + static_cast<float>(v) - rim) * static_cast<float>(size_),
                  bottom = (box.bottom + static_cast<float>(v) + rim) * static_cast<float>(size_);
      if (bottom < static_cast<float>(first_) || top > static_cast<float>(last_)) continue;
      for (int u = from(box.right + rim); u <= to(box.left - rim); ++u) pieces(s, u, v);
    }
    if (touched_) lay(s);
  }

 private:
  struct Span {
    int from = std::numeric_limits<int>::max(), to = 0;
  };

  void pieces(const HandStroke& s, int u, int v) {
    const bool even = std::all_of(s.points.begin(), s.points.end(),
                                  [&](const StrokePoint& p) { return p.pressure == s.points.front().pressure; });
    for (std::size_t i = 0; i < std::max<std::size_t>(s.points.size(), 2) - 1; ++i)
      piece(s, s.points[i], s.points[std::min(i + 1, s.points.size() - 1)], static_cast<float>(u),
            static_cast<float>(v), i == 0 || !even);
  }

  // A piece on its way over the rows; lengths in texels.
  struct Way {
    float ax, ay, dx, dy, reach;
    float per_dx, per_dy;  // 1 over them, 0 where they are
    bool whole;            // else what lies before its beginning is covered by the piece before it, as wide as it

    // The part of a row that is near enough to it, as it may be covered.
    std::pair<float, float> on_row(float y) const {
      const float apart = std::max({std::min(ay, ay + dy) - y, y - std::max(ay, ay + dy), 0.0f}),
                  side = apart == 0 ? reach : std::sqrt(std::max(reach * reach - apart * apart, 0.0f));
      const auto along = [&](float at) { return dx * std::clamp((at - ay) * per_dy, 0.0f, 1.0f); };
      const float one = dy != 0 ? along(y - reach) : 0, two = dy != 0 ? along(y + reach) : dx;
      float from = ax + std::min(one, two) - side, to = ax + std::max(one, two) + side;
      if (whole) return {from, to};
      constexpr float kMore = 0.05f;  // so that nothing falls between two pieces
      const float rise = (y - ay) * dy, least = ax - rise * per_dx, more = kMore * (1 + std::abs(dy * per_dx));
      if (dx > 0) from = std::max(from, least - more);
      if (dx < 0) to = std::min(to, least + more);
      if (dx == 0 && rise < -kMore * std::abs(dy)) to = from - 2;
      return {from, to};
    }
  };

  void piece(const HandStroke& s, const StrokePoint& a, const StrokePoint& b, float u, float v, bool whole) {
    const auto size = static_cast<float>(size_);
    const float ax = (a.x + u) * size, ay = (a.y + v) * size, dx = (b.x + u) * size - ax, dy = (b.y + v) * size - ay;
    const float ra = s.radius * a.pressure * size, rb = s.radius * b.pressure * size, reach = std::max(ra, rb) + 1;
    const int top = std::max(first_, whole_below(std::min(ay, ay + dy) - reach)),
              bottom = std::min(last_ - 1, whole_below(std::max(ay, ay + dy) + reach) + 1);
    const float square = dx * dx + dy * dy;
    const Way way{ax, ay, dx, dy, reach, dx != 0 ? 1 / dx : 0, dy != 0 ? 1 / dy : 0, whole || square == 0};
    PieceOnRow piece{0, 0, dx, dy, square > 0 ? 1 / square : 0, ra, rb - ra, s.softness};
    for (int y = top; y <= bottom; ++y) {
      const float row_y = static_cast<float>(y) + 0.5f;
      const auto [from, to] = way.on_row(row_y);
      const int left = std::max(0, whole_below(from)), right = std::min(size_ - 1, whole_below(to) + 1);
      if (left > right) continue;
      piece.x = ax - static_cast<float>(left) - 0.5f;
      piece.y = ay - row_y;
      const auto row = static_cast<std::size_t>(y - first_);
      HWY_DYNAMIC_DISPATCH(cover_row)(piece, right - left + 1, cover_.data() + row * stride_ + left);
      spans_[row].from = std::min(spans_[row].from, left);
      spans_[row].to = std::max(spans_[row].to, right + 1);
      touched_ = true;
    }
  }

  void lay(const HandStroke& s) {
    const std::size_t planes = painted_.paint.size() + 1;
    std::array<float, 5> values{s.erase ? 0.0f : 1.0f};
    for (std::size_t k = 1; k < planes; ++k)
      values[k] = s.erase ? 0 : s.paint[s.paint.size() + 1 == planes ? k - 1 : 0];
    for (std::size_t row = 0; row < spans_.size(); ++row) {
      const Span span = std::exchange(spans_[row], Span());
      if (span.from >= span.to) continue;
      const int y = first_ + static_cast<int>(row);
      std::array<float*, 5> out{painted_.cover.row(y) + span.from};
      for (std::size_t k = 1; k < planes; ++k) out[k] = painted_.paint[k - 1].row(y) + span.from;
      HWY_DYNAMIC_DISPATCH(lay_row)
      (cover_.data() + row * stride_ + span.from, span.to - span.from, s.strength, values.data(), out.data(),
       static_cast<int>(planes));
    }
  }

  Painted& painted_;
  int size_, first_, last_;
  std::size_t stride_;
  std::vector<float> cover_;  // of one stroke
  std::vector<Span> spans_;   // that it touches, by row
  bool touched_ = false;
};

}  // namespace

Painted unpainted(int size, std::size_t strands) {
  Painted p;
  p.cover = Plane::filled(size, 0);
  for (std::size_t i = 0; i < strands; ++i) p.paint.push_back(Plane::filled(size, 0));
  return p;
}

void paint(Painted& painted, std::span<const HandStrokePtr> strokes, const Stop& stop) {
  std::vector<std::pair<const HandStroke*, Box>> drawn;
  for (const HandStrokePtr& s : strokes)
    if (!s->on_shape && !s->points.empty() && !s->paint.empty()) drawn.emplace_back(s.get(), box_of(*s));
  if (drawn.empty()) return;
  for_rows(painted.cover.size(), kBand, stop, [&](int first, int last) {
    for (int from = first; from < last && !stop.asked(); from += kBand) {
      Band band(painted, from, std::min(from + kBand, last));
      for (const auto& [stroke, box] : drawn) {
        if (stop.asked()) return;
        band.draw(*stroke, box);
      }
    }
  });
}

}  // namespace loom
#endif
