// The shading model: a dielectric or a metal, in between by metalness, as a GGX surface over a Lambert base, under a
// coat where there is one.
#pragma once
#include "core/surface/ggx.h"
#include "core/surface/maps.h"

namespace loom {

/// A direction that light comes from: radiance that is reflected for a unit of radiance from there and of solid angle
/// (the distribution times the cosine), and how densely the model draws it, over solid angle.
struct Towards {
  Vec3 reflected;
  float density = 0;
};

/// One GGX lobe for a fixed eye. What single scattering loses comes back after Turquin, "Practical multiple scattering
/// compensation for microfacet models", 2019.
class GgxLobe {
 public:
  GgxLobe() = default;
  /// `f0` at normal incidence; it rises to 1 at grazing angles, to less where it is below 0.02 (common practice), so
  /// that a surface that reflects nothing does so from everywhere.
  GgxLobe(Vec3 f0, float roughness, float cos_v);
  Vec3 albedo() const { return albedo_; }
  float alpha() const { return alpha_; }
  /// By the cosines of the light and the half vector with the normal, and of the eye with the half vector.
  Towards towards(float cos_l, float cos_h, float cos_d) const;

 private:
  Vec3 f0_, gain_, albedo_;
  float f90_ = 0, alpha_ = 1, cos_v_ = 1;
};

/// What a point of a surface does to light that comes towards a fixed eye. Directions point away from the surface.
/// Source: the dielectric and the metal base and the coat of the Academy's OpenPBR 1.1; a coat of index 1.6 takes from
/// what lies under it what it reflects itself.
class Reflector {
 public:
  /// `n` the normal, `v` towards the eye, both of length 1 and not more than a right angle apart.
  Reflector(const SurfaceMaps::Point& point, Vec3 n, Vec3 v);

  /// A direction to follow, from three numbers in [0, 1).
  Vec3 draw(float choice, float r1, float r2) const;
  Towards towards(Vec3 l) const;

  /// Under light from an environment that is known by its means: of a cosine lobe, and of those about the mirror
  /// direction, as wide as base and coat are rough. Source: Karis, "Real Shading in Unreal Engine 4", SIGGRAPH 2013
  /// course notes.
  Vec3 under(Vec3 diffuse_light, Vec3 glossy_light, Vec3 coat_light) const;
  Vec3 mirror() const { return n_ * (2 * dot(n_, v_)) - v_; }
  float roughness() const { return roughness_; }
  bool has_coat() const { return coat_weight_ > 0; }
  float coat_roughness() const { return coat_roughness_; }

 private:
  Vec3 n_, v_;
  Vec3 diffuse_;  // what passes the base's lobe and comes back
  Vec3 passed_;   // what the coat lets through, of all that lies under it
  GgxLobe base_, coat_;
  Frame frame_;
  float roughness_, coat_weight_, coat_roughness_, cos_v_;
  float to_coat_ = 0, to_base_ = 0;  // chances of following the lobes
};

}  // namespace loom
