#include "core/bolt/documents.h"

#include <algorithm>

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

Result<Done> write_documents(const Material& material, const DeliveryPlan& plan, const ShownOn& on,
                             DeliveryReport& report) {
  if (plan.gltf || plan.glb)
    if (const auto done = write_gltf(material, plan, on, report); !done) return done;
  if (plan.materialx)
    if (const auto done = write_materialx(material, plan, report); !done) return done;
  return Done{};
}

}  // namespace loom
