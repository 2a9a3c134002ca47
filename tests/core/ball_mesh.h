// A ball of triangles, as the built-in one: what tests of meshes share.
#pragma once
#include <cmath>

#include "core/io/mesh.h"

namespace loom::test {

/// Half a metre in radius, of `around` x `around / 2` quads, closed where it goes round; four tiles round, two down.
/// Its eastern half is a part of its own.
inline Mesh ball_mesh(int around) {
  Mesh m;
  m.parts = {"west", "east"};
  const int down = around / 2;
  for (int j = 0; j <= down; ++j)
    for (int i = 0; i <= around; ++i) {
      const float u = static_cast<float>(i) / static_cast<float>(around),
                  v = static_cast<float>(j) / static_cast<float>(down);
      const float turn = 2 * kPi * static_cast<float>(i % around) / static_cast<float>(around),
                  across = j == 0 || j == down ? 0 : std::sin(v * kPi);
      const Vec3 n{across * std::sin(turn), std::cos(v * kPi), across * std::cos(turn)};
      m.position.push_back(n * 0.5f);
      m.normal.push_back(n);
      m.tile.push_back({4 * u, 2 * v});
    }
  const auto corner = [&](int i, int j) { return static_cast<std::uint32_t>(j * (around + 1) + i); };
  for (int j = 0; j < down; ++j)
    for (int i = 0; i < around; ++i) {
      const std::uint16_t part = i < around / 2 ? 1 : 0;
      if (j > 0) m.triangle.push_back({corner(i, j), corner(i, j + 1), corner(i + 1, j)}), m.part_of.push_back(part);
      if (j + 1 < down)
        m.triangle.push_back({corner(i + 1, j), corner(i, j + 1), corner(i + 1, j + 1)}), m.part_of.push_back(part);
    }
  return m;
}

}  // namespace loom::test
