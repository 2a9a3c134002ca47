// Closed shapes drawn by hand, kept as a small SVG drawing: white shapes add to the figure, black ones cut from it, in
// their order. Whatever shows SVG shows the figure.
#pragma once
#include <string>
#include <string_view>
#include <vector>

#include "core/base/error.h"
#include "core/io/drawing.h"

namespace loom {

/// A point of an outline, and the handles of the curve that comes in and goes out there; on straight sides both lie at
/// the point. Shares of the tile.
struct Knot {
  Spot at, in, out;
};

struct FigureShape {
  enum class Form { rectangle, ellipse, polygon, curve } form = Form::rectangle;
  bool cut = false;
  /// Of a rectangle and an ellipse two opposite corners of the box; of a polygon and a curve the outline, which closes
  /// by itself.
  std::vector<Knot> knots{};
  double rounding = 0;  ///< of a rectangle: the radius of its corners
};
using FigureShapes = std::vector<FigureShape>;

inline constexpr std::size_t kMostFigureShapes = 2000, kMostFigureKnots = 4000;  ///< knots of one shape

/// A place without handles.
Knot knot_at(Spot p);

/// The shapes of a text that svg_of() wrote, or that holds no more than it writes: rect, ellipse, circle, polygon, and
/// path of M, L, C and Z in absolute numbers. A fault tells which element, what is wrong and how to mend it.
Result<FigureShapes> figure_shapes(std::string_view text);

/// One element a line, in a frame of 1 by 1; numbers to a millionth.
std::string svg_of(const FigureShapes& shapes);

/// The outline, closed.
Path outline_of(const FigureShape& shape);

/// The shapes as something to draw: white and black fills.
Drawing drawing_of(const FigureShapes& shapes);

/// Any SVG drawing as shapes, brought whole into the tile but for `margin`. Filled outlines become curves, and holes
/// shapes that cut; `left_out` tells in words what is not taken over.
struct TakenOver {
  FigureShapes shapes;
  std::vector<std::string> left_out;
};
Result<TakenOver> figure_from_svg(std::string_view text, double margin = 0.05);

}  // namespace loom
