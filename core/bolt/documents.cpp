#include "core/bolt/documents.h"

#include <algorithm>

#include "core/surface/shape_mesh.h"

namespace loom {

std::optional<std::array<float, 3>> constant_of(const Material& material, const std::string& slot) {
  if (material.hem.count(slot)) return {};
  const auto typed = material.hem_values.find(slot);
  if (typed != material.hem_values.end()) {
    if (const auto* number = std::get_if<double>(&typed->second)) {
      const auto x = static_cast<float>(*number);
      return std::array{x, x, x};
    }
    if (const auto* v = std::get_if<Vector>(&typed->second); v && v->size() >= 3)
      return std::array{static_cast<float>((*v)[0]), static_cast<float>((*v)[1]), static_cast<float>((*v)[2])};
  }
  const Slot* known = known_slot(slot);
  return known ? std::array{known->fallback[0], known->fallback[1], known->fallback[2]} : std::array{0.0f, 0.0f, 0.0f};
}

const DeliveredFile* find_file(const DeliveryReport& report, const std::string& name) {
  const auto at = std::ranges::find(report.files, name, &DeliveredFile::name);
  return at == report.files.end() ? nullptr : &*at;
}

DeliveryPlan with_document_files(const Material& material, const DeliveryPlan& plan) {
  DeliveryPlan all = plan;
  if (!plan.gltf && !plan.glb) return all;
  for (FileDelivery& file : gltf_files(material, plan))
    if (std::ranges::none_of(all.files, [&](const FileDelivery& f) { return f.on && f.name == file.name; }))
      all.files.push_back(std::move(file));
  return all;
}

namespace {

// On the plan's shape, where it is on no mesh: in true size, so that a tile is as wide on it as the material is.
Result<Done> write_gltf_on(const Material& material, const DeliveryPlan& plan, const ShownOn& on,
                           DeliveryReport& report) {
  const auto name = shape_named(plan.shape);
  if (on.mesh || !name || *name == ShapeName::tile) return write_gltf(material, plan, on, report);
  const auto mesh = shape_mesh(*name);
  const auto shape = Shape::make(*name, static_cast<float>(material.tile_metres));
  const Charts charts = tile_coordinates(*shape, mesh->mesh());
  return write_gltf(material, plan, {&mesh->mesh(), &charts}, report);
}

}  // namespace

Result<Done> write_documents(const Material& material, const DeliveryPlan& plan, const ShownOn& on,
                             DeliveryReport& report) {
  if (plan.gltf || plan.glb)
    if (const auto done = write_gltf_on(material, plan, on, report); !done) return done;
  if (plan.materialx)
    if (const auto done = write_materialx(material, plan, report); !done) return done;
  return Done{};
}

}  // namespace loom
