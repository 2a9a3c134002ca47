// Laid tiles, clouds and stripes stand for what an artist would connect.
#include "core/nodes/example.h"

#include <algorithm>

#include "core/graph/edit.h"
#include "core/graph/validate.h"

namespace loom {
namespace {

std::string add(Material& m, const Catalogue& catalogue, const char* type,
                std::initializer_list<std::pair<const char*, ParamValue>> params = {}) {
  std::string id;
  m = edit::add_node(std::move(m), catalogue, type, "relief", 0, 0, &id);
  for (const auto& [key, value] : params) m = edit::set_param(std::move(m), id, key, value);
  return id;
}

// Pegs that a Make node leaves free more often than not.
bool stays_free(const Peg& p) {
  for (const char* start : {"coordinates", "positions", "map_", "shape_", "motif_", "avoid", "profile", "mask_"})
    if (p.id.rfind(start, 0) == 0) return true;
  return p.kind == Kind::set;
}

std::string source_for(Material& m, const Catalogue& catalogue, const Peg& peg, int& scalars) {
  const auto laid = [&] {
    return add(m, catalogue, "masonry",
               {{"units_across", 3.0}, {"bed_joint", 0.03}, {"cross_joint", 0.03}, {"edge_rounding", 0.04}});
  };
  const auto noise = [&] { return add(m, catalogue, "gradient_noise", {{"scale", 5.0}}); };
  if (peg.kind == Kind::regions) return laid() + ".regions";
  if (peg.kind == Kind::normal) {
    const std::string height = laid() + ".height", normal = add(m, catalogue, "normal_from_height");
    const auto [node, out] = split_output(height);
    m = edit::connect(std::move(m), {node, out, normal, "height"});
    return normal + ".normal";
  }
  if (peg.kind == Kind::vector2 || peg.kind == Kind::vector3) {
    const std::string from = noise(), slope = add(m, catalogue, "slope");
    m = edit::connect(std::move(m), {from, "value", slope, catalogue.find("slope")->inputs.front().id});
    for (const Peg& out : catalogue.find("slope")->outputs)
      if (converts(out.kind, peg.kind)) return slope + "." + out.id;
    return {};
  }
  if (peg.kind == Kind::colour || peg.id == "upper") {
    const std::string from = noise(), dye = add(m, catalogue, "dye");
    m = edit::connect(std::move(m), {from, "value", dye, "value"});
    return dye + ".colour";
  }
  if (peg.id == "mask" || peg.id == "test") return laid() + ".mask";
  if (peg.id == "height" || peg.kind == Kind::any) return laid() + ".height";
  return ++scalars % 2 ? noise() + ".value" : add(m, catalogue, "bands", {{"count", 6.0}}) + ".mask";
}

}  // namespace

Material example_of(const NodeType& type, const Catalogue& catalogue) {
  Material m = edit::empty_material();
  auto node = std::make_shared<Node>();
  node->id = "shown";
  node->type = type.id;
  node->lane = "relief";
  m.nodes.push_back(std::move(node));
  int scalars = 0;
  for (const Peg& peg : type.inputs) {
    if (stays_free(peg)) continue;
    const auto [from, out] = split_output(source_for(m, catalogue, peg, scalars));
    const Thread thread{from, out, "shown", peg.id};
    if (!from.empty() && refusal(m, catalogue, thread).empty()) m = edit::connect(std::move(m), thread);
  }
  return m;
}

std::string example_output(const NodeType& type) {
  for (const char* first : {"height", "result", "colour", "value", "normal", "mask", "grey"})
    if (type.output(first)) return std::string("shown.") + first;
  return "shown." + type.outputs.front().id;
}

}  // namespace loom
