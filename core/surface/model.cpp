#include "core/surface/model.h"

namespace loom {
namespace {

constexpr float kLeastRoughness = 0.03f;
constexpr float kCoat = 0.0532544f;  // reflected at normal incidence by an index of 1.6
constexpr Vec3 kWhite{1, 1, 1};

float reflected_by(float index) {
  const float r = (index - 1) / (index + 1);
  return r * r;
}
float sum_of(Vec3 c) { return c.x + c.y + c.z; }

}  // namespace

GgxLobe::GgxLobe(Vec3 f0, float roughness, float cos_v)
    : f0_(f0), f90_(std::min(1.0f, 50 * std::max({f0.x, f0.y, f0.z}))), alpha_(roughness * roughness), cos_v_(cos_v) {
  const Albedo albedo = ggx_albedo(cos_v, alpha_);
  gain_ = kWhite + f0 * (1 / std::max(albedo.e(), 0.05f) - 1);
  albedo_ = (f0 * albedo.a + kWhite * (f90_ * albedo.b)) * gain_;
}

Towards GgxLobe::towards(float cos_l, float cos_h, float cos_d) const {
  const float d = ggx_density(cos_h, alpha_) / (4 * cos_v_);
  return {schlick(f0_, f90_, cos_d) * gain_ * (d * smith_g2(cos_v_, cos_l, alpha_)), d * smith_g1(cos_v_, alpha_)};
}

Reflector::Reflector(const SurfaceMaps::Point& p, Vec3 n, Vec3 v)
    : n_(n),
      v_(v),
      frame_(n),
      roughness_(std::clamp(p.roughness, kLeastRoughness, 1.0f)),
      coat_weight_(p.coat_weight),
      coat_roughness_(std::max(p.coat_roughness, kLeastRoughness)),
      cos_v_(std::max(dot(n, v), 1e-3f)) {
  const float dielectric = reflected_by(p.specular_ior);
  base_ = GgxLobe(mix(Vec3{dielectric, dielectric, dielectric}, p.base, p.metallic) * p.specular_weight, roughness_,
                  cos_v_);
  diffuse_ = p.base * (1 - p.metallic) * (kWhite - base_.albedo());
  passed_ = kWhite;
  if (has_coat()) {
    coat_ = GgxLobe({kCoat, kCoat, kCoat}, coat_roughness_, cos_v_);
    passed_ = kWhite - coat_.albedo() * coat_weight_;
    to_coat_ = std::clamp(coat_weight_ * coat_.albedo().x, 0.1f, 0.9f);
  }
  const float glossy = sum_of(base_.albedo()), all = glossy + sum_of(diffuse_);
  to_base_ = (1 - to_coat_) * std::clamp(glossy / std::max(all, 1e-6f), 0.15f, 0.95f);
}

Towards Reflector::towards(Vec3 l) const {
  const float nl = dot(n_, l);
  if (nl <= 0) return {};
  const Vec3 h = normalised(v_ + l);
  const float nh = std::max(dot(n_, h), 0.0f), vh = dot(v_, h);
  const Towards base = base_.towards(nl, nh, vh);
  Towards all{(base.reflected + diffuse_ * (nl / kPi)) * passed_,
              to_base_ * base.density + (1 - to_coat_ - to_base_) * nl / kPi};
  if (!has_coat()) return all;
  const Towards coat = coat_.towards(nl, nh, vh);
  return {all.reflected + coat.reflected * coat_weight_, all.density + to_coat_ * coat.density};
}

Vec3 Reflector::draw(float choice, float r1, float r2) const {
  if (choice < to_coat_ + to_base_) {
    const Vec3 lv = frame_.local(v_);
    const float alpha = choice < to_coat_ ? coat_.alpha() : base_.alpha();
    const Vec3 h = frame_.world(sample_visible_half({lv.x, lv.y, std::max(lv.z, 1e-3f)}, alpha, r1, r2));
    return h * (2 * dot(v_, h)) - v_;
  }
  const float r = std::sqrt(r1), phi = 2 * kPi * r2;
  return frame_.world({r * std::cos(phi), r * std::sin(phi), std::sqrt(std::max(0.0f, 1 - r1))});
}

Vec3 Reflector::under(Vec3 diffuse_light, Vec3 glossy_light, Vec3 coat_light) const {
  const Vec3 base = (diffuse_light * diffuse_ + glossy_light * base_.albedo()) * passed_;
  return has_coat() ? base + coat_light * coat_.albedo() * coat_weight_ : base;
}

}  // namespace loom
