#include "core/surface/mesh_body.h"

#include <cmath>

#include "core/surface/gradients.h"

namespace loom {
namespace {

// A reach of the shell grows by steps of a quarter, so that it is not made anew for every place of a dial.
float stepped(float metres) {
  constexpr float kStep = 1.25f;
  if (metres == 0) return 0;
  return std::copysign(std::pow(kStep, std::ceil(std::log(std::abs(metres)) / std::log(kStep))), metres);
}

}  // namespace

float deepest_relief(const MeshShape& mesh) {
  const auto triangles = static_cast<float>(mesh.mesh().triangle.size());
  return 2 * std::sqrt(2 * mesh.area() / triangles);
}

bool is_too_deep(const MeshShape& mesh, const SurfaceMaps& maps, float tile_metres, float relief_factor) {
  return maps.has_height() && relief_of(maps.extent(), tile_metres) * relief_factor > deepest_relief(mesh);
}

// The reliefs of all parts, as one ray sees them.
class MeshBody::Standing : public MeshShell::Standing {
 public:
  Standing(const MeshBody& body, Width width, float chance) : body_(body), width_(width), chance_(chance) {}

  std::optional<float> meets(std::size_t part, const ReliefField::Stretch& s, float t) const override {
    const Relief& r = body_.relief_[part];
    const float per_tile = 1 / body_.per_tile_, per_depth = 1 / r.depth;
    const int level = width_.level >= 0 ? width_.level : body_.level_for(*r.field, width_.at(t));
    return r.field->meets(
        {s.u0 * per_tile, s.v0 * per_tile, s.h0 * per_depth, s.u1 * per_tile, s.v1 * per_tile, s.h1 * per_depth},
        level);
  }
  bool is_open(std::size_t part, float u, float v) const override {
    return !body_.opaque_ && body_.worn_.at(part).opacity(u / body_.per_tile_, v / body_.per_tile_) <= chance_;
  }

 private:
  const MeshBody& body_;
  Width width_;
  float chance_;
};

MeshBody::MeshBody(std::shared_ptr<const MeshShape> mesh, Worn worn, float tile_metres, float relief_factor)
    : mesh_(std::move(mesh)),
      worn_(std::move(worn)),
      per_tile_(tile_metres / mesh_->tile_metres()),
      away_(2e-5f * mesh_->radius()),
      opaque_(!worn_.any([](const SurfaceMaps& m) { return !m.is_opaque(); })) {
  for (const std::string& name : mesh_->mesh().parts) part_keys_.push_back(part_key(name));
  relief_.resize(std::max<std::size_t>(part_keys_.size(), 1));
  if (!(relief_factor > 0)) return;
  // What reaches further than a part of the mesh is thick has no place in its shell.
  const float most = 0.2f * mesh_->radius();
  for (std::size_t part = 0; part < relief_.size(); ++part) {
    const SurfaceMaps& maps = worn_.at(part);
    const ReliefField* const field = is_too_deep(*mesh_, maps, tile_metres, relief_factor) ? nullptr : maps.relief();
    if (!field) continue;
    const float depth = relief_of(maps.extent(), tile_metres) * relief_factor;
    const float low = std::max(stepped(std::min(field->lowest(), 0.0f) * depth), -most),
                high = std::clamp(stepped((field->highest() + 1e-4f) * depth), -most, most);
    relief_[part] = {field, depth, {low, std::max(high, low + 1e-6f)}};
    has_relief_ = true;
  }
}

const MeshShell& MeshBody::shell() const {
  std::call_once(shell_made_, [this] {
    std::vector<MeshShell::Reach> reach;
    for (const Relief& r : relief_) reach.push_back(r.reach);
    shell_ = mesh_->shell(reach);
  });
  return *shell_;
}

int MeshBody::level_for(const ReliefField& field, float width) const {
  const float texels = width / (per_tile_ * mesh_->tile_metres()) * static_cast<float>(field.size());
  return texels > 1 ? std::min(std::ilogb(texels), field.levels() - 1) : 0;
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

namespace {

// Seen from its other side.
Body::Hit turned_over(Body::Hit hit) {
  hit.inside = !hit.inside;
  hit.facet = hit.facet * -1;
  hit.frame.normal = hit.frame.normal * -1;
  hit.frame.along_u = hit.frame.along_u * -1;
  return hit;
}

}  // namespace

Body::Hit MeshBody::hit_in_shell(const Ray& ray, Width width, const MeshShell::Met& met) const {
  Hit hit = hit_at(ray, met.at);
  const Relief& r = relief_[hit.part];
  if (!r.field) return hit;
  hit.at.height = met.height;
  hit.level = width.level >= 0 ? width.level : level_for(*r.field, width.at(hit.t));
  if (hit.inside && !met.from_below) hit = turned_over(hit);  // a wall of the relief that is steeper than the ray
  if (dot(met.side, met.side) > 0) {
    hit.facet = met.side;
    hit.flat_side = true;
  } else if (!met.from_below) {
    const ReliefField::Ground ground = r.field->ground(hit.at.u, hit.at.v, hit.level);
    const Gradients g(hit.frame);
    hit.facet = normalised(hit.facet - g.u * (ground.along_u * r.depth) - g.v * (ground.along_v * r.depth));
  }
  return hit;
}

std::optional<Body::Hit> MeshBody::first(const Ray& ray, Width width, float chance) const {
  if (has_relief_) {
    const auto met = shell().first(ray, Standing(*this, width, chance));
    if (!met) return {};
    return hit_in_shell(ray, width, *met);
  }
  if (const auto found = met(ray, chance)) return hit_at(ray, *found);
  return {};
}

bool MeshBody::blocks(const Ray& ray, Width width, float chance) const {
  if (has_relief_) return shell().meets(ray, Standing(*this, width, chance));
  return opaque_ ? mesh_->meets(ray, 0) : met(ray, chance).has_value();
}

Body::Start MeshBody::off(const Hit& hit) const {
  const Relief& r = relief_[hit.part];
  if (!r.field || hit.inside || hit.flat_side) return {hit.place + hit.facet * away_, hit.at};
  return {hit.place + hit.frame.normal * (away_ + 2e-3f * r.depth), hit.at};
}

}  // namespace loom
