// Format 2: plain words of the trade for types, parameters and pegs; angles of Bands and Ramp from the right; Choose by
// a range; Bands without a switch for hard edges.
#include "core/graph/migrate.h"

#include <algorithm>
#include <map>
#include <set>
#include <string>
#include <vector>

namespace loom {
namespace {

using Json = nlohmann::json;
using Names = std::map<std::string, std::string, std::less<>>;

// What a type and its ends were called, and are called now. Inputs and parameters share their names.
struct Renamed {
  std::string type{};  // empty: as before
  Names inputs{}, outputs{};
};

const std::map<std::string, Renamed, std::less<>>& renamed() {
  static const Names kGrey{{"tone", "grey"}};
  static const std::map<std::string, Renamed, std::less<>> kAll{
      {"root", {"square_root", {}, {}}},
      {"distance_of_points", {"distance_between_points", {}, {}}},
      {"picture", {"image", {}, {}}},
      {"clamp", {{}, {{"least", "minimum"}, {"most", "maximum"}}, {}}},
      {"keep_regions", {{}, {{"least", "minimum"}, {"most", "maximum"}, {"others", "inverted"}}, {}}},
      {"statistics", {{}, {}, {{"least", "minimum"}, {"most", "maximum"}}}},
      {"masonry", {{}, {{"joint_share", "joint_scale"}}, kGrey}},
      {"scatter", {{}, {}, kGrey}},
      {"nested_scatter", {{}, {}, kGrey}},
      {"bands", {{}, {}, kGrey}},
      {"rays", {{}, {}, kGrey}},
      {"fibre_noise", {{}, {}, kGrey}},
      {"woven_cloth", {{}, {}, kGrey}},
      {"region_values", {{}, {}, kGrey}},
      {"cellular_noise", {{}, {{"measure", "metric"}}, kGrey}},
      {"bevel", {{}, {{"line", "profile_row"}}, {}}},
      {"grow_and_shrink", {{}, {{"by", "distance"}}, {}}},
      {"outline", {{}, {{"rounding", "crown"}, {"sensitivity", "least_step"}}, {}}},
      {"warp", {{}, {{"passes", "pushes"}}, {}}},
      {"colour_adjust", {{}, {{"lightness", "lightness_scale"}, {"lift", "lightness"}}, {}}},
      {"relief_light", {{}, {{"rise", "elevation"}}, {}}},
      {"choose", {{}, {{"a", "value"}, {"greater", "above"}, {"equal", "between"}, {"less", "below"}}, {}}}};
  return kAll;
}

// Values that nodes started with in format 1 and no longer do: they were not written.
const std::map<std::string, std::map<std::string, Json>, std::less<>>& started_with() {
  static const std::map<std::string, std::map<std::string, Json>, std::less<>> kAll{
      {"bands", {{"angle", 0}, {"softness", 0.05}}},
      {"ramp", {{"angle", 0}}},
      {"warp", {{"fan", 360}}},
      {"choose", {{"b", 0.5}}},
      {"nested_scatter", {{"across_1", 2}, {"down_1", 2}, {"down_3", 2}}}};
  return kAll;
}

// The document, or a group within it.
class Graph {
 public:
  explicit Graph(Json& graph) : graph_(graph) {
    for (Json& node : list("nodes")) {
      types_[word(node, "id")] = word(node, "type");
      if (const std::string group = word(node, "group"); !group.empty()) groups_[word(node, "id")] = group;
    }
    for (const Json& value : list("values")) values_.insert(word(value, "id"));
  }

  void bring_to_2() {
    for (Json& node : list("nodes")) {
      if (!node.is_object()) continue;
      if (node.contains("params") && !node["params"].is_object()) continue;
      change_values(node);
      rename(node);
    }
    part_compared();
    for (Json& thread : list("threads")) {
      if (!thread.is_object()) continue;
      rename_output(thread, "from");
      rename_input(thread, "to");
    }
    for (Json& guide : list("guides"))
      if (guide.is_object()) rename_input(guide, "thread");
    for (Json& peg : list("outputs"))
      if (peg.is_object()) rename_output(peg, "from");
    for (Json& peg : list("inputs")) {
      if (!peg.is_object() || !peg.contains("to") || !peg["to"].is_array()) continue;
      for (Json& to : peg["to"]) to = with_end(to, true);
    }
  }
  /// The group that an instance is of; empty: none.
  std::string group_of(const std::string& instance) const {
    const auto found = groups_.find(instance);
    return found == groups_.end() ? std::string() : found->second;
  }
  /// NODE.PEG with the peg's present name; anything else as it is.
  Json with_end(const Json& end, bool input) const {
    if (!end.is_string()) return end;
    const auto text = end.get<std::string>();
    const auto point = text.find('.');
    if (point == std::string::npos) return end;
    const auto type = types_.find(text.substr(0, point));
    if (type == types_.end()) return end;
    const auto changed = renamed().find(type->second);
    if (changed == renamed().end()) return end;
    const Names& names = input ? changed->second.inputs : changed->second.outputs;
    const auto name = names.find(text.substr(point + 1));
    return name == names.end() ? end : Json(text.substr(0, point + 1) + name->second);
  }

