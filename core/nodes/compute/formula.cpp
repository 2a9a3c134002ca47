// Formula: plain mathematical notation over up to four inputs and the place in the tile.
#include "core/program/formula.h"

#include "core/nodes/node_call.h"

namespace loom {
namespace {

void emit(Emitter& e) {
  const ParamValue& held = e.param("formula");
  const auto* text = std::get_if<std::string>(&held);
  FormulaScope scope;
  for (const char* peg : {"a", "b", "c", "d"}) scope.names[peg] = e.in(peg);
  scope.names["u"] = {.kind = Kind::scalar, .at = {e.b.u()}};
  scope.names["v"] = {.kind = Kind::scalar, .at = {e.b.v()}};
  const auto parsed = parse_formula(text ? *text : "0");
  const auto value = parsed ? compile_formula(*parsed, scope, e.b) : Result<Strands>(parsed.error());
  if (value) return e.out("result", *value);
  e.fault = value.error();
  e.out("result", e.b.constant(0));
}

Parameter operand(const char* id) {
  return {id, std::string(1, static_cast<char>(id[0] - 32)), ParameterKind::scalar, Unit::none, 0.5, {0, 1}, {-1e6, 1e6}, "Inputs", {}, {std::string("connected(") + id + ") == 0", "It comes in at its peg."}};
}

}  // namespace

void add_formula(Catalogue& catalogue) {
  catalogue.add({.id = "formula", .label = "Formula", .rack = Rack::compute, .help = "A formula of a, b, c, d and the place u, v.",
    .more = "Plain notation: + - * / ^, brackets, comparisons and functions. Angles are radians. A vector or colour is worked on strand by strand.",
    .words = "expression math script equation",
    .inputs = {{"a", "A", Kind::any}, {"b", "B", Kind::any}, {"c", "C", Kind::any}, {"d", "D", Kind::any}}, .outputs = {{"result", "Result", Kind::any}},
    .parameters = {{"formula", "Formula", ParameterKind::formula, Unit::none, std::string("a * b + c * d"), {}, {}, "Formula"}, operand("a"), operand("b"), operand("c"), operand("d")},
    .emit = emit, .follows_positions = false});
}

}  // namespace loom
