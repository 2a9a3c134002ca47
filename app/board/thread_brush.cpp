// Everything stands on whole pixels, so that runs and corners meet without a seam.
#include "app/board/thread_brush.h"

#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

namespace loom::app {
namespace {

QPoint direction(QPoint from, QPoint to) {
  const auto sign = [](int x) { return x > 0 ? 1 : x < 0 ? -1 : 0; };
  return {sign(to.x() - from.x()), sign(to.y() - from.y())};
}

// Rounded to pixels, without those on a straight line; empty if a run is neither level nor upright.
std::vector<QPoint> squared(const std::vector<QPointF>& corners) {
  std::vector<QPoint> way;
  for (const QPointF& c : corners) {
    const QPoint at(qRound(c.x()), qRound(c.y()));
    if (!way.empty() && at == way.back()) continue;
    if (!way.empty() && at.x() != way.back().x() && at.y() != way.back().y()) return {};
    if (way.size() > 1 && direction(way[way.size() - 2], way.back()) == direction(way.back(), at))
      way.back() = at;
    else
      way.push_back(at);
  }
  return way;
}

int length(QPoint a, QPoint b) { return std::abs(a.x() - b.x()) + std::abs(a.y() - b.y()); }

int reach(const ThreadLook& look) {
  qreal widest = 0;
  for (const auto& layer : look.layers) widest = std::max(widest, layer.width);
  return static_cast<int>(std::ceil(widest / 2)) + 1;
}

}  // namespace

// Its middle is where the runs would meet.
const QPixmap& ThreadBrush::stamp(const ThreadLook& look, QPoint in, QPoint out, int radius, qreal ratio) {
  const int turn = (in.x() + 1) * 27 + (in.y() + 1) * 9 + (out.x() + 1) * 3 + out.y() + 1;
  QPixmap& made = stamps_[{look.name * 100 + turn, radius * 64 + qRound(ratio * 8)}];
  if (!made.isNull()) return made;
  const int half = radius + reach(look);
  made = QPixmap(QSize(2 * half, 2 * half) * ratio);
  made.setDevicePixelRatio(ratio);
  made.fill(Qt::transparent);
  QPainterPath path(-in * radius);
  path.quadTo(QPointF(0, 0), QPointF(out * radius));
  QPainter p(&made);
  p.setRenderHint(QPainter::Antialiasing);
  p.translate(half, half);
  for (const auto& layer : look.layers) p.strokePath(path, QPen(layer.colour, layer.width, Qt::SolidLine, Qt::FlatCap));
  return made;
}

bool ThreadBrush::paint(QPainter& p, const std::vector<QPointF>& corners, const ThreadLook& look, const QRectF& seen) {
  const std::vector<QPoint> way = squared(corners);
  if (way.size() < 2) return corners.size() < 2;
  const int aside = reach(look);
  const QRectF around = seen.adjusted(-aside - kRadius, -aside - kRadius, aside + kRadius, aside + kRadius);
  const qreal ratio = p.device()->devicePixelRatio();
  int before = 0;  // how much of the run the corner at its beginning takes
  for (std::size_t i = 0; i + 1 < way.size(); ++i) {
    const QPoint from = way[i], to = way[i + 1], along = direction(from, to);
    const bool turns = i + 2 < way.size();
    const int after = turns ? std::min({kRadius, length(from, to) / 2, length(to, way[i + 2]) / 2}) : 0;
    const QPoint a = from + along * before, b = to - along * after;
    if (around.intersects(QRectF(a, b).normalized().adjusted(-1, -1, 1, 1)))
      for (const auto& layer : look.layers) {
        const qreal half = layer.width / 2;
        p.fillRect(along.y() == 0 ? QRectF(std::min(a.x(), b.x()), a.y() - half, std::abs(b.x() - a.x()), layer.width)
                                  : QRectF(a.x() - half, std::min(a.y(), b.y()), layer.width, std::abs(b.y() - a.y())),
                   layer.colour);
      }
    if (turns && around.contains(to)) {
      const QPixmap& corner = stamp(look, along, direction(to, way[i + 2]), after, ratio);
      const qreal half = corner.width() / ratio / 2;
      p.drawPixmap(to - QPointF(half, half), corner);
    }
    before = after;
  }
  return true;
}

}  // namespace loom::app
