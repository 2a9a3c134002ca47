// Recursive descent over the formula's characters, then one pass that emits steps.
#include "core/program/formula.h"

#include <algorithm>
#include <cctype>
#include <charconv>
#include <cmath>
#include <set>

#include "core/base/hash.h"

namespace loom {
namespace {

constexpr double kLargest = 3e38;

constexpr std::size_t kMostText = 4096;
constexpr int kMostDepth = 64;

Error at(std::size_t place, std::string what, std::string mend) {
  return {"character " + std::to_string(place + 1), std::move(what), std::move(mend)};
}

Expression call(std::string name, std::vector<Expression> operands, std::size_t place) {
  return {Expression::Form::call, 0, std::move(name), std::move(operands), place};
}

class Parser {
 public:
  explicit Parser(std::string_view text) : text_(text) {}

  Result<Expression> whole() {
    auto e = comparison();
    if (!e) return e;
    skip();
    if (place_ < text_.size()) {
      if (text_[place_] == ')')
        return at(place_, "a bracket closes that was never opened", "Remove it or open one before");
      return at(place_, std::string("unexpected '") + text_[place_] + "'",
                "Put an operator such as + or * before it, or remove it");
    }
    return e;
  }

 private:
  void skip() {
    while (place_ < text_.size() && std::isspace(static_cast<unsigned char>(text_[place_]))) ++place_;
  }
  bool take(std::string_view token) {
    skip();
    if (text_.substr(place_, token.size()) != token) return false;
    place_ += token.size();
    return true;
  }

  using Level = Result<Expression> (Parser::*)();
  Result<Expression> chain(Level next, std::initializer_list<std::pair<std::string_view, std::string_view>> operators) {
    auto left = (this->*next)();
    while (left) {
      skip();
      const std::size_t place = place_;
      const auto* found =
          std::find_if(operators.begin(), operators.end(), [&](const auto& o) { return take(o.first); });
      if (found == operators.end()) break;
      auto right = (this->*next)();
      if (!right) return right;
      left = call(std::string(found->second), {std::move(left).value(), std::move(right).value()}, place);
    }
    return left;
  }

  Result<Expression> comparison() {
    return chain(&Parser::sum, {{"<=", "less_equal"},
                                {">=", "greater_equal"},
                                {"==", "equal"},
                                {"!=", "unequal"},
                                {"<", "less"},
                                {">", "greater"}});
  }
  Result<Expression> sum() { return chain(&Parser::product, {{"+", "add"}, {"-", "subtract"}}); }
  Result<Expression> product() { return chain(&Parser::signed_power, {{"*", "multiply"}, {"/", "divide"}}); }

  Result<Expression> signed_power() {
    skip();
    const std::size_t place = place_;
    if (++depth_ > kMostDepth) return at(place_, "nested too deeply", "Split the formula into several nodes");
    struct Leave {
      int& d;
      ~Leave() { --d; }
    } leave{depth_};
    if (take("-")) {
      auto e = signed_power();
      return e ? Result<Expression>(call("negate", {std::move(e).value()}, place)) : e;
    }
    if (take("+")) return signed_power();
    auto base = component();
    if (!base || !take("^")) return base;
    auto exponent = signed_power();
    if (!exponent) return exponent;
    return call("power", {std::move(base).value(), std::move(exponent).value()}, place);
  }

  Result<Expression> component() {
    auto e = atom();
    while (e && take(".")) {
      skip();
      const char letter = place_ < text_.size() ? text_[place_] : ' ';
      if (letter != 'x' && letter != 'y' && letter != 'z')
        return at(place_, "expected x, y or z after the point", "Write .x, .y or .z");
      ++place_;
      const std::size_t place = e->place;
      e = Expression{Expression::Form::component, 0, std::string(1, letter), {std::move(e).value()}, place};
    }
    return e;
  }

  Result<Expression> atom() {
    skip();
    if (place_ >= text_.size())
      return at(place_, "the formula ends where a number, a name or a bracket is expected", "Complete it");
    const char c = text_[place_];
    if (std::isdigit(static_cast<unsigned char>(c)) || c == '.') return number();
    if (std::isalpha(static_cast<unsigned char>(c)) || c == '_') return name();
    if (c == '(') {
      const std::size_t open = place_++;
      auto e = comparison();
      if (!e) return e;
      if (!take(")")) return at(open, "bracket open", "Close it with )");
      return e;
    }
    return at(place_, std::string("unexpected '") + c + "'", "A number, a name or a bracket is expected here");
  }

