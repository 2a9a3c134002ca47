// The lit picture: a material on a shape, by rays on the processor. A quick answer first, then samples that add up.
#pragma once
#include <atomic>
#include <cstdint>
#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <string>
#include <vector>

#include "core/base/stop.h"
#include "core/plane/plane.h"
#include "core/surface/environment.h"

namespace loom {

/// A material's maps, laid side by side for shading, with their mean pyramid. Missing slots have their defaults.
/// The finest level is laid only when it is wanted: a small picture of a large set never does.
class SurfaceMaps {
 public:
  explicit SurfaceMaps(const std::map<std::string, Field>& slots);

  struct Point {
    Vec3 base, normal, emissive;
    float roughness, metallic, occlusion;
  };
  /// `footprint` in shares of the tile. Normals of a wide footprint widen the roughness instead of sparkling.
  Point at(float u, float v, float footprint) const;
  /// To be called before footprints as small as this are asked for; without it the finest level may be the second.
  void want(float footprint) const;
  int size() const { return size_; }

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
  mutable std::once_flag finest_laid_;
  mutable std::optional<Level> finest_store_;
  mutable std::atomic<const Level*> finest_{nullptr};  ///< null until it is laid
  std::vector<Level> coarser_;                         ///< from half the size on
};

enum class Shape { ball, tile };

struct DrapeView {
  Shape shape = Shape::ball;
  int width = 512, height = 512;
  float light_degrees = 42;  ///< the key light's azimuth
  float light_height = 48;   ///< and its height above the floor, degrees
  float key = 2.6f;          ///< its irradiance, 0 is off
  float exposure = 0;        ///< stops
  float repeats = 1;         ///< tiles over the tile shape; the ball takes four times as many round
  std::string environment = "north_hall";
  bool unlit = false;  ///< the base colour alone, as it is whatever the exposure
};

/// One picture in the making. Not shared between threads; each call uses all cores.
class Drape {
 public:
  Drape(std::shared_ptr<const SurfaceMaps> maps, const DrapeView& view);

  /// The first answer: image-based light by the split sum, and the key light. Source: Karis, SIGGRAPH 2013 course
  /// notes. `step` > 1 shades every step-th pixel and blends between them.
  void first_answer(int step, const Stop& stop);
  /// One more sample a pixel: environment and surface sampled together by multiple importance. Source: Veach 1997.
  void add_sample(const Stop& stop);
  /// The place of the tile that a pixel shows, 0..1 each; none where it shows the surroundings.
  std::optional<std::array<float, 2>> place_under(float px, float py) const;
  /// The step at which the first answer comes in a few milliseconds: about 16 000 shaded places.
  static int quick_step(const DrapeView& view);
  int samples() const { return samples_; }

  /// sRGB-encoded, 3 bytes a pixel. At exposure 0 a grey of 0.18 that faces the key light shows as 118; above 0.6
  /// radiance rolls off towards 1.
  std::vector<std::uint8_t> picture() const;
  const DrapeView& view() const { return view_; }

 private:
  struct Hit {
    bool surface = false, floor = false;
    Vec3 place, normal, tangent;
    float u = 0, v = 0, footprint = 0;
  };
  float zoom_to_fit_tile() const;
  Hit trace(float px, float py, Vec3& towards_eye) const;
  float least_footprint() const;
  Vec3 background(const Hit& hit) const;
  Vec3 key_light(const SurfaceMaps::Point& p, Vec3 n, Vec3 v) const;
  Vec3 quick(const Hit& hit, Vec3 v) const;
  Vec3 path(const Hit& hit, Vec3 v, std::uint32_t seed) const;
  Vec3 shading_normal(const Hit& hit, const SurfaceMaps::Point& p, Vec3 v) const;

  std::shared_ptr<const SurfaceMaps> maps_;
  DrapeView view_;
  std::shared_ptr<const Environment> environment_;
  float light_scale_ = 1;  // of the environment and the key light
  Vec3 eye_, right_, up_, forward_, light_;
  float zoom_;
  std::vector<Vec3> sum_;
  int samples_ = 0;
};

}  // namespace loom
