// Slots of a material that depend on the surface: one program over the points of a shape.
#pragma once
#include <string>
#include <vector>

#include "core/base/kind.h"
#include "core/program/program.h"
#include "core/program/surface_points.h"

namespace loom {

struct SurfaceProgram {
  struct Output {
    std::string name;  ///< as it was asked for: a slot
    Kind kind;
    std::size_t first;  ///< its strands are the program's outputs from here on
  };
  /// Over points of a shape, with the attributes of core/program/surface_points.h.
  Program program;
  std::vector<Output> outputs;
};

}  // namespace loom
