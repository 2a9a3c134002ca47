// A measure of a mesh, found by rays and laid on a grid over each of its triangles.
#pragma once
#include <functional>
#include <map>
#include <memory>
#include <span>

#include "core/base/error.h"
#include "core/base/stop.h"
#include "core/plane/ledger.h"
#include "core/program/mesh_measure.h"
#include "core/surface/mesh_shape.h"

namespace loom {

/// Where rays start that measure a mesh.
struct MeasuredPoint {
  Vec3 place, normal;      ///< metres; the outward one of its triangle, of length 1
  std::size_t part = 0;    ///< of the mesh
  std::uint32_t draw = 0;  ///< which of the orders of directions it takes
};

/// What one measure finds at a point: `what.numbers()` of them, as core/program/mesh_measure.h lists them. It depends
/// on where triangles lie, not on how finely a face is divided nor on the mesh's shading normals.
///   edges      From the point to all sides, as far as the radius R. What is cut off of the solid below the point is
///              convex, what stands up above it concave: over directions, the mean of 1 - (t/R)^3, the share of the
///              ball about the point by its volume. A face that looks the opposite way, as the far side of a sheet, is
///              no edge: the share counts 1 - c^2, c the cosine between the face's normal and the one opposite. The
///              rounded normal is the direction in which most of the ball is empty. Method: the integral invariants of
///              Pottmann et al., "Integral invariants for robust geometry processing", CAGD 26(1), 2009, by rays.
///   openness   The share of cosine-weighted directions in which nothing lies within R, and the mean of those.
///   thickness  How far it is inwards to where the solid ends, in metres; the longest side where it does not end.
std::array<float, kMostNumbersOfMeasure> measured_at(const MeshShape& mesh, const MeshMeasure& what,
                                                     const MeasuredPoint& point);

/// What a flat, open and endless place has: where there is no mesh to measure.
std::array<float, kMostNumbersOfMeasure> unmeasured(const MeshMeasure& what, Vec3 normal);

/// Immutable; may be read from several threads.
class Measured {
 public:
  /// About `points` of them, evenly over the mesh's area, and at least one a triangle. Only every fourth of a row and
  /// of the rows is measured where these agree within the grain that so many rays leave; the others are blended. In the
  /// end each is the mean of those about it on its triangle. `progress` gets shares of 1 from several threads.   Error
  /// cancelled.
  static Result<std::shared_ptr<const Measured>> make(std::shared_ptr<const MeshShape> mesh, const MeshMeasure& what,
                                                      std::size_t points, const Stop& stop,
                                                      const std::function<void(double)>& progress = {});
  /// Between the points of the triangle that was met.
  std::array<float, kMostNumbersOfMeasure> at(std::uint32_t triangle, float b, float c) const;
  /// Whether it is not a coarser answer than one at so many points; grids hit their number only roughly.
  bool is_as_good_as(const MeshMeasure& what, std::size_t wanted) const {
    return what_ == what && 2 * points() >= wanted;
  }
  std::size_t points() const { return values_.size() / what_.numbers(); }

 private:
  // A triangle stands on its longest side: points lie in rows along it, from there to the opposite corner.
  struct Grid {
    std::uint32_t first = 0;               // point
    std::uint16_t across = 0, up = 0;      // steps: one point more, in the middle where there is none
    float foot = 0;                        // where the opposite corner's plumb line ends, a share of the side
    std::array<std::uint8_t, 3> corner{};  // of the triangle: both ends of the side, and the opposite one
  };
  Measured(std::shared_ptr<const MeshShape> mesh, const MeshMeasure& what) : mesh_(std::move(mesh)), what_(what) {}
  Grid grid_over(std::uint32_t triangle, float step) const;
  void lay(std::size_t points);
  // Coarse points are measured first; those between them only where these do not agree.
  static constexpr int kCoarse = 4;
  static bool is_coarse(int i, int steps);
  static bool is_read(const Grid& grid, int i, int j, bool coarse);
  void fill(std::uint32_t first, std::uint32_t last, bool coarse);
  void measure(std::uint32_t triangle, int i, int j);
  bool blend(std::uint32_t triangle, int i, int j);
  void smooth(std::uint32_t triangle);

  std::shared_ptr<const MeshShape> mesh_;  // while it is measured
  MeshMeasure what_;
  std::vector<Grid> grids_;
  std::vector<float> values_;
  std::array<float, kMostNumbersOfMeasure> tolerance_{};  // within which coarse points agree
  Booked booked_;
};

/// As many points as a map of 1024 x 1024 has texels, and those of a first, coarse answer with as few rays.
constexpr std::size_t kFinePoints = std::size_t{1} << 20, kCoarsePoints = std::size_t{1} << 14;
constexpr int kCoarseRays = 16;

/// A mesh with what is known of it. What is missing is taken as unmeasured.
struct MeasuredMesh {
  std::shared_ptr<const MeshShape> mesh;
  std::map<MeshMeasure, std::shared_ptr<const Measured>> known;
  const Measured* find(const MeshMeasure& what) const {
    const auto it = known.find(what);
    return it == known.end() ? nullptr : it->second.get();
  }
};

}  // namespace loom
