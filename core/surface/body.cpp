#include "core/surface/body.h"

#include "core/surface/gradients.h"

namespace loom {

Vec3 worn(const Body::Hit& hit, Vec3 normal) {
  const Gradients g(hit.frame);
  return normalised(hit.frame.normal * normal.z + (g.u * normal.x - g.v * normal.y) * hit.tile);
}

}  // namespace loom
