// A material's maps as a shape wears them.
#pragma once
#include <oneapi/tbb/enumerable_thread_specific.h>

#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/vec3.h"
#include "core/program/surface_program.h"
#include "core/surface/mean_pyramid.h"
#include "core/surface/relief.h"

namespace loom {

/// How large a material is meant to be.
struct Extent {
  double tile_metres = 1, relief_metres = 0.02;
  friend bool operator==(const Extent&, const Extent&) = default;
};
/// How deep the relief is on a tile that is so wide: it keeps its proportion to the tile. Metres.
inline float relief_of(const Extent& extent, float tile) {
  return static_cast<float>(extent.relief_metres / extent.tile_metres) * tile;
}

/// Points of a shape, attribute by attribute: what core/program/surface_points.h lists.
struct SurfaceStrip {
  static constexpr std::size_t kLongest = 256;
  std::size_t count = 0;
  std::array<std::array<float, kLongest>, kSurfaceAttributes> attribute;
  std::vector<std::array<float, kLongest>> measured;  ///< the numbers of the program's measures, one after another
  void set(std::size_t point, SurfaceValue value, Vec3 to) {
    attribute[loom::at(value)][point] = to.x;
    attribute[loom::at(value) + 1][point] = to.y;
    attribute[loom::at(value) + 2][point] = to.z;
  }
};

/// A program over points of a shape, made ready to run over strips of them, by one thread at a time.
class SurfaceRunner {
 public:
  /// The program must outlive this.
  explicit SurfaceRunner(const SurfaceProgram& program);
  /// What the program's outputs have at the strip's points, strand by strand; until it runs again.
  std::span<float* const> run(const SurfaceStrip& strip);

 private:
  StripRunner runner_;
  std::vector<float> values_;
  std::vector<float*> rows_;
  std::vector<const float*> attributes_;
};

/// A material's maps, laid side by side for shading, with their means. Missing slots have their defaults.
class SurfaceMaps {
 public:
  /// All maps of one size; `over_surface` gives the slots that depend on the shape, and may be null.
  explicit SurfaceMaps(const std::map<std::string, Field>& slots, const Extent& extent = {},
                       std::shared_ptr<const SurfaceProgram> over_surface = nullptr);

  struct Point {
    Vec3 base, normal, emissive;
    float roughness, metallic, occlusion;
    float specular_weight = 1, specular_ior = 1.5f, coat_weight = 0, coat_roughness = 0;
    float anisotropy = 0, fuzz_weight = 0, fuzz_roughness = 0.5f;
    Vec3 fuzz{1, 1, 1};
    float thin = 0;        ///< 1: a sheet, which lets light through where its subsurface scatters
    float subsurface = 0;  ///< how much of the base is that
    float onward = 0;      ///< of what scatters in a sheet, -1: all back, 0: half of it, 1: all goes through
    Vec3 subsurface_colour{0.8f, 0.8f, 0.8f};
    Vec3 along{1, 0, 0};  ///< the way that light spreads most where it is anisotropic, on the tile: u and v
  };
  /// Where a point keeps a slot; both null where it keeps none of that name.
  struct Place {
    Vec3 Point::*vector = nullptr;
    float Point::*number = nullptr;
    std::size_t strands = 3;  ///< of a vector
  };
  static Place place_of(std::string_view slot);
  /// What the maps hold; `footprint` in shares of the tile.
  Point read(float u, float v, float footprint) const;
  /// Over points of a shape, of which `points` are what the maps hold: the slots that depend on the shape.
  void shade(const SurfaceStrip& strip, std::span<Point* const> points) const;
  /// Brings what was read into its ranges. Normals of a wide footprint widen the roughness instead of sparkling.
  static void settle(Point& point);
  Point at(float u, float v, float footprint) const {
    Point p = read(u, v, footprint);
    settle(p);
    return p;
  }
  const std::map<std::string, Field>& slots() const { return slots_; }
  bool depends_on_shape() const { return over_surface_ != nullptr; }
  /// Measures of the mesh that `shade` is to be given, in this order.
  std::span<const MeshMeasure> measures() const {
    return over_surface_ ? std::span<const MeshMeasure>(over_surface_->program.measures)
                         : std::span<const MeshMeasure>();
  }
  /// The same maps under other slots that depend on the shape; nothing is laid anew.
  std::shared_ptr<const SurfaceMaps> under(std::shared_ptr<const SurfaceProgram> over_surface) const;
  /// To be called before footprints as small as this are asked for; without it the finest level may be the second.
  void want(float footprint) const;
  int size() const { return size_; }
  const Extent& extent() const { return extent_; }
  /// Of the height; null where there is none or it is level. Built when it is first asked for.
  const ReliefField* relief() const;
  bool has_height() const { return slots_.count("height") != 0; }
  /// Whether anything gives more light than white under the key light.
  bool glows() const { return glows_; }
  /// 1 where the material has no opacity of its own.
  bool is_opaque() const { return !opacity_; }
  float opacity(float u, float v) const { return opacity_ ? opacity_->at(u, v, 0)[0] : 1; }

 private:
  // Base 0-2, normal 3-5, roughness 6, metallic 7, occlusion 8, emissive 9-11.
  using Usual = MeanPyramid<12>;
  // Only where a material has one of them: specular weight and index, coat weight and roughness;
  using Further = MeanPyramid<4>;
  // anisotropy, the way along it (2), fuzz weight and roughness, its colour (3).
  using Rare = MeanPyramid<8>;
  // Thin, subsurface, onward, its colour (3).
  using Sheet = MeanPyramid<6>;

  // What one thread needs to run the program.
  struct Shading {
    explicit Shading(const SurfaceProgram& program);
    SurfaceRunner runner;
    std::vector<Place> places;  // of the program's outputs
  };
  using Shadings = tbb::enumerable_thread_specific<std::optional<Shading>>;
  struct Relief {
    std::once_flag built;
    std::optional<ReliefField> field;
  };
  void look_for_glow();

  std::map<std::string, Field> slots_;
  Extent extent_;
  std::shared_ptr<const SurfaceProgram> over_surface_;
  int size_;
  bool glows_ = false;
  std::shared_ptr<const Usual> usual_;
  std::shared_ptr<const Further> further_;
  std::shared_ptr<const Rare> rare_;
  std::shared_ptr<const Sheet> sheet_;
  std::shared_ptr<const MeanPyramid<1>> opacity_;
  std::shared_ptr<Shadings> shadings_ = std::make_shared<Shadings>();  // of `over_surface_` alone
  std::shared_ptr<Relief> relief_ = std::make_shared<Relief>();
};

}  // namespace loom
