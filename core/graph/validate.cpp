// One pass over nodes, threads, hem and values; cycles by depth-first search.
#include "core/graph/validate.h"

#include <algorithm>
#include <cmath>
#include <set>

#include "core/graph/offered.h"
#include "core/graph/output_kinds.h"
#include "core/graph/worked_values.h"
#include "core/program/formula.h"

namespace loom {

bool is_identifier(std::string_view id) {
  if (id.empty() || id.size() > 64 || id[0] < 'a' || id[0] > 'z') return false;
  return std::all_of(id.begin(), id.end(),
                     [](char c) { return (c >= 'a' && c <= 'z') || (c >= '0' && c <= '9') || c == '_'; });
}

namespace {

Kind kind_from(std::string_view name) {
  for (const Kind k : {Kind::scalar, Kind::vector2, Kind::vector3, Kind::normal, Kind::colour, Kind::colour_alpha,
                       Kind::regions, Kind::set})
    if (kind_name(k) == name) return k;
  return Kind::any;
}

// A graph with the definitions it may use: the material itself or one group.
struct Scope {
  const Material& material;
  const Catalogue& catalogue;
  const std::vector<NodePtr>& nodes;
  const std::vector<Thread>& threads;
  const std::vector<Value>& values;
  std::string prefix;
  std::vector<Error>& errors;

