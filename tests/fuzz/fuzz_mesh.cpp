// Any bytes as a mesh of any format: refused in words, or triangles that rays can be sent through.
#include <array>
#include <cstdlib>
#include <filesystem>
#include <fstream>

#include "core/surface/mesh_shape.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  static constexpr std::array kEndings{".obj", ".ply", ".gltf", ".glb"};
  if (size == 0) return 0;
  static const auto kFolder = [] {
    auto folder = std::filesystem::temp_directory_path() / ("wildloom_fuzz_mesh_" + std::to_string(getpid()));
    std::filesystem::create_directories(folder);
    return folder;
  }();
  const auto path = kFolder / (std::string("m") + kEndings[data[0] % kEndings.size()]);
  std::ofstream(path, std::ios::binary).write(reinterpret_cast<const char*>(data) + 1, static_cast<long>(size) - 1);
  auto mesh = loom::read_mesh(path);
  if (!mesh) return mesh.error().what.empty() ? std::abort(), 0 : 0;
  if (mesh->triangle.empty() || mesh->part_of.size() != mesh->triangle.size()) std::abort();
  const loom::MeshShape shape(std::move(*mesh));
  if (const auto met = shape.first({shape.middle() + loom::Vec3{0, 0, 3 * shape.radius()}, {0, 0, -1}}, 0))
    if (!(std::abs(length(shape.place(*met).normal) - 1) < 0.01f)) std::abort();
  return 0;
}