  Result<Expression> number() {
    double value = 0;
    const auto [end, code] = std::from_chars(text_.data() + place_, text_.data() + text_.size(), value);
    if (code != std::errc() || !std::isfinite(value)) return at(place_, "not a number", "Write it like 0.25 or 1e-3");
    if (std::abs(value) > kLargest) return at(place_, "too large a number", "Write one below 3e38");
    Expression e{Expression::Form::number, value, {}, {}, place_};
    place_ = static_cast<std::size_t>(end - text_.data());
    return e;
  }

  Result<Expression> name() {
    const std::size_t start = place_;
    while (place_ < text_.size() && (std::isalnum(static_cast<unsigned char>(text_[place_])) || text_[place_] == '_'))
      ++place_;
    std::string word(text_.substr(start, place_ - start));
    skip();
    if (place_ >= text_.size() || text_[place_] != '(')
      return Expression{Expression::Form::name, 0, std::move(word), {}, start};
    const std::size_t open = place_++;
    std::vector<Expression> operands;
    if (!take(")")) {
      do {
        auto e = comparison();
        if (!e) return e;
        operands.push_back(std::move(e).value());
      } while (take(","));
      if (!take(")")) return at(open, "bracket open", "Close it with )");
    }
    return call(std::move(word), std::move(operands), start);
  }

  std::string_view text_;
  std::size_t place_ = 0;
  int depth_ = 0;
};

struct Function {
  std::string_view name;
  std::size_t least, most;
};

constexpr Function kFunctions[] = {
    {"add", 2, 2},    {"subtract", 2, 2}, {"multiply", 2, 2},   {"divide", 2, 2},     {"negate", 1, 1},
    {"power", 2, 2},  {"less", 2, 2},     {"greater", 2, 2},    {"less_equal", 2, 2}, {"greater_equal", 2, 2},
    {"equal", 2, 2},  {"unequal", 2, 2},  {"abs", 1, 1},        {"floor", 1, 1},      {"ceil", 1, 1},
    {"round", 1, 1},  {"fract", 1, 1},    {"sign", 1, 1},       {"sqrt", 1, 1},       {"exp", 1, 1},
    {"log", 1, 1},    {"sin", 1, 1},      {"cos", 1, 1},        {"tan", 1, 1},        {"asin", 1, 1},
    {"acos", 1, 1},   {"atan", 1, 1},     {"atan2", 2, 2},      {"min", 2, 8},        {"max", 2, 8},
    {"mod", 2, 2},    {"step", 2, 2},     {"smoothstep", 3, 3}, {"mix", 3, 3},        {"clamp", 3, 3},
    {"if", 3, 3},     {"vector", 2, 3},   {"length", 1, 1},     {"dot", 2, 2},        {"random", 2, 3},
    {"chance", 1, 2}, {"bell", 2, 3},     {"pick", 2, 8},       {"connected", 1, 1}};

class Compiler {
 public:
  Compiler(const FormulaScope& scope, Builder& b) : scope_(scope), b_(b) {}

  Result<Strands> compile(const Expression& e) {
    switch (e.form) {
      case Expression::Form::number:
        return scalar(b_.constant(static_cast<float>(e.number)));
      case Expression::Form::name:
        return name(e);
      case Expression::Form::component: {
        auto v = compile(e.operands[0]);
        if (!v) return v;
        const int lane = e.name[0] - 'x';
        if (lane >= strand_count(v->kind))
          return at(e.place, "there is no component " + e.name + " here", "Use a vector, or leave the component out");
        return scalar(v->at[static_cast<std::size_t>(lane)]);
      }
      case Expression::Form::call:
        return function(e);
    }
    return scalar(b_.constant(0));
  }

 private:
  static Strands scalar(Reg r) { return {.kind = Kind::scalar, .at = {r}}; }

  Result<Strands> name(const Expression& e) {
    if (const auto it = scope_.names.find(e.name); it != scope_.names.end()) return it->second;
    if (e.name == "pi") return scalar(b_.constant(3.14159265358979f));
    std::string known;
    for (const auto& [n, value] : scope_.names) known += (known.empty() ? "" : ", ") + n;
    return at(e.place, "the name '" + e.name + "' is not known here",
              known.empty() ? "Use numbers and functions" : "Known here: " + known + ", pi");
  }

