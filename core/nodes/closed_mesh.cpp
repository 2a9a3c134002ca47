#include "core/nodes/closed_mesh.h"

#include <cmath>

#include "core/io/mesh.h"
#include "core/nodes/recent_files.h"

namespace loom {
namespace {

using FieldPtr = std::shared_ptr<const SolidField>;

// A post turned about its upright axis: a wide foot, a shaft and a knob.
FieldPtr mooring_post() {
  constexpr std::array<std::array<float, 2>, 9> kProfile{{{0.14f, -0.4f},
                                                          {0.14f, -0.35f},
                                                          {0.1f, -0.31f},
                                                          {0.08f, 0.1f},
                                                          {0.13f, 0.19f},
                                                          {0.15f, 0.27f},
                                                          {0.13f, 0.34f},
                                                          {0.07f, 0.39f},
                                                          {0.02f, 0.4f}}};
  constexpr std::uint32_t kRound = 32, kRings = kProfile.size();
  std::vector<Vec3> corner;
  for (const auto& [radius, height] : kProfile)
    for (std::uint32_t i = 0; i < kRound; ++i) {
      const float a = 2 * kPi * static_cast<float>(i) / kRound;
      corner.push_back({radius * std::cos(a), height, radius * std::sin(a)});
    }
  corner.push_back({0, kProfile.front()[1], 0});
  corner.push_back({0, kProfile.back()[1], 0});
  std::vector<std::array<std::uint32_t, 3>> triangle;
  for (std::uint32_t i = 0; i < kRound; ++i) {
    const std::uint32_t next = (i + 1) % kRound, top = (kRings - 1) * kRound;
    for (std::uint32_t ring = 0; ring + 1 < kRings; ++ring) {
      const std::uint32_t a = ring * kRound + i, b = ring * kRound + next, c = a + kRound, d = b + kRound;
      triangle.push_back({a, c, b});
      triangle.push_back({b, c, d});
    }
    triangle.push_back({kRings * kRound, i, next});
    triangle.push_back({kRings * kRound + 1, top + next, top + i});
  }
  return *solid_field(corner, triangle, Stop{});
}

Result<FieldPtr> body_of(const FileBytes& file, const Stop& stop) {
  static RecentFiles<SolidField> all;
  return all.made(file.key, [&]() -> Result<FieldPtr> {
    const auto mesh = read_mesh(file.name, *file.bytes);
    if (!mesh) return mesh.error();
    auto field = solid_field(mesh->position, mesh->triangle, stop);
    if (field) return field;
    Error fault = field.error();
    fault.where = file.name;
    return fault;
  });
}

}  // namespace

FieldPtr closed_mesh(Emitter& e, std::string_view parameter) {
  const auto* const file = e.file(parameter);
  if (!file) {
    static const FieldPtr kPost = mooring_post();
    return kPost;
  }
  const auto body = *file ? body_of(**file, e.stop) : Result<FieldPtr>(file->error());
  if (body) return *body;
  e.fault = body.error();
  return nullptr;
}

}  // namespace loom
