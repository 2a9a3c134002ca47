// A mesh in which rays find their way.
#pragma once
#include <memory>
#include <mutex>
#include <optional>
#include <span>

#include "core/base/key.h"
#include "core/base/vec3.h"
#include "core/io/mesh.h"
#include "core/program/mesh_measure.h"

namespace loom {

class MeshShell;
/// How far the relief of a part reaches below and above its triangles, metres; alike: it has none.
struct MeshReach {
  float low = 0, high = 0;
  friend bool operator==(const MeshReach&, const MeshReach&) = default;
};

/// Immutable; may be asked from several threads.
class MeshShape {
 public:
  explicit MeshShape(Mesh mesh);
  ~MeshShape();
  MeshShape(const MeshShape&) = delete;

  const Mesh& mesh() const { return mesh_; }
  Vec3 middle() const { return middle_; }          ///< of the box about it
  float radius() const { return radius_; }         ///< of the sphere about that
  float foot() const { return foot_; }             ///< its lowest y
  float longest_side() const { return longest_; }  ///< of the box, metres
  float area() const { return area_; }             ///< of all triangles, square metres
  /// The same for every mesh whose triangles and parts are the same: what is measured of one holds for the other.
  const Key& key() const { return key_; }
  /// How far one unit of the mesh's tile coordinates leads, in the mean over its area; a metre where it has none.
  float tile_metres() const { return tile_metres_; }

  struct Met {
    float t;
    std::uint32_t triangle;
    float b, c;  ///< barycentric, of the second and the third corner
  };
  /// The first triangle that a ray meets further away than `from`, whichever side it shows.
  std::optional<Met> first(const Ray& ray, float from, float to = INFINITY) const;
  bool meets(const Ray& ray, float from) const;
  /// At most so many rays that go nearly the same way find it together.
  static constexpr std::size_t kTogether = 16;
  /// What each meets first, further away than its own `from` and within `to`; a ray that starts beyond `to` meets
  /// nothing. And whether it meets anything within `to`.
  void first(std::span<const Ray> rays, std::span<const float> from, float to, std::span<std::optional<Met>> met) const;
  void meets(std::span<const Ray> rays, float to, std::span<bool> met) const;

  /// The shell about it in which a relief stands, of each part so far; the last one is kept.
  std::shared_ptr<const MeshShell> shell(const std::vector<MeshReach>& of_part) const;

  /// The normal of a triangle, of length 1.
  Vec3 flat(std::uint32_t triangle) const;
  Vec3 position(const Met& met) const;
  /// Whether a place of a triangle lies within so many metres of a side behind which the mesh is open.
  bool on_rim(std::uint32_t triangle, Vec3 place, float within) const;
  /// A place on a triangle.
  struct Place {
    std::array<float, 2> tile;  ///< in units of the mesh's coordinates, else metres seen from the side it faces most
    Vec3 flat, normal;          ///< of length 1: the triangle's, and between those of its corners
    Vec3 along_u, along_v;      ///< how far one unit leads, metres
  };
  Place place(const Met& met) const;
  /// What its corners carry under a name of this hash; null where they have none.
  const MeshAttribute* carried(std::uint64_t hash_of_name) const;
  /// Between the corners of a triangle: its four numbers, and 1 where the file gives them.
  std::array<float, kMostNumbersOfMeasure> carried(const MeshAttribute& what, std::uint32_t triangle, float b,
                                                   float c) const;

 private:
  void measure();
  struct Scene;
  Mesh mesh_;
  std::unique_ptr<Scene> scene_;
  mutable std::once_flag rim_found_;
  mutable std::vector<std::array<bool, 3>> open_;  // of each triangle, its sides; found when it is first asked for
  mutable std::mutex shell_lock_;
  mutable std::shared_ptr<const MeshShell> shell_;
  Vec3 middle_;
  Key key_;
  float radius_ = 1, foot_ = 0, longest_ = 1, area_ = 1, tile_metres_ = 1;
};

}  // namespace loom
