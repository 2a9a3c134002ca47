#include "core/graph/merge.h"

#include <algorithm>
#include <map>
#include <set>

#include "core/graph/edit.h"
#include "core/graph/json.h"
#include "core/graph/validate.h"

namespace loom {
namespace {

const Json kNothing;

// By what the items of a list are one thing; empty: the list is one thing itself.
std::string identity_of(std::string_view list) {
  static const std::map<std::string_view, std::string_view> kIdentities = {
      {"nodes", "id"},     {"lanes", "id"},      {"values", "id"},    {"groups", "id"},  {"inputs", "id"},
      {"outputs", "id"},   {"presets", "name"},  {"lists", "name"},   {"threads", "to"}, {"stages", "row"},
      {"marks", "letter"}, {"guides", "thread"}, {"notes_on", "node"}};
  const auto found = kIdentities.find(list);
  return found == kIdentities.end() ? std::string() : std::string(found->second);
}

std::string said(const Json& value) {
  const std::string text = value.is_null() ? "gone" : value.is_string() ? value.get<std::string>() : value.dump();
  constexpr std::size_t kMost = 80;
  return text.size() <= kMost ? text : text.substr(0, kMost) + " ...";
}

class Merger {
 public:
  std::vector<Error> clashes;

  // Null stands for what is not there.
  Json merged(const std::string& where, std::string_view key, const Json& base, const Json& ours, const Json& theirs) {
    if (ours == theirs || theirs == base) return ours;
    if (ours == base) return theirs;
    if (ours.is_object() && theirs.is_object()) return by_keys(where, base, ours, theirs);
    if (ours.is_array() && theirs.is_array() && !identity_of(key).empty())
      return by_identity(where, identity_of(key), base, ours, theirs);
    clash(where, ours, theirs);
    return ours;
  }

 private:
  void clash(const std::string& where, const Json& ours, const Json& theirs) {
    clashes.push_back({where, "both changed it: ours is " + said(ours) + ", theirs " + said(theirs),
                       "Ours stands; set theirs by hand if it is wanted"});
  }

  static const Json& at(const Json& object, const std::string& key) {
    const auto found = object.is_object() ? object.find(key) : object.end();
    return object.is_object() && found != object.end() ? *found : kNothing;
  }

  // Where a node stands is one thing: half of a move would be a place that nobody chose.
  void place(const Json& base, const Json& ours, const Json& theirs, Json& out) {
    const auto place_of = [](const Json& n) { return Json{at(n, "lane"), at(n, "column"), at(n, "row")}; };
    const Json& from = place_of(ours) == place_of(base) ? theirs : ours;
    for (const char* key : {"lane", "column", "row"})
      if (!at(from, key).is_null()) out[key] = at(from, key);
  }

  Json by_keys(const std::string& where, const Json& base, const Json& ours, const Json& theirs) {
    const bool node = ours.contains("type") && ours.contains("row");
    std::set<std::string> keys;
    for (const Json* side : {&ours, &theirs})
      for (const auto& [key, value] : side->items()) keys.insert(key);
    Json out = Json::object();
    for (const std::string& key : keys) {
      if (node && (key == "lane" || key == "column" || key == "row")) continue;
      Json value = merged(where.empty() ? key : where + ", " + key, key, at(base, key), at(ours, key), at(theirs, key));
      if (!value.is_null()) out[key] = std::move(value);
    }
    if (node) place(base, ours, theirs, out);
    return out;
  }

