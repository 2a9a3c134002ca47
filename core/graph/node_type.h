// The description of a node type, and the catalogue that holds them all.
#pragma once
#include <functional>
#include <limits>
#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/error.h"
#include "core/base/kind.h"
#include "core/graph/parameter.h"

namespace loom {

struct Node;
class NodeCall;
class Emitter;
class AreaCall;

enum class Rack { make, move, tone, edge, mix, measure, compute, mesh, finish };
inline constexpr std::array kRackLabels = {"Make",    "Move",    "Tone", "Edge",  "Mix",
                                           "Measure", "Compute", "Mesh", "Finish"};

/// What of the shape that wears a material a node asks for; the greater includes the less.
enum class SurfaceUse { none, shape, eye_or_light };

struct Peg {
  std::string id, label;
  Kind kind = Kind::scalar;
  /// Of an input: it is read away from its texel, as a finished plane.
  bool whole = false;
  /// A motif: its square is its own, not the tile.
  bool own_frame = false;
  /// A toggle; while it is on, the input is read whole. Or a formula; where it reads the peg elsewhere.
  std::string whole_when{};
  /// A formula over the node's parameters; while it is 0 and nothing is connected, the peg is not offered.
  std::string shown_when{};
  /// Coordinates: how wide a sample is in them is known, and matters.
  bool place = false;
  /// Of an input: how it changes from sample to sample is asked for.
  bool slopes = false;
  /// Coordinates of laid units: read whole while a rule or a formula over units reads a map, which is that at the place
  /// where a unit comes to lie.
  bool whole_for_maps = false;
};

/// An input that is read away from its texel, as a finished plane.
inline Peg whole_peg(std::string id, std::string label, Kind kind = Kind::scalar) {
  return {.id = std::move(id), .label = std::move(label), .kind = kind, .whole = true};
}

/// The same whose square is its own, not the tile: a motif.
inline Peg motif_peg(std::string id, std::string label) {
  Peg p = whole_peg(std::move(id), std::move(label));
  p.own_frame = true;
  return p;
}

/// A peg that takes or gives places: coordinates with the footprint they have, which is kept where they are stored.
inline Peg place_peg(std::string id, std::string label) {
  Peg p{std::move(id), std::move(label), Kind::vector2};
  p.place = true;
  return p;
}

/// The same where the node asks how the coordinates turn and stretch, not only how wide they are.
inline Peg place_peg_with_slopes(std::string id, std::string label) {
  Peg p = place_peg(std::move(id), std::move(label));
  p.slopes = true;
  return p;
}

/// Positions in space.
inline Peg positions_peg() {
  Peg p{"positions", "Positions", Kind::vector3};
  p.slopes = true;
  return p;
}

/// Parameters and pegs that come numbered, as the layers of a stack: NAME_1 to NAME_most for each name.
struct ItemList {
  std::string count;  ///< the parameter that counts them
  std::string noun;   ///< what one of them is called
  int most = 1;
  std::vector<std::string> parameters, pegs;  ///< the names without number
};

/// A parameter that can be dragged over the picture, in the frame of the tile: over the node's own, or over that of
/// what comes in at `peg`.
struct Handle {
  enum class Form {
    place,   ///< a vector: `origin` plus it is the place
    angle,   ///< degrees about a place
    radius,  ///< times `scale` is a length from a place
    line_u,  ///< a line across the tile at this u
    line_v,
    box,  ///< a vector: the two lengths of a box with its middle at a place, dragged by its corners and sides
  } form;
  std::string parameter;
  std::string about{};  ///< the vector parameter that an angle, a radius or a box goes about; empty: the tile's middle
  double origin = 0;    ///< of that place, or of one's own
  double scale = 1;
  std::string peg{};
  std::string turn{};  ///< of a box: the parameter that turns it, degrees
};

/// One type. A point function has `emit`; an area operation has `evaluate`.
struct NodeType {
  ~NodeType();  // out of line: every node file makes one, and would else hold a copy of it

