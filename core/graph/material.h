// The document as plain values. Copying a material shares its nodes, so every state can be kept.
#pragma once
#include <cstdint>
#include <map>
#include <memory>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/kind.h"
#include "core/graph/delivery_list.h"
#include "core/graph/files.h"
#include "core/graph/imprint.h"
#include "core/graph/measures.h"
#include "core/graph/parameter.h"

// Made once, in json.cpp, not in every file that holds a value.
extern template class nlohmann::basic_json<>;

namespace loom {

using Json = nlohmann::json;

/// The types of nodes that stand for a definition: a group of the document, or a bolt.
inline constexpr const char *kGroupType = "group", *kBoltType = "bolt";

/// A bolt that is used as one node: which, and where it lies.
struct BoltReference {
  std::string id, version;
  std::string sha256;  ///< of `material.loom` as packed
  std::string file;    ///< as the names of other files
  friend bool operator==(const BoltReference&, const BoltReference&) = default;

  /// Under which its definition is found in Material::bolts.
  std::string key() const { return "bolt:" + sha256; }
};

struct Node {
  std::string id, type;
  std::string name;  ///< given by the artist; empty: the type's label
  std::string lane;
  int row = 0, column = 0;  ///< place within the lane
  bool bypass = false;
  std::string group;  ///< of a group or a bolt: its definition's identifier, as Material::group takes it
  std::optional<BoltReference> bolt{};
  std::map<std::string, ParamValue> params;
  Json extra = Json::object();  ///< keys this version does not know

  /// Whether it stands for a definition.
  bool is_group() const { return type == kGroupType || type == kBoltType; }
  bool is_bolt() const { return type == kBoltType; }
};
using NodePtr = std::shared_ptr<const Node>;
/// What a parameter follows; null: it stands for itself.
const Follow* followed(const Node& node, std::string_view param);

/// `from` is an output, `to` an input, both NODE.PEG. `channel` picks one of a colour for a scalar peg; -1: luminance.
struct Thread {
  std::string from_node, from_peg, to_node, to_peg;
  int channel = -1;
  bool alias = false;  ///< shown by the output's name beside the peg, not as a line across the board
  friend bool operator==(const Thread&, const Thread&) = default;
};

struct Lane {
  std::string id, name;
  int tint = 0;
  bool collapsed = false;
  Json extra = Json::object();
};

/// What is not said here is as with the parameters that follow.
struct Dial {
  std::string label, group, help;
  double least = 0, most = 1;  ///< what its slider spans
  ParamValue at_start = 0.0;
  /// Of a number: scalar, integer, toggle or seed. A parameter that follows it may make more of a scalar: a choice, a
  /// colour.
  ParameterKind kind = ParameterKind::scalar;
  std::optional<Unit> unit{};
  std::optional<Limits> limits{};  ///< what is accepted; never more than the parameters take
  double step = 0;                 ///< from one setting to the next; 0: any
  ActsWhen acts{};                 ///< over the values of the document, see core/graph/offered.h
  Json extra = Json::object();
  friend bool operator==(const Dial&, const Dial&) = default;
};

/// A shared value; with a dial it is offered to the user. It may hold a formula over other values
/// (core/graph/worked_values.h).
struct Value {
  std::string id;
  ParamValue value = 0.0;
  std::optional<Dial> dial;
  Json extra = Json::object();
};

/// A named band across all lanes, from this row to the next stage's.
struct Stage {
  std::string name;
  int row = 0;
};

struct Preset {
  std::string name;
  std::map<std::string, ParamValue> values;
  Json extra = Json::object();
};

/// A named end of a group: an input feeds pegs inside, an output comes from one.
struct GroupPeg {
  std::string id, label, kind;
  std::vector<std::string> to;                 ///< NODE.PEG inside, for inputs
  std::string from;                            ///< NODE.PEG inside, for outputs
  std::map<std::string, ParamValue> params{};  ///< of an input, see core/graph/inputs.h
};

/// A place that a thread is led through, in cells of a lane: whole numbers are the corners of its tags.
struct Guide {
  std::string lane;
  double column = 0, row = 0;
  friend bool operator==(const Guide&, const Guide&) = default;
};
using Guides = std::map<std::string, std::vector<Guide>>;  ///< by the peg in which the thread ends, NODE.PEG

using Notes = std::map<std::string, std::string>;  ///< by node: what is written beside it

/// What a bolt brings beside its graph.
struct OfBolt {
  BoltReference reference;  ///< its file left empty
  Measures measures;
  std::int64_t seed = 1;
  std::vector<Preset> presets;
};

/// The definition behind nodes that stand for several: a group of the document, or a bolt.
struct Group {
  std::string id, name, help;
  std::shared_ptr<const OfBolt> of_bolt{};  ///< null: a group of the document
  std::vector<Lane> lanes;
  std::vector<NodePtr> nodes;
  std::vector<Thread> threads;
  std::vector<GroupPeg> inputs, outputs;
  std::vector<Value> values;
  std::vector<Stage> stages;
  Notes notes_on;
  Guides guides;
  Json extra = Json::object();
};

/// What one part of a mesh wears instead of the hem of all.
struct PartHem {
  std::map<std::string, std::string> hem;        ///< as of Material
  std::map<std::string, ParamValue> hem_values;  ///< as of Material
};

struct Material {
  // Out of line: whoever holds one would else hold a copy of each.
  Material();
  ~Material();
  Material(const Material&);
  Material(Material&&) noexcept;
  Material& operator=(const Material&);
  Material& operator=(Material&&) noexcept;

