#include "core/graph/offered.h"

namespace loom {

Parameter offered_parameter(const std::vector<NodePtr>& nodes, const Catalogue& catalogue, const Value& value) {
  const Dial dial = value.dial.value_or(Dial{value.id, "", "", 0, 1, value.value, false});
  Parameter p;
  p.id = value.id, p.label = dial.label, p.column = dial.group, p.help = dial.help;
  p.kind = dial.whole ? ParameterKind::integer : ParameterKind::scalar;
  p.initial = dial.at_start;
  p.useful = {dial.least, dial.most};
  for (const NodePtr& n : nodes)
    for (const auto& [id, held] : n->params) {
      const auto* follow = std::get_if<Follow>(&held);
      const NodeType* type = follow && follow->value == value.id ? catalogue.find(n->type) : nullptr;
      const Parameter* source = type ? type->parameter(id) : nullptr;
      if (!source) continue;
      p.kind = source->kind == ParameterKind::integer && !dial.whole ? ParameterKind::scalar : source->kind;
      p.unit = source->unit;
      p.limits = source->limits;
      p.options = source->options;
      p.names = source->names;
      return p;
    }
  if (const auto* vector = std::get_if<Vector>(&value.value))
    p.kind = vector->size() == 3 ? ParameterKind::colour : ParameterKind::vector2;
  if (std::holds_alternative<std::string>(value.value)) p.kind = ParameterKind::text;
  return p;
}

}  // namespace loom
