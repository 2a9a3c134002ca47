// From where one looks.
#pragma once
#include <algorithm>

#include <cmath>

namespace loom {

enum class ShapeName;

/// Round the shape's middle: degrees as everywhere, distance in radii of the sphere about the shape.
struct Camera {
  float azimuth = 0, height = 8, distance = 4.6f;
  float aside = 0, up = 0;  ///< how far it is moved within its picture, in radii
  friend bool operator==(const Camera&, const Camera&) = default;

  static constexpr float kField = 28;  ///< vertical field of view, degrees
  static constexpr float kNearest = 1.02f, kFarthest = 40;
  /// Where one looks at a shape from to begin with.
  static Camera start(ShapeName shape);
  void turn(float left, float higher) {
    azimuth = std::remainder(azimuth + left, 360.0f);
    height = std::clamp(height + higher, -89.0f, 89.0f);
  }
  void approach(float times) { distance = std::clamp(distance * times, kNearest, kFarthest); }
};

}  // namespace loom