  Result<Strands> function(const Expression& e) {
    const auto* f =
        std::find_if(std::begin(kFunctions), std::end(kFunctions), [&](const Function& k) { return k.name == e.name; });
    if (f == std::end(kFunctions)) return map(e);
    if (e.operands.size() < f->least || e.operands.size() > f->most)
      return at(e.place,
                "'" + e.name + "' takes " + std::to_string(f->least) +
                    (f->most > f->least ? " to " + std::to_string(f->most) : "") + " operands, here are " +
                    std::to_string(e.operands.size()),
                "Add or remove some");
    if (e.name == "connected") return connected(e);
    std::vector<Strands> v;
    for (const Expression& operand : e.operands) {
      auto r = compile(operand);
      if (!r) return r;
      if (r->kind == Kind::regions || r->kind == Kind::set)
        return at(operand.place, "regions and sets are not numbers",
                  "Take their values with Region values or Open set");
      v.push_back(std::move(r).value());
    }
    if (e.name == "random" || e.name == "bell" || e.name == "chance" || e.name == "pick") return draw(e, v);
    if (e.name == "vector")
      return Strands{.kind = v.size() == 2 ? Kind::vector2 : Kind::vector3,
                     .at = {v[0].at[0], v[1].at[0], v.size() == 3 ? v[2].at[0] : Reg{}}};
    if (e.name == "length" || e.name == "dot") return dot(e.name == "length", v[0], v.back());
    return lanes(e.name, v);
  }

  // NAME(u, v) or NAME(place): a map read elsewhere.
  Result<Strands> map(const Expression& e) {
    const auto it = scope_.maps.find(e.name);
    if (it == scope_.maps.end())
      return at(e.place, "there is no function '" + e.name + "'", "See the list of functions");
    if (e.operands.empty() || e.operands.size() > 2)
      return at(e.place, "'" + e.name + "' is read at a place",
                "Write " + e.name + "(u, v), or " + e.name + "() with one vector");
    std::vector<Reg> place;
    for (const Expression& operand : e.operands) {
      const auto r = compile(operand);
      if (!r) return r;
      const bool number = r->kind == Kind::scalar, alone = e.operands.size() == 1;
      if (alone ? strand_count(r->kind) < 2 || r->kind == Kind::regions || r->kind == Kind::set : !number)
        return at(operand.place, alone ? "a place is a vector" : "a place is two numbers",
                  "Write " + e.name + "(u, v)");
      place.push_back(r->at[0]);
      if (alone) place.push_back(r->at[1]);
    }
    return it->second(place[0], place[1]);
  }

  Result<Strands> connected(const Expression& e) {
    if (e.operands[0].form != Expression::Form::name || !scope_.connected)
      return at(e.place, "connected() takes the name of a peg", "Write connected(mask)");
    return scalar(b_.constant(scope_.connected(e.operands[0].name) ? 1.0f : 0.0f));
  }

  // A draw has a number of its own: the place among the formula's draws, or the key that the text gives.
  Result<Strands> draw(const Expression& e, const std::vector<Strands>& v) {
    if (!scope_.unit_key)
      return at(e.place, "chance needs units, and there are none here", "Use it in a parameter that goes by unit");
    const std::size_t keyed = e.name == "random" || e.name == "bell" ? 3 : e.name == "chance" ? 2 : 99;
    std::uint64_t number = combine(scope_.stream, ++draws_);
    if (v.size() == keyed) {
      const float* key = b_.known(v.back().at[0]);
      if (!key)
        return at(e.operands.back().place, "the key of a draw is a plain number", "Write " + e.name + "(a, b, 1)");
      number = combine(scope_.keyed_stream, hash_number(*key));
    }
    if (e.name == "bell") return scalar(b_.mix(v[0].at[0], v[1].at[0], b_.bell(*scope_.unit_key, number)));
    const Reg r = b_.random(*scope_.unit_key, fold32(number));
    if (e.name == "random") return scalar(b_.mix(v[0].at[0], v[1].at[0], r));
    if (e.name == "chance") return scalar(b_.less(r, v[0].at[0]));
    const auto n = static_cast<float>(v.size());
    Reg picked = v[0].at[0];
    for (std::size_t i = 1; i < v.size(); ++i)
      picked = b_.select(b_.less(r, b_.constant(static_cast<float>(i) / n)), picked, v[i].at[0]);
    return scalar(picked);
  }

  Result<Strands> dot(bool length, const Strands& p, const Strands& q) {
    Reg sum = b_.constant(0);
    for (int i = 0; i < std::min(strand_count(p.kind), strand_count(q.kind)); ++i)
      sum = b_.multiply_add(p.at[static_cast<std::size_t>(i)], q.at[static_cast<std::size_t>(i)], sum);
    return scalar(length ? b_.root(sum) : sum);
  }

