// The description of a parameter, and the builders that node files write it with:
//   scalar("radius", "Radius", 0.01).share_of_tile().useful(0, 0.1).column("Blur").help("How wide it is blurred.")
#pragma once
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/graph/value.h"

namespace loom {

/// Lengths in the world are kept in metres; `millimetres` is how some of them are shown.
enum class Unit { none, count, share_of_tile, share_of_period, share, degrees, times, metres, millimetres };
enum class ParameterKind {
  scalar,
  integer,
  toggle,
  vector2,
  colour,
  choice,
  text,
  figure,  ///< a text: shapes as a small SVG drawing, see core/io/figure_shapes.h
  file,
  formula,
  stops,
  points,
  strokes,
  seed
};

/// As the catalogue and documents name it: "none", "share of the tile", "degrees" ...
std::string_view unit_name(Unit unit);
std::optional<Unit> unit_from_name(std::string_view name);

/// What of the mesh that is shown a text names: it can be taken from a list.
enum class NameOf { nothing, part, attribute };

struct Limits {
  double least = 0, most = 1;
  friend bool operator==(const Limits&, const Limits&) = default;
};

/// A parameter acts where `formula` (over the node's own parameters, with connected(peg)) is not 0; empty: always.
struct ActsWhen {
  std::string formula;
  std::string reason;  ///< why it does not, for the person
  friend bool operator==(const ActsWhen&, const ActsWhen&) = default;
};

struct Parameter {
  // Out of line: every node file makes them, and would else hold a copy of each.
  Parameter();
  ~Parameter();
  Parameter(const Parameter&);
  Parameter(Parameter&&) noexcept;
  Parameter& operator=(const Parameter&);
  Parameter& operator=(Parameter&&) noexcept;

  std::string id, label;
  ParameterKind kind = ParameterKind::scalar;
  Unit unit = Unit::none;
  ParamValue initial = 0.0;
  Limits useful{0, 1};                 ///< what a slider spans
  Limits limits{-1e6, 1e6};            ///< what is accepted
  double step = 0;                     ///< from one setting to the next; 0: any
  std::string column{};                ///< its column in the tray
  std::vector<std::string> options{};  ///< of a choice; of a file: the endings that it may have
  ActsWhen acts{};
  bool asked = false;  ///< a choice that is asked for when the node is made
  NameOf names = NameOf::nothing;
  bool titles = false;          ///< a text: what its column is called by the person; one line
  bool per_unit = false;        ///< takes rules and formulas over units
  std::string help{};           ///< one sentence
  std::string left{}, right{};  ///< of points: what the curve's ends are
};

/// What a parameter is made with. Nothing said: no unit, 0 to 1, always acting.
class ParameterBuilder {
 public:
  ParameterBuilder(ParameterKind kind, std::string id, std::string label, ParamValue initial);
  operator Parameter() const { return p_; }

  ParameterBuilder& count() { return unit(Unit::count); }
  ParameterBuilder& share_of_tile() { return unit(Unit::share_of_tile); }
  ParameterBuilder& share_of_period() { return unit(Unit::share_of_period); }
  ParameterBuilder& share() { return unit(Unit::share); }
  ParameterBuilder& degrees() { return unit(Unit::degrees); }
  ParameterBuilder& times() { return unit(Unit::times); }
  ParameterBuilder& metres() { return unit(Unit::metres); }
  ParameterBuilder& millimetres() { return unit(Unit::millimetres); }
  /// What a slider spans, and what is accepted where no limits are given.
  ParameterBuilder& useful(double least, double most);
  ParameterBuilder& limits(double least, double most);
  ParameterBuilder& column(std::string_view name);
  ParameterBuilder& help(std::string_view sentence);
  ParameterBuilder& acts_when(ActsWhen acts);
  ParameterBuilder& acts_when(std::string_view formula, std::string_view reason);
  /// Takes rules and formulas over units.
  ParameterBuilder& per_unit();
  ParameterBuilder& options(std::vector<std::string> words);
  /// Of a text: what it names.
  ParameterBuilder& names(NameOf what);
  /// Of a text: it is what the person calls its column.
  ParameterBuilder& titles();
  /// Is asked for when the node is made.
  ParameterBuilder& asked();
  /// What the two ends of a curve are.
  ParameterBuilder& ends(std::string_view left, std::string_view right);
  /// The value of a peg of the same name while nothing is connected there.
  ParameterBuilder& stands_in();
  ParameterBuilder& stands_in(std::string_view formula, std::string_view reason);

 private:
  ParameterBuilder& unit(Unit u);
  Parameter p_;
  bool limited_ = false;
};

ParameterBuilder scalar(std::string_view id, std::string_view label, ParamValue initial);
/// Any number, which stands in for the peg of the same name while nothing is connected there.
ParameterBuilder stand_in(std::string_view id, std::string_view label, double initial, std::string_view column);
ParameterBuilder integer(std::string_view id, std::string_view label, int initial);
ParameterBuilder toggle(std::string_view id, std::string_view label, bool initial = false);
ParameterBuilder vector2(std::string_view id, std::string_view label, double u, double v);
ParameterBuilder vector2(std::string_view id, std::string_view label, ParamValue initial);
/// Linear light; or three numbers.
ParameterBuilder colour(std::string_view id, std::string_view label, Vector initial);
/// Starts at the first option, unless another is named.
ParameterBuilder choice(std::string_view id, std::string_view label, std::vector<std::string> options,
                        std::string_view initial = {});
ParameterBuilder figure(std::string_view id, std::string_view label, std::string_view initial);
ParameterBuilder text(std::string_view id, std::string_view label, std::string_view initial);
ParameterBuilder file(std::string_view id, std::string_view label, std::vector<std::string> endings);
ParameterBuilder formula(std::string_view id, std::string_view label, std::string_view initial);
ParameterBuilder stops(std::string_view id, std::string_view label, Stops initial);
/// A curve; without points of its own it is straight.
ParameterBuilder points(std::string_view id, std::string_view label);
/// What a hand draws; of the tile and of the shape.
ParameterBuilder strokes(std::string_view id, std::string_view label);
/// The stored seed of a node that reads chance.
ParameterBuilder seed(std::string_view column);

}  // namespace loom
