// A definition's inside is edited as a material of its own and written back: every edit works there without knowing.
#include "core/graph/groups.h"

#include <algorithm>
#include <functional>
#include <set>

#include "core/graph/hem.h"
#include "core/graph/inputs.h"
#include "core/graph/rework.h"
#include "core/graph/validate.h"
#include "core/graph/worked_values.h"
#include "core/program/formula.h"

namespace loom::edit {
namespace {

std::string joined(const std::string& node, const std::string& peg) { return node + "." + peg; }

// Letters, digits and _ of a name, beginning with a letter.
std::string identifier_of(const std::string& name) {
  std::string id;
  for (const char c : name) {
    if (c >= 'A' && c <= 'Z')
      id += static_cast<char>(c - 'A' + 'a');
    else if ((c >= 'a' && c <= 'z') || (c >= '0' && c <= '9'))
      id += c;
    else if (!id.empty() && id.back() != '_')
      id += '_';
  }
  while (!id.empty() && id.back() == '_') id.pop_back();
  if (id.empty() || id.front() < 'a' || id.front() > 'z') id.insert(0, "group_");
  return id == "group_" ? std::string("group") : id;
}

template <class Taken>
std::string free_name(const std::string& base, const Taken& taken) {
  std::string id = base;
  for (int n = 2; taken(id); ++n) id = base + "_" + std::to_string(n);
  return id;
}

std::string free_peg(const std::vector<GroupPeg>& pegs, const std::string& base) {
  return free_name(base, [&](const std::string& id) {
    return std::any_of(pegs.begin(), pegs.end(), [&](const GroupPeg& p) { return p.id == id; });
  });
}
std::string free_group(const Material& m, const std::string& base) {
  return free_name(base, [&](const std::string& id) { return m.group(id) != nullptr; });
}

std::string label_of_peg(const std::vector<Peg>& pegs, const std::string& id) {
  for (const Peg& p : pegs)
    if (p.id == id) return p.label;
  return id;
}

void replace_group(Material& m, std::shared_ptr<const Group> fresh) {
  for (auto& g : m.groups)
    if (g->id == fresh->id) {
      g = std::move(fresh);
      return;
    }
  m.groups.push_back(std::move(fresh));
}

// A node outside that reads the chosen and is read by them.
const Node* between(const Material& m, const std::vector<std::string>& nodes) {
  const auto before = upstream(m, nodes), after = downstream(m, nodes);
  for (const std::string& id : after)
    if (std::find(before.begin(), before.end(), id) != before.end() &&
        std::find(nodes.begin(), nodes.end(), id) == nodes.end())
      return m.node(id);
  return nullptr;
}

struct Fold {
  const Material& m;
  const Catalogue& catalogue;
  std::set<std::string> chosen;
  Group group;
  std::map<std::pair<std::string, int>, std::string> input_of;  // by the output outside and its channel
  std::map<std::string, std::string> output_of;                 // by the output inside

  void take_nodes() {
    std::set<std::string> lanes;
    int first = 1 << 20;
    for (const NodePtr& n : m.nodes)
      if (chosen.count(n->id)) first = std::min(first, n->row), lanes.insert(n->lane);
    for (const NodePtr& n : m.nodes) {
      if (!chosen.count(n->id)) continue;
      auto inside = std::make_shared<Node>(*n);
      inside->row += 1 - first;  // the first row is for what comes in
      group.nodes.push_back(std::move(inside));
      if (const auto note = m.notes_on.find(n->id); note != m.notes_on.end()) group.notes_on.insert(*note);
    }
    for (const Thread& t : m.threads)
      if (const auto led = m.guides.find(joined(t.to_node, t.to_peg));
          led != m.guides.end() && chosen.count(t.from_node) && chosen.count(t.to_node)) {
        auto& through = group.guides[led->first] = led->second;
        for (Guide& g : through) g.row += 1 - first;
      }
    for (const Lane& l : m.lanes)
      if (lanes.count(l.id)) group.lanes.push_back(l);
  }

