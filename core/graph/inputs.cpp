#include "core/graph/inputs.h"

namespace loom {
namespace {

const std::string* word_of(const std::map<std::string, ParamValue>& params, const char* id) {
  const auto it = params.find(id);
  return it == params.end() ? nullptr : std::get_if<std::string>(&it->second);
}

double number_of(const GroupPeg& input, const char* id, double fallback) {
  const auto it = input.params.find(id);
  const auto* number = it == input.params.end() ? nullptr : std::get_if<double>(&it->second);
  return number ? *number : fallback;
}

ParamValue held(const GroupPeg& input, const char* id, ParamValue fallback) {
  const auto it = input.params.find(id);
  return it == input.params.end() ? fallback : it->second;
}

}  // namespace

GroupPeg input_of(const Node& node) {
  GroupPeg peg;
  peg.id = node.group.empty() ? node.id : node.group;
  peg.label = node.name.empty() ? "Input" : node.name;
  const std::string* kind = word_of(node.params, "kind");
  peg.kind = kind ? *kind : std::string(kind_name(Kind::scalar));
  peg.params = node.params;
  peg.params.erase("kind");
  const std::string* stands = word_of(node.params, "stands_in");
  if (stands && *stands == kStandsInside)
    peg.params.erase("stands_in");
  else
    peg.params["stands_in"] = stands ? *stands : std::string(kStandsTyped);
  return peg;
}

Node node_of(const GroupPeg& input) {
  Node node;
  node.type = kComesIn;
  node.name = input.label.empty() ? input.id : input.label;
  node.group = input.id;
  node.params = input.params;
  node.params["kind"] = input.kind;
  node.params["stands_in"] = stands_in(input);
  return node;
}

std::string stands_in(const GroupPeg& input) {
  const std::string* stands = word_of(input.params, "stands_in");
  return stands ? *stands : kStandsInside;
}

bool is_required(const GroupPeg& input) { return number_of(input, "required", 0) != 0; }

bool leaves_it_inside(const Node& node) {
  if (node.type != kComesIn) return false;
  const std::string* stands = word_of(node.params, "stands_in");
  return stands && *stands == kStandsInside;
}

const char* typed_parameter(const GroupPeg& input) {
  switch (kind_from_name(input.kind)) {
    case Kind::scalar:
      return "number";
    case Kind::vector2:
      return "pair";
    case Kind::colour:
    case Kind::colour_alpha:
      return "paint";
    default:
      return nullptr;
  }
}

std::optional<Parameter> control_of(const GroupPeg& input) {
  const std::string stands = stands_in(input), label = input.label.empty() ? input.id : input.label;
  const std::string* help = word_of(input.params, "help");
  const auto told = [&](ParameterBuilder made) {
    return std::optional<Parameter>(
        made.column("Inputs")
            .acts_when("connected(" + input.id + ") == 0", "It comes in at its peg.")
            .help(help && !help->empty() ? *help : "What stands in while nothing is connected at its peg."));
  };
  if (stands == kStandsPicture) {
    Parameter made = *told(file(input.id, label, {"png", "jpg", "jpeg", "tif", "tiff", "exr", "hdr"}));
    made.initial = held(input, "file", std::string());
    return made;
  }
  const char* typed = stands == kStandsTyped ? typed_parameter(input) : nullptr;
  if (!typed) return {};
  const Kind kind = kind_from_name(input.kind);
  if (kind == Kind::scalar)
    return told(scalar(input.id, label, held(input, typed, 0.5))
                    .useful(number_of(input, "from", 0), number_of(input, "to", 1))
                    .limits(-1e6, 1e6));
  if (kind == Kind::vector2)
    return told(vector2(input.id, label, held(input, typed, Vector{0, 0})).useful(-1, 1).limits(-1e6, 1e6));
  const ParamValue paint = held(input, typed, Vector{0.5, 0.5, 0.5});
  const auto* lanes = std::get_if<Vector>(&paint);
  return told(colour(input.id, label, lanes ? *lanes : Vector{0.5, 0.5, 0.5}).limits(0, 1000));
}

std::optional<std::map<std::string, ParamValue>> stand_in(const GroupPeg& input, const ParamValue* own) {
  if (stands_in(input) == kStandsInside && !is_required(input)) return {};
  std::map<std::string, ParamValue> params = node_of(input).params;
  if (own) {
    if (const char* typed = stands_in(input) == kStandsPicture ? "file" : typed_parameter(input)) params[typed] = *own;
  }
  return params;
}

std::optional<PlainNode> plain_stand_in(const GroupPeg& input, const ParamValue* own) {
  const auto control = control_of(input);
  if (!control) return {};
  const ParamValue held_here = own ? *own : control->initial;
  const auto made = [&](const char* type, const char* param, const char* peg) {
    Node node;
    node.type = type;
    node.name = input.label;
    node.params[param] = held_here;
    return std::optional(PlainNode{std::move(node), peg});
  };
  switch (control->kind) {
    case ParameterKind::file: {
      const Kind kind = kind_from_name(input.kind);
      if (!converts(Kind::colour, kind)) return {};
      auto image = made("image", "file", "colour");
      if (kind != Kind::colour && kind != Kind::colour_alpha)
        image->node.params["colour_space"] = std::string("linear");
      return image;
    }
    case ParameterKind::colour:
      return made("colour", "colour", "colour");
    case ParameterKind::vector2:
      return made("vector", "vector", "vector");
    default:
      return made("value", "value", "value");
  }
}

}  // namespace loom
