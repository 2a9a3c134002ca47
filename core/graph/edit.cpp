// Every edit copies the lists it changes; nodes are shared by pointer and replaced, never written to.
#include "core/graph/edit.h"

#include <algorithm>
#include <functional>
#include <map>
#include <set>
#include <tuple>

#include "core/graph/hem.h"
#include "core/graph/json.h"
#include "core/graph/validate.h"
#include "core/graph/worked_values.h"
#include "core/program/formula.h"

namespace loom::edit {
namespace {

void change_node(Material& m, const std::string& id, const std::function<void(Node&)>& change) {
  for (NodePtr& n : m.nodes)
    if (n->id == id) {
      auto fresh = std::make_shared<Node>(*n);
      change(*fresh);
      n = std::move(fresh);
      return;
    }
}

bool taken(const Material& m, const std::string& id) {
  if (m.node(id) || m.value(id) || m.lane(id)) return true;
  // An input has its peg's name beside its own: a use tells both from dials.
  return std::ranges::any_of(m.nodes, [&](const NodePtr& n) { return n->type == kComesIn && n->group == id; });
}

double unused_seed(const Material& m) {
  double most = 0;
  for (const NodePtr& n : m.nodes)
    if (const auto it = n->params.find("seed"); it != n->params.end())
      if (const auto* seed = std::get_if<double>(&it->second)) most = std::max(most, *seed);
  return most + 1;
}

bool occupied(const Material& m, const std::string& lane, int column, int row) {
  return std::any_of(m.nodes.begin(), m.nodes.end(),
                     [&](const NodePtr& n) { return n->lane == lane && n->column == column && n->row == row; });
}

}  // namespace

Material empty_material() {
  Material m;
  m.lanes = {{"relief", "Relief", 0}, {"colour", "Colour", 1}, {"finish", "Finish", 2}};
  return m;
}

std::string free_id(const Material& m, const std::string& base) {
  std::string id = base;
  for (int n = 2; taken(m, id); ++n) id = base + "_" + std::to_string(n);
  return id;
}

int free_row(const Material& m, const std::string& lane, int column, int row) {
  while (occupied(m, lane, column, row)) ++row;
  return row;
}

Material add_node(Material m, const Catalogue& catalogue, const std::string& type, const std::string& lane, int column,
                  int row, std::string* id) {
  const NodeType* t = catalogue.find(type);
  if (!t) return m;
  auto node = std::make_shared<Node>();
  node->id = free_id(m, type);
  node->type = type;
  node->lane = lane;
  node->column = column;
  node->row = free_row(m, lane, column, row);
  if (t->parameter("seed")) node->params["seed"] = unused_seed(m);
  if (id) *id = node->id;
  m.nodes.push_back(std::move(node));
  return m;
}

Material remove_nodes(Material m, const std::vector<std::string>& ids) {
  const std::set<std::string> gone(ids.begin(), ids.end());
  for (const std::string& id : ids) m.notes_on.erase(id);
  std::erase_if(m.nodes, [&](const NodePtr& n) { return gone.count(n->id) != 0; });
  std::erase_if(m.threads, [&](const Thread& t) { return gone.count(t.from_node) || gone.count(t.to_node); });
  each_hem(m, [&](const std::string&, auto& hem, auto&) {
    std::erase_if(hem, [&](const auto& slot) { return gone.count(split_output(slot.second).first) != 0; });
  });
  return m;
}

Material connect(Material m, const Thread& thread) {
  m = disconnect(std::move(m), thread.to_node, thread.to_peg);
  m.threads.push_back(thread);
  return m;
}

Material disconnect(Material m, const std::string& to_node, const std::string& to_peg) {
  std::erase_if(m.threads, [&](const Thread& t) { return t.to_node == to_node && t.to_peg == to_peg; });
  return m;
}

Material set_hem(Material m, const std::string& slot, const std::string& output) {
  if (output.empty())
    m.hem.erase(slot);
  else
    m.hem[slot] = output;
  return m;
}

Material set_param(Material m, const std::string& node, const std::string& param, const ParamValue& value) {
  change_node(m, node, [&](Node& n) { n.params[param] = value; });
  return m;
}
Material reset_param(Material m, const std::string& node, const std::string& param) {
  change_node(m, node, [&](Node& n) { n.params.erase(param); });
  return m;
}
Material set_bypass(Material m, const std::string& node, bool on) {
  change_node(m, node, [&](Node& n) { n.bypass = on; });
  return m;
}
Material rename_node(Material m, const std::string& node, const std::string& name) {
  change_node(m, node, [&](Node& n) { n.name = name; });
  return m;
}

Material arrange_items(Material m, const Catalogue& catalogue, const std::string& node, std::vector<int> order) {
  const Node* n = m.node(node);
  const NodeType* type = n ? catalogue.find(n->type) : nullptr;
  if (!type || !type->list || order.empty()) return m;
  const ItemList& list = *type->list;
  if (order.size() > static_cast<std::size_t>(list.most)) order.resize(static_cast<std::size_t>(list.most));
  const auto numbered = [](const std::string& name, std::size_t i) { return name + "_" + std::to_string(i); };
  const auto old_params = n->params;
  const auto old_threads = m.threads;
  change_node(m, node, [&](Node& fresh) {
    for (const std::string& name : list.parameters)
      for (std::size_t i = 1; i <= static_cast<std::size_t>(list.most); ++i) {
        fresh.params.erase(numbered(name, i));
        if (i > order.size() || order[i - 1] == 0) continue;
        const std::string old = numbered(name, static_cast<std::size_t>(order[i - 1]));
        const auto held = old_params.find(old);
        const ParamValue& value = held == old_params.end() ? type->parameter(old)->initial : held->second;
        if (held != old_params.end() || value != type->parameter(numbered(name, i))->initial)
          fresh.params[numbered(name, i)] = value;
      }
    fresh.params[list.count] = static_cast<double>(order.size());
  });
  for (const std::string& name : list.pegs)
    for (std::size_t i = 1; i <= static_cast<std::size_t>(list.most); ++i) {
      m = disconnect(std::move(m), node, numbered(name, i));
      if (i > order.size()) continue;
      for (const Thread& t : old_threads)
        if (t.to_node == node && order[i - 1] > 0 && t.to_peg == numbered(name, static_cast<std::size_t>(order[i - 1])))
          m.threads.push_back({t.from_node, t.from_peg, node, numbered(name, i), t.channel});
    }
  return m;
}

Material place_nodes(Material m, const std::vector<Placing>& places) {
  for (const Placing& p : places)
    change_node(m, p.node, [&](Node& n) { n.lane = p.lane, n.column = p.column, n.row = p.row; });
  // A node that was in the way moves down, and so does what it meets there: their order stays.
  std::set<std::string> moved;
  for (const Placing& p : places) moved.insert(p.node);
  std::set<std::tuple<std::string, int, int>> taken;
  std::vector<NodePtr> others;
  for (const NodePtr& n : m.nodes)
    if (moved.count(n->id))
      taken.emplace(n->lane, n->column, n->row);
    else
      others.push_back(n);
  std::stable_sort(others.begin(), others.end(), [](const NodePtr& a, const NodePtr& b) { return a->row < b->row; });
  for (const NodePtr& n : others) {
    int row = n->row;
    while (!taken.emplace(n->lane, n->column, row).second) ++row;
    if (row != n->row) change_node(m, n->id, [&](Node& x) { x.row = row; });
  }
  return m;
}

Material duplicate(Material m, const std::vector<std::string>& ids, bool with_inputs, std::vector<std::string>* fresh) {
  std::map<std::string, std::string> renamed;
  for (const std::string& id : ids) {
    const Node* n = m.node(id);
    if (!n) continue;
    auto copy = std::make_shared<Node>(*n);
    copy->id = free_id(m, n->bolt ? n->bolt->id : n->is_group() ? n->group : n->type);
    copy->column = n->column + 1;
    copy->row = free_row(m, n->lane, n->column + 1, n->row);
    renamed[id] = copy->id;
    if (fresh) fresh->push_back(copy->id);
    m.nodes.push_back(std::move(copy));
  }
  for (const Thread& t : std::vector<Thread>(m.threads)) {
    const auto to = renamed.find(t.to_node), from = renamed.find(t.from_node);
    if (to == renamed.end() || (from == renamed.end() && !with_inputs)) continue;
    m.threads.push_back(
        {from == renamed.end() ? t.from_node : from->second, t.from_peg, to->second, t.to_peg, t.channel, t.alias});
  }
  return m;
}

namespace {

// Brings the snippet's definitions along: one that the material has already is shared, one that only has the same name
// gets another. Gives the new identifiers by the old.
std::map<std::string, std::string> paste_groups(Material& m, const Material& snippet) {
  const auto same = [](const Group& a, const Group& b) {
    Material one, other;
    one.groups = {std::make_shared<Group>(a)}, other.groups = {std::make_shared<Group>(b)};
    return write_material(one) == write_material(other);
  };
  std::map<std::string, std::string> renamed;
  for (const auto& g : snippet.groups) {
    const Group* own = m.group(g->id);
    std::string id = g->id;
    for (int n = 2; own && !same(*own, *g) && m.group(id); ++n) id = g->id + "_" + std::to_string(n);
    renamed[g->id] = id;
  }
  for (const auto& g : snippet.groups) {
    if (m.group(renamed[g->id])) continue;
    auto fresh = std::make_shared<Group>(*g);
    fresh->id = renamed[g->id];
    for (NodePtr& n : fresh->nodes)
      if (const auto it = renamed.find(n->group); it != renamed.end() && it->second != n->group) {
        auto inner = std::make_shared<Node>(*n);
        inner->group = it->second;
        n = std::move(inner);
      }
    m.groups.push_back(std::move(fresh));
  }
  return renamed;
}

}  // namespace

namespace {

// What the snippet's hem gives, under the names that its nodes got.
using PastedAs = std::map<std::string, std::string>;
void paste_hem(Material& m, const Material& snippet, const PastedAs& renamed, bool over) {
  if (m.inside) return;  // a group gives what its artist wants it to give
  for (const auto& [slot, from] : snippet.hem) {
    const auto [node, peg] = split_output(from);
    if (const auto now = renamed.find(node); now != renamed.end() && (over || !slot_is_filled(m, slot)))
      m.hem[slot] = now->second + "." + peg;
  }
  if (!over) return;
  for (const auto& [slot, value] : snippet.hem_values) {
    m.hem_values[slot] = value;
    if (!snippet.hem.count(slot)) m.hem.erase(slot);
  }
}

Material paste_as(Material m, const Material& snippet, const std::string& lane, int column, int row,
                  std::vector<std::string>* fresh, bool over_hem) {
  const auto groups = paste_groups(m, snippet);
  PastedAs renamed;
  int first = 1 << 20;
  for (const NodePtr& n : snippet.nodes) first = std::min(first, n->row);
  for (const NodePtr& n : snippet.nodes) {
    auto copy = std::make_shared<Node>(*n);
    if (const auto it = groups.find(n->group); it != groups.end()) copy->group = it->second;
    copy->id = free_id(m, n->id);
    if (!m.lane(copy->lane)) copy->lane = lane;
    copy->column = n->lane == lane || copy->lane == lane ? column + n->column : n->column;
    copy->row = free_row(m, copy->lane, copy->column, n->row - first + row);
    renamed[n->id] = copy->id;
    // A value of the other document stays behind: what followed it keeps the type's own start.
    std::erase_if(copy->params, [&](const auto& p) {
      const auto* f = std::get_if<Follow>(&p.second);
      return f && !m.value(f->value);
    });
    if (fresh) fresh->push_back(copy->id);
    m.nodes.push_back(std::move(copy));
  }
  for (const Thread& t : snippet.threads)
    if (renamed.count(t.from_node) && renamed.count(t.to_node))
      m.threads.push_back({renamed[t.from_node], t.from_peg, renamed[t.to_node], t.to_peg, t.channel, t.alias});
  for (const auto& [node, note] : snippet.notes_on)
    if (renamed.count(node)) m.notes_on[renamed[node]] = note;
  paste_hem(m, snippet, renamed, over_hem);
  return m;
}

}  // namespace

Material paste(Material m, const Material& snippet, const std::string& lane, int column, int row,
               std::vector<std::string>* fresh) {
  return paste_as(std::move(m), snippet, lane, column, row, fresh, false);
}

Material paste_onto(Material m, const Material& snippet, const std::vector<std::string>& parts, const std::string& lane,
                    int column, int row, std::vector<std::string>* fresh) {
  for (const std::string& part : parts) {
    m = exchange_hems(give_own_hem(std::move(m), part), part);
    m = exchange_hems(paste_as(std::move(m), snippet, lane, column, row, fresh, true), part);
  }
  return m;
}

namespace {

using Rename = std::function<std::string(const std::string&)>;

// Gives the files that the nodes of one graph name other names: those that stand there, and those that follow a value.
class FileNames {
 public:
  FileNames(const Material& material, const Catalogue& catalogue, const Rename& name)
      : material_(material), catalogue_(catalogue), name_(name) {}

