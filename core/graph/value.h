// What a parameter may hold.
#pragma once
#include <array>
#include <map>
#include <string>
#include <variant>
#include <vector>

#include "core/plane/stroke.h"

namespace loom {

struct Formula {
  std::string text;
  std::map<std::string, double>
      bound;  ///< values of the material that it names; filled in for evaluation, never stored
  friend bool operator==(const Formula&, const Formula&) = default;
};

/// The parameter is the material's value of this identifier.
struct Follow {
  std::string value;
  friend bool operator==(const Follow&, const Follow&) = default;
};

/// One end of a rule: a number, or a value that it follows.
struct RuleEnd {
  double number = 0;
  std::string follow;
  friend bool operator==(const RuleEnd&, const RuleEnd&) = default;
};

/// How a parameter varies from unit to unit. Each `by` is an equation in docs/format.md.
struct Rule {
  std::string by = "chance";
  RuleEnd from, to;
  double seed = 1;
  double every = 2, offset = 0;  ///< of "nth"
  std::string over = "units";    ///< what "nth" counts: units, courses, columns
  std::string map = "map_a";     ///< of "map"
  friend bool operator==(const Rule&, const Rule&) = default;
};

struct ColourStop {
  double at = 0;
  std::array<double, 4> colour{0, 0, 0, 1};  ///< linear Rec. 709, straight alpha
  std::string between{};                     ///< how it goes on to the next: smooth, straight, stepped; empty: as all
  friend bool operator==(const ColourStop&, const ColourStop&) = default;
};

struct CurvePoint {
  double x = 0, y = 0;
  friend bool operator==(const CurvePoint&, const CurvePoint&) = default;
};

using Vector = std::vector<double>;
using Stops = std::vector<ColourStop>;
using Points = std::vector<CurvePoint>;
/// A number; a vector or colour; a word of a choice or a text; stops; points; strokes; or something that gives a value.
using ParamValue = std::variant<double, Vector, std::string, Stops, Points, Strokes, Formula, Follow, Rule>;

/// The words of `Rule::by`, in the order in which they are offered.
inline constexpr std::array kRuleWords = {"chance", "bell", "course", "column", "chequer",
                                          "nth",    "size", "order",  "map"};
/// The words of `Rule::over`.
inline constexpr std::array kCountedWords = {"units", "courses", "columns"};

}  // namespace loom
