// Threads from inputs become pegs, typed slots become nodes, and a Make set gathers the slots.
#include "core/graph/bolt_group.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <set>

#include "core/graph/edit.h"
#include "core/graph/groups.h"
#include "core/graph/hem.h"
#include "core/graph/inputs.h"
#include "core/graph/validate.h"

namespace loom {
namespace {

constexpr int kMostRepeats = 64;

// The names that a definition's own groups have among those of all bolts.
std::string within_bolt(const BoltReference& bolt, const std::string& group) { return bolt.key() + "/" + group; }

std::vector<NodePtr> renamed_groups(const std::vector<NodePtr>& nodes, const BoltReference& bolt) {
  std::vector<NodePtr> all;
  for (const NodePtr& n : nodes) {
    auto copy = std::make_shared<Node>(*n);
    if (n->type == kGroupType) copy->group = within_bolt(bolt, n->group);
    all.push_back(std::move(copy));
  }
  return all;
}

class Definition {
 public:
  Definition(const Material& m, const BoltReference& reference, const Catalogue& catalogue)
      : m_(m), reference_(reference), catalogue_(catalogue) {}

  Group made() {
    g_.id = reference_.key();
    g_.name = m_.name;
    g_.of_bolt = std::make_shared<OfBolt>(OfBolt{{reference_.id, reference_.version, reference_.sha256, {}},
                                                 {m_.tile_metres, m_.relief_metres},
                                                 m_.seed,
                                                 m_.presets});
    g_.lanes = m_.lanes;
    g_.values = m_.values;
    std::vector<NodePtr> inner;
    for (const NodePtr& n : m_.nodes)
      if (n->type != kComesIn) inner.push_back(n);
    g_.nodes = renamed_groups(inner, reference_);
    take_inputs();
    give_slots();
    give_cord();
    return std::move(g_);
  }

 private:
  void take_inputs() {
    std::map<std::string, std::size_t> at;
    for (const NodePtr& n : m_.nodes) {
      if (n->type != kComesIn) continue;
      at[n->id] = g_.inputs.size();
      g_.inputs.push_back(input_of(*n));
    }
    for (const Thread& t : m_.threads)
      if (const auto in = at.find(t.from_node); in == at.end())
        g_.threads.push_back(t);
      else
        g_.inputs[in->second].to.push_back(t.to_node + "." + t.to_peg);
  }

  std::string added(const char* base, const char* type, std::map<std::string, ParamValue> params) {
    auto n = std::make_shared<Node>();
    n->id = base;
    for (int k = 2; std::ranges::any_of(g_.nodes, [&](const NodePtr& o) { return o->id == n->id; }); ++k)
      n->id = base + ("_" + std::to_string(k));
    n->type = type;
    n->params = std::move(params);
    g_.nodes.push_back(n);
    return n->id;
  }

  // The output of the hem, where an input may lead straight to it.
  std::string inside(const std::string& output) const {
    const auto [node, peg] = split_output(output);
    const Node* n = m_.node(node);
    return n && n->type == kComesIn ? edit::comes_in_id(g_, input_of(*n).id) + ".value" : output;
  }

  void give(const std::string& slot, Kind kind, const std::string& from) {
    const Slot* known = known_slot(slot);
    g_.outputs.push_back({slot, known ? std::string(known->label) : slot, std::string(kind_name(kind)), {}, from});
  }

  void give_slots() {
    for (const auto& [slot, from] : m_.hem) {
      const auto [node, peg] = split_output(from);
      give(slot, output_kind(m_, catalogue_, node, peg), inside(from));
    }
    for (const auto& [slot, value] : m_.hem_values) {
      if (m_.hem.count(slot)) continue;
      const bool number = std::holds_alternative<double>(value);
      const char* type = number ? "value" : "colour";
      give(slot, number ? Kind::scalar : Kind::colour, added("typed", type, {{type, value}}) + "." + type);
    }
    // As the hem has them: the slots that are known first.
    std::vector<std::string> order;
    for (const auto* slots : {&hem_slots(), &further_slots()})
      for (const Slot& s : *slots) order.emplace_back(s.id);
    const auto place = [&](const GroupPeg& p) { return std::find(order.begin(), order.end(), p.id) - order.begin(); };
    std::stable_sort(g_.outputs.begin(), g_.outputs.end(),
                     [&](const GroupPeg& a, const GroupPeg& b) { return place(a) < place(b); });
  }

