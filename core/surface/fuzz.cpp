#include "core/surface/fuzz.h"

#include <algorithm>
#include <cmath>

namespace loom {
namespace {

float albedo_of(float x, float y) {
  const float s = y * (0.0206607f + 1.58491f * y) / (0.0379424f + y * (1.32227f + y)),
              m = y * (-0.193854f + y * (-1.14885f + y * (1.7932f - 0.95943f * y * y))) / (0.046391f + y),
              o = y * (0.000654023f + (-0.0207818f + 0.119681f * y) * y) / (1.26264f + y * (-1.92021f + y));
  const float away = (x - m) / s;
  return std::exp(-0.5f * away * away) / (s * std::sqrt(2 * kPi)) + o;
}

}  // namespace

FuzzLobe::FuzzLobe(Vec3 n, Vec3 v, float roughness) : frame_(n, v) {
  const float x = std::clamp(dot(n, v), 1e-3f, 1.0f), y = std::clamp(roughness, 0.01f, 1.0f);
  albedo_ = std::clamp(albedo_of(x, y), 0.0f, 1.0f);
  a_ = (2.58126f * x + 0.813703f * y) * y / (1 + 0.310327f * x * x + 2.60994f * x * y);
  b_ = std::sqrt(1 - x) * (y - 1) * y * y * y / (0.0000254053f + 1.71228f * x - 1.71506f * x * y + 1.34174f * y * y);
}

float FuzzLobe::density(Vec3 l) const {
  const Vec3 w = frame_.local(l);
  const Vec3 o{a_ * w.x + b_ * w.z, a_ * w.y, w.z};
  const float square = dot(o, o), gain = a_ / square;
  return std::max(o.z, 0.0f) * gain * gain / kPi;
}

Vec3 FuzzLobe::draw(float r1, float r2) const {
  const float r = std::sqrt(r1), phi = 2 * kPi * r2, z = std::sqrt(std::max(0.0f, 1 - r1));
  return normalised(frame_.world({(r * std::cos(phi) - b_ * z) / a_, r * std::sin(phi) / a_, z}));
}

}  // namespace loom
