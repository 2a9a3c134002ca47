// Formula: plain mathematical notation over up to four inputs and the place in the tile.
#include "core/program/formula.h"

#include "core/graph/material.h"
#include "core/nodes/node_call.h"

namespace loom {
namespace {

void emit_formula(Emitter& e) {
  const ParamValue& held = e.param("formula");
  const auto* text = std::get_if<std::string>(&held);
  FormulaScope scope;
  for (const std::string peg : {"a", "b", "c", "d"}) {
    scope.names[peg] = e.in(peg);
    scope.maps[peg] = [&e, peg](Reg u, Reg v) {
      return e.whole(peg) ? e.read_at(peg, u, v, e.b.footprint(u, v)) : e.in(peg);
    };
  }
  scope.names["u"] = {.kind = Kind::scalar, .at = {e.b.u()}};
  scope.names["v"] = {.kind = Kind::scalar, .at = {e.b.v()}};
  const auto parsed = parse_formula(text ? *text : "0");
  const auto value = parsed ? compile_formula(*parsed, scope, e.b) : Result<Strands>(parsed.error());
  if (value) return e.out("result", *value);
  e.fault = value.error();
  e.out("result", e.b.constant(0));
}

Kind gives_formula(const Node& node, const std::function<Kind(const std::string&)>& of) {
  const auto held = node.params.find("formula");
  const auto* text = held == node.params.end() ? nullptr : std::get_if<std::string>(&held->second);
  const auto parsed = parse_formula(text ? *text : "0");
  std::map<std::string, Kind, std::less<>> kinds;
  for (const std::string peg : {"a", "b", "c", "d"}) {
    const Kind kind = of(peg);
    kinds[peg] = kind == Kind::normal ? Kind::vector3 : kind;
  }
  // Without a text of its own it holds the first one, which is as wide as what comes in.
  if (!text) return wider(wider(kinds["a"], kinds["b"]), wider(kinds["c"], kinds["d"]));
  return parsed ? kind_of_formula(*parsed, kinds) : Kind::scalar;
}

Parameter operand(const char* id) {
  return scalar(id, std::string(1, static_cast<char>(id[0] - 32)), 0.5)
      .limits(-1e6, 1e6)
      .column("Inputs")
      .stands_in(std::string("(connected(") + id + ") == 0) * uses_" + id,
                 "It comes in at its peg, or the formula does not use it.");
}

Peg operand_peg(const char* id) {
  return {.id = id, .label = std::string(1, static_cast<char>(id[0] - 32)), .kind = Kind::any, .whole_when = "formula"};
}

}  // namespace

void add_formula(Catalogue& catalogue) {
  catalogue.add(
      {.id = "formula",
       .label = "Formula",
       .rack = Rack::compute,
       .help = "A formula of a, b, c, d and the place u, v.",
       .more = "Plain notation: + - * / ^, brackets, comparisons and functions. Angles are radians. A vector or colour "
               "is worked on strand by strand. a(u, v) reads A at another place: a(u + 0.1, v) is a tenth of the tile "
               "to the right.",
       .words = "expression math script equation read sample elsewhere",
       .inputs = {operand_peg("a"), operand_peg("b"), operand_peg("c"), operand_peg("d")},
       .outputs = {{"result", "Result", Kind::any}},
       .parameters = {formula("formula", "Formula", "a * b + c * d")
                          .column("Formula")
                          .help("Mathematics over a, b, c and d, and over u and v, the place."),
                      operand("a"), operand("b"), operand("c"), operand("d")},
       .emit = emit_formula,
       .gives = gives_formula,
       .follows_positions = false});
}

}  // namespace loom