  void give_cord() {
    const NodeType& make = *catalogue_.find("make_set");
    std::map<std::string, ParamValue> params;
    std::vector<std::pair<std::string, const GroupPeg*>> pegs;
    int own = 0;
    for (const GroupPeg& out : g_.outputs) {
      if (const Peg* fixed = hem_slot(out.id) ? make.input(out.id) : nullptr) {
        pegs.emplace_back(fixed->id, &out);
      } else if (const std::string peg = "own_" + std::to_string(own + 1); make.input(peg)) {
        params["name_" + std::to_string(++own)] = out.id;
        pegs.emplace_back(peg, &out);
      }
    }
    if (own) params["own"] = static_cast<double>(own);
    const std::string id = added("cord", make.id.c_str(), std::move(params));
    for (const auto& [peg, out] : pegs) {
      const auto [node, from] = split_output(out->from);
      const bool comes_in =
          std::ranges::none_of(g_.nodes, [&, name = node](const NodePtr& n) { return n->id == name; });
      if (!comes_in) {
        g_.threads.push_back({node, from, id, peg});
        continue;
      }
      for (GroupPeg& in : g_.inputs)
        if (edit::comes_in_id(g_, in.id) == node) in.to.push_back(id + "." + peg);
    }
    g_.outputs.push_back({kCordOutput, "Cord", std::string(kind_name(Kind::set)), {}, id + ".set"});
  }

