#include "core/plane/stroke.h"

#include <algorithm>
#include <cmath>
#include <utility>

namespace loom {
namespace {

// How far a point lies from the way between two others; its pressure counts as a fourth direction.
float strays(const StrokePoint& p, const StrokePoint& a, const StrokePoint& b, float radius) {
  const std::array<float, 4> ab{b.x - a.x, b.y - a.y, b.z - a.z, (b.pressure - a.pressure) * radius},
      ap{p.x - a.x, p.y - a.y, p.z - a.z, (p.pressure - a.pressure) * radius};
  float dot = 0, square = 0;
  for (std::size_t i = 0; i < 4; ++i) dot += ab[i] * ap[i], square += ab[i] * ab[i];
  const float t = square > 0 ? std::clamp(dot / square, 0.0f, 1.0f) : 0;
  float away = 0;
  for (std::size_t i = 0; i < 4; ++i) away += (ap[i] - t * ab[i]) * (ap[i] - t * ab[i]);
  return std::sqrt(away);
}

}  // namespace

bool operator==(const Strokes& a, const Strokes& b) {
  return std::equal(a.all.begin(), a.all.end(), b.all.begin(), b.all.end(),
                    [](const HandStrokePtr& x, const HandStrokePtr& y) { return x == y || x->key == y->key; });
}

double written_place(float x) { return std::round(static_cast<double>(x) * 1e5) / 1e5; }
double written_direction(float x) { return std::round(static_cast<double>(x) * 1e2) / 1e2; }
double written_share(float x) { return std::round(static_cast<double>(x) * 1e4) / 1e4; }

HandStrokePtr kept(HandStroke s) {
  const auto place = [](float& x) { x = static_cast<float>(written_place(x)); };
  const auto share = [](float& x) { x = static_cast<float>(written_share(x)); };
  const auto direction = [](float& x) { x = static_cast<float>(written_direction(x)); };
  place(s.radius), share(s.softness), share(s.strength);
  for (float& x : s.paint) share(x);
  KeyMaker key;
  key.add(s.on_shape ? 1 : 0).add(s.erase ? 1 : 0);
  for (const float x : {s.radius, s.softness, s.strength}) key.add(static_cast<double>(x));
  for (const float x : s.paint) key.add(static_cast<double>(x));
  for (StrokePoint& p : s.points) {
    place(p.x), place(p.y), place(p.z), share(p.pressure);
    direction(p.towards_x), direction(p.towards_y), direction(p.towards_z);
    if (!s.on_shape) p.z = p.towards_x = p.towards_y = p.towards_z = 0;
    for (const float x : {p.x, p.y, p.z, p.pressure, p.towards_x, p.towards_y, p.towards_z})
      key.add(static_cast<double>(x));
  }
  s.key = key.key();
  return std::make_shared<const HandStroke>(std::move(s));
}

bool any_on(const Strokes& strokes, bool shape) {
  return std::any_of(strokes.all.begin(), strokes.all.end(),
                     [shape](const HandStrokePtr& s) { return s->on_shape == shape; });
}

std::vector<StrokePoint> thinned(const std::vector<StrokePoint>& points, float tolerance) {
  if (points.size() < 3) return points;
  std::vector<char> stays(points.size(), 0);
  stays.front() = stays.back() = 1;
  std::vector<std::pair<std::size_t, std::size_t>> open{{0, points.size() - 1}};
  while (!open.empty()) {
    const auto [from, to] = open.back();
    open.pop_back();
    float most = tolerance;
    std::size_t at = from;
    for (std::size_t i = from + 1; i < to; ++i)
      if (const float away = strays(points[i], points[from], points[to], 0.5f); away > most) most = away, at = i;
    if (at == from) continue;
    stays[at] = 1;
    open.emplace_back(from, at);
    open.emplace_back(at, to);
  }
  std::vector<StrokePoint> left;
  for (std::size_t i = 0; i < points.size(); ++i)
    if (stays[i]) left.push_back(points[i]);
  return left;
}

}  // namespace loom
