// Scan conversion: the exact area of every texel that is covered, by either winding rule; strokes become polygons
// first.
#include <algorithm>
#include <cmath>
#include <functional>
#include <numbers>
#include <span>

#include "core/base/parallel.h"
#include "core/io/drawing.h"

namespace loom {
namespace {

constexpr double kTolerance = 0.02;  // of flattened curves, in texels
constexpr int kSubRows = 16;

struct Contour {
  std::vector<Spot> at;
  bool closed = false;
};
using Contours = std::vector<Contour>;

Spot operator+(Spot a, Spot b) { return {a.x + b.x, a.y + b.y}; }
Spot operator-(Spot a, Spot b) { return {a.x - b.x, a.y - b.y}; }
Spot operator*(Spot a, double k) { return {a.x * k, a.y * k}; }
double length(Spot a) { return std::hypot(a.x, a.y); }
double crossed(Spot a, Spot b) { return a.x * b.y - a.y * b.x; }

// A count within bounds, whatever a drawing says: what is no number gives the least.
int counted(double wanted, int least, int most) {
  return static_cast<int>(std::min(std::max(static_cast<double>(least), std::ceil(wanted)), static_cast<double>(most)));
}

// Evenly in the parameter, as many chords as the second differences ask for.
// Source: Sederberg, "Computer Aided Geometric Design" course notes, section 10.6, 2012.
void flatten_cubic(Spot p, Spot q, Spot r, Spot s, double tolerance, std::vector<Spot>& out) {
  const double bend = std::max(length(p - q * 2 + r), length(q - r * 2 + s));
  const int n = counted(std::sqrt(0.75 * bend / tolerance), 1, 256);
  for (int i = 1; i <= n; ++i) {
    const double t = static_cast<double>(i) / n, k = 1 - t;
    out.push_back(p * (k * k * k) + q * (3 * k * k * t) + r * (3 * k * t * t) + s * (t * t * t));
  }
}

Contours flattened(const Path& path, double tolerance) {
  Contours all;
  Spot start, at;
  for (const Path::Piece& piece : path.pieces) {
    using Kind = Path::Piece::Kind;
    if (piece.kind == Kind::move) {
      all.push_back({{piece.at[0]}, false});
      start = at = piece.at[0];
      continue;
    }
    if (all.empty() || all.back().closed) all.push_back({{at}, false});
    if (piece.kind == Kind::close) {
      all.back().closed = true;
      at = start;
    } else if (piece.kind == Kind::line) {
      all.back().at.push_back(at = piece.at[0]);
    } else {
      flatten_cubic(at, piece.at[0], piece.at[1], piece.at[2], tolerance, all.back().at);
      at = piece.at[2];
    }
  }
  return all;
}

// ---- strokes ----

// An outline a line: along its right side, about its end and back along its left. What it runs round is counted once or
// more and never less than nothing, since at the inside of a turn it goes by way of the corner wherever the short way
// could cut into the stroke.
class Stroker {
 public:
  Stroker(const Stroke& stroke, double tolerance) : stroke_(stroke), half_(0.5 * stroke.width) {
    step_ = half_ > tolerance ? 2 * std::acos(1 - tolerance / half_) : std::numbers::pi / 2;
  }
  Contours stroked(const Contours& lines) {
    for (const Contour& line : lines)
      for (const Contour& part : dashed(line)) one(part);
    return std::move(out_);
  }

 private:
  struct Line {
    std::vector<Spot> at, direction;
    std::vector<double> length;
    bool closed = false;
  };

  // From `about` + `from`, turned by `angle`; the ends are left out.
  void arc(Spot about, Spot from, double angle, std::vector<Spot>& out) const {
    const int n = counted(std::abs(angle) / step_, 1, 256);
    for (int i = 1; i < n; ++i) {
      const double c = std::cos(angle * i / n), s = std::sin(angle * i / n);
      out.push_back(about + Spot{from.x * c - from.y * s, from.x * s + from.y * c});
    }
  }
  // Half the width to one side of a direction: 1 is left of it as y runs up, -1 right.
  Spot aside(Spot direction, double side) const { return Spot{-direction.y, direction.x} * (side * half_); }

