// A mesh in which rays find their way.
#pragma once
#include <memory>
#include <optional>

#include "core/base/vec3.h"
#include "core/io/mesh.h"

namespace loom {

/// Immutable; may be asked from several threads.
class MeshShape {
 public:
  explicit MeshShape(Mesh mesh);
  ~MeshShape();
  MeshShape(const MeshShape&) = delete;

  const Mesh& mesh() const { return mesh_; }
  Vec3 middle() const { return middle_; }   ///< of the box about it
  float radius() const { return radius_; }  ///< of the sphere about that
  float foot() const { return foot_; }      ///< its lowest y
  /// How far one unit of the mesh's tile coordinates leads, in the mean over its area; a metre where it has none.
  float tile_metres() const { return tile_metres_; }

  struct Met {
    float t;
    std::uint32_t triangle;
    float b, c;  ///< barycentric, of the second and the third corner
  };
  /// The first triangle that a ray meets further away than `from`, whichever side it shows.
  std::optional<Met> first(const Ray& ray, float from) const;
  bool meets(const Ray& ray, float from) const;

  /// A place on a triangle.
  struct Place {
    std::array<float, 2> tile;  ///< in units of the mesh's coordinates, else metres seen from the side it faces most
    Vec3 flat, normal;          ///< of length 1: the triangle's, and between those of its corners
    Vec3 along_u, along_v;      ///< how far one unit leads, metres
  };
  Place place(const Met& met) const;

 private:
  void measure();
  struct Scene;
  Mesh mesh_;
  std::unique_ptr<Scene> scene_;
  Vec3 middle_;
  float radius_ = 1, foot_ = 0, tile_metres_ = 1;
};

}  // namespace loom
