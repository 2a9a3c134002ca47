#include "core/nodes/wide_places.h"

namespace loom {
namespace {

constexpr int kTexels = 128;  // of the finest means
// Shares of the tile: between them one fades to the other. No tile has texels so wide: there a mask and its units
// agree.
constexpr float kNarrow = 1.0f / kLeastSize, kWide = 2 * kNarrow;

}  // namespace

std::shared_ptr<const Sampled> means_over_tile(const Pattern& pattern) {
  Builder b(Domain::texels(kTexels));
  b.store(pattern(b, b.u(), b.v(), b.footprint()), 0);
  auto plane = std::make_shared<Plane>(kTexels);
  Plane* const out = plane.get();
  run_texels(b.build(), kTexels, {&out, 1}, Stop{});
  auto means = std::make_shared<Sampled>();
  means->levels = pyramid(std::move(plane), 8);
  return means;
}

bool all_narrow(const Builder& b, Reg footprint) {
  const float* known = b.known(footprint);
  return known && *known <= kNarrow;
}

Reg widened(Builder& b, Reg near, Reg u, Reg v, Reg footprint, const std::shared_ptr<const Sampled>& means) {
  if (all_narrow(b, footprint)) return near;
  const Reg far = b.apply(kSample, {u, v, footprint}, means, 1)[0];
  return b.mix(near, far, b.smoothstep(b.constant(kNarrow), b.constant(kWide), footprint));
}

}  // namespace loom
