#include "core/bolt/shown_mesh.h"

namespace loom {

Result<Mesh> shown_mesh(const Material& material) {
  const FileRoot root = material.files ? *material.files : FileRoot{};
  const auto path = find_path(root, material.mesh);
  if (!path) return path.error();
  return path->empty() ? read_mesh(material.mesh, *root.packed.at(material.mesh).bytes) : read_mesh(*path);
}

}  // namespace loom
