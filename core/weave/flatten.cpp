// Unfolds groups into one list of nodes and computes content keys from the sources down.
#include "core/weave/flatten.h"

#include <algorithm>
#include <deque>
#include <functional>
#include <unordered_map>

#include "core/base/hash.h"
#include "core/graph/bolt_group.h"
#include "core/graph/groups.h"
#include "core/graph/hem.h"
#include "core/graph/inputs.h"
#include "core/graph/json.h"
#include "core/graph/reading.h"
#include "core/graph/surface_reach.h"
#include "core/graph/validate.h"
#include "core/graph/worked_values.h"
#include "core/nodes/repeated.h"
#include "core/program/formula.h"

namespace loom {
namespace {

// One graph in use: the material, or a group inside one of its instances.
struct Scope {
  const std::vector<NodePtr>* nodes;
  const std::vector<Thread>* threads;
  const std::vector<Value>* values;
  std::string prefix;
  std::uint64_t seed = 0;
  Scope* outer = nullptr;
  const Node* instance = nullptr;  // the node in `outer` that this scope unfolds
  const Group* group = nullptr;
  Measures measures{};
  std::map<std::string, ParamValue> held{};  // what its values hold here, formulas worked out
  std::map<std::string, double> numbers{};   // those that are numbers, with those around
  std::map<std::string, Scope*> inner{};
  std::map<std::string, int> stand_ins{};                          // flat nodes, by the group's input
  std::map<std::string, int> repeated{};                           // flat nodes that lay its outputs several times
  std::map<std::string, int> index{};                              // flat nodes of this scope
  std::unordered_map<std::string, const Thread*> into{};           // by NODE.PEG
  std::unordered_map<std::string, const GroupPeg*> from_around{};  // the group's input that feeds NODE.PEG
  std::unordered_map<std::string, const Node*> node{};
};

class Flattener {
 public:
  Flattener(const Material& material, const Catalogue& catalogue) : material_(material), catalogue_(catalogue) {}

  Result<FlatGraph> run() {
    graph_.measures = {material_.tile_metres, material_.relief_metres};
    Scope* top = scope({&material_.nodes, &material_.threads, &material_.values, "", seed_of(material_.seed)});
    top->measures = graph_.measures;
    unfold(*top);
    for (Scope& s : scopes_) connect(s);
    type_into_hem();
    for (const int i : sources_first()) make_key(graph_.nodes[static_cast<std::size_t>(i)]);
    for (Scope& s : scopes_) name_outputs(s);
    each_hem([&](const std::string&, FlatHem& flat, const auto& hem, const auto&) {
      for (const auto& [slot, from] : hem)
        if (const auto ref = graph_.find(from)) flat[slot] = *ref;
    });
    check_kinds();
    check_surface();
    if (fault_) return *fault_;
    return std::move(graph_);
  }

 private:
  // Calls `take(where, flat, hem, typed)` for the hem of all and for those of parts.
  template <class Take>
  void each_hem(const Take& take) {
    loom::each_hem(material_, [&](const std::string& part, const auto& hem, const auto& typed) {
      take(within_part(part), part.empty() ? graph_.hem : graph_.part_hems[part], hem, typed);
    });
  }

  Scope* scope(Scope s) {
    Scope& fresh = scopes_.emplace_back(std::move(s));
    for (const NodePtr& n : *fresh.nodes) fresh.node.emplace(n->id, n.get());
    for (const Thread& t : *fresh.threads) fresh.into.emplace(t.to_node + "." + t.to_peg, &t);
    if (fresh.group)
      for (const GroupPeg& in : fresh.group->inputs)
        for (const std::string& to : in.to) fresh.from_around.emplace(to, &in);
    for (const Value& v : *fresh.values)
      if (auto now = held(fresh, v)) fresh.held.emplace(v.id, *std::move(now));
    const std::map<std::string, double> around = fresh.outer ? fresh.outer->numbers : std::map<std::string, double>{};
    fresh.numbers = work_out(fresh.held, around).numbers;
    for (const auto& [id, number] : fresh.numbers) fresh.held[id] = number;
    fresh.numbers.insert(around.begin(), around.end());
    return &fresh;
  }

