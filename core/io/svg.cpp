// SVG text to figures: pugixml reads the tree, the rest is here.
#include <algorithm>
#include <cmath>
#include <numbers>
#include <optional>
#include <pugixml.hpp>
#include <unordered_map>

#include "core/io/svg_gradient.h"
#include "core/io/svg_values.h"

namespace loom {
namespace {

constexpr int kMostDepth = 64;
constexpr std::size_t kMostFigures = 100000, kMostPieces = 4000000;

// An elliptic arc as cubic pieces. Source: SVG 1.1, appendix F.6.
void add_arc(Path& path, Spot from, double rx, double ry, double degrees, bool large, bool sweep, Spot to) {
  rx = std::abs(rx);
  ry = std::abs(ry);
  if (rx == 0 || ry == 0 || (from.x == to.x && from.y == to.y)) return path.line(to);
  const double phi = degrees * std::numbers::pi / 180, c = std::cos(phi), s = std::sin(phi);
  const double dx = (from.x - to.x) / 2, dy = (from.y - to.y) / 2, x = c * dx + s * dy, y = -s * dx + c * dy;
  const double over = x * x / (rx * rx) + y * y / (ry * ry);
  if (over > 1) rx *= std::sqrt(over), ry *= std::sqrt(over);
  const double below = rx * rx * y * y + ry * ry * x * x;
  const double k = (large == sweep ? -1 : 1) * std::sqrt(std::max(0.0, (rx * rx * ry * ry - below) / below));
  const double cx = k * rx * y / ry, cy = -k * ry * x / rx;
  const double start = std::atan2((y - cy) / ry, (x - cx) / rx);
  double turn = std::atan2((-y - cy) / ry, (-x - cx) / rx) - start;
  if (sweep && turn < 0) turn += 2 * std::numbers::pi;
  if (!sweep && turn > 0) turn -= 2 * std::numbers::pi;
  const Spot middle{c * cx - s * cy + (from.x + to.x) / 2, s * cx + c * cy + (from.y + to.y) / 2};
  if (!std::isfinite(turn) || !std::isfinite(rx) || !std::isfinite(ry))
    return path.line(to);  // radii beyond all bounds
  const int n = std::max(1, static_cast<int>(std::ceil(std::abs(turn) / (std::numbers::pi / 2) - 1e-9)));
  const double step = turn / n, handle = 4.0 / 3 * std::tan(step / 4);
  const auto place = [&](double a, double along) {  // on the ellipse, moved along its tangent
    const double ex = rx * (std::cos(a) - along * std::sin(a)), ey = ry * (std::sin(a) + along * std::cos(a));
    return Spot{middle.x + c * ex - s * ey, middle.y + s * ex + c * ey};
  };
  for (int i = 0; i < n; ++i) {
    const double a = start + i * step, b = a + step;
    path.cubic(place(a, handle), place(b, -handle), i + 1 == n ? to : place(b, 0));
  }
}

// The path data of SVG 1.1, section 8.3. What follows a mistake is left out, as the standard asks.
Path path_of(const char* text) {
  Path path;
  Numbers in(text);
  char command = '\0', before = '\0';
  Spot at, start, handle;
  while (!in.done() && path.pieces.size() < kMostPieces) {
    if (const char letter = in.letter())
      command = letter;
    else if (command == 'M')
      command = 'L';
    else if (command == 'm')
      command = 'l';
    else if (command == 'Z' || command == 'z')
      break;  // nothing goes on from there without a word
    const bool relative = command >= 'a';
    const char upper = relative ? static_cast<char>(command - 32) : command;
    const Spot from = relative ? at : Spot{};
    const auto number = [&] { return in.next(); };
    const auto spot = [&]() -> std::optional<Spot> {
      const auto x = number();
      const auto y = x ? number() : x;
      if (!y) return {};
      return Spot{from.x + *x, from.y + *y};
    };
    const Spot mirrored{2 * at.x - handle.x, 2 * at.y - handle.y};
    if (upper == 'Z') {
      if (path.pieces.empty()) break;
      path.close();
      at = start;
    } else if (upper == 'M' || upper == 'L' || upper == 'T') {
      const auto p = spot();
      if (!p || (path.pieces.empty() && upper != 'M')) break;
      if (upper == 'M')
        path.move(start = *p);
      else if (upper == 'L')
        path.line(*p);
      if (upper == 'T') {
        handle = before == 'Q' || before == 'T' ? mirrored : at;
        path.cubic({at.x + 2.0 / 3 * (handle.x - at.x), at.y + 2.0 / 3 * (handle.y - at.y)},
                   {p->x + 2.0 / 3 * (handle.x - p->x), p->y + 2.0 / 3 * (handle.y - p->y)}, *p);
      }
      at = *p;
    } else if (path.pieces.empty()) {
      break;
    } else if (upper == 'H' || upper == 'V') {
      const auto v = number();
      if (!v) break;
      if (upper == 'H')
        at.x = from.x + *v;
      else
        at.y = from.y + *v;
      path.line(at);
    } else if (upper == 'C' || upper == 'S') {
      std::optional<Spot> p = before == 'C' || before == 'S' ? mirrored : at;
      if (upper == 'C') p = spot();
      const auto q = p ? spot() : p;
      const auto r = q ? spot() : q;
      if (!r) break;
      path.cubic(*p, *q, *r);
      handle = *q;
      at = *r;
    } else if (upper == 'Q') {
      const auto q = spot();
      const auto p = q ? spot() : q;
      if (!p) break;
      handle = *q;
      path.cubic({at.x + 2.0 / 3 * (q->x - at.x), at.y + 2.0 / 3 * (q->y - at.y)},
                 {p->x + 2.0 / 3 * (q->x - p->x), p->y + 2.0 / 3 * (q->y - p->y)}, *p);
      at = *p;
    } else if (upper == 'A') {
      const auto rx = number(), ry = number(), turn = number();
      const auto large = in.flag(), sweep = in.flag();
      const auto p = sweep ? spot() : std::nullopt;
      if (!rx || !ry || !turn || !large || !p) break;
      add_arc(path, at, *rx, *ry, *turn, *large, *sweep, *p);
      at = *p;
    } else {
      break;
    }
    before = upper;
  }
  return path;
}

void add_ellipse(Path& path, double cx, double cy, double rx, double ry) {
  path.move({cx + rx, cy});
  add_arc(path, {cx + rx, cy}, rx, ry, 0, false, true, {cx - rx, cy});
  add_arc(path, {cx - rx, cy}, rx, ry, 0, false, true, {cx + rx, cy});
  path.close();
}

void add_box(Path& path, double x, double y, double w, double h, double rx, double ry) {
  rx = std::min(rx, w / 2);
  ry = std::min(ry, h / 2);
  if (rx <= 0 || ry <= 0) {
    path.move({x, y}), path.line({x + w, y}), path.line({x + w, y + h}), path.line({x, y + h});
    return path.close();
  }
  path.move({x + rx, y}), path.line({x + w - rx, y});
  add_arc(path, {x + w - rx, y}, rx, ry, 0, false, true, {x + w, y + ry});
  path.line({x + w, y + h - ry});
  add_arc(path, {x + w, y + h - ry}, rx, ry, 0, false, true, {x + w - rx, y + h});
  path.line({x + rx, y + h});
  add_arc(path, {x + rx, y + h}, rx, ry, 0, false, true, {x, y + h - ry});
  path.line({x, y + ry});
  add_arc(path, {x, y + ry}, rx, ry, 0, false, true, {x + rx, y});
  path.close();
}

// What an element hands down to those within it.
struct Style {
  std::string fill = "black", stroke = "none", colour = "black";
  double fill_opacity = 1, stroke_opacity = 1, opacity = 1;
  bool even_odd = false, hidden = false;
  Stroke line;
};

class DrawingReader {
 public:
  explicit DrawingReader(const pugi::xml_document& document) : document_(document) {}