  void join(const Line& l, std::size_t i, std::size_t j, double side, std::vector<Spot>& out) const {
    const Spot in = l.direction[i], on = l.direction[j], at = l.at[j];
    const double turn = crossed(in, on), cosine = in.x * on.x + in.y * on.y;
    if (std::abs(turn) < 1e-9 && cosine > 0) return;
    if (side != (turn > 0 ? -1 : 1)) {  // the inside of the turn
      if (cosine <= 0 || half_ * std::abs(turn) > std::min(l.length[i], l.length[j])) out.push_back(at);
      return;
    }
    const Spot a = aside(in, side), b = aside(on, side);
    if (stroke_.join == Stroke::Join::round)
      return arc(at, a, -side * std::atan2(std::abs(turn), cosine),
                 out);  // round the tip, also where the way turns straight back
    const double cosine_half = std::sqrt(std::max(0.0, (1 + cosine) / 2)), middle = length(a + b);
    if (stroke_.join == Stroke::Join::miter && cosine_half > 1e-6 && 1 / cosine_half <= stroke_.miter_limit &&
        middle > 1e-12)
      out.push_back(at + (a + b) * (half_ / cosine_half / middle));
  }
  void cap(Spot at, Spot outward, std::vector<Spot>& out) const {  // from its right to its left
    if (stroke_.cap == Stroke::Cap::round) arc(at, aside(outward, -1), std::numbers::pi, out);
    if (stroke_.cap != Stroke::Cap::square) return;
    const Spot far = at + outward * half_;
    out.push_back(far + aside(outward, -1));
    out.push_back(far + aside(outward, 1));
  }
  std::vector<Spot> along(const Line& l, double side) const {
    std::vector<Spot> out;
    const std::size_t n = l.at.size(), segments = l.direction.size();
    for (std::size_t i = 0; i < segments; ++i) {
      const Spot a = aside(l.direction[i], side);
      out.push_back(l.at[i] + a);
      out.push_back(l.at[(i + 1) % n] + a);
      if (l.closed || i + 1 < segments) join(l, i, (i + 1) % segments, side, out);
    }
    return out;
  }
  void one(const Contour& line) {
    Line l;
    for (const Spot& s : line.at)
      if (l.at.empty() || length(s - l.at.back()) > 1e-9) l.at.push_back(s);
    l.closed = line.closed;
    if (l.closed && l.at.size() > 1 && length(l.at.front() - l.at.back()) < 1e-9) l.at.pop_back();
    if (l.at.size() < 2) {  // a dot shows by its caps alone
      std::vector<Spot> dot;
      if (l.at.size() == 1) cap(l.at[0], {1, 0}, dot), cap(l.at[0], {-1, 0}, dot);
      if (!dot.empty()) out_.push_back({std::move(dot), true});
      return;
    }
    const std::size_t n = l.at.size(), segments = l.closed ? n : n - 1;
    for (std::size_t i = 0; i < segments; ++i) {
      const Spot d = l.at[(i + 1) % n] - l.at[i];
      l.length.push_back(length(d));
      l.direction.push_back(d * (1 / l.length.back()));
    }
    std::vector<Spot> right = along(l, -1), left = along(l, 1);
    std::reverse(left.begin(), left.end());
    if (l.closed) {
      out_.push_back({std::move(right), true});
      out_.push_back({std::move(left), true});
      return;
    }
    cap(l.at.back(), l.direction.back(), right);
    right.insert(right.end(), left.begin(), left.end());
    cap(l.at.front(), l.direction.front() * -1, right);
    out_.push_back({std::move(right), true});
  }
  Contours dashed(const Contour& line) const {
    double period = 0;
    for (const double d : stroke_.dashes) period += d;
    if (stroke_.dashes.empty() || period <= 1e-6) return {line};
    std::vector<Spot> p = line.at;
    if (line.closed && !p.empty()) p.push_back(p.front());
    Contours parts;
    std::size_t k = 0;
    double left = std::fmod(stroke_.dash_offset, 2 * period);
    if (left < 0) left += 2 * period;
    while (left >= stroke_.dashes[k % stroke_.dashes.size()]) left -= stroke_.dashes[k++ % stroke_.dashes.size()];
    left = stroke_.dashes[k % stroke_.dashes.size()] - left;
    if (k % 2 == 0 && !p.empty()) parts.push_back({{p[0]}, false});
    constexpr std::size_t kMostParts = 100000;
    for (std::size_t i = 0; i + 1 < p.size() && parts.size() < kMostParts; ++i) {
      double along = 0;
      const double whole = length(p[i + 1] - p[i]);
      while (whole - along > left && parts.size() < kMostParts) {
        along += left;
        const Spot at = p[i] + (p[i + 1] - p[i]) * (along / whole);
        if (k % 2 == 0)
          parts.back().at.push_back(at);
        else
          parts.push_back({{at}, false});
        left = std::max(stroke_.dashes[++k % stroke_.dashes.size()], 1e-6);
      }
      left -= whole - along;
      if (k % 2 == 0) parts.back().at.push_back(p[i + 1]);
    }
    return parts;
  }

