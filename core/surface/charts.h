// Coordinates of a mesh in which every place lies once: for maps that are the mesh's and not the tile's.
#pragma once
#include <array>
#include <cstdint>
#include <vector>

#include "core/base/stop.h"
#include "core/io/mesh.h"

namespace loom {

struct Charts {
  using Corners = std::array<std::array<float, 2>, 3>;
  std::vector<Corners> of;  ///< of each triangle, 0..1; v runs down
  bool own = false;         ///< they are the mesh's own
};

/// How far one unit of the charts leads over a triangle, in metres.
struct ChartFrame {
  Vec3 along_u, along_v;
  float breadth() const { return std::sqrt(length(cross(along_u, along_v))); }
};
ChartFrame chart_frame(const Mesh& mesh, const Charts& charts, std::uint32_t triangle);

/// Texels between the pieces of a map; half of it is theirs to be widened into.
constexpr int chart_margin(int size) { return size < 128 ? 2 : size / 64; }

/// The mesh's own where these lie within 0..1 and no two triangles lie over each other by more than a hundredth of what
/// is covered; else new ones: pieces that face the same way are laid out flat, in one scale, with `margin` texels of a
/// map of `size` between them.
/// Error   cancelled, or so many pieces that they find no room.
Result<Charts> charts_of(const Mesh& mesh, int size, int margin, const Stop& stop);

/// Which place of a mesh each texel of a map shows.
class Atlas {
 public:
  struct Texel {
    static constexpr std::uint32_t kNone = 0xffffffff;
    std::uint32_t triangle = kNone;
    float b = 0, c = 0;  ///< barycentric, of the second and the third corner
  };
  /// Texels within `widen` of a chart show what lies at its border.
  Atlas(const Charts& charts, int size, int widen);
  int size() const { return size_; }
  const Texel& at(int x, int y) const { return texels_[index(x, y)]; }

 private:
  std::size_t index(int x, int y) const {
    return static_cast<std::size_t>(y) * static_cast<std::size_t>(size_) + static_cast<std::size_t>(x);
  }
  void widen(int reach);
  int size_;
  std::vector<Texel> texels_;
};

}  // namespace loom
