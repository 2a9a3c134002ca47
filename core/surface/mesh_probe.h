// Rays from points on a mesh that find what it measures there.
#pragma once
#include <array>
#include <functional>
#include <span>
#include <utility>
#include <vector>

#include "core/program/mesh_measure.h"
#include "core/surface/mesh_shape.h"

namespace loom {

/// Where rays start that measure a mesh.
struct MeasuredPoint {
  Vec3 place, normal;    ///< metres; the outward one of its triangle, of length 1
  std::size_t part = 0;  ///< of the mesh
};

/// What one measure finds: `MeshMeasure::numbers()` of them, as core/program/mesh_measure.h lists them. It depends on
/// where triangles lie, not on how finely a face is divided nor on the mesh's shading normals.
///   edges      From the point to all sides, as far as the radius R. What is cut off of the solid below the point is
///              convex, what stands up above it concave: over directions, the mean of 1 - (t/R)^3, the share of the
///              ball about the point by its volume. A face that looks the opposite way, as the far side of a sheet, is
///              no edge: the share counts 1 - c^2, c the cosine between the face's normal and the one opposite. The
///              rounded normal is the direction in which most of the ball is empty. Method: the integral invariants of
///              Pottmann et al., "Integral invariants for robust geometry processing", CAGD 26(1), 2009, by rays.
///   openness   The share of cosine-weighted directions in which nothing lies within R, and the mean of those.
///   thickness  How far it is inwards to where the solid ends, in metres; the longest side where it does not end.
using MeasuredNumbers = std::array<float, kMostNumbersOfMeasure>;

/// Points that lie near each other look in the same directions: their rays find their way together. There are four
/// orders of half as many directions as a point is to have, which together make twice as many; what four neighbours
/// find, each in an order of its own, is told by their mean. Source: Keller and Heidrich, "Interleaved Sampling",
/// Eurographics Workshop on Rendering 2001. Immutable; may be asked from several threads.
class MeshProbe {
 public:
  static constexpr int kOrders = 4, kWhole = 4;  ///< whole: all the directions that a point is to have
  /// `mesh` must outlive it. `draw`: which of many sets of directions that are as good as each other.
  MeshProbe(const MeshShape& mesh, const MeshMeasure& what, std::uint32_t draw = 0);
  /// At most MeshShape::kTogether points. `order`: one of the four, or whole.
  void look(std::span<const MeasuredPoint> points, int order, std::span<MeasuredNumbers> found) const;

 private:
  struct Towards {
    Vec3 local;    // z along the point's normal
    float weight;  // by how rare it is
  };
  class Look;
  std::span<const Towards> of_order(int order) const;

  const MeshShape& mesh_;
  MeshMeasure what_;
  std::size_t whole_ = 1, order_ = 1;  // directions
  std::vector<Towards> towards_;
};

/// Gathers points that look in the same order until there are as many as find their way together, and hands on what
/// each has found.
class ProbeLine {
 public:
  using Take = std::function<void(std::size_t at, const MeasuredPoint& point, const MeasuredNumbers& found)>;
  /// `probe` must outlive it.
  ProbeLine(const MeshProbe& probe, int order, Take take) : probe_(probe), order_(order), take_(std::move(take)) {}
  /// `at`: which one it is to who takes it.
  void add(std::size_t at, const MeasuredPoint& point);
  /// Those that still wait.
  void finish();

 private:
  const MeshProbe& probe_;
  int order_;
  Take take_;
  std::array<std::size_t, MeshShape::kTogether> at_{};
  std::array<MeasuredPoint, MeshShape::kTogether> points_;
  std::size_t count_ = 0;
};

/// At one point, with all the rays that it is to have.
MeasuredNumbers measured_at(const MeshShape& mesh, const MeshMeasure& what, const MeasuredPoint& point);

}  // namespace loom
