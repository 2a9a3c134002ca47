// Each direction is followed from all the points before the next one is.
#include "core/surface/mesh_probe.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "core/surface/sampler.h"

namespace loom {
namespace {

constexpr int kMostCrossings = 32;

template <class T>
using Lanes = std::array<T, MeshShape::kTogether>;

Vec3 within_cone(Sampler::Pair pair, float least_cosine) {
  const float cosine = 1 - pair.a * (1 - least_cosine), sine = std::sqrt(std::max(1 - cosine * cosine, 0.0f));
  return {sine * std::cos(2 * kPi * pair.b), sine * std::sin(2 * kPi * pair.b), cosine};
}

Vec3 by_cosine(Sampler::Pair pair) {
  const float sine = std::sqrt(pair.a);
  return {sine * std::cos(2 * kPi * pair.b), sine * std::sin(2 * kPi * pair.b), std::sqrt(1 - pair.a)};
}

Vec3 mirrored(Vec3 local) { return {local.x, local.y, -local.z}; }

struct Face {
  float t, cosine;  // between the point's normal and the face's, which looks out of the solid
};

}  // namespace

// From some points at once.
class MeshProbe::Look {
 public:
  Look(const MeshProbe& probe, std::span<const MeasuredPoint> points)
      : mesh_(probe.mesh_),
        what_(probe.what_),
        points_(points),
        reach_(what_.radius * mesh_.longest_side()),
        away_(2e-5f * mesh_.radius()) {
    for (const MeasuredPoint& p : points) frames_.emplace_back(p.normal);
  }

  void edges(std::span<const Towards> directions, std::span<MeasuredNumbers> found) {
    struct Sum {
      float convex = 0, concave = 0, turn = 0;
      Vec3 empty;  // of a flat it is known; what stands up or is cut off changes it
    };
    float weights = 0;
    for (const Towards& d : directions) weights += d.weight;
    Lanes<Sum> sums;
    for (std::size_t i = 0; i < points_.size(); ++i) sums[i].empty = points_[i].normal * (0.5f * weights);
    for (const auto& [local, weight] : directions) {
      const std::span<const Ray> up = rays(local, away_, up_), down = rays(mirrored(local), -away_, down_);
      meets(up, above_);
      leaves(down, reach_, below_);
      for (std::size_t i = 0; i < points_.size(); ++i) {
        const Found over = share_of(above_[i]), under = share_of(below_[i]);
        sums[i].concave += weight * over.share;
        sums[i].convex += weight * under.share;
        sums[i].turn += weight * (under.share * under.turn - over.share * over.turn);
        sums[i].empty = sums[i].empty + (down[i].towards * under.share - up[i].towards * over.share) * weight;
      }
    }
    for (std::size_t i = 0; i < points_.size(); ++i) {
      const auto& [convex, concave, turn, empty] = sums[i];
      const float all = convex + concave;
      const Vec3 normal = normalised(empty);
      found[i] = {convex / weights, concave / weights, all > 0 ? turn / all : 0, normal.x, normal.y, normal.z};
    }
  }

  void openness(std::span<const Towards> directions, std::span<MeasuredNumbers> found) {
    struct Sum {
      int open = 0;
      Vec3 towards{};
    };
    Lanes<Sum> sums;
    for (const Towards& d : directions) {
      const std::span<const Ray> up = rays(d.local, away_, up_);
      if (what_.part_only) {
        meets(up, above_);
        for (std::size_t i = 0; i < points_.size(); ++i) shut_[i] = above_[i].has_value();
      } else {
        mesh_.meets(up, reach_, shut_);
      }
      for (std::size_t i = 0; i < points_.size(); ++i)
        if (!shut_[i]) ++sums[i].open, sums[i].towards = sums[i].towards + up[i].towards;
    }
    for (std::size_t i = 0; i < points_.size(); ++i) {
      const auto& [open, towards] = sums[i];
      const Vec3 bent = open ? normalised(towards) : points_[i].normal;
      found[i] = {static_cast<float>(open) / static_cast<float>(directions.size()), bent.x, bent.y, bent.z};
    }
  }

  void thickness(std::span<const Towards> directions, std::span<MeasuredNumbers> found) {
    const float longest = mesh_.longest_side();
    Lanes<float> sums{};
    for (const Towards& d : directions) {
      leaves(rays(mirrored(d.local), -away_, down_), longest, below_);
      for (std::size_t i = 0; i < points_.size(); ++i) sums[i] += below_[i] ? below_[i]->t : longest;
    }
    for (std::size_t i = 0; i < points_.size(); ++i) found[i] = {sums[i] / static_cast<float>(directions.size())};
  }

 private:
  struct Found {
    float share = 0, turn = 0;
  };
  std::span<const Ray> rays(Vec3 local, float above, Lanes<Ray>& rays) const {
    for (std::size_t i = 0; i < points_.size(); ++i)
      rays[i] = {points_[i].place + points_[i].normal * above, frames_[i].world(local)};
    return {rays.data(), points_.size()};
  }
  bool counts(std::size_t point, const MeshShape::Met& met) const {
    return !what_.part_only || mesh_.mesh().part_of[met.triangle] == points_[point].part;
  }

