#include "core/io/mesh_builder.h"

#include <algorithm>
#include <cmath>

namespace loom {
namespace {

constexpr std::size_t kMostAttributes = 16, kMostAttributeCorners = std::size_t{16} << 20;

bool all_finite(Vec3 v) { return std::isfinite(v.x) && std::isfinite(v.y) && std::isfinite(v.z); }

// A number is repeated, so that it can be read as a vector and as a grey; what has no fourth has 1 there.
std::array<float, 4> as_four(std::array<float, 4> v, std::size_t numbers) {
  for (float& x : v)
    if (!std::isfinite(x)) x = 0;
  if (numbers == 1) v[1] = v[2] = v[0];
  if (numbers == 2) v[2] = 0;
  if (numbers < 4) v[3] = 1;
  return v;
}

}  // namespace

void MeshBuilder::add(const MeshPiece& piece) {
  offered_ += piece.triangle.size();
  if (offered_ > kMostTriangles) return;  // refused in the end
  const auto first = static_cast<std::uint32_t>(mesh_.position.size());
  add_corners(piece);
  const std::uint16_t part = part_named(piece.part);
  for (auto corner : piece.triangle) {
    const bool within =
        std::all_of(corner.begin(), corner.end(), [&](std::uint32_t c) { return c < piece.position.size(); });
    for (std::uint32_t& c : corner) c += first;
    if (within)
      add_triangle(corner, part);
    else
      ++dropped_;
  }
}

void MeshBuilder::add_corners(const MeshPiece& piece) {
  const std::size_t first = mesh_.position.size();
  mesh_.position.insert(mesh_.position.end(), piece.position.begin(), piece.position.end());
  mesh_.normal.resize(mesh_.position.size());
  for (std::size_t i = 0; i < piece.normal.size(); ++i)
    if (const Vec3 n = normalised(piece.normal[i]); all_finite(n)) mesh_.normal[first + i] = n;
  bare_ |= piece.tile.empty();
  if (!piece.tile.empty() || !mesh_.tile.empty()) mesh_.tile.resize(mesh_.position.size());
  for (std::size_t i = 0; i < piece.tile.size(); ++i)
    if (const auto& t = piece.tile[i]; std::isfinite(t[0]) && std::isfinite(t[1])) mesh_.tile[first + i] = t;
  add_attributes(piece, first);
}

void MeshBuilder::add_attributes(const MeshPiece& piece, std::size_t first) {
  const std::size_t corners = mesh_.position.size();
  for (const MeshAttribute& a : piece.attributes) {
    const auto known = std::find_if(mesh_.attributes.begin(), mesh_.attributes.end(),
                                    [&](const MeshAttribute& other) { return other.name == a.name; });
    const bool fresh = known == mesh_.attributes.end();
    if (fresh && mesh_.attributes.size() == kMostAttributes) {
      crowded_ = true;
      continue;
    }
    MeshAttribute& to = fresh ? mesh_.attributes.emplace_back() : *known;
    to.name = a.name;
    to.numbers = std::max(to.numbers, a.numbers);
    to.at.resize(corners);
    to.given.resize(corners);
    for (std::size_t i = 0; i < a.at.size(); ++i)
      to.at[first + i] = as_four(a.at[i], a.numbers), to.given[first + i] = 1;
  }
  for (; mesh_.attributes.size() * corners > kMostAttributeCorners; mesh_.attributes.pop_back()) crowded_ = true;
}

void MeshBuilder::add_triangle(std::array<std::uint32_t, 3> corner, std::uint16_t part) {
  const Vec3 a = mesh_.position[corner[0]], b = mesh_.position[corner[1]], c = mesh_.position[corner[2]];
  const Vec3 area = cross(b - a, c - a), flat = normalised(area);
  if (!all_finite(a) || !(dot(area, area) > 0) || !all_finite(flat)) return void(++dropped_);
  for (const std::uint32_t i : corner)
    if (!(dot(mesh_.normal[i], mesh_.normal[i]) > 0.5f)) mesh_.normal[i] = flat;
  mesh_.triangle.push_back(corner);
  mesh_.part_of.push_back(part);
}

std::uint16_t MeshBuilder::part_named(const std::string& name) {
  const std::string known_as = name.empty() ? "whole" : name;
  const auto [it, fresh] = parts_.emplace(known_as, static_cast<std::uint16_t>(mesh_.parts.size()));
  if (fresh) mesh_.parts.push_back(known_as);
  return it->second;
}

Result<Mesh> MeshBuilder::finished(const std::string& name) {
  if (offered_ > kMostTriangles)
    return Error{name, "has " + std::to_string(offered_) + " triangles; the most is " + std::to_string(kMostTriangles),
                 "Reduce it first"};
  if (mesh_.triangle.empty()) return Error{name, "holds no triangles that can be seen", "Export the mesh anew"};
  const std::size_t corners = mesh_.position.size();
  for (MeshAttribute& a : mesh_.attributes) a.at.resize(corners), a.given.resize(corners);
  if (!mesh_.tile.empty()) mesh_.tile.resize(corners);
  if (dropped_)
    mesh_.notes.push_back(std::to_string(dropped_) +
                          " triangles without area or with numbers that are none were left out");
  if (!mesh_.tile.empty() && bare_)
    mesh_.notes.emplace_back("a part has no tile coordinates, others have: it lies at 0, 0");
  if (crowded_) mesh_.notes.emplace_back("it carries more colours and numbers than can be taken: some were left out");
  return std::move(mesh_);
}

}  // namespace loom
