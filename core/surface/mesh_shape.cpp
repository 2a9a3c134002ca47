// Embree finds triangles; what lies there is worked out here.
#include "core/surface/mesh_shape.h"

#include <algorithm>
#include <cmath>

#include "core/base/hash.h"
#include "core/surface/embree.h"
#include "core/surface/mesh_shell.h"
#include "core/surface/neighbours.h"

namespace loom {

struct MeshShape::Scene : EmbreeScene {};

namespace {

void set_ray(RTCRay16& r, std::size_t i, const Ray& ray, float from, float to) {
  r.org_x[i] = ray.from.x, r.org_y[i] = ray.from.y, r.org_z[i] = ray.from.z;
  r.dir_x[i] = ray.towards.x, r.dir_y[i] = ray.towards.y, r.dir_z[i] = ray.towards.z;
  r.tnear[i] = from, r.tfar[i] = to;
  r.mask[i] = ~0u;
}

RTCIntersectContext going_together() {
  RTCIntersectContext context;
  rtcInitIntersectContext(&context);
  context.flags = RTC_INTERSECT_CONTEXT_FLAG_COHERENT;
  return context;
}

template <class T>
Key key_of_all(const std::vector<T>& list) {
  return key_of({reinterpret_cast<const char*>(list.data()), list.size() * sizeof(T)});
}

// The derivatives of a place by tile coordinates over a triangle; nothing where these have no area.
std::optional<std::array<Vec3, 2>> along_tile(Vec3 p, Vec3 q, float pu, float pv, float qu, float qv) {
  const float area = pu * qv - pv * qu;
  if (!(std::abs(area) > 1e-12f)) return {};
  return std::array{(p * qv - q * pv) * (1 / area), (q * pu - p * qu) * (1 / area)};
}

}  // namespace

MeshShape::MeshShape(Mesh mesh) : mesh_(std::move(mesh)), scene_(std::make_unique<Scene>()) {
  const std::size_t corners = mesh_.position.size(), triangles = mesh_.triangle.size();
  // What the tree takes is not told beforehand; common practice, no source: some 100 bytes a triangle.
  scene_->bytes = Booked(corners * (2 * sizeof(Vec3) + 8) + triangles * (2 * sizeof(mesh_.triangle[0]) + 100) +
                         mesh_.attributes.size() * corners * (sizeof(std::array<float, 4>) + 1));
  const RTCGeometry geometry = rtcNewGeometry(scene_->device, RTC_GEOMETRY_TYPE_TRIANGLE);
  auto* p = static_cast<float*>(
      rtcSetNewGeometryBuffer(geometry, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, 3 * sizeof(float), corners));
  auto* t = static_cast<std::uint32_t*>(rtcSetNewGeometryBuffer(geometry, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3,
                                                                3 * sizeof(std::uint32_t), triangles));
  if (!p || !t) throw std::bad_alloc();
  for (const Vec3& v : mesh_.position) *p++ = v.x, *p++ = v.y, *p++ = v.z;
  for (const auto& corner : mesh_.triangle) t = std::copy(corner.begin(), corner.end(), t);
  scene_->hold(geometry);
  measure();
}

MeshShape::~MeshShape() = default;

void MeshShape::measure() {
  key_ =
      KeyMaker().add(key_of_all(mesh_.position)).add(key_of_all(mesh_.triangle)).add(key_of_all(mesh_.part_of)).key();
  Vec3 least = mesh_.position[mesh_.triangle[0][0]], most = least;
  double area = 0, units = 0;
  for (const auto& [i, j, k] : mesh_.triangle) {
    const Vec3 a = mesh_.position[i], b = mesh_.position[j], c = mesh_.position[k];
    for (const Vec3& v : {a, b, c}) {
      least = {std::min(least.x, v.x), std::min(least.y, v.y), std::min(least.z, v.z)};
      most = {std::max(most.x, v.x), std::max(most.y, v.y), std::max(most.z, v.z)};
    }
    area += 0.5 * static_cast<double>(length(cross(b - a, c - a)));
    if (mesh_.tile.empty()) continue;
    const auto &p = mesh_.tile[i], &q = mesh_.tile[j], &r = mesh_.tile[k];
    units += static_cast<double>(std::abs((q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0])));
  }
  middle_ = (least + most) * 0.5f;
  radius_ = std::max(0.5f * length(most - least), 1e-6f);
  foot_ = least.y;
  const Vec3 sides = most - least;
  longest_ = std::max({sides.x, sides.y, sides.z, 1e-6f});
  area_ = static_cast<float>(std::max(area, 1e-12));
  if (units > 0) tile_metres_ = static_cast<float>(std::sqrt(2 * area / units));
}

