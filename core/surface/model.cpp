#include "core/surface/model.h"

namespace loom {
namespace {

constexpr float kLeastRoughness = 0.03f, kLeastAnisotropy = 1e-3f;
constexpr float kCoat = 0.0532544f;  // reflected at normal incidence by an index of 1.6
constexpr Vec3 kWhite{1, 1, 1};

float reflected_by(float index) {
  const float r = (index - 1) / (index + 1);
  return r * r;
}
float sum_of(Vec3 c) { return c.x + c.y + c.z; }

// At grazing angles: less than 1 where hardly anything is reflected at all.
float grazing(Vec3 f0) { return std::min(1.0f, 50 * std::max({f0.x, f0.y, f0.z})); }

}  // namespace

GgxLobe::GgxLobe(Vec3 f0, float roughness, float cos_v)
    : f0_(f0), f90_(grazing(f0)), cos_v_(cos_v), alpha_{roughness * roughness, roughness * roughness} {
  settle(ggx_albedo(cos_v, alpha_.x), ggx_mean_albedo(alpha_.x));
}

GgxLobe::GgxLobe(Vec3 f0, float roughness, float anisotropy, Vec3 v)
    : f0_(f0), v_(v), f90_(grazing(f0)), cos_v_(v.z), alpha_(alphas_of(roughness, anisotropy)), even_(false) {
  // The mean over all directions hardly depends on how the same roughness is shared out.
  settle(ggx_albedo(v, roughness, anisotropy), ggx_mean_albedo(std::min(roughness * roughness, 1.0f)));
}

void GgxLobe::settle(const Albedo& albedo, float mean_albedo) {
  const Vec3 once = f0_ * albedo.a + kWhite * (f90_ * albedo.b);
  const float lost = std::max(1 - albedo.e(), 0.0f);
  const auto more = [&](float f0, float single) {
    const float mean = f0 + (f90_ - f0) / 21;  // of Schlick's term over the cosine
    const float scattered = mean * mean * mean_albedo / (1 - mean * (1 - mean_albedo));
    return 1 + scattered * lost / std::max(single, 1e-4f);
  };
  gain_ = {more(f0_.x, once.x), more(f0_.y, once.y), more(f0_.z, once.z)};
  albedo_ = once * gain_;
}

Towards GgxLobe::towards(float cos_l, float cos_h, float cos_d) const {
  const float d = ggx_density(cos_h, alpha_.x) / (4 * cos_v_);
  return {schlick(f0_, f90_, cos_d) * gain_ * (d * smith_g2(cos_v_, cos_l, alpha_.x)), d * smith_g1(cos_v_, alpha_.x)};
}

Towards GgxLobe::towards(Vec3 l, Vec3 h, float cos_d) const {
  const float d = ggx_density(h, alpha_) / (4 * cos_v_);
  return {schlick(f0_, f90_, cos_d) * gain_ * (d * smith_g2(v_, l, alpha_)), d * smith_g1(v_, alpha_)};
}

Reflector::Reflector(const SurfaceMaps::Point& p, Vec3 n, Vec3 v, Vec3 along)
    : n_(n),
      v_(v),
      frame_(p.anisotropy > kLeastAnisotropy ? Frame(n, along) : Frame(n)),
      roughness_(std::clamp(p.roughness, kLeastRoughness, 1.0f)),
      coat_weight_(p.coat_weight),
      coat_roughness_(std::max(p.coat_roughness, kLeastRoughness)),
      cos_v_(std::max(dot(n, v), 1e-3f)) {
  const float dielectric = reflected_by(p.specular_ior);
  const Vec3 f0 = mix(Vec3{dielectric, dielectric, dielectric}, p.base, p.metallic) * p.specular_weight;
  if (p.anisotropy > kLeastAnisotropy) {
    const Vec3 local = frame_.local(v);
    base_ = GgxLobe(f0, roughness_, p.anisotropy, {local.x, local.y, cos_v_});
  } else {
    base_ = GgxLobe(f0, roughness_, cos_v_);
  }
  const Vec3 enters = (kWhite - base_.albedo()) * (1 - p.metallic);
  const float goes_on = p.thin * 0.5f * (1 + p.onward);  // of what scatters below: the rest comes back
  diffuse_ = mix(p.base, p.subsurface_colour * (1 - goes_on), p.subsurface) * enters;
  through_ = p.subsurface_colour * enters * (p.subsurface * goes_on);
  passed_ = kWhite;
  if (has_coat()) {
    coat_ = GgxLobe({kCoat, kCoat, kCoat}, coat_roughness_, cos_v_);
    passed_ = kWhite - coat_.albedo() * coat_weight_;
    to_coat_ = std::clamp(coat_weight_ * coat_.albedo().x, 0.1f, 0.9f);
  }
  const float glossy = sum_of(base_.albedo()), all = glossy + sum_of(diffuse_);
  to_base_ = (1 - to_coat_) * std::clamp(glossy / std::max(all, 1e-6f), 0.15f, 0.95f);
  if (p.fuzz_weight > 0) lay_fuzz(p);
  through_ = through_ * passed_ * under_fuzz_;
  if (const float through = sum_of(through_); through > 0)
    to_through_ = (1 - to_fuzz_ - to_coat_ - to_base_) * through / (through + sum_of(diffuse_));
}

void Reflector::lay_fuzz(const SurfaceMaps::Point& p) {
  fuzz_.emplace(n_, v_, p.fuzz_roughness);
  const float covered = p.fuzz_weight * fuzz_->albedo();
  fuzz_colour_ = p.fuzz * covered;
  under_fuzz_ = 1 - covered;
  to_fuzz_ = std::clamp(covered, 0.1f, 0.8f);
  to_coat_ *= 1 - to_fuzz_, to_base_ *= 1 - to_fuzz_;
}

Towards Reflector::towards(Vec3 l) const {
  const float nl = dot(n_, l);
  if (nl <= 0) return {through_ * (-nl / kPi), to_through_ * -nl / kPi};
  const Vec3 h = normalised(v_ + l);
  const float nh = std::max(dot(n_, h), 0.0f), vh = dot(v_, h);
  const Towards base =
      base_.is_even() ? base_.towards(nl, nh, vh) : base_.towards(frame_.local(l), frame_.local(h), vh);
  Towards all{(base.reflected + diffuse_ * (nl / kPi)) * passed_,
              to_base_ * base.density + (1 - to_fuzz_ - to_coat_ - to_base_ - to_through_) * nl / kPi};
  if (has_coat()) {
    const Towards coat = coat_.towards(nl, nh, vh);
    all = {all.reflected + coat.reflected * coat_weight_, all.density + to_coat_ * coat.density};
  }
  if (fuzz_) {
    const float density = fuzz_->density(l);
    all = {all.reflected * under_fuzz_ + fuzz_colour_ * density, all.density + to_fuzz_ * density};
  }
  return all;
}

Vec3 Reflector::draw(float choice, float r1, float r2) const {
  if (choice < to_coat_ + to_base_) {
    const Vec3 lv = frame_.local(v_);
    const Alphas alphas = choice < to_coat_ ? coat_.alphas() : base_.alphas();
    const Vec3 h = frame_.world(sample_visible_half({lv.x, lv.y, std::max(lv.z, 1e-3f)}, alphas, r1, r2));
    const Vec3 l = h * (2 * dot(v_, h)) - v_;
    return dot(n_, l) > 0 ? l : Vec3{};  // what a facet sends below is lost, and does not go through
  }
  if (choice < to_coat_ + to_base_ + to_fuzz_) return fuzz_->draw(r1, r2);
  const float r = std::sqrt(r1), phi = 2 * kPi * r2, up = std::sqrt(std::max(0.0f, 1 - r1));
  const bool through = choice < to_coat_ + to_base_ + to_fuzz_ + to_through_;
  return frame_.world({r * std::cos(phi), r * std::sin(phi), through ? -up : up});
}

// The wider direction as five slopes alike in share, by the quantiles of GGX slopes along one axis, whose distribution
// function is (1 + x / sqrt(alpha^2 + x^2)) / 2.
float Reflector::mirrors(std::span<Vec3, kMirrors> to) const {
  const Alphas a = base_.alphas();
  const float wide = std::sqrt(std::max(a.x * a.x - a.y * a.y, 0.0f));
  for (std::size_t i = 0; i < kMirrors; ++i) {
    const float q = (2 * static_cast<float>(i) + 1) / kMirrors - 1, slope = wide * q / std::sqrt(1 - q * q);
    const Vec3 h = normalised(n_ + frame_.t * slope);
    to[i] = h * (2 * dot(h, v_)) - v_;
    if (const float below = dot(to[i], n_); below < 0) to[i] = to[i] - n_ * (2 * below);
  }
  return std::sqrt(a.y);
}

Vec3 Reflector::under(Vec3 diffuse_light, Vec3 glossy_light, Vec3 coat_light) const {
  Vec3 all = (diffuse_light * diffuse_ + glossy_light * base_.albedo()) * passed_;
  if (has_coat()) all = all + coat_light * coat_.albedo() * coat_weight_;
  return fuzz_ ? all * under_fuzz_ + diffuse_light * fuzz_colour_ : all;
}

}  // namespace loom
