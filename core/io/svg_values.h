// The values in an SVG drawing's attributes.
#pragma once
#include <array>
#include <cmath>
#include <cstdlib>
#include <optional>
#include <string_view>

#include "core/io/drawing.h"

namespace loom {

/// Numbers out of a text in which commas and blanks are the same.
class Numbers {
 public:
  explicit Numbers(const char* text) : at_(text) {}
  void skip() {
    while (*at_ == ' ' || *at_ == ',' || *at_ == '\t' || *at_ == '\n' || *at_ == '\r') ++at_;
  }
  std::optional<double> next() {
    skip();
    char* end = nullptr;
    if (*at_ != '+' && *at_ != '-' && *at_ != '.' && (*at_ < '0' || *at_ > '9')) return {};
    const double v = std::strtod(at_, &end);
    if (end == at_ || !std::isfinite(v)) return {};
    at_ = end;
    return v;
  }
  std::optional<bool> flag() {  // of an arc: may stand without a blank after it
    skip();
    if (*at_ != '0' && *at_ != '1') return {};
    return *at_++ == '1';
  }
  char letter() {
    skip();
    return (*at_ >= 'a' && *at_ <= 'z') || (*at_ >= 'A' && *at_ <= 'Z') ? *at_++ : '\0';
  }
  bool done() {
    skip();
    return *at_ == '\0';
  }

 private:
  const char* at_;
};

/// A number or a length in user units; `fallback` where there is none.
double number_of(const char* text, double fallback);

/// A list of transforms, the first outermost; what it does not know counts for nothing.
Affine transform_of(const char* text);

/// A colour in linear Rec. 709: #rgb, #rrggbb, rgb(...), or a name. Source: CSS Color Module Level 3 (W3C, 2018),
/// section 4.
std::optional<std::array<float, 3>> colour_of(std::string_view text);

}  // namespace loom
