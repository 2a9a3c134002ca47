// Strokes on a shape: what they leave at any place in space, without texels and without coordinates on the shape.
#pragma once
#include <array>
#include <cstdint>
#include <vector>

#include "core/base/vec3.h"
#include "core/plane/stroke.h"
#include "core/program/program.h"

namespace loom {

/// The pieces of strokes in a tree of boxes, halved until few pieces come near each.
struct PaintedSpace : Resource {
  /// Of all strokes those on a shape, in their order; `strands` numbers are painted, 1 or 3.
  PaintedSpace(const Strokes& strokes, std::size_t strands);
  std::size_t bytes() const override;

  /// A straight piece of a stroke.
  struct Piece {
    Vec3 from, along;
    float per_square;    ///< 1 over the square of `along`, 0 for a point
    float radius, more;  ///< at its beginning, and by how much it grows to its end
    float widest;        ///< of both ends
    float softness;
    Vec3 towards, turn;  ///< the way its surface faced, and by how much that changes to its end
    bool faces;          ///< else it is painted whatever way it faces
    std::uint32_t coat;
  };
  /// What a stroke leaves.
  struct Coat {
    float strength;
    bool erase;
    std::array<float, 3> paint;
  };
  /// A box: two halves, or the pieces that come near it, in the order of their strokes.
  struct Cell {
    int axis;             ///< across which it is halved; 3: it is not
    float middle;         ///< along that axis
    std::uint32_t first;  ///< the lower half's cell, the upper one's is behind it; or a place in `near`
    std::uint32_t count;  ///< of pieces
  };
  struct Box {
    std::array<float, 3> low{1, 1, 1}, high{0, 0, 0};
  };
  std::vector<Piece> pieces;
  std::vector<Coat> coats;
  std::vector<Cell> cells;  ///< the first holds all
  std::vector<std::uint32_t> near;
  Box box;  ///< of all

 private:
  void add(const HandStroke& stroke, std::size_t strands);
  void halve(std::size_t cell, const Box& whole, std::vector<std::uint32_t> within, int depth);
};

/// x, y, z, the normal there (3), the width of a sample in metres -> how much is covered, and what was painted, 1 or 3
/// numbers times that. A stroke covers a place as its nearest piece does, by the distance in space, and what faces away
/// from the way that its surface faced is left: so that the far side of a sheet stays as it is, and paint goes round a
/// right-angled edge. Strokes count in their order; an eraser takes away what others on the shape have painted.
extern const Family kPaintedSpace;

}  // namespace loom
