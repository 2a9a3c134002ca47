// A material's maps as a shape wears them.
#pragma once
#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <string>

#include "core/surface/mean_pyramid.h"
#include "core/surface/relief.h"
#include "core/surface/vec3.h"

namespace loom {

/// How large a material is meant to be.
struct Extent {
  double tile_metres = 1, relief_metres = 0.02;
  friend bool operator==(const Extent&, const Extent&) = default;
};

/// A material's maps, laid side by side for shading, with their means. Missing slots have their defaults.
class SurfaceMaps {
 public:
  /// All maps of one size.
  explicit SurfaceMaps(const std::map<std::string, Field>& slots, const Extent& extent = {});

  struct Point {
    Vec3 base, normal, emissive;
    float roughness, metallic, occlusion;
    float specular_weight = 1, specular_ior = 1.5f, coat_weight = 0, coat_roughness = 0;
  };
  /// `footprint` in shares of the tile. Normals of a wide footprint widen the roughness instead of sparkling.
  Point at(float u, float v, float footprint) const;
  /// To be called before footprints as small as this are asked for; without it the finest level may be the second.
  void want(float footprint) const;
  int size() const { return size_; }
  const Extent& extent() const { return extent_; }
  /// Of the height; null where there is none or it is level. Built when it is first asked for.
  const ReliefField* relief() const;
  /// Whether anything gives more light than white under the key light.
  bool glows() const { return glows_; }
  /// 1 where the material has no opacity of its own.
  bool is_opaque() const { return !opacity_; }
  float opacity(float u, float v) const { return opacity_ ? opacity_->at(u, v, 0)[0] : 1; }

 private:
  // Base 0-2, normal 3-5, roughness 6, metallic 7, occlusion 8, emissive 9-11.
  using Usual = MeanPyramid<12>;
  // Specular weight and index, coat weight and roughness: only where a material has one of them.
  using Further = MeanPyramid<4>;

  std::map<std::string, Field> slots_;
  Extent extent_;
  int size_;
  bool glows_ = false;
  std::unique_ptr<const Usual> usual_;
  std::unique_ptr<const Further> further_;
  std::unique_ptr<const MeanPyramid<1>> opacity_;
  mutable std::once_flag relief_built_;
  mutable std::optional<ReliefField> relief_;
};

}  // namespace loom