  Stroke stroke_;
  double half_, step_;
  Contours out_;
};

// ---- coverage ----

struct Edge {
  double x, y0, y1, slope;
  int winding;
};  // y0 < y1, x at y0; level ones bound no area, but join what stands beside them: y0 = y1, `slope` wide

// One area to be filled, in texels, with its edges listed by row: those of row r are edges[starts[r - first_row]] and
// on to the next start.
struct Area {
  std::array<float, 4> colour;
  const Gradient* gradient = nullptr;
  Affine to_gradient;  // from shares of the tile
  bool even_odd = false;
  int first_row = 0, rows = 0, left = 0, right = -1;  // columns from left to right
  std::vector<Edge> edges;
  std::vector<std::uint32_t> starts;
};

constexpr int kMostReach = 16;  // tiles to either side: what lies farther out is left out

// The floor, without a call into the library.
int row_of(double y) {
  const int i = static_cast<int>(y);
  return i - (y < i ? 1 : 0);
}

// Counted first, then laid out: a list for each row would be made anew a hundred thousand times.
void list_by_row(Area& area, const std::vector<Edge>& edges) {
  area.starts.assign(static_cast<std::size_t>(area.rows) + 1, 0);
  const auto index = [&](int row) { return static_cast<std::size_t>(row - area.first_row); };
  for (const Edge& e : edges)
    for (int y = row_of(e.y0); y <= row_of(e.y1); ++y) ++area.starts[index(y) + 1];
  for (std::size_t r = 1; r < area.starts.size(); ++r) area.starts[r] += area.starts[r - 1];
  area.edges.resize(area.starts.back());
  std::vector<std::uint32_t> next(area.starts.begin(), area.starts.end() - 1);
  for (const Edge& e : edges)
    for (int y = row_of(e.y0); y <= row_of(e.y1); ++y) area.edges[next[index(y)]++] = e;
}

Area area_of(const Contours& contours, const Affine& place, double size, bool even_odd) {
  Area area{.even_odd = even_odd};
  std::vector<Edge> edges;
  double top = 1e30, bottom = -1e30, left = 1e30, right = -1e30;
  const double reach = kMostReach * size;
  for (const Contour& c : contours)
    for (std::size_t i = 0; i < c.at.size() && c.at.size() > 1; ++i) {
      const Spot p = place(c.at[i]) * size, q = place(c.at[(i + 1) % c.at.size()]) * size;
      if (!(std::abs(p.x) < reach && std::abs(p.y) < reach && std::abs(q.x) < reach && std::abs(q.y) < reach)) continue;
      const bool down = p.y < q.y;
      const Spot a = down ? p : q, b = down ? q : p;
      if (p.y == q.y)
        edges.push_back({std::min(p.x, q.x), p.y, p.y, std::abs(p.x - q.x), 0});
      else
        edges.push_back({a.x, a.y, b.y, (b.x - a.x) / (b.y - a.y), down ? 1 : -1});
      top = std::min(top, a.y), bottom = std::max(bottom, b.y);
      left = std::min({left, a.x, b.x}), right = std::max({right, a.x, b.x});
    }
  if (edges.empty()) return area;
  area.first_row = row_of(top);
  area.rows = row_of(bottom) - area.first_row + 1;
  area.left = row_of(left) - 1, area.right = row_of(right) + 1;  // cuts are rounded
  list_by_row(area, edges);
  return area;
}

// An edge within a row, which begins at 0 and ends at 1: from y0 down to y1, and how far it reaches along x.
struct Stretch {
  double y0, y1, x, slope, least, most;
  int winding;
  double at(double y) const { return x + (y - y0) * slope; }
};

// What of a stretch lies in a strip: its x at the strip's upper and at its lower border.
struct Side {
  double upper, lower;
  int winding;
};

// Adds to every texel how much more of it than of the one before lies to the right of a side, in a strip of this
// height; `rises` begins at texel `left`. Source: the accumulation buffer of the FreeType and font-rs rasterisers (R.
// Levien, "Inside the fastest font renderer in the world", 2016).
void add_rise(const Side& side, double height, int left, float* rises) {
  const double from = std::min(side.upper, side.lower), to = std::max(side.upper, side.lower);
  const auto add = [&](int x, double h, double middle) {
    const auto share = static_cast<float>(h * (middle - x));
    rises[x - left] += static_cast<float>(h) - share;
    rises[x - left + 1] += share;
  };
  const int first = row_of(from), last = row_of(to);
  if (first == last) return add(first, height, 0.5 * (from + to));
  const double steep = height / (to - from);
  double x = from;
  for (int i = first; i <= last; ++i) {
    const double next = std::min(i + 1.0, to);
    add(i, (next - x) * steep, 0.5 * (x + next));
    x = next;
  }
}

// The exact coverage of rows. A row falls into clusters of edges that have no x in common, a cluster into strips
// between its corners, a strip into strips without crossings: there the sides stand in order, and winding tells which
// of them are borders of the area.
class RowCover {
 public:
  void add(const Area& area, int row, float* rises) {
    area_ = &area;
    rises_ = rises;
    gather(row);
    int winding = 0;
    for (std::size_t first = 0, last; first < stretches_.size(); first = last) {
      double most = stretches_[first].most, turns = 0;
      for (last = first; last < stretches_.size() && stretches_[last].least <= most + kTouch; ++last) {
        most = std::max(most, stretches_[last].most);
        turns += stretches_[last].winding * (stretches_[last].y1 - stretches_[last].y0);
      }
      cover(std::span(stretches_).subspan(first, last - first), winding);
      winding += static_cast<int>(
          std::lround(turns));  // contours are closed: right of the cluster it is the same at every height
    }
  }

