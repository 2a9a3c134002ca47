// A mesh that wears materials, a part each.
#pragma once
#include "core/surface/body.h"
#include "core/surface/mesh_shape.h"
#include "core/surface/worn.h"

namespace loom {

/// Its surface is that of its triangles; the material's normals are lit, its height does not displace it.
class MeshBody : public Body {
 public:
  /// A tile is `tile_metres` wide in the mean over the mesh.
  MeshBody(std::shared_ptr<const MeshShape> mesh, Worn worn, float tile_metres);

  /// Where a ray met it.
  Hit hit_at(const Ray& ray, const MeshShape::Met& met) const;
  std::optional<Hit> first(const Ray& ray, Width width, float chance) const override;
  bool blocks(const Ray& ray, Width width, float chance) const override;
  Start off(const Hit& hit) const override;
  bool has_relief() const override { return false; }
  Vec3 middle() const override { return mesh_->middle(); }
  float radius() const override { return mesh_->radius(); }
  float foot() const override { return mesh_->foot(); }

 private:
  std::optional<MeshShape::Met> met(const Ray& ray, float chance) const;
  std::size_t part_of(const MeshShape::Met& met) const { return mesh_->mesh().part_of[met.triangle]; }

  std::shared_ptr<const MeshShape> mesh_;
  Worn worn_;
  float per_tile_, away_;  // units of the mesh's coordinates; metres
  bool opaque_;
  std::vector<float> part_keys_;
};

}  // namespace loom