  void cut(const Thread& t) {
    const bool from = chosen.count(t.from_node), to = chosen.count(t.to_node);
    if (from && to) group.threads.push_back(t);
    if (to && !from) take_in(t);
    if (from && !to) give_out(joined(t.from_node, t.from_peg));
  }

  void take_in(const Thread& t) {
    const auto pegs = inputs_of(m, catalogue, *m.node(t.to_node));
    const auto peg = std::find_if(pegs.begin(), pegs.end(), [&](const Peg& p) { return p.id == t.to_peg; });
    auto& id = input_of[{joined(t.from_node, t.from_peg), t.channel}];
    const Kind given = t.channel >= 0 ? Kind::scalar : output_kind(m, catalogue, t.from_node, t.from_peg);
    if (id.empty()) {
      id = free_peg(group.inputs, t.to_peg);
      const Kind kind = peg == pegs.end() || peg->kind == Kind::any ? given : peg->kind;
      group.inputs.push_back({id, label_of_peg(pegs, t.to_peg), std::string(kind_name(kind)), {}, {}});
    }
    for (GroupPeg& in : group.inputs) {
      if (in.id != id) continue;
      in.to.push_back(joined(t.to_node, t.to_peg));
      if (in.to.size() > 1) in.kind = kind_name(given);  // several readers: what is given serves them all
    }
  }

  void give_out(const std::string& output) {
    auto& id = output_of[output];
    if (!id.empty()) return;
    const auto [node, peg] = split_output(output);
    id = free_peg(group.outputs, peg);
    const std::string label = label_of_peg(outputs_of(m, catalogue, *m.node(node)), peg);
    const std::string& name = m.node(node)->name;  // what the artist called it says more
    group.outputs.push_back(
        {id, name.empty() ? label : name, std::string(kind_name(output_kind(m, catalogue, node, peg))), {}, output});
  }