  Result<Drawing> read() {
    const pugi::xml_node root = document_.document_element();
    if (name_of(root) != "svg")
      return Error{"", "is no SVG drawing: its outermost element is not svg", "Save the drawing as SVG"};
    frame(root);
    name_elements();
    visit(root, Style(), Affine(), 0);
    if (too_much_)
      return Error{"", "holds too much: more than 64 levels, 100 000 shapes or 4 million pieces",
                   "Simplify the drawing"};
    return std::move(drawing_);
  }

 private:
  static std::string_view name_of(const pugi::xml_node& n) {
    const std::string_view name = n.name();
    const auto colon = name.find(':');
    return colon == std::string_view::npos ? name : name.substr(colon + 1);
  }

  void frame(const pugi::xml_node& root) {
    Numbers box(root.attribute("viewBox").value());
    const auto x = box.next(), y = box.next(), w = box.next(), h = box.next();
    if (h && *w > 0 && *h > 0) {
      drawing_.x = *x, drawing_.y = *y, drawing_.width = *w, drawing_.height = *h;
      return;
    }
    drawing_.width = std::max(1e-3, number_of(root.attribute("width").value(), 300));
    drawing_.height = std::max(1e-3, number_of(root.attribute("height").value(), 150));
  }

  static void set(Style& s, std::string_view key, const std::string& value) {
    if (value == "inherit") return;
    const auto number = [&](double fallback) { return number_of(value.c_str(), fallback); };
    if (key == "fill")
      s.fill = value;
    else if (key == "stroke")
      s.stroke = value;
    else if (key == "color")
      s.colour = value;
    else if (key == "fill-opacity")
      s.fill_opacity = std::clamp(number(1), 0.0, 1.0);
    else if (key == "stroke-opacity")
      s.stroke_opacity = std::clamp(number(1), 0.0, 1.0);
    else if (key == "opacity")
      s.opacity *= std::clamp(number(1), 0.0, 1.0);
    else if (key == "fill-rule")
      s.even_odd = value == "evenodd";
    else if (key == "display")
      s.hidden |= value == "none";
    else if (key == "visibility")
      s.hidden = value != "visible";
    else if (key == "stroke-width")
      s.line.width = std::max(0.0, number(1));
    else if (key == "stroke-miterlimit")
      s.line.miter_limit = std::max(1.0, number(4));
    else if (key == "stroke-dashoffset")
      s.line.dash_offset = number(0);
    else if (key == "stroke-linecap")
      s.line.cap = value == "round" ? Stroke::Cap::round : value == "square" ? Stroke::Cap::square : Stroke::Cap::butt;
    else if (key == "stroke-linejoin")
      s.line.join = value == "round"   ? Stroke::Join::round
                    : value == "bevel" ? Stroke::Join::bevel
                                       : Stroke::Join::miter;
    else if (key == "stroke-dasharray") {
      s.line.dashes.clear();
      for (Numbers in(value.c_str()); const auto x = in.next();) s.line.dashes.push_back(std::max(0.0, *x));
      if (s.line.dashes.size() % 2)
        s.line.dashes.insert(s.line.dashes.end(), s.line.dashes.begin(), s.line.dashes.end());
    }
  }

