// What materials have where a body was met.
#pragma once
#include <span>

#include "core/surface/body.h"
#include "core/surface/measured.h"
#include "core/surface/worn.h"

namespace loom {

/// Puts places of a surface into strips for a program, with what is measured of them.
class StripFiller {
 public:
  /// `mesh`: whose triangles hits name; null: they lie on a shape, of which `measured` has a mesh. That may be null.
  StripFiller(std::span<const MeshMeasure> measures, std::shared_ptr<const MeasuredMesh> measured,
              std::shared_ptr<const MeshShape> mesh, Vec3 light);
  /// A strip without points, with room for the measures.
  SurfaceStrip empty() const;
  /// `view` towards the eye, `footprint` in shares of the tile.
  void add(SurfaceStrip& strip, const Body::Hit& hit, Vec3 view, float footprint) const;

 private:
  std::optional<MeshShape::Met> on_measured(const Body::Hit& hit) const;
  void set_measures(SurfaceStrip& strip, const Body::Hit& hit) const;

  std::vector<MeshMeasure> measures_;
  std::vector<const Measured*> known_;         // of each; null where it is not
  std::vector<const MeshAttribute*> carried_;  // likewise
  std::size_t numbers_ = 0;
  std::shared_ptr<const MeasuredMesh> measured_;
  std::shared_ptr<const MeshShape> mesh_;
  Vec3 light_;
};

class Dresser {
 public:
  /// `measured`, `mesh`, `light` as StripFiller has them.
  Dresser(Worn worn, std::shared_ptr<const MeasuredMesh> measured, std::shared_ptr<const MeshShape> mesh, Vec3 light);

  struct Place {
    const Body::Hit* hit;
    Vec3 view;        ///< towards the eye
    float footprint;  ///< shares of the tile
    SurfaceMaps::Point* to;
  };
  /// Reads what the maps hold, and computes what depends on the shape. At most SurfaceStrip::kLongest places.
  void dress(std::span<const Place> places) const;
  const Worn& worn() const { return worn_; }

 private:
  struct Asking {  // a material that depends on the shape
    const SurfaceMaps* maps;
    StripFiller filler;
  };
  void shade(const Asking& material, std::span<const Place> places) const;

  Worn worn_;
  std::vector<Asking> asking_;
};

}  // namespace loom
