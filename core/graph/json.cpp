// Reading is forgiving of what it does not know and strict about what it does; writing is canonical.
#include "core/graph/json.h"

#include <algorithm>
#include <cmath>
#include <set>

#include "core/base/brackets.h"
#include "core/graph/json_offered.h"
#include "core/graph/json_reading.h"

template class nlohmann::basic_json<>;

namespace loom {
namespace {

using namespace reading;

constexpr int kMostDepth = 64;

constexpr const char* kStrokeKeys[] = {"on", "radius", "softness", "strength", "erase", "value", "colour", "points"};

RuleEnd rule_end(const Json& j) {
  if (j.is_number()) return {j.get<double>(), {}};
  if (j.is_object() && j.contains("follow") && j["follow"].is_string()) return {0, j["follow"].get<std::string>()};
  throw Fault{{}};
}
Json rule_end_json(const RuleEnd& end) { return end.follow.empty() ? Json(end.number) : Json{{"follow", end.follow}}; }

Rule rule_from(const Json& j) {
  Rule rule;
  rule.by = text_at(j, "by", "rule", "chance");
  if (j.contains("from")) rule.from = rule_end(j["from"]);
  if (j.contains("to")) rule.to = rule_end(j["to"]);
  rule.seed = number_at(j, "seed", "rule", 1);
  rule.every = number_at(j, "every", "rule", 2);
  rule.offset = number_at(j, "offset", "rule", 0);
  rule.over = text_at(j, "over", "rule", "units");
  rule.map = text_at(j, "map", "rule", "map_a");
  return rule;
}

Json rule_json(const Rule& r) {
  Json j{{"by", r.by}, {"from", rule_end_json(r.from)}, {"to", rule_end_json(r.to)}};
  if (r.by == "chance" || r.by == "bell") j["seed"] = r.seed;
  if (r.by == "nth") j["every"] = r.every, j["offset"] = r.offset;
  if (r.by == "nth" && r.over != "units") j["over"] = r.over;
  if (r.by == "map") j["map"] = r.map;
  return j;
}

// Numbers beyond what a float holds become what no stroke may have.
float float_at(const Json& j, const char* key, float fallback) {
  return j.contains(key) ? static_cast<float>(j.at(key).get<double>()) : fallback;
}

// [u, v, pressure] on the tile, [x, y, z, pressure, and the way it faced] on a shape.
StrokePoint stroke_point_from(const Json& j, bool on_shape) {
  if (!j.is_array()) throw Fault{{}};
  const std::size_t places = on_shape ? 3 : 2, all = j.size();
  if (all != places && all != places + 1 && !(on_shape && all == 7)) throw Fault{{}};
  const auto p = j.get<std::vector<float>>();
  StrokePoint point{p[0], p[1], on_shape ? p[2] : 0};
  if (all > places) point.pressure = p[places];
  if (all == 7) point.towards_x = p[4], point.towards_y = p[5], point.towards_z = p[6];
  return point;
}

HandStrokePtr stroke_from(const Json& j) {
  for (const auto& [key, value] : j.items())
    if (std::none_of(std::begin(kStrokeKeys), std::end(kStrokeKeys),
                     [&, k = key](const char* known) { return k == known; }))
      throw Fault{{}};
  HandStroke s;
  const std::string on = text_at(j, "on", "stroke", "tile");
  if (on != "tile" && on != "shape") throw Fault{{}};
  s.on_shape = on == "shape";
  s.radius = float_at(j, "radius", s.radius);
  s.softness = float_at(j, "softness", s.softness);
  s.strength = float_at(j, "strength", s.strength);
  if (j.contains("erase")) s.erase = j["erase"].get<bool>();
  if (j.contains("value")) s.paint = {float_at(j, "value", 1)};
  if (j.contains("colour")) s.paint = j["colour"].get<std::vector<float>>();
  for (const Json& p : j.at("points")) s.points.push_back(stroke_point_from(p, s.on_shape));
  return kept(std::move(s));
}

ParamValue param_from_list(const Json& j) {
  const bool numbers = std::all_of(j.begin(), j.end(), [](const Json& x) { return x.is_number(); });
  if (numbers && !j.empty() && j.size() <= 4) return j.get<Vector>();
  if (std::all_of(j.begin(), j.end(), [](const Json& x) {
        return x.is_array() && x.size() == 2 && x[0].is_number() && x[1].is_number();
      })) {
    Points points;
    for (const Json& p : j) points.push_back({p[0].get<double>(), p[1].get<double>()});
    return points;
  }
  if (j[0].is_object() && j[0].contains("points")) {
    Strokes strokes;
    for (const Json& s : j) strokes.all.push_back(stroke_from(s));
    return strokes;
  }
  Stops stops;
  for (const Json& s : j) {
    if (!s.is_object() || !s.contains("colour") || !s["colour"].is_array()) throw Fault{{}};
    ColourStop stop;
    stop.at = number_at(s, "at", "stop", 0);
    const auto c = s["colour"].get<std::vector<double>>();
    if (c.size() < 3 || c.size() > 4) throw Fault{{}};
    std::copy(c.begin(), c.end(), stop.colour.begin());
    stop.between = text_at(s, "between", "stop");
    stops.push_back(stop);
  }
  return stops;
}

ParamValue param_from(const Json& j) {
  if (j.is_number()) return j.get<double>();
  if (j.is_boolean()) return j.get<bool>() ? 1.0 : 0.0;
  if (j.is_string()) return j.get<std::string>();
  if (j.is_array()) return param_from_list(j);
  if (j.is_object() && j.size() == 1) {
    if (j.contains("formula") && j["formula"].is_string()) return Formula{j["formula"].get<std::string>(), {}};
    if (j.contains("follow") && j["follow"].is_string()) return Follow{j["follow"].get<std::string>()};
    if (j.contains("rule") && j["rule"].is_object()) return rule_from(j["rule"]);
  }
  throw Fault{{}};
}

ParamValue param_at(const Json& j, const std::string& where) {
  bool understood = false;
  ParamValue value = param_from_json(j, understood);
  if (!understood)
    fail(where, "is no value that a parameter can hold",
         "Use a number, a text, a list of numbers, or one of formula, follow and rule in { }");
  return value;
}

BoltReference bolt_reference_from(const Json& j, const std::string& where) {
  if (!j.contains("bolt"))
    fail(where, "does not say which bolt", "Write \"bolt\": {\"id\", \"version\", \"sha256\", \"file\"}");
  const Json& b = j["bolt"];
  need_object(b, where + ", bolt");
  BoltReference bolt{text_at(b, "id", where), text_at(b, "version", where), text_at(b, "sha256", where),
                     text_at(b, "file", where)};
  if (bolt.sha256.size() != 64 || bolt.sha256.find_first_not_of("0123456789abcdef") != std::string::npos)
    fail(where + ", bolt", "'sha256' is no hash of 64 small hexadecimal digits", "Use the bolt anew");
  return bolt;
}

NodePtr node_from(const Json& j, const std::string& place, std::vector<Error>* warnings) {
  need_object(j, place);
  auto node = std::make_shared<Node>();
  node->id = text_at(j, "id", place);
  if (node->id.empty()) fail(place, "has no 'id'", "Give it one such as \"edge\"");
  const std::string where = "node " + node->id;
  node->type = text_at(j, "type", where);
  node->name = text_at(j, "name", where);
  node->lane = text_at(j, "lane", where);
  node->group = text_at(j, "group", where);
  if (node->is_bolt()) {
    node->bolt = bolt_reference_from(j, where);
    node->group = node->bolt->key();
  }
  node->row = whole_at(j, "row", where, 0);
  node->column = whole_at(j, "column", where, 0);
  node->bypass = truth_at(j, "bypass", where, false);
  if (j.contains("params")) {
    need_object(j["params"], where + ", params");
    for (const auto& [key, value] : j["params"].items())
      node->params[key] = param_at(value, where + ", parameter " + key);
  }
  node->extra = leftovers(j, {"id", "type", "name", "lane", "group", "row", "column", "bypass", "params", "bolt"},
                          where, warnings);
  return node;
}

Thread thread_from(const Json& j, const std::string& where) {
  need_object(j, where);
  Thread t;
  std::tie(t.from_node, t.from_peg) = split_output(text_at(j, "from", where));
  std::tie(t.to_node, t.to_peg) = split_output(text_at(j, "to", where));
  if (t.from_node.empty() || t.to_node.empty())
    fail(where, "does not say from where to where", "Write \"from\": \"node.peg\" and \"to\": \"node.peg\"");
  t.channel = whole_at(j, "channel", where, -1);
  t.alias = truth_at(j, "alias", where, false);
  return t;
}

Lane lane_from(const Json& j, const std::string& where, std::vector<Error>* warnings) {
  need_object(j, where);
  Lane lane{text_at(j, "id", where), text_at(j, "name", where), whole_at(j, "tint", where, 0),
            truth_at(j, "collapsed", where, false)};
  if (lane.id.empty()) fail(where, "has no 'id'", "Give it one such as \"relief\"");
  if (lane.name.empty()) lane.name = lane.id;
  lane.extra = leftovers(j, {"id", "name", "tint", "collapsed"}, where, warnings);
  return lane;
}

Value value_from(const Json& j, const std::string& place, std::vector<Error>* warnings) {
  need_object(j, place);
  Value value;
  value.id = text_at(j, "id", place);
  const std::string where = "value " + value.id;
  if (!j.contains("value")) fail(where, "has no 'value'", "Give it one");
  value.value = param_at(j["value"], where);
  if (j.contains("dial")) value.dial = dial_from_json(j["dial"], value, warnings);
  value.extra = leftovers(j, {"id", "value", "dial"}, where, warnings);
  return value;
}

GroupPeg group_peg_from(const Json& j, const std::string& where) {
  need_object(j, where);
  GroupPeg peg{
      text_at(j, "id", where), text_at(j, "label", where), text_at(j, "kind", where), {}, text_at(j, "from", where)};
  for (const Json& to : list_at(j, "to", where)) {
    if (!to.is_string()) fail(where, "'to' holds something that is not a text", "Write \"node.peg\"");
    peg.to.push_back(to.get<std::string>());
  }
  if (j.contains("params")) {
    need_object(j["params"], where + ", params");
    for (const auto& [key, value] : j["params"].items())
      peg.params[key] = param_at(value, where + ", parameter " + key);
  }
  return peg;
}

template <class T, class Read>
std::vector<T> read_list(const Json& j, const char* key, const std::string& where, const Read& read) {
  std::vector<T> out;
  for (const Json& item : list_at(j, key, where))
    out.push_back(read(item, where + key + " " + std::to_string(out.size() + 1)));
  return out;
}

template <class Holder>
void read_graph(const Json& j, Holder& to, const std::string& where, std::vector<Error>* warnings) {
  to.lanes = read_list<Lane>(j, "lanes", where,
                             [&](const Json& x, const std::string& w) { return lane_from(x, w, warnings); });
  to.nodes = read_list<NodePtr>(j, "nodes", where,
                                [&](const Json& x, const std::string& w) { return node_from(x, w, warnings); });
  to.threads =
      read_list<Thread>(j, "threads", where, [&](const Json& x, const std::string& w) { return thread_from(x, w); });
  to.values = read_list<Value>(j, "values", where,
                               [&](const Json& x, const std::string& w) { return value_from(x, w, warnings); });
  to.stages = read_list<Stage>(j, "stages", where, [](const Json& x, const std::string& w) {
    need_object(x, w);
    return Stage{text_at(x, "name", w), std::max(0, whole_at(x, "row", w, 0))};
  });
  for (const Json& note : list_at(j, "notes_on", where)) {
    need_object(note, where + "notes_on");
    to.notes_on[text_at(note, "node", where + "notes_on")] = text_at(note, "text", where + "notes_on");
  }
  for (const Json& led : list_at(j, "guides", where)) {
    const std::string at = where + "guides";
    need_object(led, at);
    to.guides[text_at(led, "thread", at)] =
        read_list<Guide>(led, "through", at + ", ", [](const Json& x, const std::string& w) {
          need_object(x, w);
          return Guide{text_at(x, "lane", w), number_at(x, "column", w, 0), number_at(x, "row", w, 0)};
        });
  }
}

void read_groups(const Json& j, Material& m, std::vector<Error>* warnings) {
  for (const Json& g : list_at(j, "groups", "document")) {
    need_object(g, "group");
    auto group = std::make_shared<Group>();
    group->id = text_at(g, "id", "group");
    const std::string where = "group " + group->id + ", ";
    group->name = text_at(g, "name", where);
    group->help = text_at(g, "help", where);
    read_graph(g, *group, where, warnings);
    group->inputs = read_list<GroupPeg>(g, "inputs", where, group_peg_from);
    group->outputs = read_list<GroupPeg>(g, "outputs", where, group_peg_from);
    group->extra = leftovers(g,
                             {"id", "name", "help", "lanes", "nodes", "threads", "inputs", "outputs", "values",
                              "stages", "notes_on", "guides"},
                             where, warnings);
    m.groups.push_back(std::move(group));
  }
}

// Brings it to the format that is read here.
void bring_up(Json& j, const std::string& where) {
  need_object(j, where);
  const int format = whole_at(j, "format", where, 0);
  if (format < 1)
    fail(where, "has no 'format' number", "Is this a .loom file? Write \"format\": " + std::to_string(kFormat));
  if (format > kFormat)
    fail(where, "is of format " + std::to_string(format) + ", newer than this program knows",
         "Open it with a newer version");
  migrate(j, format);
}

std::map<std::string, std::string> outputs_from(const Json& slots, const std::string& where) {
  need_object(slots, where);
  std::map<std::string, std::string> hem;
  for (const auto& [slot, from] : slots.items()) {
    if (!from.is_string()) fail(where + ", slot " + slot, "is not a text", "Write \"node.peg\"");
    hem[slot] = from.get<std::string>();
  }
  return hem;
}

std::map<std::string, ParamValue> typed_from(const Json& slots, const std::string& where) {
  need_object(slots, where);
  std::map<std::string, ParamValue> values;
  for (const auto& [slot, value] : slots.items()) values[slot] = param_at(value, where + ", slot " + slot);
  return values;
}

void read_hems(const Json& j, Material& m) {
  if (j.contains("hem")) m.hem = outputs_from(j["hem"], "hem");
  if (j.contains("hem_values")) m.hem_values = typed_from(j["hem_values"], "hem_values");
  const auto of_parts = [&](const char* key, const auto& read) {
    if (!j.contains(key)) return;
    need_object(j[key], key);
    for (const auto& [part, slots] : j[key].items())
      read(m.part_hems[part], slots, std::string(key) + ", part " + part);
  };
  of_parts("part_hems",
           [](PartHem& own, const Json& slots, const std::string& where) { own.hem = outputs_from(slots, where); });
  of_parts("part_hem_values", [](PartHem& own, const Json& slots, const std::string& where) {
    own.hem_values = typed_from(slots, where);
  });
}

Material material_from(Json& j, std::vector<Error>* warnings) {
  bring_up(j, "document");
  Material m;
  m.name = text_at(j, "name", "document", "Untitled");
  m.notes = text_at(j, "notes", "document");
  m.tile_metres = number_at(j, "tile_metres", "document", 1);
  m.relief_metres = number_at(j, "relief_metres", "document", 0.02);
  m.seed = static_cast<std::int64_t>(number_at(j, "seed", "document", 1));
  if (j.contains("shape")) {
    need_object(j["shape"], "shape");
    m.shape = text_at(j["shape"], "name", "shape");
    m.mesh = text_at(j["shape"], "mesh", "shape");
    if (m.shape.empty() == m.mesh.empty())
      fail("shape", "names neither a shape nor a mesh, or both", "Write {\"name\": \"ball\"} or {\"mesh\": \"FILE\"}");
  }
  read_graph(j, m, "", warnings);
  read_hems(j, m);
  for (const Json& mark : list_at(j, "marks", "document")) {
    need_object(mark, "marks");
    m.marks[text_at(mark, "letter", "marks")] = text_at(mark, "at", "marks");
  }
  read_offered(j, m, warnings);
  read_groups(j, m, warnings);
  m.extra =
      leftovers(j, {"format",  "name",   "notes",      "tile_metres", "relief_metres",   "seed",    "lanes",  "nodes",
                    "threads", "hem",    "hem_values", "part_hems",   "part_hem_values", "shape",   "values", "presets",
                    "groups",  "stages", "notes_on",   "guides",      "marks",           "imprint", "lists"},
                "document", warnings);
  return m;
}

Result<Json> parse(std::string_view text) {
  if (text.size() > kMostDocumentBytes)
    return Error{"document", "is larger than 32 MiB", "Split it, or keep pictures in files of their own"};
  // Depth is bounded before the parser builds anything: its tree is taken down recursively.
  if (const auto deep = nested_deeper(text, kMostDepth))
    return Error{"document", "has brackets nested more than 64 deep, at byte " + std::to_string(*deep + 1),
                 "A material needs fewer than ten"};
  try {
    return Json::parse(text.begin(), text.end());
  } catch (const Json::exception& e) {
    std::string what = e.what();
    if (const auto at = what.find("] "); at != std::string::npos) what = what.substr(at + 2);
    return Error{"document", "is not valid JSON: " + what,
                 "Mend the text at that place, or go back to the last good copy"};
  }
}

// ---- writing ----

Json node_json(const Node& n) {
  Json j = n.extra;
  j["id"] = n.id;
  j["type"] = n.type;
  j["row"] = n.row;
  j["column"] = n.column;
  if (!n.lane.empty()) j["lane"] = n.lane;
  if (!n.name.empty()) j["name"] = n.name;
  if (n.bolt)
    j["bolt"] = {{"id", n.bolt->id}, {"version", n.bolt->version}, {"sha256", n.bolt->sha256}, {"file", n.bolt->file}};
  else if (!n.group.empty())
    j["group"] = n.group;
  if (n.bypass) j["bypass"] = true;
  j["params"] = Json::object();
  for (const auto& [key, value] : n.params) j["params"][key] = param_to_json(value);
  return j;
}
Json thread_json(const Thread& t) {
  Json j{{"from", t.from_node + "." + t.from_peg}, {"to", t.to_node + "." + t.to_peg}};
  if (t.channel >= 0) j["channel"] = t.channel;
  if (t.alias) j["alias"] = true;
  return j;
}
Json lane_json(const Lane& l) {
  Json j = l.extra;
  j["id"] = l.id;
  j["name"] = l.name;
  if (l.tint) j["tint"] = l.tint;
  if (l.collapsed) j["collapsed"] = true;
  return j;
}
Json value_json(const Value& v) {
  Json j = v.extra;
  j["id"] = v.id;
  j["value"] = param_to_json(v.value);
  if (v.dial) j["dial"] = dial_to_json(*v.dial);
  return j;
}
template <class List, class Write>
Json list_json(const List& list, const Write& write) {
  Json j = Json::array();
  for (const auto& item : list) j.push_back(write(item));
  return j;
}
template <class Holder>
void write_graph(const Holder& from, Json& j) {
  j["lanes"] = list_json(from.lanes, lane_json);
  j["nodes"] = list_json(from.nodes, [](const NodePtr& n) { return node_json(*n); });
  j["threads"] = list_json(from.threads, thread_json);
  j["values"] = list_json(from.values, value_json);
  if (!from.stages.empty())
    j["stages"] = list_json(from.stages, [](const Stage& s) { return Json{{"name", s.name}, {"row", s.row}}; });
  // A guide outlives its thread while one works, so that a thread laid again takes the same way; it is not kept beyond.
  Json guides = Json::array();
  for (const auto& [peg, through] : from.guides)
    if (!through.empty() && std::any_of(from.threads.begin(), from.threads.end(),
                                        [&, end = peg](const Thread& t) { return t.to_node + "." + t.to_peg == end; }))
      guides.push_back({{"thread", peg}, {"through", list_json(through, [](const Guide& g) {
                                            return Json{{"lane", g.lane}, {"column", g.column}, {"row", g.row}};
                                          })}});
  if (!guides.empty()) j["guides"] = guides;
  if (!from.notes_on.empty())
    j["notes_on"] = list_json(from.notes_on, [](const auto& note) {
      return Json{{"node", note.first}, {"text", note.second}};
    });
}
Json group_peg_json(const GroupPeg& p) {
  Json j{{"id", p.id}, {"label", p.label}, {"kind", p.kind}};
  if (!p.to.empty()) j["to"] = p.to;
  if (!p.from.empty()) j["from"] = p.from;
  for (const auto& [key, value] : p.params) j["params"][key] = param_to_json(value);
  return j;
}

Json group_json(const std::shared_ptr<const Group>& g) {
  Json j = g->extra;
  j["id"] = g->id;
  j["name"] = g->name;
  j["help"] = g->help;
  write_graph(*g, j);
  j["inputs"] = list_json(g->inputs, group_peg_json);
  j["outputs"] = list_json(g->outputs, group_peg_json);
  return j;
}

Json typed_json(const std::map<std::string, ParamValue>& values) {
  Json j = Json::object();
  for (const auto& [id, value] : values) j[id] = param_to_json(value);
  return j;
}

Json material_json(const Material& m) {
  Json j = m.extra;
  j["format"] = kFormat;
  j["name"] = m.name;
  if (!m.notes.empty()) j["notes"] = m.notes;
  j["tile_metres"] = m.tile_metres;
  j["relief_metres"] = m.relief_metres;
  j["seed"] = m.seed;
  if (!m.shape.empty()) j["shape"] = {{"name", m.shape}};
  if (!m.mesh.empty()) j["shape"] = {{"mesh", m.mesh}};
  write_graph(m, j);
  j["hem"] = m.hem;
  if (!m.hem_values.empty()) j["hem_values"] = typed_json(m.hem_values);
  for (const auto& [part, own] : m.part_hems) {
    j["part_hems"][part] = own.hem;
    if (!own.hem_values.empty()) j["part_hem_values"][part] = typed_json(own.hem_values);
  }
  if (!m.marks.empty())
    j["marks"] = list_json(m.marks, [](const auto& mark) { return Json{{"letter", mark.first}, {"at", mark.second}}; });
  write_offered(m, j);
  if (!m.groups.empty()) j["groups"] = list_json(m.groups, group_json);
  return j;
}

// An item stands on one line where that is short enough to read.
void print(const Json& j, std::size_t indent, std::string& out) {
  const std::string flat = j.dump(-1, ' ', false, Json::error_handler_t::replace);
  if (!j.is_structured() || j.empty() || (indent > 0 && flat.size() <= 100) ||
      (indent >= 4 && j.is_object() && (flat.size() <= 400 || j.contains("points")))) {
    out += flat;
    return;
  }
  out += j.is_array() ? "[\n" : "{\n";
  bool first = true;
  for (const auto& [key, value] : j.items()) {
    if (!first) out += ",\n";
    first = false;
    out.append(indent + 2, ' ');
    if (j.is_object()) out += Json(key).dump() + ": ";
    print(value, indent + 2, out);
  }
  out += '\n';
  out.append(indent, ' ');
  out += j.is_array() ? ']' : '}';
}

Json stroke_json(const HandStroke& s) {
  Json j{{"radius", written_place(s.radius)}, {"softness", written_share(s.softness)}};
  if (s.on_shape) j["on"] = "shape";
  if (s.strength != 1) j["strength"] = written_share(s.strength);
  if (s.erase) j["erase"] = true;
  if (s.paint.size() == 1 && s.paint[0] != 1) j["value"] = written_share(s.paint[0]);
  if (s.paint.size() != 1) j["colour"] = list_json(s.paint, [](float x) { return Json(written_share(x)); });
  j["points"] = list_json(s.points, [&](const StrokePoint& p) {
    Json at{written_place(p.x), written_place(p.y)};
    if (s.on_shape) at.push_back(written_place(p.z));
    const bool faces = p.towards_x != 0 || p.towards_y != 0 || p.towards_z != 0;
    if (p.pressure != 1 || faces) at.push_back(written_share(p.pressure));
    if (faces)
      for (const float x : {p.towards_x, p.towards_y, p.towards_z}) at.push_back(written_direction(x));
    return at;
  });
  return j;
}

}  // namespace

ParamValue param_from_json(const Json& json, bool& understood) {
  understood = true;
  try {
    return param_from(json);
  } catch (const Fault&) {
  } catch (const Json::exception&) {
  }
  understood = false;
  return 0.0;
}

Json param_to_json(const ParamValue& value) {
  struct Writer {
    Json operator()(double v) const { return v; }
    Json operator()(const Vector& v) const { return v; }
    Json operator()(const std::string& v) const { return v; }
    Json operator()(const Stops& stops) const {
      return list_json(stops, [](const ColourStop& s) {
        Json c = {s.colour[0], s.colour[1], s.colour[2]};
        if (s.colour[3] != 1) c.push_back(s.colour[3]);
        Json j{{"at", s.at}, {"colour", c}};
        if (!s.between.empty()) j["between"] = s.between;
        return j;
      });
    }
    Json operator()(const Points& points) const {
      return list_json(points, [](const CurvePoint& p) { return Json{p.x, p.y}; });
    }
    Json operator()(const Strokes& strokes) const {
      return list_json(strokes.all, [](const HandStrokePtr& s) { return stroke_json(*s); });
    }
    Json operator()(const Formula& f) const { return {{"formula", f.text}}; }
    Json operator()(const Follow& f) const { return {{"follow", f.value}}; }
    Json operator()(const Rule& r) const { return {{"rule", rule_json(r)}}; }
  };
  return std::visit(Writer{}, value);
}

Result<Material> read_material(std::string_view text, std::vector<Error>* warnings) {
  auto json = parse(text);
  if (!json) return json.error();
  Json tree = std::move(json).value();
  return guarded([&] { return material_from(tree, warnings); });
}

std::string write_material(const Material& material) {
  std::string out;
  print(material_json(material), 0, out);
  return out + "\n";
}

namespace {

// The definitions that some nodes use, at any depth, in the document's order.
std::vector<std::shared_ptr<const Group>> groups_of(const Material& material, const std::vector<NodePtr>& nodes) {
  std::set<std::string> used;
  const std::function<void(const std::vector<NodePtr>&)> walk = [&](const std::vector<NodePtr>& all) {
    for (const NodePtr& n : all)
      if (n->is_group() && used.insert(n->group).second)
        if (const Group* g = material.group(n->group)) walk(g->nodes);
  };
  walk(nodes);
  std::vector<std::shared_ptr<const Group>> groups;
  for (const auto& g : material.groups)
    if (used.count(g->id)) groups.push_back(g);
  return groups;
}

}  // namespace

namespace {

// A bolt is found by its whole name, as a part may be put into a document of another folder.
NodePtr found_anywhere(const Material& material, const NodePtr& node) {
  if (!node->bolt || !material.files || material.files->folder.empty()) return node;
  auto whole = std::make_shared<Node>(*node);
  whole->bolt->file = (material.files->folder / node->bolt->file).lexically_normal().string();
  return whole;
}

}  // namespace

std::string write_snippet(const Material& material, const std::vector<std::string>& nodes) {
  const std::set<std::string> chosen(nodes.begin(), nodes.end());
  Material part;
  part.nodes.clear();
  std::set<std::string> lanes;
  for (const NodePtr& n : material.nodes)
    if (chosen.count(n->id)) part.nodes.push_back(found_anywhere(material, n)), lanes.insert(n->lane);
  for (const Thread& t : material.threads)
    if (chosen.count(t.from_node) && chosen.count(t.to_node)) part.threads.push_back(t);
  for (const Lane& l : material.lanes)
    if (lanes.count(l.id)) part.lanes.push_back(l);
  for (const auto& [node, note] : material.notes_on)
    if (chosen.count(node)) part.notes_on[node] = note;
  for (const auto& [slot, from] : material.hem)
    if (!material.inside && chosen.count(split_output(from).first)) part.hem[slot] = from;
  Json j{{"format", kFormat}, {"part", true}};
  write_graph(part, j);
  if (!part.hem.empty()) {
    j["hem"] = part.hem;
    if (!material.hem_values.empty()) j["hem_values"] = typed_json(material.hem_values);
  }
  if (const auto groups = groups_of(material, part.nodes); !groups.empty()) j["groups"] = list_json(groups, group_json);
  std::string out;
  print(j, 0, out);
  return out + "\n";
}

Result<Material> read_snippet(std::string_view text) {
  auto json = parse(text);
  if (!json) return json.error();
  Json tree = std::move(json).value();
  return guarded([&] {
    bring_up(tree, "clipboard");
    if (!tree.contains("part")) fail("clipboard", "holds no nodes", "Copy some nodes first");
    Material m;
    read_graph(tree, m, "", nullptr);
    read_hems(tree, m);
    read_groups(tree, m, nullptr);
    return m;
  });
}

}  // namespace loom