  static Style styled(const pugi::xml_node& n, Style s) {
    for (const pugi::xml_attribute& a : n.attributes()) set(s, a.name(), a.value());
    std::string_view text = n.attribute("style").value();  // it outweighs the attributes
    while (!text.empty()) {
      const auto end = std::min(text.find(';'), text.size());
      const std::string_view part = text.substr(0, end);
      text = end < text.size() ? text.substr(end + 1) : std::string_view();
      const auto colon = part.find(':');
      if (colon == std::string_view::npos) continue;
      const auto trimmed = [](std::string_view v) {
        while (!v.empty() && v.front() <= ' ') v.remove_prefix(1);
        while (!v.empty() && v.back() <= ' ') v.remove_suffix(1);
        return std::string(v);
      };
      set(s, trimmed(part.substr(0, colon)), trimmed(part.substr(colon + 1)));
    }
    return s;
  }

  // All names are looked up once: a drawing may refer to them from every shape.
  void name_elements() {
    document_.find_node([&](const pugi::xml_node& n) {
      if (const pugi::xml_attribute id = n.attribute("id")) named_.emplace(id.value(), n);
      return false;
    });
  }
  pugi::xml_node by_id(std::string_view id) const {
    const auto it = named_.find(id);
    return it == named_.end() ? pugi::xml_node() : it->second;
  }

  Paint paint_of(const std::string& text, double opacity, const Style& s, const Path& path, const Affine& here) {
    if (text.empty() || text == "none" || text == "transparent") return {};
    if (text.rfind("url(#", 0) == 0) {
      const auto shut = std::min(text.find(')'), text.size());
      const GradientFrame frame{box_of(path), here, drawing_.width, drawing_.height};
      Paint paint = gradients_.paint(by_id(text.substr(5, shut - 5)), frame, opacity * s.opacity);
      if (paint.on || shut == text.size()) return paint;
      const auto other = text.find_first_not_of(' ', shut + 1);  // what to take instead
      return other == std::string::npos ? Paint{} : paint_of(text.substr(other), opacity, s, path, here);
    }
    const auto c = colour_of(text == "currentColor" ? s.colour : text);
    if (!c) return {};
    return {true, {(*c)[0], (*c)[1], (*c)[2], static_cast<float>(opacity * s.opacity)}, nullptr};
  }