 private:
  static std::string word(const Json& object, const char* key) {
    return object.contains(key) && object[key].is_string() ? object[key].get<std::string>() : std::string();
  }
  Json& list(const char* key) {
    if (!graph_.contains(key) || !graph_[key].is_array()) return none_ = Json::array();
    return graph_[key];
  }
  Json& own_list(const char* key) {
    if (!graph_.contains(key) || !graph_[key].is_array()) graph_[key] = Json::array();
    return graph_[key];
  }

  // A number worked out from what parameters hold: itself where they are numbers, else a value of the material.
  Json worked(const std::string& wished, const std::string& formula, const std::vector<Json>& from, double now) {
    if (std::all_of(from.begin(), from.end(), [](const Json& j) { return j.is_number(); })) return now;
    std::string id = wished;
    for (int k = 2; values_.count(id); ++k) id = wished + "_" + std::to_string(k);
    values_.insert(id);
    own_list("values").push_back({{"id", id}, {"value", {{"formula", formula}}}});
    return {{"follow", id}};
  }
  static std::string written(const Json& held) {
    if (held.is_object() && held.contains("follow") && held["follow"].is_string())
      return held["follow"].get<std::string>();
    return Json(number(held)).dump();
  }
  static double number(const Json& held) {
    return held.is_number() ? held.get<double>() : held.is_boolean() && held.get<bool>() ? 1.0 : 0.0;
  }

  void change_values(Json& node) {
    const std::string type = word(node, "type"), id = word(node, "id");
    Json& params = node["params"];
    if (params.is_null()) params = Json::object();
    if (const auto start = started_with().find(type); start != started_with().end())
      for (const auto& [name, value] : start->second)
        if (!params.contains(name)) params[name] = value;
    if (type == "bands" || (type == "ramp" && params.value("kind", Json("mirrored")) != "angular")) {
      const Json angle = params["angle"];
      params["angle"] = worked(id + "_angle", written(angle) + " - 90", {angle}, number(angle) - 90);
    }
    if (type == "bands") {
      // Softness 0 was one sample wide unless the switch was on; now it is hard.
      const Json hard = params.value("hard", Json(0)), soft = params["softness"];
      params.erase("hard");
      params["softness"] = worked(id + "_softness", "if(" + written(hard) + ", 0, max(" + written(soft) + ", 0.001))",
                                  {hard.is_boolean() ? Json(number(hard)) : hard, soft},
                                  number(hard) != 0 ? 0 : std::max(number(soft), 0.001));
    }
    if (type == "choose") {
      const Json middle = params["b"], about = params.value("tolerance", Json(0));
      tolerance_[id] = about;
      params.erase("b"), params.erase("tolerance");
      params["low"] = worked(id + "_low", written(middle) + " - " + written(about), {middle, about},
                             number(middle) - number(about));
      params["high"] = worked(id + "_high", written(middle) + " + " + written(about), {middle, about},
                              number(middle) + number(about));
    }
  }

  static void rename(Json& node) {
    const auto changed = renamed().find(word(node, "type"));
    if (changed == renamed().end()) return;
    if (!changed->second.type.empty()) node["type"] = changed->second.type;
    Json params = Json::object();
    for (const auto& [key, value] : node["params"].items()) {
      const auto name = changed->second.inputs.find(key);
      params[name == changed->second.inputs.end() ? key : name->second] = value;
    }
    node["params"] = std::move(params);
  }
  void rename_output(Json& object, const char* key) const {
    if (object.contains(key)) object[key] = with_end(object[key], false);
  }
  void rename_input(Json& object, const char* key) const {
    if (object.contains(key)) object[key] = with_end(object[key], true);
  }

