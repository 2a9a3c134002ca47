#include "core/bolt/bring_in.h"

#include <algorithm>

#include "core/graph/files.h"
#include "core/graph/hem.h"
#include "core/graph/imprint.h"

namespace loom {
namespace {

constexpr const char* kChannelPegs[] = {"first", "second", "third", "fourth"};
// Rows of what stands below the pictures.
constexpr int kSplitRow = 1, kTurnedRow = 2, kCordRow = 3, kTransformRow = 4, kOpenRow = 5;

std::string label_of_slot(const std::string& slot) {
  const Slot* s = known_slot(slot);
  return s ? std::string(s->label) : slot;
}
bool holds_colours(const std::string& slot) { return slot == "base_colour" || slot == "emissive"; }
bool is_normal(const ImportedMap& map) { return map.slot == "normal" && map.channel < 0; }

std::string peg(const std::string& node, const char* peg) { return node + "." + peg; }

// The Make set that the output ends in; empty: none.
std::string cord_of(const Material& m, const std::string& output) {
  const auto [node, from] = split_output(output);
  for (const Thread& t : m.threads)
    if (t.from_node == node && t.from_peg == from)
      if (const Node* to = m.node(t.to_node); to && to->type == "make_set") return to->id;
  return {};
}

bool is_read(const Material& m, const std::string& node) {
  bool read = std::any_of(m.threads.begin(), m.threads.end(), [&](const Thread& t) { return t.from_node == node; });
  each_hem(m, [&](const std::string&, const auto& hem, const auto&) {
    for (const auto& [slot, output] : hem) read |= split_output(output).first == node;
  });
  return read;
}

// Whatever reads the one output reads the other.
void redirect(Material& m, const std::string& was, const std::string& now) {
  const auto [node, from] = split_output(was);
  const auto [other, other_peg] = split_output(now);
  for (Thread& t : m.threads)
    if (t.from_node == node && t.from_peg == from) t.from_node = other, t.from_peg = other_peg;
  each_hem(m, [&](const std::string&, auto& hem, const auto&) {
    for (auto& [slot, output] : hem)
      if (output == was) output = now;
  });
}

// Makes the nodes of maps in one lane, a column a file.
class Bringer {
 public:
  Bringer(Material m, const Catalogue& catalogue, const FileNaming& named, std::string lane)
      : m_(std::move(m)), catalogue_(catalogue), named_(named), lane_(std::move(lane)) {}

  Material& material() { return m_; }
  const std::vector<std::string>& fresh() const { return fresh_; }

  std::string add(const char* type, int column, int row, const std::string& name = {}) {
    std::string id;
    m_ = edit::add_node(std::move(m_), catalogue_, type, lane_, column, row, &id);
    if (!name.empty()) m_ = edit::rename_node(std::move(m_), id, name);
    fresh_.push_back(id);
    return id;
  }

  std::string read(const ImportedMap& map, int column, int row) {
    const std::string name = map.channel < 0 ? label_of_slot(map.slot) : "Packed";
    const std::string id = add(is_normal(map) ? "normal_map" : "image", column, row, name);
    set(id, "file", named_(map.file));
    if (is_normal(map)) {
      if (map.green_down) set(id, "green", std::string("down"));
    } else {
      set(id, "fit", std::string("stretched"));
      if (!holds_colours(map.slot)) set(id, "colour_space", std::string("linear"));
    }
    return id;
  }

  // Where the slot's map stands.
  std::string output(const ImportedMap& map) {
    if (is_normal(map)) return peg(read(map, column_++, 0), "normal");
    std::string& picture = pictures_[{map.file, map.channel >= 0}];  // a packed file is read once
    if (picture.empty()) picture = read(map, column_++, 0);
    std::string from = peg(picture, "colour");
    if (map.channel >= 0) from = peg(split_of(picture), kChannelPegs[map.channel]);
    return map.inverted ? turned(from, m_.node(picture)->column) : from;
  }

  void start_at(int column) { column_ = column; }

 private:
  void set(const std::string& node, const char* param, const std::string& value) {
    m_ = edit::set_param(std::move(m_), node, param, value);
  }
  const std::string& split_of(const std::string& picture) {
    std::string& split = splits_[picture];
    if (split.empty()) {
      split = add("split_channels", m_.node(picture)->column, kSplitRow);
      m_ = edit::connect(std::move(m_), {picture, "colour", split, "source"});
    }
    return split;
  }
  std::string turned(const std::string& from, int column) {
    const std::string turned = add("invert", column, kTurnedRow);
    const auto [node, peg_from] = split_output(from);
    m_ = edit::connect(std::move(m_), {node, peg_from, turned, "value"});
    return peg(turned, "value");
  }

