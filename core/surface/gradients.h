// How tile coordinates change over a shape.
#pragma once
#include "core/surface/shape.h"

namespace loom {

/// The gradients of u and v on the shape: what the tangents are the other side of.
struct Gradients {
  Vec3 u, v;
  explicit Gradients(const ShellFrame& f) {
    const Vec3 a = cross(f.along_v, f.normal), b = cross(f.normal, f.along_u);
    u = a * (1 / dot(f.along_u, a));
    v = b * (1 / dot(f.along_v, b));
  }
};

}  // namespace loom