  void name_outputs(Scope& s) {
    for (const NodePtr& n : *s.nodes)
      for (const Peg& p : outputs_of(material_, catalogue_, *n))
        if (const auto ref = resolve(s, n->id, p.id)) graph_.outputs[s.prefix + n->id + "." + p.id] = *ref;
    if (!s.group) return;
    for (const GroupPeg& in : s.group->inputs)
      if (const auto from = source_of(*s.outer, s.instance->id, in.id))
        graph_.outputs[s.prefix + edit::comes_in_id(*s.group, in.id) + ".value"] = from->from;
  }

  void unfold(Scope& s) {
    for (const NodePtr& n : *s.nodes) {
      if (n->is_group()) {
        const Group* g = material_.group(n->group);
        const auto it = n->params.find("seed");
        const double own =
            it != n->params.end() && std::holds_alternative<double>(it->second) ? std::get<double>(it->second) : 0;
        const std::uint64_t around = g->of_bolt ? seed_of(g->of_bolt->seed) : s.seed;
        Scope* inside = scope({&g->nodes, &g->threads, &g->values, s.prefix + n->id + "/",
                               own == 0 ? around : combine(around, hash_number(own)), &s, n.get(), g});
        inside->measures = g->of_bolt ? g->of_bolt->measures : s.measures;
        s.inner[n->id] = inside;
        for (const GroupPeg& in : g->inputs) stand_in_for(*inside, in);
        if (g->of_bolt) lay_several(*inside);
        unfold(*inside);
      } else {
        s.index[n->id] = static_cast<int>(graph_.nodes.size());
        const NodeType* type = catalogue_.find(n->type);
        Resolved params = resolved(s, *n);
        NodeFiles files = files_of(*type, params);
        graph_.nodes.push_back({type, s.prefix + n->id, std::move(params), std::move(files), {}, s.seed, s.measures});
      }
    }
  }

  // What comes in at a use of a group while nothing is connected there.
  void stand_in_for(Scope& inside, const GroupPeg& input) {
    const auto own = own_value(inside, input.id);
    auto params = stand_in(input, own ? &*own : nullptr);
    if (!params) return;
    const NodeType* type = catalogue_.find(kComesIn);
    NodeFiles files;
    if (is_required(input)) {
      (*params)["stands_in"] = std::string(kStandsPicture);
      files.emplace("file", Error{"input " + input.id, "is required, and nothing comes in", "Connect it"});
    } else {
      files = files_of(*type, *params);
    }
    inside.stand_ins[input.id] = static_cast<int>(graph_.nodes.size());
    graph_.nodes.push_back({type,
                            inside.prefix + edit::comes_in_id(*inside.group, input.id),
                            *std::move(params),
                            std::move(files),
                            {},
                            inside.seed,
                            inside.measures});
  }

  // A bolt that is laid several times across the tile, and reads nothing of it.
  void lay_several(Scope& inside) {
    const auto own = own_value(inside, kRepeats);
    const auto* count = own ? std::get_if<double>(&*own) : nullptr;
    if (!count || *count < 2) return;
    for (const GroupPeg& in : inside.group->inputs) {
      const std::string peg = inside.instance->id + "." + in.id;
      if (inside.outer->into.count(peg) || inside.outer->from_around.count(peg)) return;
    }
    // What depends on the shape is no map, and lies on it as it is; the cord then too.
    const auto on_shape = slots_on_surface(bolt_material(*inside.group, material_), catalogue_);
    for (const GroupPeg& out : inside.group->outputs) {
      if (on_shape.count(out.id) || (out.id == kCordOutput && !on_shape.empty())) continue;
      inside.repeated[out.id] = static_cast<int>(graph_.nodes.size());
      graph_.nodes.push_back({&repeated_type(), inside.prefix + "repeated/" + out.id, {{kRepeats, *count}}, {}, {}});
    }
  }
  static std::uint64_t seed_of(std::int64_t seed) { return mix64(static_cast<std::uint64_t>(seed)); }

