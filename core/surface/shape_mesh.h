// The built-in shapes as meshes: for what is measured by rays between triangles.
#pragma once
#include <memory>

#include "core/surface/mesh_shape.h"
#include "core/surface/shape.h"

namespace loom {

/// Without tile coordinates; its triangles stray from the shape by a millimetre at most. Made once.
std::shared_ptr<const MeshShape> shape_mesh(ShapeName name);

}  // namespace loom
