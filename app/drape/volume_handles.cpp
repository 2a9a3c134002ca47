#include "app/drape/volume_handles.h"

#include <QPainter>
#include <QPolygonF>
#include <algorithm>
#include <cmath>

#include "app/base/theme.h"

namespace loom::app {
namespace {

constexpr double kReach = 9;              // units of the widget within which a hand takes hold
constexpr float kLeastSize = 0.001f;      // metres
constexpr float kOnCircle = 0.35355339f;  // half of the root of a half: on the ball's circle, between x and z

Ray rayAt(QPointF at, const Drape& drape, double density) {
  return drape.ray(static_cast<float>(at.x() * density), static_cast<float>(at.y() * density));
}

std::optional<QPointF> shownAt(Vec3 place, const Drape& drape, double density) {
  const auto at = drape.shown_at(place);
  if (!at) return {};
  return QPointF(static_cast<double>((*at)[0]), static_cast<double>((*at)[1])) / density;
}

// Where a ray meets a plane; none where it runs along it or away.
std::optional<Vec3> onPlane(const Ray& ray, Vec3 through, Vec3 normal) {
  const float slant = dot(ray.towards, normal);
  if (std::abs(slant) < 0.02f) return {};
  const float t = dot(through - ray.from, normal) / slant;
  if (!(t > 0)) return {};
  return ray.at(t);
}

// How far along a line the place lies that is nearest to a ray; none where they run the same way.
std::optional<float> alongLine(const Ray& ray, Vec3 through, Vec3 along) {
  const float same = dot(ray.towards, along), apart = 1 - same * same;
  if (apart < 1e-3f) return {};
  const Vec3 to = ray.from - through;
  return (dot(to, along) - same * dot(to, ray.towards)) / apart;
}

using Lines = std::vector<std::vector<Vec3>>;

// Three circles; or the edges.
Lines linesOf(Volume::Form form) {
  Lines lines;
  if (form == Volume::Form::ball) {
    constexpr int kSteps = 48;
    for (int axis = 0; axis < 3; ++axis) {
      auto& circle = lines.emplace_back();
      for (int i = 0; i <= kSteps; ++i) {
        const float a = 2 * kPi * static_cast<float>(i) / kSteps, s = 0.5f * std::sin(a), c = 0.5f * std::cos(a);
        circle.push_back(axis == 0 ? Vec3{0, s, c} : axis == 1 ? Vec3{s, 0, c} : Vec3{s, c, 0});
      }
    }
    return lines;
  }
  // A wedge lacks the upper right corner of its face.
  std::vector<std::array<float, 2>> face{{-0.5f, 0.5f}, {-0.5f, -0.5f}, {0.5f, -0.5f}, {0.5f, 0.5f}};
  if (form == Volume::Form::wedge) face.pop_back();
  for (const float z : {-0.5f, 0.5f}) {
    auto& round = lines.emplace_back();
    for (std::size_t i = 0; i <= face.size(); ++i)
      round.push_back({face[i % face.size()][0], face[i % face.size()][1], z});
  }
  for (const auto& [x, y] : face) lines.push_back({{x, y, -0.5f}, {x, y, 0.5f}});
  return lines;
}

float tidy(float x, float step, bool fine) { return fine ? x : std::round(x / step) * step; }

}  // namespace

Vec3 Volume::axis(std::size_t i) const {
  const float s = std::sin(turn * kDegree), c = std::cos(turn * kDegree);
  return i == 0 ? Vec3{c, 0, s} : i == 1 ? Vec3{0, 1, 0} : Vec3{-s, 0, c};
}

Vec3 Volume::at(Vec3 share) const {
  return centre + axis(0) * (share.x * size.x) + axis(1) * (share.y * size.y) + axis(2) * (share.z * size.z);
}

std::optional<QPointF> VolumeHandles::place(Handle handle, const Drape& drape, double density) const {
  if (!volume_ || (handle == turn && !volume_->turns)) return {};
  constexpr std::array<Vec3, count> kPlaces{
      {{0, 0, 0}, {0.5f, 0, 0}, {0, 0.5f, 0}, {0, 0, 0.5f}, {kOnCircle, 0, kOnCircle}}};
  return shownAt(volume_->at(kPlaces[handle]), drape, density);
}

// What the hand measures out where it is now.
std::optional<float> VolumeHandles::measure(QPointF at, const Drape& drape, double density) const {
  const Ray ray = rayAt(at, drape, density);
  if (held_ != turn) return alongLine(ray, from_.centre, from_.axis(held_ - size_x));
  const auto place = onPlane(ray, from_.centre, {0, 1, 0});
  if (!place) return {};
  const Vec3 out = *place - from_.centre;
  return std::atan2(out.z, out.x) / kDegree;
}

bool VolumeHandles::begin(QPointF at, const Drape& drape, double density) {
  double least = kReach;
  held_ = count;
  for (std::size_t h = 0; h < count; ++h)
    if (const auto there = place(static_cast<Handle>(h), drape, density))
      if (const double apart = std::hypot(there->x() - at.x(), there->y() - at.y()); apart < least)
        least = apart, held_ = static_cast<Handle>(h);
  if (held_ == count) return false;
  from_ = *volume_;
  const Ray ray = rayAt(at, drape, density);
  if (held_ == centre) {
    grip_ = onPlane(ray, from_.centre, normalised(from_.centre - ray.from)).value_or(from_.centre);
    return true;
  }
  const auto begun = measure(at, drape, density);
  if (!begun) held_ = count;  // seen along its own way there is nothing to measure
  begun_ = begun.value_or(0);
  return held_ != count;
}

void VolumeHandles::goOn(QPointF at, const Drape& drape, double density, bool fine) {
  if (held_ == count) return;
  Volume now = from_;
  if (held_ == centre) {
    const Ray ray = rayAt(at, drape, density);
    const auto place = onPlane(ray, from_.centre, normalised(from_.centre - ray.from));
    if (!place) return;
    const Vec3 to = from_.centre + (*place - grip_);
    now.centre = {tidy(to.x, 0.001f, fine), tidy(to.y, 0.001f, fine), tidy(to.z, 0.001f, fine)};
  } else {
    const auto measured = measure(at, drape, density);
    if (!measured) return;
    const float by = *measured - begun_;
    if (held_ == turn) {
      now.turn = tidy(from_.turn + by - 360 * std::round((from_.turn + by) / 360), 1, fine);
    } else {
      float& side = held_ == size_x ? now.size.x : held_ == size_y ? now.size.y : now.size.z;
      side = std::max(tidy(side + 2 * by, 0.001f, fine), kLeastSize);
    }
  }
  Q_EMIT dragged(now);
}

void VolumeHandles::end() {
  if (std::exchange(held_, count) != count) Q_EMIT ended();
}

void VolumeHandles::paint(QPainter& p, const Drape& drape, double density) const {
  if (!volume_) return;
  p.setBrush(Qt::NoBrush);
  for (const bool edge : {true, false}) {
    p.setPen(QPen(edge ? QColor(0, 0, 0, 130) : QColor(Qt::white), edge ? 3.4 : 1.4));
    for (const auto& line : linesOf(volume_->form)) {
      QPolygonF shown;
      for (const Vec3& share : line)
        if (const auto at = shownAt(volume_->at(share), drape, density)) shown << *at;
      p.drawPolyline(shown);
    }
  }
  p.setPen(QPen(QColor(0, 0, 0, 150), 1.4));
  for (std::size_t h = 0; h < count; ++h) {
    const auto at = place(static_cast<Handle>(h), drape, density);
    if (!at) continue;
    p.setBrush(held_ == static_cast<Handle>(h) ? theme().indigo : QColor(Qt::white));
    if (h == centre)
      p.drawRect(QRectF(at->x() - 5, at->y() - 5, 10, 10));
    else if (h == turn)
      p.drawPolygon(QPolygonF{*at + QPointF(0, -6), *at + QPointF(6, 0), *at + QPointF(0, 6), *at + QPointF(-6, 0)});
    else
      p.drawEllipse(*at, 4.5, 4.5);
  }
}

}  // namespace loom::app

#include "moc_volume_handles.cpp"