  NodeFiles files_of(const NodeType& type, const Resolved& params) const {
    NodeFiles files;
    for (const Parameter& p : type.parameters) {
      const auto it = p.kind == ParameterKind::file ? params.find(p.id) : params.end();
      const auto* name = it == params.end() ? nullptr : std::get_if<std::string>(&it->second);
      if (name && !name->empty())
        files.emplace(p.id, find_file(material_.files ? *material_.files : FileRoot{}, *name));
    }
    return files;
  }

  // What the use that a scope unfolds sets of its own; nothing where it leaves it to the definition.
  static std::optional<ParamValue> own_value(const Scope& at, const std::string& id) {
    if (!at.instance) return {};
    const auto own = at.instance->params.find(id);
    if (own == at.instance->params.end()) return {};
    if (const auto* follow = std::get_if<Follow>(&own->second)) return value(*at.outer, follow->value);
    if (const auto* formula = std::get_if<Formula>(&own->second)) {
      const auto result = evaluate_formula(formula->text, at.outer->numbers);
      return result ? std::optional<ParamValue>(*result) : std::nullopt;
    }
    return own->second;
  }

  // What a value holds in its own scope: an instance may set its group's values as its parameters.
  static std::optional<ParamValue> held(const Scope& at, const Value& v) {
    return at.instance && at.instance->params.count(v.id) ? own_value(at, v.id) : v.value;
  }

  static std::optional<ParamValue> value(const Scope& s, const std::string& id) {
    for (const Scope* at = &s; at; at = at->outer)
      if (const auto it = at->held.find(id); it != at->held.end()) return it->second;
    return {};
  }

  Resolved resolved(const Scope& s, const Node& n) {
    const NodeType* type = catalogue_.find(n.type);
    Resolved out;
    for (const auto& [id, held] : n.params) {
      const Parameter* p = type->parameter(id);
      if (!p) continue;
      ParamValue v = held;
      if (const auto* follow = std::get_if<Follow>(&v)) {
        if (auto found = value(s, follow->value)) v = *std::move(found);
      }
      if (auto* rule = std::get_if<Rule>(&v)) {
        for (RuleEnd* end : {&rule->from, &rule->to}) {
          const auto found = end->follow.empty() ? std::nullopt : value(s, end->follow);
          if (found && std::holds_alternative<double>(*found)) end->number = std::get<double>(*found);
          end->follow.clear();
        }
      }
      if (auto* formula = std::get_if<Formula>(&v)) v = formula_value(s, n, *p, *formula);
      out[id] = std::move(v);
    }
    return out;
  }

  ParamValue formula_value(const Scope& s, const Node& n, const Parameter& p, const Formula& formula) {
    const auto& all = s.numbers;
    if (p.per_unit) {  // kept, with the values that it names
      Formula bound = formula;
      if (const auto parsed = parse_formula(formula.text))
        for (const auto& name : names_in(*parsed))
          if (const auto it = all.find(name); it != all.end()) bound.bound[name] = it->second;
      return bound;
    }
    const auto result = evaluate_formula(formula.text, all);
    if (result) return *result;
    if (!fault_) {
      fault_ = result.error();
      fault_->where = "node " + n.id + ", parameter " + p.id + ", " + fault_->where;
    }
    return p.initial;
  }

  // A peg of a node in its scope: an output that is looked up, or an input whose source is.
  struct At {
    Scope* scope;
    std::string node, peg;
    bool input;
  };
  using Bypassed = std::pair<const Scope*, std::string>;  // a node that is passed by

  // Where an output really comes from, and what feeds an input: through group instances and bypassed nodes. Empty if
  // nothing does. A chain of bypassed nodes may be as long as a document: each is worked out after those that it leads
  // to, on a stack of our own.
  std::optional<OutputRef> resolve(Scope& s, const std::string& node, const std::string& peg) {
    const auto found = traced({&s, node, peg, false});
    return found ? std::optional(found->from) : std::nullopt;
  }
  std::optional<FlatInput> source_of(Scope& s, const std::string& node, const std::string& peg) {
    const auto found = traced({&s, node, peg, true});
    return found && found->from.output >= 0 ? found : std::nullopt;
  }

