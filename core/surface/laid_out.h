// An output over the points of a shape, as it lies in the shape's own coordinates: what the eye gets to see flat.
#pragma once
#include <memory>

#include "core/plane/plane.h"
#include "core/program/surface_program.h"
#include "core/surface/charts.h"
#include "core/surface/drape.h"

namespace loom {

/// A mesh, or a built-in shape as one, and the place that each texel of a map shows of it.
class ChartedShape {
 public:
  /// Error   cancelled, or so many pieces that they find no room.
  static Result<std::shared_ptr<const ChartedShape>> make(std::shared_ptr<const MeshShape> mesh, int size,
                                                          const Stop& stop);
  /// The same charts in a map of another size.
  std::shared_ptr<const ChartedShape> at(int size) const;
  const std::shared_ptr<const MeshShape>& mesh() const { return mesh_; }
  const Charts& charts() const { return *charts_; }
  const Atlas& atlas() const { return atlas_; }
  int size() const { return atlas_.size(); }
  bool covers(int x, int y) const { return atlas_.at(x, y).triangle != Atlas::Texel::kNone; }

 private:
  ChartedShape(std::shared_ptr<const MeshShape> mesh, std::shared_ptr<const Charts> charts, int size);
  std::shared_ptr<const MeshShape> mesh_;
  std::shared_ptr<const Charts> charts_;
  Atlas atlas_;
  Booked booked_;
};

/// The mesh that stands for what a view shows.
std::shared_ptr<const MeshShape> mesh_of(const DrapeView& view);

/// The program's first output at every texel that shows a place, 0 elsewhere. `charted` is of mesh_of(view), whose eye,
/// light and measures count; what is not measured yet is taken as unmeasured. The shape is there without its relief.
/// Stopped: in between.
Field laid_out(const SurfaceProgram& program, const ChartedShape& charted, const DrapeView& view, const Extent& extent,
               const Stop& stop);

}  // namespace loom
