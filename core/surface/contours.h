// Lines over the picture: where the shape ends, breaks off, bends sharply, or becomes another part.
#pragma once
#include <array>
#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "core/base/stop.h"
#include "core/surface/body.h"

namespace loom {

enum class ContourKind { outline, open, creases, parts };
/// In the order of the enumeration: identifier and label.
const std::vector<std::pair<std::string, std::string>>& contour_kinds();

struct ContourStyle {
  bool on = false;
  std::array<std::uint8_t, 3> colour{24, 22, 20};  ///< sRGB codes
  float width = 2;                                 ///< pixels, at least 1
  friend bool operator==(const ContourStyle&, const ContourStyle&) = default;
};
struct Contours {
  std::array<ContourStyle, 4> of;  ///< by kind
  float crease_degrees = 35;       ///< faces that turn by less are one
  bool any() const;
  ContourStyle& operator[](ContourKind kind) { return of[static_cast<std::size_t>(kind)]; }
  /// Switches on what a list names, separated by commas; false: it names something else.
  bool take(std::string_view list);
  friend bool operator==(const Contours&, const Contours&) = default;
};

/// What a ray through a place of the picture meets, if anything.
using Sight = std::function<std::optional<Body::Hit>(float px, float py)>;
/// Whether a place of the body lies on the rim of an open mesh, within so many metres.
using OnRim = std::function<bool(const Body::Hit& hit, float within)>;

/// Where lines lie in the picture. Neighbouring pixels are compared, and where they differ the place between them is
/// halved until it is known to a thirtieth of a pixel; so lines are as smooth as the shape, whatever it is made of.
class ContourLines {
 public:
  /// `pixel`: how wide a pixel is, a metre away.
  ContourLines(int width, int height, float pixel, const Contours& contours, const Sight& sight, const OnRim& on_rim,
               const Stop& stop);
  /// Lays them over codes of 3 or 4 bytes a pixel.
  void draw(std::vector<std::uint8_t>& codes, int channels) const;
  /// Places in pixels, by kind. For tests.
  const std::vector<std::array<float, 2>>& places(ContourKind kind) const {
    return places_[static_cast<std::size_t>(kind)];
  }

 private:
  class Finder;
  int width_, height_;
  Contours contours_;
  std::array<std::vector<std::array<float, 2>>, 4> places_;
};

}  // namespace loom
