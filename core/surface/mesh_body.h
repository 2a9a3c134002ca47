// A mesh that wears materials, a part each.
#pragma once
#include "core/surface/body.h"
#include "core/surface/mesh_shape.h"
#include "core/surface/mesh_shell.h"
#include "core/surface/worn.h"

namespace loom {

/// How deep a relief may stand on a mesh, metres: twice as deep as a triangle is wide in the mean. In a deeper one a
/// ray would cross so many triangles' prisms that it took many times as long.
float deepest_relief(const MeshShape& mesh);
/// Whether the material has a height that is deeper, on tiles of that width.
bool is_too_deep(const MeshShape& mesh, const SurfaceMaps& maps, float tile_metres, float relief_factor);

/// The relief of its materials stands in the shell about it, unless it is too deep for that: then its normals are lit
/// alone, and its surface is that of its triangles, as it is without relief.
class MeshBody : public Body {
 public:
  /// A tile is `tile_metres` wide in the mean over the mesh. Relief is as deep as the materials say for a tile of that
  /// width, times `relief_factor`; 0: none.
  MeshBody(std::shared_ptr<const MeshShape> mesh, Worn worn, float tile_metres, float relief_factor = 0);

  /// Where a ray met it.
  Hit hit_at(const Ray& ray, const MeshShape::Met& met) const;
  std::optional<Hit> first(const Ray& ray, Width width, float chance) const override;
  bool blocks(const Ray& ray, Width width, float chance) const override;
  Start off(const Hit& hit) const override;
  bool has_relief() const override { return has_relief_; }
  Vec3 middle() const override { return mesh_->middle(); }
  float radius() const override { return mesh_->radius(); }
  float foot() const override { return mesh_->foot(); }

 private:
  struct Relief {  // of a part; without a field it has none
    const ReliefField* field = nullptr;
    float depth = 0;  // metres
    MeshShell::Reach reach;
  };
  class Standing;
  std::optional<MeshShape::Met> met(const Ray& ray, float chance) const;
  const MeshShell& shell() const;
  Hit hit_in_shell(const Ray& ray, Width width, const MeshShell::Met& met) const;
  int level_for(const ReliefField& field, float width) const;
  std::size_t part_of(const MeshShape::Met& met) const { return mesh_->mesh().part_of[met.triangle]; }

  std::shared_ptr<const MeshShape> mesh_;
  Worn worn_;
  float per_tile_, away_;  // units of the mesh's coordinates; metres
  bool opaque_, has_relief_ = false;
  std::vector<Relief> relief_;  // of each part
  mutable std::once_flag shell_made_;
  mutable std::shared_ptr<const MeshShell> shell_;  // made by the first ray
  std::vector<float> part_keys_;
};

}  // namespace loom
