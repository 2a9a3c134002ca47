// The shading model: GGX microfacets with height-correlated Smith masking over a Lambert base.
#pragma once
#include "core/base/vec3.h"

namespace loom {

/// Density of half vectors. Source: Walter et al., "Microfacet Models for Refraction", EGSR 2007. `alpha` =
/// roughness^2.
inline float ggx_density(float cos_h, float alpha) {
  // The sum 1 + cos^2 (a^2 - 1), so written that nothing cancels near the peak.
  const float a2 = alpha * alpha, d = (1 - cos_h) * (1 + cos_h) + cos_h * cos_h * a2;
  return a2 / (kPi * d * d);
}
/// Smith's masking of one direction.
inline float smith_g1(float cos_v, float alpha) {
  const float a2 = alpha * alpha, c2 = cos_v * cos_v;
  return 2 * cos_v / (cos_v + std::sqrt(a2 + (1 - a2) * c2));
}
/// Height-correlated masking and shadowing. Source: Heitz, "Understanding the Masking-Shadowing Function", JCGT 3(2),
/// 2014.
inline float smith_g2(float cos_v, float cos_l, float alpha) {
  const float a2 = alpha * alpha;
  const float v = cos_l * std::sqrt(a2 + (1 - a2) * cos_v * cos_v),
              l = cos_v * std::sqrt(a2 + (1 - a2) * cos_l * cos_l);
  return v + l > 0 ? 2 * cos_v * cos_l / (v + l) : 0;
}
/// Source: Schlick, "An Inexpensive BRDF Model", CGF 13(3), 1994.
inline Vec3 schlick(Vec3 f0, float f90, float cos_d) {
  const float m = std::clamp(1 - cos_d, 0.0f, 1.0f), m5 = m * m * m * m * m;
  return f0 + (Vec3{f90, f90, f90} - f0) * m5;
}

/// Of a surface whose slopes spread more along one way than across it: along the x and the y of the frame that half
/// vectors and directions are in then.
struct Alphas {
  float x, y;
};
/// `roughness` and `anisotropy` in 0..1. Source: OpenPBR 1.1, "Microfacet model" (from memory): x = r^2 sqrt(2 / (1 +
/// (1 - a)^2)), y = (1 - a) x, so that the sum of their squares stays.
inline Alphas alphas_of(float roughness, float anisotropy) {
  constexpr float kLeast = 0.0009f;
  const float thin = 1 - anisotropy, x = roughness * roughness * std::sqrt(2 / (1 + thin * thin));
  return {std::max(x, kLeast), std::max(thin * x, kLeast)};
}
/// How long a direction is on the surface stretched by its roughness.
inline float stretched(Vec3 v, Alphas a) {
  const float x = a.x * v.x, y = a.y * v.y;
  return std::sqrt(x * x + y * y + v.z * v.z);
}
/// The three terms above for two roughnesses. Source: Heitz 2014, as above.
inline float ggx_density(Vec3 h, Alphas a) {
  const float x = h.x / a.x, y = h.y / a.y, d = x * x + y * y + h.z * h.z;
  return 1 / (kPi * a.x * a.y * d * d);
}
inline float smith_g1(Vec3 v, Alphas a) { return 2 * v.z / (v.z + stretched(v, a)); }
inline float smith_g2(Vec3 v, Vec3 l, Alphas a) {
  const float sum = l.z * stretched(v, a) + v.z * stretched(l, a);
  return sum > 0 ? 2 * v.z * l.z / sum : 0;
}

/// A visible half vector for view direction `v` (z up). Source: Heitz, "Sampling the GGX Distribution of Visible
/// Normals", JCGT 7(4), 2018.
Vec3 sample_visible_half(Vec3 v, Alphas alphas, float r1, float r2);

/// Split-sum terms: directional albedo is f0 * a + b; `e` = a + b is the albedo of a white microfacet surface.
struct Albedo {
  float a, b;
  float e() const { return a + b; }
};
/// From a 64 x 64 table that is integrated once, within 0.002; `alpha` and `cos_v` in 0..1.
Albedo ggx_albedo(float cos_v, float alpha);
/// The same by direct quadrature with `n` x `n` samples; for the table and for tests.
Albedo integrate_albedo(float cos_v, float alpha, int n);
/// Of an anisotropic surface, for a view direction in its frame, within 0.01; from a table that is integrated when it
/// is first asked for, and by quadrature.
Albedo ggx_albedo(Vec3 v, float roughness, float anisotropy);
Albedo integrate_albedo(Vec3 v, Alphas alphas, int n);

/// The mean over all directions of the albedo of a white surface, 2 times the integral of e over cos_v d cos_v.
float ggx_mean_albedo(float alpha);

}  // namespace loom
