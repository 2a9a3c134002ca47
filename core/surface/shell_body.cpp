// The way of a ray through the shell.
#include "core/surface/shell_body.h"

#include <algorithm>
#include <cmath>

#include "core/surface/gradients.h"
#include "core/surface/shapes/shapes.h"

namespace loom {
ShellBody::ShellBody(std::shared_ptr<const Shape> shape, std::shared_ptr<const SurfaceMaps> maps, float depth)
    : shape_(std::move(shape)), maps_(std::move(maps)), relief_(depth > 0 ? maps_->relief() : nullptr), depth_(depth) {
  if (!relief_) {
    depth_ = 0;
    return;
  }
  // What reaches further inwards or outwards than the shape is thick has no place in its shell.
  const float most = 0.2f * shape_->radius();
  low_ = std::max(std::min(relief_->lowest(), 0.0f) * depth_, -most);
  high_ = std::clamp(relief_->highest() * depth_, low_ + 1e-6f, most);
}

int ShellBody::level_for(float width) const {
  const float texels = width / shape_->tile() * static_cast<float>(relief_->size());
  return texels > 1 ? std::min(std::ilogb(texels), relief_->levels() - 1) : 0;
}

// One stretch within the shell. `left` is where it ended without a hit.
std::optional<ShellBody::Crossing> ShellBody::along(const Ray& ray, const Shape::Near& near, Width width,
                                                    float& left) const {
  const int level = width.level >= 0 ? width.level : level_for(width.at(near.from));
  const float per_depth = 1 / depth_;
  ShellPlace here = near.from == 0 && width.from ? *width.from : shape_->place(ray.at(near.from));
  float t = near.from, finest = 1;
  bool first = true;
  while (t < near.to) {
    const float pixel = width.at(t);
    const float step = std::sqrt(2 * shape_->bend(ray.at(t)) * pixel) * finest;
    float end = std::min(t + std::max(step, 1e-6f), near.to);
    ShellPlace there = shape_->place(ray.at(end));
    there.u = nearest_round(there.u, here.u, shape_->round_u());
    there.v = nearest_round(there.v, here.v, shape_->round_v());
    // Where two charts meet, coordinates jump: the ray goes up to there in small steps, and on behind it.
    const bool jumps =
        shape_->has_charts() &&
        (std::abs(there.u - here.u) + std::abs(there.v - here.v)) * shape_->tile() > 6 * (end - t) + 1e-5f;
    if (jumps && end - t > 0.1f * pixel) {
      finest *= 0.25f;
      continue;
    }
    finest = std::min(1.0f, finest * 4);
    if (!jumps) {
      const float high = std::max(high_, 0.0f) + 1e-5f;
      if (here.height > high && there.height > here.height && !first) return left = t, std::nullopt;
      const bool ends = there.height < low_;
      if (ends && here.height > low_) {
        const float share = (here.height - low_) / (here.height - there.height);
        there = {here.u + (there.u - here.u) * share, here.v + (there.v - here.v) * share, low_};
        end = t + (end - t) * share;
      }
      const auto met =
          relief_->meets({here.u, here.v, here.height * per_depth, there.u, there.v, there.height * per_depth}, level);
      if (met || ends) {
        const float s = met.value_or(1), at = t + (end - t) * s;
        return Crossing{at,
                        {here.u + (there.u - here.u) * s, here.v + (there.v - here.v) * s,
                         here.height + (there.height - here.height) * s},
                        first && s == 0 ? near.side : Vec3{},
                        level};
      }
    }
    here = there;
    t = end;
    first = false;
  }
  left = near.to;
  return {};
}

std::optional<ShellBody::Crossing> ShellBody::crossing(const Ray& ray, Width width) const {
  float from = 0;
  for (int parts = 0; parts < 4; ++parts) {
    const auto near = shape_->near(ray, from, high_);
    if (!near) return {};
    if (!relief_) return Crossing{near->from, shape_->place(ray.at(near->from)), near->side, 0};
    if (const auto met = along(ray, *near, width, from)) return met;
    from += 1e-5f;
  }
  return {};
}

Body::Hit ShellBody::hit_at(const Ray& ray, const Crossing& c) const {
  Hit hit{c.t, ray.at(c.t), c.at, {}, {}, dot(c.side, c.side) > 0, false, c.level, shape_->tile()};
  hit.frame = shape_->frame(hit.place);
  if (hit.flat_side) {
    hit.at = shape_->side_place(hit.place, c.side);
    hit.facet = c.side;
    return hit;
  }
  hit.facet = hit.frame.normal;
  if (!relief_) return hit;
  // The stretch strays from the ray a little; what starts here must start on the relief.
  const ShellPlace on_ray = shape_->place(hit.place);
  hit.place = hit.place + hit.frame.along_u * (c.at.u - nearest_round(on_ray.u, c.at.u, shape_->round_u())) +
              hit.frame.along_v * (c.at.v - nearest_round(on_ray.v, c.at.v, shape_->round_v())) +
              hit.frame.normal * (c.at.height - on_ray.height);
  const ReliefField::Ground ground = relief_->ground(c.at.u, c.at.v, c.level);
  const Gradients g(hit.frame);
  hit.facet = normalised(hit.frame.normal - g.u * (ground.along_u * depth_) - g.v * (ground.along_v * depth_));
  return hit;
}

// Behind an opening: the far side, from within.
std::optional<Body::Hit> ShellBody::through(const Ray& ray, float from, float chance) const {
  const auto t = shape_->far_side(ray, from);
  if (!t) return {};
  Hit hit{*t, ray.at(*t), {}, {}, {}, false, true, 0, shape_->tile()};
  hit.at = shape_->place(hit.place);
  if (maps_->opacity(hit.at.u, hit.at.v) <= chance) return {};
  hit.frame = shape_->frame(hit.place);
  hit.frame.normal = hit.frame.normal * -1;
  hit.frame.along_u = hit.frame.along_u * -1;
  hit.facet = hit.frame.normal;
  return hit;
}

std::optional<Body::Hit> ShellBody::first(const Ray& ray, Width width, float chance) const {
  const auto met = crossing(ray, width);
  if (!met) return {};
  if (!maps_->is_opaque() && maps_->opacity(met->at.u, met->at.v) <= chance) return through(ray, met->t, chance);
  return hit_at(ray, *met);
}

bool ShellBody::blocks(const Ray& ray, Width width, float chance) const {
  const auto met = crossing(ray, width);
  if (!met) return false;
  if (maps_->is_opaque() || maps_->opacity(met->at.u, met->at.v) > chance) return true;
  return through(ray, met->t, chance).has_value();
}

Body::Start ShellBody::off(const Hit& hit) const {
  const float away = 1e-5f + 2e-3f * depth_;
  const Vec3 place = hit.place + (hit.flat_side ? hit.facet : hit.frame.normal) * away;
  if (hit.flat_side || hit.inside) return {place, shape_->place(place)};
  return {place, {hit.at.u, hit.at.v, hit.at.height + away}};
}

}  // namespace loom