 private:
  static constexpr std::size_t kMostCorners = 64;  // of one cluster in one row; more are covered by sub-rows
  static constexpr double kTouch = 1e-9;  // a corner's place differs by rounding between the edges that meet there

  void gather(int row) {
    stretches_.clear();
    const auto r = static_cast<std::size_t>(row - area_->first_row);
    for (std::uint32_t k = area_->starts[r]; k < area_->starts[r + 1]; ++k) {
      const Edge& e = area_->edges[k];
      if (e.y0 == e.y1) {
        stretches_.push_back({e.y0 - row, e.y0 - row, e.x, 0, e.x, e.x + e.slope, 0});
        continue;
      }
      Stretch s{std::max(e.y0 - row, 0.0), std::min(e.y1 - row, 1.0), 0, e.slope, 0, 0, e.winding};
      if (!(s.y0 < s.y1)) continue;
      s.x = e.x + (s.y0 + row - e.y0) * e.slope;
      s.least = std::min(s.x, s.at(s.y1)), s.most = std::max(s.x, s.at(s.y1));
      stretches_.push_back(s);
    }
    sort_few(stretches_, [](const Stretch& p, const Stretch& q) { return p.least < q.least; });
  }

  // Few and nearly in order: no general sort is quicker.
  template <class T, class Less>
  static void sort_few(std::vector<T>& list, Less less) {
    if (list.size() > 32) return std::sort(list.begin(), list.end(), less);
    for (std::size_t i = 1; i < list.size(); ++i) {
      const T one = list[i];
      std::size_t k = i;
      for (; k > 0 && less(one, list[k - 1]); --k) list[k] = list[k - 1];
      list[k] = one;
    }
  }

