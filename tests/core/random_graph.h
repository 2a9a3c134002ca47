// Documents drawn by chance from the whole catalogue: every type, every kind, every thread that is allowed.
#pragma once
#include <functional>
#include <random>

#include "core/graph/edit.h"
#include "core/graph/output_kinds.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"

namespace loom::test {

class RandomGraph {
 public:
  using Draw = std::function<std::uint32_t()>;
  RandomGraph(const Catalogue& catalogue, Draw draw) : catalogue_(catalogue), draw_(std::move(draw)) {}
  RandomGraph(const Catalogue& catalogue, unsigned seed)
      : RandomGraph(catalogue,
                    [chance = std::mt19937(seed)]() mutable { return static_cast<std::uint32_t>(chance()); }) {}
  /// Numbers may lie anywhere within their limits, and at them; else they are useful ones.
  void go_to_limits() { to_limits_ = true; }

  /// `nodes` nodes; each peg is connected more often than not, to an output of an earlier node that may feed it.
  Material make(int nodes) {
    const auto types = catalogue_.all();
    Material m = edit::empty_material();
    for (int i = 0; i < nodes; ++i) {
      const NodeType& type = *types[below(types.size())];
      std::string id;
      m = edit::add_node(std::move(m), catalogue_, type.id, "relief", i, 0, &id);
      for (const Parameter& p : type.parameters)
        if (below(3) == 0) m = edit::set_param(m, id, p.id, value_of(m, type, p));
      connect(m, type, id);
    }
    return m;
  }
  /// The same document with one number changed; nothing where there is none to change.
  std::optional<Material> changed(const Material& m) {
    for (int tries = 0; tries < 50; ++tries) {
      const Node& n = *m.nodes[below(m.nodes.size())];
      const NodeType& type = *catalogue_.find(n.type);
      if (type.parameters.empty()) continue;
      const Parameter& p = type.parameters[below(type.parameters.size())];
      if (p.kind != ParameterKind::scalar && p.kind != ParameterKind::seed) continue;
      Material other = edit::set_param(m, n.id, p.id, number(p));
      if (validate(other, catalogue_).empty()) return other;
    }
    return {};
  }
  std::size_t below(std::size_t n) { return static_cast<std::size_t>(share() * static_cast<double>(n)); }

 private:
  double share() { return draw_() / 4294967296.0; }
  double number(const Parameter& p) {
    // A count at its limit is slow, and proves no more than a middling one.
    const bool count = p.unit == Unit::count || p.unit == Unit::times;
    const Limits r = to_limits_ && !count && below(4) == 0 ? p.limits : p.useful;
    const double end = to_limits_ ? share() : 0.5;
    const double x = end < 0.05 ? r.least : end > 0.95 ? r.most : r.least + (r.most - r.least) * share();
    const bool whole =
        p.kind == ParameterKind::integer || p.kind == ParameterKind::toggle || p.kind == ParameterKind::seed;
    return std::clamp(whole ? std::round(x) : x, p.limits.least, p.limits.most);
  }
  ParamValue value_of(const Material&, const NodeType& type, const Parameter& p) {
    if (type.id == "open_set" && p.id == "own") return p.initial;  // a slot that the cord lacks is a fault
    if (p.kind == ParameterKind::choice) return p.options[below(p.options.size())];
    if (p.kind == ParameterKind::vector2) return Vector{number(p), number(p)};
    if (p.kind == ParameterKind::colour) return Vector{number(p), number(p), number(p)};
    if (!std::holds_alternative<double>(p.initial)) return p.initial;
    if (p.per_unit && below(2) == 0) {
      Rule rule;
      rule.by = kRuleWords[below(kRuleWords.size())];
      if (rule.by == "map" && !type.input(rule.map)) rule.by = "chance";
      rule.from.number = number(p), rule.to.number = number(p);
      return rule;
    }
    return number(p);
  }
  void connect(Material& m, const NodeType& type, const std::string& id) {
    for (const Peg& peg : type.inputs) {
      if (below(4) == 0 || m.nodes.size() < 2) continue;
      for (int tries = 0; tries < 4; ++tries) {
        const Node& from = *m.nodes[below(m.nodes.size() - 1)];
        const NodeType& source = *catalogue_.find(from.type);
        const Thread thread{from.id, source.outputs[below(source.outputs.size())].id, id, peg.id};
        if (!refusal(m, catalogue_, thread).empty()) continue;
        m = edit::connect(std::move(m), thread);
        break;
      }
    }
  }

  const Catalogue& catalogue_;
  Draw draw_;
  bool to_limits_ = false;
};

}  // namespace loom::test
