// v runs down, angles run anticlockwise as seen.
#include "app/loupe/handles.h"

#include <algorithm>
#include <cmath>
#include <optional>

#include "core/nodes/catalogue.h"

namespace loom::app {
namespace {

constexpr double kRadians = 0.017453292519943295, kArm = 0.3, kBeyondBox = 0.07;  // how far out an angle is held

// What a hand can drag; null where a rule or formula stands.
const ParamValue* plainValue(const Material& m, const Node& n, const Parameter& p) {
  const ParamValue* const v = plain_value(m, n, p.id, p.initial);
  return v && (std::holds_alternative<double>(*v) || std::holds_alternative<Vector>(*v)) ? v : nullptr;
}

std::optional<QPointF> pairOf(const ParamValue* v) {
  const auto* vector = v ? std::get_if<Vector>(v) : nullptr;
  return vector && vector->size() >= 2 ? std::optional(QPointF((*vector)[0], (*vector)[1])) : std::nullopt;
}

// What stands outside of the tile is held at its other side.
QPointF onTile(QPointF at) { return {at.x() - std::floor(at.x()), at.y() - std::floor(at.y())}; }

QPointF placeOf(const ParamValue* v, double origin) {
  const auto pair = pairOf(v);
  return pair ? onTile(*pair + QPointF(origin, origin)) : QPointF(0.5, 0.5);
}

QPointF turnedBy(double degrees, QPointF d) {
  const double c = std::cos(degrees * kRadians), s = std::sin(degrees * kRadians);
  return {c * d.x() + s * d.y(), c * d.y() - s * d.x()};
}

double lengthAlong(QPointF d, QPointF way) { return QPointF::dotProduct(d, way) / QPointF::dotProduct(way, way); }

std::optional<HandleView> viewOf(const Material& m, const Node& n, const NodeType& type, const Handle& h) {
  const Parameter& p = *type.parameter(h.parameter);
  const ParamValue* v = plainValue(m, n, p);
  if (!v || !parameter_acts(type, p, n.params,
                            [&](std::string_view peg) { return m.into(n.id, std::string(peg)) != nullptr; }))
    return {};
  HandleView view{.handle = h,
                  .node = n.id,
                  .label = QString::fromStdString(p.label),
                  .about = QPointF(0.5, 0.5),
                  .at = {},
                  .value = std::holds_alternative<double>(*v) ? std::get<double>(*v) : 0};
  if (!h.about.empty()) {
    const ParamValue* about = plainValue(m, n, *type.parameter(h.about));
    if (!about && h.form == Handle::Form::box) return {};
    view.about = placeOf(about, h.origin);
    view.moved = pairOf(about).value_or(QPointF());
  }
  switch (h.form) {
    case Handle::Form::place:
      view.about = view.at = placeOf(v, h.origin);
      break;
    case Handle::Form::angle:
      view.at = view.about + QPointF(std::cos(view.value * kRadians), -std::sin(view.value * kRadians)) * kArm;
      break;
    case Handle::Form::radius:
      view.at = view.about + QPointF(view.value * h.scale, 0);
      break;
    case Handle::Form::line_u:
      view.at = QPointF(view.value, 0.5);
      break;
    case Handle::Form::line_v:
      view.at = QPointF(0.5, view.value);
      break;
    case Handle::Form::box: {
      const QPointF lengths = pairOf(v).value_or(QPointF(1, 1));
      view.lengths = QSizeF(lengths.x(), lengths.y());
      const ParamValue* turn = plainValue(m, n, *type.parameter(h.turn));
      if (!turn) return {};
      view.turn = std::get<double>(*turn);
      break;
    }
  }
  return view;
}

// What one parameter becomes.
ParamValue valueAt(const HandleView& view, const Parameter& p, QPointF to, bool fine) {
  const auto tidy = [&](double x, double step) {
    return std::clamp(fine ? x : std::round(x / step) * step, p.limits.least, p.limits.most);
  };
  const QPointF d = to - view.about;
  switch (view.handle.form) {
    case Handle::Form::place:
      return Vector{tidy(to.x() - view.handle.origin, 0.001), tidy(to.y() - view.handle.origin, 0.001)};
    case Handle::Form::angle: {
      // The turn nearest to the one that stands, so that a drag over the seam goes on.
      double degrees = std::atan2(-d.y(), d.x()) / kRadians;
      degrees += 360 * std::round((view.value - degrees) / 360);
      return tidy(degrees, 1);
    }
    case Handle::Form::radius:
      return tidy(std::hypot(d.x(), d.y()) / view.handle.scale, 0.001);
    case Handle::Form::line_u:
      return tidy(to.x(), 0.001);
    case Handle::Form::line_v:
      return tidy(to.y(), 0.001);
    case Handle::Form::box:
      break;
  }
  return 0.0;
}

// One for each side and corner; corners come last, so that they are seen over sides.
std::vector<HandleView> gripsOf(const HandleView& box) {
  std::vector<HandleView> grips;
  for (const QPoint grip : {QPoint(-1, 0), QPoint(1, 0), QPoint(0, -1), QPoint(0, 1), QPoint(-1, -1), QPoint(1, -1),
                            QPoint(-1, 1), QPoint(1, 1)}) {
    grips.push_back(box);
    grips.back().grip = grip;
    grips.back().at = box.ofBox(grip);
  }
  return grips;
}

// The turn of a box is held beyond its side.
void clearOfBoxes(std::vector<HandleView>& views) {
  for (HandleView& angle : views)
    for (const HandleView& box : views)
      if (angle.handle.form == Handle::Form::angle && box.handle.form == Handle::Form::box && angle.node == box.node &&
          angle.handle.about == box.handle.about)
        angle.at = box.about + turnedBy(angle.value, QPointF(box.lengths.width() / 2 + kBeyondBox, 0));
}

Turned boxDraggedTo(const HandleView& view, const NodeType& type, QPointF to, HowDragged how) {
  const Limits limits = type.parameter(view.handle.parameter)->limits;
  const QPointF was = {view.lengths.width(), view.lengths.height()}, grip = view.grip;
  const QPointF across = how.about_middle ? view.about : view.ofBox(-grip);  // stays where it is
  const QPointF d = turnedBy(-view.turn, to - across);                       // along the box's own u and v
  const double span = how.about_middle ? 2 : 1;
  const auto within = [&](double x) {
    return std::clamp(how.fine ? x : std::round(x * 1000) / 1000, limits.least, limits.most);
  };
  QPointF now = was;
  if (grip.x() != 0 && grip.y() != 0) {
    const QPointF diagonal(grip.x() * was.x(), grip.y() * was.y());
    const double share = std::max({lengthAlong(d, diagonal) * span, limits.least / was.x(), limits.least / was.y()});
    now = was * std::min({share, limits.most / was.x(), limits.most / was.y()});
  } else if (grip.x() != 0) {
    now.setX(within(d.x() * grip.x() * span));
  } else {
    now.setY(within(d.y() * grip.y() * span));
  }
  Turned turned = {{view.handle.parameter, Vector{now.x(), now.y()}}};
  if (how.about_middle) return turned;
  const QPointF grown((now.x() - was.x()) * grip.x() / 2, (now.y() - was.y()) * grip.y() / 2);
  const QPointF moved = view.moved + turnedBy(view.turn, grown);
  turned.emplace_back(view.handle.about, Vector{moved.x(), moved.y()});
  return turned;
}

}  // namespace

std::vector<HandleView> handlesOf(const Material& m, const std::string& node, const std::string& peg) {
  std::vector<HandleView> views;
  const auto add = [&](const std::string& of, const std::string& over) {
    const Node* n = m.node(of);
    const NodeType* type = n ? catalogue().find(n->type) : nullptr;
    if (!type) return;
    for (const Handle& h : type->handles)
      if (h.peg == over)
        if (auto view = viewOf(m, *n, *type, h)) {
          if (h.form != Handle::Form::box)
            views.push_back(std::move(*view));
          else
            for (HandleView& grip : gripsOf(*view)) views.push_back(std::move(grip));
        }
  };
  add(node, {});
  for (const Thread& t : m.threads)
    if (t.from_node == node && t.from_peg == peg) add(t.to_node, t.to_peg);
  clearOfBoxes(views);
  return views;
}

QPointF HandleView::ofBox(QPointF of) const {
  return about + turnedBy(turn, QPointF(of.x() * lengths.width() / 2, of.y() * lengths.height() / 2));
}

Turned draggedTo(const HandleView& view, const NodeType& type, QPointF to, HowDragged how) {
  if (view.handle.form == Handle::Form::box) return boxDraggedTo(view, type, to, how);
  return {{view.handle.parameter, valueAt(view, *type.parameter(view.handle.parameter), to, how.fine)}};
}

}  // namespace loom::app
