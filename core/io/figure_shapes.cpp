// Source of the elements and the path grammar: W3C, Scalable Vector Graphics 1.1 (Second Edition), 2011, chapters 8
// and 9.
#include "core/io/figure_shapes.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <pugixml.hpp>

namespace loom {
namespace {

// ---- reading ----

struct Misread {
  std::string what, mend;
};

double number_of(const pugi::xml_node& n, const char* name, double fallback) {
  const pugi::xml_attribute a = n.attribute(name);
  if (!a) return fallback;
  char* end = nullptr;
  const double x = std::strtod(a.value(), &end);
  if (end == a.value() || *end != '\0' || !std::isfinite(x) || std::abs(x) > 1000)
    throw Misread{std::string(name) + " is no number within 1000", "Write a share of the tile, such as 0.25"};
  return x;
}

FigureShape box_of(const pugi::xml_node& n, FigureShape::Form form) {
  FigureShape s{.form = form};
  if (form == FigureShape::Form::rectangle) {
    const Spot at{number_of(n, "x", 0), number_of(n, "y", 0)};
    s.knots = {knot_at(at), knot_at({at.x + number_of(n, "width", 0), at.y + number_of(n, "height", 0)})};
    s.rounding = std::max(0.0, number_of(n, "rx", 0));
    return s;
  }
  const double r = number_of(n, "r", 0), rx = number_of(n, "rx", r), ry = number_of(n, "ry", r);
  const Spot centre{number_of(n, "cx", 0), number_of(n, "cy", 0)};
  s.knots = {knot_at({centre.x - rx, centre.y - ry}), knot_at({centre.x + rx, centre.y + ry})};
  return s;
}

// Numbers and letters of a path or of a list of points.
class Words {
 public:
  explicit Words(const char* text) : at_(text) {}
  bool more() {
    while (*at_ == ' ' || *at_ == ',' || *at_ == '\n' || *at_ == '\t' || *at_ == '\r') ++at_;
    return *at_ != '\0';
  }
  bool at_letter() { return more() && std::isalpha(static_cast<unsigned char>(*at_)); }
  char letter() { return *at_++; }
  Spot spot() {
    const double x = number();
    return {x, number()};
  }