  // What the group comes to stands first; outputs of one node are told apart by their pegs.
  void order_outputs() {
    const auto row = [&](const GroupPeg& p) { return m.node(split_output(p.from).first)->row; };
    std::stable_sort(group.outputs.begin(), group.outputs.end(),
                     [&](const GroupPeg& a, const GroupPeg& b) { return row(a) > row(b); });
    std::map<std::string, int> named;
    for (const GroupPeg& p : group.outputs) ++named[p.label];
    for (GroupPeg& p : group.outputs) {
      const auto [node, peg] = split_output(p.from);
      if (named[p.label] > 1 && !m.node(node)->name.empty())
        p.label += ", " + label_of_peg(outputs_of(m, catalogue, *m.node(node)), peg);
    }
  }
};

// Calls `each` for every list of nodes and threads: the document's own and those of its groups.
template <class Each>
void each_graph(Material& m, const Each& each) {
  each(m.nodes, m.threads, static_cast<Group*>(nullptr));
  for (auto& g : m.groups) {
    auto fresh = std::make_shared<Group>(*g);
    each(fresh->nodes, fresh->threads, fresh.get());
    g = std::move(fresh);
  }
}

// Threads, slots and pegs that end in pegs which a definition no longer has.
void drop_lost_pegs(Material& m, const Group& group) {
  const auto has = [](const std::vector<GroupPeg>& pegs, const std::string& id) {
    return std::any_of(pegs.begin(), pegs.end(), [&](const GroupPeg& p) { return p.id == id; });
  };
  each_graph(m, [&](const std::vector<NodePtr>& nodes, std::vector<Thread>& threads, Group* holder) {
    std::set<std::string> uses;
    for (const NodePtr& n : nodes)
      if (n->is_group() && n->group == group.id) uses.insert(n->id);
    const auto lost_output = [&](const std::string& from) {
      const auto [node, peg] = split_output(from);
      return uses.count(node) && !has(group.outputs, peg);
    };
    const auto lost_input = [&](const std::string& to) {
      const auto [node, peg] = split_output(to);
      return uses.count(node) && !has(group.inputs, peg);
    };
    std::erase_if(threads, [&](const Thread& t) {
      return lost_output(joined(t.from_node, t.from_peg)) || lost_input(joined(t.to_node, t.to_peg));
    });
    if (!holder)
      return each_hem(m, [&](const std::string&, auto& hem, auto&) {
        std::erase_if(hem, [&](const auto& slot) { return lost_output(slot.second); });
      });
    std::erase_if(holder->outputs, [&](const GroupPeg& p) { return lost_output(p.from); });
    for (GroupPeg& in : holder->inputs) std::erase_if(in.to, lost_input);
  });
}

// Gives the readers of a group's value what the instance holds of it.
void settle(Node& n, const std::string& value, const ParamValue& held) {
  for (auto& [id, param] : n.params) {
    if (const auto* follow = std::get_if<Follow>(&param); follow && follow->value == value) param = ParamValue(held);
    if (auto* rule = std::get_if<Rule>(&param))
      for (RuleEnd* end : {&rule->from, &rule->to}) {
        if (end->follow != value) continue;
        if (const auto* outer = std::get_if<Follow>(&held))
          end->follow = outer->value;
        else
          *end = {std::holds_alternative<double>(held) ? std::get<double>(held) : 0, ""};
      }
  }
}

std::string* formula_of(ParamValue& v, const std::string& id) {
  if (auto* f = std::get_if<Formula>(&v)) return &f->text;
  return id == "formula" ? std::get_if<std::string>(&v) : nullptr;
}

// Values that formulas name become values of the document; all others are settled.
void bring_out_values(Material& m, const Group& g, const Node& instance, std::vector<std::shared_ptr<Node>>& nodes) {
  std::map<std::string, ParamValue> all;
  for (const Value& v : g.values) {
    const auto own = instance.params.find(v.id);
    const ParamValue& held = own == instance.params.end() ? v.value : own->second;
    const auto* follow = std::get_if<Follow>(&held);
    const Value* outer = follow ? m.value(follow->value) : nullptr;
    all.emplace(v.id, outer ? outer->value : held);
  }
  const auto numbers = work_out(all, work_out(m.values).numbers).numbers;
  for (const Value& v : g.values) {
    const auto own = instance.params.find(v.id);
    ParamValue held = own == instance.params.end() ? v.value : own->second;
    // A formula of the definition names values that are there no more: what it came to stays.
    if (own == instance.params.end() && std::holds_alternative<Formula>(held) && numbers.count(v.id))
      held = numbers.at(v.id);
    const std::string fresh = free_id(m, v.id);
    bool named = false;
    for (auto& n : nodes) {
      settle(*n, v.id, held);
      for (auto& [id, param] : n->params)
        if (std::string* text = formula_of(param, id)) named = replace_name(*text, v.id, fresh) || named;
    }
    const auto* follow = std::get_if<Follow>(&held);
    const Value* outer = follow ? m.value(follow->value) : nullptr;
    if (named) m.values.push_back({fresh, outer ? outer->value : held, {}});
  }
}

// What stood in at a use's input becomes a node beside those that it fed.
void set_free(Material& m, const Node& use, const GroupPeg& in, std::map<std::string, std::string>& renamed,
              std::vector<std::string>* fresh) {
  const auto own = use.params.find(in.id);
  auto plain = plain_stand_in(in, own == use.params.end() ? nullptr : &own->second);
  if (!plain || in.to.empty()) return;
  Node& n = plain->node;
  n.id = free_id(m, in.id);
  n.lane = use.lane, n.column = use.column, n.row = free_row(m, use.lane, use.column, 0);
  for (const std::string& to : in.to)
    if (const auto [node, peg] = split_output(to); renamed.count(node))
      m.threads.push_back({n.id, plain->peg, renamed[node], peg});
  if (fresh) fresh->push_back(n.id);
  m.nodes.push_back(std::make_shared<Node>(std::move(n)));
}

void drop_unused(Material& m, const std::string& group) {
  if (uses_of(m, group) == 0) std::erase_if(m.groups, [&](const auto& g) { return g->id == group; });
}

}  // namespace

Result<Material> fold(Material m, const Catalogue& catalogue, const std::vector<std::string>& nodes,
                      const std::string& name, std::string* instance) {
  Fold f{m, catalogue, {}, {}, {}, {}};
  const Node* last = nullptr;
  for (const std::string& id : nodes) {
    const Node* n = m.node(id);
    if (!n) continue;
    if (n->type == kComesIn)
      return Error{"node " + id, "is an input, which a group within cannot hold", "Leave it out of the selection"};
    f.chosen.insert(id);
    if (!last || n->row > last->row) last = n;
  }
  if (!last) return Error{"selection", "holds no nodes", "Select the nodes to fold"};
  if (const Node* n = between(m, {f.chosen.begin(), f.chosen.end()}))
    return Error{"node " + n->id, "lies between the chosen nodes: the group would have to be before and after it",
                 "Select '" + label_of(m, catalogue, *n) + "' too, or fewer nodes"};
  f.group.name = name.empty() ? "Group" : name;
  f.group.id = free_group(m, identifier_of(f.group.name));
  f.take_nodes();
  for (const Thread& t : m.threads) f.cut(t);
  each_hem(m, [&](const std::string&, const auto& hem, const auto&) {
    for (const auto& [slot, from] : hem)
      if (f.chosen.count(split_output(from).first)) f.give_out(from);
  });
  if (f.group.outputs.empty())
    if (const auto outs = outputs_of(m, catalogue, *last); !outs.empty()) f.give_out(joined(last->id, outs.front().id));

  f.order_outputs();

  auto use = std::make_shared<Node>();
  use->id = free_id(m, f.group.id);
  use->type = kGroupType;
  use->group = f.group.id;
  use->lane = last->lane, use->row = last->row, use->column = last->column;
  const std::string id = use->id;
  if (instance) *instance = id;
  for (Thread& t : m.threads) {
    const bool from = f.chosen.count(t.from_node), to = f.chosen.count(t.to_node);
    if (to && !from)
      t = {t.from_node, t.from_peg, id, f.input_of[{joined(t.from_node, t.from_peg), t.channel}], t.channel, t.alias};
    else if (from && !to)
      t.from_peg = f.output_of[joined(t.from_node, t.from_peg)], t.from_node = id;
  }
  std::vector<Thread> kept;  // several threads of one output have become one
  for (const Thread& t : m.threads)
    if (!(f.chosen.count(t.from_node) && f.chosen.count(t.to_node)) &&
        std::none_of(kept.begin(), kept.end(),
                     [&](const Thread& k) { return k.to_node == t.to_node && k.to_peg == t.to_peg; }))
      kept.push_back(t);
  m.threads = std::move(kept);
  each_hem(m, [&](const std::string&, auto& hem, auto&) {
    for (auto& [slot, from] : hem)
      if (f.chosen.count(split_output(from).first)) from = joined(id, f.output_of[from]);
  });
  for (auto& [letter, at] : m.marks)
    if (f.chosen.count(at.substr(0, at.find_first_of("/.")))) at = id + "/" + at;  // within a chosen group, too
  std::erase_if(m.nodes, [&](const NodePtr& n) { return f.chosen.count(n->id) != 0; });
  for (const std::string& gone : f.chosen) m.notes_on.erase(gone);
  m.nodes.push_back(std::move(use));
  m.groups.push_back(std::make_shared<Group>(std::move(f.group)));
  return m;
}

Material take_apart(Material m, const std::string& instance, std::vector<std::string>* fresh) {
  const Node* found = m.node(instance);
  const Group* definition = found ? m.group_of(*found) : nullptr;
  if (!definition || definition->of_bolt) return m;
  const Node use = *found;
  const Group g = *definition;
  std::map<std::string, std::string> renamed;
  std::vector<std::shared_ptr<Node>> nodes;
  for (const NodePtr& n : g.nodes) {
    auto copy = std::make_shared<Node>(*n);
    copy->id = free_name(n->id, [&](const std::string& id) {
      return free_id(m, id) != id ||
             std::any_of(nodes.begin(), nodes.end(), [&](const auto& other) { return other->id == id; });
    });
    renamed[n->id] = copy->id;
    if (!m.lane(copy->lane)) copy->lane = use.lane;
    nodes.push_back(std::move(copy));
  }
  bring_out_values(m, g, use, nodes);
  std::erase_if(m.nodes, [&](const NodePtr& n) { return n->id == instance; });
  int lowest = 0;
  for (const NodePtr& n : g.nodes) lowest = std::max(lowest, n->row);
  for (auto& n : nodes) {
    n->row = free_row(m, n->lane, n->column, std::max(0, use.row - lowest + n->row));
    if (fresh) fresh->push_back(n->id);
    m.nodes.push_back(n);
  }
  for (const auto& [node, note] : g.notes_on)
    if (renamed.count(node)) m.notes_on[renamed[node]] = note;
  const auto outside = [&](const std::string& output) {
    const auto [node, peg] = split_output(output);
    const auto it = renamed.find(node);
    return it == renamed.end() ? std::string() : joined(it->second, peg);
  };
  std::vector<Thread> threads;
  for (const Thread& t : g.threads)
    threads.push_back({renamed[t.from_node], t.from_peg, renamed[t.to_node], t.to_peg, t.channel, t.alias});
  std::set<std::string> wired;
  for (const Thread& t : m.threads) {
    if (t.to_node == instance) {
      wired.insert(t.to_peg);
      for (const GroupPeg& in : g.inputs)
        if (in.id == t.to_peg)
          for (const std::string& to : in.to) {
            const auto [node, peg] = split_output(to);
            if (renamed.count(node))
              threads.push_back({t.from_node, t.from_peg, renamed[node], peg, t.channel, t.alias});
          }
    } else if (t.from_node == instance) {
      for (const GroupPeg& out : g.outputs)
        if (out.id == t.from_peg) {
          const auto [node, peg] = split_output(outside(out.from));
          if (!node.empty()) threads.push_back({node, peg, t.to_node, t.to_peg, t.channel, t.alias});
        }
    } else {
      threads.push_back(t);
    }
  }
  m.threads = std::move(threads);
  for (const GroupPeg& in : g.inputs)
    if (!wired.count(in.id)) set_free(m, use, in, renamed, fresh);
  each_hem(m, [&](const std::string&, auto& hem, auto&) {
    for (auto& [slot, from] : hem) {
      const auto [node, peg] = split_output(from);
      if (node != instance) continue;
      from.clear();
      for (const GroupPeg& out : g.outputs)
        if (out.id == peg) from = outside(out.from);
    }
    std::erase_if(hem, [](const auto& slot) { return slot.second.empty(); });
  });
  for (auto& [letter, at] : m.marks)
    if (at.rfind(instance + "/", 0) == 0) {
      const std::string inner = at.substr(instance.size() + 1);
      at = inner.find('/') == std::string::npos
               ? outside(inner)
               : renamed[inner.substr(0, inner.find('/'))] + inner.substr(inner.find('/'));
    }
  drop_unused(m, g.id);
  return m;
}

Material own_copy(Material m, const std::string& instance) {
  const Node* use = m.node(instance);
  const Group* g = use ? m.group_of(*use) : nullptr;
  if (!g || g->of_bolt) return m;
  auto copy = std::make_shared<Group>(*g);
  copy->id = free_group(m, g->id);
  copy->name = free_name(g->name, [&](const std::string& name) {
    return std::any_of(m.groups.begin(), m.groups.end(), [&](const auto& other) { return other->name == name; });
  });
  for (NodePtr& n : m.nodes)
    if (n->id == instance) {
      auto fresh = std::make_shared<Node>(*n);
      fresh->group = copy->id;
      n = std::move(fresh);
    }
  m.groups.push_back(std::move(copy));
  return m;
}

int uses_of(const Material& m, const std::string& group) {
  int uses = 0;
  const auto count = [&](const std::vector<NodePtr>& nodes) {
    for (const NodePtr& n : nodes) uses += n->is_group() && n->group == group;
  };
  count(m.nodes);
  for (const auto& g : m.groups) count(g->nodes);
  return uses;
}

bool holds_itself(const Material& m) {
  const std::function<bool(const Group&, std::set<std::string>)> reaches = [&](const Group& g,
                                                                               std::set<std::string> above) {
    if (!above.insert(g.id).second) return true;
    for (const NodePtr& n : g.nodes)
      if (const Group* inner = m.group_of(*n); inner && reaches(*inner, above)) return true;
    return false;
  };
  return std::any_of(m.groups.begin(), m.groups.end(), [&](const auto& g) { return reaches(*g, {}); });
}

Material describe_group(Material m, const std::string& group, const std::string& name, const std::string& help) {
  const Group* g = m.group(group);
  if (!g || g->of_bolt) return m;
  auto fresh = std::make_shared<Group>(*g);
  fresh->name = name;
  fresh->help = help;
  replace_group(m, std::move(fresh));
  return m;
}

Material add_use(Material m, const std::string& group, const std::string& lane, int column, int row,
                 std::string* instance) {
  auto use = std::make_shared<Node>();
  use->id = free_id(m, group);
  use->type = kGroupType;
  use->group = group;
  use->lane = lane;
  use->column = column;
  use->row = free_row(m, lane, column, row);
  if (instance) *instance = use->id;
  m.nodes.push_back(std::move(use));
  return m;
}

std::string comes_in_id(const Group& group, const std::string& input) {
  return free_name("in_" + input, [&](const std::string& id) {
    return std::any_of(group.nodes.begin(), group.nodes.end(), [&](const NodePtr& n) { return n->id == id; });
  });
}

Material inside_of(const Material& m, const std::string& group) {
  Material view = m;
  const auto it = std::find_if(m.groups.begin(), m.groups.end(), [&](const auto& g) { return g->id == group; });
  if (it == m.groups.end()) return view;
  const Group& g = **it;
  view.inside = *it;
  view.name = g.name;
  view.lanes = g.lanes;
  if (view.lanes.empty()) view.lanes.push_back({"inside", "Inside", 0});
  view.lanes.insert(view.lanes.begin(), {kInputsLane, "Inputs", 3});
  view.nodes = g.nodes;
  view.threads = g.threads;
  view.stages = g.stages;
  view.notes_on = g.notes_on;
  view.guides = g.guides;
  view.values = g.values;
  for (const Value& v : m.values)
    if (std::none_of(g.values.begin(), g.values.end(), [&](const Value& own) { return own.id == v.id; }))
      view.values.push_back(v);
  view.hem.clear();
  view.part_hems.clear();
  for (const GroupPeg& out : g.outputs) view.hem[out.id] = out.from;
  view.marks.clear();
  view.presets.clear();
  show_inputs(view, g);
  return view;
}

void show_inputs(Material& view, const Group& g) {
  int column = 0;
  for (const GroupPeg& in : g.inputs) {
    auto node = std::make_shared<Node>(node_of(in));
    node->id = comes_in_id(g, in.id);
    node->lane = kInputsLane;
    node->column = column++;
    for (const std::string& to : in.to) {
      const auto [inner, peg] = split_output(to);
      view.threads.push_back({node->id, "value", inner, peg});
    }
    view.nodes.push_back(std::move(node));
  }
}

Material with_inside(Material m, const Catalogue& catalogue, const std::string& group, const Material& view) {
  const Group* old = m.group(group);
  if (!old || old->of_bolt) return m;
  const Group before = *old;
  auto g = std::make_shared<Group>(before);
  g->lanes = view.lanes;
  std::erase_if(g->lanes, [](const Lane& l) { return l.id == kInputsLane; });
  g->nodes.clear(), g->threads.clear(), g->values.clear(), g->inputs.clear(), g->outputs.clear();
  g->stages = view.stages;
  g->notes_on = view.notes_on;
  g->guides = view.guides;
  std::map<std::string, std::size_t> input;  // by the node that stands for it
  for (const NodePtr& n : view.nodes) {
    if (n->type != kComesIn) {
      auto own = std::make_shared<Node>(*n);
      if (own->lane == kInputsLane && !g->lanes.empty()) own->lane = g->lanes.front().id;
      g->nodes.push_back(own->lane == n->lane ? n : NodePtr(std::move(own)));
      continue;
    }
    input[n->id] = g->inputs.size();
    GroupPeg peg = input_of(*n);
    peg.id = free_peg(g->inputs, peg.id);
    g->inputs.push_back(std::move(peg));
  }
  for (const Thread& t : view.threads) {
    if (const auto it = input.find(t.from_node); it != input.end())
      g->inputs[it->second].to.push_back(joined(t.to_node, t.to_peg));
    else
      g->threads.push_back(t);
  }
  // Outputs keep their order; what is new comes last.
  const auto give = [&](const std::string& id, const std::string& from) {
    const auto was =
        std::find_if(before.outputs.begin(), before.outputs.end(), [&](const GroupPeg& p) { return p.id == id; });
    const auto [node, peg] = split_output(from);
    const Kind kind = output_kind(view, catalogue, node, peg);
    g->outputs.push_back({id, was == before.outputs.end() ? id : was->label, std::string(kind_name(kind)), {}, from});
  };
  for (const GroupPeg& p : before.outputs)
    if (const auto it = view.hem.find(p.id); it != view.hem.end()) give(p.id, it->second);
  for (const auto& [id, from] : view.hem)
    if (std::none_of(before.outputs.begin(), before.outputs.end(),
                     [&, out = id](const GroupPeg& p) { return p.id == out; }))
      give(id, from);
  // A value of the document was seen from inside; what is new belongs to the group.
  for (const Value& v : view.values) {
    const bool own =
        std::any_of(before.values.begin(), before.values.end(), [&](const Value& o) { return o.id == v.id; });
    const auto outer = std::find_if(m.values.begin(), m.values.end(), [&](const Value& o) { return o.id == v.id; });
    if (!own && outer != m.values.end())
      *outer = v;
    else
      g->values.push_back(v);
  }
  m.groups = view.groups;
  m.bolts = view.bolts;
  m.files = view.files;
  replace_group(m, g);
  drop_lost_pegs(m, *g);
  return m;
}

Material add_group_input(Material view, const std::string& label) {
  auto node = std::make_shared<Node>();
  std::vector<GroupPeg> taken;
  int column = 0;
  for (const NodePtr& n : view.nodes)
    if (n->type == kComesIn) taken.push_back(input_of(*n)), column = std::max(column, n->column + 1);
  node->group = free_peg(taken, identifier_of(label.empty() ? "input" : label));
  node->id = free_id(view, "in_" + node->group);
  node->type = kComesIn;
  node->name = label.empty() ? "Input" : label;
  node->lane = kInputsLane;
  node->column = column;
  node->params["kind"] = std::string(kind_name(Kind::scalar));
  node->params["stands_in"] = std::string(kStandsInside);
  view.nodes.push_back(std::move(node));
  return view;
}

}  // namespace loom::edit
