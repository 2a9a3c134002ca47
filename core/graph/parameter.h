// The description of a parameter, and the builders that node files write it with:
//   scalar("radius", "Radius", 0.01).share_of_tile().useful(0, 0.1).column("Blur").help("How wide it is blurred.")
#pragma once
#include <string>
#include <utility>
#include <vector>

#include "core/graph/value.h"

namespace loom {

/// Lengths in the world are kept in metres; `millimetres` is how some of them are shown.
enum class Unit { none, count, share_of_tile, share_of_period, share, degrees, times, metres, millimetres };
enum class ParameterKind { scalar, integer, toggle, vector2, colour, choice, text, file, formula, stops, points, seed };

struct Limits {
  double least = 0, most = 1;
};

/// A parameter acts where `formula` (over the node's own parameters, with connected(peg)) is not 0; empty: always.
struct ActsWhen {
  std::string formula;
  std::string reason;  ///< why it does not, for the person
};

struct Parameter {
  std::string id, label;
  ParameterKind kind = ParameterKind::scalar;
  Unit unit = Unit::none;
  ParamValue initial = 0.0;
  Limits useful{0, 1};                 ///< what a slider spans
  Limits limits{-1e6, 1e6};            ///< what is accepted
  std::string column{};                ///< its column in the tray
  std::vector<std::string> options{};  ///< of a choice; of a file: the endings that it may have
  ActsWhen acts{};
  bool per_unit = false;        ///< takes rules and formulas over units
  std::string help{};           ///< one sentence
  std::string left{}, right{};  ///< of points: what the curve's ends are
};

/// What a parameter is made with. Nothing said: no unit, 0 to 1, always acting.
class ParameterBuilder {
 public:
  ParameterBuilder(ParameterKind kind, std::string id, std::string label, ParamValue initial) {
    p_.kind = kind, p_.id = std::move(id), p_.label = std::move(label), p_.initial = std::move(initial);
    p_.limits = p_.useful;
  }
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
  ParameterBuilder& useful(double least, double most) {
    p_.useful = {least, most};
    if (!limited_) p_.limits = p_.useful;
    return *this;
  }
  ParameterBuilder& limits(double least, double most) {
    limited_ = true;
    p_.limits = {least, most};
    return *this;
  }
  ParameterBuilder& column(std::string name) { return p_.column = std::move(name), *this; }
  ParameterBuilder& help(std::string sentence) { return p_.help = std::move(sentence), *this; }
  ParameterBuilder& acts_when(ActsWhen acts) { return p_.acts = std::move(acts), *this; }
  ParameterBuilder& acts_when(std::string formula, std::string reason) {
    return acts_when({std::move(formula), std::move(reason)});
  }
  /// Takes rules and formulas over units.
  ParameterBuilder& per_unit() { return p_.per_unit = true, *this; }
  ParameterBuilder& options(std::vector<std::string> words) { return p_.options = std::move(words), *this; }
  /// What the two ends of a curve are.
  ParameterBuilder& ends(std::string left, std::string right) {
    return p_.left = std::move(left), p_.right = std::move(right), *this;
  }
  /// The value of a peg of the same name while nothing is connected there.
  ParameterBuilder& stands_in() { return stands_in("connected(" + p_.id + ") == 0", "It comes in at its peg."); }
  ParameterBuilder& stands_in(std::string formula, std::string reason) {
    return acts_when(std::move(formula), std::move(reason))
        .help("The value that stands in while nothing is connected at its peg.");
  }

 private:
  ParameterBuilder& unit(Unit u) { return p_.unit = u, *this; }
  Parameter p_;
  bool limited_ = false;
};

inline ParameterBuilder scalar(std::string id, std::string label, ParamValue initial) {
  return {ParameterKind::scalar, std::move(id), std::move(label), std::move(initial)};
}
inline ParameterBuilder integer(std::string id, std::string label, int initial) {
  return {ParameterKind::integer, std::move(id), std::move(label), static_cast<double>(initial)};
}
inline ParameterBuilder toggle(std::string id, std::string label, bool initial = false) {
  return {ParameterKind::toggle, std::move(id), std::move(label), initial ? 1.0 : 0.0};
}
inline ParameterBuilder vector2(std::string id, std::string label, double u, double v) {
  return {ParameterKind::vector2, std::move(id), std::move(label), Vector{u, v}};
}
inline ParameterBuilder vector2(std::string id, std::string label, ParamValue initial) {
  return {ParameterKind::vector2, std::move(id), std::move(label), std::move(initial)};
}
/// Linear light; or three numbers.
inline ParameterBuilder colour(std::string id, std::string label, Vector initial) {
  return {ParameterKind::colour, std::move(id), std::move(label), std::move(initial)};
}
/// Starts at the first option, unless another is named.
inline ParameterBuilder choice(std::string id, std::string label, std::vector<std::string> options,
                               std::string initial = {}) {
  if (initial.empty() && !options.empty()) initial = options.front();
  return ParameterBuilder(ParameterKind::choice, std::move(id), std::move(label), std::move(initial))
      .options(std::move(options));
}
inline ParameterBuilder text(std::string id, std::string label, std::string initial) {
  return {ParameterKind::text, std::move(id), std::move(label), std::move(initial)};
}
inline ParameterBuilder file(std::string id, std::string label, std::vector<std::string> endings) {
  return ParameterBuilder(ParameterKind::file, std::move(id), std::move(label), std::string())
      .options(std::move(endings));
}
inline ParameterBuilder formula(std::string id, std::string label, std::string initial) {
  return {ParameterKind::formula, std::move(id), std::move(label), std::move(initial)};
}
inline ParameterBuilder stops(std::string id, std::string label, Stops initial) {
  return {ParameterKind::stops, std::move(id), std::move(label), std::move(initial)};
}
/// A curve; without points of its own it is straight.
inline ParameterBuilder points(std::string id, std::string label) {
  return {ParameterKind::points, std::move(id), std::move(label), Points{}};
}
/// The stored seed of a node that reads chance.
inline ParameterBuilder seed(std::string column) {
  return ParameterBuilder(ParameterKind::seed, "seed", "Seed", 1.0)
      .useful(0, 999)
      .limits(0, 1e9)
      .column(std::move(column))
      .help("Another number draws other chances; the same number gives the same picture again.");
}

}  // namespace loom
