// A shape that wears a material's relief: where rays meet it.
#pragma once
#include <memory>
#include <optional>

#include "core/surface/maps.h"
#include "core/surface/shape.h"

namespace loom {

/// The relief stands in the shell about the shape, true to the outline; a ray that curves through the shell is followed
/// in straight stretches that stray from it by a quarter of a pixel at most. Opacity lets rays through.
class Body {
 public:
  /// `depth` in metres is that of height 1; 0 leaves the shape smooth.
  Body(std::shared_ptr<const Shape> shape, std::shared_ptr<const SurfaceMaps> maps, float depth);

  struct Hit {
    float t;
    Vec3 place;
    ShellPlace at;
    ShellFrame frame;  ///< of the shape under the place
    Vec3 facet;        ///< the unit normal of what was met
    bool flat_side;    ///< a side without relief and without a normal of the material
    bool inside;       ///< the shape's far side, seen through an opening
    int level = 0;     ///< of the relief that was met
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
  std::optional<Hit> first(const Ray& ray, Width width, float chance) const;
  bool blocks(const Ray& ray, Width width, float chance) const;
  /// A place from which a ray may start without meeting what it starts from.
  struct Start {
    Vec3 place;
    ShellPlace at;
  };
  Start off(const Hit& hit) const;

  /// The normal of a material, (x, y, z) with y up in the picture of the tile, where it lies on the shape.
  Vec3 worn(const ShellFrame& frame, Vec3 normal) const;

  const Shape& shape() const { return *shape_; }
  float depth() const { return depth_; }

 private:
  struct Crossing {
    float t;
    ShellPlace at;
    Vec3 side;
    int level;
  };
  std::optional<Crossing> crossing(const Ray& ray, Width width) const;
  std::optional<Crossing> along(const Ray& ray, const Shape::Near& near, Width width, float& left) const;
  int level_for(float width) const;
  Hit hit_at(const Ray& ray, const Crossing& crossing) const;
  std::optional<Hit> through(const Ray& ray, float from, float chance) const;

  std::shared_ptr<const Shape> shape_;
  std::shared_ptr<const SurfaceMaps> maps_;
  const ReliefField* relief_;
  float depth_, low_ = 0, high_ = 0;  // metres
};

}  // namespace loom
