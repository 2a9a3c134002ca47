// Numbers, transforms and colours out of text.
#include "core/io/svg_values.h"

#include <algorithm>
#include <map>
#include <numbers>
#include <string>

#include "core/plane/colour.h"

namespace loom {
namespace {

// CSS Color Module Level 3, section 4.3: the names that drawings use most.
const std::map<std::string_view, unsigned>& colour_names() {
  static const std::map<std::string_view, unsigned> kNames = {
      {"black", 0x000000},     {"silver", 0xc0c0c0},    {"gray", 0x808080},      {"grey", 0x808080},
      {"white", 0xffffff},     {"maroon", 0x800000},    {"red", 0xff0000},       {"purple", 0x800080},
      {"fuchsia", 0xff00ff},   {"magenta", 0xff00ff},   {"green", 0x008000},     {"lime", 0x00ff00},
      {"olive", 0x808000},     {"yellow", 0xffff00},    {"navy", 0x000080},      {"blue", 0x0000ff},
      {"teal", 0x008080},      {"aqua", 0x00ffff},      {"cyan", 0x00ffff},      {"orange", 0xffa500},
      {"brown", 0xa52a2a},     {"pink", 0xffc0cb},      {"gold", 0xffd700},      {"indigo", 0x4b0082},
      {"violet", 0xee82ee},    {"crimson", 0xdc143c},   {"coral", 0xff7f50},     {"salmon", 0xfa8072},
      {"khaki", 0xf0e68c},     {"tan", 0xd2b48c},       {"beige", 0xf5f5dc},     {"ivory", 0xfffff0},
      {"darkgray", 0xa9a9a9},  {"darkgrey", 0xa9a9a9},  {"lightgray", 0xd3d3d3}, {"lightgrey", 0xd3d3d3},
      {"dimgray", 0x696969},   {"dimgrey", 0x696969},   {"darkred", 0x8b0000},   {"darkgreen", 0x006400},
      {"darkblue", 0x00008b},  {"lightblue", 0xadd8e6}, {"steelblue", 0x4682b4}, {"skyblue", 0x87ceeb},
      {"royalblue", 0x4169e1}, {"slategray", 0x708090}, {"slategrey", 0x708090}, {"turquoise", 0x40e0d0},
      {"chocolate", 0xd2691e}, {"sienna", 0xa0522d},    {"peru", 0xcd853f},      {"firebrick", 0xb22222},
      {"tomato", 0xff6347}};
  return kNames;
}

}  // namespace

double number_of(const char* text, double fallback) {
  char* end = nullptr;
  const double v = std::strtod(text, &end);
  if (end == text || !std::isfinite(v)) return fallback;
  const std::string_view unit(end);  // of CSS, 96 to the inch
  if (unit.substr(0, 2) == "mm") return v * 96 / 25.4;
  if (unit.substr(0, 2) == "cm") return v * 96 / 2.54;
  if (unit.substr(0, 2) == "in") return v * 96;
  if (unit.substr(0, 2) == "pt") return v * 96 / 72;
  return v;
}

Affine transform_of(const char* text) {
  Affine all;
  std::string_view left(text);
  while (true) {
    const auto open = left.find('('), shut = left.find(')');
    if (open == std::string_view::npos || shut == std::string_view::npos || shut < open) return all;
    std::string name(left.substr(0, open));
    name.erase(std::remove_if(name.begin(), name.end(), [](char c) { return c < 'A'; }), name.end());
    std::vector<double> v;
    const std::string inside(left.substr(open + 1, shut - open - 1));
    for (Numbers numbers(inside.c_str()); const auto x = numbers.next();) v.push_back(*x);
    left = left.substr(shut + 1);
    const auto at = [&](std::size_t i, double fallback) { return i < v.size() ? v[i] : fallback; };
    Affine t;
    if (name == "matrix" && v.size() == 6)
      t = {v[0], v[1], v[2], v[3], v[4], v[5]};
    else if (name == "translate")
      t.e = at(0, 0), t.f = at(1, 0);
    else if (name == "scale")
      t.a = at(0, 1), t.d = at(1, at(0, 1));
    else if (name == "skewX")
      t.c = std::tan(at(0, 0) * std::numbers::pi / 180);
    else if (name == "skewY")
      t.b = std::tan(at(0, 0) * std::numbers::pi / 180);
    else if (name == "rotate") {
      const double a = at(0, 0) * std::numbers::pi / 180, c = std::cos(a), s = std::sin(a), x = at(1, 0), y = at(2, 0);
      t = {c, s, -s, c, x - c * x + s * y, y - s * x - c * y};
    }
    all = all.after(t);
  }
}

std::optional<std::array<float, 3>> colour_of(std::string_view text) {
  const auto linear = [](double r, double g, double b) {
    return std::array<float, 3>{linear_from_srgb(static_cast<float>(r)), linear_from_srgb(static_cast<float>(g)),
                                linear_from_srgb(static_cast<float>(b))};
  };
  const auto of_code = [&](unsigned c) {
    return linear(((c >> 16) & 255) / 255.0, ((c >> 8) & 255) / 255.0, (c & 255) / 255.0);
  };
  if (text.size() > 1 && text[0] == '#') {
    const std::string digits(text.substr(1));
    if (digits.find_first_not_of("0123456789abcdefABCDEF") != std::string::npos) return {};
    const auto c = static_cast<unsigned>(std::strtoul(digits.c_str(), nullptr, 16));
    if (digits.size() == 3) return of_code(((c >> 8) & 15) * 0x110000 + ((c >> 4) & 15) * 0x1100 + (c & 15) * 0x11);
    if (digits.size() == 6) return of_code(c);
    return {};
  }
  if (text.substr(0, 4) == "rgb(") {
    std::string inside(text.substr(4));
    const bool percent = inside.find('%') != std::string::npos;
    std::replace(inside.begin(), inside.end(), '%', ' ');
    Numbers in(inside.c_str());
    const auto r = in.next(), g = in.next(), b = in.next();
    if (!r || !g || !b) return {};
    const double most = percent ? 100 : 255;
    return linear(std::clamp(*r / most, 0.0, 1.0), std::clamp(*g / most, 0.0, 1.0), std::clamp(*b / most, 0.0, 1.0));
  }
  const auto it = colour_names().find(text);
  if (it == colour_names().end()) return {};
  return of_code(it->second);
}

}  // namespace loom
