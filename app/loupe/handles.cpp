// v runs down, angles run anticlockwise as seen.
#include "app/loupe/handles.h"

#include <algorithm>
#include <cmath>
#include <optional>

#include "core/nodes/catalogue.h"

namespace loom::app {
namespace {

constexpr double kRadians = 0.017453292519943295, kArm = 0.3;  // how far out an angle is held

// What a hand can drag; null where a rule or formula stands.
const ParamValue* plainValue(const Material& m, const Node& n, const Parameter& p) {
  const ParamValue* const v = plain_value(m, n, p.id, p.initial);
  return v && (std::holds_alternative<double>(*v) || std::holds_alternative<Vector>(*v)) ? v : nullptr;
}

QPointF placeOf(const ParamValue* v, double origin) {
  const auto* vector = v ? std::get_if<Vector>(v) : nullptr;
  return vector && vector->size() >= 2 ? QPointF(origin + (*vector)[0], origin + (*vector)[1]) : QPointF(0.5, 0.5);
}

std::optional<HandleView> viewOf(const Material& m, const Node& n, const NodeType& type, const Handle& h) {
  const Parameter& p = *type.parameter(h.parameter);
  const ParamValue* v = plainValue(m, n, p);
  if (!v || !parameter_acts(type, p, n.params,
                            [&](std::string_view peg) { return m.into(n.id, std::string(peg)) != nullptr; }))
    return {};
  HandleView view{h,
                  n.id,
                  QString::fromStdString(p.label),
                  QPointF(0.5, 0.5),
                  {},
                  std::holds_alternative<double>(*v) ? std::get<double>(*v) : 0};
  if (!h.about.empty()) view.about = placeOf(plainValue(m, n, *type.parameter(h.about)), h.origin);
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
  }
  return view;
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
        if (auto view = viewOf(m, *n, *type, h)) views.push_back(std::move(*view));
  };
  add(node, {});
  for (const Thread& t : m.threads)
    if (t.from_node == node && t.from_peg == peg) add(t.to_node, t.to_peg);
  return views;
}

ParamValue draggedTo(const HandleView& view, const Parameter& p, QPointF to, bool fine) {
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
  }
  return 0.0;
}

}  // namespace loom::app
