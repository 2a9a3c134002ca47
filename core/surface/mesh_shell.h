// The shell about a mesh in which a relief stands.
#pragma once
#include <array>
#include <memory>
#include <optional>
#include <vector>

#include "core/plane/ledger.h"
#include "core/surface/mesh_shape.h"
#include "core/surface/relief.h"

namespace loom {

/// Over each triangle a prism, whose corners lean so that prisms share their sides and a relief keeps its depth over
/// flat faces; each is cut into three tetrahedra, through which a straight ray is straight in the relief's coordinates.
/// Source: Porumbescu, Budge, Feng and Joy, "Shell Maps", SIGGRAPH 2005. Rays find prisms by Embree. Immutable.
class MeshShell {
 public:
  using Reach = MeshReach;
  /// `mesh` must outlive it; one reach for each of its parts. `before`: another shell of the same mesh, or null; what
  /// does not depend on the reach is taken from it.
  MeshShell(const MeshShape& mesh, std::vector<Reach> of_part, const MeshShell* before = nullptr);
  ~MeshShell();
  MeshShell(const MeshShell&) = delete;
  const std::vector<Reach>& of_part() const { return of_part_; }

  /// What stands in the shell. Coordinates in units of the mesh's, heights in metres.
  class Standing {
   public:
    /// The share of the stretch after which it is met, 0 if it begins within. `t`: where on the ray it begins.
    virtual std::optional<float> meets(std::size_t part, const ReliefField::Stretch& stretch, float t) const = 0;
    virtual bool is_open(std::size_t part, float u, float v) const = 0;

   protected:
    ~Standing() = default;
  };

  struct Met {
    MeshShape::Met at;  ///< on the triangle under it
    float u = 0, v = 0, height = 0;
    bool from_below = false;  ///< it came through the triangle's back
    Vec3 side;                ///< it met a wall at a side where the relief does not go on: its normal; else 0
  };
  std::optional<Met> first(const Ray& ray, const Standing& standing) const;
  bool meets(const Ray& ray, const Standing& standing) const;

  /// How the shell's corners lean: for each of the mesh's corners what a metre of height leads, at most twice as far.
  const std::vector<Vec3>& leans() const { return fixed_->lean; }

 private:
  struct Scene;
  struct Corner;
  struct Prism;
  struct Passage;
  struct Asked;
  Prism prism(std::uint32_t triangle) const;
  static std::optional<Passage> passage(const Prism& prism, std::size_t tetrahedron, const Ray& ray, float to);
  static Corner at(const Prism& prism, std::size_t tetrahedron, const Passage& way, float t);
  void tell_entrance(const Prism& prism, std::size_t tetrahedron, int entered, const Ray& ray, Met& met) const;
  std::optional<Met> within(std::uint32_t triangle, const Ray& ray, float to, const Standing& standing) const;
  std::optional<Met> on_triangle(std::uint32_t triangle, const Ray& ray, float to, const Standing& standing) const;
  struct Fixed {                          // whatever the reach
    std::vector<std::uint32_t> place_of;  // of each corner: the first one in the same place
    std::vector<Vec3> lean;
    std::vector<std::array<std::array<float, 2>, 3>> tile;  // of each triangle's corners
    /// Of each triangle, whether its side from a corner to the next shows a wall: nothing goes on there, or something
    /// else.
    std::vector<std::array<bool, 3>> bare;
    Booked bytes;
    explicit Fixed(const MeshShape& mesh);
    void find_leans(const MeshShape& mesh);
    void find_bare_sides(const Mesh& mesh);
  };
  void build();

  const MeshShape& mesh_;
  std::vector<Reach> of_part_;
  std::shared_ptr<const Fixed> fixed_;
  std::unique_ptr<Scene> scene_;
};

}  // namespace loom
