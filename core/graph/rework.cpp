// Built from the plain edits; what does not fit is left as it was.
#include "core/graph/rework.h"

#include <algorithm>
#include <set>

#include "core/graph/hem.h"
#include "core/graph/validate.h"

namespace loom::edit {
namespace {

std::vector<std::string> reached(const Material& m, const std::vector<std::string>& ids, bool up) {
  std::set<std::string> seen(ids.begin(), ids.end());
  std::vector<std::string> open(ids);
  while (!open.empty()) {
    const std::string at = open.back();
    open.pop_back();
    for (const Thread& t : m.threads) {
      const std::string& next = up ? t.from_node : t.to_node;
      if ((up ? t.to_node : t.from_node) == at && seen.insert(next).second) open.push_back(next);
    }
  }
  std::vector<std::string> found;
  for (const NodePtr& n : m.nodes)
    if (seen.count(n->id) && std::find(ids.begin(), ids.end(), n->id) == ids.end()) found.push_back(n->id);
  return found;
}

const NodeType* type_of(const Material& m, const Catalogue& catalogue, const std::string& node) {
  const Node* n = m.node(node);
  return n ? catalogue.find(n->type) : nullptr;
}

Kind kind_of(const Material& m, const Catalogue& catalogue, const std::string& output) {
  const auto [node, peg] = split_output(output);
  return output_kind(m, catalogue, node, peg);
}

const Peg* fitting_input(const Material& m, const Catalogue& catalogue, const NodeType& type, const std::string& node,
                         const std::string& output) {
  return feeding_peg(type, output, kind_of(m, catalogue, output),
                     [&](const Peg& p) { return m.into(node, p.id) == nullptr; });
}

bool fits(const Parameter& p, const ParamValue& v) {
  if (std::holds_alternative<Formula>(v) || std::holds_alternative<Follow>(v)) return true;
  if (std::holds_alternative<Rule>(v)) return p.per_unit;
  if (v.index() != p.initial.index() && !(p.per_unit && std::holds_alternative<Rule>(p.initial))) return false;
  if (const auto* x = std::get_if<double>(&v)) return *x >= p.limits.least && *x <= p.limits.most;
  const auto* word = std::get_if<std::string>(&v);
  return !word || p.kind != ParameterKind::choice ||
         std::find(p.options.begin(), p.options.end(), *word) != p.options.end();
}

// Threads and slots that began at `from` begin at `to` from now on, where the kinds allow it.
Material moved_readers(Material m, const Catalogue& catalogue, const std::string& from, const std::string& to,
                       const std::string& except) {
  const auto [node, peg] = split_output(from);
  const auto [new_node, new_peg] = split_output(to);
  for (const Thread& t : std::vector<Thread>(m.threads)) {
    if (t.from_node != node || t.from_peg != peg || t.to_node == except) continue;
    const Thread moved{new_node, new_peg, t.to_node, t.to_peg, t.channel};
    Material next = disconnect(m, t.to_node, t.to_peg);
    if (refusal(next, catalogue, moved).empty()) m = connect(std::move(next), moved);
  }
  const Kind kind = kind_of(m, catalogue, to);
  each_hem(m, [&](const std::string&, auto& hem, auto&) {
    for (auto& [slot, output] : hem)
      if (output == from && (slot_kind(slot) == Kind::any || converts(kind, slot_kind(slot)))) output = to;
  });
  return m;
}

}  // namespace

bool feeds_data(std::string_view peg) {
  return peg != "coordinates" && peg != "positions" && peg.substr(0, 4) != "map_";
}

const Peg* feeding_peg(const NodeType& type, std::string_view output, Kind kind,
                       const std::function<bool(const Peg&)>& free) {
  const auto first = [&](const auto& wanted) {
    const auto it = std::find_if(type.inputs.begin(), type.inputs.end(), [&](const Peg& p) {
      return wanted(p) && !refusal(type, p, kind) && (!free || free(p));
    });
    return it == type.inputs.end() ? nullptr : &*it;
  };
  const auto takes_places = [&](const Peg& p) { return kind == Kind::vector2 && p.id == "coordinates"; };
  const bool places = output.size() >= 11 && output.substr(output.size() - 11) == "coordinates";
  const Peg* peg = places ? first(takes_places) : nullptr;
  if (!peg) peg = first([](const Peg& p) { return feeds_data(p.id); });
  return peg ? peg : first(takes_places);  // a generator takes any vector as places
}

std::vector<std::string> upstream(const Material& m, const std::vector<std::string>& ids) {
  return reached(m, ids, true);
}
std::vector<std::string> downstream(const Material& m, const std::vector<std::string>& ids) {
  return reached(m, ids, false);
}

std::vector<std::string> feeding_nothing(const Material& m) {
  std::vector<std::string> ends;
  each_hem(m, [&](const std::string&, const auto& hem, const auto&) {
    for (const auto& [slot, output] : hem) ends.push_back(split_output(output).first);
  });
  std::set<std::string> used(ends.begin(), ends.end());
  for (const std::string& id : upstream(m, ends)) used.insert(id);
  std::vector<std::string> idle;
  for (const NodePtr& n : m.nodes)
    if (!used.count(n->id)) idle.push_back(n->id);
  return idle;
}

Material splice_after(Material m, const Catalogue& catalogue, const std::string& output, const std::string& node) {
  const NodeType* type = type_of(m, catalogue, node);
  const Peg* in = type ? fitting_input(m, catalogue, *type, node, output) : nullptr;
  if (!in || type->outputs.empty()) return m;
  const auto [from, peg] = split_output(output);
  m = connect(std::move(m), {from, peg, node, in->id});
  return moved_readers(std::move(m), catalogue, output, node + "." + type->outputs.front().id, node);
}

Material splice_into(Material m, const Catalogue& catalogue, const Thread& thread, const std::string& node) {
  const NodeType* type = type_of(m, catalogue, node);
  const Peg* in = type ? fitting_input(m, catalogue, *type, node, thread.from_node + "." + thread.from_peg) : nullptr;
  if (!in || type->outputs.empty() || node == thread.from_node || node == thread.to_node) return m;
  const Thread into{thread.from_node, thread.from_peg, node, in->id},
      out{node, type->outputs.front().id, thread.to_node, thread.to_peg, thread.channel};
  if (!refusal(m, catalogue, into).empty()) return m;
  Material next = connect(disconnect(m, thread.to_node, thread.to_peg), into);
  return refusal(next, catalogue, out).empty() ? connect(std::move(next), out) : m;
}

Material lift_out(Material m, const Catalogue& catalogue, const std::string& node) {
  const NodeType* type = type_of(m, catalogue, node);
  if (type) {
    const Thread* source = nullptr;
    for (const Peg& p : type->inputs)
      if (!source && feeds_data(p.id)) source = m.into(node, p.id);
    if (source) {
      const std::string from = source->from_node + "." + source->from_peg;
      for (const Peg& out : type->outputs) m = moved_readers(std::move(m), catalogue, node + "." + out.id, from, {});
    }
  }
  return remove_nodes(std::move(m), {node});
}

std::optional<Material> swap_inputs(const Material& m, const Catalogue& catalogue, const std::string& node) {
  const NodeType* type = type_of(m, catalogue, node);
  if (!type) return {};
  for (std::size_t i = 0; i < type->inputs.size(); ++i)
    for (std::size_t k = i + 1; k < type->inputs.size(); ++k) {
      const Peg &a = type->inputs[i], &b = type->inputs[k];
      if (!feeds_data(a.id) || !feeds_data(b.id) || a.kind != b.kind || a.whole != b.whole) continue;
      Material next = m;
      for (Thread& t : next.threads)
        if (t.to_node == node && (t.to_peg == a.id || t.to_peg == b.id)) t.to_peg = t.to_peg == a.id ? b.id : a.id;
      const Node* n = m.node(node);
      for (const auto& [from, to] : {std::pair{a.id, b.id}, {b.id, a.id}}) {
        if (!type->parameter(from) || !type->parameter(to)) continue;
        const auto held = n->params.find(from);
        next = held == n->params.end() ? reset_param(std::move(next), node, to)
                                       : set_param(std::move(next), node, to, held->second);
      }
      return next;
    }
  return {};
}

Material replace_type(Material m, const Catalogue& catalogue, const std::string& node, const std::string& type_id) {
  const NodeType *old = type_of(m, catalogue, node), *type = catalogue.find(type_id);
  if (!old || !type || old == type) return m;
  const Node before = *m.node(node);
  const std::vector<Thread> threads = m.threads;
  // The new node stands at once in the old one's place, so that what reads it is judged by its new outputs.
  std::erase_if(m.threads, [&](const Thread& t) { return t.from_node == node || t.to_node == node; });
  for (NodePtr& n : m.nodes)
    if (n->id == node) {
      auto fresh = std::make_shared<Node>(before);
      fresh->type = type_id;
      fresh->bolt.reset();
      fresh->group.clear();
      std::erase_if(fresh->params, [&](const auto& held) {
        const Parameter* p = type->parameter(held.first);
        return !p || !fits(*p, held.second);
      });
      if (type->parameter("seed") && !fresh->params.count("seed") && before.params.count("seed"))
        fresh->params["seed"] = before.params.at("seed");
      n = std::move(fresh);
    }
  for (const bool same : {true, false})
    for (const Thread& t : threads) {
      if (t.to_node != node || (type->input(t.to_peg) != nullptr) != same) continue;
      const Peg* peg =
          same ? type->input(t.to_peg) : fitting_input(m, catalogue, *type, node, t.from_node + "." + t.from_peg);
      if (!peg) continue;
      const Thread kept{t.from_node, t.from_peg, node, peg->id, t.channel};
      if (refusal(m, catalogue, kept).empty()) m = connect(std::move(m), kept);
    }
  const auto output_for = [&](const std::string& peg) {
    return type->output(peg) ? peg : type->outputs.empty() ? std::string() : type->outputs.front().id;
  };
  for (const Thread& t : threads) {
    if (t.from_node != node || t.to_node == node) continue;
    const Thread kept{node, output_for(t.from_peg), t.to_node, t.to_peg, t.channel};
    if (refusal(m, catalogue, kept).empty()) m = connect(std::move(m), kept);
  }
  each_hem(m, [&](const std::string&, auto& hem, auto&) {
    for (auto& [slot, output] : hem)
      if (const auto [from, peg] = split_output(output); from == node) output = node + "." + output_for(peg);
    std::erase_if(hem, [&](const auto& slot) {
      const Kind takes = slot_kind(slot.first);
      return split_output(slot.second).first == node && takes != Kind::any &&
             !converts(kind_of(m, catalogue, slot.second), takes);
    });
  });
  return m;
}

Material blend_two(Material m, const Catalogue& catalogue, const std::string& lower, const std::string& upper,
                   std::string* id) {
  const auto [lower_node, lower_peg] = split_output(lower);
  const auto [upper_node, upper_peg] = split_output(upper);
  const Node *a = m.node(lower_node), *b = m.node(upper_node);
  if (!a || !b) return m;
  const Node& below = b->row >= a->row ? *b : *a;
  std::string blend;
  m = add_node(std::move(m), catalogue, "blend", below.lane, below.column, below.row + 1, &blend);
  m = connect(std::move(m), {lower_node, lower_peg, blend, "lower"});
  m = connect(std::move(m), {upper_node, upper_peg, blend, "upper"});
  if (id) *id = blend;
  return moved_readers(std::move(m), catalogue, upper, blend + ".result", blend);
}

Material step_choice(Material m, const Catalogue& catalogue, const std::vector<std::string>& nodes,
                     const std::string& parameter, int by) {
  for (const std::string& id : nodes) {
    const NodeType* type = type_of(m, catalogue, id);
    const Parameter* p = type ? type->parameter(parameter) : nullptr;
    if (!p || p->kind != ParameterKind::choice) continue;
    const auto held = m.node(id)->params.find(parameter);
    const auto* word = std::get_if<std::string>(held == m.node(id)->params.end() ? &p->initial : &held->second);
    if (!word) continue;
    const auto n = static_cast<int>(p->options.size());
    const auto at = static_cast<int>(std::find(p->options.begin(), p->options.end(), *word) - p->options.begin());
    m = set_param(std::move(m), id, parameter, p->options[static_cast<std::size_t>(((at + by) % n + n) % n)]);
  }
  return m;
}

Material paste_parameters(Material m, const Catalogue& catalogue, const Node& from,
                          const std::vector<std::string>& nodes, const std::vector<std::string>& only) {
  for (const std::string& id : nodes) {
    const NodeType* type = type_of(m, catalogue, id);
    if (!type) continue;
    for (const auto& [param, value] : from.params) {
      const Parameter* p = type->parameter(param);
      const auto* follow = std::get_if<Follow>(&value);
      if (!p || p->kind == ParameterKind::seed || !fits(*p, value) || (follow && !m.value(follow->value))) continue;
      if (only.empty() || std::find(only.begin(), only.end(), param) != only.end())
        m = set_param(std::move(m), id, param, value);
    }
  }
  return m;
}

}  // namespace loom::edit
