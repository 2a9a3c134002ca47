#include "core/graph/parameter.h"

#include <array>
#include <utility>

namespace loom {
namespace {

constexpr std::array<std::string_view, 9> kUnitNames = {
    "none", "count", "share of the tile", "share of a period", "share", "degrees", "times", "metres", "millimetres"};

}  // namespace

std::string_view unit_name(Unit unit) { return kUnitNames.at(static_cast<std::size_t>(unit)); }

std::optional<Unit> unit_from_name(std::string_view name) {
  for (std::size_t i = 0; i < kUnitNames.size(); ++i)
    if (kUnitNames[i] == name) return static_cast<Unit>(i);
  return {};
}

Parameter::Parameter() = default;
Parameter::~Parameter() = default;
Parameter::Parameter(const Parameter&) = default;
Parameter::Parameter(Parameter&&) noexcept = default;
Parameter& Parameter::operator=(const Parameter&) = default;
Parameter& Parameter::operator=(Parameter&&) noexcept = default;

ParameterBuilder::ParameterBuilder(ParameterKind kind, std::string id, std::string label, ParamValue initial) {
  p_.kind = kind, p_.id = std::move(id), p_.label = std::move(label), p_.initial = std::move(initial);
  p_.limits = p_.useful;
}

ParameterBuilder& ParameterBuilder::useful(double least, double most) {
  p_.useful = {least, most};
  if (!limited_) p_.limits = p_.useful;
  return *this;
}

ParameterBuilder& ParameterBuilder::limits(double least, double most) {
  limited_ = true;
  p_.limits = {least, most};
  return *this;
}

ParameterBuilder& ParameterBuilder::unit(Unit u) { return p_.unit = u, *this; }
ParameterBuilder& ParameterBuilder::column(std::string_view name) { return p_.column = name, *this; }
ParameterBuilder& ParameterBuilder::help(std::string_view sentence) { return p_.help = sentence, *this; }
ParameterBuilder& ParameterBuilder::acts_when(ActsWhen acts) { return p_.acts = std::move(acts), *this; }
ParameterBuilder& ParameterBuilder::acts_when(std::string_view formula, std::string_view reason) {
  return acts_when({std::string(formula), std::string(reason)});
}
ParameterBuilder& ParameterBuilder::per_unit() { return p_.per_unit = true, *this; }
ParameterBuilder& ParameterBuilder::names(NameOf what) {
  p_.names = what;
  return *this;
}
ParameterBuilder& ParameterBuilder::titles() {
  p_.titles = true;
  return *this;
}
ParameterBuilder& ParameterBuilder::options(std::vector<std::string> words) {
  return p_.options = std::move(words), *this;
}
ParameterBuilder& ParameterBuilder::asked() { return p_.asked = true, *this; }
ParameterBuilder& ParameterBuilder::ends(std::string_view left, std::string_view right) {
  return p_.left = left, p_.right = right, *this;
}

ParameterBuilder& ParameterBuilder::stands_in() {
  return stands_in("connected(" + p_.id + ") == 0", "It comes in at its peg.");
}
ParameterBuilder& ParameterBuilder::stands_in(std::string_view formula, std::string_view reason) {
  return acts_when(formula, reason).help("The value that stands in while nothing is connected at its peg.");
}

namespace {
ParameterBuilder of(ParameterKind kind, std::string_view id, std::string_view label, ParamValue initial) {
  return {kind, std::string(id), std::string(label), std::move(initial)};
}
}  // namespace

ParameterBuilder scalar(std::string_view id, std::string_view label, ParamValue initial) {
  return of(ParameterKind::scalar, id, label, std::move(initial));
}
ParameterBuilder stand_in(std::string_view id, std::string_view label, double initial, std::string_view column) {
  return scalar(id, label, initial).limits(-1e6, 1e6).column(column).stands_in();
}
ParameterBuilder integer(std::string_view id, std::string_view label, int initial) {
  return of(ParameterKind::integer, id, label, static_cast<double>(initial));
}
ParameterBuilder toggle(std::string_view id, std::string_view label, bool initial) {
  return of(ParameterKind::toggle, id, label, initial ? 1.0 : 0.0);
}
ParameterBuilder vector2(std::string_view id, std::string_view label, double u, double v) {
  return of(ParameterKind::vector2, id, label, Vector{u, v});
}
ParameterBuilder vector2(std::string_view id, std::string_view label, ParamValue initial) {
  return of(ParameterKind::vector2, id, label, std::move(initial));
}
ParameterBuilder colour(std::string_view id, std::string_view label, Vector initial) {
  return of(ParameterKind::colour, id, label, std::move(initial));
}
ParameterBuilder choice(std::string_view id, std::string_view label, std::vector<std::string> options,
                        std::string_view initial) {
  std::string first(initial);
  if (first.empty() && !options.empty()) first = options.front();
  return of(ParameterKind::choice, id, label, std::move(first)).options(std::move(options));
}
ParameterBuilder figure(std::string_view id, std::string_view label, std::string_view initial) {
  return of(ParameterKind::figure, id, label, std::string(initial));
}
ParameterBuilder text(std::string_view id, std::string_view label, std::string_view initial) {
  return of(ParameterKind::text, id, label, std::string(initial));
}
ParameterBuilder file(std::string_view id, std::string_view label, std::vector<std::string> endings) {
  return of(ParameterKind::file, id, label, std::string()).options(std::move(endings));
}
ParameterBuilder formula(std::string_view id, std::string_view label, std::string_view initial) {
  return of(ParameterKind::formula, id, label, std::string(initial));
}
ParameterBuilder stops(std::string_view id, std::string_view label, Stops initial) {
  return of(ParameterKind::stops, id, label, std::move(initial));
}
ParameterBuilder points(std::string_view id, std::string_view label) {
  return of(ParameterKind::points, id, label, Points{});
}
ParameterBuilder strokes(std::string_view id, std::string_view label) {
  return of(ParameterKind::strokes, id, label, Strokes{});
}
ParameterBuilder seed(std::string_view column) {
  return of(ParameterKind::seed, "seed", "Seed", 1.0)
      .useful(0, 999)
      .limits(0, 1e9)
      .column(column)
      .help("Another number draws other chances; the same number gives the same picture again.");
}

}  // namespace loom