  std::optional<FlatInput> traced(const At& wanted) {
    std::vector<At> waiting;
    for (;;) {
      std::optional<At> missing;
      auto found = followed(wanted, missing);
      if (!missing) return found;
      waiting.push_back(*missing);
      while (!waiting.empty()) {
        const At at = waiting.back();
        missing.reset();
        const auto passed = passed_on(at, missing);
        if (missing) {
          waiting.push_back(*missing);
        } else {
          passed_on_[{at.scope, at.node}] = passed;
          waiting.pop_back();
        }
      }
    }
  }

  // What a bypassed node gives: what comes in at the first of its pegs where anything does.
  std::optional<FlatInput> passed_on(const At& at, std::optional<At>& missing) {
    const FlatNode& flat = graph_.nodes[static_cast<std::size_t>(at.scope->index.at(at.node))];
    for (const Peg& in : flat.type->inputs) {
      const auto from = followed({at.scope, at.node, in.id, true}, missing);
      if (missing) return {};
      if (from && from->from.output >= 0) return from;
    }
    return {};
  }

  // Follows threads as far as the first flat node, or as far as a bypassed one that is not worked out yet: `missing`.
  std::optional<FlatInput> followed(At at, std::optional<At>& missing) {
    std::optional<int> channel;         // of the first thread: it says what its peg takes
    std::optional<FlatInput> fallback;  // what stands in where nothing comes: the outermost group has its say
    for (;;) {
      if (at.input) {
        const std::string to = at.node + "." + at.peg;
        if (const auto it = at.scope->into.find(to); it != at.scope->into.end()) {
          if (!channel) channel = it->second->channel;
          at = {at.scope, it->second->from_node, it->second->from_peg, false};
        } else {
          if (const auto stands = stand_in_at(at, channel.value_or(-1))) fallback = stands;
          const auto around = at.scope->outer ? at.scope->from_around.find(to) : at.scope->from_around.end();
          if (around == at.scope->from_around.end()) return fallback;
          at = {at.scope->outer, at.scope->instance->id, around->second->id, true};
        }
        continue;
      }
      if (const auto it = at.scope->inner.find(at.node); it != at.scope->inner.end()) {
        if (const auto laid = it->second->repeated.find(at.peg); laid != it->second->repeated.end())
          return FlatInput{{laid->second, 0}, channel.value_or(-1)};
        const auto& outputs = it->second->group->outputs;
        const auto out =
            std::find_if(outputs.begin(), outputs.end(), [&](const GroupPeg& p) { return p.id == at.peg; });
        if (out == outputs.end()) return {};
        at = behind(*it->second, *out);
        continue;
      }
      const auto index = at.scope->index.find(at.node);
      if (index == at.scope->index.end()) return {};
      if (channel && leaves_it_inside(*at.scope->node.at(at.node))) return fallback;
      if (at.scope->node.at(at.node)->bypass) {
        const auto known = passed_on_.find({at.scope, at.node});
        if (known == passed_on_.end()) {
          missing = at;
          return {};
        }
        if (known->second) return FlatInput{known->second->from, channel.value_or(-1)};
      }
      const FlatNode& flat = graph_.nodes[static_cast<std::size_t>(index->second)];
      return FlatInput{{index->second, flat.type->output_index(at.peg)}, channel.value_or(-1)};
    }
  }

  // What an output of a group gives: one of a node inside, or what comes in at an input.
  static At behind(Scope& inside, const GroupPeg& output) {
    auto [node, peg] = split_output(output.from);
    if (!inside.node.count(node))
      for (const GroupPeg& in : inside.group->inputs)
        if (edit::comes_in_id(*inside.group, in.id) == node) return {inside.outer, inside.instance->id, in.id, true};
    return {&inside, std::move(node), std::move(peg), false};
  }

