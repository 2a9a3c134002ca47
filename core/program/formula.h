// Formula text: plain mathematical notation, compiled into steps of a strip program.
#pragma once
#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/error.h"
#include "core/program/builder.h"

namespace loom {

/// A parsed formula. The grammar stands in docs/format.md.
struct Expression {
  enum class Form { number, name, call, component } form = Form::number;
  double number = 0;
  std::string name;  ///< of a name, a function, or the component letter
  std::vector<Expression> operands;
  std::size_t place = 0;  ///< of its first character in the text
};

/// Limits   text of at most 4096 characters, nested at most 64 deep.
/// Error    `where` is "character N" counted from 1; `what` and `mend` say what was expected.
Result<Expression> parse_formula(std::string_view text);

/// What the names in a formula stand for.
struct FormulaScope {
  std::map<std::string, Strands, std::less<>> names;
  std::optional<Reg> unit_key;                      ///< set where random(), chance() and pick() are allowed
  std::uint64_t stream = 0;                         ///< seed of the draws
  std::uint64_t keyed_stream = 0;                   ///< seed of the draws with a key, which several formulas may share
  std::function<bool(std::string_view)> connected;  ///< for connected(peg); may be empty
  std::map<std::string, std::function<Strands(Reg u, Reg v)>, std::less<>>
      maps;  ///< what NAME(u, v) reads, in shares of the tile
};

/// Adds the steps of `formula` to `b`. Angles are radians.
Result<Strands> compile_formula(const Expression& formula, const FormulaScope& scope, Builder& b);

/// The value of a formula over constant names alone.
Result<double> evaluate_formula(std::string_view text, const std::map<std::string, double>& names,
                                const std::function<bool(std::string_view)>& connected = {});

/// The names a formula uses, in the order of their first use, functions left out.
std::vector<std::string> names_in(const Expression& formula);

/// Those among them that are read at another place, as a(u, v).
std::vector<std::string> maps_in(const Expression& formula);

/// What it gives where its names are of these kinds; a name that is not among them is a number.
Kind kind_of_formula(const Expression& formula, const std::map<std::string, Kind, std::less<>>& names);

/// Puts `by` in the place of a name wherever it stands alone in the text; whether it was there.
bool replace_name(std::string& formula, const std::string& name, const std::string& by);

struct FunctionHelp {
  std::string_view name, operands, help;
};
const std::vector<FunctionHelp>& formula_functions();

}  // namespace loom
