// Scan conversion: sub-rows are cut exactly along x, by either winding rule; strokes become polygons first.
#include <algorithm>
#include <cmath>

#include "core/base/parallel.h"
#include "core/io/drawing.h"

namespace loom {
namespace {

constexpr double kTolerance = 0.02;  // of flattened curves, in texels
constexpr int kSubRows = 16;
constexpr double kPi = 3.14159265358979323846;

struct Contour { std::vector<Spot> at; bool closed = false; };
using Contours = std::vector<Contour>;

Spot operator+(Spot a, Spot b) { return {a.x + b.x, a.y + b.y}; }
Spot operator-(Spot a, Spot b) { return {a.x - b.x, a.y - b.y}; }
Spot operator*(Spot a, double k) { return {a.x * k, a.y * k}; }
double length(Spot a) { return std::hypot(a.x, a.y); }
double crossed(Spot a, Spot b) { return a.x * b.y - a.y * b.x; }

// A count within bounds, whatever a drawing says: what is no number gives the least.
int counted(double wanted, int least, int most) { return static_cast<int>(std::min(std::max(static_cast<double>(least), std::ceil(wanted)), static_cast<double>(most))); }

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

// An outline a line: along its right side, about its end and back along its left. What it runs round is counted once or more and never
// less than nothing, since at the inside of a turn it goes by way of the corner wherever the short way could cut into the stroke.
class Stroker {
 public:
  Stroker(const Stroke& stroke, double tolerance) : stroke_(stroke), half_(0.5 * stroke.width) {
    step_ = half_ > tolerance ? 2 * std::acos(1 - tolerance / half_) : kPi / 2;
  }
  Contours stroked(const Contours& lines) {
    for (const Contour& line : lines)
      for (const Contour& part : dashed(line)) one(part);
    return std::move(out_);
  }