  void rename(std::vector<NodePtr>& nodes, std::vector<Value>& values) const {
    std::set<std::string> followed;
    for (NodePtr& n : nodes) {
      if (n->bolt) {
        auto fresh = std::make_shared<Node>(*n);
        fresh->bolt->file = name_(n->bolt->file);
        n = std::move(fresh);
      }
      const auto type = type_of(material_, catalogue_, *n);
      for (const auto& [id, value] : NodePtr(n)->params) {
        const Parameter* p = type ? type->parameter(id) : nullptr;
        if (!p || p->kind != ParameterKind::file) continue;
        if (const auto* follow = std::get_if<Follow>(&value)) followed.insert(follow->value);
        const auto* text = std::get_if<std::string>(&value);
        if (!text || text->empty()) continue;
        auto fresh = std::make_shared<Node>(*n);
        fresh->params[id] = name_(*text);
        n = std::move(fresh);
      }
    }
    for (Value& v : values)
      if (const auto* text = std::get_if<std::string>(&v.value); text && !text->empty() && followed.count(v.id))
        v.value = name_(*text);
  }

  void rename(std::vector<GroupPeg>& inputs) const {
    for (GroupPeg& in : inputs)
      if (const auto it = in.params.find("file"); it != in.params.end())
        if (auto* text = std::get_if<std::string>(&it->second); text && !text->empty()) *text = name_(*text);
  }