  Result<Strands> lanes(std::string_view name, const std::vector<Strands>& v) {
    Strands out{.kind = Kind::scalar};
    for (const Strands& s : v) out.kind = wider(out.kind, s.kind);
    const int n = strand_count(out.kind);
    for (int lane = 0; lane < n; ++lane) {
      std::vector<Reg> r;
      for (const Strands& s : v) r.push_back(s.at[static_cast<std::size_t>(std::min(lane, strand_count(s.kind) - 1))]);
      out.at[static_cast<std::size_t>(lane)] = lane_of(name, r);
    }
    return out;
  }

  Reg lane_of(std::string_view name, const std::vector<Reg>& r) {
    static const std::map<std::string_view, Op> kPlain = {{"add", Op::add},
                                                          {"subtract", Op::subtract},
                                                          {"multiply", Op::multiply},
                                                          {"divide", Op::divide},
                                                          {"negate", Op::negate},
                                                          {"power", Op::power},
                                                          {"less", Op::less},
                                                          {"greater", Op::greater},
                                                          {"less_equal", Op::less_equal},
                                                          {"equal", Op::equal},
                                                          {"abs", Op::absolute},
                                                          {"floor", Op::floor},
                                                          {"ceil", Op::ceiling},
                                                          {"round", Op::round},
                                                          {"fract", Op::fraction},
                                                          {"sign", Op::sign},
                                                          {"sqrt", Op::root},
                                                          {"exp", Op::exponential},
                                                          {"log", Op::logarithm},
                                                          {"sin", Op::sine},
                                                          {"cos", Op::cosine},
                                                          {"tan", Op::tangent},
                                                          {"asin", Op::arcsine},
                                                          {"acos", Op::arccosine},
                                                          {"atan", Op::arctangent},
                                                          {"atan2", Op::arctangent2},
                                                          {"mod", Op::modulo},
                                                          {"smoothstep", Op::smoothstep},
                                                          {"if", Op::select},
                                                          {"min", Op::minimum},
                                                          {"max", Op::maximum}};
    if (name == "greater_equal") return b_.apply(Op::less_equal, r[1], r[0]);
    if (name == "unequal") return b_.sub(1, b_.apply(Op::equal, r[0], r[1]));
    if (name == "step") return b_.apply(Op::less_equal, r[0], r[1]);
    if (name == "mix") return b_.mix(r[0], r[1], r[2]);
    if (name == "clamp") return b_.min(b_.max(r[0], r[1]), r[2]);
    const Op op = kPlain.at(name);
    if (r.size() == 1) return b_.apply(op, r[0]);
    if (op == Op::minimum || op == Op::maximum) {
      Reg all = r[0];
      for (std::size_t i = 1; i < r.size(); ++i) all = b_.apply(op, all, r[i]);
      return all;
    }
    return r.size() == 2 ? b_.apply(op, r[0], r[1]) : b_.apply(op, r[0], r[1], r[2]);
  }

