// A mesh from the pieces that a file has.
#pragma once
#include <map>
#include <string>
#include <vector>

#include "core/io/mesh.h"

namespace loom {

/// Triangles of one part with corners of their own.
struct MeshPiece {
  std::string part;                        ///< empty: it has no name
  std::vector<Vec3> position, normal;      ///< metres; normals: as many, or none
  std::vector<std::array<float, 2>> tile;  ///< as many, v runs down; or none
  std::vector<MeshAttribute> attributes;   ///< as many numbers each
  std::vector<std::array<std::uint32_t, 3>> triangle;
};

/// Trusts no number: triangles that are none are dropped and told.
class MeshBuilder {
 public:
  void add(const MeshPiece& piece);
  /// Error   no triangles, or more than can be taken.
  Result<Mesh> finished(const std::string& name);

 private:
  void add_corners(const MeshPiece& piece);
  void add_attributes(const MeshPiece& piece, std::size_t first);
  void add_triangle(std::array<std::uint32_t, 3> corner, std::uint16_t part);
  std::uint16_t part_named(const std::string& name);

  Mesh mesh_;
  std::map<std::string, std::uint16_t> parts_;
  std::size_t offered_ = 0, dropped_ = 0;  // triangles
  bool bare_ = false, crowded_ = false;    // a piece without tile coordinates; attributes left out
};

}  // namespace loom
