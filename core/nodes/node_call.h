// What a node's kernel is given: its parameters, its inputs, and where to put its outputs.
#pragma once
#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <set>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/stop.h"
#include "core/graph/files.h"
#include "core/graph/measures.h"
#include "core/graph/node_type.h"
#include "core/program/builder.h"

namespace loom {

/// Parameters with nothing left to follow: numbers, vectors, words, stops, points, per-unit formulas and rules.
using Resolved = std::map<std::string, ParamValue>;

/// What parameters of kind `file` name, or why it cannot be read; nothing where no file was chosen.
using NodeFiles = std::map<std::string, Result<FileBytes>, std::less<>>;

class NodeCall {
 public:
  /// `params` are not copied.
  NodeCall(const NodeType& type, const Resolved& params, std::uint64_t seed, int size, Measures measures,
           const NodeFiles* files = nullptr)
      : type_(type), params_(params), seed_(seed), size_(size), measures_(measures), files_(files) {}
  NodeCall(const NodeType&, Resolved&&, std::uint64_t, int, Measures, const NodeFiles* = nullptr) = delete;

  const NodeType& type() const { return type_; }
  const ParamValue& param(std::string_view id) const;
  double number(std::string_view id) const;
  float real(std::string_view id) const { return static_cast<float>(number(id)); }
  int integer(std::string_view id) const;
  bool toggle(std::string_view id) const { return number(id) != 0; }
  const std::string& word(std::string_view id) const;
  bool is(std::string_view id, std::string_view option) const { return word(id) == option; }
  Vector vector(std::string_view id) const;
  /// Null: no file was chosen.
  const Result<FileBytes>* file(std::string_view id) const;
  /// Instance seed, the node's stored seed and a name for the draw.
  std::uint64_t seed(std::string_view draw) const;
  int size() const { return size_; }
  const Measures& measures() const { return measures_; }

 private:
  const NodeType& type_;
  const Resolved& params_;
  std::uint64_t seed_;
  int size_;
  Measures measures_;
  const NodeFiles* files_;
};

/// The units of a laid pattern, before their sizes and turns are varied. One entry a unit in every list.
struct UnitSamples {
  std::vector<float> index, row, column, centre_u, centre_v, size_u, size_v, level, key;
  float rows = 1, columns = 1;
  std::size_t count() const { return index.size(); }
  void add(float at_row, float at_column, float u, float v, float wide, float tall, std::uint32_t unit_key);
};

class PlacesOfCoordinates;

class Emitter : public NodeCall {
 public:
  using Shelf = std::function<std::shared_ptr<const Resource>(const std::function<std::shared_ptr<const Resource>()>&)>;

  Emitter(const NodeCall& call, Builder& builder, std::map<std::string, Strands, std::less<>> inputs,
          std::map<std::string, Field, std::less<>> whole, Shelf shelf)
      : NodeCall(call), b(builder), inputs_(std::move(inputs)), whole_(std::move(whole)), shelf_(std::move(shelf)) {}

  Builder& b;
  Stop stop;  ///< polled by what lays large tables; a table that was broken off is not kept

  bool connected(std::string_view peg) const { return inputs_.count(peg) || whole_.count(peg); }
  /// Texels along a side of the maps that are made: for tables that need one, which are keyed by it. What is emitted
  /// must not depend on it.
  int resolution() const { return size(); }
  /// The input in its peg's kind; where nothing is connected, the parameter of the same name, else zeros
  /// (coordinates: the texel's own).
  Strands in(std::string_view peg);
  Reg scalar(std::string_view peg) { return in(peg).at[0]; }
  /// The same as another kind; where nothing is connected, what stands for nothing: a flat normal, no region, no map.
  Strands in_as(std::string_view peg, Kind kind);
  /// A whole input, or null where nothing is connected.
  const Field* whole(std::string_view peg) const;
  /// The pyramid of one strand of a whole input.
  std::shared_ptr<const Sampled> sampled(std::string_view peg, int strand);
  std::shared_ptr<const Sampled> sampled(const PlanePtr& plane);
  /// A whole input at another place, in shares of the tile: bilinear, from the level of a mean pyramid that fits
  /// `footprint`; regions by the nearest texel, as parts of their own with the keys they have; normals bent along, so
  /// that they are those of the height that is moved the same way; a cord map by map.
  Strands read_at(std::string_view peg, Reg u, Reg v, Reg footprint);
  /// The same of regions; none where `inside` is below one half.
  Strands read_regions(std::string_view peg, Reg u, Reg v, Reg inside);
  /// The same with normals as they are, for what is drawn smaller with its relief.
  Strands read_to_scale(std::string_view peg, Reg u, Reg v, Reg footprint);
  /// The place at the peg "coordinates"; where nothing is connected, the sample's own.
  struct Position {
    Reg u, v, footprint;
  };
  Position position();
  /// The same at a peg with slopes: how the coordinates turn and stretch is known too.
  Position position_with_slopes();
  /// The place in space at the peg "positions", which is connected.
  struct PositionInSpace {
    Reg x, y, z, footprint;
  };
  PositionInSpace position_in_space();
  /// The kind that the inputs at pegs of kind `any` have in common.
  Kind widest() const;

