// The built-in shapes as meshes: for what is measured by rays between triangles.
#pragma once
#include <memory>

#include "core/surface/charts.h"
#include "core/surface/mesh_shape.h"
#include "core/surface/shape.h"

namespace loom {

/// Without tile coordinates; its triangles stray from the shape by a millimetre at most. Made once.
std::shared_ptr<const MeshShape> shape_mesh(ShapeName name);

/// Where the corners of a shape's mesh lie on its tile, each triangle in one piece: u and v in tiles, beyond 0..1 where
/// there are several.
Charts tile_coordinates(const Shape& shape, const Mesh& mesh);

}  // namespace loom
