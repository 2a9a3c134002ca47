// Rounds and boxes in quads. Their sizes are those of core/surface/shapes.
#include "core/surface/shape_mesh.h"

#include <array>
#include <functional>
#include <mutex>

#include "core/surface/shapes/shapes.h"

namespace loom {
namespace {

// Quads over a sheet of places that face outwards where `u` runs to the right and `v` down.
void add_sheet(Mesh& m, int across, int down, const std::function<Vec3(float u, float v)>& place) {
  const auto first = static_cast<std::uint32_t>(m.position.size());
  for (int j = 0; j <= down; ++j)
    for (int i = 0; i <= across; ++i)
      m.position.push_back(
          place(static_cast<float>(i) / static_cast<float>(across), static_cast<float>(j) / static_cast<float>(down)));
  const auto corner = [&](int i, int j) { return first + static_cast<std::uint32_t>(j * (across + 1) + i); };
  const auto add = [&](std::uint32_t a, std::uint32_t b, std::uint32_t c) {
    const Vec3 area = cross(m.position[b] - m.position[a], m.position[c] - m.position[a]);
    if (dot(area, area) > 1e-16f) m.triangle.push_back({a, b, c}), m.part_of.push_back(0);
  };
  for (int j = 0; j < down; ++j)
    for (int i = 0; i < across; ++i) {
      add(corner(i, j), corner(i, j + 1), corner(i + 1, j));
      add(corner(i + 1, j), corner(i, j + 1), corner(i + 1, j + 1));
    }
}

// Round the upright axis; `profile` gives the distance from it and the height, from above on its outside downwards.
void add_round(Mesh& m, int around, int down, const std::function<std::array<float, 2>(float v)>& profile) {
  add_sheet(m, around, down, [&](float u, float v) {
    const auto [r, y] = profile(v);
    return Vec3{r * std::sin(2 * kPi * u), y, r * std::cos(2 * kPi * u)};
  });
}

void add_ball(Mesh& m, Vec3 middle, float radius, float share) {
  add_round(m, 128, 64, [&](float v) {
    const float a = kPi * v * share;
    return std::array{radius * std::sin(a), middle.y + radius * std::cos(a)};
  });
}

// A disc that faces up or down.
void add_lid(Mesh& m, float radius, float y, bool up) {
  add_round(m, 128, 1, [&](float v) { return std::array{radius * (up ? v : 1 - v), y}; });
}

// Flat between its edges, which are round.
void add_block(Mesh& m, Vec3 core, float round) {
  constexpr int kSteps = 6;
  for (int face = 0; face < 6; ++face) {
    const float side = face % 2 ? -1.0f : 1.0f;
    const auto of = [&](Vec3 v) {  // this side's own axes: x and y along it, z outwards
      const Vec3 flipped{v.x * side, v.y, v.z * side};
      return face / 2 == 0   ? flipped
             : face / 2 == 1 ? Vec3{flipped.y, flipped.z, flipped.x}
                             : Vec3{flipped.z, flipped.x, flipped.y};
    };
    // A step of the sheet: along the rounding, across the flat, along the rounding.
    const auto at = [&](float share) {
      const float step = share * (2 * kSteps + 1);
      const float bend = step <= kSteps ? step - kSteps : step - kSteps - 1;
      return std::array{step <= kSteps ? -1.0f : 1.0f, std::tan(kPi / 4 * bend / kSteps)};
    };
    add_sheet(m, 2 * kSteps + 1, 2 * kSteps + 1, [&](float u, float v) {
      const auto x = at(u), y = at(1 - v);
      const Vec3 out = normalised({x[1], y[1], 1});
      return of(Vec3{x[0], y[0], 1} * core + out * round);
    });
  }
}

Mesh mesh_of(ShapeName name) {
  Mesh m;
  m.parts = {"whole"};
  switch (name) {
    case ShapeName::tile:
      add_sheet(m, 1, 1, [](float u, float v) { return Vec3{u - 0.5f, 0, v - 0.5f}; });
      break;
    case ShapeName::ball:
      add_ball(m, {}, 0.5f, 1);
      break;
    case ShapeName::pipe:
      add_lid(m, 0.3f, 0.5f, true);
      add_round(m, 128, 1, [](float v) { return std::array{0.3f, 0.5f - v}; });
      add_lid(m, 0.3f, -0.5f, false);
      break;
    case ShapeName::ring:
      add_round(m, 192, 96, [](float v) {
        return std::array{0.34f - 0.15f * std::cos(2 * kPi * v), 0.15f * std::sin(2 * kPi * v)};
      });
      break;
    case ShapeName::block:
      add_block(m, {0.34f, 0.34f, 0.34f}, 0.06f);
      break;
    case ShapeName::cupola:
      add_ball(m, {0, -0.25f, 0}, 0.5f, 0.5f);
      add_lid(m, 0.5f, -0.25f, false);
      break;
  }
  m.normal.resize(m.position.size(), {0, 1, 0});
  return m;
}

}  // namespace

std::shared_ptr<const MeshShape> shape_mesh(ShapeName name) {
  static std::mutex mutex;
  static std::array<std::shared_ptr<const MeshShape>, 6> made;
  const std::lock_guard lock(mutex);
  auto& mesh = made[static_cast<std::size_t>(name)];
  if (!mesh) mesh = std::make_shared<MeshShape>(mesh_of(name));
  return mesh;
}

Charts tile_coordinates(const Shape& shape, const Mesh& mesh) {
  Charts charts;
  for (const auto& triangle : mesh.triangle) {
    const Vec3 a = mesh.position[triangle[0]], b = mesh.position[triangle[1]], c = mesh.position[triangle[2]];
    const Vec3 middle = (a + b + c) * (1 / 3.0f), out = normalised(cross(b - a, c - a));
    const bool flat_side = dot(out, shape.frame(middle).normal) < 0.5f;
    const auto place = [&](Vec3 p) { return flat_side ? shape.side_place(p, out) : shape.place(p); };
    const ShellPlace about = place(middle);
    Charts::Corners corners;
    for (std::size_t i = 0; i < 3; ++i) {
      // A little within: at a pole, and where two charts meet, a corner alone does not know whose it is.
      const Vec3 corner = mesh.position[triangle[i]];
      const ShellPlace at = place(corner + (middle - corner) * 1e-3f);
      corners[i] = {nearest_round(at.u, about.u, shape.round_u()), nearest_round(at.v, about.v, shape.round_v())};
    }
    charts.of.push_back(corners);
  }
  return charts;
}

}  // namespace loom
