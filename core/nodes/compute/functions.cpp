// One node for each function of mathematics.
#include <cmath>

#include "core/nodes/each_strand.h"

namespace loom {
namespace {

struct Maths {
  const char *id, *label, *help;
  int operands;
  Op op;
  double a, b, c;
  const char* words;
};

constexpr Maths kMaths[] = {
    {"absolute", "Absolute", "The size without its sign.", 1, Op::absolute, -0.5, 0, 0, "abs"},
    {"add", "Add", "a + b.", 2, Op::add, 0.25, 0.5, 0, "plus sum"},
    {"arccosine", "Arccosine", "The angle in radians whose cosine is a; a is kept within -1 to 1.", 1, Op::arccosine,
     0.5, 0, 0, "acos"},
    {"arcsine", "Arcsine", "The angle in radians whose sine is a; a is kept within -1 to 1.", 1, Op::arcsine, 0.5, 0, 0,
     "asin"},
    {"arctangent", "Arctangent", "The angle in radians whose tangent is a.", 1, Op::arctangent, 0.5, 0, 0, "atan"},
    {"arctangent_2", "Arctangent 2", "The angle in radians of the point with height a and width b; 0 for the origin.",
     2, Op::arctangent2, 0.5, 0.5, 0, "atan2 angle"},
    {"ceiling", "Ceiling", "The next whole number up.", 1, Op::ceiling, 0.5, 0, 0, "ceil"},
    {"cosine", "Cosine", "The cosine of a in radians.", 1, Op::cosine, 0.5, 0, 0, "cos wave"},
    {"divide", "Divide", "a / b; 0 where b is 0.", 2, Op::divide, 0.5, 2, 0, "ratio quotient"},
    {"exponential", "Exponential", "e to the power a.", 1, Op::exponential, 0.5, 0, 0, "exp"},
    {"floor", "Floor", "The next whole number down.", 1, Op::floor, 1.5, 0, 0, ""},
    {"fractional_part", "Fractional part", "What a has above the whole number below it.", 1, Op::fraction, 1.5, 0, 0,
     "fract frac wrap"},
    {"greater", "Greater", "1 where a > b, else 0.", 2, Op::greater, 0.5, 0.4, 0, "compare more"},
    {"less", "Less", "1 where a < b, else 0.", 2, Op::less, 0.4, 0.5, 0, "compare"},
    {"logarithm", "Logarithm", "The natural logarithm; 0 for 0 or less.", 1, Op::logarithm, 2, 0, 0, "log ln"},
    {"maximum", "Maximum", "The greater of a and b.", 2, Op::maximum, 0.25, 0.5, 0, "max union"},
    {"minimum", "Minimum", "The lesser of a and b.", 2, Op::minimum, 0.25, 0.5, 0, "min intersection"},
    {"modulo", "Modulo", "The remainder of a / b with the sign of b; 0 where b is 0.", 2, Op::modulo, 1.25, 0.5, 0,
     "mod remainder repeat"},
    {"multiply", "Multiply", "a times b.", 2, Op::multiply, 0.5, 2, 0, "product times scale"},
    {"multiply_add", "Multiply-add", "a times b, plus c.", 3, Op::multiply_add, 0.5, 2, 0.25, "fma mad"},
    {"power", "Power", "a to the power b; 0 for a negative a unless b is whole, and for 0 to a negative power.", 2,
     Op::power, 0.5, 2, 0, "pow exponent"},
    {"square_root", "Square root", "The square root; 0 for negatives.", 1, Op::root, 0.25, 0, 0, "sqrt root"},
    {"round", "Round", "The nearest whole number, halves up.", 1, Op::round, 0.75, 0, 0, ""},
    {"sign", "Sign", "-1, 0 or 1.", 1, Op::sign, 0.5, 0, 0, ""},
    {"sine", "Sine", "The sine of a in radians.", 1, Op::sine, 0.5, 0, 0, "sin wave"},
    {"smoothstep", "Smoothstep", "A soft step of c from 0 at a to 1 at b; equal bounds give a hard step.", 3,
     Op::smoothstep, 0, 1, 0.4, "ease"},
    {"step", "Step", "1 from the edge a on, else 0: where b is at least a.", 2, Op::less_equal, 0.5, 0.5, 0,
     "edge threshold heaviside from binary"},
    {"subtract", "Subtract", "a - b.", 2, Op::subtract, 0.5, 0.25, 0, "minus difference"},
    {"tangent", "Tangent", "The tangent of a in radians; 0 where the cosine is 0.", 1, Op::tangent, 0.5, 0, 0, "tan"}};

const Maths& maths_of(const NodeType& type) {
  for (const Maths& m : kMaths)
    if (type.id == m.id) return m;
  return kMaths[0];
}

void emit_functions(Emitter& e) {
  Builder& b = e.b;
  const Maths& m = maths_of(e.type());
  const Kind kind = e.widest();
  const Strands x = convert(b, e.in("a"), kind), y = m.operands > 1 ? convert(b, e.in("b"), kind) : x,
                z = m.operands > 2 ? convert(b, e.in("c"), kind) : x;
  Strands out{.kind = kind};
  for (std::size_t i = 0; i < static_cast<std::size_t>(strand_count(kind)); ++i)
    out.at[i] = m.operands == 1   ? b.apply(m.op, x.at[i])
                : m.operands == 2 ? b.apply(m.op, x.at[i], y.at[i])
                                  : b.apply(m.op, x.at[i], y.at[i], z.at[i]);
  e.out("result", out);
}

Parameter number_operand(const char* id, double initial) {
  const std::string label(1, static_cast<char>(id[0] - 32));
  return scalar(id, label, initial).useful(-1, 1).limits(-1e6, 1e6).column("Operands").stands_in();
}

void add_maths(Catalogue& catalogue, const Maths& m) {
  NodeType t{.id = m.id,
             .label = m.label,
             .rack = Rack::compute,
             .help = m.help,
             .words = m.words,
             .outputs = {{"result", "Result", Kind::any}},
             .emit = emit_functions};
  const char* names[] = {"a", "b", "c"};
  const double initial[] = {m.a, m.b, m.c};
  for (int i = 0; i < m.operands; ++i) {
    t.inputs.push_back({names[i], std::string(1, static_cast<char>('A' + i)), Kind::any});
    t.parameters.push_back(number_operand(names[i], initial[i]));
  }
  catalogue.add(t);
}

Strands difference(Builder& b, const Strands& p, const Strands& q, Kind kind) {
  Strands out{.kind = kind};
  for (std::size_t i = 0; i < static_cast<std::size_t>(strand_count(kind)); ++i) out.at[i] = b.sub(p.at[i], q.at[i]);
  return out;
}

Parameter vector_operand(const char* id, Vector initial) {
  return colour(id, number_operand(id, 0).label, std::move(initial))
      .useful(-1, 1)
      .limits(-1e6, 1e6)
      .column("Operands")
      .stands_in();
}

}  // namespace

void add_functions(Catalogue& catalogue) {
  for (const Maths& m : kMaths) add_maths(catalogue, m);
  const std::vector<Peg> two{{"a", "A", Kind::any}, {"b", "B", Kind::any}};
  catalogue.add({.id = "interpolate",
                 .label = "Interpolate",
                 .rack = Rack::compute,
                 .help = "From a to b by t.",
                 .words = "lerp mix",
                 .inputs = {{"a", "A", Kind::any}, {"b", "B", Kind::any}, {"t", "T"}},
                 .outputs = {{"result", "Result", Kind::any}},
                 .parameters = {number_operand("a", 0), number_operand("b", 1), number_operand("t", 0.5)},
                 .emit =
                     [](Emitter& e) {
                       const Kind kind = e.widest();
                       const Strands x = e.in_as("a", kind), y = e.in_as("b", kind);
                       const Reg t = e.scalar("t");
                       Strands out{.kind = kind == Kind::normal ? Kind::vector3 : kind};
                       for (std::size_t i = 0; i < static_cast<std::size_t>(strand_count(kind)); ++i)
                         out.at[i] = e.b.mix(x.at[i], y.at[i], t);
                       e.out("result", convert(e.b, out, kind));  // between directions lies a direction
                     },
                 .keeps_normals = true});
  catalogue.add({.id = "nearly_equal",
                 .label = "Nearly equal",
                 .rack = Rack::compute,
                 .help = "1 where a and b differ by no more than the tolerance, else 0.",
                 .words = "compare same",
                 .inputs = {{"a", "A"}, {"b", "B"}},
                 .outputs = {{"result", "Result"}},
                 .parameters = {number_operand("a", 0.5), number_operand("b", 0.5),
                                scalar("tolerance", "Tolerance", 0.01)
                                    .useful(0, 0.5)
                                    .limits(0, 1e6)
                                    .column("Operands")
                                    .help("How far two values may differ and still count as equal.")},
                 .emit = [](Emitter& e) {
                   e.out("result", e.b.apply(Op::less_equal, e.b.abs(e.b.sub(e.scalar("a"), e.scalar("b"))),
                                             e.b.constant(e.real("tolerance"))));
                 }});
  catalogue.add({.id = "dot",
                 .label = "Dot",
                 .rack = Rack::compute,
                 .help = "The dot product of a and b.",
                 .words = "scalar product projection",
                 .inputs = two,
                 .outputs = {{"result", "Result"}},
                 .parameters = {vector_operand("a", {0.5, 0.5, 0.5}), vector_operand("b", {1, 0, 0})},
                 .emit = [](Emitter& e) {
                   const Kind kind =
                       wider(e.widest(), e.connected("a") && e.connected("b") ? Kind::scalar : Kind::vector3);
                   e.out("result", dot(e.b, convert(e.b, e.in("a"), kind), convert(e.b, e.in("b"), kind)));
                 }});
  catalogue.add({.id = "length",
                 .label = "Length",
                 .rack = Rack::compute,
                 .help = "The length of a vector.",
                 .words = "magnitude norm",
                 .inputs = {{"a", "A", Kind::any}},
                 .outputs = {{"result", "Result"}},
                 .parameters = {number_operand("a", 0.5)},
                 .emit = [](Emitter& e) {
                   const Strands a = e.in("a");
                   e.out("result", e.b.root(dot(e.b, a, a)));
                 }});
  catalogue.add({.id = "distance_between_points",
                 .label = "Distance between points",
                 .rack = Rack::compute,
                 .help = "How far a lies from b.",
                 .words = "length of",
                 .inputs = two,
                 .outputs = {{"result", "Result"}},
                 .parameters = {number_operand("a", 0.25), number_operand("b", 0.5)},
                 .emit = [](Emitter& e) {
                   const Kind kind = e.widest();
                   const Strands d =
                       difference(e.b, convert(e.b, e.in("a"), kind), convert(e.b, e.in("b"), kind), kind);
                   e.out("result", e.b.root(dot(e.b, d, d)));
                 }});
  catalogue.add({.id = "cross",
                 .label = "Cross",
                 .rack = Rack::compute,
                 .help = "The cross product: a vector square to both.",
                 .words = "perpendicular product",
                 .inputs = {{"a", "A", Kind::vector3}, {"b", "B", Kind::vector3}},
                 .outputs = {{"result", "Result", Kind::vector3}},
                 .parameters = {vector_operand("a", {1, 0, 0}), vector_operand("b", {0, 1, 0})},
                 .emit = [](Emitter& e) {
                   Builder& b = e.b;
                   const Strands p = e.in("a"), q = e.in("b");
                   Strands out{.kind = Kind::vector3};
                   for (std::size_t i = 0; i < 3; ++i) {
                     const std::size_t j = (i + 1) % 3, k = (i + 2) % 3;
                     out.at[i] = b.sub(b.mul(p.at[j], q.at[k]), b.mul(p.at[k], q.at[j]));
                   }
                   e.out("result", out);
                 }});
  catalogue.add({.id = "normalise",
                 .label = "Normalise",
                 .rack = Rack::compute,
                 .help = "The direction of a vector, of length 1; 0 for a zero vector.",
                 .words = "unit direction",
                 .inputs = {{"a", "A", Kind::vector3}},
                 .outputs = {{"result", "Result", Kind::vector3}},
                 .parameters = {vector_operand("a", {0.5, 0.5, 0.5})},
                 .emit = [](Emitter& e) {
                   const Strands a = e.in("a");
                   const Reg size = e.b.root(dot(e.b, a, a));
                   e.out("result", each_strand(a, [&](Reg x) { return e.b.div(x, size); }));
                 }});
}

}  // namespace loom