 private:
  const Material& material_;
  const Catalogue& catalogue_;
  const Rename& name_;
};

}  // namespace

std::vector<std::string> file_names(const Material& m, const Catalogue& catalogue) {
  std::set<std::string> names;
  rename_files(m, catalogue, [&](const std::string& name) { return names.insert(name), name; });
  return {names.begin(), names.end()};
}

Material rename_files(Material m, const Catalogue& catalogue,
                      const std::function<std::string(const std::string&)>& name) {
  const Material before = m;
  const FileNames files(before, catalogue, name);
  files.rename(m.nodes, m.values);
  if (!m.mesh.empty()) m.mesh = name(m.mesh);
  for (auto& group : m.groups) {
    auto fresh = std::make_shared<Group>(*group);
    files.rename(fresh->nodes, fresh->values);
    files.rename(fresh->inputs);
    group = std::move(fresh);
  }
  return m;
}

Material add_lane(Material m, const std::string& name, std::string* id) {
  Lane lane{free_id(m, "lane"), name, static_cast<int>(m.lanes.size())};
  if (id) *id = lane.id;
  m.lanes.push_back(std::move(lane));
  return m;
}
Material rename_lane(Material m, const std::string& lane, const std::string& name) {
  for (Lane& l : m.lanes)
    if (l.id == lane) l.name = name;
  return m;
}
Material tint_lane(Material m, const std::string& lane, int tint) {
  for (Lane& l : m.lanes)
    if (l.id == lane) l.tint = tint;
  return m;
}
Material move_lane(Material m, const std::string& lane, int by) {
  const auto it = std::find_if(m.lanes.begin(), m.lanes.end(), [&](const Lane& l) { return l.id == lane; });
  if (it == m.lanes.end()) return m;
  const auto at = it - m.lanes.begin(),
             to = std::clamp<std::ptrdiff_t>(at + by, 0, static_cast<std::ptrdiff_t>(m.lanes.size()) - 1);
  const Lane moved = *it;
  m.lanes.erase(it);
  m.lanes.insert(m.lanes.begin() + to, moved);
  return m;
}
Material collapse_lane(Material m, const std::string& lane, bool collapsed) {
  for (Lane& l : m.lanes)
    if (l.id == lane) l.collapsed = collapsed;
  return m;
}

Material set_note(Material m, const std::string& node, const std::string& text) {
  if (text.empty())
    m.notes_on.erase(node);
  else
    m.notes_on[node] = text;
  return m;
}

Material set_stage(Material m, int row, const std::string& name) {
  std::erase_if(m.stages, [&](const Stage& s) { return s.row == row; });
  if (!name.empty()) m.stages.push_back({name, row});
  std::sort(m.stages.begin(), m.stages.end(), [](const Stage& a, const Stage& b) { return a.row < b.row; });
  return m;
}

Material set_alias(Material m, const std::string& to_node, const std::string& to_peg, bool alias) {
  for (Thread& t : m.threads)
    if (t.to_node == to_node && t.to_peg == to_peg) t.alias = alias;
  return m;
}

Material tidy(Material m) {
  // A node's row is one below its lowest source anywhere, so data always runs down; lanes and columns stay.
  std::map<std::string, std::vector<std::string>> sources;
  for (const Thread& t : m.threads) sources[t.to_node].push_back(t.from_node);
  std::map<std::string, int> depth;
  const std::function<int(const std::string&)> row_of = [&](const std::string& id) -> int {
    if (const auto it = depth.find(id); it != depth.end()) return it->second;
    int row = 0;
    depth[id] = 0;
    for (const std::string& from : sources[id]) row = std::max(row, row_of(from) + 1);
    return depth[id] = row;
  };
  const auto stage_of = [&](const NodePtr& n) {
    return static_cast<int>(
               std::count_if(m.stages.begin(), m.stages.end(), [&](const Stage& s) { return s.row <= n->row; })) -
           1;
  };
  struct Standing {
    NodePtr node;
    int stage, depth;
  };
  std::vector<Standing> order;
  for (const NodePtr& n : m.nodes) order.push_back({n, stage_of(n), row_of(n->id)});
  std::stable_sort(order.begin(), order.end(), [](const Standing& a, const Standing& b) {
    return std::tuple(a.stage, a.depth, a.node->column, a.node->row) <
           std::tuple(b.stage, b.depth, b.node->column, b.node->row);
  });
  std::set<std::tuple<std::string, int, int>> used;
  std::map<std::string, int> least;  // a node may be pushed down by its neighbours; what it feeds follows
  std::map<std::string, std::shared_ptr<Node>> placed;
  int stage = -1, first = 0, lowest = -1;
  const auto begin_stages = [&](int until) {
    while (stage < until) {
      first = std::max(lowest + 1, stage >= 0 ? first + 1 : 0);  // an empty stage keeps a row of its own
      m.stages[static_cast<std::size_t>(++stage)].row = first;
    }
  };
  for (const Standing& s : order) {
    begin_stages(s.stage);
    int row = first;
    for (const std::string& from : sources[s.node->id])
      if (least.count(from)) row = std::max(row, least[from] + 1);
    while (!used.insert({s.node->lane, s.node->column, row}).second) ++row;
    least[s.node->id] = row;
    lowest = std::max(lowest, row);
    auto fresh = std::make_shared<Node>(*s.node);
    fresh->row = row;
    placed[fresh->id] = std::move(fresh);
  }
  begin_stages(static_cast<int>(m.stages.size()) - 1);
  // What nothing feeds stands near what it feeds, within its stage.
  std::map<std::string, int> reader;  // the highest of each node's readers
  for (const Thread& t : m.threads) {
    const auto [it, fresh] = reader.emplace(t.from_node, least[t.to_node]);
    if (!fresh) it->second = std::min(it->second, least[t.to_node]);
  }
  for (auto s = order.rbegin(); s != order.rend(); ++s) {
    const std::string& id = s->node->id;
    if (!sources[id].empty() || !reader.count(id)) continue;
    const auto next = static_cast<std::size_t>(s->stage + 1);
    const int end = next < m.stages.size() ? m.stages[next].row : lowest + 1, now = least[id];
    for (int row = std::min(reader[id], end) - 1; row > now; --row)
      if (used.insert({s->node->lane, s->node->column, row}).second) {
        used.erase({s->node->lane, s->node->column, now});
        placed[id]->row = row;
        break;
      }
  }
  for (NodePtr& n : m.nodes) n = placed[n->id];
  return m;
}

Material make_value(Material m, const Catalogue& catalogue, const std::string& node, const std::string& param,
                    const std::string& name, std::string* id) {
  const Node* n = m.node(node);
  const auto type = n ? type_of(m, catalogue, *n) : nullptr;
  const Parameter* p = type ? type->parameter(param) : nullptr;
  if (!p) return m;
  const auto it = n->params.find(param);
  const ParamValue now = it == n->params.end() ? p->initial : it->second;
  if (!std::holds_alternative<double>(now) && !std::holds_alternative<Vector>(now) &&
      !std::holds_alternative<std::string>(now))
    return m;
  const std::string value = free_id(m, name);
  if (id) *id = value;
  m.values.push_back({value, now, {}});
  return set_param(std::move(m), node, param, Follow{value});
}

Material make_dial(Material m, const Catalogue& catalogue, const std::string& node, const std::string& param,
                   std::string* id) {
  std::string value;
  m = make_value(std::move(m), catalogue, node, param, param, &value);
  const Node* n = m.node(node);
  const auto type = n ? type_of(m, catalogue, *n) : nullptr;
  const Parameter* p = type ? type->parameter(param) : nullptr;
  if (value.empty() || !p) return m;
  Value& v = m.values.back();
  v.dial = Dial{p->label,
                n->name.empty() ? type->label : n->name,
                p->help,
                p->useful.least,
                p->useful.most,
                v.value,
                p->kind == ParameterKind::integer || p->kind == ParameterKind::seed || p->kind == ParameterKind::toggle
                    ? p->kind
                    : ParameterKind::scalar};
  if (id) *id = value;
  return m;
}

namespace {

// Everything that may read a value of the document: parameters, also within groups that have none of that name, and
// other values.
void change_readers(Material& m, const std::string& id, const std::function<void(ParamValue&)>& change) {
  const auto nodes = [&](std::vector<NodePtr>& all) {
    bool changed = false;
    for (NodePtr& n : all) {
      auto fresh = std::make_shared<Node>(*n);
      for (auto& [key, value] : fresh->params) change(value);
      if (fresh->params == n->params) continue;
      n = std::move(fresh);
      changed = true;
    }
    return changed;
  };
  // When a dial acts is a formula as well.
  const auto change_value = [&](Value& v) {
    change(v.value);
    if (!v.dial || v.dial->acts.formula.empty()) return;
    ParamValue acts = Formula{v.dial->acts.formula, {}};
    change(acts);
    v.dial->acts.formula = std::get<Formula>(acts).text;
  };
  nodes(m.nodes);
  for (Value& v : m.values) change_value(v);
  for (auto& g : m.groups) {
    if (std::any_of(g->values.begin(), g->values.end(), [&](const Value& own) { return own.id == id; })) continue;
    auto fresh = std::make_shared<Group>(*g);
    const auto before = fresh->values;
    for (Value& v : fresh->values) change(v.value);
    const bool values = !std::equal(before.begin(), before.end(), fresh->values.begin(),
                                    [](const Value& x, const Value& y) { return x.value == y.value; });
    if (nodes(fresh->nodes) || values) g = std::move(fresh);
  }
}

}  // namespace

Material remove_value(Material m, const std::string& id) {
  const Value* v = m.value(id);
  if (!v) return m;
  // Whoever follows keeps what it had; a formula gets the number in the name's place.
  const auto worked = work_out(m.values).numbers;
  const auto now = worked.find(id);
  const ParamValue held = now == worked.end() ? v->value : ParamValue(now->second);
  const double number = now == worked.end() ? 0 : now->second;
  const std::string written = number < 0 ? "(" + Json(number).dump() + ")" : Json(number).dump();
  change_readers(m, id, [&](ParamValue& value) {
    if (const auto* follow = std::get_if<Follow>(&value); follow && follow->value == id) value = ParamValue(held);
    if (auto* formula = std::get_if<Formula>(&value)) replace_name(formula->text, id, written);
    if (auto* rule = std::get_if<Rule>(&value))
      for (RuleEnd* end : {&rule->from, &rule->to})
        if (end->follow == id) *end = {number, ""};
  });
  std::erase_if(m.values, [&](const Value& x) { return x.id == id; });
  for (Preset& p : m.presets) p.values.erase(id);
  return m;
}

Material rename_value(Material m, const std::string& id, const std::string& name) {
  if (!m.value(id) || m.value(name) || !is_identifier(name)) return m;
  change_readers(m, id, [&](ParamValue& value) {
    if (auto* follow = std::get_if<Follow>(&value); follow && follow->value == id) follow->value = name;
    if (auto* formula = std::get_if<Formula>(&value)) replace_name(formula->text, id, name);
    if (auto* rule = std::get_if<Rule>(&value))
      for (RuleEnd* end : {&rule->from, &rule->to})
        if (end->follow == id) end->follow = name;
  });
  for (Value& v : m.values)
    if (v.id == id) v.id = name;
  for (Preset& p : m.presets)
    if (auto set = p.values.extract(id)) set.key() = name, p.values.insert(std::move(set));
  return m;
}

Material set_guides(Material m, const std::string& peg, const std::vector<Guide>& through) {
  if (through.empty())
    m.guides.erase(peg);
  else
    m.guides[peg] = through;
  return m;
}

Material set_value(Material m, const std::string& id, const ParamValue& value) {
  for (Value& v : m.values)
    if (v.id == id) v.value = value;
  return m;
}
Material set_dial(Material m, const std::string& id, const Dial& dial) {
  for (Value& v : m.values)
    if (v.id == id) v.dial = dial;
  return m;
}
Material move_dial(Material m, const std::string& id, int by) {
  std::vector<std::size_t> dials;
  std::size_t at = m.values.size();
  for (std::size_t i = 0; i < m.values.size(); ++i) {
    if (!m.values[i].dial) continue;
    if (m.values[i].id == id) at = dials.size();
    dials.push_back(i);
  }
  if (at == m.values.size()) return m;
  const int to = std::clamp(static_cast<int>(at) + by, 0, static_cast<int>(dials.size()) - 1);
  std::swap(m.values[dials[at]], m.values[dials[static_cast<std::size_t>(to)]]);
  return m;
}

Material apply_preset(Material m, const Preset& preset) {
  for (Value& v : m.values)
    if (v.dial) v.value = v.dial->at_start;
  for (const auto& [id, value] : preset.values) m = set_value(std::move(m), id, value);
  return m;
}

namespace {

std::vector<Preset>::iterator preset_of(Material& m, const std::string& name) {
  return std::find_if(m.presets.begin(), m.presets.end(), [&](const Preset& p) { return p.name == name; });
}

}  // namespace

Material keep_preset(Material m, const std::string& name) {
  Preset preset{name, {}};
  for (const Value& v : m.values)
    if (v.dial && v.value != v.dial->at_start) preset.values[v.id] = v.value;
  const auto old = preset_of(m, name);
  if (old != m.presets.end())
    old->values = std::move(preset.values);
  else
    m.presets.push_back(preset);
  return m;
}

Material rename_preset(Material m, const std::string& from, const std::string& to) {
  const auto preset = preset_of(m, from);
  if (preset != m.presets.end() && !to.empty() && preset_of(m, to) == m.presets.end()) preset->name = to;
  return m;
}

Material remove_preset(Material m, const std::string& name) {
  std::erase_if(m.presets, [&](const Preset& p) { return p.name == name; });
  return m;
}

Material move_preset(Material m, const std::string& name, int by) {
  const auto preset = preset_of(m, name);
  if (preset == m.presets.end()) return m;
  const auto from = static_cast<int>(preset - m.presets.begin());
  const int to = std::clamp(from + by, 0, static_cast<int>(m.presets.size()) - 1);
  Preset moved = std::move(*preset);
  m.presets.erase(preset);
  m.presets.insert(m.presets.begin() + to, std::move(moved));
  return m;
}

}  // namespace loom::edit
