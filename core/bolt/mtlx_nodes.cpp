#include "core/bolt/mtlx_nodes.h"

#include <bit>
#include <cmath>

#include "core/bolt/mtlx_frame.h"

namespace loom::mtlx {
namespace {

std::string hindrance_of(const Instruction& i) {
  if (i.op == Op::random) return "chance";
  if (i.op == Op::load) return "texels of a tile";
  if (i.op == Op::attribute && i.aux >= kSurfaceAttributes) return "a measure of the mesh";
  if (i.op == Op::attribute && i.aux >= at(SurfaceValue::part)) return "the name of a part";
  if (i.op == Op::family && i.family != &kCurve && i.family != &kSample) return std::string(i.family->name);
  return {};
}

// What the standard has for numbers and vectors, and not for colours.
bool is_for_vectors_alone(Op op) { return op >= Op::root && op <= Op::arctangent; }

const char* name_of(Op op) {
  switch (op) {
    case Op::absolute:
      return "absval";
    case Op::floor:
      return "floor";
    case Op::ceiling:
      return "ceil";
    case Op::fraction:
      return "fract";
    case Op::sine:
      return "sin";
    case Op::cosine:
      return "cos";
    case Op::tangent:
      return "tan";
    case Op::sign:
      return "sign";
    case Op::add:
      return "add";
    case Op::subtract:
      return "subtract";
    case Op::multiply:
      return "multiply";
    case Op::minimum:
      return "min";
    case Op::maximum:
      return "max";
    default:
      return nullptr;
  }
}

bool is_even(const std::array<float, 3>& c) { return c[0] == c[1] && c[1] == c[2]; }
bool rises(const std::array<float, 3>& from, const std::array<float, 3>& to) {
  return from[0] < to[0] && from[1] < to[1] && from[2] < to[2];
}

}  // namespace

// Registers are used again and again: each operand is traced to the instruction that wrote it last.
Nodes::Nodes(const Program& program, pugi::xml_node graph, Surroundings around)
    : program_(program), graph_(graph), around_(std::move(around)) {
  std::vector<std::uint32_t> written(static_cast<std::size_t>(program.registers));
  const auto operand = [&](std::uint16_t at) {
    if (at & kConstantBit) return Operand{true, program.constants[at & ~kConstantBit], 0};
    return Operand{false, 0, written[at]};
  };
  for (std::uint32_t i = 0; i < program.code.size(); ++i) {
    const Instruction& code = program.code[i];
    auto& from = sources_.emplace_back();
    int in_the_way = hindrance_of(code).empty() ? -1 : static_cast<int>(i);
    // Of a look-up the third is how wide a sample is: whoever draws knows that better.
    const std::size_t read = code.family == &kSample ? 2 : code.sources;
    for (std::size_t k = 0; k < code.sources; ++k) {
      from[k] = operand(code.source[k]);
      if (in_the_way < 0 && k < read && !from[k].constant) in_the_way = hindered_[from[k].id >> 2];
    }
    hindered_.push_back(in_the_way);
    for (std::uint32_t k = 0; k < code.results; ++k) written[code.result[k]] = i << 2 | k;
  }
  outputs_.resize(static_cast<std::size_t>(program.outputs));
  for (const StoreStep& s : program.stores) outputs_[s.output] = operand(s.from);
}

std::optional<Nodes::Hindrance> Nodes::hindrance(std::size_t output) const {
  const Operand& o = outputs_[output];
  const int at = o.constant ? -1 : hindered_[o.id >> 2];
  if (at < 0) return {};
  const auto i = static_cast<std::size_t>(at);
  return Hindrance{hindrance_of(program_.code[i]), program_.origins[i]};
}

std::string Nodes::number(std::size_t output) { return node_of(value({{outputs_[output]}, 1}, "float"), "float"); }

std::string Nodes::three(std::size_t first, const std::string& type) {
  return node_of(value({{outputs_[first], outputs_[first + 1], outputs_[first + 2]}, 3}, type), type);
}

std::string Nodes::normal(std::size_t first) {
  const Value n = value({{outputs_[first], outputs_[first + 1], outputs_[first + 2]}, 3}, "vector3");
  const Value half = two("multiply", "vector3", n, fixed(0.5f));
  return add("normalmap", "vector3", {{"in", {"vector3", two("add", "vector3", half, fixed(0.5f))}}}).node;
}

// ---- values ----

Nodes::Bundle Nodes::operands(const Bundle& b, std::size_t k) const {
  Bundle out{{}, b.width};
  for (std::size_t i = 0; i < b.width; ++i) out.of[i] = source(b.of[i].id >> 2, k);
  return out;
}

bool Nodes::is_one(const Bundle& b) {
  return b.width == 1 || (!b.of[0].constant && b.of[0] == b.of[1] && b.of[1] == b.of[2]);
}

std::optional<std::array<float, 3>> Nodes::constants(const Bundle& b) const {
  for (std::size_t i = 0; i < b.width; ++i)
    if (!b.of[i].constant) return {};
  if (b.width == 1) return std::array{b.of[0].value, b.of[0].value, b.of[0].value};
  return std::array{b.of[0].value, b.of[1].value, b.of[2].value};
}

std::string Nodes::key_of(const Bundle& b, const std::string& type) {
  std::string key = type;
  for (std::size_t i = 0; i < b.width; ++i)
    key += b.of[i].constant ? " =" + std::to_string(std::bit_cast<std::uint32_t>(b.of[i].value))
                            : " " + std::to_string(b.of[i].id);
  return key;
}

// What a value is made of, as `made` asks for it.
std::vector<Nodes::Bundle> Nodes::read_by(const Bundle& b, const std::string& type) const {
  if (b.width == 3 && !lifts(b, type)) return {{{b.of[0]}, 1}, {{b.of[1]}, 1}, {{b.of[2]}, 1}};
  const Instruction& i = *made_by(b.of[0]);
  const std::size_t read = i.family == &kSample ? 2 : i.sources;  // how wide a sample is, is not asked for
  std::vector<Bundle> all;
  for (std::size_t k = 0; k < read; ++k) all.push_back(operands(b, k));
  return all;
}

// What it is made of comes first, on a stack of our own: a chain may be as long as a document.
Nodes::Value Nodes::value(const Bundle& wanted, const std::string& type) {
  const Bundle whole = narrowed(wanted);
  if (const auto c = constants(whole)) return {"", type, *c};
  const auto type_of = [&](const Bundle& b) { return b.width == 1 ? std::string("float") : type; };
  const std::string key = key_of(whole, type_of(whole));
  if (const auto it = known_.find(key); it != known_.end()) return it->second;
  const int outer = origin_;
  std::vector<Bundle> waiting{whole};
  while (!waiting.empty()) {
    const Bundle b = waiting.back();
    const std::size_t before = waiting.size();
    for (const Bundle& read : read_by(b, type_of(b)))
      if (const Bundle n = narrowed(read); !constants(n) && !known_.count(key_of(n, type_of(n)))) waiting.push_back(n);
    if (waiting.size() > before) continue;
    waiting.pop_back();
    if (const std::string made_key = key_of(b, type_of(b)); !known_.count(made_key)) {
      const Value v = made(b, type_of(b));
      known_[made_key] = v;
    }
  }
  origin_ = outer;
  return known_.at(key);
}

Nodes::Value Nodes::made(const Bundle& b, const std::string& type) {
  if (b.width == 3 && !lifts(b, type)) {
    std::vector<std::pair<const char*, std::pair<std::string, Value>>> in;
    constexpr const char* kIns[] = {"in1", "in2", "in3"};
    for (std::size_t i = 0; i < 3; ++i) in.push_back({kIns[i], {"float", value({{b.of[i]}, 1}, "float")}});
    for (const Operand& o : b.of)
      if (!o.constant) origin_ = program_.origins[o.id >> 2];
    return add("combine3", type, in);
  }
  const std::uint32_t at = b.of[0].id >> 2;
  const Instruction& i = program_.code[at];
  origin_ = program_.origins[at];
  if (i.op == Op::attribute) {
    const Value one = one_of_geometry(i.aux);
    return b.width == 1 ? one : geometry_.at(std::to_string(i.aux / 3));
  }
  if (i.family == &kSample) return looked_up(b, type);
  if (i.family == &kCurve) return curve(b, type);
  return maths(b, i, type);
}

// Whether three numbers come from three instructions that the standard has as one.
bool Nodes::lifts(const Bundle& b, const std::string& type) const {
  const Instruction* first = made_by(b.of[0]);
  if (!first) return false;
  for (std::size_t k = 1; k < 3; ++k) {
    const Instruction* i = made_by(b.of[k]);
    if (!i || i->op != first->op || i->family != first->family) return false;
    if (first->op == Op::attribute && (i->aux != first->aux + k || first->aux % 3 || first->aux == 0)) return false;
  }
  if (first->op == Op::attribute) return type == "vector3";
  if (first->family == &kSample) return is_one(operands(b, 0)) && is_one(operands(b, 1));
  if (first->family == &kCurve) return is_one(operands(b, 0)) && same_knots(b);
  return lifts_operands(b, first->op, type);
}

bool Nodes::lifts_operands(const Bundle& b, Op op, const std::string& type) const {
  const auto is_nonzero = [&](const Bundle& x) {
    const auto c = constants(x);
    return c && (*c)[0] != 0 && (*c)[1] != 0 && (*c)[2] != 0;
  };
  if (op == Op::divide || op == Op::modulo) return is_one(operands(b, 1)) || is_nonzero(operands(b, 1));
  const auto edge = [&](std::size_t k) { return constants(operands(b, k)); };
  if (op == Op::power) return edge(1) && is_even(*edge(1)) && (*edge(1))[0] > 0;
  if (op == Op::select) return is_one(operands(b, 0));
  if (op == Op::smoothstep) return edge(0) && edge(1) && rises(*edge(0), *edge(1));
  if (op == Op::arctangent2 || op == Op::logarithm || (op >= Op::less && op <= Op::equal)) return false;
  return type == "vector3" || !is_for_vectors_alone(op);
}

bool Nodes::same_knots(const Bundle& b) const {
  const auto& first = table(b.of[0]).pieces;
  for (std::size_t k = 1; k < 3; ++k) {
    const auto& other = table(b.of[k]).pieces;
    if (!std::equal(first.begin(), first.end(), other.begin(), other.end(),
                    [](const auto& p, const auto& q) { return p.from == q.from && p.to == q.to; }))
      return false;
  }
  return true;
}

Nodes::Value Nodes::one_of_geometry(std::uint32_t attribute) {
  if (attribute == at(SurfaceValue::place) + 2) return fixed(1.0f / static_cast<float>(around_.size));
  const std::uint32_t what = attribute / 3, strand = attribute % 3;
  const std::string key = std::to_string(what);
  const auto [it, is_new] = geometry_.try_emplace(key);
  Value& whole = it->second;
  const auto in_world = [&](const char* node, const char* name) {
    const Value v{unique(name), "vector3", {}};
    add_value(add_node(graph_, node, v.node, "vector3"), "space", "string", "world");
    return v;
  };
  const float metres = around_.tile_metres;
  if (is_new) {
    origin_ = -1;
    switch (static_cast<SurfaceValue>(what)) {
      case SurfaceValue::position:
        whole = in_world("position", "position_in_metres");
        break;
      case SurfaceValue::normal:
        whole = in_world("normal", "normal_of_the_shape");
        break;
      case SurfaceValue::view:  // the standard's leads away from the eye
        whole = two("multiply", "vector3", in_world("viewdirection", "from_the_eye"), fixed(-1));
        break;
      case SurfaceValue::light: {
        whole = {unique("towards_light"), "vector3", {}};
        add_value(add_node(graph_, "constant", whole.node, "vector3"), "value", "vector3",
                  text_of(around_.light, "vector3"));
        geometry_["towards_light"] = whole;
        break;
      }
      case SurfaceValue::along_u:
        whole = two("multiply", "vector3", in_world("tangent", "tangent_of_the_shape"), fixed(metres));
        break;
      case SurfaceValue::along_v:  // ours runs down
        whole = two("multiply", "vector3", in_world("bitangent", "bitangent_of_the_shape"), fixed(-metres));
        break;
      default:
        whole = {unique("place"), "vector2", {}};
        add_node(graph_, "texcoord", whole.node, "vector2");
        break;
    }
  }
  const std::string strand_key = key + "." + std::to_string(strand);
  if (const auto known = geometry_.find(strand_key); known != geometry_.end()) return known->second;
  const Value all = geometry_.at(key);
  const Value index{"", "integer", {static_cast<float>(strand)}};
  Value v = add("extract", "float", {{"in", {all.type, all}}, {"index", {"integer", index}}});
  if (attribute == at(SurfaceValue::place) + 1) v = two("subtract", "float", fixed(1), v);  // ours runs down
  return geometry_[strand_key] = v;
}

// ---- mathematics ----

Nodes::Value Nodes::maths(const Bundle& b, const Instruction& i, const std::string& type) {
  const auto in = [&](std::size_t k) { return value(operands(b, k), type); };
  switch (i.op) {
    case Op::negate:
      return two("multiply", type, in(0), fixed(-1));
    case Op::round:
      return one("floor", type, two("add", type, in(0), fixed(0.5f)));
    case Op::root:
      return one("sqrt", type, two("max", type, in(0), fixed(0)));
    case Op::exponential:
      return one(
          "exp", type,
          add("clamp", type, {{"in", {type, in(0)}}, {"low", {"float", fixed(-87)}}, {"high", {"float", fixed(69)}}}));
    case Op::logarithm:
      return whether("ifgreater", in(0), fixed(0), one("ln", type, two("max", type, in(0), fixed(1e-37f))), fixed(0),
                     type);
    case Op::arcsine:
    case Op::arccosine:
      return one(
          i.op == Op::arcsine ? "asin" : "acos", type,
          add("clamp", type, {{"in", {type, in(0)}}, {"low", {"float", fixed(-1)}}, {"high", {"float", fixed(1)}}}));
    case Op::arctangent:
      return add("atan2", type, {{"iny", {type, in(0)}}, {"inx", {type, fixed(1)}}});
    case Op::arctangent2: {  // of no direction at all it is 0
      const Value size = two("max", type, one("absval", type, in(0)), one("absval", type, in(1)));
      const Value angle = add("atan2", type, {{"iny", {type, in(0)}}, {"inx", {type, in(1)}}});
      return whether("ifequal", size, fixed(0), fixed(0), angle, type);
    }
    case Op::divide:
      return divided(b, type, "divide");
    case Op::modulo:
      return divided(b, type, "modulo");
    case Op::power:
      return power(b, type);
    case Op::less:
      return whether("ifgreater", in(1), in(0), fixed(1), fixed(0), type);
    case Op::greater:
      return whether("ifgreater", in(0), in(1), fixed(1), fixed(0), type);
    case Op::less_equal:
      return whether("ifgreatereq", in(1), in(0), fixed(1), fixed(0), type);
    case Op::equal:
      return whether("ifequal", in(0), in(1), fixed(1), fixed(0), type);
    case Op::select:
      return chosen(b, type);
    case Op::smoothstep:
      return smooth(b, type);
    case Op::multiply_add:
      if (const auto m = mixed(b, type)) return *m;
      return two("add", type, two("multiply", type, in(0), in(1)), in(2));
    case Op::minimum:
      if (const auto c = clamped(b, type)) return *c;
      [[fallthrough]];
    default:
      return i.sources == 1 ? one(name_of(i.op), type, in(0)) : two(name_of(i.op), type, in(0), in(1));
  }
}

// Our functions are total: by nothing it is nothing.
Nodes::Value Nodes::divided(const Bundle& b, const std::string& type, const char* does) {
  const Bundle by = narrowed(operands(b, 1));
  const Value above = value(operands(b, 0), type), below = value(by, type);
  if (const auto c = constants(by); c && (*c)[0] != 0 && (*c)[1] != 0 && (*c)[2] != 0)
    return two(does, type, above, below);
  const Value safe = whether("ifequal", below, fixed(0), fixed(1), below, "float");
  return whether("ifequal", below, fixed(0), fixed(0), two(does, type, above, safe), type);
}

Nodes::Value Nodes::power(const Bundle& b, const std::string& type) {
  const Value base = value(operands(b, 0), type);
  const auto is = [](float x, float y) { return std::fmod(x, y) == 0; };
  if (const auto c = constants(operands(b, 1)); c && is_even(*c) && (*c)[0] > 0) {
    const float to = (*c)[0];
    if (to == 1) return base;
    if (!is(to, 1)) return two("power", type, two("max", type, base, fixed(0)), fixed(to));
    const Value size = two("power", type, one("absval", type, base), fixed(to));
    return is(to, 2) ? size : two("multiply", type, size, one("sign", type, base));
  }
  // A negative number to a whole power has its sign where that is odd; to any other it is 0.
  const Value to = value(operands(b, 1), type), zero = fixed(0);
  const Value size =
      one("exp", type,
          two("multiply", type, to, one("ln", type, two("max", type, one("absval", type, base), fixed(1e-37f)))));
  const Value halves = one("fract", type, two("multiply", type, to, fixed(0.5f)));
  const Value whole = whether("ifequal", halves, zero, size, zero, type);
  const Value odd = whether("ifequal", halves, fixed(0.5f), two("multiply", type, size, fixed(-1)), whole, type);
  const Value nonzero = whether("ifgreater", zero, base, odd, size, type);
  return whether("ifequal", base, zero, whether("ifequal", to, zero, fixed(1), zero, type), nonzero, type);
}

// A comparison that decides is the standard's own condition.
Nodes::Value Nodes::chosen(const Bundle& b, const std::string& type) {
  const Operand on = operands(b, 0).of[0];
  const Value yes = value(operands(b, 1), type), no = value(operands(b, 2), type);
  const Instruction* decides = made_by(on);
  const auto side = [&](std::size_t k) { return value({{source(on.id >> 2, k)}, 1}, "float"); };
  switch (decides ? decides->op : Op::constant) {
    case Op::less:
      return whether("ifgreater", side(1), side(0), yes, no, type);
    case Op::greater:
      return whether("ifgreater", side(0), side(1), yes, no, type);
    case Op::less_equal:
      return whether("ifgreatereq", side(1), side(0), yes, no, type);
    case Op::equal:  // with itself: whether it is a number at all, and here all are
      if (source(on.id >> 2, 0) == source(on.id >> 2, 1)) return yes;
      return whether("ifequal", side(0), side(1), yes, no, type);
    default:
      return whether("ifequal", value({{on}, 1}, "float"), fixed(0), no, yes, type);
  }
}

Nodes::Value Nodes::smooth(const Bundle& b, const std::string& type) {
  const Value from = value(operands(b, 0), type), to = value(operands(b, 1), type), x = value(operands(b, 2), type);
  const auto low = constants(operands(b, 0)), high = constants(operands(b, 1));
  if (low && high && rises(*low, *high)) {
    const bool even = is_even(*low) && is_even(*high);
    const std::string edges = even ? "float" : type;
    return add("smoothstep", type, {{"in", {type, x}}, {"low", {edges, from}}, {"high", {edges, to}}});
  }
  const Value span = two("subtract", type, to, from);
  const Value safe = whether("ifequal", span, fixed(0), fixed(1), span, type);
  const Value t = add("clamp", type, {{"in", {type, two("divide", type, two("subtract", type, x, from), safe)}}});
  const Value rest = two("subtract", type, fixed(3), two("multiply", type, t, fixed(2)));
  const Value ramp = two("multiply", type, two("multiply", type, t, t), rest);
  const Value step = whether("ifgreatereq", x, from, fixed(1), fixed(0), type);
  return whether("ifequal", span, fixed(0), step, ramp, type);
}

// min(max(x, low), high)
std::optional<Nodes::Value> Nodes::clamped(const Bundle& b, const std::string& type) {
  const Bundle inner = operands(b, 0);
  const auto high = constants(operands(b, 1));
  if (!high || !is_even(*high)) return {};
  for (std::size_t k = 0; k < inner.width; ++k)
    if (const Instruction* i = made_by(inner.of[k]); !i || i->op != Op::maximum) return {};
  const auto low = constants(operands(inner, 1));
  if (!low || !is_even(*low) || (*low)[0] > (*high)[0]) return {};
  return add("clamp", type,
             {{"in", {type, value(operands(inner, 0), type)}},
              {"low", {"float", fixed((*low)[0])}},
              {"high", {"float", fixed((*high)[0])}}});
}

// (b - a) * t + a
std::optional<Nodes::Value> Nodes::mixed(const Bundle& b, const std::string& type) {
  const Bundle span = operands(b, 0), back = operands(b, 2);
  for (std::size_t k = 0; k < span.width; ++k) {
    const Instruction* i = made_by(span.of[k]);
    if (!i || i->op != Op::subtract || !(source(span.of[k].id >> 2, 1) == back.of[k])) return {};
  }
  const Bundle share = narrowed(operands(b, 1));
  const std::string how = share.width == 1 || (constants(share) && is_even(*constants(share))) ? "float" : type;
  return add("mix", type,
             {{"fg", {type, value(operands(span, 0), type)}},
              {"bg", {type, value(back, type)}},
              {"mix", {how, value(share, type)}}});
}

Nodes::Value Nodes::curve(const Bundle& b, const std::string& type) {
  const Value x = value(narrowed(operands(b, 0)), "float");
  const auto each = [&](const std::function<float(const CurveTable&)>& of) {
    Value v{"", type, {}};
    for (std::size_t k = 0; k < 3; ++k) v.constant[k] = of(table(b.of[std::min(k, b.width - 1)]));
    return v;
  };
  // A straight piece's higher terms are what rounding left of them.
  const auto is_nothing = [](const Value& v) {
    return std::all_of(v.constant.begin(), v.constant.end(), [](float c) { return std::abs(c) < 1e-6f; });
  };
  Value y = each([](const CurveTable& t) { return t.before; });
  const Value after = each([](const CurveTable& t) { return t.after; });
  const auto& knots = table(b.of[0]).pieces;
  if (knots.empty()) return {node_of(after, type), type, {}};
  for (std::size_t p = 0; p < knots.size(); ++p) {
    const float from = knots[p].from, to = knots[p].to;
    const auto of_piece = [&](const std::function<float(const CurveTable::Piece&, float rise)>& f) {
      return each([&](const CurveTable& t) { return f(t.pieces[p], t.pieces[p].y1 - t.pieces[p].y0); });
    };
    Value here = of_piece([](const auto& q, float) { return q.y0; });
    if (to > from) {
      const Value share = two("divide", "float", two("subtract", "float", x, fixed(from)), fixed(to - from));
      const Value t = two("min", "float", share, fixed(1));
      const Value cubic = of_piece([](const auto& q, float d) { return q.slope0 + q.slope1 - 2 * d; });
      const Value square = of_piece([](const auto& q, float d) { return 3 * d - 2 * q.slope0 - q.slope1; });
      const Value slope = of_piece([](const auto& q, float) { return q.slope0; });
      const auto times = [&](const Value& v) { return two("multiply", type, v, t); };
      if (is_nothing(cubic) && is_nothing(square)) {
        const Value end = of_piece([](const auto& q, float) { return q.y1; });
        here = add("mix", type, {{"fg", {type, end}}, {"bg", {type, here}}, {"mix", {"float", t}}});
      } else {
        const Value bend = is_nothing(cubic) ? square : two("add", type, times(cubic), square);
        here = two("add", type, times(two("add", type, times(bend), slope)), here);
      }
    }
    y = whether("ifgreatereq", x, fixed(from), here, y, type);
  }
  return whether("ifgreatereq", x, fixed(knots.back().to), after, y, type);
}

Nodes::Value Nodes::looked_up(const Bundle& b, const std::string& type) {
  const Operand u = operands(b, 0).of[0], v = operands(b, 1).of[0];
  const auto is = [&](const Operand& o, std::uint32_t attribute) {
    const Instruction* i = made_by(o);
    return i && i->op == Op::attribute && i->aux == attribute;
  };
  std::vector<PlanePtr> planes;
  for (std::size_t k = 0; k < b.width; ++k)
    planes.push_back(static_cast<const Sampled&>(*program_.resources[made_by(b.of[k])->aux]).levels.front());
  Value place;
  if (!is(u, at(SurfaceValue::place)) || !is(v, at(SurfaceValue::place) + 1)) {
    const Value x = value({{u}, 1}, "float"), y = value({{v}, 1}, "float");
    place =
        add("combine2", "vector2", {{"in1", {"float", x}}, {"in2", {"float", two("subtract", "float", fixed(1), y)}}});
  }
  const auto [name, file] = around_.file(planes, origin_);
  const Value out{unique(name), type, {}};
  auto n = add_node(graph_, "image", out.node, type);
  add_value(n, "file", "filename", file);
  if (!place.node.empty()) add_from(n, "texcoord", "vector2", place.node);
  return out;
}

// ---- nodes ----

std::string Nodes::unique(const std::string& name) {
  std::string free = name;
  for (int i = 2; !names_.insert(free).second; ++i) free = name + "_" + std::to_string(i);
  return free;
}

Nodes::Value Nodes::add(const std::string& does, const std::string& type,
                        const std::vector<std::pair<const char*, std::pair<std::string, Value>>>& inputs) {
  // Numbers that are to be three go through a node of their own, which stands before this one.
  std::vector<Value> ready;
  for (const auto& [input, in] : inputs) {
    const auto& [as, v] = in;
    ready.push_back(!v.node.empty() && v.type != as ? Value{node_of(v, as), as, {}} : v);
  }
  const Value out{unique(around_.name(origin_) + "_" + does), type, {}};
  auto n = add_node(graph_, does, out.node, type);
  for (std::size_t i = 0; i < inputs.size(); ++i) give(n, inputs[i].first, inputs[i].second.first, ready[i]);
  return out;
}

void Nodes::give(pugi::xml_node to, const char* input, const std::string& type, const Value& v) {
  if (!v.node.empty()) return add_from(to, input, type, v.node);
  add_value(to, input, type, text_of(v.constant, type));
}

// A value as a node of a type.
std::string Nodes::node_of(const Value& v, const std::string& type) {
  if (!v.node.empty() && v.type == type) return v.node;
  if (v.node.empty()) return add("constant", type, {{"value", {type, v}}}).node;
  const std::string key = v.node + " as " + type;
  if (const auto it = known_.find(key); it != known_.end()) return it->second.node;
  const std::string name = unique(v.node + "_thrice");
  add_from(add_node(graph_, "convert", name, type), "in", v.type, v.node);
  return (known_[key] = {name, type, {}}).node;
}

Nodes::Value Nodes::one(const std::string& does, const std::string& type, const Value& in) {
  return add(does, type, {{"in", {type, in}}});
}

// Three numbers with one for all: the standard has it where the one comes second.
Nodes::Value Nodes::two(const std::string& does, const std::string& type, Value a, Value b) {
  const auto is_single = [](const Value& v) { return v.node.empty() ? is_even(v.constant) : v.type == "float"; };
  const bool turns_about = does == "add" || does == "multiply" || does == "min" || does == "max";
  if (type != "float" && turns_about && is_single(a) && !is_single(b)) std::swap(a, b);
  return add(does, type, {{"in1", {type, a}}, {"in2", {type != "float" && is_single(b) ? "float" : type, b}}});
}

Nodes::Value Nodes::whether(const char* does, const Value& x, const Value& y, const Value& yes, const Value& no,
                            const std::string& type) {
  return add(does, type,
             {{"value1", {"float", x}}, {"value2", {"float", y}}, {"in1", {type, yes}}, {"in2", {type, no}}});
}

}  // namespace loom::mtlx
