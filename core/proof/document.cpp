// What can be told from the document alone.
#include <set>

#include "core/graph/surface_reach.h"
#include "core/program/formula.h"
#include "core/proof/grade.h"

namespace loom {
namespace {

void take_names(const std::string& formula, std::set<std::string>& names) {
  if (const auto parsed = parse_formula(formula))
    for (const std::string& name : names_in(*parsed)) names.insert(name);
}

// The values that a parameter reads.
void take_read(const std::string& id, const ParamValue& value, std::set<std::string>& names) {
  if (const auto* follow = std::get_if<Follow>(&value)) names.insert(follow->value);
  if (const auto* formula = std::get_if<Formula>(&value)) take_names(formula->text, names);
  if (const auto* rule = std::get_if<Rule>(&value))
    for (const RuleEnd* end : {&rule->from, &rule->to}) names.insert(end->follow);
  if (const auto* text = std::get_if<std::string>(&value); text && id == "formula") take_names(*text, names);
}

std::set<std::string> values_in_use(const Material& m) {
  std::set<std::string> names;
  const auto look = [&](const std::vector<NodePtr>& nodes) {
    for (const NodePtr& n : nodes)
      for (const auto& [id, value] : n->params) take_read(id, value, names);
  };
  look(m.nodes);
  for (const auto& g : m.groups) look(g->nodes);
  for (const Value& v : m.values) take_read({}, v.value, names);
  return names;
}

std::string listed(const std::vector<std::string>& names) {
  std::string all;
  for (const std::string& name : names) all += (all.empty() ? "" : ", ") + name;
  return all;
}

Finding counted(const std::vector<std::string>& names, const std::string& none) {
  Finding f = within("", static_cast<double>(names.size()), 0, 1e9);
  f.told = names.empty() ? none : listed(names);
  return f;
}

}  // namespace

std::optional<Finding> unused_dials(const Judged& j, const Stop&) {
  const auto used = values_in_use(j.material);
  std::vector<std::string> idle;
  bool any = false;
  for (const Value& v : j.material.values) {
    if (!v.dial) continue;
    any = true;
    if (!used.count(v.id)) idle.push_back(v.dial->label.empty() ? v.id : v.dial->label);
  }
  return any ? std::optional(counted(idle, "each turns something")) : std::nullopt;
}

std::optional<Finding> not_a_map(const Judged& j, const Stop&) {
  std::vector<std::string> slots;
  for (const auto& [slot, use] : slots_on_surface(j.material, j.catalogue)) slots.push_back(slot);
  return counted(slots, "all slots are maps");
}

}  // namespace loom
