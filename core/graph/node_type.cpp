// The catalogue's order, and "acts when".
#include "core/graph/node_type.h"

#include <algorithm>

#include "core/graph/material.h"
#include "core/program/formula.h"

namespace loom {

NodeType::~NodeType() = default;

void Catalogue::add(const NodeType& type) { types_.emplace(type.id, type); }

int NodeType::item_of(std::string_view parameter) const {
  if (!list) return 0;
  for (const std::string& name : list->parameters)
    if (parameter.size() > name.size() + 1 && parameter.substr(0, name.size()) == name &&
        parameter[name.size()] == '_') {
      int number = 0;
      for (const char c : parameter.substr(name.size() + 1)) {
        if (c < '0' || c > '9') return 0;
        number = number * 10 + (c - '0');
      }
      return number;
    }
  return 0;
}

std::vector<const NodeType*> Catalogue::all() const {
  std::vector<const NodeType*> list;
  for (const auto& [id, type] : types_) list.push_back(&type);
  std::stable_sort(list.begin(), list.end(), [](const NodeType* a, const NodeType* b) {
    return a->rack != b->rack ? a->rack < b->rack : a->label < b->label;
  });
  return list;
}

std::optional<Error> refusal(const NodeType& type, const Peg& peg, Kind from) {
  if (peg.kind != Kind::any) {
    if (converts(from, peg.kind)) return {};
    std::string mend = "Take an output of kind " + std::string(kind_name(peg.kind));
    if (from == Kind::set) mend = "Put Open set between, and take one of its maps";
    if (from == Kind::regions) mend = "Put Region values between, and take one of its outputs";
    return Error{"", "a " + std::string(kind_name(from)) + " cannot become a " + std::string(kind_name(peg.kind)),
                 mend};
  }
  if (from == Kind::regions && !type.takes_regions)
    return Error{"", type.label + " does not work on regions: what lies between two labels means nothing",
                 "Put Region values between, and take one of its outputs"};
  if (from == Kind::set && !type.takes_sets)
    return Error{"", type.label + " works on one map, and this cord carries many",
                 "Put Open set between, and take one of its maps"};
  return {};
}

std::optional<Kind> common_kind(const NodeType& type, const std::vector<Kind>& kinds) {
  const auto any_of = [&](Kind kind) { return std::find(kinds.begin(), kinds.end(), kind) != kinds.end(); };
  for (const Kind apart : {Kind::set, Kind::regions})
    if (any_of(apart))
      return std::all_of(kinds.begin(), kinds.end(), [&](Kind k) { return k == apart; }) ? std::optional(apart)
                                                                                         : std::nullopt;
  Kind widest = Kind::any;
  bool direction = any_of(Kind::normal) && type.keeps_normals;
  for (const Kind kind : kinds) {
    direction &= kind == Kind::normal || kind == Kind::vector3;
    widest = wider(widest, kind == Kind::normal ? Kind::vector3 : kind);
  }
  if (direction) return Kind::normal;
  // Both have three: the pegs' order must not decide.
  if (widest == Kind::vector3 && any_of(Kind::colour)) return Kind::colour;
  return widest == Kind::any ? Kind::scalar : widest;
}

bool parameter_acts(const NodeType& type, const Parameter& parameter, const std::map<std::string, ParamValue>& params,
                    const std::function<bool(std::string_view)>& connected) {
  if (parameter.acts.formula.empty()) return true;
  std::map<std::string, double> names;
  for (const Parameter& p : type.parameters) {
    const auto it = params.find(p.id);
    const ParamValue& value = it == params.end() ? p.initial : it->second;
    for (std::size_t i = 0; i < p.options.size(); ++i) names[p.options[i]] = static_cast<double>(i);
    if (const auto* text = std::get_if<std::string>(&value);
        text && p.kind == ParameterKind::formula) {  // which pegs its text speaks of
      const auto parsed = parse_formula(*text);
      const auto used = parsed ? names_in(*parsed) : std::vector<std::string>{};
      for (const Peg& peg : type.inputs)
        names["uses_" + peg.id] = std::find(used.begin(), used.end(), peg.id) != used.end();
    }
    if (const auto* word = std::get_if<std::string>(&value)) {
      const auto at = std::find(p.options.begin(), p.options.end(), *word);
      names[p.id] = static_cast<double>(at - p.options.begin());
    } else if (const auto* number = std::get_if<double>(&value)) {
      names[p.id] = *number;
    } else if (const auto* vector = std::get_if<Vector>(&value)) {
      names[p.id] = vector->empty() ? 0 : std::abs((*vector)[0]) + std::abs(vector->back());
    } else {
      names[p.id] = 0.5;  // a rule, a formula: it varies, so what depends on it acts
    }
  }
  const auto value = evaluate_formula(parameter.acts.formula, names, connected);
  return !value || *value != 0;
}

SurfaceUse own_surface_use(const NodeType& type, const std::map<std::string, ParamValue>& params) {
  for (const Parameter& p : type.parameters) {
    if (p.kind != ParameterKind::strokes) continue;
    const auto held = params.find(p.id);
    const auto* strokes = held == params.end() ? nullptr : std::get_if<Strokes>(&held->second);
    if (strokes && any_on(*strokes, true)) return std::max(type.surface, SurfaceUse::shape);
  }
  return type.surface;
}

std::string painted_kind(const Node& node, const NodeType& type) {
  const bool paints = std::any_of(type.parameters.begin(), type.parameters.end(),
                                  [](const Parameter& p) { return p.kind == ParameterKind::strokes; });
  const Parameter* kind = paints ? type.parameter("kind") : nullptr;
  if (!kind) return {};
  const auto held = node.params.find("kind");
  const ParamValue& value = held == node.params.end() ? kind->initial : held->second;
  const auto* word = std::get_if<std::string>(&value);
  return word ? *word : std::string("mask");
}

}  // namespace loom