  Material m_;
  const Catalogue& catalogue_;
  const FileNaming& named_;
  std::string lane_;
  int column_ = 0;
  std::vector<std::string> fresh_;
  std::map<std::pair<std::filesystem::path, bool>, std::string> pictures_;
  std::map<std::string, std::string> splits_;
};

// The cord of the outputs, through one Transform if it is wanted: where the set then stands.
std::string cord_from(Bringer& bringer, const std::map<std::string, std::string>& outputs, const BringIn& how) {
  const std::string cord = bringer.add("make_set", 0, kCordRow);
  for (const auto& [slot, output] : outputs) {
    const auto [node, from] = split_output(output);
    bringer.material() = edit::connect(std::move(bringer.material()), {node, from, cord, slot});
  }
  if (!how.one_transform) return cord;
  const std::string transform = bringer.add("transform", 0, kTransformRow);
  bringer.material() = edit::connect(std::move(bringer.material()), {cord, "set", transform, "source"});
  return transform;
}

// Whether all that the old node gives comes in the same way from one file of the new set.
bool same_form(const Material& m, const SetOnBoard& old, const std::string& node, const ImportPlan& plan) {
  const Node* n = m.node(node);
  const ImportedMap* first = nullptr;
  for (const auto& [slot, was] : old.maps) {
    if (was.node != node) continue;
    const auto now =
        std::find_if(plan.maps.begin(), plan.maps.end(), [&, s = slot](const auto& x) { return x.slot == s; });
    if (now == plan.maps.end() || now->channel != was.channel || now->inverted != was.inverted) return false;
    if (is_normal(*now) != (n->type == "normal_map")) return false;
    if (first && first->file != now->file) return false;
    first = &*now;
  }
  return first != nullptr;
}

void read_instead(Material& m, const std::string& node, const ImportedMap& map, const FileNaming& named) {
  m = edit::set_param(std::move(m), node, "file", named(map.file));
  if (is_normal(map)) m = edit::set_param(std::move(m), node, "green", std::string(map.green_down ? "down" : "up"));
}

// The nodes that stood between a file and its slots, as far as nothing reads them any more.
Material without_unread(Material m, const SetOnBoard::Map& was) {
  std::vector<std::string> chain{split_output(was.output).first, was.node};
  for (const Thread& t : m.threads)
    if (t.from_node == was.node && m.node(t.to_node)->type == "split_channels")
      chain.insert(chain.end() - 1, t.to_node);
  for (const std::string& id : chain)
    if (m.node(id) && !is_read(m, id)) m = edit::remove_nodes(std::move(m), {id});
  return m;
}

// A map that the old set lacks.
void add_to(Material& m, const SetOnBoard& old, const std::string& slot, const std::string& output) {
  const auto [node, from] = split_output(output);
  for (const auto& [other, map] : old.maps)
    if (const std::string cord = cord_of(m, map.output); !cord.empty()) {
      const bool taken = std::any_of(m.threads.begin(), m.threads.end(),
                                     [&](const Thread& t) { return t.to_node == cord && t.to_peg == slot; });
      if (!taken) m = edit::connect(std::move(m), {node, from, cord, slot});
      return;
    }
  if (!m.hem.count(slot)) m = edit::set_hem(std::move(m), slot, output);
}

std::optional<SetOnBoard::Map> found_behind(const Material& m, const Node& n, const NamedAs& as, int channel) {
  const auto reads = [&](const std::string& output, const char* type) -> const Node* {
    const auto [node, from] = split_output(output);
    for (const Thread& t : m.threads)
      if (t.from_node == node && t.from_peg == from)
        if (const Node* to = m.node(t.to_node); to && to->type == type) return to;
    return nullptr;
  };
  std::string output = peg(n.id, n.type == "normal_map" ? "normal" : "colour");
  if (channel >= 0) {
    const Node* split = reads(output, "split_channels");
    if (!split) return {};
    output = peg(split->id, kChannelPegs[channel]);
  }
  SetOnBoard::Map map{n.id, channel, false, output};
  if (const Node* turned = as.inverted ? reads(output, "invert") : nullptr)
    map.inverted = true, map.output = peg(turned->id, "value");
  return map;
}

std::string file_of(const Node& n) {
  if (n.type != "image" && n.type != "normal_map") return {};
  const auto file = n.params.find("file");
  const auto* name = file == n.params.end() ? nullptr : std::get_if<std::string>(&file->second);
  return name ? *name : std::string();
}

}  // namespace

Material bring_in(Material m, const Catalogue& catalogue, const ImportPlan& plan, const FileNaming& named,
                  const BringIn& how, std::vector<std::string>* fresh) {
  std::string lane = how.lane;
  if (lane.empty()) m = edit::add_lane(std::move(m), plan.name, &lane);
  Bringer bringer(std::move(m), catalogue, named, lane);
  std::map<std::string, std::string> outputs;
  for (const ImportedMap& map : plan.maps) outputs[map.slot] = bringer.output(map);
  if (how.to == BringIn::To::cord || how.one_transform) {
    const std::string set = cord_from(bringer, outputs, how);
    if (how.to == BringIn::To::hem) {
      const std::string open = bringer.add("open_set", 0, kOpenRow);
      bringer.material() =
          edit::connect(std::move(bringer.material()), {set, how.one_transform ? "result" : "set", open, "set"});
      for (auto& [slot, output] : outputs) output = peg(open, slot.c_str());
    }
  }
  if (how.to == BringIn::To::hem)
    for (const auto& [slot, output] : outputs)
      bringer.material() = edit::set_hem(std::move(bringer.material()), slot, output);
  if (fresh) *fresh = bringer.fresh();
  return std::move(bringer.material());
}

Material imported(const ImportPlan& plan, const Catalogue& catalogue, const FileNaming& named) {
  Material m;
  m.name = plan.name;
  m.lanes = {{"maps", "Maps", 0}};
  return bring_in(std::move(m), catalogue, plan, named, {BringIn::To::hem, false, "maps"});
}

Material bring_picture(Material m, const Catalogue& catalogue, const ImportedMap& map, const FileNaming& named,
                       const edit::Placing& at, std::string* id) {
  Bringer bringer(std::move(m), catalogue, named, at.lane);
  *id = bringer.read(map, at.column, at.row);
  return std::move(bringer.material());
}

std::vector<SetOnBoard> sets_on(const Material& m) {
  std::vector<SetOnBoard> sets;
  std::map<std::pair<std::filesystem::path, std::string>, std::size_t> known;
  for (const NodePtr& n : m.nodes) {
    const std::filesystem::path file = file_of(*n);
    const auto as = file.empty() ? std::nullopt : named_as(file.stem().string());
    if (!as) continue;
    const auto [at, fresh] = known.emplace(std::pair{file.parent_path(), as->set}, sets.size());
    if (fresh) sets.push_back({as->set, {}});
    const auto take = [&](const std::string& slot, int channel) {
      if (slot.empty() || sets[at->second].maps.count(slot)) return;
      if (auto map = found_behind(m, *n, *as, channel)) sets[at->second].maps[slot] = *map;
    };
    if (as->channels.empty()) take(as->slot, -1);
    for (std::size_t c = 0; c < as->channels.size(); ++c) take(as->channels[c], static_cast<int>(c));
  }
  std::erase_if(sets, [](const SetOnBoard& set) { return set.maps.size() < 2; });
  return sets;
}

Material exchange_set(Material m, const Catalogue& catalogue, const SetOnBoard& old, const ImportPlan& plan,
                      const FileNaming& named) {
  const std::string lane = m.node(old.maps.begin()->second.node)->lane;
  int column = 0;
  for (const NodePtr& n : m.nodes)
    if (n->lane == lane) column = std::max(column, n->column + 1);
  Bringer bringer(std::move(m), catalogue, named, lane);
  bringer.start_at(column);
  const Material before = bringer.material();  // what `same_form` looks at
  for (const ImportedMap& map : plan.maps) {
    Material& now = bringer.material();
    const auto was = old.maps.find(map.slot);
    if (was != old.maps.end() && same_form(before, old, was->second.node, plan)) {
      read_instead(now, was->second.node, map, named);
      continue;
    }
    const std::string output = bringer.output(map);
    if (was == old.maps.end()) {
      add_to(now, old, map.slot, output);
      continue;
    }
    redirect(now, was->second.output, output);
    now = without_unread(std::move(now), was->second);
  }
  return std::move(bringer.material());
}

}  // namespace loom