  std::string name = "Untitled";
  std::string notes;  ///< for whoever uses it, in Markdown
  Imprint imprint;
  double tile_metres = 1.0, relief_metres = 0.02;
  std::string shape, mesh;  ///< on which it is shown: the name of a shape, or a file; both empty: as one likes
  std::int64_t seed = 1;
  std::vector<Lane> lanes;
  std::vector<NodePtr> nodes;
  std::vector<Thread> threads;
  std::map<std::string, std::string> hem;        ///< slot -> NODE.PEG
  std::map<std::string, ParamValue> hem_values;  ///< typed, for slots without a thread: numbers and colours
  std::map<std::string, PartHem> part_hems;      ///< by the name of the mesh's part: those that have their own
  std::vector<Value> values;
  std::vector<Preset> presets;
  std::vector<DeliveryList> lists;
  std::vector<std::shared_ptr<const Group>> groups;
  /// Definitions of the bolts in use and of all that these hold, by Node::group; core/bolt/bolt_node.h finds them. Not
  /// written.
  std::map<std::string, std::shared_ptr<const Group>, std::less<>> bolts;
  std::vector<Stage> stages;
  Notes notes_on;
  Guides guides;
  std::map<std::string, std::string> marks;  ///< letter -> NODE.PEG, within groups INSTANCE/NODE.PEG
  Json extra = Json::object();
  std::shared_ptr<const FileRoot> files;  ///< where it came from; not written. Null: only absolute names are found
  std::shared_ptr<const Group>
      inside;  ///< of a group's inside shown as a material (edit::inside_of): the group; not written

  const Node* node(std::string_view id) const;
  const Value* value(std::string_view id) const;
  const Group* group(std::string_view id) const;
  /// The definition of a node that is a group; null for any other.
  const Group* group_of(const Node& node) const { return node.is_group() ? group(node.group) : nullptr; }
  const Lane* lane(std::string_view id) const;
  /// The thread that ends in this peg, if any.
  const Thread* into(std::string_view node, std::string_view peg) const;
};

/// The type of the nodes that stand for inputs: those of a group while its inside is shown as a material, and those of
/// a material, which it has where it is used as one node.
inline constexpr const char* kComesIn = "input";

/// Splits NODE.PEG; both empty if there is no point in it.
std::pair<std::string, std::string> split_output(std::string_view text);

/// The hem's fixed slots in their order, with caption, kind, encoding and default.
/// The value behind a parameter: its own, `initial` where it has none, or the one that it follows; null where that is
/// not there.
const ParamValue* plain_value(const Material& material, const Node& node, std::string_view param,
                              const ParamValue& initial);

struct Slot {
  std::string_view id, label, section;  ///< section: of the tray
  int channels;                         ///< 1 to 3; two are a direction on the tile
  bool srgb;                            ///< encoded as sRGB on delivery
  float fallback[3];                    ///< what an empty slot means
  float least = 0, most = 1;            ///< what a slider spans
};
const std::vector<Slot>& hem_slots();
const Slot* hem_slot(std::string_view id);
/// Slots that stand in no hem until they are asked for by name or hold a value, and are lit all the same, under the
/// names of the open PBR surface of MaterialX 1.39.
const std::vector<Slot>& further_slots();
/// Of both; null for a slot of the artist's own.
const Slot* known_slot(std::string_view id);
/// The kind that a slot takes; any other name takes what comes.
Kind slot_kind(std::string_view id);

}  // namespace loom
