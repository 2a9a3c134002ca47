// One pass over nodes, threads, hem and values; cycles by depth-first search.
#include "core/graph/validate.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <set>
#include <sstream>
#include <unordered_map>

#include "core/graph/allowed_files.h"
#include "core/graph/bolt_group.h"
#include "core/graph/delivery_list.h"
#include "core/graph/edit.h"
#include "core/graph/hem.h"
#include "core/graph/inputs.h"
#include "core/graph/offered.h"
#include "core/graph/output_kinds.h"
#include "core/graph/surface_reach.h"
#include "core/graph/worked_values.h"
#include "core/program/formula.h"

namespace loom {

bool is_identifier(std::string_view id) {
  if (id.empty() || id.size() > 64 || id[0] < 'a' || id[0] > 'z') return false;
  return std::all_of(id.begin(), id.end(),
                     [](char c) { return (c >= 'a' && c <= 'z') || (c >= '0' && c <= '9') || c == '_'; });
}

namespace {

constexpr int kMostNodes = 20000, kMostLevels = 64;  // of a document, unfolded

// A graph with the definitions it may use: the material itself or one group.
struct Scope {
  const Material& material;
  const Catalogue& catalogue;
  const std::vector<NodePtr>& nodes;
  const std::vector<Thread>& threads;
  const std::vector<Value>& values;
  std::string prefix;
  std::vector<Error>& errors;
  std::map<std::string, double> numbers{};  // what the values come to, with those around a group
  std::set<std::string> into{};             // NODE.PEG of every connected input
  bool formulas = false;                    // whether each is tried as it would be woven

