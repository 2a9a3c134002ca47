// Gradients of an SVG drawing.
#pragma once
#include <functional>
#include <pugixml.hpp>

#include "core/io/drawing.h"

namespace loom {

struct Box { double x = 0, y = 0, width = 0, height = 0; };

/// The box about a path, its strokes left out.
Box box_of(const Path& path);

/// What a gradient's numbers are shares of.
struct GradientFrame {
  Box shape;
  Affine to_drawing;                    ///< from the shape's coordinates
  double width = 1, height = 1;         ///< of the drawing
};

/// A linear or radial gradient as the paint of a shape; what it does not say itself comes from the gradient that it refers to.
/// Not on: it has no stops, or no extent. Source: SVG 1.1, chapter 13.2.
Paint gradient_of(pugi::xml_node gradient, const std::function<pugi::xml_node(std::string_view id)>& by_id, const GradientFrame& frame, double opacity);

}  // namespace loom
