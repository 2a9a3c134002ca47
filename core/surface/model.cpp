#include "core/surface/model.h"

namespace loom {

Reflector::Reflector(const SurfaceMaps::Point& p, Vec3 n, Vec3 v)
    : n_(n),
      v_(v),
      f0_(mix(Vec3{0.04f, 0.04f, 0.04f}, p.base, p.metallic)),
      frame_(n),
      roughness_(std::clamp(p.roughness, 0.03f, 1.0f)),
      alpha_(roughness_ * roughness_),
      cos_v_(std::max(dot(n, v), 1e-3f)) {
  const Albedo albedo = ggx_albedo(cos_v_, alpha_);
  const float e = std::max(albedo.e(), 0.05f);
  glossy_ = Vec3{1, 1, 1} + f0_ * (1 / e - 1);
  specular_ = (f0_ * albedo.a + Vec3{albedo.b, albedo.b, albedo.b}) * glossy_;
  diffuse_ = p.base * (1 - p.metallic) * (Vec3{1, 1, 1} - specular_);
  const float bright = specular_.x + specular_.y + specular_.z, rest = diffuse_.x + diffuse_.y + diffuse_.z;
  chance_ = std::clamp(bright / std::max(bright + rest, 1e-6f), 0.15f, 0.95f);
}

Reflector::Towards Reflector::towards(Vec3 l) const {
  const float nl = dot(n_, l);
  if (nl <= 0) return {{}, 0};
  const Vec3 h = normalised(v_ + l);
  const float d = ggx_density(std::max(dot(n_, h), 0.0f), alpha_) / (4 * cos_v_);
  const float spec = d * smith_g2(cos_v_, nl, alpha_);
  return {schlick(f0_, dot(v_, h)) * glossy_ * spec + diffuse_ * (nl / kPi),
          chance_ * d * smith_g1(cos_v_, alpha_) + (1 - chance_) * nl / kPi};
}

Vec3 Reflector::draw(float choice, float r1, float r2) const {
  if (choice < chance_) {
    const Vec3 lv = frame_.local(v_);
    const Vec3 h = frame_.world(sample_visible_half({lv.x, lv.y, std::max(lv.z, 1e-3f)}, alpha_, r1, r2));
    return h * (2 * dot(v_, h)) - v_;
  }
  const float r = std::sqrt(r1), phi = 2 * kPi * r2;
  return frame_.world({r * std::cos(phi), r * std::sin(phi), std::sqrt(std::max(0.0f, 1 - r1))});
}

Vec3 Reflector::under(Vec3 diffuse_light, Vec3 glossy_light) const {
  return diffuse_light * diffuse_ + glossy_light * specular_;
}

}  // namespace loom