  void cover(std::span<const Stretch> cluster, int winding) {
    levels_.clear();
    for (const Stretch& s : cluster) levels_.push_back(s.y0), levels_.push_back(s.y1);
    sort_few(levels_, std::less<>());
    levels_.erase(std::unique(levels_.begin(), levels_.end()), levels_.end());
    if (levels_.size() > kMostCorners) return cover_sub_rows(cluster, winding);
    for (std::size_t i = 0; i + 1 < levels_.size(); ++i) {
      const double top = levels_[i], bottom = levels_[i + 1];
      sides_.clear();
      for (const Stretch& s : cluster)
        if (s.y0 <= top && s.y1 >= bottom) sides_.push_back({s.at(top), s.at(bottom), s.winding});
      cover_strip(bottom - top, winding);
    }
  }

  void cover_sub_rows(std::span<const Stretch> cluster, int winding) {
    for (int k = 0; k < kSubRows; ++k) {
      const double y = (k + 0.5) / kSubRows;
      sides_.clear();
      for (const Stretch& s : cluster)
        if (s.y0 <= y && y < s.y1) sides_.push_back({s.at(y), s.at(y), s.winding});
      sort_few(sides_, [](const Side& p, const Side& q) { return p.upper < q.upper; });
      add_borders(1.0 / kSubRows, winding);
    }
  }

  // Cut at the first crossing, as long as there is one: it lies between neighbours.
  void cover_strip(double height, int winding) {
    constexpr double kLeast = 1e-6;  // of a strip: what is cut off is so high at least, and nothing is that wrong by it
    for (std::size_t cuts = 0;; ++cuts) {
      sort_few(sides_,
               [](const Side& p, const Side& q) { return p.upper != q.upper ? p.upper < q.upper : p.lower < q.lower; });
      double cut = 1;
      for (std::size_t i = 0; i + 1 < sides_.size(); ++i) {
        const double before = sides_[i + 1].upper - sides_[i].upper, after = sides_[i].lower - sides_[i + 1].lower;
        if (after > 1e-9) cut = std::min(cut, std::max(before / (before + after), kLeast));
      }
      if (cut >= 1 || cuts > 4 * kMostCorners) return add_borders(height, winding);
      below_.clear();
      for (Side& s : sides_) {
        const double x = s.upper + (s.lower - s.upper) * cut;
        below_.push_back({x, s.lower, s.winding});
        s.lower = x;
      }
      add_borders(height * cut, winding);
      height *= 1 - cut;
      sides_.swap(below_);
    }
  }

  void add_borders(double height, int winding) {
    for (const Side& s : sides_) {
      const bool before = inside(winding), after = inside(winding += s.winding);
      if (before != after) add_rise(s, after ? height : -height, area_->left, rises_);
    }
  }
  bool inside(int winding) const { return area_->even_odd ? winding & 1 : winding != 0; }