  void fault(const std::string& where, std::string what, std::string mend) const {
    errors.push_back({prefix + where, std::move(what), std::move(mend)});
  }
  const Node* node(std::string_view id) const {
    for (const NodePtr& n : nodes)
      if (n->id == id) return n.get();
    return nullptr;
  }
};

bool number_fits(const Scope& s, const std::string& where, const Parameter& p, double v) {
  if (std::isfinite(v) && v >= p.limits.least && v <= p.limits.most) return true;
  s.fault(where, "is outside " + std::to_string(p.limits.least) + " to " + std::to_string(p.limits.most),
          "Choose a number between them");
  return false;
}

void check_formula(const Scope& s, const std::string& where, const std::string& text) {
  const auto parsed = parse_formula(text);
  if (!parsed) s.fault(where + ", " + parsed.error().where, parsed.error().what, parsed.error().mend);
}

bool has_value(const Scope& s, const std::string& id) {
  const auto is = [&](const Value& v) { return v.id == id; };
  return std::any_of(s.values.begin(), s.values.end(), is) ||
         std::any_of(s.material.values.begin(), s.material.values.end(), is);
}

void check_rule(const Scope& s, const std::string& where, const NodeType& type, const Rule& r) {
  if (std::find(kRuleWords.begin(), kRuleWords.end(), r.by) == kRuleWords.end())
    s.fault(where, "there is no rule by '" + r.by + "'",
            "Use chance, course, column, chequer, nth, size, order or map");
  for (const RuleEnd* end : {&r.from, &r.to})
    if (!end->follow.empty() && !has_value(s, end->follow))
      s.fault(where, "follows the value '" + end->follow + "', which is not there",
              "Add it to values, or write a number");
  if (r.by == "map" && !type.input(r.map))
    s.fault(where, "the rule reads the peg '" + r.map + "', which this node does not have",
            "Use one of map_a to map_d");
}

void check_param(const Scope& s, const Node& n, const NodeType& type, const std::string& key, const ParamValue& value) {
  const std::string where = "node " + n.id + ", parameter " + key;
  const Parameter* p = type.parameter(key);
  if (!p) return s.fault(where, "'" + type.id + "' has no such parameter", "Remove it, or see docs/nodes.md");
  if (const auto* follow = std::get_if<Follow>(&value)) {
    if (!has_value(s, follow->value))
      s.fault(where, "follows the value '" + follow->value + "', which is not there",
              "Add it to values, or write a number");
    return;
  }
  if (const auto* formula = std::get_if<Formula>(&value)) return check_formula(s, where, formula->text);
  if (const auto* rule = std::get_if<Rule>(&value)) {
    if (!p->per_unit) return s.fault(where, "takes no rule: it is the same for all units", "Write a number");
    return check_rule(s, where, type, *rule);
  }
  const auto wrong = [&](const char* mend) { s.fault(where, "is of the wrong kind", mend); };
  switch (p->kind) {
    case ParameterKind::scalar:
    case ParameterKind::integer:
    case ParameterKind::toggle:
    case ParameterKind::seed:
      if (const auto* v = std::get_if<double>(&value))
        number_fits(s, where, *p, *v);
      else
        wrong("Write a number");
      break;
    case ParameterKind::vector2:
    case ParameterKind::colour: {
      const auto* v = std::get_if<Vector>(&value);
      const std::size_t n_lanes = p->kind == ParameterKind::colour ? 3 : 2;
      if (!v || v->size() != n_lanes)
        return wrong(n_lanes == 3 ? "Write a colour as [r, g, b]" : "Write a vector as [x, y]");
      for (const double lane : *v)
        if (!number_fits(s, where, *p, lane)) break;
      break;
    }
    case ParameterKind::choice: {
      const auto* word = std::get_if<std::string>(&value);
      if (word && std::find(p->options.begin(), p->options.end(), *word) != p->options.end()) break;
      std::string options;
      for (const auto& o : p->options) options += (options.empty() ? "" : ", ") + o;
      s.fault(where, "is not one of its words", "Use " + options);
      break;
    }
    case ParameterKind::text:
    case ParameterKind::file:
      if (!std::holds_alternative<std::string>(value)) wrong("Write a text in double quotes");
      break;
    case ParameterKind::formula:
      if (const auto* text = std::get_if<std::string>(&value))
        check_formula(s, where, *text);
      else
        wrong("Write the formula in double quotes");
      break;
    case ParameterKind::stops: {
      const auto* stops = std::get_if<Stops>(&value);
      if (!stops || stops->size() > 64) return wrong("Write up to 64 stops, [{\"at\": 0, \"colour\": [r, g, b]}, ...]");
      for (const ColourStop& stop : *stops)
        if (!stop.between.empty() && stop.between != "smooth" && stop.between != "straight" &&
            stop.between != "stepped")
          return s.fault(where, "goes on from a stop by '" + stop.between + "'",
                         "Use smooth, straight or stepped, or leave it out");
      break;
    }
    case ParameterKind::points:
      if (!std::holds_alternative<Points>(value) || std::get<Points>(value).size() > 64)
        wrong("Write up to 64 points, [[x, y], ...]");
      break;
  }
}

void check_nodes(const Scope& s) {
  std::set<std::string> seen;
  for (const NodePtr& n : s.nodes) {
    const std::string where = "node " + n->id;
    if (!is_identifier(n->id))
      s.fault(where, "the identifier is not of small letters, digits and _", "Begin with a letter, such as edge_2");
    if (!seen.insert(n->id).second) s.fault(where, "the identifier is used twice", "Give one of them another");
    if (n->type == "group") {
      if (!s.material.group(n->group))
        s.fault(where, "its group '" + n->group + "' is not there", "Add it to groups, or remove the node");
      continue;
    }
    if (n->type == kComesIn && s.material.inside) continue;
    const NodeType* type = s.catalogue.find(n->type);
    if (!type) {
      s.fault(where, "there is no node type '" + n->type + "'", "See docs/nodes.md, or open it with a newer version");
      continue;
    }
    for (const auto& [key, value] : n->params) check_param(s, *n, *type, key, value);
  }
}

void check_threads(const Scope& s) {
  std::set<std::string> ends;
  for (const Thread& t : s.threads) {
    const std::string where = "thread " + t.from_node + "." + t.from_peg + " to " + t.to_node + "." + t.to_peg;
    const Node* from = s.node(t.from_node);
    const Node* to = s.node(t.to_node);
    if (!from || !to) {
      s.fault(where, "the node '" + (from ? t.to_node : t.from_node) + "' is not there", "Remove the thread");
      continue;
    }
    if (!ends.insert(t.to_node + "." + t.to_peg).second)
      s.fault(where, "another thread ends in the same peg", "Keep one of them");
    const auto outs = outputs_of(s.material, s.catalogue, *from);
    const auto ins = inputs_of(s.material, s.catalogue, *to);
    const auto has = [](const std::vector<Peg>& pegs, const std::string& id) {
      return std::find_if(pegs.begin(), pegs.end(), [&](const Peg& p) { return p.id == id; });
    };
    const auto out = has(outs, t.from_peg);
    const auto in = has(ins, t.to_peg);
    if (!outs.empty() && out == outs.end())
      s.fault(where, "'" + t.from_node + "' has no output '" + t.from_peg + "'", "See docs/nodes.md");
    else if (!ins.empty() && in == ins.end())
      s.fault(where, "'" + t.to_node + "' has no input '" + t.to_peg + "'", "See docs/nodes.md");
    else if (out != outs.end() && in != ins.end() && out->kind != Kind::any && !converts(out->kind, in->kind))
      s.fault(where, "a " + std::string(kind_name(out->kind)) + " cannot become a " + std::string(kind_name(in->kind)),
              "Put a node between that turns one into the other");
  }
}

// Nodes on a cycle, in order, empty if there is none.
std::vector<std::string> cycle_in(const std::vector<NodePtr>& nodes, const std::vector<Thread>& threads) {
  std::map<std::string, std::vector<std::string>> next;
  for (const Thread& t : threads) next[t.from_node].push_back(t.to_node);
  std::map<std::string, int> state;
  for (const NodePtr& root : nodes) {
    if (state[root->id]) continue;
    std::vector<std::pair<std::string, std::size_t>> path{{root->id, 0}};  // a stack of our own: graphs may be deep
    state[root->id] = 1;
    while (!path.empty()) {
      auto& [id, at] = path.back();
      const auto& to = next[id];
      if (at == to.size()) {
        state[id] = 2;
        path.pop_back();
      } else if (const std::string& child = to[at++]; state[child] == 1) {
        std::vector<std::string> found;
        bool in = false;
        for (const auto& [step, unused] : path)
          if ((in = in || step == child)) found.push_back(step);
        return found;
      } else if (state[child] == 0) {
        state[child] = 1;
        path.emplace_back(child, 0);
      }
    }
  }
  return {};
}

void check_cycles(const Scope& s) {
  const auto cycle = cycle_in(s.nodes, s.threads);
  if (cycle.empty()) return;
  std::string path;
  for (const auto& id : cycle) path += id + " > ";
  s.fault("threads", "run in a circle: " + path + cycle.front(), "Cut one of these threads");
}

void check_graph(const Scope& s) {
  check_nodes(s);
  check_threads(s);
  check_cycles(s);
  std::set<std::string> seen;
  for (const Value& v : s.values) {
    if (!is_identifier(v.id))
      s.fault("value " + v.id, "the identifier is not of small letters, digits and _",
              "Begin with a letter, such as edge_width");
    if (!seen.insert(v.id).second) s.fault("value " + v.id, "the identifier is used twice", "Give one of them another");
    if (v.dial && std::holds_alternative<Formula>(v.value))
      s.fault("value " + v.id, "is worked out by a formula and cannot be a dial as well",
              "Remove the dial, or write a number");
    if (v.dial && v.dial->least > v.dial->most) s.fault("value " + v.id + ", dial", "min lies above max", "Swap them");
  }
  const bool within = &s.values != &s.material.values;
  for (const Error& e :
       work_out(s.values, within ? work_out(s.material.values).numbers : std::map<std::string, double>{}).faults)
    s.fault(e.where, e.what, e.mend);
}

// A group may not hold itself, at any depth.
void check_group_depth(const Scope& s) {
  std::vector<NodePtr> definitions;
  std::vector<Thread> uses;
  for (const auto& g : s.material.groups) {
    auto n = std::make_shared<Node>();
    n->id = g->id;
    definitions.push_back(n);
    for (const NodePtr& inner : g->nodes)
      if (inner->type == "group") uses.push_back({g->id, "", inner->group, ""});
  }
  if (const auto cycle = cycle_in(definitions, uses); !cycle.empty())
    s.fault("group " + cycle.front(), "holds itself", "Remove its instance from inside");
}

}  // namespace

namespace {

std::vector<Peg> pegs_of(const std::vector<GroupPeg>& all) {
  std::vector<Peg> pegs;
  for (const GroupPeg& p : all) pegs.push_back({p.id, p.label.empty() ? p.id : p.label, kind_from(p.kind)});
  return pegs;
}

}  // namespace

std::shared_ptr<const NodeType> type_of(const Material& material, const Catalogue& catalogue, const Node& node) {
  if (node.type != "group")
    return {std::shared_ptr<const NodeType>(), catalogue.find(node.type)};  // the catalogue's own
  const Group* g = material.group(node.group);
  if (!g) return nullptr;
  auto type = std::make_shared<NodeType>();
  type->id = "group";
  type->label = g->name;
  type->help = g->help.empty() ? "A group of " + std::to_string(g->nodes.size()) + " nodes." : g->help;
  type->inputs = pegs_of(g->inputs);
  type->outputs = pegs_of(g->outputs);
  for (const Value& v : g->values) {
    if (!v.dial) continue;
    Parameter p = offered_parameter(g->nodes, catalogue, v);
    p.initial = v.value;  // what the definition holds is where a use begins
    if (p.column.empty()) p.column = g->name;
    type->parameters.push_back(std::move(p));
  }
  type->parameters.push_back({.id = "seed",
                              .label = "Seed",
                              .kind = ParameterKind::seed,
                              .initial = 0.0,
                              .useful = {0, 999},
                              .limits = {0, 1e9},
                              .column = "Chance",
                              .help = "0 keeps the chance of the definition."});
  return type;
}

std::vector<Peg> inputs_of(const Material& material, const Catalogue& catalogue, const Node& node) {
  if (node.type == kComesIn) return {};
  if (node.type == "group") {
    const Group* g = material.group(node.group);
    return g ? pegs_of(g->inputs) : std::vector<Peg>{};
  }
  const NodeType* type = catalogue.find(node.type);
  return type ? type->inputs : std::vector<Peg>{};
}

std::vector<Peg> outputs_of(const Material& material, const Catalogue& catalogue, const Node& node) {
  if (node.type == kComesIn) {
    const auto kind = node.params.find("kind");
    return {{"value", "Value", kind == node.params.end() ? Kind::any : kind_from(std::get<std::string>(kind->second))}};
  }
  if (node.type == "group") {
    const Group* g = material.group(node.group);
    return g ? pegs_of(g->outputs) : std::vector<Peg>{};
  }
  const NodeType* type = catalogue.find(node.type);
  return type ? type->outputs : std::vector<Peg>{};
}

std::string label_of(const Material& material, const Catalogue& catalogue, const Node& node) {
  if (!node.name.empty()) return node.name;
  if (const Group* g = node.type == "group" ? material.group(node.group) : nullptr) return g->name;
  const NodeType* type = catalogue.find(node.type);
  return type ? type->label : node.type;
}

std::vector<Error> validate(const Material& material, const Catalogue& catalogue) {
  std::vector<Error> errors;
  const Scope top{material, catalogue, material.nodes, material.threads, material.values, "", errors};
  check_graph(top);
  for (const auto& [slot, from] : material.hem) {
    const auto [node, peg] = split_output(from);
    const Node* n = top.node(node);
    const auto outs = n ? outputs_of(material, catalogue, *n) : std::vector<Peg>{};
    if (!is_identifier(slot))
      top.fault("hem, slot " + slot, "the name is not of small letters, digits and _", "Such as base_colour");
    if (!n)
      top.fault("hem, slot " + slot, "the node '" + node + "' is not there", "Connect another output");
    else {
      const auto out = std::find_if(outs.begin(), outs.end(), [&, p = peg](const Peg& o) { return o.id == p; });
      const Kind kind = out == outs.end() ? Kind::any : out->kind;
      if (out == outs.end())
        top.fault("hem, slot " + slot, "'" + node + "' has no output '" + peg + "'", "Connect another output");
      else if (kind != Kind::any && slot_kind(slot) != Kind::any && !converts(kind, slot_kind(slot)))
        top.fault("hem, slot " + slot,
                  "takes a " + std::string(kind_name(slot_kind(slot))) + ", not a " + std::string(kind_name(kind)),
                  "Connect another output");
    }
  }
  std::set<std::string> ids;
  for (const auto& g : material.groups) {
    if (!is_identifier(g->id) || !ids.insert(g->id).second)
      top.fault("group " + g->id, "needs an identifier of its own, of small letters, digits and _",
                "Such as tide_line");
    check_graph({material, catalogue, g->nodes, g->threads, g->values, "group " + g->id + ", ", errors});
  }
  for (const Preset& p : material.presets)
    for (const auto& [id, value] : p.values)
      if (!material.value(id))
        top.fault("preset " + p.name, "sets the value '" + id + "', which is not there", "Remove it from the preset");
  check_group_depth(top);
  return errors;
}

Kind output_kind(const Material& material, const Catalogue& catalogue, const std::string& node,
                 const std::string& peg) {
  return OutputKinds(material, catalogue).of(node, peg);
}

std::string refusal(const Material& material, const Catalogue& catalogue, const Thread& thread) {
  const Node* to = material.node(thread.to_node);
  if (!to || !material.node(thread.from_node)) return "the node is not there";
  if (thread.from_node == thread.to_node) return "a node cannot feed itself";
  const Kind from = output_kind(material, catalogue, thread.from_node, thread.from_peg);
  for (const Peg& in : inputs_of(material, catalogue, *to)) {
    if (in.id != thread.to_peg) continue;
    if (from == Kind::any || !converts(from, in.kind))
      return "a " + std::string(kind_name(from)) + " cannot become a " + std::string(kind_name(in.kind));
    auto threads = material.threads;
    threads.push_back(thread);
    return cycle_in(material.nodes, threads).empty() ? "" : "it would run in a circle";
  }
  return "there is no such peg";
}

}  // namespace loom
