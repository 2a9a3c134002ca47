// A height as rays meet it: bilinear between the middles of its texels, found through a pyramid of its maxima.
#pragma once
#include <optional>
#include <vector>

#include "core/plane/plane.h"

namespace loom {

/// Without steps of a fixed size, so no wall is torn and no crest is missed. Source of the walk: Tevs, Ihrke and
/// Seidel, "Maximum Mipmaps for Fast, Accurate, and Scalable Dynamic Height Field Rendering", I3D 2008; of the patch:
/// a quadratic in the ray's parameter, Ramsey, Potter and Hansen, "Ray Bilinear Patch Intersections", JGT 9(3), 2004.
class ReliefField {
 public:
  /// Heights in shares of the relief's depth; what is not finite counts as 0. Takes 3.1 times the plane's bytes.
  explicit ReliefField(const Plane& height);

  float lowest() const { return lowest_; }
  float highest() const { return highest_; }
  int size() const { return levels_[0].size; }
  /// Level 0 has every texel, each further one means of two by two.
  int levels() const { return static_cast<int>(levels_.size()); }

  /// A straight stretch of a ray: u and v in tiles, h in shares of the depth.
  struct Stretch {
    float u0, v0, h0, u1, v1, h1;
  };
  /// The share of the stretch after which it first lies at or below the relief; 0 if it begins there.
  std::optional<float> meets(const Stretch& stretch, int level) const;

  struct Ground {
    float height, along_u, along_v;  ///< slopes in depths a tile
  };
  Ground ground(float u, float v, int level) const;

 private:
  struct Level {
    int size;
    Pooled<float> height;
    std::vector<Pooled<float>> most;  ///< of patches between four texels, then of four such at a time
  };
  struct Patch {
    float corner, along_x, along_y, twist;  ///< height = corner + along_x X + along_y Y + twist X Y
  };
  static Patch patch(const Level& level, int x, int y);
  static Level level_of(Plane height);

  std::vector<Level> levels_;
  float lowest_ = 0, highest_ = 0;
};

}  // namespace loom
