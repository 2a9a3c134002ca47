#include "core/surface/mesh_body.h"

#include <cmath>

namespace loom {

MeshBody::MeshBody(std::shared_ptr<const MeshShape> mesh, Worn worn, float tile_metres)
    : mesh_(std::move(mesh)),
      worn_(std::move(worn)),
      per_tile_(tile_metres / mesh_->tile_metres()),
      away_(2e-5f * mesh_->radius()),
      opaque_(!worn_.any([](const SurfaceMaps& m) { return !m.is_opaque(); })) {
  for (const std::string& name : mesh_->mesh().parts) part_keys_.push_back(part_key(name));
}

std::optional<MeshShape::Met> MeshBody::met(const Ray& ray, float chance) const {
  constexpr int kMostLayers = 64;
  float from = 0;
  for (int layer = 0; layer < kMostLayers; ++layer) {
    const auto met = mesh_->first(ray, from);
    if (!met || opaque_) return met;
    const auto tile = mesh_->place(*met).tile;
    if (worn_.at(part_of(*met)).opacity(tile[0] / per_tile_, tile[1] / per_tile_) > chance) return met;
    from = met->t + 0.1f * away_;
  }
  return {};
}

Body::Hit MeshBody::hit_at(const Ray& ray, const MeshShape::Met& met) const {
  const MeshShape::Place place = mesh_->place(met);
  Hit hit{};
  hit.t = met.t;
  hit.place = ray.at(met.t);
  hit.at = {place.tile[0] / per_tile_, place.tile[1] / per_tile_, 0};
  // Seen from behind it is a thin sheet: the other way round, so that its normals stay those of its front.
  hit.inside = dot(place.flat, ray.towards) > 0;
  const float side = hit.inside ? -1.0f : 1.0f;
  hit.facet = place.flat * side;
  hit.frame = {place.normal * side, place.along_u * (side * per_tile_), place.along_v * per_tile_};
  hit.tile = std::sqrt(std::max(length(cross(hit.frame.along_u, hit.frame.along_v)), 1e-12f));
  hit.part = part_of(met);
  hit.part_key = part_keys_[hit.part];
  hit.triangle = met.triangle, hit.b = met.b, hit.c = met.c;
  return hit;
}

std::optional<Body::Hit> MeshBody::first(const Ray& ray, Width, float chance) const {
  if (const auto found = met(ray, chance)) return hit_at(ray, *found);
  return {};
}

bool MeshBody::blocks(const Ray& ray, Width, float chance) const {
  return opaque_ ? mesh_->meets(ray, 0) : met(ray, chance).has_value();
}

Body::Start MeshBody::off(const Hit& hit) const { return {hit.place + hit.facet * away_, hit.at}; }

}  // namespace loom