  // At a peg where no thread ends.
  static std::optional<FlatInput> stand_in_at(const At& at, int channel) {
    const auto use = at.scope->inner.find(at.node);
    if (use == at.scope->inner.end()) return {};
    const auto found = use->second->stand_ins.find(at.peg);
    if (found == use->second->stand_ins.end()) return {};
    return FlatInput{{found->second, 0}, channel};
  }

  // A typed value of the hem is a node like any other.
  void type_into_hem() {
    each_hem([&](const std::string& where, FlatHem& flat, const auto& hem, const auto& typed) {
      for (const auto& [slot, value] : typed) {
        if (hem.count(slot)) continue;
        const bool number = std::holds_alternative<double>(value);
        FlatNode n;
        n.type = catalogue_.find(number ? "value" : "colour");
        n.path = std::string(kHemNode) + "/" + where + slot;
        n.params[number ? "value" : "colour"] = value;
        flat[slot] = {static_cast<int>(graph_.nodes.size()), 0};
        graph_.nodes.push_back(std::move(n));
      }
    });
  }

  void connect(Scope& s) {
    for (const auto& [id, at] : s.index) {
      FlatNode& flat = graph_.nodes[static_cast<std::size_t>(at)];
      for (const Peg& in : flat.type->inputs)
        if (const auto from = source_of(s, id, in.id)) flat.inputs[in.id] = *from;
    }
    for (const auto& [peg, at] : s.repeated)
      for (const GroupPeg& out : s.group->outputs)
        if (const auto from = out.id == peg ? traced(behind(s, out)) : std::nullopt; from && from->from.output >= 0)
          graph_.nodes[static_cast<std::size_t>(at)].inputs["source"] = *from;
  }

  // Of a node whose inputs have theirs.
  void make_key(FlatNode& n) const {
    KeyMaker k;
    k.add(n.type->id).add(n.type->version);
    for (const auto& [id, value] : n.params) {
      k.add(id);
      if (const auto* strokes = std::get_if<Strokes>(&value)) {  // thousands, each with a key of its own
        k.add(static_cast<int>(strokes->all.size()));
        for (const HandStrokePtr& s : strokes->all) k.add(s->key);
        continue;
      }
      k.add(param_to_json(value).dump());
      if (const auto* f = std::get_if<Formula>(&value))
        for (const auto& [name, number] : f->bound) k.add(name).add(number);
    }
    for (const auto& [id, file] : n.files) k.add(id).add(file ? file->key : key_of(file.error().text()));
    if (n.type->random) k.add(n.seed);
    k.add(n.measures.tile_metres).add(n.measures.relief_metres);
    for (const auto& [peg, in] : n.inputs)
      k.add(peg).add(graph_.nodes[static_cast<std::size_t>(in.from.node)].key).add(in.from.output).add(in.channel);
    n.key = k.key();
  }

