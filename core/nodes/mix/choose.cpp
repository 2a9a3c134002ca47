// Choose by a range, Switch by number, Split channels and Join channels.
#include "core/graph/material.h"
#include "core/nodes/each_strand.h"

namespace loom {
namespace {

constexpr const char* kWays[] = {"input_1", "input_2", "input_3", "input_4", "input_5", "input_6"};

void emit_choose(Emitter& e) {
  Builder& b = e.b;
  const Reg value = e.scalar("value"), is_below = b.less(value, e.scalar("low")),
            is_above = b.less(e.scalar("high"), value);
  const Kind kind = e.widest();
  const Strands below = e.in_as("below", kind), between = e.in_as("between", kind), above = e.in_as("above", kind);
  Strands out{.kind = kind};
  for (std::size_t i = 0; i < static_cast<std::size_t>(strand_count(kind)); ++i)
    out.at[i] = b.select(is_below, below.at[i], b.select(is_above, above.at[i], between.at[i]));
  e.out("result", out);
}

// The chosen input alone is worked out: the others cost nothing.
void emit_switch(Emitter& e) { e.out("result", e.in_as(kWays[e.integer("chosen") - 1], e.widest())); }

void emit_split(Emitter& e) {
  const Strands in = convert(e.b, e.in("source"), Kind::colour_alpha);
  const char* names[] = {"first", "second", "third", "fourth"};
  for (std::size_t i = 0; i < 4; ++i) e.out(names[i], in.at[i]);
}

Kind joined_kind(const std::string& word) {
  return kind_from_name(word) == Kind::any ? Kind::colour : kind_from_name(word);
}

Kind join_gives(const Node& node, const std::function<Kind(const std::string&)>&) {
  const auto held = node.params.find("as");
  const auto* word = held == node.params.end() ? nullptr : std::get_if<std::string>(&held->second);
  return joined_kind(word ? *word : "colour");
}

void emit_join(Emitter& e) {
  const Strands out{.kind = joined_kind(e.word("as")),
                    .at = {e.scalar("first"), e.scalar("second"), e.scalar("third"), e.scalar("fourth")}};
  e.out("result",
        out.kind == Kind::normal ? convert(e.b, Strands{.kind = Kind::vector3, .at = out.at}, Kind::normal) : out);
}

Parameter input(const char* id, const char* label, double initial, const char* column = "Inputs") {
  return stand_in(id, label, initial, column);
}

}  // namespace

void add_choose(Catalogue& catalogue) {
  catalogue.add(
      {.id = "choose",
       .label = "Choose",
       .rack = Rack::mix,
       .help = "One of three: below a range of values, between its bounds, or above it.",
       .more =
           "The bounds themselves lie between. On a smooth noise two bounds close to each other show the middle input "
           "as a hairline.",
       .words = "if compare condition branch select greater less equal",
       .inputs = {{"value", "Value"},
                  {"low", "Low"},
                  {"high", "High"},
                  {"below", "Below", Kind::any},
                  {"between", "Between", Kind::any},
                  {"above", "Above", Kind::any}},
       .outputs = {{"result", "Result", Kind::any}},
       .parameters = {input("value", "Value", 0.5, "Range"), input("low", "Low", 0.4, "Range"),
                      input("high", "High", 0.6, "Range"), input("below", "Below", 0), input("between", "Between", 0.5),
                      input("above", "Above", 1)},
       .emit = emit_choose,
       .keeps_normals = true});
  NodeType t{.id = "switch",
             .label = "Switch",
             .rack = Rack::mix,
             .help = "Passes one of up to six inputs on, chosen by its number.",
             .more = "What is not chosen is not worked out. Takes cords too.",
             .words = "select pick multiplex variant choose",
             .outputs = {{"result", "Result", Kind::any}},
             .emit = emit_switch,
             .takes_regions = true,
             .takes_sets = true,
             .keeps_normals = true};
  t.parameters = {
      integer("chosen", "Chosen", 1).count().useful(1, 6).column("Switch").help("Which of the inputs comes out.")};
  for (int i = 0; i < 6; ++i) {
    const std::string id = kWays[i], n = std::to_string(i + 1);
    t.inputs.push_back(
        {.id = id, .label = "Input " + n, .kind = Kind::any, .shown_when = "max(chosen, 2) + 1 >= " + n});
    t.parameters.push_back(scalar(id, "Input " + n, i / 5.0)
                               .limits(-1e6, 1e6)
                               .column("Inputs")
                               .stands_in("(connected(" + id + ") == 0) * (chosen == " + n + ")",
                                          "It comes in at its peg, or is not chosen."));
  }
  catalogue.add(t);
  catalogue.add({.id = "split_channels",
                 .label = "Split channels",
                 .rack = Rack::mix,
                 .help = "The strands of a colour or vector, one by one.",
                 .more = "A missing third strand is 0, a missing fourth is 1; a scalar is repeated.",
                 .words = "separate red green blue alpha rgba xyz extract",
                 .inputs = {{"source", "Source", Kind::any}},
                 .outputs = {{"first", "First (red, u, x)"},
                             {"second", "Second (green, v, y)"},
                             {"third", "Third (blue, z)"},
                             {"fourth", "Fourth (alpha)"}},
                 .parameters = {stand_in("source", "Source", 0.5, "Input")},
                 .emit = emit_split});
  catalogue.add({.id = "join_channels",
                 .label = "Join channels",
                 .rack = Rack::mix,
                 .help = "Strands side by side as a colour, vector or normal.",
                 .words = "combine red green blue alpha rgba xyz merge",
                 .inputs = {{"first", "First"}, {"second", "Second"}, {"third", "Third"}, {"fourth", "Fourth"}},
                 .outputs = {{"result", "Result", Kind::any}},
                 .parameters = {choice("as", "As", {"colour", "colour_alpha", "vector2", "vector3", "normal"})
                                    .column("Kind")
                                    .help("What kind of value the strands become."),
                                input("first", "First", 0.5), input("second", "Second", 0.5),
                                scalar("third", "Third", 0.5)
                                    .limits(-1e6, 1e6)
                                    .column("Inputs")
                                    .stands_in("(connected(third) == 0) * (as != vector2)",
                                               "It comes in at its peg, or the result has two strands."),
                                scalar("fourth", "Fourth", 1.0)
                                    .limits(-1e6, 1e6)
                                    .column("Inputs")
                                    .stands_in("(connected(fourth) == 0) * (as == colour_alpha)",
                                               "It comes in at its peg, or the result has no fourth strand.")},
                 .emit = emit_join,
                 .gives = join_gives});
}

}  // namespace loom