  Found share_of(const std::optional<Face>& face) const {
    if (!face) return {};
    const float near = std::min(face->t / reach_, 1.0f), opposite = std::max(-face->cosine, 0.0f);
    return {(1 - near * near * near) * (1 - opposite * opposite),
            std::acos(std::clamp(face->cosine, -1.0f, 1.0f)) / kDegree};
  }

  // Tells of each triangle on the rays' ways, in order, for as long as `goes_on` says so of that ray.
  template <class GoesOn>
  void follow(std::span<const Ray> rays, float to, const GoesOn& goes_on) {
    Lanes<float> from{};
    bool any = true;
    for (int n = 0; any && n < kMostCrossings; ++n) {
      mesh_.first(rays, {from.data(), rays.size()}, to, met_);
      any = false;
      for (std::size_t i = 0; i < rays.size(); ++i) {
        const bool more = met_[i] && goes_on(i, *met_[i]);
        from[i] = more ? met_[i]->t + away_ : std::numeric_limits<float>::infinity();
        any = any || more;
      }
    }
  }

  // What stands in the way above the points.
  void meets(std::span<const Ray> rays, Lanes<std::optional<Face>>& faces) {
    faces.fill({});
    follow(rays, reach_, [&](std::size_t i, const MeshShape::Met& met) {
      if (!counts(i, met)) return true;
      const Vec3 flat = mesh_.flat(met.triangle);
      const float side = dot(flat, rays[i].towards) > 0 ? -1.0f : 1.0f;
      faces[i] = Face{met.t, side * dot(flat, points_[i].normal)};
      return false;
    });
  }

  // Where ways below the points come out of the solid, which may be made of several that lie in each other.
  void leaves(std::span<const Ray> rays, float to, Lanes<std::optional<Face>>& faces) {
    faces.fill({});
    Lanes<int> inside;
    inside.fill(1);
    follow(rays, to, [&](std::size_t i, const MeshShape::Met& met) {
      if (!counts(i, met)) return true;
      const Vec3 flat = mesh_.flat(met.triangle);
      inside[i] += dot(flat, rays[i].towards) > 0 ? -1 : 1;
      if (inside[i] == 0) faces[i] = Face{met.t, dot(flat, points_[i].normal)};
      return inside[i] != 0;
    });
  }

  const MeshShape& mesh_;
  const MeshMeasure& what_;
  std::span<const MeasuredPoint> points_;
  float reach_, away_;
  std::vector<Frame> frames_;
  Lanes<Ray> up_, down_;
  Lanes<bool> shut_;
  Lanes<std::optional<MeshShape::Met>> met_;
  Lanes<std::optional<Face>> above_, below_;
};

MeshProbe::MeshProbe(const MeshShape& mesh, const MeshMeasure& what, std::uint32_t draw) : mesh_(mesh), what_(what) {
  const bool straight = what.name == MeasureName::thickness && !(what.spread > 0);
  const int pairs = what.name == MeasureName::edges ? what.rays / 2 : what.rays;  // one up, one down
  whole_ = static_cast<std::size_t>(straight ? 1 : std::max(pairs, 1));
  order_ = (whole_ + 1) / 2;
  const float least = std::cos(0.5f * std::min(what.spread, 180.0f) * kDegree);
  for (std::size_t i = 0; i < std::max(whole_, kOrders * order_); ++i) {
    const Sampler::Pair chance = Sampler(static_cast<std::uint32_t>(i)).pair(0, draw);
    if (what.name == MeasureName::openness)
      towards_.push_back({by_cosine(chance), 1});
    else if (what.name == MeasureName::thickness)
      towards_.push_back({straight ? Vec3{0, 0, 1} : within_cone(chance, least), 1});
    else  // more of them near the ground, where a gentle bend cuts off what it does; each counts by how rare it is
      towards_.push_back({within_cone({1 - chance.a * chance.a, chance.b}, 0), 2 * chance.a});
  }
}

std::span<const MeshProbe::Towards> MeshProbe::of_order(int order) const {
  const std::span all(towards_);
  return order == kWhole ? all.first(whole_) : all.subspan(static_cast<std::size_t>(order) * order_, order_);
}

void MeshProbe::look(std::span<const MeasuredPoint> points, int order, std::span<MeasuredNumbers> found) const {
  Look look(*this, points);
  if (what_.name == MeasureName::edges) look.edges(of_order(order), found);
  if (what_.name == MeasureName::openness) look.openness(of_order(order), found);
  if (what_.name == MeasureName::thickness) look.thickness(of_order(order), found);
}

void ProbeLine::add(std::size_t at, const MeasuredPoint& point) {
  at_[count_] = at;
  points_[count_] = point;
  if (++count_ == points_.size()) finish();
}

void ProbeLine::finish() {
  if (count_ == 0) return;
  std::array<MeasuredNumbers, MeshShape::kTogether> found;
  probe_.look({points_.data(), count_}, order_, found);
  for (std::size_t i = 0; i < count_; ++i) take_(at_[i], points_[i], found[i]);
  count_ = 0;
}

MeasuredNumbers measured_at(const MeshShape& mesh, const MeshMeasure& what, const MeasuredPoint& point) {
  MeasuredNumbers found{};
  MeshProbe(mesh, what).look({&point, 1}, MeshProbe::kWhole, {&found, 1});
  return found;
}

}  // namespace loom
