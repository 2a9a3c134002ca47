// What wears a material: where rays meet it.
#pragma once
#include <memory>
#include <optional>

#include "core/program/surface_points.h"
#include "core/surface/shape.h"

namespace loom {

class Body {
 public:
  virtual ~Body() = default;

  struct Hit {
    float t;
    Vec3 place;
    ShellPlace at;
    ShellFrame frame;      ///< of the shape under the place
    Vec3 facet;            ///< the unit normal of what was met
    bool flat_side;        ///< a side without relief and without a normal of the material
    bool inside;           ///< the shape's far side, seen through an opening; or the back of a thin one
    int level = 0;         ///< of the relief that was met
    float tile = 1;        ///< how wide a tile is there, metres
    std::size_t part = 0;  ///< of a mesh, its name's key, and where on it:
    float part_key = loom::part_key("");
    std::uint32_t triangle = 0;
    float b = 0, c = 0;
  };
  /// How wide a ray is: metres at its beginning, and by how much it widens a metre. One that starts on the relief sees
  /// the same level of it, or it would start below another.
  struct Width {
    float start, spread;
    int level = -1;                    ///< of the relief, 0 the finest; -1: as the width has it
    const ShellPlace* from = nullptr;  ///< where a ray begins that begins within the shell, if that is known
    float at(float t) const { return start + spread * t; }
  };
  /// Where opacity is at most `chance`, the ray goes through.
  virtual std::optional<Hit> first(const Ray& ray, Width width, float chance) const = 0;
  virtual bool blocks(const Ray& ray, Width width, float chance) const = 0;
  /// A place from which a ray may start without meeting what it starts from.
  struct Start {
    Vec3 place;
    ShellPlace at;
  };
  virtual Start off(const Hit& hit) const = 0;

  /// Whether rays find its relief, so that it shadows itself.
  virtual bool has_relief() const = 0;
  virtual Vec3 middle() const = 0;   ///< of the sphere about it
  virtual float radius() const = 0;  ///< of that sphere, metres
  virtual float foot() const = 0;    ///< the y of the ground that it stands on
};

/// The normal of the shape where it was met, without relief; a flat side's own.
inline Vec3 shape_normal(const Body::Hit& hit) { return hit.flat_side ? hit.facet : hit.frame.normal; }

/// The normal of a material, (x, y, z) with y up in the picture of the tile, where it lies on the shape.
Vec3 worn(const Body::Hit& hit, Vec3 normal);
/// A direction on the tile, along u and v, where it lies on the shape; of any length.
inline Vec3 on_shape(const Body::Hit& hit, Vec3 along) {
  return hit.frame.along_u * along.x + hit.frame.along_v * along.y;
}

}  // namespace loom