  const FormulaScope& scope_;
  Builder& b_;
  std::uint64_t draws_ = 0;
};

bool is_function(const std::string& name) {
  return std::any_of(std::begin(kFunctions), std::end(kFunctions), [&](const Function& f) { return f.name == name; });
}

void collect(const Expression& e, bool maps_only, std::vector<std::string>& names) {
  const bool map = e.form == Expression::Form::call && !is_function(e.name),
             name = e.form == Expression::Form::name && e.name != "pi" && !maps_only;
  if ((map || name) && std::find(names.begin(), names.end(), e.name) == names.end()) names.push_back(e.name);
  for (const Expression& operand : e.operands) collect(operand, maps_only, names);
}

}  // namespace

Result<Expression> parse_formula(std::string_view text) {
  if (text.size() > kMostText)
    return at(kMostText, "the formula is longer than 4096 characters", "Split it into several nodes");
  return Parser(text).whole();
}

namespace {

// Products and powers may leave the range of floats: what does is held at its end, and what has no value then is 0.
Reg finite(Builder& b, Reg x) {
  if (const float* known = b.known(x); known && std::isfinite(*known)) return x;
  return b.select(b.apply(Op::equal, x, x), b.clamp(x, static_cast<float>(-kLargest), static_cast<float>(kLargest)),
                  b.constant(0));
}

}  // namespace

Result<Strands> compile_formula(const Expression& formula, const FormulaScope& scope, Builder& b) {
  auto value = Compiler(scope, b).compile(formula);
  if (!value || value->kind == Kind::regions || value->kind == Kind::set) return value;
  for (int i = 0; i < strand_count(value->kind); ++i)
    value->at[static_cast<std::size_t>(i)] = finite(b, value->at[static_cast<std::size_t>(i)]);
  return value;
}

Result<double> evaluate_formula(std::string_view text, const std::map<std::string, double>& names,
                                const std::function<bool(std::string_view)>& connected) {
  auto parsed = parse_formula(text);
  if (!parsed) return parsed.error();
  Builder b(Domain::numbers());
  FormulaScope scope;
  scope.connected = connected;
  for (const auto& [name, value] : names)
    scope.names[name] = {.kind = Kind::scalar, .at = {b.constant(static_cast<float>(value))}};
  auto value = compile_formula(*parsed, scope, b);
  if (!value) return value.error();
  const float* known = b.known(value->at[0]);
  if (!known) return Error{"", "the formula is not constant", "Use numbers and values only"};
  return static_cast<double>(*known);
}

std::vector<std::string> names_in(const Expression& formula) {
  std::vector<std::string> names;
  collect(formula, false, names);
  return names;
}

std::vector<std::string> maps_in(const Expression& formula) {
  std::vector<std::string> names;
  collect(formula, true, names);
  return names;
}

Kind kind_of_formula(const Expression& e, const std::map<std::string, Kind, std::less<>>& names) {
  static const std::set<std::string_view> kNumbers{"length", "dot", "random", "bell", "chance", "pick", "connected"};
  const bool call = e.form == Expression::Form::call;
  if (e.form == Expression::Form::name || (call && !is_function(e.name))) {  // or a map read elsewhere
    const auto it = names.find(e.name);
    return it == names.end() ? Kind::scalar : it->second;
  }
  if (!call || kNumbers.count(e.name)) return Kind::scalar;
  if (e.name == "vector") return e.operands.size() == 3 ? Kind::vector3 : Kind::vector2;
  Kind kind = Kind::scalar;
  for (const Expression& operand : e.operands) kind = wider(kind, kind_of_formula(operand, names));
  return kind;
}

bool replace_name(std::string& formula, const std::string& name, const std::string& by) {
  const auto in_word = [](char c) { return std::isalnum(static_cast<unsigned char>(c)) || c == '_'; };
  bool found = false;
  for (std::size_t at = formula.find(name); at != std::string::npos; at = formula.find(name, at)) {
    const bool alone = (at == 0 || !in_word(formula[at - 1])) &&
                       (at + name.size() == formula.size() || !in_word(formula[at + name.size()]));
    if (alone) formula.replace(at, name.size(), by), found = true;
    at += alone ? by.size() : name.size();
  }
  return found;
}

const std::vector<FunctionHelp>& formula_functions() {
  static const std::vector<FunctionHelp> kHelp = {{"abs", "x", "size without sign"},
                                                  {"acos", "x", "arccosine in radians"},
                                                  {"asin", "x", "arcsine in radians"},
                                                  {"atan", "x", "arctangent in radians"},
                                                  {"atan2", "y, x", "angle of (x, y) in radians"},
                                                  {"bell", "a, b", "as random, the middle likelier (a bell curve)"},
                                                  {"ceil", "x", "next whole number up"},
                                                  {"chance", "p", "1 for a share p of the units, else 0"},
                                                  {"clamp", "x, least, most", "kept between two bounds"},
                                                  {"cos", "x", "cosine"},
                                                  {"dot", "a, b", "dot product"},
                                                  {"exp", "x", "e to the power x"},
                                                  {"floor", "x", "next whole number down"},
                                                  {"fract", "x", "what is left above the whole number"},
                                                  {"if", "test, a, b", "a where the test is not 0, else b"},
                                                  {"length", "v", "length of a vector"},
                                                  {"log", "x", "natural logarithm; 0 for 0 or less"},
                                                  {"max", "a, b, ...", "the greatest"},
                                                  {"min", "a, b, ...", "the least"},
                                                  {"mix", "a, b, t", "from a to b by t"},
                                                  {"mod", "a, b", "remainder, same sign as b"},
                                                  {"pick", "a, b, ...", "one of them for each unit"},
                                                  {"random", "a, b", "a number from a to b for each unit"},
                                                  {"round", "x", "nearest whole number"},
                                                  {"sign", "x", "-1, 0 or 1"},
                                                  {"sin", "x", "sine"},
                                                  {"smoothstep", "from, to, x", "soft step from 0 to 1"},
                                                  {"sqrt", "x", "square root; 0 for negatives"},
                                                  {"step", "edge, x", "1 from the edge on"},
                                                  {"tan", "x", "tangent"},
                                                  {"vector", "x, y", "a vector"}};
  return kHelp;
}

}  // namespace loom