 private:
  struct Line { std::vector<Spot> at, direction; std::vector<double> length; bool closed = false; };

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
    if (stroke_.join == Stroke::Join::round) return arc(at, a, -side * std::atan2(std::abs(turn), cosine), out);  // round the tip, also where the way turns straight back
    const double cosine_half = std::sqrt(std::max(0.0, (1 + cosine) / 2)), middle = length(a + b);
    if (stroke_.join == Stroke::Join::miter && cosine_half > 1e-6 && 1 / cosine_half <= stroke_.miter_limit && middle > 1e-12)
      out.push_back(at + (a + b) * (half_ / cosine_half / middle));
  }
  void cap(Spot at, Spot outward, std::vector<Spot>& out) const {  // from its right to its left
    if (stroke_.cap == Stroke::Cap::round) arc(at, aside(outward, -1), kPi, out);
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
    for (const Spot& s : line.at) if (l.at.empty() || length(s - l.at.back()) > 1e-9) l.at.push_back(s);
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
        if (k % 2 == 0) parts.back().at.push_back(at);
        else parts.push_back({{at}, false});
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

struct Edge { double x, y0, y1, slope; int winding; };  // y0 < y1, x at y0

// One area to be filled, in texels, with its edges listed by row: those of row r are edges[starts[r - first_row]] and on to the next start.
struct Area {
  std::array<float, 4> colour;
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

Area area_of(const Contours& contours, const Affine& place, double size, const std::array<float, 4>& colour, bool even_odd) {
  Area area{.colour = colour, .even_odd = even_odd};
  std::vector<Edge> edges;
  double top = 1e30, bottom = -1e30, left = 1e30, right = -1e30;
  const double reach = kMostReach * size;
  for (const Contour& c : contours)
    for (std::size_t i = 0; i < c.at.size() && c.at.size() > 1; ++i) {
      const Spot p = place(c.at[i]) * size, q = place(c.at[(i + 1) % c.at.size()]) * size;
      if (!(std::abs(p.x) < reach && std::abs(p.y) < reach && std::abs(q.x) < reach && std::abs(q.y) < reach)) continue;
      if (p.y == q.y) continue;
      const bool down = p.y < q.y;
      const Spot a = down ? p : q, b = down ? q : p;
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

// Adds `weight` where [from, to) covers texels; `coverage` begins at texel `left`.
void add_span(double from, double to, float weight, int left, float* coverage) {
  const int first = row_of(from), last = row_of(to);
  float* const at = coverage - left;
  if (first == last) {
    at[first] += weight * static_cast<float>(to - from);
    return;
  }
  at[first] += weight * static_cast<float>(first + 1 - from);
  for (int x = first + 1; x < last; ++x) at[x] += weight;
  at[last] += weight * static_cast<float>(to - last);
}

struct Cut { double x; int winding; };
using SubRows = std::array<std::vector<Cut>, kSubRows>;

// Few and nearly in order: no general sort is quicker.
void sort_cuts(std::vector<Cut>& cuts) {
  if (cuts.size() > 32) return std::sort(cuts.begin(), cuts.end(), [](const Cut& p, const Cut& q) { return p.x < q.x; });
  for (std::size_t i = 1; i < cuts.size(); ++i) {
    const Cut c = cuts[i];
    std::size_t k = i;
    for (; k > 0 && cuts[k - 1].x > c.x; --k) cuts[k] = cuts[k - 1];
    cuts[k] = c;
  }
}

// Sub-row s lies at row + (s + 0.5) / kSubRows; an edge cuts those from y0 up to, not with, y1.
void cover_row(const Area& area, int row, float* coverage, SubRows& cuts) {
  const auto r = static_cast<std::size_t>(row - area.first_row);
  for (auto& list : cuts) list.clear();
  const auto first_from = [&](double y) { return std::clamp(-row_of(-((y - row) * kSubRows - 0.5)), 0, kSubRows); };
  for (std::uint32_t k = area.starts[r]; k < area.starts[r + 1]; ++k) {
    const Edge& e = area.edges[k];
    const int end = first_from(e.y1);
    for (int s = first_from(e.y0); s < end; ++s) cuts[static_cast<std::size_t>(s)].push_back({e.x + (row + (s + 0.5) / kSubRows - e.y0) * e.slope, e.winding});
  }
  for (auto& list : cuts) {
    sort_cuts(list);
    int winding = 0;
    for (std::size_t i = 0; i + 1 < list.size(); ++i) {
      winding += list[i].winding;
      if (area.even_odd ? winding & 1 : winding != 0) add_span(list[i].x, list[i + 1].x, 1.0f / kSubRows, area.left, coverage);
    }
  }
}

std::vector<Area> areas_of(const Drawing& drawing, const Affine& place, int size, const Stop& stop) {
  std::vector<std::array<Area, 2>> of(drawing.shapes.size());
  for_rows(static_cast<int>(of.size()), 8, stop, [&](int first, int last) {
    for (int i = first; i < last && !stop.asked(); ++i) {
      const Figure& f = drawing.shapes[static_cast<std::size_t>(i)];
      auto& [fill, line] = of[static_cast<std::size_t>(i)];
      const Affine whole = place.after(f.to_drawing);
      const double tolerance = kTolerance / std::max(whole.scale() * size, 1e-9);
      const Contours lines = flattened(f.path, tolerance);
      if (f.fill.on) fill = area_of(lines, whole, size, f.fill.colour, f.even_odd);
      if (f.line.on && f.stroke.width > 0) line = area_of(Stroker(f.stroke, tolerance).stroked(lines), whole, size, f.line.colour, false);
    }
  });
  std::vector<Area> areas;
  for (auto& both : of)
    for (Area& area : both) if (area.rows > 0) areas.push_back(std::move(area));
  return areas;
}

// A row of one area laid over what is there; texel i of the coverage is texel (left + i) of the row, round the edge.
void lay_over(const Area& area, const std::vector<float>& coverage, int wide, int y, Drawn& out) {
  const int size = out.alpha.size();
  for (int done = 0; done < wide;) {
    const int x0 = wrap(area.left + done, size), n = std::min(wide - done, size - x0);
    const float* const cover = coverage.data() + done;
    float *const a = out.alpha.row(y) + x0, *const r = out.red.row(y) + x0, *const g = out.green.row(y) + x0, *const b = out.blue.row(y) + x0;
    for (int i = 0; i < n; ++i) {
      const float alpha = std::min(cover[i], 1.0f) * area.colour[3], keep = 1 - alpha;
      a[i] = alpha + a[i] * keep;
      r[i] = alpha * area.colour[0] + r[i] * keep;
      g[i] = alpha * area.colour[1] + g[i] * keep;
      b[i] = alpha * area.colour[2] + b[i] * keep;
    }
    done += n;
  }
}

}  // namespace

Affine Affine::after(const Affine& i) const {
  return {a * i.a + c * i.b, b * i.a + d * i.b, a * i.c + c * i.d, b * i.c + d * i.d, a * i.e + c * i.f + e, b * i.e + d * i.f + f};
}

double Affine::scale() const { return std::sqrt(std::abs(a * d - b * c)); }

Drawn draw(const Drawing& drawing, const Affine& place, int size, const Stop& stop) {
  const std::vector<Area> areas = areas_of(drawing, place, size, stop);
  // Which areas reach into a row, from any tile, in the order in which they are laid.
  std::vector<std::vector<std::uint32_t>> by_row(static_cast<std::size_t>(size));
  for (std::size_t i = 0; i < areas.size(); ++i)
    for (int r = 0; r < std::min(areas[i].rows, size); ++r) by_row[static_cast<std::size_t>(wrap(areas[i].first_row + r, size))].push_back(static_cast<std::uint32_t>(i));
  Drawn out{Plane::filled(size, 0), Plane::filled(size, 0), Plane::filled(size, 0), Plane::filled(size, 0)};
  for_rows(size, 8, stop, [&](int first, int last) {
    std::vector<float> coverage;
    SubRows cuts;
    for (int y = first; y < last; ++y)
      for (const std::uint32_t i : by_row[static_cast<std::size_t>(y)]) {
        const Area& area = areas[i];
        const int wide = area.right - area.left + 1;
        coverage.assign(static_cast<std::size_t>(wide), 0.0f);
        const int up = (area.first_row - y) >= 0 ? (area.first_row - y + size - 1) / size : -((y - area.first_row) / size);
        for (int row = y + size * up; row < area.first_row + area.rows; row += size) cover_row(area, row, coverage.data(), cuts);
        for (int x = size; x < wide; ++x) coverage[static_cast<std::size_t>(x % size)] += coverage[static_cast<std::size_t>(x)];  // wider than the tile
        lay_over(area, coverage, std::min(wide, size), y, out);
      }
  });
  return out;
}

}  // namespace loom
