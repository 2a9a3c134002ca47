// Gradients: from attributes to a table of colours and the way into it.
#include "core/io/svg_gradient.h"

#include <algorithm>
#include <cmath>
#include <cstring>

#include "core/io/svg_values.h"
#include "core/plane/colour.h"

namespace loom {
namespace {

using Colour = std::array<float, 4>;

// What bounds a cubic: its ends, and where its slope along an axis is 0.
void add_cubic(const std::array<Spot, 4>& p, double Spot::*axis, double& least, double& most) {
  const double a = p[0].*axis, b = p[1].*axis, c = p[2].*axis, d = p[3].*axis;
  const auto at = [&](double t) {
    const double s = 1 - t, x = s * s * s * a + 3 * s * s * t * b + 3 * s * t * t * c + t * t * t * d;
    if (t >= 0 && t <= 1) least = std::min(least, x), most = std::max(most, x);
  };
  at(0), at(1);
  const double q2 = d - 3 * c + 3 * b - a, q1 = 2 * (c - 2 * b + a), q0 = b - a;
  if (std::abs(q2) < 1e-12) {
    if (q1 != 0) at(-q0 / q1);
  } else if (const double under = q1 * q1 - 4 * q2 * q0; under >= 0) {
    at((-q1 + std::sqrt(under)) / (2 * q2)), at((-q1 - std::sqrt(under)) / (2 * q2));
  }
}

// A gradient and those that it refers to, the nearest first.
class Chain {
 public:
  Chain(pugi::xml_node first, const std::function<pugi::xml_node(std::string_view)>& by_id) {
    constexpr std::size_t kMost = 16;  // they may refer to each other in a ring
    for (pugi::xml_node n = first; n && all_.size() < kMost;) {
      all_.push_back(n);
      const std::string_view to = n.attribute("href") ? n.attribute("href").value() : n.attribute("xlink:href").value();
      n = to.size() > 1 && to[0] == '#' ? by_id(to.substr(1)) : pugi::xml_node();
    }
  }
  const char* value(const char* key) const {
    for (const pugi::xml_node& n : all_)
      if (const pugi::xml_attribute a = n.attribute(key)) return a.value();
    return "";
  }
  /// A number, or a share of `whole` in per cent.
  double number(const char* key, double fallback, double whole) const {
    const char* text = value(key);
    const double v = number_of(text, fallback);
    return std::strchr(text, '%') ? v / 100 * whole : v;
  }
  std::vector<pugi::xml_node> stops() const {
    std::vector<pugi::xml_node> found;
    for (const pugi::xml_node& n : all_) {
      for (const pugi::xml_node& child : n.children())
        if (std::string_view name = child.name(); name.substr(name.find(':') + 1) == "stop") found.push_back(child);
      if (!found.empty()) break;
    }
    return found;
  }