std::optional<MeshShape::Met> MeshShape::first(const Ray& ray, float from, float to) const {
  RTCRayHit hit{};
  hit.ray = embree_ray(ray, from, to);
  hit.hit.geomID = RTC_INVALID_GEOMETRY_ID;
  RTCIntersectContext context;
  rtcInitIntersectContext(&context);
  rtcIntersect1(scene_->scene, &context, &hit);
  if (hit.hit.geomID == RTC_INVALID_GEOMETRY_ID) return {};
  return Met{hit.ray.tfar, hit.hit.primID, hit.hit.u, hit.hit.v};
}

bool MeshShape::meets(const Ray& ray, float from) const {
  RTCRay r = embree_ray(ray, from, INFINITY);
  RTCIntersectContext context;
  rtcInitIntersectContext(&context);
  rtcOccluded1(scene_->scene, &context, &r);
  return r.tfar < 0;
}

void MeshShape::first(std::span<const Ray> rays, std::span<const float> from, float to,
                      std::span<std::optional<Met>> met) const {
  alignas(64) RTCRayHit16 hits{};
  alignas(64) std::array<int, kTogether> asked{};
  for (std::size_t i = 0; i < rays.size(); ++i) {
    if (!(from[i] < to)) continue;
    asked[i] = -1;
    set_ray(hits.ray, i, rays[i], from[i], to);
  }
  std::fill(std::begin(hits.hit.geomID), std::end(hits.hit.geomID), RTC_INVALID_GEOMETRY_ID);
  RTCIntersectContext context = going_together();
  rtcIntersect16(asked.data(), scene_->scene, &context, &hits);
  for (std::size_t i = 0; i < rays.size(); ++i)
    met[i] = hits.hit.geomID[i] == RTC_INVALID_GEOMETRY_ID
                 ? std::nullopt
                 : std::optional(Met{hits.ray.tfar[i], hits.hit.primID[i], hits.hit.u[i], hits.hit.v[i]});
}

void MeshShape::meets(std::span<const Ray> rays, float to, std::span<bool> met) const {
  alignas(64) RTCRay16 all{};
  alignas(64) std::array<int, kTogether> asked{};
  for (std::size_t i = 0; i < rays.size(); ++i) {
    asked[i] = -1;
    set_ray(all, i, rays[i], 0, to);
  }
  RTCIntersectContext context = going_together();
  rtcOccluded16(asked.data(), scene_->scene, &context, &all);
  for (std::size_t i = 0; i < rays.size(); ++i) met[i] = all.tfar[i] < 0;
}

std::shared_ptr<const MeshShell> MeshShape::shell(const std::vector<MeshReach>& of_part) const {
  const std::lock_guard lock(shell_lock_);
  if (!shell_ || shell_->of_part() != of_part) shell_ = std::make_shared<const MeshShell>(*this, of_part, shell_.get());
  return shell_;
}

Vec3 MeshShape::flat(std::uint32_t triangle) const {
  const auto& [i, j, k] = mesh_.triangle[triangle];
  const Vec3 a = mesh_.position[i];
  return normalised(cross(mesh_.position[j] - a, mesh_.position[k] - a));
}