 private:
  double number() {
    char* end = nullptr;
    const double x = more() ? std::strtod(at_, &end) : 0;
    if (!end || end == at_ || !std::isfinite(x) || std::abs(x) > 1000)
      throw Misread{"holds something that is no number within 1000", "Write pairs of numbers"};
    at_ = end;
    return x;
  }
  const char* at_;
};

FigureShape polygon_of(const pugi::xml_node& n) {
  FigureShape s{.form = FigureShape::Form::polygon};
  Words words(n.attribute("points").value());
  while (words.more()) s.knots.push_back(knot_at(words.spot()));
  return s;
}

bool same(Spot a, Spot b) { return std::abs(a.x - b.x) < 5e-7 && std::abs(a.y - b.y) < 5e-7; }

FigureShape curve_of(const pugi::xml_node& n) {
  FigureShape s{.form = FigureShape::Form::curve};
  Words words(n.attribute("d").value());
  char what = 'M';
  bool first = true;
  while (words.more()) {
    if (words.at_letter()) {
      what = words.letter();
      if (what == 'Z' || what == 'z') break;
      if (first ? what != 'M' : what != 'L' && what != 'C')
        throw Misread{std::string("the path goes on with ") + what, "Write M, then L and C, then Z"};
    }
    if (what == 'C') {
      s.knots.back().out = words.spot();
      const Spot in = words.spot(), at = words.spot();
      s.knots.push_back({at, in, at});
    } else {
      s.knots.push_back(knot_at(words.spot()));
    }
    first = false;
  }
  if (words.more()) throw Misread{"the path goes on after Z", "Give each outline an element of its own"};
  // An outline that ends where it began has its first knot twice.
  if (s.knots.size() > 2 && same(s.knots.front().at, s.knots.back().at)) {
    s.knots.front().in = s.knots.back().in;
    s.knots.pop_back();
  }
  return s;
}

FigureShape shape_of(const pugi::xml_node& n) {
  const std::string_view name = n.name();
  FigureShape s;
  if (name == "rect")
    s = box_of(n, FigureShape::Form::rectangle);
  else if (name == "ellipse" || name == "circle")
    s = box_of(n, FigureShape::Form::ellipse);
  else if (name == "polygon")
    s = polygon_of(n);
  else if (name == "path")
    s = curve_of(n);
  else
    throw Misread{"a figure has no such element", "Use rect, ellipse, circle, polygon and path"};
  const std::size_t least = s.form == FigureShape::Form::polygon || s.form == FigureShape::Form::curve ? 2 : 0;
  if (s.knots.size() < least || s.knots.size() > kMostFigureKnots)
    throw Misread{"has " + std::to_string(s.knots.size()) + " points", "Give it 2 to 4000"};
  const std::string fill = n.attribute("fill").as_string("white");
  if (fill != "white" && fill != "black")
    throw Misread{"is filled with '" + fill + "'", "Fill with white what adds and with black what cuts"};
  s.cut = fill == "black";
  return s;
}

// ---- writing ----

std::string written(double x) {
  char text[32];
  std::snprintf(text, sizeof text, "%.6f", x);
  std::string s = text;
  while (s.back() == '0') s.pop_back();
  if (s.back() == '.') s.pop_back();
  return s == "-0" ? "0" : s;
}
std::string written(Spot p) { return written(p.x) + "," + written(p.y); }
std::string attribute(const char* name, double x) { return std::string(" ") + name + "=\"" + written(x) + "\""; }

struct Box {
  Spot least, most;
};
Box box_of(const FigureShape& s) {
  Box b{{1e9, 1e9}, {-1e9, -1e9}};
  for (const Knot& k : s.knots) {
    b.least = {std::min(b.least.x, k.at.x), std::min(b.least.y, k.at.y)};
    b.most = {std::max(b.most.x, k.at.x), std::max(b.most.y, k.at.y)};
  }
  return b;
}

std::string element_of(const FigureShape& s) {
  const Box b = box_of(s);
  const double wide = b.most.x - b.least.x, tall = b.most.y - b.least.y;
  std::string text;
  switch (s.form) {
    case FigureShape::Form::rectangle:
      text = "<rect" + attribute("x", b.least.x) + attribute("y", b.least.y) + attribute("width", wide) +
             attribute("height", tall);
      if (s.rounding > 0) text += attribute("rx", s.rounding);
      break;
    case FigureShape::Form::ellipse:
      text = "<ellipse" + attribute("cx", b.least.x + wide / 2) + attribute("cy", b.least.y + tall / 2) +
             attribute("rx", wide / 2) + attribute("ry", tall / 2);
      break;
    case FigureShape::Form::polygon:
      text = "<polygon points=\"";
      for (std::size_t i = 0; i < s.knots.size(); ++i) text += (i ? " " : "") + written(s.knots[i].at);
      text += "\"";
      break;
    case FigureShape::Form::curve:
      text = "<path d=\"M" + written(s.knots[0].at);
      for (std::size_t i = 0; i < s.knots.size(); ++i) {
        const Knot &from = s.knots[i], &to = s.knots[(i + 1) % s.knots.size()];
        if (same(from.at, from.out) && same(to.at, to.in))
          text += i + 1 < s.knots.size() ? " L" + written(to.at) : "";
        else
          text += " C" + written(from.out) + " " + written(to.in) + " " + written(to.at);
      }
      text += " Z\"";
      break;
  }
  return text + " fill=\"" + (s.cut ? "black" : "white") + "\"/>";
}

// A quarter of a circle as one cubic: off by 0.03 % of the radius. Source: Goldapp, "Approximation of circular arcs by
// cubic polynomials", CAGD 8 (1991), from memory.
constexpr double kQuarter = 0.5522847498;

// ---- taking a drawing over ----

Knot moved(const Affine& to, Spot at) { return knot_at(to(at)); }

// Each outline of a path by itself.
std::vector<FigureShape> outlines_of(const Figure& figure, const Affine& place) {
  const Affine to = place.after(figure.to_drawing);
  std::vector<FigureShape> all;
  for (const Path::Piece& piece : figure.path.pieces) {
    if (piece.kind == Path::Piece::Kind::move || all.empty())
      all.push_back({.form = FigureShape::Form::polygon, .knots = {moved(to, piece.at[0])}});
    FigureShape& s = all.back();
    if (piece.kind == Path::Piece::Kind::line) s.knots.push_back(moved(to, piece.at[0]));
    if (piece.kind == Path::Piece::Kind::cubic) {
      s.form = FigureShape::Form::curve;
      s.knots.back().out = to(piece.at[0]);
      s.knots.push_back({to(piece.at[2]), to(piece.at[1]), to(piece.at[2])});
    }
  }
  for (FigureShape& s : all)
    if (s.knots.size() > 2 && same(s.knots.front().at, s.knots.back().at)) {
      s.knots.front().in = s.knots.back().in;
      s.knots.pop_back();
    }
  std::erase_if(all, [](const FigureShape& s) { return s.knots.size() < 2; });
  return all;
}

// The outline as corners, eight to a curve.
std::vector<Spot> corners_of(const FigureShape& s) {
  std::vector<Spot> corners;
  for (std::size_t i = 0; i < s.knots.size(); ++i) {
    const Knot &a = s.knots[i], &b = s.knots[(i + 1) % s.knots.size()];
    for (int k = 0; k < 8; ++k) {
      const double t = k / 8.0, r = 1 - t, w[] = {r * r * r, 3 * r * r * t, 3 * r * t * t, t * t * t};
      corners.push_back({w[0] * a.at.x + w[1] * a.out.x + w[2] * b.in.x + w[3] * b.at.x,
                         w[0] * a.at.y + w[1] * a.out.y + w[2] * b.in.y + w[3] * b.at.y});
    }
  }
  return corners;
}

// How often a closed line winds round a place.
int winding(const std::vector<Spot>& line, Spot p) {
  int turns = 0;
  for (std::size_t i = 0; i < line.size(); ++i) {
    const Spot a = line[i], b = line[(i + 1) % line.size()];
    const double side = (b.x - a.x) * (p.y - a.y) - (p.x - a.x) * (b.y - a.y);
    if (a.y <= p.y && b.y > p.y && side > 0) ++turns;
    if (a.y > p.y && b.y <= p.y && side < 0) --turns;
  }
  return turns;
}

// An outline that lies within others of its path is a hole where the rule of the fill leaves nothing there.
void find_holes(std::vector<FigureShape>& outlines, bool even_odd) {
  std::vector<std::vector<Spot>> lines;
  for (const FigureShape& s : outlines) lines.push_back(corners_of(s));
  std::vector<int> depth(outlines.size(), 0);
  for (std::size_t i = 0; i < outlines.size(); ++i) {
    const Spot edge = lines[i][0], next = lines[i][1];
    // Just within the outline: to whichever side of its first stretch it winds.
    Spot inside{(edge.x + next.x) / 2, (edge.y + next.y) / 2};
    const Spot aside{-(next.y - edge.y) * 1e-3, (next.x - edge.x) * 1e-3};
    inside = winding(lines[i], {inside.x + aside.x, inside.y + aside.y}) != 0
                 ? Spot{inside.x + aside.x, inside.y + aside.y}
                 : Spot{inside.x - aside.x, inside.y - aside.y};
    int turns = 0;
    for (std::size_t k = 0; k < lines.size(); ++k) {
      const int w = winding(lines[k], inside);
      turns += w;
      depth[i] += k != i && w != 0;
    }
    outlines[i].cut = even_odd ? depth[i] % 2 == 1 : turns == 0;
  }
  // What lies deeper is laid later.
  std::vector<std::size_t> order(outlines.size());
  for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
  std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return depth[a] < depth[b]; });
  std::vector<FigureShape> sorted;
  for (const std::size_t i : order) sorted.push_back(std::move(outlines[i]));
  outlines = std::move(sorted);
}

}  // namespace