 private:
  std::vector<pugi::xml_node> all_;
};

// By the style if it says so, else by the attribute.
std::string property(const pugi::xml_node& n, const std::string& key) {
  const std::string_view style = n.attribute("style").value();
  const auto at = style.find(key + ":");
  std::string text = at == std::string_view::npos
                         ? n.attribute(key.c_str()).value()
                         : std::string(style.substr(at + key.size() + 1, style.find(';', at) - at - key.size() - 1));
  text.erase(0, std::min(text.find_first_not_of(' '), text.size()));
  text.erase(text.find_last_not_of(' ') + 1);
  return text;
}

// Evenly spaced, mixed between stops as sRGB codes and given in linear light. Null: there are no stops.
std::shared_ptr<const std::vector<Colour>> table_of(const std::vector<pugi::xml_node>& stops, double opacity) {
  struct At {
    double offset;
    Colour colour;
  };
  std::vector<At> all;
  for (const pugi::xml_node& n : stops) {
    const char* text = n.attribute("offset").value();
    double offset = std::clamp(number_of(text, 0) / (std::strchr(text, '%') ? 100 : 1), 0.0, 1.0);
    if (!all.empty()) offset = std::max(offset, all.back().offset);
    const auto c = colour_of(property(n, "stop-color")).value_or(std::array<float, 3>{0, 0, 0});
    const double cover = std::clamp(number_of(property(n, "stop-opacity").c_str(), 1), 0.0, 1.0) * opacity;
    all.push_back(
        {offset, {srgb_from_linear(c[0]), srgb_from_linear(c[1]), srgb_from_linear(c[2]), static_cast<float>(cover)}});
  }
  if (all.empty()) return nullptr;
  std::vector<Colour> table(Gradient::kColours);
  std::size_t next = 0;
  for (std::size_t i = 0; i < table.size(); ++i) {
    const double t = static_cast<double>(i) / static_cast<double>(table.size() - 1);
    while (next < all.size() && all[next].offset <= t) ++next;
    const At &a = all[next > 0 ? next - 1 : 0], &b = all[std::min(next, all.size() - 1)];
    const auto share =
        static_cast<float>(b.offset > a.offset ? std::clamp((t - a.offset) / (b.offset - a.offset), 0.0, 1.0) : 0);
    for (std::size_t k = 0; k < 4; ++k) table[i][k] = a.colour[k] + (b.colour[k] - a.colour[k]) * share;
    for (std::size_t k = 0; k < 3; ++k) table[i][k] = linear_from_srgb(table[i][k]);
  }
  return std::make_shared<const std::vector<Colour>>(std::move(table));
}

// Neither without extent nor without end.
bool spans(const Affine& a) { return a.scale() > 1e-12 && a.scale() < 1e12; }

}  // namespace

Box box_of(const Path& path) {
  double left = 1e300, right = -1e300, top = 1e300, bottom = -1e300;
  Spot at;
  for (const Path::Piece& piece : path.pieces) {
    if (piece.kind == Path::Piece::Kind::close) continue;
    const bool bent = piece.kind == Path::Piece::Kind::cubic;
    const std::array<Spot, 4> p{bent ? at : piece.at[0], bent ? piece.at[0] : piece.at[0],
                                bent ? piece.at[1] : piece.at[0], bent ? piece.at[2] : piece.at[0]};
    add_cubic(p, &Spot::x, left, right);
    add_cubic(p, &Spot::y, top, bottom);
    at = p[3];
  }
  return left <= right ? Box{left, top, right - left, bottom - top} : Box{};
}

Paint Gradients::paint(pugi::xml_node gradient, const GradientFrame& frame, double opacity) {
  std::string_view name = gradient.name();
  name = name.substr(name.find(':') + 1);
  if (name != "linearGradient" && name != "radialGradient") return {};
  const Chain chain(gradient, by_id_);
  const auto [known, is_new] = tables_.try_emplace({gradient, opacity});
  if (is_new) known->second = table_of(chain.stops(), opacity);
  if (!known->second) return {};
  auto g = std::make_shared<Gradient>();
  g->colours = known->second;
  const bool in_user_space = std::string_view(chain.value("gradientUnits")) == "userSpaceOnUse";
  const double width = in_user_space ? frame.width : 1, height = in_user_space ? frame.height : 1;
  const std::string_view beyond = chain.value("spreadMethod");
  g->beyond = beyond == "reflect"  ? Gradient::Beyond::reflect
              : beyond == "repeat" ? Gradient::Beyond::repeat
                                   : Gradient::Beyond::pad;
  Affine own;  // from where the gradient runs over 0 to 1
  if (name == "linearGradient") {
    const double x = chain.number("x1", 0, width), y = chain.number("y1", 0, height),
                 dx = chain.number("x2", width, width) - x, dy = chain.number("y2", 0, height) - y;
    own = {dx, dy, -dy, dx, x, y};
  } else {
    g->radial = true;
    const double r = chain.number("r", 0.5 * std::sqrt((width * width + height * height) / 2),
                                  std::sqrt((width * width + height * height) / 2));
    const double x = chain.number("cx", 0.5 * width, width), y = chain.number("cy", 0.5 * height, height);
    own = {r, 0, 0, r, x, y};
    if (r > 0) g->focus = {(chain.number("fx", x, width) - x) / r, (chain.number("fy", y, height) - y) / r};
    if (const double out = std::hypot(g->focus.x, g->focus.y); out > 0.99)
      g->focus = {g->focus.x / out * 0.99, g->focus.y / out * 0.99};
  }
  if (own.scale() < 1e-12) return {true, g->colours->back(), nullptr};  // it ends where it begins
  Affine whole = frame.to_drawing;
  if (!in_user_space) whole = whole.after({frame.shape.width, 0, 0, frame.shape.height, frame.shape.x, frame.shape.y});
  whole = whole.after(transform_of(chain.value("gradientTransform"))).after(own);
  if (!spans(whole)) return {};
  g->from_drawing = whole.inverse();
  return {true, {0, 0, 0, 1}, std::move(g)};
}

}  // namespace loom