Vec3 MeshShape::position(const Met& met) const {
  const auto& [i, j, k] = mesh_.triangle[met.triangle];
  return mesh_.position[i] * (1 - met.b - met.c) + mesh_.position[j] * met.b + mesh_.position[k] * met.c;
}

bool MeshShape::on_rim(std::uint32_t triangle, Vec3 place, float within) const {
  std::call_once(rim_found_, [this] {
    const Neighbours neighbours(mesh_);
    open_.resize(mesh_.triangle.size());
    for (std::uint32_t t = 0; t < open_.size(); ++t)
      for (std::size_t i = 0; i < 3; ++i) open_[t][i] = neighbours.of(t)[i] == Neighbours::kNone;
  });
  for (std::size_t i = 0; i < 3; ++i) {
    if (!open_[triangle][i]) continue;
    const Vec3 from = mesh_.position[mesh_.triangle[triangle][i]],
               side = mesh_.position[mesh_.triangle[triangle][(i + 1) % 3]] - from, to = place - from;
    const float along = std::clamp(dot(to, side) / std::max(dot(side, side), 1e-20f), 0.0f, 1.0f);
    if (length(to - side * along) < within) return true;
  }
  return false;
}

const MeshAttribute* MeshShape::carried(std::uint64_t hash_of_name) const {
  const auto it = std::find_if(mesh_.attributes.begin(), mesh_.attributes.end(),
                               [&](const MeshAttribute& a) { return hash_text(a.name) == hash_of_name; });
  return it == mesh_.attributes.end() ? nullptr : &*it;
}

std::array<float, kMostNumbersOfMeasure> MeshShape::carried(const MeshAttribute& what, std::uint32_t triangle, float b,
                                                            float c) const {
  const auto& [i, j, k] = mesh_.triangle[triangle];
  std::array<float, kMostNumbersOfMeasure> out{};
  for (std::size_t n = 0; n < 4; ++n) out[n] = what.at[i][n] * (1 - b - c) + what.at[j][n] * b + what.at[k][n] * c;
  out[kIsCarried] = what.given[i];
  return out;
}

MeshShape::Place MeshShape::place(const Met& met) const {
  const auto& [i, j, k] = mesh_.triangle[met.triangle];
  const Vec3 a = mesh_.position[i], p = mesh_.position[j] - a, q = mesh_.position[k] - a;
  const float at_a = 1 - met.b - met.c;
  Place place{};
  place.flat = normalised(cross(p, q));
  place.normal = normalised(mesh_.normal[i] * at_a + mesh_.normal[j] * met.b + mesh_.normal[k] * met.c);
  if (dot(place.normal, place.normal) < 0.5f) place.normal = place.flat;
  if (!mesh_.tile.empty()) {
    const auto &s = mesh_.tile[i], &t = mesh_.tile[j], &r = mesh_.tile[k];
    if (const auto along = along_tile(p, q, t[0] - s[0], t[1] - s[1], r[0] - s[0], r[1] - s[1])) {
      place.along_u = (*along)[0], place.along_v = (*along)[1];
      for (std::size_t c = 0; c < 2; ++c) place.tile[c] = s[c] * at_a + t[c] * met.b + r[c] * met.c;
      return place;
    }
  }
  // From the side that the triangle faces most: common practice, no source.
  const Vec3 at = a + p * met.b + q * met.c, n = place.flat;
  const float x = std::abs(n.x), y = std::abs(n.y), z = std::abs(n.z);
  if (x >= y && x >= z)
    place.along_u = {0, 0, n.x > 0 ? -1.0f : 1.0f}, place.along_v = {0, -1, 0};
  else if (y >= z)
    place.along_u = {1, 0, 0}, place.along_v = {0, 0, n.y > 0 ? 1.0f : -1.0f};
  else
    place.along_u = {n.z > 0 ? 1.0f : -1.0f, 0, 0}, place.along_v = {0, -1, 0};
  place.tile = {dot(at, place.along_u), dot(at, place.along_v)};
  return place;
}

}  // namespace loom