  const Material& m_;
  const BoltReference& reference_;
  const Catalogue& catalogue_;
  Group g_;
};

std::string number(double x) {
  char text[32];
  std::snprintf(text, sizeof text, "%.3g", x);
  return text;
}

double repeats_held(const Node& node, const Material& around) {
  const auto it = node.params.find(kRepeats);
  const ParamValue* held = it == node.params.end() ? nullptr : plain_value(around, node, kRepeats, it->second);
  const auto* count = held ? std::get_if<double>(held) : nullptr;
  return count ? std::max(1.0, *count) : 1;
}

}  // namespace

std::string file_of(const BoltReference& reference, const std::string& name) { return reference.key() + "/" + name; }

std::map<std::string, std::shared_ptr<const Group>> definitions_of(const Material& bolt, const BoltReference& reference,
                                                                   const Catalogue& catalogue) {
  const Material named =
      edit::rename_files(bolt, catalogue, [&](const std::string& name) { return file_of(reference, name); });
  std::map<std::string, std::shared_ptr<const Group>> all(named.bolts.begin(), named.bolts.end());
  all[reference.key()] = std::make_shared<Group>(Definition(named, reference, catalogue).made());
  for (const auto& g : named.groups) {
    auto inner = std::make_shared<Group>(*g);
    inner->id = within_bolt(reference, g->id);
    inner->nodes = renamed_groups(g->nodes, reference);
    all[inner->id] = std::move(inner);
  }
  return all;
}

int repeats_to_scale(const Measures& bolt, const Measures& around) {
  return static_cast<int>(
      std::clamp(std::round(around.tile_metres / bolt.tile_metres), 1.0, static_cast<double>(kMostRepeats)));
}

Parameter repeats_of(const Group& bolt) {
  std::string unwired;
  for (const GroupPeg& in : bolt.inputs)
    unwired += (unwired.empty() ? "" : " * ") + ("(connected(" + in.id + ") == 0)");
  auto made = integer(kRepeats, "Repeats", 1)
                  .times()
                  .useful(1, 8)
                  .limits(1, kMostRepeats)
                  .column("Bolt")
                  .help("How many times the whole bolt is laid across this material's tile.");
  if (!unwired.empty()) made.acts_when(unwired, "What comes in covers this material's tile once.");
  return made;
}

std::string told_of_bolt(const Group& bolt, const Node& node, const Material& around) {
  const OfBolt& of = *bolt.of_bolt;
  const bool wired = std::ranges::any_of(bolt.inputs, [&](const GroupPeg& in) { return around.into(node.id, in.id); });
  const double times = wired ? 1 : repeats_held(node, around);
  const double scale = around.tile_metres / (of.measures.tile_metres * times);
  std::string told = "Bolt " + of.reference.id + " " + of.reference.version + ", ";
  told += std::abs(scale - 1) < 0.005 ? "true to size" : "drawn " + number(scale) + " times its size";
  const double depth = of.measures.relief_metres * scale;
  if (std::abs(depth / around.relief_metres - 1) > 0.005)
    told += "; its height of 1 is " + number(depth * 1000) + " mm, here " + number(depth / around.relief_metres);
  return told + ".";
}

Material bolt_material(const Group& bolt, const Material& around) {
  Material m;
  m.name = bolt.name;
  m.lanes = bolt.lanes;
  m.nodes = bolt.nodes;
  m.threads = bolt.threads;
  m.values = bolt.values;
  edit::show_inputs(m, bolt);
  for (const GroupPeg& out : bolt.outputs)
    if (out.id != kCordOutput) m.hem[out.id] = out.from;
  m.bolts = around.bolts;
  m.files = around.files;
  if (!bolt.of_bolt) return m;
  m.tile_metres = bolt.of_bolt->measures.tile_metres;
  m.relief_metres = bolt.of_bolt->measures.relief_metres;
  m.seed = bolt.of_bolt->seed;
  m.presets = bolt.of_bolt->presets;
  m.imprint.id = bolt.of_bolt->reference.id;
  m.imprint.version = bolt.of_bolt->reference.version;
  return m;
}

std::vector<Change> bolt_changes(const Group& before, const Group& after, const Material& around) {
  // Without what the version itself writes into names.
  const auto plain = [&](const Group& bolt) {
    const std::string own = bolt.id + "/";
    const auto without = [&](const std::string& name) {
      return name.rfind(own, 0) == 0 ? name.substr(own.size()) : name;
    };
    Group copy = bolt;
    for (NodePtr& n : copy.nodes) {
      auto node = std::make_shared<Node>(*n);
      node->group = without(node->group);
      for (auto& [id, value] : node->params)
        if (auto* text = std::get_if<std::string>(&value)) *text = without(*text);
      n = std::move(node);
    }
    return bolt_material(copy, around);
  };
  return changes(plain(before), plain(after));
}

namespace edit {

Material add_bolt(Material m, const BoltReference& reference, const std::string& lane, int column, int row,
                  std::string* id) {
  auto node = std::make_shared<Node>();
  node->id = free_id(m, is_identifier(reference.id) ? reference.id : "bolt");
  node->type = kBoltType;
  node->bolt = reference;
  node->group = reference.key();
  node->lane = lane;
  node->column = column;
  node->row = free_row(m, lane, column, row);
  if (const Group* g = m.group(node->group); g && g->of_bolt)
    if (const int times = repeats_to_scale(g->of_bolt->measures, {m.tile_metres, m.relief_metres}); times > 1)
      node->params[kRepeats] = static_cast<double>(times);
  if (id) *id = node->id;
  m.nodes.push_back(std::move(node));
  return m;
}

Material exchange_bolt(Material m, const Catalogue& catalogue, const std::string& key, const BoltReference& fresh) {
  const auto exchanged = [&](std::vector<NodePtr>& nodes, std::vector<Thread>& threads, const auto& outputs) {
    for (NodePtr& n : nodes) {
      if (!n->bolt || n->group != key) continue;
      auto next = std::make_shared<Node>(*n);
      next->bolt = fresh;
      next->group = fresh.key();
      const auto type = type_of(m, catalogue, *next);
      if (!type) continue;
      std::erase_if(next->params, [&](const auto& held) {
        const Parameter* p = type->parameter(held.first);
        const bool bound = std::holds_alternative<Follow>(held.second) || std::holds_alternative<Formula>(held.second);
        return !p || (!bound && misfit(*p, held.second));
      });
      const std::string id = n->id;
      std::erase_if(threads, [&](const Thread& t) {
        return (t.to_node == id && !type->input(t.to_peg)) || (t.from_node == id && !type->output(t.from_peg));
      });
      outputs(id, *type);
      n = std::move(next);
    }
  };
  exchanged(m.nodes, m.threads, [&](const std::string& id, const NodeType& type) {
    each_hem(m, [&](const std::string&, auto& hem, auto&) {
      std::erase_if(hem, [&](const auto& slot) {
        const auto [node, peg] = split_output(slot.second);
        return node == id && !type.output(peg);
      });
    });
  });
  for (auto& group : m.groups) {
    auto g = std::make_shared<Group>(*group);
    exchanged(g->nodes, g->threads, [&](const std::string& id, const NodeType& type) {
      std::erase_if(g->outputs, [&](const GroupPeg& p) {
        const auto [node, peg] = split_output(p.from);
        return node == id && !type.output(peg);
      });
    });
    group = std::move(g);
  }
  return m;
}

Material take_bolt_preset(Material m, const std::string& node, const std::string& preset) {
  const Node* n = m.node(node);
  const Group* g = n ? m.group_of(*n) : nullptr;
  if (!g || !g->of_bolt) return m;
  for (const Preset& p : g->of_bolt->presets) {
    if (p.name != preset) continue;
    for (const Value& v : g->values) {
      if (!v.dial) continue;
      const auto held = p.values.find(v.id);
      m = set_param(std::move(m), node, v.id, held == p.values.end() ? v.dial->at_start : held->second);
    }
  }
  return m;
}

}  // namespace edit
}  // namespace loom
