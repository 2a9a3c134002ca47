#include "core/surface/dresser.h"

namespace loom {

Dresser::Dresser(Worn worn, std::shared_ptr<const MeasuredMesh> measured, bool is_mesh, Vec3 light)
    : worn_(std::move(worn)), measured_(std::move(measured)), is_mesh_(is_mesh), light_(light) {
  worn_.each([&](const SurfaceMaps& maps) {
    const auto known = [&](const Asking& other) { return other.maps == &maps; };
    if (!maps.depends_on_shape() || std::any_of(asking_.begin(), asking_.end(), known)) return;
    Asking material{&maps, {}, 0};
    for (const MeshMeasure& what : maps.measures()) {
      material.known.push_back(measured_ ? measured_->find(what) : nullptr);
      material.numbers += what.numbers();
    }
    asking_.push_back(std::move(material));
  });
}

void Dresser::dress(std::span<const Place> places) const {
  for (const Place& p : places) *p.to = worn_.at(p.hit->part).read(p.hit->at.u, p.hit->at.v, p.footprint);
  for (const Asking& material : asking_) shade(material, places);
}

// The places that wear this material.
void Dresser::shade(const Asking& material, std::span<const Place> places) const {
  std::array<SurfaceMaps::Point*, SurfaceStrip::kLongest> points;
  SurfaceStrip strip;
  strip.measured.resize(material.numbers);
  for (const Place& p : places) {
    if (&worn_.at(p.hit->part) != material.maps) continue;
    points[strip.count] = p.to;
    set_measures(strip, material, *p.hit);
    set_surface(strip, p);
  }
  if (strip.count) material.maps->shade(strip, {points.data(), strip.count});
}

void Dresser::set_surface(SurfaceStrip& strip, const Place& place) const {
  const Body::Hit& hit = *place.hit;
  const std::size_t point = strip.count++;
  strip.set(point, SurfaceValue::place, {hit.at.u, hit.at.v, place.footprint});
  strip.set(point, SurfaceValue::position, hit.place);
  strip.set(point, SurfaceValue::normal, shape_normal(hit));
  strip.set(point, SurfaceValue::view, place.view);
  strip.set(point, SurfaceValue::light, light_);
  strip.set(point, SurfaceValue::along_u, hit.frame.along_u);
  strip.set(point, SurfaceValue::along_v, hit.frame.along_v);
  strip.set(point, SurfaceValue::part, {hit.part_key, static_cast<float>(hit.part), 0});
}

// Where a place of a shape lies on the mesh that was measured.
std::optional<MeshShape::Met> Dresser::on_measured(const Body::Hit& hit) const {
  if (is_mesh_) return MeshShape::Met{hit.t, hit.triangle, hit.b, hit.c};
  const Vec3 n = shape_normal(hit);
  const float away = 0.05f * measured_->mesh->radius();
  return measured_->mesh->first({hit.place + n * away, n * -1}, 0);
}

void Dresser::set_measures(SurfaceStrip& strip, const Asking& material, const Body::Hit& hit) const {
  const auto measures = material.maps->measures();
  const auto on = measures.empty() || !measured_ ? std::nullopt : on_measured(hit);
  const float side = hit.inside ? -1.0f : 1.0f;  // the far side of a sheet looks the other way
  std::size_t to = 0;
  for (std::size_t m = 0; m < measures.size(); ++m) {
    const std::size_t numbers = measures[m].numbers();
    const auto found = on && material.known[m] ? material.known[m]->at(on->triangle, on->b, on->c)
                                               : unmeasured(measures[m], hit.frame.normal * side);
    for (std::size_t i = 0; i < numbers; ++i, ++to)
      strip.measured[to][strip.count] = numbers > 3 && i + 3 >= numbers ? found[i] * side : found[i];
  }
}

}  // namespace loom