  // A group's pegs may say less of their kinds than is known once it is unfolded.
  void check_kinds() {
    std::vector<std::vector<Kind>> kinds(graph_.nodes.size());
    for (const int index : sources_first()) {
      const FlatNode& n = graph_.nodes[static_cast<std::size_t>(index)];
      const auto known = [&](const FlatInput& in) {
        const auto& outputs = kinds[static_cast<std::size_t>(in.from.node)];
        const auto at = static_cast<std::size_t>(in.from.output);
        return at < outputs.size() ? outputs[at] : Kind::scalar;
      };
      std::vector<Kind> any;
      for (const auto& [peg, in] : n.inputs) {
        const Peg& described = *n.type->input(peg);
        auto refused = refusal(*n.type, described, known(in));
        if (refused && !fault_) {
          refused->where = "node " + n.path + ", input " + peg;
          fault_ = std::move(refused);
        }
        if (described.kind == Kind::any) any.push_back(known(in));
      }
      const auto common = common_kind(*n.type, any);
      if (!common && !fault_)
        fault_ = Error{"node " + n.path, n.type->label + " cannot mix a cord or regions with other maps",
                       "Connect cords to all of its inputs, or regions to all, or neither"};
      Node as_it_stands;
      as_it_stands.params = n.params;
      for (const Peg& out : n.type->outputs) {
        Kind kind = out.kind;
        if (kind == Kind::any && n.type->gives)
          kind = n.type->gives(as_it_stands, [&](const std::string& peg) {
            const auto it = n.inputs.find(peg);
            return it == n.inputs.end() ? Kind::scalar : known(it->second);
          });
        else if (kind == Kind::any)
          kind = common.value_or(Kind::scalar);
        kinds[static_cast<std::size_t>(index)].push_back(kind);
      }
    }
    each_hem([&](const std::string& where, const FlatHem& hem, const auto&, const auto&) {
      for (const auto& [slot, ref] : hem) {
        const Kind kind = kinds[static_cast<std::size_t>(ref.node)][static_cast<std::size_t>(ref.output)],
                   takes = slot_kind(slot);
        if (!fault_ && takes != Kind::any && !converts(kind, takes))
          fault_ = Error{where + "hem, slot " + slot,
                         "takes a " + std::string(kind_name(takes)) + ", not a " + std::string(kind_name(kind)),
                         "Connect another output"};
      }
    });
  }

  // What rests on a shape's surface has no neighbours on the tile, and comes too late to shape the surface itself.
  void check_surface() {
    for (const int index : sources_first()) {
      FlatNode& n = graph_.nodes[static_cast<std::size_t>(index)];
      n.surface = own_surface_use(*n.type, n.params);
      for (const auto& [peg, in] : n.inputs) {
        const SurfaceUse from = graph_.surface_of(in.from);
        n.surface = std::max(n.surface, from);
        const bool whole = n.type->evaluate || reads_whole(*n.type, n.params, *n.type->input(peg));
        if (from == SurfaceUse::none || !whole || fault_) continue;
        fault_ = needs_neighbours();
        fault_->where = "node " + n.path + ", input " + peg;
      }
    }
    each_hem([&](const std::string& where, const FlatHem& hem, const auto&, const auto&) {
      for (const auto& [slot, ref] : hem)
        if (!fault_ && graph_.surface_of(ref) != SurfaceUse::none)
          if (fault_ = surface_refusal(slot); fault_) fault_->where = where + "hem, slot " + slot;
    });
  }

  // The nodes in an order in which each comes after what it reads.
  std::vector<int> sources_first() const {
    std::vector<int> order, waiting;
    std::vector<char> state(graph_.nodes.size(), 0);  // 1: on the way, 2: done
    for (std::size_t root = 0; root < graph_.nodes.size(); ++root) {
      waiting.push_back(static_cast<int>(root));
      while (!waiting.empty()) {
        const auto at = static_cast<std::size_t>(waiting.back());
        if (state[at] == 0) {
          state[at] = 1;
          for (const auto& [peg, in] : graph_.nodes[at].inputs)
            if (state[static_cast<std::size_t>(in.from.node)] == 0) waiting.push_back(in.from.node);
          if (static_cast<std::size_t>(waiting.back()) != at) continue;
        }
        if (state[at] == 1) order.push_back(static_cast<int>(at)), state[at] = 2;
        waiting.pop_back();
      }
    }
    return order;
  }

  const Material& material_;
  const Catalogue& catalogue_;
  FlatGraph graph_;
  std::deque<Scope> scopes_;
  std::map<Bypassed, std::optional<FlatInput>> passed_on_;
  std::optional<Error> fault_;
};

}  // namespace

std::optional<OutputRef> FlatGraph::find(const std::string& output) const {
  const auto it = outputs.find(output);
  if (it == outputs.end() || it->second.output < 0) return {};
  return it->second;
}

Result<FlatGraph> flatten(const Material& material, const Catalogue& catalogue) {
  const auto faults = validate(material, catalogue);
  if (!faults.empty()) return faults.front();
  return Flattener(material, catalogue).run();
}

}  // namespace loom
