#include "core/surface/mesh_shell.h"

#include <algorithm>
#include <cmath>

#include "core/surface/embree.h"
#include "core/surface/neighbours.h"

namespace loom {

struct MeshShell::Scene : EmbreeScene {};

struct MeshShell::Corner {
  Vec3 place;
  float u, v, h, b, c;
};

// Three corners below and the same three above; and its tetrahedra, four of these corners each.
struct MeshShell::Prism {
  std::array<Corner, 6> corner;
  std::array<std::array<std::size_t, 4>, 3> cut;
};

// Where a ray is in a tetrahedron: its four coordinates at t = 0, and what they gain with t.
struct MeshShell::Passage {
  std::array<float, 4> at, gain;
  float from, to;
  int entered;  // the corner that is opposite to the side it came in through; -1: it began within
};

// What a ray is asked for, handed through Embree, and what was found.
struct MeshShell::Asked {
  RTCIntersectContext context;
  const MeshShell* shell;
  const Standing* standing;
  const Ray* ray;
  std::optional<Met> met;
};

namespace {

constexpr float kLongestLean = 2;
constexpr float kOverlap = 1e-5f;  // of a tetrahedron: no ray slips through between two

}  // namespace

MeshShell::MeshShell(const MeshShape& mesh, std::vector<Reach> of_part, const MeshShell* before)
    : mesh_(mesh),
      of_part_(std::move(of_part)),
      fixed_(before ? before->fixed_ : std::make_shared<const Fixed>(mesh)),
      scene_(std::make_unique<Scene>()) {
  of_part_.resize(std::max<std::size_t>(mesh_.mesh().parts.size(), 1));
  scene_->bytes = Booked(mesh_.mesh().triangle.size() * 100);  // as of MeshShape
  build();
}

MeshShell::Fixed::Fixed(const MeshShape& mesh) {
  const Mesh& m = mesh.mesh();
  bytes = Booked(m.position.size() * (sizeof(lean[0]) + sizeof(place_of[0])) +
                 m.triangle.size() * (sizeof(tile[0]) + sizeof(bare[0])));
  place_of = first_in_place(m);
  find_leans(mesh);
  tile.reserve(m.triangle.size());
  for (std::uint32_t t = 0; t < m.triangle.size(); ++t)
    tile.push_back({mesh.place({0, t, 0, 0}).tile, mesh.place({0, t, 1, 0}).tile, mesh.place({0, t, 0, 1}).tile});
  find_bare_sides(m);
}

MeshShell::~MeshShell() = default;

// A corner leans so that its height over each of the faces that meet there is one, as far as that can be: along the
// mean of their normals by their angles, and longer the more they turn away from it.
void MeshShell::Fixed::find_leans(const MeshShape& mesh) {
  const Mesh& m = mesh.mesh();
  std::vector<Vec3> sum(m.position.size());
  std::vector<std::pair<float, float>> slant(m.position.size());  // cosines to the mean by angle, angles
  const auto each = [&](const auto& take) {
    for (std::uint32_t t = 0; t < m.triangle.size(); ++t) {
      const Vec3 flat = mesh.flat(t);
      for (std::size_t k = 0; k < 3; ++k) {
        const Vec3 p = m.position[m.triangle[t][k]], a = normalised(m.position[m.triangle[t][(k + 1) % 3]] - p),
                   b = normalised(m.position[m.triangle[t][(k + 2) % 3]] - p);
        take(place_of[m.triangle[t][k]], flat, std::acos(std::clamp(dot(a, b), -1.0f, 1.0f)));
      }
    }
  };
  each([&](std::uint32_t at, Vec3 flat, float angle) { sum[at] = sum[at] + flat * angle; });
  for (Vec3& s : sum) s = normalised(s);
  each([&](std::uint32_t at, Vec3 flat, float angle) {
    slant[at].first += angle * dot(sum[at], flat), slant[at].second += angle;
  });
  lean.resize(m.position.size());
  for (std::size_t i = 0; i < lean.size(); ++i) {
    const std::uint32_t at = place_of[i];
    const float cosine = slant[at].first / std::max(slant[at].second, 1e-12f);
    lean[i] = sum[at] * std::min(1 / std::max(cosine, 1e-3f), kLongestLean);
  }
}

void MeshShell::Fixed::find_bare_sides(const Mesh& m) {
  const Neighbours neighbours(m);
  // Where a place lies on the tile, as a triangle has it; sides that go on are a whole number of tiles apart at most.
  const auto goes_on = [&](std::uint32_t triangle, std::size_t side, std::uint32_t other) {
    for (const std::size_t k : {side, (side + 1) % 3})
      for (std::size_t n = 0; n < 3; ++n) {
        if (place_of[m.triangle[other][n]] != place_of[m.triangle[triangle][k]]) continue;
        for (std::size_t c = 0; c < 2; ++c)
          if (const float apart = tile[triangle][k][c] - tile[other][n][c]; std::abs(apart - std::round(apart)) > 1e-4f)
            return false;
      }
    return m.part_of[triangle] == m.part_of[other];
  };
  bare.resize(m.triangle.size());
  for (std::uint32_t t = 0; t < bare.size(); ++t)
    for (std::size_t side = 0; side < 3; ++side) {
      const std::uint32_t other = neighbours.of(t)[side];
      bare[t][side] = other == Neighbours::kNone || !goes_on(t, side, other);
    }
}

// By the order of their places, neighbours cut the side that they share along the same diagonal.
MeshShell::Prism MeshShell::prism(std::uint32_t triangle) const {
  const Mesh& m = mesh_.mesh();
  const auto& corner = m.triangle[triangle];
  const Reach& reach = of_part_[m.part_of[triangle]];
  Prism all;
  for (std::size_t k = 0; k < 3; ++k) {
    const std::uint32_t i = corner[k];
    const auto& [u, v] = fixed_->tile[triangle][k];
    const float b = k == 1, c = k == 2;
    all.corner[k] = {m.position[i] + fixed_->lean[i] * reach.low, u, v, reach.low, b, c};
    all.corner[k + 3] = {m.position[i] + fixed_->lean[i] * reach.high, u, v, reach.high, b, c};
  }
  std::array<std::size_t, 3> order{0, 1, 2};
  std::sort(order.begin(), order.end(),
            [&](std::size_t x, std::size_t y) { return fixed_->place_of[corner[x]] < fixed_->place_of[corner[y]]; });
  const auto [i, j, k] = order;
  all.cut = {{{i, j, k, k + 3}, {i, j, j + 3, k + 3}, {i, i + 3, j + 3, k + 3}}};
  return all;
}

// None where the ray passes it by, or the tetrahedron is flat.
std::optional<MeshShell::Passage> MeshShell::passage(const Prism& prism, std::size_t tetrahedron, const Ray& ray,
                                                     float to) {
  const auto& [i, j, k, l] = prism.cut[tetrahedron];
  const Vec3 o = prism.corner[i].place, a = prism.corner[j].place - o, b = prism.corner[k].place - o,
             c = prism.corner[l].place - o;
  const Vec3 bc = cross(b, c), ca = cross(c, a), ab = cross(a, b);
  const float volume = dot(a, bc);
  if (!(std::abs(volume) > 1e-30f)) return {};
  const float by = 1 / volume;
  const Vec3 from = ray.from - o;
  Passage p{};
  p.at = {0, dot(from, bc) * by, dot(from, ca) * by, dot(from, ab) * by};
  p.gain = {0, dot(ray.towards, bc) * by, dot(ray.towards, ca) * by, dot(ray.towards, ab) * by};
  p.at[0] = 1 - p.at[1] - p.at[2] - p.at[3];
  p.gain[0] = -p.gain[1] - p.gain[2] - p.gain[3];
  p.from = 0, p.to = to, p.entered = -1;
  for (std::size_t q = 0; q < 4; ++q) {
    const float at = p.at[q] + kOverlap, gain = p.gain[q];
    if (gain > 0) {
      if (const float t = -at / gain; t > p.from) p.from = t, p.entered = static_cast<int>(q);
    } else if (gain < 0) {
      p.to = std::min(p.to, -at / gain);
    } else if (at < 0) {
      return {};
    }
    if (!(p.from < p.to)) return {};
  }
  return p;
}

MeshShell::Corner MeshShell::at(const Prism& prism, std::size_t tetrahedron, const Passage& way, float t) {
  Corner here{};
  for (std::size_t q = 0; q < 4; ++q) {
    const float share = way.at[q] + way.gain[q] * t;
    const Corner& c = prism.corner[prism.cut[tetrahedron][q]];
    here.u += share * c.u, here.v += share * c.v, here.h += share * c.h;
    here.b += share * c.b, here.c += share * c.c;
  }
  return here;
}

// Of what came in below the relief: from behind, or through a side where nothing goes on.
void MeshShell::tell_entrance(const Prism& prism, std::size_t tetrahedron, int entered, const Ray& ray,
                              Met& met) const {
  std::array<std::size_t, 3> face{};
  std::array<bool, 3> touched{};
  std::size_t count = 0;
  for (std::size_t q = 0; q < 4; ++q) {
    if (static_cast<int>(q) == entered) continue;
    const std::size_t corner = prism.cut[tetrahedron][q];
    face[count++] = corner;
    touched[corner % 3] = true;
  }
  met.from_below = std::all_of(face.begin(), face.end(), [](std::size_t c) { return c < 3; });
  for (std::size_t k = 0; k < 3; ++k) {
    if (touched[k] || !fixed_->bare[met.at.triangle][(k + 1) % 3]) continue;
    const Vec3 o = prism.corner[face[0]].place;
    const Vec3 wall = normalised(cross(prism.corner[face[1]].place - o, prism.corner[face[2]].place - o));
    met.side = dot(wall, ray.towards) > 0 ? wall * -1 : wall;
  }
}

void MeshShell::build() {
  const RTCGeometry geometry = rtcNewGeometry(scene_->device, RTC_GEOMETRY_TYPE_USER);
  rtcSetGeometryUserPrimitiveCount(geometry, static_cast<unsigned>(fixed_->tile.size()));
  rtcSetGeometryUserData(geometry, this);
  rtcSetGeometryBoundsFunction(
      geometry,
      [](const RTCBoundsFunctionArguments* args) {
        const auto& shell = *static_cast<const MeshShell*>(args->geometryUserPtr);
        RTCBounds& to = *args->bounds_o;
        to.lower_x = to.lower_y = to.lower_z = INFINITY;
        to.upper_x = to.upper_y = to.upper_z = -INFINITY;
        for (const Corner& c : shell.prism(args->primID).corner) {
          to.lower_x = std::min(to.lower_x, c.place.x), to.upper_x = std::max(to.upper_x, c.place.x);
          to.lower_y = std::min(to.lower_y, c.place.y), to.upper_y = std::max(to.upper_y, c.place.y);
          to.lower_z = std::min(to.lower_z, c.place.z), to.upper_z = std::max(to.upper_z, c.place.z);
        }
      },
      nullptr);
  rtcSetGeometryIntersectFunction(geometry, [](const RTCIntersectFunctionNArguments* args) {
    if (!args->valid[0]) return;
    auto& asked = *reinterpret_cast<Asked*>(args->context);
    RTCRay& ray = reinterpret_cast<RTCRayHit*>(args->rayhit)->ray;
    const auto met = asked.shell->within(args->primID, *asked.ray, ray.tfar, *asked.standing);
    if (!met) return;
    ray.tfar = met->at.t;
    reinterpret_cast<RTCRayHit*>(args->rayhit)->hit.geomID = args->geomID;
    asked.met = met;
  });
  rtcSetGeometryOccludedFunction(geometry, [](const RTCOccludedFunctionNArguments* args) {
    if (!args->valid[0]) return;
    const auto& asked = *reinterpret_cast<const Asked*>(args->context);
    RTCRay& ray = *reinterpret_cast<RTCRay*>(args->ray);
    if (asked.shell->within(args->primID, *asked.ray, ray.tfar, *asked.standing)) ray.tfar = -INFINITY;
  });
  scene_->hold(geometry);
}

// Source: Moeller and Trumbore, "Fast, Minimum Storage Ray/Triangle Intersection", JGT 2(1), 1997.
std::optional<MeshShell::Met> MeshShell::on_triangle(std::uint32_t triangle, const Ray& ray, float to,
                                                     const Standing& standing) const {
  const Mesh& m = mesh_.mesh();
  const auto& [i, j, k] = m.triangle[triangle];
  const Vec3 a = m.position[i], p = m.position[j] - a, q = m.position[k] - a, across = cross(ray.towards, q);
  const float area = dot(p, across);
  if (!(std::abs(area) > 1e-30f)) return {};
  const Vec3 from = ray.from - a, around = cross(from, p);
  const float b = dot(from, across) / area, c = dot(ray.towards, around) / area, t = dot(q, around) / area;
  if (b < -kOverlap || c < -kOverlap || b + c > 1 + kOverlap || !(t > 0) || t >= to) return {};
  const auto& [s, r, w] = fixed_->tile[triangle];
  const float u = s[0] + (r[0] - s[0]) * b + (w[0] - s[0]) * c, v = s[1] + (r[1] - s[1]) * b + (w[1] - s[1]) * c;
  if (standing.is_open(m.part_of[triangle], u, v)) return {};
  return Met{{t, triangle, b, c}, u, v, 0, false, {}};
}

std::optional<MeshShell::Met> MeshShell::within(std::uint32_t triangle, const Ray& ray, float to,
                                                const Standing& standing) const {
  const Mesh& m = mesh_.mesh();
  const std::size_t part = m.part_of[triangle];
  if (!(of_part_[part].low < of_part_[part].high)) return on_triangle(triangle, ray, to, standing);
  const Prism all = prism(triangle);
  std::array<std::optional<Passage>, 3> way;
  std::array<std::size_t, 3> by_way{0, 1, 2};
  for (std::size_t n = 0; n < 3; ++n) way[n] = passage(all, n, ray, to);
  std::sort(by_way.begin(), by_way.end(), [&](std::size_t x, std::size_t y) {
    return (way[x] ? way[x]->from : INFINITY) < (way[y] ? way[y]->from : INFINITY);
  });
  for (const std::size_t n : by_way) {
    if (!way[n]) return {};
    const auto [from, until] = std::pair(way[n]->from, way[n]->to);
    const Corner a = at(all, n, *way[n], from), b = at(all, n, *way[n], until);
    const auto share = standing.meets(part, {a.u, a.v, a.h, b.u, b.v, b.h}, from);
    if (!share || (*share == 0 && way[n]->entered < 0)) continue;  // what begins on the relief does not meet it
    const float t = from + (until - from) * *share;
    const Corner here = at(all, n, *way[n], t);
    if (standing.is_open(part, here.u, here.v)) return {};
    Met met{{t, triangle, here.b, here.c}, here.u, here.v, here.h, false, {}};
    if (*share == 0) tell_entrance(all, n, way[n]->entered, ray, met);
    return met;
  }
  return {};
}

std::optional<MeshShell::Met> MeshShell::first(const Ray& ray, const Standing& standing) const {
  Asked asked{{}, this, &standing, &ray, {}};
  rtcInitIntersectContext(&asked.context);
  RTCRayHit hit{};
  hit.ray = embree_ray(ray, 0, INFINITY);
  hit.hit.geomID = RTC_INVALID_GEOMETRY_ID;
  rtcIntersect1(scene_->scene, &asked.context, &hit);
  return asked.met;
}

bool MeshShell::meets(const Ray& ray, const Standing& standing) const {
  Asked asked{{}, this, &standing, &ray, {}};
  rtcInitIntersectContext(&asked.context);
  RTCRay r = embree_ray(ray, 0, INFINITY);
  rtcOccluded1(scene_->scene, &asked.context, &r);
  return r.tfar < 0;
}

}  // namespace loom