Knot knot_at(Spot p) { return {p, p, p}; }

Path outline_of(const FigureShape& s) {
  Path path;
  if (s.form == FigureShape::Form::polygon || s.form == FigureShape::Form::curve) {
    if (s.knots.empty()) return path;
    path.move(s.knots[0].at);
    for (std::size_t i = 0; i < s.knots.size(); ++i) {
      const Knot &from = s.knots[i], &to = s.knots[(i + 1) % s.knots.size()];
      if (s.form == FigureShape::Form::polygon || (same(from.at, from.out) && same(to.at, to.in)))
        path.line(to.at);
      else
        path.cubic(from.out, to.in, to.at);
    }
    path.close();
    return path;
  }
  const Box b = box_of(s);
  const double wide = b.most.x - b.least.x, tall = b.most.y - b.least.y;
  const bool ellipse = s.form == FigureShape::Form::ellipse;
  const double rx = ellipse ? wide / 2 : std::min({s.rounding, wide / 2, tall / 2}), ry = ellipse ? tall / 2 : rx;
  const double l = b.least.x, t = b.least.y, r = b.most.x, m = b.most.y, kx = rx * (1 - kQuarter),
               ky = ry * (1 - kQuarter);
  if (rx <= 0 || ry <= 0) {
    path.move({l, t}), path.line({r, t}), path.line({r, m}), path.line({l, m});
    path.close();
    return path;
  }
  path.move({l + rx, t}), path.line({r - rx, t}), path.cubic({r - kx, t}, {r, t + ky}, {r, t + ry});
  path.line({r, m - ry}), path.cubic({r, m - ky}, {r - kx, m}, {r - rx, m});
  path.line({l + rx, m}), path.cubic({l + kx, m}, {l, m - ky}, {l, m - ry});
  path.line({l, t + ry}), path.cubic({l, t + ky}, {l + kx, t}, {l + rx, t});
  path.close();
  return path;
}

