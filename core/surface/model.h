// The shading model: a dielectric or a metal, in between by metalness, as a GGX surface over a Lambert base.
#pragma once
#include "core/surface/ggx.h"
#include "core/surface/maps.h"

namespace loom {

/// What a point of a surface does to light that comes towards a fixed eye. Directions point away from the surface.
/// Source: the metalness form of the Academy's OpenPBR 1.1; what single scattering loses comes back after Turquin,
/// "Practical multiple scattering compensation for microfacet models", 2019.
class Reflector {
 public:
  /// `n` the normal, `v` towards the eye, both of length 1 and not more than a right angle apart.
  Reflector(const SurfaceMaps::Point& point, Vec3 n, Vec3 v);

  /// A direction to follow, from three numbers in [0, 1).
  Vec3 draw(float choice, float r1, float r2) const;
  struct Towards {
    Vec3 reflected;  ///< radiance a unit of radiance from there and of solid angle: the distribution times the cosine
    float density;   ///< how densely draw() draws it, over solid angle
  };
  Towards towards(Vec3 l) const;

  /// Under light from an environment that is known by its means: of a cosine lobe, and of one about the mirror
  /// direction. Source: Karis, "Real Shading in Unreal Engine 4", SIGGRAPH 2013 course notes.
  Vec3 under(Vec3 diffuse_light, Vec3 glossy_light) const;
  Vec3 mirror() const { return n_ * (2 * dot(n_, v_)) - v_; }
  float roughness() const { return roughness_; }
  Vec3 normal() const { return n_; }

 private:
  Vec3 n_, v_, f0_, glossy_, diffuse_;  // glossy_: the gain of the lobe; diffuse_: what passes it and comes back
  Vec3 specular_;                       // the lobe's albedo
  Frame frame_;
  float roughness_, alpha_, cos_v_, chance_;  // chance_ of following the lobe
};

}  // namespace loom