  void out(std::string_view peg, Reg value);
  void out(std::string_view peg, Strands value);
  /// Coordinates with the footprint that they have, where the method knows better than their slopes.
  void out_place(std::string_view peg, Reg u, Reg v, Reg footprint);
  std::map<std::string, Strands> outputs;

  /// A per-unit parameter for every unit: constant, by rule or by formula.
  std::vector<float> per_unit(std::string_view id, const UnitSamples& units) {
    return std::move(per_unit_lanes(id, units, 1)[0]);
  }
  /// The same for a vector; what gives one number counts for both of its lanes.
  std::vector<std::vector<float>> per_unit_vector(std::string_view id, const UnitSamples& units) {
    return per_unit_lanes(id, units, 2);
  }
  /// Whether a rule or a formula stands for it.
  bool varies(std::string_view id) const {
    return std::holds_alternative<Rule>(param(id)) || std::holds_alternative<Formula>(param(id));
  }
  /// The same at the unit of this sample: a constant, or read from a column.
  Reg each(std::string_view id, const UnitSamples& units, Reg unit);
  /// A table that is made once for a state of this node and its inputs.
  template <class T>
  std::shared_ptr<const T> laid(const std::function<std::shared_ptr<const T>()>& make) {
    return std::static_pointer_cast<const T>(shelf_([&]() -> std::shared_ptr<const Resource> { return make(); }));
  }
  /// If set, per-unit values are noted here by their parameter, for those who ask how they spread.
  std::map<std::string, std::vector<float>>* spreads = nullptr;
  /// A fault found while emitting, such as a formula that does not parse; the outputs are then zeros.
  std::optional<Error> fault;

 private:
  std::vector<std::vector<float>> per_unit_lanes(std::string_view id, const UnitSamples& units, std::size_t lanes);
  std::optional<Strands> formula_over_units(Builder& own, std::string_view id, const Formula& formula,
                                            const UnitSamples& units);
  /// Where on the tile each unit comes to lie: at its centre, unless the coordinates are bent.
  std::array<std::vector<float>, 2> where_they_lie(const UnitSamples& units);
  Reg map_where_it_lies(Builder& own, std::string_view peg);
  Strands moved(const Field& source, Reg u, Reg v, Reg footprint, bool to_scale = false);
  Strands moved_regions(const Field& source, Reg label, Reg u, Reg v);

  std::map<std::string, Strands, std::less<>> inputs_;
  std::map<std::string, Field, std::less<>> whole_;
  std::map<const Plane*, std::shared_ptr<const Sampled>> sampled_;
  std::shared_ptr<const PlacesOfCoordinates> bent_;
  Shelf shelf_;
  using NodeCall::size;
};

/// A finished value read at the samples of `b`.
Strands loaded(Builder& b, const Field& field);

/// Turns strands into another kind by the table of docs/format.md. `channel` picks a lane of a colour, -1: luminance.
Strands convert(Builder& b, const Strands& from, Kind to, int channel = -1);

class AreaCall : public NodeCall {
 public:
  AreaCall(const NodeCall& call, std::map<std::string, Field, std::less<>> inputs,
           std::set<std::string, std::less<>> wanted, Stop to_poll)
      : NodeCall(call), stop(std::move(to_poll)), inputs_(std::move(inputs)), wanted_(std::move(wanted)) {}
  const Stop stop;

  bool connected(std::string_view peg) const { return inputs_.count(peg) != 0; }
  const Field* in(std::string_view peg) const;
  /// Whether anyone reads this output: a kernel may skip one that nobody does.
  bool wanted(std::string_view peg) const { return wanted_.count(peg) != 0; }
  /// The first strand at a peg, or a plane filled with the parameter of the same name (else 0).
  PlanePtr plane(std::string_view peg) const;

  void out(std::string_view peg, Field field) { outputs[std::string(peg)] = std::move(field); }
  void out(std::string_view peg, Plane plane);
  std::map<std::string, Field> outputs;
  Result<Done> done() const { return stop.asked() ? Result<Done>(Error{"", "cancelled", ""}) : Result<Done>(Done{}); }

  /// For types that are made at the working size: their own outputs there, if this call is for another size.
  std::map<std::string, Field> at_working_size;

 private:
  std::map<std::string, Field, std::less<>> inputs_;
  std::set<std::string, std::less<>> wanted_;
};

}  // namespace loom