  std::string id, label;
  Rack rack = Rack::make;
  std::string help;     ///< one sentence
  std::string more{};   ///< the mathematics and its source
  std::string words{};  ///< other words of the trade by which it is found
  std::vector<Peg> inputs, outputs;
  std::vector<Parameter> parameters;
  std::optional<ItemList> list{};
  std::vector<Handle> handles{};
  void (*emit)(Emitter&) = nullptr;
  Result<Done> (*evaluate)(AreaCall&) = nullptr;
  /// Of the outputs of any kind, where that is not the widest of what comes in; `of` gives the kind at a peg, a
  /// number's where nothing is connected.
  Kind (*gives)(const Node& node, const std::function<Kind(const std::string& peg)>& of) = nullptr;
  std::string (*note)(const NodeCall&) =
      nullptr;  ///< what became of its values, for the person; empty: nothing to tell
  /// What it does with regions, cords and normals at its pegs of kind `any`; all else goes strand by strand.
  bool takes_regions = false;  ///< as labels; else they are refused: what lies between two labels means nothing
  bool takes_sets = false;     ///< map by map; else a cord is refused
  bool keeps_normals = false;  ///< gives directions of length 1 for them; else they are vectors, and so is the result
  bool of_group = false;       ///< made for a group: its nodes inside say what they do with what comes in
  bool random = false;         ///< reads chance: the instance's seed counts
  bool follows_positions = false;  ///< periodic, but with a seam by nature
  SurfaceUse surface = SurfaceUse::none;
  bool costly = false;           ///< worth keeping rather than computing twice
  bool at_working_size = false;  ///< labels: made at the working size, other sizes inherit them
  /// Of an area operation: planes that it needs beside those that come in and go out. Admission counts on it.
  int working_planes = 2;
  int version = 1;

  const Peg* input(std::string_view peg) const { return find(inputs, peg); }
  const Peg* output(std::string_view peg) const { return find(outputs, peg); }
  /// Which item of the list a parameter belongs to, counted from 1; 0: none.
  int item_of(std::string_view parameter) const;
  int output_index(std::string_view peg) const {
    for (std::size_t i = 0; i < outputs.size(); ++i)
      if (outputs[i].id == peg) return static_cast<int>(i);
    return -1;
  }
  const Parameter* parameter(std::string_view wanted) const {
    for (const Parameter& p : parameters)
      if (p.id == wanted) return &p;
    return nullptr;
  }

 private:
  static const Peg* find(const std::vector<Peg>& pegs, std::string_view wanted) {
    for (const Peg& p : pegs)
      if (p.id == wanted) return &p;
    return nullptr;
  }
};

/// All node types, in the order of racks and labels.
class Catalogue {
 public:
  void add(const NodeType& type);
  const NodeType* find(std::string_view id) const {
    const auto it = types_.find(id);
    return it == types_.end() ? nullptr : &it->second;
  }
  std::vector<const NodeType*> all() const;

 private:
  std::map<std::string, NodeType, std::less<>> types_;
};

/// Of a node that holds strokes: the word of what is painted, mask, value or colour; empty: it holds none.
std::string painted_kind(const Node& node, const NodeType& type);

/// What a node asks for of the shape: what its type does; what was painted on the shape lies there.
SurfaceUse own_surface_use(const NodeType& type, const std::map<std::string, ParamValue>& params);

/// Why a thread of kind `from` may not end in this peg, with the mend; nothing where it may. `where` is left empty.
std::optional<Error> refusal(const NodeType& type, const Peg& peg, Kind from);

/// The kind that a type works in, where `kinds` come in at its pegs of kind `any`; a number's where nothing does.
/// Nothing where they have no common meaning, as a cord beside a number.
std::optional<Kind> common_kind(const NodeType& type, const std::vector<Kind>& kinds);

/// Whether a parameter acts now, given its node's plain numbers and which pegs are connected.
bool parameter_acts(const NodeType& type, const Parameter& parameter, const std::map<std::string, ParamValue>& params,
                    const std::function<bool(std::string_view)>& connected);

}  // namespace loom
