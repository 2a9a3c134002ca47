// Fuzz: a layer of fibres that stand on a surface, seen most at grazing angles.
#pragma once
#include "core/base/vec3.h"

namespace loom {

/// One lobe for a fixed eye: a cosine lobe, transformed linearly so that it fits what the fibres scatter.
/// Source: Zeltner, Burley and Chiang, "Practical Multiple-Scattering Sheen Using Linearly Transformed Cosines",
/// SIGGRAPH 2022 talks, in the rational fits of MaterialX 1.39 (mx_microfacet_sheen, from memory).
class FuzzLobe {
 public:
  /// `n` the normal, `v` towards the eye; roughness 0..1.
  FuzzLobe(Vec3 n, Vec3 v, float roughness);
  /// What comes back of light from everywhere, 0..1.
  float albedo() const { return albedo_; }
  /// The share of `albedo` that goes to a direction, over solid angle: also how densely `draw` draws it.
  float density(Vec3 l) const;
  Vec3 draw(float r1, float r2) const;

 private:
  Frame frame_;  // its x towards the eye
  float albedo_, a_, b_;
};

}  // namespace loom
