// Scan conversion: sub-rows are cut exactly along x, by either winding rule; strokes become polygons first.
#include <algorithm>
#include <cmath>

#include "core/base/parallel.h"
#include "core/io/drawing.h"

namespace loom {
namespace {

constexpr double kTolerance = 0.01;  // of flattened curves, in texels
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

// Polygons of one orientation whose union is the stroke: a box a segment, a wedge or disc a join, a cap an end.
class Stroker {
 public:
  Stroker(const Stroke& stroke, double tolerance) : stroke_(stroke), half_(0.5 * stroke.width) {
    const double step = half_ > tolerance ? 2 * std::acos(1 - tolerance / half_) : kPi / 2;
    round_steps_ = counted(2 * kPi / step, 8, 256);
  }
  Contours stroked(const Contours& lines) {
    for (const Contour& line : lines)
      for (const Contour& part : dashed(line)) one(part);
    return std::move(out_);
  }

 private:
  void add(std::vector<Spot> polygon) {
    double area = 0;
    for (std::size_t i = 0; i < polygon.size(); ++i) area += crossed(polygon[i], polygon[(i + 1) % polygon.size()]);
    if (area < 0) std::reverse(polygon.begin(), polygon.end());
    if (area != 0) out_.push_back({std::move(polygon), true});
  }
  void disc(Spot c) {
    std::vector<Spot> polygon;
    for (int i = 0; i < round_steps_; ++i) polygon.push_back(c + Spot{std::cos(2 * kPi * i / round_steps_), std::sin(2 * kPi * i / round_steps_)} * half_);
    add(std::move(polygon));
  }
  void join(Spot at, Spot in, Spot out) {  // unit directions
    if (stroke_.join == Stroke::Join::round) return disc(at);
    const double turn = crossed(in, out), side = turn > 0 ? -1 : 1;
    if (std::abs(turn) < 1e-9 && in.x * out.x + in.y * out.y > 0) return;
    const Spot a = at + Spot{-in.y, in.x} * (side * half_), b = at + Spot{-out.y, out.x} * (side * half_);
    std::vector<Spot> wedge{at, a, b};
    const double cosine = in.x * out.x + in.y * out.y, cosine_half = std::sqrt(std::max(0.0, (1 + cosine) / 2));
    if (stroke_.join == Stroke::Join::miter && cosine_half > 1e-6 && 1 / cosine_half <= stroke_.miter_limit) {
      const Spot middle = a + b - at * 2;
      const double l = length(middle);
      if (l > 1e-12) wedge.insert(wedge.begin() + 2, at + middle * (half_ / cosine_half / l));
    }
    add(std::move(wedge));
  }
  void cap(Spot at, Spot outward) {
    if (stroke_.cap == Stroke::Cap::round) disc(at);
    if (stroke_.cap != Stroke::Cap::square) return;
    const Spot n{-outward.y * half_, outward.x * half_}, far = at + outward * half_;
    add({at + n, at - n, far - n, far + n});
  }
  void one(const Contour& line) {
    std::vector<Spot> p;
    for (const Spot& s : line.at) if (p.empty() || length(s - p.back()) > 1e-9) p.push_back(s);
    bool closed = line.closed;
    if (closed && p.size() > 1 && length(p.front() - p.back()) < 1e-9) p.pop_back();
    if (p.size() < 2) {  // a dot shows by its caps alone
      if (p.size() == 1 && stroke_.cap != Stroke::Cap::butt) cap(p[0], {1, 0}), cap(p[0], {-1, 0});
      return;
    }
    const std::size_t n = p.size(), segments = closed ? n : n - 1;
    std::vector<Spot> direction;
    for (std::size_t i = 0; i < segments; ++i) {
      const Spot d = p[(i + 1) % n] - p[i];
      direction.push_back(d * (1 / length(d)));
      const Spot side{-direction[i].y * half_, direction[i].x * half_};
      add({p[i] + side, p[i] - side, p[(i + 1) % n] - side, p[(i + 1) % n] + side});
    }
    for (std::size_t i = closed ? 0 : 1; i < segments; ++i) join(p[i], direction[(i + segments - 1) % segments], direction[i]);
    if (!closed) cap(p[0], direction[0] * -1), cap(p[n - 1], direction.back());
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
  double half_;
  int round_steps_;
  Contours out_;
};

// ---- coverage ----

struct Edge { double x, y0, y1, slope; int winding; };  // y0 < y1, x at y0

// One area to be filled, in texels, with its edges listed by row.
struct Area {
  std::array<float, 4> colour;
  bool even_odd = false;
  int first_row = 0;
  std::vector<std::vector<Edge>> rows;  // from first_row on
};

constexpr int kMostReach = 16;  // tiles to either side: what lies farther out is left out

Area area_of(const Contours& contours, const Affine& place, double size, const std::array<float, 4>& colour, bool even_odd) {
  Area area{colour, even_odd, 0, {}};
  std::vector<Edge> edges;
  double top = 1e30, bottom = -1e30;
  const double reach = kMostReach * size;
  for (const Contour& c : contours)
    for (std::size_t i = 0; i < c.at.size() && c.at.size() > 1; ++i) {
      const Spot p = place(c.at[i]) * size, q = place(c.at[(i + 1) % c.at.size()]) * size;
      if (!(std::abs(p.x) < reach && std::abs(p.y) < reach && std::abs(q.x) < reach && std::abs(q.y) < reach)) continue;
      if (p.y == q.y) continue;
      const bool down = p.y < q.y;
      const Spot a = down ? p : q, b = down ? q : p;
      edges.push_back({a.x, a.y, b.y, (b.x - a.x) / (b.y - a.y), down ? 1 : -1});
      top = std::min(top, a.y);
      bottom = std::max(bottom, b.y);
    }
  if (edges.empty()) return area;
  area.first_row = static_cast<int>(std::floor(top));
  area.rows.resize(static_cast<std::size_t>(static_cast<int>(std::floor(bottom)) - area.first_row + 1));
  for (const Edge& e : edges)
    for (int y = static_cast<int>(std::floor(e.y0)); y <= static_cast<int>(std::floor(e.y1)); ++y) area.rows[static_cast<std::size_t>(y - area.first_row)].push_back(e);
  return area;
}

// Adds `weight` where [from, to) covers texels; wraps round.
void add_span(double from, double to, float weight, std::vector<float>& coverage) {
  const auto n = static_cast<int>(coverage.size());
  const auto at = [&](int x) -> float& { return coverage[static_cast<std::size_t>(((x % n) + n) % n)]; };
  const int first = static_cast<int>(std::floor(from)), last = static_cast<int>(std::floor(to));
  if (first == last) {
    at(first) += weight * static_cast<float>(to - from);
    return;
  }
  at(first) += weight * static_cast<float>(first + 1 - from);
  for (int x = first + 1; x < last; ++x) at(x) += weight;
  if (to > last) at(last) += weight * static_cast<float>(to - last);
}

void cover_row(const Area& area, int row, std::vector<float>& coverage, std::vector<std::pair<double, int>>& cuts) {
  const auto& edges = area.rows[static_cast<std::size_t>(row - area.first_row)];
  for (int s = 0; s < kSubRows; ++s) {
    const double y = row + (s + 0.5) / kSubRows;
    cuts.clear();
    for (const Edge& e : edges) if (e.y0 <= y && y < e.y1) cuts.emplace_back(e.x + (y - e.y0) * e.slope, e.winding);
    std::sort(cuts.begin(), cuts.end());
    int winding = 0;
    for (std::size_t i = 0; i + 1 < cuts.size(); ++i) {
      winding += cuts[i].second;
      if (area.even_odd ? winding & 1 : winding != 0) add_span(cuts[i].first, cuts[i + 1].first, 1.0f / kSubRows, coverage);
    }
  }
}

std::vector<Area> areas_of(const Drawing& drawing, const Affine& place, int size) {
  std::vector<Area> areas;
  for (const Figure& f : drawing.shapes) {
    const Affine whole = place.after(f.to_drawing);
    const double tolerance = kTolerance / std::max(whole.scale() * size, 1e-9);
    const Contours lines = flattened(f.path, tolerance);
    if (f.fill.on) areas.push_back(area_of(lines, whole, size, f.fill.colour, f.even_odd));
    if (f.line.on && f.stroke.width > 0) areas.push_back(area_of(Stroker(f.stroke, tolerance).stroked(lines), whole, size, f.line.colour, false));
  }
  return areas;
}

}  // namespace

Affine Affine::after(const Affine& i) const {
  return {a * i.a + c * i.b, b * i.a + d * i.b, a * i.c + c * i.d, b * i.c + d * i.d, a * i.e + c * i.f + e, b * i.e + d * i.f + f};
}

double Affine::scale() const { return std::sqrt(std::abs(a * d - b * c)); }

Drawn draw(const Drawing& drawing, const Affine& place, int size, const Stop& stop) {
  const std::vector<Area> areas = areas_of(drawing, place, size);
  Drawn out{Plane::filled(size, 0), Plane::filled(size, 0), Plane::filled(size, 0), Plane::filled(size, 0)};
  for_rows(size, 8, stop, [&](int first, int last) {
    std::vector<float> coverage(static_cast<std::size_t>(size));
    std::vector<std::pair<double, int>> cuts;
    for (int y = first; y < last; ++y)
      for (const Area& area : areas) {
        const int rows = static_cast<int>(area.rows.size());
        bool any = false;
        // The rows of the drawing that fall onto this one, from all tiles that it reaches.
        for (int row = y + size * static_cast<int>(std::ceil(static_cast<double>(area.first_row - y) / size)); row < area.first_row + rows; row += size) {
          if (!any) std::fill(coverage.begin(), coverage.end(), 0.0f);
          any = true;
          cover_row(area, row, coverage, cuts);
        }
        if (!any) continue;
        for (int x = 0; x < size; ++x) {
          const float alpha = std::min(coverage[static_cast<std::size_t>(x)], 1.0f) * area.colour[3], keep = 1 - alpha;
          if (alpha <= 0) continue;
          out.alpha.at(x, y) = alpha + out.alpha.at(x, y) * keep;
          out.red.at(x, y) = alpha * area.colour[0] + out.red.at(x, y) * keep;
          out.green.at(x, y) = alpha * area.colour[1] + out.green.at(x, y) * keep;
          out.blue.at(x, y) = alpha * area.colour[2] + out.blue.at(x, y) * keep;
        }
      }
  });
  return out;
}

}  // namespace loom
