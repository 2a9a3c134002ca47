// The mesh that a material is shown on.
#pragma once
#include "core/graph/material.h"
#include "core/io/mesh.h"

namespace loom {

/// `material.mesh`, from beside the document or out of its bolt.   Error   as read_mesh and find_file.
Result<Mesh> shown_mesh(const Material& material);

}  // namespace loom
