// Three floats: places, directions and light.
#pragma once
#include <algorithm>
#include <cmath>

#include "core/base/scalar.h"

namespace loom {

struct Vec3 {
  float x = 0, y = 0, z = 0;
  friend Vec3 operator+(Vec3 a, Vec3 b) { return {a.x + b.x, a.y + b.y, a.z + b.z}; }
  friend Vec3 operator-(Vec3 a, Vec3 b) { return {a.x - b.x, a.y - b.y, a.z - b.z}; }
  friend Vec3 operator*(Vec3 a, Vec3 b) { return {a.x * b.x, a.y * b.y, a.z * b.z}; }
  friend Vec3 operator*(Vec3 a, float k) { return {a.x * k, a.y * k, a.z * k}; }
};
inline float dot(Vec3 a, Vec3 b) { return a.x * b.x + a.y * b.y + a.z * b.z; }
inline Vec3 cross(Vec3 a, Vec3 b) { return {a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x}; }
inline float length(Vec3 a) { return std::sqrt(dot(a, a)); }
/// The direction of a; 0 for a zero vector.
inline Vec3 normalised(Vec3 a) {
  const float n = dot(a, a);
  return n > 0 ? a * (1 / std::sqrt(n)) : Vec3{};
}
inline Vec3 mix(Vec3 a, Vec3 b, float t) { return a + (b - a) * t; }
/// Of linear Rec. 709.
inline float luminance(Vec3 c) { return 0.2126f * c.x + 0.7152f * c.y + 0.0722f * c.z; }

inline constexpr float kPi = 3.14159265358979f;
inline constexpr float kDegree = kPi / 180;

/// Azimuths in degrees, 0 in front (+z), growing to the left as one sees it from there; heights above the horizon.
inline Vec3 direction_of(float azimuth, float height) {
  const float a = azimuth * kDegree, h = height * kDegree;
  return {-std::cos(h) * std::sin(a), std::sin(h), std::cos(h) * std::cos(a)};
}

struct Ray {
  Vec3 from, towards;  ///< metres; `towards` has length 1
  Vec3 at(float t) const { return from + towards * t; }
};

/// An orthonormal frame. Source: Duff et al., "Building an Orthonormal Basis, Revisited", JCGT 6(1), 2017.
struct Frame {
  Vec3 t, b, n;
  explicit Frame(Vec3 normal) : n(normal) {
    const float sign = n.z >= 0 ? 1.0f : -1.0f, a = -1 / (sign + n.z), xy = n.x * n.y * a;
    t = {1 + sign * n.x * n.x * a, sign * xy, -sign * n.x};
    b = {xy, sign + n.y * n.y * a, -n.y};
  }
  /// With its first axis along `tangent`, as far as that lies across the normal.
  Frame(Vec3 normal, Vec3 tangent) : Frame(normal) {
    const Vec3 across = tangent - n * dot(n, tangent);
    if (!(dot(across, across) > 1e-12f)) return;
    t = normalised(across);
    b = cross(n, t);
  }
  Vec3 local(Vec3 v) const { return {dot(v, t), dot(v, b), dot(v, n)}; }
  Vec3 world(Vec3 v) const { return t * v.x + b * v.y + n * v.z; }
};

}  // namespace loom
