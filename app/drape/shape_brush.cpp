#include "app/drape/shape_brush.h"

#include <QPainter>
#include <cmath>

#include "app/base/brush.h"

namespace loom::app {
namespace {

constexpr float kApart = 3;  // radii from one pixel to the next: the hand went over an edge to something behind it

Vec3 placeOf(const StrokePoint& p) { return {p.x, p.y, p.z}; }
Vec3 towardsOf(const StrokePoint& p) { return {p.towards_x, p.towards_y, p.towards_z}; }

}  // namespace

float brush_radius_on(const DrapeView& view) {
  return std::clamp(static_cast<float>(brush().radius) * mesh_of(view)->longest_side(), kThinnestStroke,
                    kWidestOnShape);
}

ShapeBrush::ShapeBrush(std::function<std::optional<Sight>()> sight, QObject* parent)
    : QObject(parent), sight_(std::move(sight)) {}

std::optional<StrokePoint> ShapeBrush::met(const Sight& sight, QPointF at, double pressure) const {
  const auto hit =
      sight.drape.under(static_cast<float>(at.x() * sight.density), static_cast<float>(at.y() * sight.density));
  if (!hit) return {};
  const Vec3 n = shape_normal(*hit);
  return StrokePoint{hit->place.x, hit->place.y, hit->place.z, static_cast<float>(pressure), n.x, n.y, n.z};
}

bool ShapeBrush::begin(QPointF at, bool erase, double pressure) {
  const auto sight = sight_();
  const auto first = sight ? met(*sight, at, pressure) : std::nullopt;
  if (!first) return false;
  drawing_ = true;
  last_.reset();
  last_at_ = at;
  Q_EMIT begun(erase);
  take(first, brush_radius_on(sight->drape.view()));
  return true;
}

// Every pixel on the hand's way, so that the stroke follows the shape and not the chord.
void ShapeBrush::goOn(QPointF at, double pressure) {
  const auto sight = sight_();
  if (!drawing_ || !sight) return;
  const QPointF way = at - last_at_;
  const float radius = brush_radius_on(sight->drape.view());
  const int steps = std::max(1, static_cast<int>(std::ceil(std::hypot(way.x(), way.y()))));
  for (int i = 1; i <= steps; ++i) take(met(*sight, last_at_ + way * i / steps, pressure), radius);
  last_at_ = at;
  at_ = at;
}

void ShapeBrush::take(const std::optional<StrokePoint>& point, float radius) {
  if (point) {
    const bool apart = !last_ || length(placeOf(*point) - placeOf(*last_)) > kApart * radius;
    Q_EMIT drawn(*point, apart);
  }
  last_ = point;
}

void ShapeBrush::end() {
  if (std::exchange(drawing_, false)) Q_EMIT ended();
}

// A circle about the place, flat on the shape.
void ShapeBrush::paint(QPainter& p) const {
  const auto sight = at_ ? sight_() : std::nullopt;
  const auto on = sight ? met(*sight, *at_, 1) : std::nullopt;
  if (!on) return;
  const Frame frame(towardsOf(*on));
  const auto ring = [&](float radius) {
    QPolygonF line;
    constexpr int kSteps = 64;
    for (int i = 0; i <= kSteps; ++i) {
      const float a = 2 * kPi * static_cast<float>(i) / kSteps;
      const auto at = sight->drape.shown_at(placeOf(*on) + frame.world({std::cos(a), std::sin(a), 0}) * radius);
      if (at) line << QPointF(static_cast<double>((*at)[0]), static_cast<double>((*at)[1])) / sight->density;
    }
    return line;
  };
  const float radius = brush_radius_on(sight->drape.view()), soft = static_cast<float>(brush().softness);
  p.setBrush(Qt::NoBrush);
  for (const bool edge : {true, false}) {
    p.setPen(brushPen(brush(), edge, false));
    p.drawPolyline(ring(radius));
    p.setPen(brushPen(brush(), edge, true));
    if (soft > 0.02f) p.drawPolyline(ring(radius * (1 - soft)));
  }
}

}  // namespace loom::app

#include "moc_shape_brush.cpp"