  // What came in at b of Choose bounds the range from both sides; a tolerance is taken off it and added to it.
  void part_compared() {
    Json& threads = own_list("threads");
    for (std::size_t i = 0; i < threads.size(); ++i) {
      if (!threads[i].is_object()) continue;
      const std::string to = word(threads[i], "to"), id = to.substr(0, to.find('.'));
      if (to != id + ".b" || !tolerance_.count(id)) continue;
      const Json about = tolerance_[id];
      const bool apart = !about.is_number() || about != 0;
      Json low = threads[i], high = threads[i];
      low["to"] = apart ? stand_between(id, "subtract", "low", about) : id + ".low";
      high["to"] = apart ? stand_between(id, "add", "high", about) : id + ".high";
      threads[i] = low;
      threads.push_back(high);
    }
    for (Json& peg : list("inputs")) part_group_input(peg);
  }
  void part_group_input(Json& peg) {
    if (!peg.is_object() || !peg.contains("to") || !peg["to"].is_array()) return;
    Json ends = Json::array();
    for (const Json& to : peg["to"]) {
      const std::string text = to.is_string() ? to.get<std::string>() : "", id = text.substr(0, text.find('.'));
      if (text != id + ".b" || !tolerance_.count(id)) {
        ends.push_back(to);
        continue;
      }
      const Json about = tolerance_[id];
      const bool apart = !about.is_number() || about != 0;
      ends.push_back(apart ? stand_between(id, "subtract", "low", about) : id + ".low");
      ends.push_back(apart ? stand_between(id, "add", "high", about) : id + ".high");
    }
    peg["to"] = std::move(ends);
  }
  // A node of `type` in front of a peg of Choose; gives the peg that its first operand comes in at.
  std::string stand_between(const std::string& choose, const std::string& type, const std::string& peg,
                            const Json& about) {
    std::string id = choose + "_" + peg;
    for (int k = 2; types_.count(id); ++k) id = choose + "_" + peg + "_" + std::to_string(k);
    types_[id] = type;
    Json& nodes = graph_["nodes"];
    int column = 0;
    Json lane, row = 0;
    for (const Json& node : nodes)
      if (word(node, "id") == choose) {
        lane = node.value("lane", Json());
        row = node.value("row", Json(0));
      }
    for (const Json& node : nodes)
      if (node.is_object() && node.value("lane", Json()) == lane && node.contains("column") &&
          node["column"].is_number_integer())
        column = std::max(column, node["column"].get<int>() + 1);
    Json node{{"id", id}, {"type", type}, {"row", row}, {"column", column}, {"params", {{"b", about}}}};
    if (!lane.is_null()) node["lane"] = lane;
    nodes.push_back(std::move(node));
    own_list("threads").push_back({{"from", id + ".result"}, {"to", choose + "." + peg}});
    return id + ".a";
  }

  Json& graph_;
  Json none_ = Json::array();
  std::map<std::string, std::string> types_, groups_;  // of nodes; of instances
  std::set<std::string> values_;
  std::map<std::string, Json> tolerance_;  // of each Choose
};

// INSTANCE/INSTANCE/NODE.PEG with the peg's present name.
Json mark_at(const std::map<std::string, Graph>& groups, const Graph& whole, const std::string& at) {
  const Graph* graph = &whole;
  std::size_t from = 0;
  for (auto slash = at.find('/'); slash != std::string::npos; slash = at.find('/', from)) {
    const auto group = groups.find(graph->group_of(at.substr(from, slash - from)));
    if (group == groups.end()) return at;
    graph = &group->second;
    from = slash + 1;
  }
  return at.substr(0, from) + graph->with_end(at.substr(from), false).get<std::string>();
}

void bring_to_2(Json& document) {
  std::map<std::string, Graph> groups;
  if (document.contains("groups") && document["groups"].is_array())
    for (Json& group : document["groups"])
      if (group.is_object() && group.contains("id") && group["id"].is_string())
        groups.emplace(group["id"].get<std::string>(), Graph(group)).first->second.bring_to_2();
  Graph whole(document);
  whole.bring_to_2();
  if (document.contains("hem") && document["hem"].is_object())
    for (auto& [slot, from] : document["hem"].items()) from = whole.with_end(from, false);
  if (!document.contains("marks") || !document["marks"].is_array()) return;
  for (Json& mark : document["marks"])
    if (mark.is_object() && mark.contains("at") && mark["at"].is_string())
      mark["at"] = mark_at(groups, whole, mark["at"].get<std::string>());
}

}  // namespace

void migrate(Json& document, int format) {
  if (format < 2 && document.is_object()) bring_to_2(document);
}

}  // namespace loom
