// Vector drawings: paths with fills and strokes, read from SVG or set from text, and drawn with exact coverage.
#pragma once
#include <array>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/error.h"
#include "core/base/stop.h"
#include "core/plane/plane.h"

namespace loom {

struct Spot {
  double x = 0, y = 0;
};

/// x' = a x + c y + e, y' = b x + d y + f, as in SVG.
struct Affine {
  double a = 1, b = 0, c = 0, d = 1, e = 0, f = 0;
  Spot operator()(Spot p) const { return {a * p.x + c * p.y + e, b * p.x + d * p.y + f}; }
  /// First `inner`, then this.
  Affine after(const Affine& inner) const;
  /// How many times larger an area becomes, its root.
  double scale() const;
  /// The way back; scale() must not be 0.
  Affine inverse() const;
};

/// Lines and cubic Bezier pieces; a fill closes every contour by itself.
struct Path {
  struct Piece {
    enum class Kind { move, line, cubic, close } kind;
    std::array<Spot, 3> at{};
  };
  std::vector<Piece> pieces;
  void move(Spot p) { pieces.push_back({Piece::Kind::move, {p}}); }
  void line(Spot p) { pieces.push_back({Piece::Kind::line, {p}}); }
  void cubic(Spot p, Spot q, Spot r) { pieces.push_back({Piece::Kind::cubic, {p, q, r}}); }
  void close() { pieces.push_back({Piece::Kind::close, {}}); }
};

/// Colours along a line or outwards from a focus. In its own coordinates a linear one runs over x from 0 to 1, a radial
/// one from the focus to the circle of radius 1.
struct Gradient {
  static constexpr std::size_t kColours = 1025;
  enum class Beyond { pad, reflect, repeat } beyond = Beyond::pad;
  bool radial = false;
  Spot focus;
  Affine from_drawing;
  std::shared_ptr<const std::vector<std::array<float, 4>>>
      colours;  ///< kColours, evenly spaced over 0 to 1; linear Rec. 709, straight alpha
  std::array<float, 4> at(Spot own) const;
};

struct Paint {
  bool on = false;
  std::array<float, 4> colour{0, 0, 0, 1};   ///< linear Rec. 709, straight alpha
  std::shared_ptr<const Gradient> gradient;  ///< instead of the colour
};

struct Stroke {
  enum class Cap { butt, round, square } cap = Cap::butt;
  enum class Join { miter, round, bevel } join = Join::miter;
  double width = 1, miter_limit = 4, dash_offset = 0;
  std::vector<double> dashes{};
};

struct Figure {
  Path path;
  Affine to_drawing;
  bool even_odd = false;
  Paint fill, line;
  Stroke stroke;
};

/// Shapes from the lowest up, within a frame.
struct Drawing {
  double x = 0, y = 0, width = 1, height = 1;
  std::vector<Figure> shapes;
};

/// Reads an SVG drawing: paths, basic shapes, groups, uses, transforms, fills by both rules, strokes with caps, joins
/// and dashes, linear and radial gradients. Left out: text, pictures, patterns, clips, masks, filters, style sheets.
/// Limits   64 levels, 100 000 shapes, 4 million path pieces; nothing outside the text is read.
/// Source   W3C, Scalable Vector Graphics 1.1 (Second Edition), 2011.
Result<Drawing> read_svg(std::string_view text);

/// Lines of text as one filled shape, in a frame that fits them. `align`: 0 left, 0.5 middle, 1 right; `leading` in
/// line heights. `tracking` in shares of the letter height. Faces: regular, semibold, bold, mono.
Drawing set_text(std::string_view text, std::string_view face, double align, double leading, double tracking);

/// Planes of coverage (alpha) and of colour in front of nothing (premultiplied by alpha).
struct Drawn {
  Plane alpha, red, green, blue;
};

/// Draws into a square tile, wrapped over its edges. `place` takes the drawing's coordinates to shares of the tile.
/// Coverage: the exact area of each texel; where more than 64 corners that hang together lie in one row, 16 sub-rows,
/// exact along them. Unspecified once `stop` is asked.
Drawn draw(const Drawing& drawing, const Affine& place, int size, const Stop& stop = {});

}  // namespace loom
