// Gradients of an SVG drawing.
#pragma once
#include <functional>
#include <map>
#include <pugixml.hpp>
#include <utility>

#include "core/io/drawing.h"

namespace loom {

struct Box {
  double x = 0, y = 0, width = 0, height = 0;
};

/// The box about a path, its strokes left out.
Box box_of(const Path& path);

/// What a gradient's numbers are shares of.
struct GradientFrame {
  Box shape;
  Affine to_drawing;             ///< from the shape's coordinates
  double width = 1, height = 1;  ///< of the drawing
};

/// The gradients of one drawing. Source: SVG 1.1, chapter 13.2.
class Gradients {
 public:
  explicit Gradients(std::function<pugi::xml_node(std::string_view id)> by_id) : by_id_(std::move(by_id)) {}
  /// A linear or radial gradient as the paint of a shape; what it does not say itself comes from the gradient that it
  /// refers to. Not on: it has no stops, or no extent.
  Paint paint(pugi::xml_node gradient, const GradientFrame& frame, double opacity);

 private:
  using Colours = std::shared_ptr<const std::vector<std::array<float, 4>>>;
  std::function<pugi::xml_node(std::string_view)> by_id_;
  std::map<std::pair<pugi::xml_node, double>, Colours>
      tables_;  // by the gradient and the opacity: many shapes may share one
};

}  // namespace loom
