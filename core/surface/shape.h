// The shapes that wear a material: where a ray comes near them, and where a place near them lies on the tile.
#pragma once
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "core/base/vec3.h"
#include "core/surface/camera.h"

namespace loom {

enum class ShapeName { tile, ball, pipe, ring, block, cupola };
/// In the order of the enumeration: identifier and label.
const std::vector<std::pair<std::string, std::string>>& shape_names();
std::optional<ShapeName> shape_named(std::string_view identifier);

/// A place in the shell about a shape: u and v in tiles, the height above the shape in metres.
struct ShellPlace {
  float u = 0, v = 0, height = 0;
};

/// Of the shape under a place: the unit normal outwards, and how far one tile leads along u and v, in metres.
struct ShellFrame {
  Vec3 normal, along_u, along_v;
};

/// About 1 m across, x right, y up, z towards the default camera, its middle at the origin.
class Shape {
 public:
  /// A tile is about `tile_metres` wide on it; where a shape is closed, a whole number of tiles goes round.
  static std::shared_ptr<const Shape> make(ShapeName name, float tile_metres);
  virtual ~Shape() = default;

  virtual ShellPlace place(Vec3 p) const = 0;
  virtual ShellFrame frame(Vec3 p) const = 0;

  /// The next stretch of the ray, from `from` on, that lies at most `high` metres above the shape (or within it).
  struct Near {
    float from, to;
    Vec3 side = {};  ///< the outward normal of the flat side through which it comes in; 0: from above the shape
  };
  virtual std::optional<Near> near(const Ray& ray, float from, float high) const = 0;
  /// Where a ray that is within the shape leaves it; none if it is open there.
  virtual std::optional<float> far_side(const Ray& ray, float from) const = 0;
  /// A place on a flat side, where the material goes on without relief.
  virtual ShellPlace side_place(Vec3 p, Vec3 side) const = 0;

  /// The least radius by which the shell's coordinates bend at a place, in metres.
  virtual float bend(Vec3 p) const = 0;
  virtual float radius() const = 0;  ///< of the sphere about it, metres
  virtual float foot() const = 0;    ///< the y of the ground that it stands on
  /// How many tiles go once round, by which a place's u (v) can jump; 0 where it cannot.
  virtual float round_u() const { return 0; }
  virtual float round_v() const { return 0; }
  /// Whether it is covered by several charts, at whose borders u and v jump.
  virtual bool has_charts() const { return false; }
  /// How wide a tile is meant to be on it, metres.
  float tile() const { return tile_; }

 protected:
  explicit Shape(float tile) : tile_(tile) {}

 private:
  float tile_;
};

}  // namespace loom