Result<FigureShapes> figure_shapes(std::string_view text) {
  FigureShapes shapes;
  if (text.empty()) return shapes;
  pugi::xml_document document;
  const pugi::xml_parse_result parsed = document.load_buffer(text.data(), text.size());
  if (!parsed)
    return Error{"character " + std::to_string(parsed.offset + 1), std::string("is no SVG: ") + parsed.description(),
                 "Draw the figure anew, or bring a drawing in"};
  std::size_t element = 0;
  for (const pugi::xml_node& n : document.document_element().children()) {
    if (n.type() != pugi::node_element) continue;
    ++element;
    try {
      shapes.push_back(shape_of(n));
    } catch (const Misread& bad) {
      return Error{"element " + std::to_string(element) + " (" + n.name() + ")", bad.what, bad.mend};
    }
    if (shapes.size() > kMostFigureShapes)
      return Error{"", "has more than 2000 shapes", "Use a node SVG drawing instead"};
  }
  return shapes;
}

std::string svg_of(const FigureShapes& shapes) {
  if (shapes.empty()) return {};
  std::string text = "<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 1 1\">\n";
  for (const FigureShape& s : shapes) text += element_of(s) + "\n";
  return text + "</svg>";
}

Drawing drawing_of(const FigureShapes& shapes) {
  Drawing drawing;
  for (const FigureShape& s : shapes) {
    const float tone = s.cut ? 0.0f : 1.0f;
    drawing.shapes.push_back({.path = outline_of(s), .fill = {.on = true, .colour = {tone, tone, tone, 1}}});
  }
  return drawing;
}

Result<TakenOver> figure_from_svg(std::string_view text, double margin) {
  const auto drawing = read_svg(text);
  if (!drawing) return drawing.error();
  TakenOver taken;
  const double room = 1 - 2 * margin, across = room / std::max(drawing->width, drawing->height);
  const Affine place{across,
                     0,
                     0,
                     across,
                     0.5 - across * (drawing->x + 0.5 * drawing->width),
                     0.5 - across * (drawing->y + 0.5 * drawing->height)};
  std::size_t lines = 0, gradients = 0;
  for (const Figure& figure : drawing->shapes) {
    lines += figure.line.on;
    if (!figure.fill.on) continue;
    gradients += figure.fill.gradient != nullptr;
    auto outlines = outlines_of(figure, place);
    find_holes(outlines, figure.even_odd);
    for (FigureShape& s : outlines) taken.shapes.push_back(std::move(s));
  }
  if (taken.shapes.size() > kMostFigureShapes)
    return Error{"", "has more than 2000 outlines", "Use a node SVG drawing instead"};
  if (lines) taken.left_out.push_back(std::to_string(lines) + " lines without area: turn strokes to paths");
  if (gradients) taken.left_out.push_back(std::to_string(gradients) + " gradients: a figure is black and white");
  if (taken.shapes.empty())
    return Error{"", "holds no filled shape", "Turn strokes and text to paths where it was drawn"};
  return taken;
}

}  // namespace loom