  void fault(const std::string& where, std::string what, std::string mend) const {
    errors.push_back({prefix + where, std::move(what), std::move(mend)});
  }
  std::unordered_map<std::string_view, const Node*> by_id{};
  const Node* node(std::string_view id) const {
    const auto it = by_id.find(id);
    return it == by_id.end() ? nullptr : it->second;
  }
};

std::string told(double x) {
  std::ostringstream out;
  out << x;
  return out.str();
}

std::optional<Error> number_misfit(const Parameter& p, double v) {
  if (std::isfinite(v) && v >= p.limits.least && v <= p.limits.most) return {};
  return Error{"", "is outside " + told(p.limits.least) + " to " + told(p.limits.most), "Choose a number between them"};
}

std::optional<Error> stroke_misfit(const HandStroke& s) {
  const auto within = [](float x, float least, float most) { return x >= least && x <= most; };
  constexpr float kFarthest = 1000, kMostPaint = 1e6f;
  if (!within(s.radius, kThinnestStroke, s.on_shape ? kWidestOnShape : kWidestStroke))
    return Error{"", "has a radius outside of 0.00001 to " + std::string(s.on_shape ? "1000" : "1"),
                 "Write it in shares of the tile, or in metres on a shape"};
  if (!within(s.softness, 0, 1) || !within(s.strength, 0, 1))
    return Error{"", "has a softness or a strength outside of 0 to 1", "Write shares"};
  if (s.paint.size() != 1 && s.paint.size() != 3)
    return Error{"", "leaves neither a number nor a colour", "Write \"value\": 1 or \"colour\": [r, g, b]"};
  if (!std::all_of(s.paint.begin(), s.paint.end(), [&](float x) { return within(x, -kMostPaint, kMostPaint); }))
    return Error{"", "leaves a number beyond 1e6", "Write a smaller one"};
  if (s.points.empty() || s.points.size() > kMostStrokePoints)
    return Error{"", "has no points, or more than 20000", "Write [[u, v], ...], or several strokes"};
  for (const StrokePoint& p : s.points)
    if (!within(p.x, -kFarthest, kFarthest) || !within(p.y, -kFarthest, kFarthest) ||
        !within(p.z, -kFarthest, kFarthest) || !within(p.pressure, 0, 1))
      return Error{"", "has a point beyond 1000, or a pressure outside of 0 to 1",
                   "Write [u, v, pressure], or [x, y, z, pressure] on a shape"};
    else if (!within(p.towards_x, -1, 1) || !within(p.towards_y, -1, 1) || !within(p.towards_z, -1, 1))
      return Error{"", "faces a way that is no direction", "Write the last three numbers of a point within -1 to 1"};
  return {};
}

std::optional<Error> strokes_misfit(const ParamValue& value) {
  const auto* strokes = std::get_if<Strokes>(&value);
  if (const auto* none = std::get_if<Points>(&value); none && none->empty()) return {};  // how an empty list is read
  if (!strokes || strokes->all.size() > kMostStrokes)
    return Error{"", "is of the wrong kind",
                 "Write up to 20000 strokes, [{\"radius\": 0.03, \"points\": [[u, v], ...]}, ...]"};
  for (std::size_t i = 0; i < strokes->all.size(); ++i)
    if (auto bad = stroke_misfit(*strokes->all[i])) {
      bad->what = "stroke " + std::to_string(i + 1) + " " + bad->what;
      return bad;
    }
  return {};
}

}  // namespace

std::optional<Error> misfit(const Parameter& p, const ParamValue& value) {
  const auto wrong = [](const char* mend) { return Error{"", "is of the wrong kind", mend}; };
  switch (p.kind) {
    case ParameterKind::scalar:
    case ParameterKind::integer:
    case ParameterKind::toggle:
    case ParameterKind::seed:
      if (const auto* v = std::get_if<double>(&value)) return number_misfit(p, *v);
      return wrong("Write a number");
    case ParameterKind::vector2:
    case ParameterKind::colour: {
      const auto* v = std::get_if<Vector>(&value);
      const std::size_t n_lanes = p.kind == ParameterKind::colour ? 3 : 2;
      if (!v || v->size() != n_lanes)
        return wrong(n_lanes == 3 ? "Write a colour as [r, g, b]" : "Write a vector as [x, y]");
      for (const double lane : *v)
        if (auto bad = number_misfit(p, lane)) return bad;
      return {};
    }
    case ParameterKind::choice: {
      const auto* word = std::get_if<std::string>(&value);
      if (word && std::find(p.options.begin(), p.options.end(), *word) != p.options.end()) return {};
      std::string options;
      for (const auto& o : p.options) options += (options.empty() ? "" : ", ") + o;
      return Error{"", "is not one of its words", "Use " + options};
    }
    case ParameterKind::text:
    case ParameterKind::figure:
    case ParameterKind::file:
      if (std::holds_alternative<std::string>(value)) return {};
      return wrong("Write a text in double quotes");
    case ParameterKind::formula: {
      const auto* text = std::get_if<std::string>(&value);
      if (!text) return wrong("Write the formula in double quotes");
      const auto parsed = parse_formula(*text);
      return parsed ? std::nullopt : std::optional(parsed.error());
    }
    case ParameterKind::stops: {
      const auto* stops = std::get_if<Stops>(&value);
      if (!stops || stops->size() > 64) return wrong("Write up to 64 stops, [{\"at\": 0, \"colour\": [r, g, b]}, ...]");
      for (const ColourStop& stop : *stops)
        if (!stop.between.empty() && stop.between != "smooth" && stop.between != "straight" &&
            stop.between != "stepped")
          return Error{"", "goes on from a stop by '" + stop.between + "'",
                       "Use smooth, straight or stepped, or leave it out"};
      return {};
    }
    case ParameterKind::points:
      if (std::holds_alternative<Points>(value) && std::get<Points>(value).size() <= 64) return {};
      return wrong("Write up to 64 points, [[x, y], ...]");
    case ParameterKind::strokes:
      return strokes_misfit(value);
  }
  return {};
}

namespace {

bool has_value(const Scope& s, const std::string& id) {
  const auto is = [&](const Value& v) { return v.id == id; };
  return std::any_of(s.values.begin(), s.values.end(), is) ||
         std::any_of(s.material.values.begin(), s.material.values.end(), is);
}

void check_rule(const Scope& s, const std::string& where, const NodeType& type, const Rule& r) {
  if (std::find(kRuleWords.begin(), kRuleWords.end(), r.by) == kRuleWords.end())
    s.fault(where, "there is no rule by '" + r.by + "'",
            "Use chance, bell, course, column, chequer, nth, size, order or map");
  if (std::find(kCountedWords.begin(), kCountedWords.end(), r.over) == kCountedWords.end())
    s.fault(where, "the rule cannot count '" + r.over + "'", "Count units, courses or columns");
  for (const RuleEnd* end : {&r.from, &r.to})
    if (!end->follow.empty() && !has_value(s, end->follow))
      s.fault(where, "follows the value '" + end->follow + "', which is not there",
              "Add it to values, or write a number");
  if (r.by == "map" && !type.input(r.map))
    s.fault(where, "the rule reads the peg '" + r.map + "', which this node does not have",
            "Use one of map_a to map_d");
}

// What a value holds, its formula worked out; nothing if it is not there or does not come to anything.
std::optional<ParamValue> held_by(const Scope& s, const std::string& id) {
  const auto find = [&](const std::vector<Value>& values) {
    return std::find_if(values.begin(), values.end(), [&](const Value& v) { return v.id == id; });
  };
  const auto own = find(s.values), around = find(s.material.values);
  const bool within = own != s.values.end();
  if (!within && around == s.material.values.end()) return {};
  const ParamValue& value = within ? own->value : around->value;
  if (!std::holds_alternative<Formula>(value)) return value;
  const auto number = s.numbers.find(id);
  return number == s.numbers.end() ? std::nullopt : std::optional<ParamValue>(number->second);
}

// What a formula may name: numbers that are worked out, and over units what is known of each; the same mathematics as
// when it is woven, on stand-ins.
std::optional<Error> tried_formula(const Scope& s, const Node& n, const NodeType& type, const Parameter& p,
                                   const std::string& text) {
  const auto parsed = parse_formula(text);
  if (!parsed) return parsed.error();
  Builder b(Domain::numbers());
  FormulaScope scope;
  const auto name = [&](const std::string& word, Kind kind) {
    scope.names[word] = {.kind = kind, .at = {b.constant(0.5f), b.constant(0.5f), b.constant(0.5f), b.constant(1)}};
  };
  const auto connected = [&](const std::string& peg) { return s.into.count(n.id + "." + peg) != 0; };
  if (p.kind == ParameterKind::formula) {
    for (const Peg& in : type.inputs) {
      name(in.id, Kind::scalar);
      scope.maps[in.id] = [&, in](Reg, Reg) { return scope.names[in.id]; };
    }
    name("u", Kind::scalar);
    name("v", Kind::scalar);
  } else {
    for (const auto& [id, number] : s.numbers) name(id, Kind::scalar);
    if (p.per_unit) {
      for (const char* word : {"index", "row", "column", "level", "count", "rows", "columns"}) name(word, Kind::scalar);
      for (const char* word : {"centre", "size"}) name(word, Kind::vector2);
      for (const Peg& in : type.inputs)
        if (in.id.rfind("map_", 0) == 0 && connected(in.id)) {
          name(in.id, Kind::scalar);
          scope.maps[in.id] = [&, in](Reg, Reg) { return scope.names[in.id]; };
        }
      scope.unit_key = b.attribute(0);
    }
  }
  const auto compiled = compile_formula(*parsed, scope, b);
  return compiled ? std::nullopt : std::optional(compiled.error());
}

// A formula while it is typed names what is not there yet: its node says so, and the rest is woven on. Only who asks
// for all faults has them tried.
std::optional<Error> formula_fault(const Scope& s, const Node& n, const NodeType& type, const Parameter& p,
                                   const std::string& text) {
  if (s.formulas) return tried_formula(s, n, type, p, text);
  const auto parsed = parse_formula(text);
  return parsed ? std::nullopt : std::optional(parsed.error());
}

void check_param(const Scope& s, const Node& n, const NodeType& type, const std::string& key, const ParamValue& value) {
  const std::string where = "node " + n.id + ", parameter " + key;
  const auto fault = [&](const Error& e) { s.fault(where + (e.where.empty() ? "" : ", " + e.where), e.what, e.mend); };
  const Parameter* p = type.parameter(key);
  if (!p) return s.fault(where, "'" + type.id + "' has no such parameter", "Remove it, or see docs/nodes.md");
  if (const auto* follow = std::get_if<Follow>(&value)) {
    if (!has_value(s, follow->value))
      return s.fault(where, "follows the value '" + follow->value + "', which is not there",
                     "Add it to values, or write a number");
    const auto held = held_by(s, follow->value);
    // A number beyond the limits is brought back to them; another kind has no meaning.
    if (held && misfit(*p, *held) && !std::holds_alternative<double>(*held))
      s.fault(where, "follows the value '" + follow->value + "', which is of another kind",
              "Follow a value of its own kind, or write one");
    if (held && std::holds_alternative<double>(*held) &&
        (p->kind == ParameterKind::colour || p->kind == ParameterKind::choice || p->kind == ParameterKind::text ||
         p->kind == ParameterKind::figure || p->kind == ParameterKind::file || p->kind == ParameterKind::stops ||
         p->kind == ParameterKind::points || p->kind == ParameterKind::strokes))
      s.fault(where, "follows the value '" + follow->value + "', which is a number",
              "Follow a value of its own kind, or write one");
    return;
  }
  if (const auto* formula = std::get_if<Formula>(&value)) {
    if (const auto bad = formula_fault(s, n, type, *p, formula->text)) fault(*bad);
    return;
  }
  if (const auto* rule = std::get_if<Rule>(&value)) {
    if (!p->per_unit) return s.fault(where, "takes no rule: it is the same for all units", "Write a number");
    return check_rule(s, where, type, *rule);
  }
  if (const auto bad = misfit(*p, value)) return fault(*bad);
  const auto* text = std::get_if<std::string>(&value);
  if (text && p->kind == ParameterKind::formula)
    if (const auto bad = formula_fault(s, n, type, *p, *text)) fault(*bad);
}

// What a use sets of its definition. A number beyond the limits, which may have been narrowed since, is brought back to
// them by the parameters that follow it.
void check_use(const Scope& s, const Node& n, const NodeType& type) {
  for (const auto& [key, value] : n.params) {
    const Parameter* p = type.parameter(key);
    const bool number = std::holds_alternative<double>(value);
    const bool numeric = p && (p->kind == ParameterKind::scalar || p->kind == ParameterKind::integer ||
                               p->kind == ParameterKind::toggle || p->kind == ParameterKind::seed);
    if (p && !(number && numeric)) check_param(s, n, type, key, value);
  }
}

void check_nodes(const Scope& s) {
  std::set<std::string> seen;
  for (const NodePtr& n : s.nodes) {
    const std::string where = "node " + n->id;
    if (!is_identifier(n->id))
      s.fault(where, "the identifier is not of small letters, digits and _", "Begin with a letter, such as edge_2");
    if (!seen.insert(n->id).second) s.fault(where, "the identifier is used twice", "Give one of them another");
    if (n->is_group()) {
      if (n->bolt && !s.material.group(n->group))
        s.fault(where,
                "the bolt '" + n->bolt->id + "' " + n->bolt->version + " is not there as it was used: " + n->bolt->file,
                "Put that version back, or choose the file anew");
      else if (!s.material.group(n->group))
        s.fault(where, "its group '" + n->group + "' is not there", "Add it to groups, or remove the node");
      else if (const auto type = type_of(s.material, s.catalogue, *n))
        check_use(s, *n, *type);
      continue;
    }
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

void check_graph(Scope s, OutputKinds& kinds) {
  const bool within = &s.values != &s.material.values;
  const auto around = within ? work_out(s.material.values).numbers : std::map<std::string, double>{};
  const WorkedValues worked = work_out(s.values, around);
  s.numbers = worked.numbers;
  s.numbers.insert(around.begin(), around.end());
  for (const Thread& t : s.threads) s.into.insert(t.to_node + "." + t.to_peg);
  for (const Error& e : worked.faults) s.fault(e.where, e.what, e.mend);
  check_nodes(s);
  check_threads(s);
  for (const Error& e : kinds.faults()) s.fault(e.where, e.what, e.mend);
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
    if (v.dial)
      for (const Error& e : dial_faults(s.nodes, s.values, s.catalogue, v)) s.fault(e.where, e.what, e.mend);
  }
}

// How many nodes a graph comes to once its groups are unfolded, and how deep they lie; each group is counted once.
struct Unfolding {
  const Material& material;
  std::unordered_map<const Group*, std::pair<double, int>> known;
  std::pair<double, int> of(const std::vector<NodePtr>& nodes, int depth) {
    std::pair<double, int> all{0, 0};
    if (depth > kMostLevels) return {0, depth};  // deeper is not looked at, nor allowed
    for (const NodePtr& n : nodes) {
      const Group* g = material.group_of(*n);
      if (!g) {
        all.first += 1;
        continue;
      }
      const auto it = known.find(g);
      const auto inner = it != known.end() ? it->second : (known[g] = of(g->nodes, depth + 1));
      all.first += inner.first;
      all.second = std::max(all.second, inner.second + 1);
    }
    return all;
  }
};

}  // namespace

// A group may not hold itself, at any depth, and what all unfold to has limits.
std::optional<Error> unfolding_fault(const Material& material) {
  std::vector<NodePtr> definitions;
  std::vector<Thread> uses;
  for (const auto& g : material.groups) {
    auto n = std::make_shared<Node>();
    n->id = g->id;
    definitions.push_back(n);
    for (const NodePtr& inner : g->nodes)
      if (inner->is_group()) uses.push_back({g->id, "", inner->group, ""});
  }
  if (const auto cycle = cycle_in(definitions, uses); !cycle.empty())
    return Error{"group " + cycle.front(), "holds itself", "Remove its instance from inside"};
  Unfolding unfolding{material, {}};
  const auto [nodes, levels] = unfolding.of(material.nodes, 0);
  if (levels > kMostLevels)
    return Error{"groups", "lie within each other more than " + std::to_string(kMostLevels) + " deep",
                 "Ungroup some of them"};
  if (nodes > kMostNodes)
    return Error{"document", "unfolds to more than " + std::to_string(kMostNodes) + " nodes",
                 "Use fewer instances of its groups"};
  return {};
}

namespace {

std::vector<Peg> pegs_of(const std::vector<GroupPeg>& all) {
  std::vector<Peg> pegs;
  for (const GroupPeg& p : all) pegs.push_back({p.id, p.label.empty() ? p.id : p.label, kind_from_name(p.kind)});
  return pegs;
}

}  // namespace

std::shared_ptr<const NodeType> type_of(const Material& material, const Catalogue& catalogue, const Node& node) {
  if (!node.is_group()) return {std::shared_ptr<const NodeType>(), catalogue.find(node.type)};  // the catalogue's own
  const Group* g = material.group(node.group);
  if (!g) return nullptr;
  auto type = std::make_shared<NodeType>();
  type->id = kGroupType;
  type->of_group = true;
  type->label = g->name;
  type->help = g->help.empty() ? "A group of " + std::to_string(g->nodes.size()) + " nodes." : g->help;
  if (g->of_bolt) type->help = told_of_bolt(*g, node, material);
  type->inputs = pegs_of(g->inputs);
  type->outputs = pegs_of(g->outputs);
  type->takes_regions = type->takes_sets = true;  // what it does with them its own nodes say
  for (const GroupPeg& in : g->inputs)
    if (auto control = control_of(in)) type->parameters.push_back(*std::move(control));
  for (const Value& v : g->values) {
    if (!v.dial) continue;
    Parameter p = offered_parameter(g->nodes, catalogue, v);
    p.initial = v.value;  // what the definition holds is where a use begins
    if (p.column.empty()) p.column = g->name;
    p.acts = v.dial->acts;  // over the parameters of the use, which have the values' names
    type->parameters.push_back(std::move(p));
  }
  if (g->of_bolt) type->parameters.push_back(repeats_of(*g));
  Parameter own_chance = seed("Chance").help("0 keeps the chance of the definition.");
  own_chance.initial = 0.0;
  type->parameters.push_back(std::move(own_chance));
  return type;
}

std::vector<Peg> inputs_of(const Material& material, const Catalogue& catalogue, const Node& node) {
  if (node.is_group()) {
    const Group* g = material.group(node.group);
    return g ? pegs_of(g->inputs) : std::vector<Peg>{};
  }
  const NodeType* type = catalogue.find(node.type);
  return type ? type->inputs : std::vector<Peg>{};
}

std::vector<Peg> outputs_of(const Material& material, const Catalogue& catalogue, const Node& node) {
  if (node.is_group()) {
    const Group* g = material.group(node.group);
    return g ? pegs_of(g->outputs) : std::vector<Peg>{};
  }
  const NodeType* type = catalogue.find(node.type);
  return type ? type->outputs : std::vector<Peg>{};
}

std::string label_of(const Material& material, const Catalogue& catalogue, const Node& node) {
  if (!node.name.empty()) return node.name;
  if (const Group* g = material.group_of(node)) return g->name;
  const NodeType* type = catalogue.find(node.type);
  return type ? type->label : node.type;
}

namespace {

void check_hem(Scope& top, OutputKinds& kinds, const std::string& part, const std::map<std::string, std::string>& hem) {
  for (const auto& [slot, from] : hem) {
    const std::string where = part + "hem, slot " + slot;
    const auto [node, peg] = split_output(from);
    const Node* n = top.node(node);
    if (!is_identifier(slot)) top.fault(where, "the name is not of small letters, digits and _", "Such as base_colour");
    if (!n) {
      top.fault(where, "the node '" + node + "' is not there", "Connect another output");
      continue;
    }
    const auto outs = outputs_of(top.material, top.catalogue, *n);
    if (std::none_of(outs.begin(), outs.end(), [&, p = peg](const Peg& o) { return o.id == p; })) {
      top.fault(where, "'" + node + "' has no output '" + peg + "'", "Connect another output");
      continue;
    }
    const Kind kind = kinds.of(node, peg);
    if (kind != Kind::any && slot_kind(slot) != Kind::any && !converts(kind, slot_kind(slot)))
      top.fault(where, "takes a " + std::string(kind_name(slot_kind(slot))) + ", not a " + std::string(kind_name(kind)),
                "Connect another output");
  }
}

void check_typed(Scope& top, const std::string& part, const std::map<std::string, ParamValue>& values) {
  for (const auto& [slot, value] : values) {
    const Parameter* p = takes_typed_value(slot) ? hem_type().parameter(slot) : nullptr;
    if (!p)
      top.fault(part + "hem_values, slot " + slot, "takes no typed value", "Connect an output to it under hem");
    else if (const auto bad = misfit(*p, value))
      top.fault(part + "hem_values, slot " + slot, bad->what, bad->mend);
  }
}

// What stands in at a group's inputs, and names that a use could not tell apart.
void check_inputs(const Scope& s, const Group& g) {
  const NodeType* type = s.catalogue.find(kComesIn);
  for (const GroupPeg& in : g.inputs) {
    const std::string where = "input " + in.id;
    if (control_of(in) && std::ranges::any_of(g.values, [&](const Value& v) { return v.dial && v.id == in.id; }))
      s.fault(where, "has the name of a dial", "Give one of them another");
    for (const auto& [key, value] : in.params)
      if (const Parameter* p = type ? type->parameter(key) : nullptr; !p)
        s.fault(where + ", parameter " + key, "there is no such parameter", "Remove it, or see Input in docs/nodes.md");
      else if (const auto bad = misfit(*p, value))
        s.fault(where + ", parameter " + key, bad->what, bad->mend);
  }
}

std::vector<Error> faults_of(const Material& material, const Catalogue& catalogue, bool formulas) {
  std::vector<Error> errors;
  Scope top{material, catalogue, material.nodes, material.threads, material.values, "", errors};
  for (const NodePtr& n : material.nodes) top.by_id.emplace(n->id, n.get());
  top.formulas = formulas;
  OutputKinds kinds(material, catalogue);
  check_graph(top, kinds);
  each_hem(material, [&](const std::string& part, const auto& hem, const auto&) {
    check_hem(top, kinds, within_part(part), hem);
  });
  if (material.part_hems.count(""))
    top.fault("part_hems", "has a part without a name", "Name it as the mesh does, or put its slots under hem");
  std::set<std::string> ids;
  for (const auto& g : material.groups) {
    if (!is_identifier(g->id) || !ids.insert(g->id).second)
      top.fault("group " + g->id, "needs an identifier of its own, of small letters, digits and _",
                "Such as tide_line");
    Scope inside{material, catalogue, g->nodes, g->threads, g->values, "group " + g->id + ", ", errors};
    for (const NodePtr& n : g->nodes) inside.by_id.emplace(n->id, n.get());
    inside.formulas = formulas;
    OutputKinds inner(material, catalogue, *g);
    check_graph(inside, inner);
    check_inputs(inside, *g);
  }
  for (const Preset& p : material.presets)
    for (const auto& [id, value] : p.values)
      if (const Value* v = material.value(id); !v)
        top.fault("preset " + p.name, "sets the value '" + id + "', which is not there", "Remove it from the preset");
      else if (const auto bad = misfit(offered_parameter(material.nodes, catalogue, *v), value))
        top.fault("preset " + p.name + ", value " + id, bad->what, bad->mend);
  each_hem(material, [&](const std::string& part, const auto&, const auto& values) {
    check_typed(top, within_part(part), values);
  });
  if (!(material.tile_metres >= kLeastTile && material.tile_metres <= kMostTile))
    top.fault("tile_metres", "is outside " + told(kLeastTile) + " to " + told(kMostTile),
              "Write the tile's width in metres");
  if (!(material.relief_metres >= kLeastRelief && material.relief_metres <= kMostRelief))
    top.fault("relief_metres", "is outside " + told(kLeastRelief) + " to " + told(kMostRelief),
              "Write the relief's depth in metres");
  if (const auto bad = imprint_fault(material.imprint)) top.fault(bad->where, bad->what, bad->mend);
  for (const Error& e : list_faults(material.lists)) top.fault(e.where, e.what, e.mend);
  if (const auto bad = unfolding_fault(material)) top.fault(bad->where, bad->what, bad->mend);
  return errors;
}

}  // namespace

std::vector<Error> validate(const Material& material, const Catalogue& catalogue) {
  return faults_of(material, catalogue, false);
}

std::vector<Error> all_faults(const Material& material, const Catalogue& catalogue) {
  std::vector<Error> faults = faults_of(material, catalogue, true);
  const FileRoot root = material.files ? *material.files : FileRoot{};
  for (const std::string& name : edit::file_names(material, catalogue))
    if (leads_outside(root, name))
      faults.push_back({"file " + name, "lies outside the document's folder",
                        "Put it beside the document, or allow its folder with --allow"});
  return faults;
}

Kind output_kind(const Material& material, const Catalogue& catalogue, const std::string& node,
                 const std::string& peg) {
  return OutputKinds(material, catalogue).of(node, peg);
}

namespace {

// What reads the node may be given another kind by the thread, and refuse it. Asked for at every peg while a thread is
// dragged: the whole graph is looked at only where a kind changes.
std::string refused_below(const Material& material, const Catalogue& catalogue, const NodeType& type,
                          const Thread& thread) {
  Material with = material;
  std::erase_if(with.threads,
                [&](const Thread& t) { return t.to_node == thread.to_node && t.to_peg == thread.to_peg; });
  with.threads.push_back(thread);
  OutputKinds before(material, catalogue), after(with, catalogue);
  std::vector<Kind> kinds;
  for (const Peg& in : type.inputs)
    if (in.kind == Kind::any)
      if (const Kind kind = after.into_peg(thread.to_node, in.id); kind != Kind::any) kinds.push_back(kind);
  const bool mixes = !type.of_group && !common_kind(type, kinds);
  const bool changes = std::any_of(type.outputs.begin(), type.outputs.end(), [&](const Peg& out) {
    return out.kind == Kind::any && before.of(thread.to_node, out.id) != after.of(thread.to_node, out.id);
  });
  if (!mixes && !changes) return {};
  const auto known = before.faults();
  for (const Error& e : after.faults())
    if (std::none_of(known.begin(), known.end(), [&](const Error& k) { return k.text() == e.text(); }))
      return e.what + ". " + e.mend;
  return {};
}

}  // namespace

std::string refusal(const Material& material, const Catalogue& catalogue, const Thread& thread) {
  const Node* to = material.node(thread.to_node);
  if (!to || !material.node(thread.from_node)) return "the node is not there";
  if (thread.from_node == thread.to_node) return "a node cannot feed itself";
  const auto type = type_of(material, catalogue, *to);
  const Peg* in = type ? type->input(thread.to_peg) : nullptr;
  if (!in) return "there is no such peg";
  const Kind from = output_kind(material, catalogue, thread.from_node, thread.from_peg);
  if (from == Kind::any) return "there is no such output";
  if (const auto refused = refusal(*type, *in, from)) return refused->what + ". " + refused->mend;
  auto threads = material.threads;
  threads.push_back(thread);
  if (!cycle_in(material.nodes, threads).empty()) return "it would run in a circle";
  if (const auto refused = surface_refusal(material, catalogue, thread)) return refused->what + ". " + refused->mend;
  // Of a peg that takes any kind the node's own outputs may follow it.
  return in->kind == Kind::any ? refused_below(material, catalogue, *type, thread) : std::string();
}

}  // namespace loom
