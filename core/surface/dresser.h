// What materials have where a body was met.
#pragma once
#include <span>

#include "core/surface/body.h"
#include "core/surface/measured.h"
#include "core/surface/worn.h"

namespace loom {

class Dresser {
 public:
  /// `measured` may be null; `is_mesh`: hits name triangles of its mesh, else they lie on a shape that it is made of.
  Dresser(Worn worn, std::shared_ptr<const MeasuredMesh> measured, bool is_mesh, Vec3 light);

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
  // A material that depends on the shape, and what is known of what it asks for.
  struct Asking {
    const SurfaceMaps* maps;
    std::vector<const Measured*> known;
    std::size_t numbers = 0;
  };
  void shade(const Asking& material, std::span<const Place> places) const;
  void set_surface(SurfaceStrip& strip, const Place& place) const;
  std::optional<MeshShape::Met> on_measured(const Body::Hit& hit) const;
  void set_measures(SurfaceStrip& strip, const Asking& material, const Body::Hit& hit) const;

  Worn worn_;
  std::shared_ptr<const MeasuredMesh> measured_;
  bool is_mesh_;
  Vec3 light_;
  std::vector<Asking> asking_;
};

}  // namespace loom
