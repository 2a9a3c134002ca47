// Input: what a group or a packaged material asks for of whoever uses it.
#include "core/graph/material.h"
#include "core/nodes/picture.h"

namespace loom {
namespace {

Kind kind_of(const Node& node) {
  const auto it = node.params.find("kind");
  const auto* word = it == node.params.end() ? nullptr : std::get_if<std::string>(&it->second);
  return word ? kind_from_name(*word) : Kind::scalar;
}

Kind gives(const Node& node, const std::function<Kind(const std::string&)>&) { return kind_of(node); }

Strands typed(Emitter& e, Kind kind) {
  Builder& b = e.b;
  Strands out{.kind = kind};
  const auto set = [&](const Vector& lanes) {
    for (std::size_t i = 0; i < lanes.size(); ++i) out.at[i] = b.constant(static_cast<float>(lanes[i]));
  };
  if (kind == Kind::scalar) set({e.number("number")});
  if (kind == Kind::vector2) set(e.vector("pair"));
  if (kind == Kind::colour || kind == Kind::colour_alpha) set(e.vector("paint"));
  if (kind == Kind::colour_alpha) out.at[3] = b.constant(1);
  return out;
}

// A map of numbers is taken as it is written; a normal map holds its directions in 0 to 1.
Strands from_file(Emitter& e, Kind kind) {
  const bool colours = kind == Kind::colour || kind == Kind::colour_alpha;
  const auto table = e.laid<DrawnTable>([&] { return lay_picture(e, {colours ? Colours::as_said : Colours::linear}); });
  Strands out{.kind = kind};
  if (e.fault) return out;
  const Strands read = picture_colour(e, table);
  out.at = read.at;
  if (kind == Kind::colour_alpha) out.at[3] = table->planes.size() == 4 ? read_drawn(e, table, 3) : e.b.constant(1);
  if (kind != Kind::normal) return out;
  Strands direction{.kind = Kind::vector3};
  for (std::size_t i = 0; i < 3; ++i) direction.at[i] = e.b.multiply_add(read.at[i], e.b.constant(2), e.b.constant(-1));
  return convert(e.b, direction, Kind::normal);
}

void emit_input(Emitter& e) {
  const Kind kind = kind_from_name(e.word("kind"));
  const bool picture = e.is("stands_in", "picture");
  if (const auto* file = e.file("file"); picture && file && !*file) e.fault = file->error();
  const bool has_maps = kind != Kind::set && kind != Kind::regions;
  if (has_maps && picture)
    e.out("value", from_file(e, kind));
  else if (has_maps && kind != Kind::normal && kind != Kind::vector3 && e.is("stands_in", "typed"))
    e.out("value", typed(e, kind));
  else
    e.out("value", e.in_as("value", kind));
}

}  // namespace

void add_input(Catalogue& catalogue) {
  const std::string not_typed = "Something else stands in, or this kind cannot be typed.";
  catalogue.add(
      {.id = kComesIn,
       .label = "Input",
       .rack = Rack::make,
       .help = "What comes in from outside: a peg of the group, or of the material where it is used as one node.",
       .more = "In the material's own window, and wherever nothing is connected outside, what stands in comes in. A "
               "picture of numbers or directions is read as it is written, one of colours as it says itself; a normal "
               "map has green up.",
       .words = "argument port entry outside receive default required",
       .outputs = {{"value", "Value", Kind::any}},
       .parameters =
           {choice("kind", "Kind",
                   {"scalar", "vector2", "vector3", "normal", "colour", "colour_alpha", "regions", "set"})
                .column("Input")
                .help("What kind of thread ends in its peg."),
            choice("stands_in", "Stands in", {"typed", "picture", "inside"})
                .column("Input")
                .help("What comes in while nothing is connected: a typed value, a picture, or what the nodes inside "
                      "hold of themselves."),
            toggle("required", "Required")
                .column("Input")
                .help("A use of it without a thread is a fault that is shown."),
            text("help", "Help", "").column("Input").help("One sentence for whoever connects it."),
            scalar("number", "Number", 0.5)
                .limits(-1e6, 1e6)
                .column("Stands in")
                .acts_when("(kind == scalar) * (stands_in == typed)", not_typed)
                .help("The number that stands in; a use can type another."),
            scalar("from", "Range from", 0.0)
                .limits(-1e6, 1e6)
                .column("Stands in")
                .help("Where the slider of a use begins."),
            scalar("to", "Range to", 1.0).limits(-1e6, 1e6).column("Stands in").help("Where the slider of a use ends."),
            vector2("pair", "Pair", 0, 0)
                .useful(-1, 1)
                .limits(-1e6, 1e6)
                .column("Stands in")
                .acts_when("(kind == vector2) * (stands_in == typed)", not_typed)
                .help("The pair of numbers that stands in."),
            colour("paint", "Colour", {0.5, 0.5, 0.5})
                .limits(0, 1000)
                .column("Stands in")
                .acts_when("((kind == colour) + (kind == colour_alpha)) * (stands_in == typed)", not_typed)
                .help("The colour that stands in."),
            file("file", "File", {"png", "jpg", "jpeg", "tif", "tiff", "exr", "hdr"})
                .column("Stands in")
                .acts_when("(stands_in == picture) * (kind != regions) * (kind != set)", "No picture stands in.")
                .help("The picture that stands in.")},
       .emit = emit_input,
       .gives = gives,
       .follows_positions = true});
}

}  // namespace loom
