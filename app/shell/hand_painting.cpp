// A stroke grows in the document while it is drawn, so that all that rests on it is seen at once.
#include "app/shell/hand_painting.h"

#include <cmath>

#include "app/base/brush.h"
#include "app/loupe/loupe.h"
#include "app/shell/navigation.h"
#include "core/graph/edit.h"
#include "core/nodes/catalogue.h"

namespace loom::app {
namespace {

constexpr int kBetween = 25;  // milliseconds from one edit of a growing stroke to the next

const std::string* strokesOf(const NodeType& type) {
  for (const Parameter& p : type.parameters)
    if (p.kind == ParameterKind::strokes) return &p.id;
  return nullptr;
}

}  // namespace

HandPainting::HandPainting(Navigation& navigation, Loupe& loupe, QObject* parent)
    : QObject(parent), navigation_(navigation), loupe_(loupe) {
  connect(&loupe_, &Loupe::strokeBegun, this, &HandPainting::begin);
  connect(&loupe_, &Loupe::strokeDrawn, this, &HandPainting::draw);
  connect(&loupe_, &Loupe::strokeEnded, this, &HandPainting::end);
  soon_.setSingleShot(true);
  soon_.setInterval(kBetween);
  connect(&soon_, &QTimer::timeout, this, [this] { tell(false); });
}

void HandPainting::show(const std::string& node) {
  const Node* n = navigation_.shown().node(node);
  const NodeType* type = n ? catalogue().find(n->type) : nullptr;
  node_ = node;
  kind_ = type ? painted_kind(*n, *type) : std::string();
  loupe_.setPaints(!kind_.empty());
}

void HandPainting::begin(bool erase) {
  const Node* n = navigation_.shown().node(node_);
  if (!n || kind_.empty()) return;
  drawn_ = node_;
  const auto held = n->params.find(*strokesOf(*catalogue().find(n->type)));
  const auto* strokes = held == n->params.end() ? nullptr : std::get_if<Strokes>(&held->second);
  before_ = strokes ? *strokes : Strokes{};
  stroke_ = brush().stroke(kind_);
  stroke_.erase |= erase;
}

// From the tile in which it begins, and on from there over its edges.
void HandPainting::draw(QPointF tile, double pressure) {
  if (drawn_.empty()) return;
  StrokePoint p{static_cast<float>(tile.x()), static_cast<float>(tile.y()), 0, static_cast<float>(pressure)};
  if (stroke_.points.empty()) start_ = QPointF(std::floor(tile.x()), std::floor(tile.y()));
  p.x -= static_cast<float>(start_.x()), p.y -= static_cast<float>(start_.y());
  if (!stroke_.points.empty() && stroke_.points.back() == p) return;
  if (stroke_.points.size() < kMostStrokePoints) stroke_.points.push_back(p);
  if (!soon_.isActive()) soon_.start();
}

void HandPainting::end() {
  soon_.stop();
  if (!drawn_.empty() && !stroke_.points.empty()) tell(true);
  drawn_.clear();
  Q_EMIT gestureEnded();
}

void HandPainting::tell(bool done) {
  const Node* n = navigation_.shown().node(drawn_);
  if (!n) return;
  HandStroke now = stroke_;
  if (done) now.points = thinned(now.points, 0.02f * now.radius);
  Strokes all = before_;
  all.all.push_back(kept(std::move(now)));
  navigation_.edit(stroke_.erase ? tr("Erase with a stroke") : tr("Draw a stroke"),
                   edit::set_param(navigation_.shown(), drawn_, *strokesOf(*catalogue().find(n->type)), all),
                   QStringLiteral("stroke"));
}

}  // namespace loom::app

#include "moc_hand_painting.cpp"
