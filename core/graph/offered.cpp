#include "core/graph/offered.h"

#include <algorithm>

#include "core/graph/worked_values.h"
#include "core/program/formula.h"

namespace loom {
namespace {

std::vector<const Parameter*> followers(const std::vector<NodePtr>& nodes, const Catalogue& catalogue,
                                        const std::string& value) {
  std::vector<const Parameter*> all;
  for (const NodePtr& n : nodes)
    for (const auto& [id, held] : n->params) {
      const auto* follow = std::get_if<Follow>(&held);
      const NodeType* type = follow && follow->value == value ? catalogue.find(n->type) : nullptr;
      if (const Parameter* p = type ? type->parameter(id) : nullptr) all.push_back(p);
    }
  return all;
}

Limits common(Limits a, Limits b) { return {std::max(a.least, b.least), std::min(a.most, b.most)}; }

// A dial may make whole numbers of any, and any of whole ones; switches, seeds and all that is no number stay what
// they are.
ParameterKind kind_offered(ParameterKind of_dial, ParameterKind of_parameter) {
  const bool number = of_parameter == ParameterKind::scalar || of_parameter == ParameterKind::integer;
  return number ? of_dial : of_parameter;
}

ParameterKind kind_held(ParameterKind of_dial, const ParamValue& value) {
  if (const auto* vector = std::get_if<Vector>(&value))
    return vector->size() == 3 ? ParameterKind::colour : ParameterKind::vector2;
  return std::holds_alternative<std::string>(value) ? ParameterKind::text : of_dial;
}

std::map<std::string, double> names_for_acting(const std::vector<NodePtr>& nodes, const std::vector<Value>& values,
                                               const Catalogue& catalogue) {
  std::map<std::string, double> names = work_out(values).numbers;
  for (const Value& v : values) {
    const auto* text = std::get_if<std::string>(&v.value);
    if (!text) continue;
    const Parameter p = offered_parameter(nodes, catalogue, v);
    const auto word = std::find(p.options.begin(), p.options.end(), *text);
    names[v.id] = p.kind == ParameterKind::choice && word != p.options.end()
                      ? static_cast<double>(word - p.options.begin())
                      : (text->empty() ? 0 : 1);
  }
  return names;
}

}  // namespace

Parameter offered_parameter(const std::vector<NodePtr>& nodes, const Catalogue& catalogue, const Value& value) {
  const Dial dial = value.dial.value_or(Dial{value.id, "", "", 0, 1, value.value});
  Parameter p;
  p.id = value.id, p.label = dial.label, p.column = dial.group, p.help = dial.help;
  p.initial = dial.at_start;
  p.useful = {dial.least, dial.most};
  p.step = dial.step;
  p.acts.reason = dial.acts.reason;
  const auto following = followers(nodes, catalogue, value.id);
  if (following.empty()) {
    p.kind = kind_held(dial.kind, value.value);
  } else {
    const Parameter& first = *following.front();
    p.kind = kind_offered(dial.kind, first.kind);
    p.unit = first.unit, p.options = first.options, p.names = first.names;
    p.limits = first.limits;
    for (const Parameter* other : following) {
      p.limits = common(p.limits, other->limits);
      if (p.kind == ParameterKind::choice)
        std::erase_if(p.options, [&](const std::string& word) {
          return std::find(other->options.begin(), other->options.end(), word) == other->options.end();
        });
    }
  }
  if (dial.unit) p.unit = *dial.unit;
  if (dial.limits) p.limits = common(p.limits, *dial.limits);
  return p;
}

bool dial_acts(const std::vector<NodePtr>& nodes, const std::vector<Value>& values, const Catalogue& catalogue,
               const Value& value) {
  if (!value.dial || value.dial->acts.formula.empty()) return true;
  const auto acting = evaluate_formula(value.dial->acts.formula, names_for_acting(nodes, values, catalogue));
  return !acting || *acting != 0;
}

std::vector<Error> dial_faults(const std::vector<NodePtr>& nodes, const std::vector<Value>& values,
                               const Catalogue& catalogue, const Value& value) {
  const Dial& dial = *value.dial;
  const std::string where = "value " + value.id + ", dial";
  std::vector<Error> faults;
  if (dial.least > dial.most) faults.push_back({where, "min lies above max", "Swap them"});
  if (dial.limits && dial.limits->least > dial.limits->most)
    faults.push_back({where + ", limits", "the first lies above the second", "Swap them"});
  if (!(dial.step >= 0)) faults.push_back({where + ", step", "is below 0", "Write 0 for any setting"});
  if (!dial.acts.formula.empty())
    if (const auto acting = evaluate_formula(dial.acts.formula, names_for_acting(nodes, values, catalogue)); !acting)
      faults.push_back({where + ", acts_when, " + acting.error().where, acting.error().what, acting.error().mend});
  return faults;
}

}  // namespace loom
