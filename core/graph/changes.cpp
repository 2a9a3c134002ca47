// Both sides as texts by the place that they stand at; then the two lists are laid beside each other.
#include "core/graph/changes.h"

#include <algorithm>
#include <map>

#include "core/graph/json.h"
#include "core/graph/json_offered.h"

namespace loom {
namespace {

constexpr std::size_t kLongest = 160;

std::string shortened(std::string text) {
  if (text.size() > kLongest) text = text.substr(0, kLongest) + " ...";
  return text;
}
std::string words(const Json& json) { return json.dump(-1, ' ', false, Json::error_handler_t::replace); }
std::string words(const ParamValue& value) {
  if (const auto* text = std::get_if<std::string>(&value)) return *text;
  return words(param_to_json(value));
}

// What stands where, in its order: (what, where) to its words.
class Listed {
 public:
  void add(const std::string& what, const std::string& where, std::string text) {
    const auto [at, fresh] = text_.emplace(std::pair(what, where), text);
    if (fresh)
      order_.emplace_back(what, where);
    else
      at->second += "; " + text;  // a place that is named twice
  }
  const std::vector<std::pair<std::string, std::string>>& order() const { return order_; }
  const std::string* find(const std::pair<std::string, std::string>& place) const {
    const auto at = text_.find(place);
    return at == text_.end() ? nullptr : &at->second;
  }

 private:
  std::vector<std::pair<std::string, std::string>> order_;
  std::map<std::pair<std::string, std::string>, std::string> text_;
};

void list_node(Listed& all, const std::string& prefix, const Node& n) {
  const std::string where = prefix + "node " + n.id;
  all.add("node", where, n.type + (n.group.empty() ? "" : " " + n.group));
  if (!n.name.empty()) all.add("name", where, n.name);
  if (n.bypass) all.add("bypass", where, "yes");
  for (const auto& [param, value] : n.params) all.add("parameter", where + ", " + param, words(value));
}

void list_value(Listed& all, const std::string& prefix, const Value& v) {
  all.add("value", prefix + "value " + v.id, words(v.value));
  if (v.dial) all.add("dial", prefix + "dial " + v.id, words(dial_to_json(*v.dial)));
}

template <class Graph>
void list_graph(Listed& all, const std::string& prefix, const Graph& g) {
  for (const NodePtr& n : g.nodes) list_node(all, prefix, *n);
  for (const Thread& t : g.threads)
    all.add("thread", prefix + "into " + t.to_node + "." + t.to_peg,
            t.from_node + "." + t.from_peg + (t.channel >= 0 ? " channel " + std::to_string(t.channel) : ""));
  for (const Value& v : g.values) list_value(all, prefix, v);
}

void list_hem(Listed& all, const std::string& prefix, const std::map<std::string, std::string>& hem,
              const std::map<std::string, ParamValue>& typed) {
  for (const auto& [slot, from] : hem) all.add("slot", prefix + slot, from);
  for (const auto& [slot, value] : typed)
    if (!hem.count(slot)) all.add("slot", prefix + slot, words(value));
}

void list_group(Listed& all, const Group& g) {
  const std::string prefix = "group " + g.id + ", ";
  all.add("group", "group " + g.id, g.name);
  for (const auto* pegs : {&g.inputs, &g.outputs})
    for (const GroupPeg& p : *pegs) {
      std::string text = p.label + " " + p.kind + " " + p.from;
      for (const std::string& to : p.to) text += " " + to;
      for (const auto& [key, value] : p.params) text += " " + key + " " + words(value);
      all.add("peg", prefix + (pegs == &g.inputs ? "input " : "output ") + p.id, std::move(text));
    }
  list_graph(all, prefix, g);
}

Listed listed(const Material& m) {
  Listed all;
  const auto number = [](double x) { return words(Json(x)); };
  all.add("name", "document", m.name);
  all.add("imprint", "imprint", words(imprint_to_json(m.imprint)));
  all.add("measure", "tile_metres", number(m.tile_metres));
  all.add("measure", "relief_metres", number(m.relief_metres));
  all.add("measure", "seed", std::to_string(m.seed));
  all.add("measure", "shape", m.shape + m.mesh);
  if (!m.notes.empty()) all.add("notes", "document", m.notes);
  list_graph(all, "", m);
  list_hem(all, "", m.hem, m.hem_values);
  for (const auto& [part, own] : m.part_hems) list_hem(all, "part " + part + ", ", own.hem, own.hem_values);
  Json offered = Json::object();
  write_offered(m, offered);
  for (const Preset& p : m.presets)
    for (const auto& [id, value] : p.values) all.add("preset", "preset " + p.name + ", " + id, words(value));
  for (const Preset& p : m.presets)
    if (p.values.empty()) all.add("preset", "preset " + p.name, "all dials at start");
  if (offered.contains("lists"))
    for (const Json& list : offered["lists"]) all.add("list", "list " + list["name"].get<std::string>(), words(list));
  for (const auto& g : m.groups) list_group(all, *g);
  return all;
}

}  // namespace

std::vector<Change> changes(const Material& a, const Material& b) {
  const Listed before = listed(a), after = listed(b);
  std::vector<Change> all;
  for (const auto& place : before.order()) {
    const std::string was = *before.find(place);
    const std::string* is = after.find(place);
    if (!is || *is != was)
      all.push_back({place.first, place.second, shortened(was), is ? shortened(*is) : std::string()});
  }
  for (const auto& place : after.order())
    if (!before.find(place)) all.push_back({place.first, place.second, "", shortened(*after.find(place))});
  return all;
}

}  // namespace loom
