// A material's maps as a shape wears them.
#pragma once
#include <array>
#include <atomic>
#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <string>
#include <vector>

#include "core/plane/plane.h"
#include "core/surface/relief.h"
#include "core/surface/vec3.h"

namespace loom {

/// How large a material is meant to be.
struct Extent {
  double tile_metres = 1, relief_metres = 0.02;
  friend bool operator==(const Extent&, const Extent&) = default;
};

/// What the open PBR surface of MaterialX knows beyond the usual slots, laid side by side with their means.
class FurtherMaps {
 public:
  struct Point {
    float specular_weight = 1, specular_ior = 1.5f, coat_weight = 0, coat_roughness = 0;
  };
  /// `slots` of one size; null if none of them is among these.
  static std::unique_ptr<const FurtherMaps> of(const std::map<std::string, Field>& slots);
  Point at(float u, float v, float footprint) const;

 private:
  static constexpr std::size_t kChannels = 4;
  struct Level {
    int size;
    Pooled<float> data;
  };
  std::array<float, kChannels> bilinear(const Level& level, float u, float v) const;
  std::vector<Level> levels_;  // from the finest on
};

/// A material's maps, laid side by side for shading, with their mean pyramid. Missing slots have their defaults.
/// The finest level is laid only when it is wanted: a small picture of a large set never does.
class SurfaceMaps {
 public:
  explicit SurfaceMaps(const std::map<std::string, Field>& slots, const Extent& extent = {});

  struct Point {
    Vec3 base, normal, emissive;
    float roughness, metallic, occlusion;
    FurtherMaps::Point further = {};
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
  float opacity(float u, float v) const;

 private:
  // Twelve floats a texel: base 0-2, normal 3-5, roughness 6, metallic 7, occlusion 8, emissive 9-11.
  static constexpr std::size_t kChannels = 12;
  struct Texel {
    float v[kChannels];
  };
  struct Level {
    explicit Level(int width)
        : size(width),
          data(pooled<float>(kChannels * static_cast<std::size_t>(width) * static_cast<std::size_t>(width))) {}
    float* at(int x, int y) {
      return data.get() +
             kChannels * (static_cast<std::size_t>(y) * static_cast<std::size_t>(size) + static_cast<std::size_t>(x));
    }
    const float* at(int x, int y) const { return const_cast<Level*>(this)->at(x, y); }
    int size;
    Pooled<float> data;
  };
  Texel bilinear(const Level& level, float u, float v) const;
  void lay_finest() const;

  std::map<std::string, Field> slots_;
  int size_ = 16;
  Extent extent_;
  PlanePtr opacity_;
  std::unique_ptr<const FurtherMaps> further_;
  bool glows_ = false;
  mutable std::once_flag finest_laid_, relief_built_;
  mutable std::optional<ReliefField> relief_;
  mutable std::optional<Level> finest_store_;
  mutable std::atomic<const Level*> finest_{nullptr};  ///< null until it is laid
  std::vector<Level> coarser_;                         ///< from half the size on
};

}  // namespace loom
