#include "core/graph/reading.h"

#include <algorithm>

#include "core/program/formula.h"

namespace loom {
namespace {

const ParamValue& held(const Params& params, const Parameter& p) {
  const auto it = params.find(p.id);
  return it == params.end() ? p.initial : it->second;
}

// The pegs that a parameter of kind `formula` reads at other places.
std::vector<std::string> read_elsewhere(const Params& params, const Parameter& by) {
  const auto* text = std::get_if<std::string>(&held(params, by));
  const auto parsed = text ? parse_formula(*text) : Result<Expression>(Error{});
  return parsed ? maps_in(*parsed) : std::vector<std::string>{};
}

}  // namespace

bool reads_a_map(const ParamValue& value) {
  const auto* rule = std::get_if<Rule>(&value);
  const auto* formula = std::get_if<Formula>(&value);
  return (rule && rule->by == "map") || (formula && formula->text.find("map_") != std::string::npos);
}

bool reads_maps_at_units(const NodeType& type, const Params& params) {
  return std::ranges::any_of(type.parameters,
                             [&](const Parameter& p) { return p.per_unit && reads_a_map(held(params, p)); });
}

bool reads_whole(const NodeType& type, const Params& params, const Peg& peg) {
  if (peg.whole_for_maps && reads_maps_at_units(type, params)) return true;
  const Parameter* by = peg.whole || peg.whole_when.empty() ? nullptr : type.parameter(peg.whole_when);
  if (!by) return peg.whole;
  if (by->kind == ParameterKind::formula) {
    const auto maps = read_elsewhere(params, *by);
    return std::find(maps.begin(), maps.end(), peg.id) != maps.end();
  }
  const auto* on = std::get_if<double>(&held(params, *by));
  return on && *on != 0;
}

bool reads_slopes(const NodeType& type, const Params& params, const Peg& peg) {
  if (peg.slopes) return true;
  const Parameter* by = peg.whole_when.empty() ? nullptr : type.parameter(peg.whole_when);
  return by && by->kind == ParameterKind::formula && !read_elsewhere(params, *by).empty();
}

}  // namespace loom
