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
#include "core/surface/mesh_probe.h"

namespace loom {

/// What a flat, open and endless place has: where there is no mesh to measure.
MeasuredNumbers unmeasured(const MeshMeasure& what, Vec3 normal);

/// Immutable; may be read from several threads.
class Measured {
 public:
  /// About `points` of them, evenly over the mesh's area, and at least one a triangle. Only every fourth of a row and
  /// of the rows is measured where these agree within the grain that so many rays leave; the others are blended, or
  /// measured with half of the rays, neighbours in different orders. In the end each is the mean of those about it on
  /// its triangle, which have twice as many rays as asked for. `progress` gets shares of 1 from several threads.
  /// Error   cancelled.
  static Result<std::shared_ptr<const Measured>> make(std::shared_ptr<const MeshShape> mesh, const MeshMeasure& what,
                                                      std::size_t points, const Stop& stop,
                                                      const std::function<void(double)>& progress = {});
  /// Between the points of the triangle that was met.
  MeasuredNumbers at(std::uint32_t triangle, float b, float c) const;
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
  void fill(const MeshProbe& probe, std::uint32_t first, std::uint32_t last, bool coarse);
  MeasuredPoint point(std::uint32_t triangle, int i, int j) const;
  static bool is_smoothed(const Grid& grid) { return grid.across > 0 && grid.up > 0; }
  static std::size_t order_of(int i, int j) { return static_cast<std::size_t>(i % 2 + 2 * (j % 2)); }
  bool blend(std::uint32_t triangle, int i, int j);
  void smooth(std::uint32_t triangle);

  std::shared_ptr<const MeshShape> mesh_;  // while it is measured
  MeshMeasure what_;
  std::vector<Grid> grids_;
  std::vector<float> values_;
  MeasuredNumbers tolerance_{};  // within which coarse points agree
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