  const Area* area_ = nullptr;
  float* rises_ = nullptr;
  std::vector<Stretch> stretches_;
  std::vector<double> levels_;
  std::vector<Side> sides_, below_;
};

std::vector<Area> areas_of(const Drawing& drawing, const Affine& place, int size, const Stop& stop) {
  std::vector<std::array<Area, 2>> of(drawing.shapes.size());
  for_rows(static_cast<int>(of.size()), 8, stop, [&](int first, int last) {
    for (int i = first; i < last && !stop.asked(); ++i) {
      const Figure& f = drawing.shapes[static_cast<std::size_t>(i)];
      auto& [fill, line] = of[static_cast<std::size_t>(i)];
      const Affine whole = place.after(f.to_drawing);
      const double tolerance = kTolerance / std::max(whole.scale() * size, 1e-9);
      const Contours lines = flattened(f.path, tolerance);
      const auto painted = [&](Area area, const Paint& paint) {
        area.colour = paint.colour;
        area.gradient = paint.gradient.get();
        if (area.gradient) area.to_gradient = area.gradient->from_drawing.after(place.inverse());
        return area;
      };
      if (f.fill.on) fill = painted(area_of(lines, whole, size, f.even_odd), f.fill);
      if (f.line.on && f.stroke.width > 0)
        line = painted(area_of(Stroker(f.stroke, tolerance).stroked(lines), whole, size, false), f.line);
    }
  });
  std::vector<Area> areas;
  for (auto& both : of)
    for (Area& area : both)
      if (area.rows > 0) areas.push_back(std::move(area));
  return areas;
}

constexpr float kRounding = 1e-5f;  // more than the rises of a row lose

// None and all of a texel are none and all.
float sure(float cover) { return std::clamp(cover * (1 + 2 * kRounding) - kRounding, 0.0f, 1.0f); }

// Lays rows of one area over what is there, in runs: most texels of an area are wholly within it or without.
class Layer {
 public:
  Layer(const Area& area, int y, Drawn& out)
      : area_(area),
        colour_(area.colour),
        a_(out.alpha.row(y)),
        r_(out.red.row(y)),
        g_(out.green.row(y)),
        b_(out.blue.row(y)),
        size_(out.alpha.size()) {}

  /// `rises` from texel `left` on, round the edge; it is used up.
  void lay(std::vector<float>& rises, int left) {
    const int wide = static_cast<int>(rises.size());
    if (wide > size_) return lay_folded(rises, left);
    double sum = 0;
    for (int done = 0, n; done < wide; done += n) {
      const int x = wrap(left + done, size_);
      n = std::min({wide - done, size_ - x, kBlock});
      float* const rise = rises.data() + done;
      if (n == kBlock && none(rise)) {
        lay_even(sure(static_cast<float>(sum)) * colour_[3], x);
        continue;
      }
      for (int i = 0; i < n; ++i) rise[i] = static_cast<float>(sum += rise[i]);
      lay_cover(rise, x, n);
    }
  }

  /// The same in the colours of a gradient, which goes on over the edge; `row` as the area counts it.
  void lay_gradient(const std::vector<float>& rises, int left, int row) {
    double sum = 0;
    for (std::size_t i = 0; i < rises.size(); ++i) {
      const float cover = sure(static_cast<float>(sum += rises[i]));
      if (cover <= 0) continue;
      const int at = left + static_cast<int>(i), x = wrap(at, size_);
      const auto colour = area_.gradient->at(area_.to_gradient({(at + 0.5) / size_, (row + 0.5) / size_}));
      lay_texel(x, cover * colour[3], colour);
    }
  }

 private:
  static constexpr int kBlock = 16;

  void lay_texel(int x, float alpha, const std::array<float, 4>& colour) {
    const float keep = 1 - alpha;
    a_[x] = alpha + a_[x] * keep;
    r_[x] = alpha * colour[0] + r_[x] * keep;
    g_[x] = alpha * colour[1] + g_[x] * keep;
    b_[x] = alpha * colour[2] + b_[x] * keep;
  }

  static bool none(const float* rise) {
    int some = 0;
    for (int i = 0; i < kBlock; ++i) some |= rise[i] != 0;
    return !some;
  }
  void lay_even(float alpha, int x) {
    const float keep = 1 - alpha;
    if (alpha <= 0) return;
    for (int i = x; i < x + kBlock; ++i) a_[i] = alpha + a_[i] * keep;
    for (int i = x; i < x + kBlock; ++i) r_[i] = alpha * colour_[0] + r_[i] * keep;
    for (int i = x; i < x + kBlock; ++i) g_[i] = alpha * colour_[1] + g_[i] * keep;
    for (int i = x; i < x + kBlock; ++i) b_[i] = alpha * colour_[2] + b_[i] * keep;
  }
  void lay_cover(const float* cover, int x, int n) {
    for (int i = 0; i < n; ++i) lay_texel(x + i, sure(cover[i]) * colour_[3], colour_);
  }
  void lay_folded(std::vector<float>& rises, int left) {  // wider than the tile
    double sum = 0;
    for (float& r : rises) r = static_cast<float>(sum += r);
    for (std::size_t x = static_cast<std::size_t>(size_); x < rises.size(); ++x)
      rises[x % static_cast<std::size_t>(size_)] += rises[x];
    const int first = wrap(left, size_);
    lay_cover(rises.data(), first, size_ - first);
    lay_cover(rises.data() + (size_ - first), 0, first);
  }

