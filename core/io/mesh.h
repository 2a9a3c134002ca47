// Triangle meshes from files: OBJ, PLY, glTF 2.0 and GLB.
#pragma once
#include <array>
#include <cstdint>
#include <filesystem>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/error.h"
#include "core/base/vec3.h"

namespace loom {

/// What a file says of its corners beside place, normal and tile coordinates: colours, further coordinates, numbers of
/// its own.
struct MeshAttribute {
  std::string name;                      ///< COLOR_0, TEXCOORD_1 or what the file calls its own
  std::size_t numbers = 1;               ///< how many of the four the file has; a single one stands in the first three
  std::vector<std::array<float, 4>> at;  ///< each corner
  std::vector<std::uint8_t> given;       ///< of each corner: 0 where the file has nothing of that name
};

struct Mesh {
  std::vector<Vec3> position;              ///< metres, x right, y up
  std::vector<Vec3> normal;                ///< of length 1, as many: the file's, or smooth up to 60 degrees
  std::vector<std::array<float, 2>> tile;  ///< u and v in tiles, v runs down; empty: the file has none
  std::vector<std::array<std::uint32_t, 3>> triangle;
  std::vector<std::uint16_t> part_of;  ///< of each triangle: its place in `parts`
  std::vector<std::string> parts;      ///< named by the file's materials
  std::vector<MeshAttribute> attributes;
  std::vector<std::string> notes;  ///< what was left out or mended, for the person
};

/// Limits of a mesh from a file.
inline constexpr std::size_t kMostTriangles = 4'000'000, kMostMeshBytes = std::size_t{512} << 20;

/// Reads a mesh and nothing beside it but what lies in its own folder; textures, lights and cameras are left alone.
/// Triangles with numbers that are none, or without area, are dropped and told. OBJ and PLY are multiplied by `scale`;
/// glTF is in metres.   Error  no such file, another ending, damaged, without triangles, beyond the limits.
Result<Mesh> read_mesh(const std::filesystem::path& path, float scale = 1);
/// The same of bytes whose name tells what they are. They are all there is: a glTF that names other files is refused.
Result<Mesh> read_mesh(const std::string& name, std::string_view bytes, float scale = 1);

}  // namespace loom