  static Path shape_of(const pugi::xml_node& n) {
    const auto a = [&](const char* key, double fallback = 0.0) {
      return number_of(n.attribute(key).value(), fallback);
    };
    const std::string_view name = name_of(n);
    Path p;
    if (name == "path") return path_of(n.attribute("d").value());
    if (name == "rect" && a("width") > 0 && a("height") > 0) {
      const double rx = a("rx", a("ry")), ry = a("ry", a("rx"));
      add_box(p, a("x"), a("y"), a("width"), a("height"), rx, ry);
    } else if (name == "circle" && a("r") > 0) {
      add_ellipse(p, a("cx"), a("cy"), a("r"), a("r"));
    } else if (name == "ellipse" && a("rx") > 0 && a("ry") > 0) {
      add_ellipse(p, a("cx"), a("cy"), a("rx"), a("ry"));
    } else if (name == "line") {
      p.move({a("x1"), a("y1")}), p.line({a("x2"), a("y2")});
    } else if (name == "polyline" || name == "polygon") {
      Numbers in(n.attribute("points").value());
      while (const auto x = in.next()) {
        const auto y = in.next();
        if (!y) break;
        if (p.pieces.empty())
          p.move({*x, *y});
        else
          p.line({*x, *y});
      }
      if (name == "polygon" && !p.pieces.empty()) p.close();
    }
    return p;
  }

  void visit(const pugi::xml_node& n, const Style& outer, const Affine& placed, int depth) {
    if (depth > kMostDepth || ++visits_ > 10 * kMostFigures) too_much_ = true;  // uses of uses grow without end
    if (too_much_) return;
    const Style s = styled(n, outer);
    const std::string_view name = name_of(n);
    if (s.hidden && name != "g" && name != "svg") return;
    Affine here = placed.after(transform_of(n.attribute("transform").value()));
    if (name == "use") {
      std::string_view to = n.attribute("href") ? n.attribute("href").value() : n.attribute("xlink:href").value();
      here = here.after({1, 0, 0, 1, number_of(n.attribute("x").value(), 0), number_of(n.attribute("y").value(), 0)});
      if (to.size() > 1 && to[0] == '#') {
        const pugi::xml_node target = by_id(to.substr(1));
        if (name_of(target) == "symbol")
          for (const pugi::xml_node& child : target.children()) visit(child, styled(target, s), here, depth + 2);
        else if (target)
          visit(target, s, here, depth + 2);
      }
      return;
    }
    if (name == "g" || name == "svg" || name == "a" || name == "switch") {
      for (const pugi::xml_node& child : n.children()) visit(child, s, here, depth + 1);
      return;
    }
    Figure f{shape_of(n), here, s.even_odd, {}, {}, s.line};
    if (f.path.pieces.empty()) return;
    f.fill = paint_of(s.fill, s.fill_opacity, s, f.path, here);
    f.line = paint_of(s.stroke, s.stroke_opacity, s, f.path, here);
    if (!f.fill.on && !f.line.on) return;
    if (name == "line") f.fill.on = false;
    pieces_ += f.path.pieces.size();
    too_much_ |= pieces_ > kMostPieces || drawing_.shapes.size() >= kMostFigures;
    drawing_.shapes.push_back(std::move(f));
  }

  const pugi::xml_document& document_;
  std::unordered_map<std::string_view, pugi::xml_node> named_;  // by id; the first counts
  Gradients gradients_{[this](std::string_view id) { return by_id(id); }};
  Drawing drawing_;
  std::size_t pieces_ = 0, visits_ = 0;
  bool too_much_ = false;
};

// pugixml walks into brackets by recursion of its own in some calls: what is nested too deep is not handed to it.
bool too_deep(std::string_view text) {
  int depth = 0;
  for (std::size_t i = 0; i + 1 < text.size(); ++i) {
    if (text[i] == '<' && text[i + 1] == '/')
      --depth;
    else if (text[i] == '<' && text[i + 1] != '!' && text[i + 1] != '?')
      ++depth;
    else if (text[i] == '/' && text[i + 1] == '>')
      --depth;
    if (depth > 4 * kMostDepth) return true;
  }
  return false;
}

}  // namespace

Result<Drawing> read_svg(std::string_view text) {
  if (too_deep(text)) return Error{"", "is nested too deep", "Ungroup the drawing"};
  pugi::xml_document document;
  const auto parsed = document.load_buffer(text.data(), text.size());
  if (!parsed)
    return Error{"byte " + std::to_string(parsed.offset), std::string("is no XML: ") + parsed.description(),
                 "Save the drawing as SVG again"};
  return DrawingReader(document).read();
}

}  // namespace loom
