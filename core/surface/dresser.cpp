#include "core/surface/dresser.h"

namespace loom {

StripFiller::StripFiller(std::span<const MeshMeasure> measures, std::shared_ptr<const MeasuredMesh> measured,
                         std::shared_ptr<const MeshShape> mesh, Vec3 light)
    : measures_(measures.begin(), measures.end()),
      measured_(std::move(measured)),
      mesh_(std::move(mesh)),
      light_(light) {
  for (const MeshMeasure& what : measures_) {
    known_.push_back(measured_ ? measured_->find(what) : nullptr);
    carried_.push_back(mesh_ && !what.needs_rays() ? mesh_->carried(what.name_of_carried) : nullptr);
    numbers_ += what.numbers();
  }
}

SurfaceStrip StripFiller::empty() const {
  SurfaceStrip strip;
  strip.measured.resize(numbers_);
  return strip;
}

void StripFiller::add(SurfaceStrip& strip, const Body::Hit& hit, Vec3 view, float footprint) const {
  set_measures(strip, hit);
  const std::size_t point = strip.count++;
  strip.set(point, SurfaceValue::place, {hit.at.u, hit.at.v, footprint});
  strip.set(point, SurfaceValue::position, hit.place);
  strip.set(point, SurfaceValue::normal, shape_normal(hit));
  strip.set(point, SurfaceValue::view, view);
  strip.set(point, SurfaceValue::light, light_);
  strip.set(point, SurfaceValue::along_u, hit.frame.along_u);
  strip.set(point, SurfaceValue::along_v, hit.frame.along_v);
  strip.set(point, SurfaceValue::part, {hit.part_key, static_cast<float>(hit.part), 0});
}

// Where a place of a shape lies on the mesh that was measured.
std::optional<MeshShape::Met> StripFiller::on_measured(const Body::Hit& hit) const {
  if (mesh_) return MeshShape::Met{hit.t, hit.triangle, hit.b, hit.c};
  const Vec3 n = shape_normal(hit);
  const float away = 0.05f * measured_->mesh->radius();
  return measured_->mesh->first({hit.place + n * away, n * -1}, 0);
}

void StripFiller::set_measures(SurfaceStrip& strip, const Body::Hit& hit) const {
  const auto on = measures_.empty() || !measured_ ? std::nullopt : on_measured(hit);
  const float side = hit.inside ? -1.0f : 1.0f;  // the far side of a sheet looks the other way
  std::size_t to = 0;
  for (std::size_t m = 0; m < measures_.size(); ++m) {
    const std::size_t numbers = measures_[m].numbers();
    const auto found = carried_[m]       ? mesh_->carried(*carried_[m], hit.triangle, hit.b, hit.c)
                       : on && known_[m] ? known_[m]->at(on->triangle, on->b, on->c)
                                         : unmeasured(measures_[m], hit.frame.normal * side);
    for (std::size_t i = 0; i < numbers; ++i, ++to)
      strip.measured[to][strip.count] =
          measures_[m].ends_in_a_direction() && i + 3 >= numbers ? found[i] * side : found[i];
  }
}

Dresser::Dresser(Worn worn, std::shared_ptr<const MeasuredMesh> measured, std::shared_ptr<const MeshShape> mesh,
                 Vec3 light)
    : worn_(std::move(worn)) {
  worn_.each([&](const SurfaceMaps& maps) {
    const auto known = [&](const Asking& other) { return other.maps == &maps; };
    if (!maps.depends_on_shape() || std::any_of(asking_.begin(), asking_.end(), known)) return;
    asking_.push_back({&maps, StripFiller(maps.measures(), measured, mesh, light)});
  });
}

void Dresser::dress(std::span<const Place> places) const {
  for (const Place& p : places) *p.to = worn_.at(p.hit->part).read(p.hit->at.u, p.hit->at.v, p.footprint);
  for (const Asking& material : asking_) shade(material, places);
}

// The places that wear this material.
void Dresser::shade(const Asking& material, std::span<const Place> places) const {
  std::array<SurfaceMaps::Point*, SurfaceStrip::kLongest> points;
  SurfaceStrip strip = material.filler.empty();
  for (const Place& p : places) {
    if (&worn_.at(p.hit->part) != material.maps) continue;
    points[strip.count] = p.to;
    material.filler.add(strip, *p.hit, p.view, p.footprint);
  }
  if (strip.count) material.maps->shade(strip, {points.data(), strip.count});
}

}  // namespace loom