  const Area& area_;
  const std::array<float, 4> colour_;
  float *const a_, *const r_, *const g_, *const b_;
  const int size_;
};

}  // namespace

Affine Affine::after(const Affine& i) const {
  return {a * i.a + c * i.b, b * i.a + d * i.b,     a * i.c + c * i.d,
          b * i.c + d * i.d, a * i.e + c * i.f + e, b * i.e + d * i.f + f};
}

double Affine::scale() const { return std::sqrt(std::abs(a * d - b * c)); }

Affine Affine::inverse() const {
  const double k = 1 / (a * d - b * c);
  return {d * k, -b * k, -c * k, a * k, (c * f - d * e) * k, (b * e - a * f) * k};
}

// From the focus through the place to the circle: the share of that way. Source: SVG 1.1, section 13.2.3, solved for
// the share.
std::array<float, 4> Gradient::at(Spot own) const {
  double t = own.x;
  if (radial) {
    const Spot d{own.x - focus.x, own.y - focus.y};
    const double along = d.x * focus.x + d.y * focus.y, room = 1 - focus.x * focus.x - focus.y * focus.y;
    t = (along + std::sqrt(along * along + room * (d.x * d.x + d.y * d.y))) / room;
  }
  if (beyond == Beyond::repeat)
    t -= std::floor(t);
  else if (beyond == Beyond::reflect)
    t = std::abs(t - 2 * std::floor(0.5 * t + 0.5));
  const double at = t > 0 ? std::min(t, 1.0) * static_cast<double>(kColours - 1) : 0;  // 0 too where there is no number
  const auto i = std::min(static_cast<std::size_t>(at), kColours - 2);
  const auto& table = *colours;
  const auto share = static_cast<float>(at - static_cast<double>(i));
  std::array<float, 4> mixed;
  for (std::size_t k = 0; k < 4; ++k) mixed[k] = table[i][k] + (table[i + 1][k] - table[i][k]) * share;
  return mixed;
}

Drawn draw(const Drawing& drawing, const Affine& place, int size, const Stop& stop) {
  const std::vector<Area> areas = areas_of(drawing, place, size, stop);
  // Which areas reach into a row, from any tile, in the order in which they are laid.
  std::vector<std::vector<std::uint32_t>> by_row(static_cast<std::size_t>(size));
  for (std::size_t i = 0; i < areas.size(); ++i)
    for (int r = 0; r < std::min(areas[i].rows, size); ++r)
      by_row[static_cast<std::size_t>(wrap(areas[i].first_row + r, size))].push_back(static_cast<std::uint32_t>(i));
  Drawn out{Plane(size), Plane(size), Plane(size), Plane(size)};
  for_rows(size, 8, stop, [&](int first, int last) {
    for (Plane* p : {&out.alpha, &out.red, &out.green, &out.blue})
      std::fill(p->row(first), p->row(first) + static_cast<std::ptrdiff_t>(last - first) * size, 0.0f);
    std::vector<float> rises;
    RowCover rows;
    for (int y = first; y < last; ++y)
      for (const std::uint32_t i : by_row[static_cast<std::size_t>(y)]) {
        const Area& area = areas[i];
        const auto wide = static_cast<std::size_t>(area.right - area.left + 1);
        rises.assign(wide, 0.0f);
        const int up =
            (area.first_row - y) >= 0 ? (area.first_row - y + size - 1) / size : -((y - area.first_row) / size);
        for (int row = y + size * up; row < area.first_row + area.rows; row += size) {
          rows.add(area, row, rises.data());
          if (!area.gradient) continue;
          Layer(area, y, out).lay_gradient(rises, area.left, row);
          rises.assign(wide, 0.0f);
        }
        if (!area.gradient) Layer(area, y, out).lay(rises, area.left);
      }
  });
  return out;
}

}  // namespace loom