  // Ours in their order, then what theirs has besides.
  Json by_identity(const std::string& where, const std::string& identity, const Json& base, const Json& ours,
                   const Json& theirs) {
    const auto index = [&](const Json& list) {
      std::map<Json, const Json*> items;
      if (list.is_array())
        for (const Json& item : list) items[at(item, identity)] = &item;
      return items;
    };
    const auto in_base = index(base), in_ours = index(ours), in_theirs = index(theirs);
    const auto find = [](const auto& items, const Json& key) -> const Json& {
      const auto found = items.find(key);
      return found == items.end() ? kNothing : *found->second;
    };
    Json out = Json::array();
    const auto take = [&](const Json& key) {
      Json item = merged(where + " " + said(key), "", find(in_base, key), find(in_ours, key), find(in_theirs, key));
      if (!item.is_null()) out.push_back(std::move(item));
    };
    for (const Json& item : ours) take(at(item, identity));
    for (const Json& item : theirs)
      if (const Json& key = at(item, identity); !in_ours.count(key)) take(key);
    return out;
  }
};

// ---- names that both gave, to different things

using FreshNames = std::map<std::string, std::string>;

// Items of theirs that are not those of ours which are called the same: neither was there before.
FreshNames taken_names(const char* list, const Json& base, const Json& ours, const Json& theirs) {
  const auto named = [&](const Json& graph) {
    std::map<std::string, Json> items;
    if (graph.contains(list))
      for (const Json& item : graph[list]) items[item["id"]] = item;
    return items;
  };
  const auto in_base = named(base), in_ours = named(ours), in_theirs = named(theirs);
  FreshNames fresh;
  for (const auto& [id, item] : in_theirs) {
    const auto own = in_ours.find(id);
    if (in_base.count(id) || own == in_ours.end() || own->second == item) continue;
    int number = 2;
    const auto free = [&](const std::string& name) {
      return !in_base.count(name) && !in_ours.count(name) && !in_theirs.count(name);
    };
    while (!free(id + "_" + std::to_string(number))) ++number;
    fresh[id] = id + "_" + std::to_string(number);
  }
  return fresh;
}

void rename(Json& object, const char* key, const FreshNames& names) {
  if (!object.is_object() || !object.contains(key) || !object[key].is_string()) return;
  const auto found = names.find(object[key].get<std::string>());
  if (found != names.end()) object[key] = found->second;
}
// NODE.PEG
void rename_output(Json& end, const FreshNames& names) {
  if (!end.is_string()) return;
  const std::string text = end.get<std::string>();
  const auto dot = text.find('.');
  if (const auto found = names.find(text.substr(0, dot)); found != names.end())
    end = found->second + (dot == std::string::npos ? "" : text.substr(dot));
}

// One graph of theirs: the document's own or a group's.
void rename_nodes(Json& graph, const FreshNames& nodes, const FreshNames& lanes) {
  const auto each = [&](const char* list, const auto& change) {
    if (graph.contains(list))
      for (Json& item : graph[list]) change(item);
  };
  each("lanes", [&](Json& lane) { rename(lane, "id", lanes); });
  each("nodes", [&](Json& node) { rename(node, "id", nodes), rename(node, "lane", lanes); });
  for (const char* list : {"threads", "inputs", "outputs", "guides", "marks"})
    each(list, [&](Json& item) {
      for (const char* key : {"from", "to", "thread", "at"})
        if (item.contains(key)) rename_output(item[key], nodes);
    });
  each("notes_on", [&](Json& note) { rename(note, "node", nodes); });
  const auto slots = [&](Json& hem) {
    for (auto& [slot, output] : hem.items()) rename_output(output, nodes);
  };
  if (graph.contains("hem")) slots(graph["hem"]);
  if (graph.contains("part_hems"))
    for (auto& [part, hem] : graph["part_hems"].items()) slots(hem);
}

// Theirs under names that nothing of ours has.
Json told_apart(const Json& base, const Json& ours, Json theirs) {
  Material m = *read_material(theirs.dump());
  for (const auto& [was, now] : taken_names("values", base, ours, theirs))
    m = edit::rename_value(std::move(m), was, now);
  theirs = Json::parse(write_material(m));
  const auto in_graph = [](const Json& b, const Json& o, Json& t) {
    rename_nodes(t, taken_names("nodes", b, o, t), taken_names("lanes", b, o, t));
  };
  in_graph(base, ours, theirs);
  if (theirs.contains("groups"))
    for (Json& group : theirs["groups"])
      for (const Json& own : ours.value("groups", Json::array()))
        if (own["id"] == group["id"])
          for (const Json& was : base.value("groups", Json::array()))
            if (was["id"] == group["id"]) in_graph(was, own, group);
  return theirs;
}

Result<Json> canonical(std::string_view text, const char* which) {
  const auto material = read_material(text);
  if (!material) return Error{which, material.error().text(), "Mend that file first"};
  return Json::parse(write_material(*material));
}

std::string in_words(const Thread& t) { return t.from_node + "." + t.from_peg + " to " + t.to_node + "." + t.to_peg; }

// Threads and slots of one graph whose end is gone.
template <class Graph>
void drop_loose_ends(Graph& graph, const std::string& within, std::vector<Error>& clashes) {
  std::set<std::string> there;
  for (const NodePtr& n : graph.nodes) there.insert(n->id);
  std::erase_if(graph.threads, [&](const Thread& t) {
    if (there.count(t.from_node) && there.count(t.to_node)) return false;
    clashes.push_back(
        {within + "thread " + in_words(t), "the one led it where the other took a node away", "It is left out"});
    return true;
  });
}

void drop_loose_slots(Material& m, std::vector<Error>& clashes) {
  std::set<std::string> there;
  for (const NodePtr& n : m.nodes) there.insert(n->id);
  const auto drop = [&](std::map<std::string, std::string>& hem, const std::string& within) {
    std::erase_if(hem, [&](const auto& slot) {
      if (there.count(split_output(slot.second).first)) return false;
      clashes.push_back({within + "slot " + slot.first,
                         "the one led " + slot.second + " into it, which the other took away", "It is left empty"});
      return true;
    });
  };
  drop(m.hem, "");
  for (auto& [part, own] : m.part_hems) drop(own.hem, "part " + part + ", ");
}

bool closes_ring(const std::vector<Thread>& threads, const Thread& t) {
  std::set<std::string> seen;
  std::vector<std::string> open{t.to_node};
  while (!open.empty()) {
    const std::string node = open.back();
    open.pop_back();
    if (node == t.from_node) return true;
    if (!seen.insert(node).second) continue;
    for (const Thread& next : threads)
      if (next.from_node == node) open.push_back(next.to_node);
  }
  return false;
}

// Two changes that are good each for itself can close a ring together.
void drop_rings(std::vector<Thread>& threads, const std::vector<Thread>& ours, const std::string& within,
                std::vector<Error>& clashes) {
  std::vector<Thread> kept;
  const auto is_ours = [&](const Thread& t) { return std::find(ours.begin(), ours.end(), t) != ours.end(); };
  for (const bool own : {true, false})
    for (const Thread& t : threads) {
      if (is_ours(t) != own) continue;
      if (closes_ring(kept, t))
        clashes.push_back(
            {within + "thread " + in_words(t), "would close a ring with what ours has", "It is left out"});
      else
        kept.push_back(t);
    }
  std::erase_if(threads, [&](const Thread& t) { return std::find(kept.begin(), kept.end(), t) == kept.end(); });
}

void mend_groups(Merged& merged, const Material& ours) {
  for (auto& group : merged.material.groups) {
    Group mended = *group;
    const std::string within = "group " + group->id + ", ";
    drop_loose_ends(mended, within, merged.clashes);
    const Group* own = ours.group(group->id);
    drop_rings(mended.threads, own ? own->threads : std::vector<Thread>(), within, merged.clashes);
    group = std::make_shared<const Group>(std::move(mended));
  }
}

// A node of theirs goes below what stands in its place.
Material moved_apart(Material m, const Material& ours) {
  std::set<std::tuple<std::string, int, int>> taken;
  for (const NodePtr& n : m.nodes)
    if (ours.node(n->id)) taken.insert({n->lane, n->column, n->row});
  for (const NodePtr& n : std::vector<NodePtr>(m.nodes)) {
    if (ours.node(n->id)) continue;
    int row = n->row;
    while (!taken.insert({n->lane, n->column, row}).second) ++row;
    if (row != n->row) m = edit::place_nodes(std::move(m), {{n->id, n->lane, n->column, row}});
  }
  return m;
}

}  // namespace

Result<Merged> merge(std::string_view base, std::string_view ours, std::string_view theirs,
                     const Catalogue& catalogue) {
  const auto b = canonical(base, "BASE"), o = canonical(ours, "OURS"), t = canonical(theirs, "THEIRS");
  for (const auto* side : {&b, &o, &t})
    if (!*side) return side->error();
  const auto own = read_material(o->dump());
  if (!own) return own.error();
  Merger merger;
  const Json json = merger.merged("", "", *b, *o, told_apart(*b, *o, *t));
  auto material = read_material(json.dump());
  if (!material) return Error{"merged", material.error().text(), "Merge these two by hand"};
  Merged out{moved_apart(std::move(material).value(), *own), std::move(merger.clashes)};
  drop_loose_ends(out.material, "", out.clashes);
  drop_loose_slots(out.material, out.clashes);
  drop_rings(out.material.threads, own->threads, "", out.clashes);
  mend_groups(out, *own);
  // What neither had wrong alone: kinds that no longer meet, a value that is gone.
  const auto before = all_faults(*own, catalogue);
  for (const Error& fault : all_faults(out.material, catalogue)) {
    const auto same = [&](const Error& e) { return e.text() == fault.text(); };
    if (std::none_of(before.begin(), before.end(), same)) out.clashes.push_back(fault);
  }
  return out;
}

}  // namespace loom
