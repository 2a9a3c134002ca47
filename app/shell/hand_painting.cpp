// A stroke grows in the document while it is drawn, so that all that rests on it is seen at once.
#include "app/shell/hand_painting.h"

#include <cmath>

#include "app/base/brush.h"
#include "app/drape/drape_panel.h"
#include "app/loupe/loupe.h"
#include "app/shell/navigation.h"
#include "core/graph/edit.h"
#include "core/nodes/catalogue.h"
#include "core/weave/flatten.h"

namespace loom::app {
namespace {

constexpr int kBetween = 25;  // milliseconds from one edit of a growing stroke to the next

const std::string* strokesOf(const NodeType& type) {
  for (const Parameter& p : type.parameters)
    if (p.kind == ParameterKind::strokes) return &p.id;
  return nullptr;
}

}  // namespace

HandPainting::HandPainting(Navigation& navigation, Loupe& loupe, DrapePanel& drape, QObject* parent)
    : QObject(parent), navigation_(navigation), loupe_(loupe), drape_(drape) {
  connect(&loupe_, &Loupe::strokeBegun, this, [this](bool erase) { begin(erase, false); });
  connect(&loupe_, &Loupe::strokeDrawn, this, qOverload<QPointF, double>(&HandPainting::draw));
  connect(&loupe_, &Loupe::strokeEnded, this, &HandPainting::end);
  connect(&loupe_, &Loupe::drawnOnShape, this,
          [this] { Q_EMIT message(tr("What was painted on the shape goes on there: Shift+B draws on the drape")); });
  connect(&drape_.shapeBrush(), &ShapeBrush::begun, this, [this](bool erase) { begin(erase, true); });
  connect(&drape_.shapeBrush(), &ShapeBrush::drawn, this, qOverload<const StrokePoint&, bool>(&HandPainting::draw));
  connect(&drape_.shapeBrush(), &ShapeBrush::ended, this, &HandPainting::end);
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
  drape_.setPaints(!kind_.empty());
}

void HandPainting::toggleOnShape() {
  if (kind_.empty()) return Q_EMIT message(tr("Show a Hand paint node in the loupe first: what is drawn goes there"));
  drape_.setDrawing(!drape_.draws());
}

const Strokes& HandPainting::strokesHeld() const {
  static const Strokes kNone;
  const Node* n = navigation_.shown().node(node_);
  const auto held = n->params.find(*strokesOf(*catalogue().find(n->type)));
  const auto* strokes = held == n->params.end() ? nullptr : std::get_if<Strokes>(&held->second);
  return strokes ? *strokes : kNone;
}

// What lies on the shape may feed nothing that reads its neighbours on the tile.
std::optional<Error> HandPainting::refusedOnShape() const {
  if (any_on(before_, true)) return {};
  HandStroke dab;
  dab.on_shape = true;
  dab.points.push_back({});
  Strokes with = before_;
  with.all.push_back(kept(std::move(dab)));
  const NodeType& type = *catalogue().find(navigation_.shown().node(node_)->type);
  const auto flat =
      flatten(navigation_.whole(edit::set_param(navigation_.shown(), node_, *strokesOf(type), with)), catalogue());
  return flat ? std::nullopt : std::optional(flat.error());
}

void HandPainting::begin(bool erase, bool on_shape) {
  if (!navigation_.shown().node(node_) || kind_.empty()) return;
  before_ = strokesHeld();
  if (const auto refused = on_shape ? refusedOnShape() : std::nullopt)
    return Q_EMIT message(tr("Not drawn: %1").arg(QString::fromStdString(refused->text())));
  drawn_ = node_;
  HandStroke fresh = brush().stroke(kind_);
  fresh.on_shape = on_shape;
  if (on_shape) fresh.radius = brush_radius_on(drape_.view());
  fresh.erase |= erase;
  drawing_ = {fresh};
}

// From the tile in which it begins, and on from there over its edges.
void HandPainting::draw(QPointF tile, double pressure) {
  if (drawn_.empty()) return;
  if (drawing_.back().points.empty()) start_ = QPointF(std::floor(tile.x()), std::floor(tile.y()));
  draw(StrokePoint{static_cast<float>(tile.x() - start_.x()), static_cast<float>(tile.y() - start_.y()), 0,
                   static_cast<float>(pressure)},
       false);
}

void HandPainting::draw(const StrokePoint& point, bool apart) {
  if (drawn_.empty()) return;
  std::vector<StrokePoint>* points = &drawing_.back().points;
  if (!points->empty() && points->back() == point) return;
  if ((apart && !points->empty()) || points->size() >= kMostStrokePoints) {
    const StrokePoint last = points->back();
    drawing_.push_back(drawing_.back());
    points = &drawing_.back().points;
    points->clear();
    if (!apart) points->push_back(last);
  }
  points->push_back(point);
  if (!soon_.isActive()) soon_.start();
}

void HandPainting::end() {
  soon_.stop();
  if (!drawn_.empty() && !drawing_.front().points.empty()) tell(true);
  drawn_.clear();
  Q_EMIT gestureEnded();
}

void HandPainting::tell(bool done) {
  const Node* n = navigation_.shown().node(drawn_);
  if (!n) return;
  Strokes all = before_;
  for (HandStroke now : drawing_) {
    if (done) now.points = thinned(now.points, 0.02f * now.radius);
    all.all.push_back(kept(std::move(now)));
  }
  navigation_.edit(drawing_.front().erase ? tr("Erase with a stroke") : tr("Draw a stroke"),
                   edit::set_param(navigation_.shown(), drawn_, *strokesOf(*catalogue().find(n->type)), all),
                   QStringLiteral("stroke"));
}

}  // namespace loom::app

#include "moc_hand_painting.cpp"
