// The shading model: a dielectric or a metal, in between by metalness, as a GGX surface over a Lambert base, under a
// coat and under fuzz where there are some.
#pragma once
#include <optional>
#include <span>

#include "core/surface/fuzz.h"
#include "core/surface/ggx.h"
#include "core/surface/maps.h"

namespace loom {

/// A direction that light comes from: radiance that is reflected for a unit of radiance from there and of solid angle
/// (the distribution times the cosine), and how densely the model draws it, over solid angle.
struct Towards {
  Vec3 reflected;
  float density = 0;
};

/// One GGX lobe for a fixed eye. What single scattering loses comes back in the lobe's own form, as much as Kulla and
/// Conty give to light that is scattered more than once, by the mean Fresnel term: "Revisiting Physically Based Shading
/// at Imageworks", SIGGRAPH 2017 course notes.
class GgxLobe {
 public:
  GgxLobe() = default;
  /// `f0` at normal incidence; it rises to 1 at grazing angles, to less where it is below 0.02 (common practice), so
  /// that a surface that reflects nothing does so from everywhere.
  GgxLobe(Vec3 f0, float roughness, float cos_v);
  /// Rougher along the x of the frame that `v` is in: light spreads that way.
  GgxLobe(Vec3 f0, float roughness, float anisotropy, Vec3 v);
  Vec3 albedo() const { return albedo_; }
  Alphas alphas() const { return alpha_; }
  bool is_even() const { return even_; }
  /// By the cosines of the light and the half vector with the normal, and of the eye with the half vector; where it is
  /// even.
  Towards towards(float cos_l, float cos_h, float cos_d) const;
  /// By the light and the half vector in the lobe's frame.
  Towards towards(Vec3 l, Vec3 h, float cos_d) const;

 private:
  void settle(const Albedo& albedo, float mean_albedo);
  Vec3 f0_, gain_, albedo_, v_;
  float f90_ = 0, cos_v_ = 1;
  Alphas alpha_{1, 1};
  bool even_ = true;
};

/// What a point of a surface does to light that comes towards a fixed eye. Directions point away from the surface;
/// those on the other side than the eye count where a thin sheet lets light through. Source: the dielectric and the
/// metal base, the coat and the fuzz of the Academy's OpenPBR 1.1; a coat of index 1.6 and fuzz take from what lies
/// under them what they reflect themselves. Its subsurface, where a wall is thin: a Lambert lobe on either side; where
/// it is not, as dense as can be: a Lambert base of the subsurface's colour.
class Reflector {
 public:
  /// `n` the normal, `v` towards the eye, both of length 1 and not more than a right angle apart; `along` the way
  /// that light spreads most where it is anisotropic, of any length.
  Reflector(const SurfaceMaps::Point& point, Vec3 n, Vec3 v, Vec3 along = {1, 0, 0});

  /// A direction to follow, from three numbers in [0, 1); zero: there is none.
  Vec3 draw(float choice, float r1, float r2) const;
  Towards towards(Vec3 l) const;

  /// Under light from an environment that is known by its means: of a cosine lobe, and of those about the mirror
  /// directions, as wide as base and coat are rough. Source: Karis, "Real Shading in Unreal Engine 4", SIGGRAPH 2013
  /// course notes.
  Vec3 under(Vec3 diffuse_light, Vec3 glossy_light, Vec3 coat_light) const;
  /// And of what shines through, under a cosine lobe of light from the other side.
  Vec3 shines_through(Vec3 diffuse_light) const { return diffuse_light * through_; }
  bool lets_through() const { return to_through_ > 0; }
  Vec3 mirror() const { return n_ * (2 * dot(n_, v_)) - v_; }
  float roughness() const { return roughness_; }
  /// Where the base is anisotropic, its light comes from several mirror directions alike, each as wide as it is rough
  /// in its narrow direction: `to` gets them.
  static constexpr std::size_t kMirrors = 5;
  bool is_even() const { return base_.is_even(); }
  float mirrors(std::span<Vec3, kMirrors> to) const;
  bool has_coat() const { return coat_weight_ > 0; }
  float coat_roughness() const { return coat_roughness_; }

 private:
  void lay_fuzz(const SurfaceMaps::Point& point);
  Vec3 n_, v_;
  Vec3 diffuse_;  // what passes the base's lobe and comes back
  Vec3 through_;  // what comes out on the other side, after coat and fuzz
  Vec3 passed_;   // what the coat lets through, of all that lies under it
  GgxLobe base_, coat_;
  std::optional<FuzzLobe> fuzz_;
  Vec3 fuzz_colour_;
  Frame frame_;
  float roughness_, coat_weight_, coat_roughness_, cos_v_;
  float under_fuzz_ = 1;                                            // what it lets through
  float to_fuzz_ = 0, to_coat_ = 0, to_base_ = 0, to_through_ = 0;  // chances of following the lobes
};

}  // namespace loom
