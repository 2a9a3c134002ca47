#include "core/bolt/mtlx_frame.h"

#include <charconv>
#include <sstream>

#include "core/bolt/documents.h"
#include "core/graph/disc.h"

namespace loom::mtlx {

pugi::xml_node add_node(pugi::xml_node in, const std::string& kind, const std::string& name, const std::string& type) {
  auto n = in.append_child(kind.c_str());
  n.append_attribute("name") = name.c_str();
  n.append_attribute("type") = type.c_str();
  return n;
}

pugi::xml_node add_input(pugi::xml_node of, const char* name, const std::string& type) {
  return add_node(of, "input", name, type);
}

void add_value(pugi::xml_node of, const char* name, const std::string& type, const std::string& value) {
  add_input(of, name, type).append_attribute("value") = value.c_str();
}

void add_from(pugi::xml_node of, const char* name, const std::string& type, const std::string& node) {
  add_input(of, name, type).append_attribute("nodename") = node.c_str();
}

std::string text_of(const std::array<float, 3>& v, std::string_view type) {
  const auto digits = [](float x) {
    std::array<char, 48> text{};
    return std::string(text.data(), std::to_chars(text.begin(), text.end(), x).ptr);
  };
  if (type != "color3" && type != "vector3") return digits(v[0]);
  return digits(v[0]) + ", " + digits(v[1]) + ", " + digits(v[2]);
}

// Where a slot goes in a shading node.
struct Frame::Goes {
  const char *slot, *input, *type;
};

struct Frame::Surface {
  const char* node;
  std::vector<Goes> goes;
};

const std::vector<Frame::Surface>& Frame::surfaces() {
  static const std::vector<Surface> kSurfaces = {
      {"open_pbr_surface",
       {{"base_colour", "base_color", "color3"},
        {"metallic", "base_metalness", "float"},
        {"roughness", "specular_roughness", "float"},
        {"normal", "geometry_normal", "vector3"},
        {"opacity", "geometry_opacity", "float"},
        {"emissive", "emission_color", "color3"},
        {"specular_weight", "specular_weight", "float"},
        {"specular_ior", "specular_ior", "float"},
        {"specular_roughness_anisotropy", "specular_roughness_anisotropy", "float"},
        {"coat_weight", "coat_weight", "float"},
        {"coat_roughness", "coat_roughness", "float"},
        {"fuzz_weight", "fuzz_weight", "float"},
        {"fuzz_color", "fuzz_color", "color3"},
        {"fuzz_roughness", "fuzz_roughness", "float"},
        {"subsurface_weight", "subsurface_weight", "float"},
        {"subsurface_color", "subsurface_color", "color3"},
        {"subsurface_scatter_anisotropy", "subsurface_scatter_anisotropy", "float"}}},
      {"gltf_pbr",
       {{"base_colour", "base_color", "color3"},
        {"metallic", "metallic", "float"},
        {"roughness", "roughness", "float"},
        {"normal", "normal", "vector3"},
        {"occlusion", "occlusion", "float"},
        {"opacity", "alpha", "float"},
        {"emissive", "emissive", "color3"},
        {"specular_weight", "specular", "float"},
        {"specular_ior", "ior", "float"},
        {"specular_roughness_anisotropy", "anisotropy_strength", "float"},
        {"coat_weight", "clearcoat", "float"},
        {"coat_roughness", "clearcoat_roughness", "float"},
        {"fuzz_roughness", "sheen_roughness", "float"}}},
      {"standard_surface",
       {{"base_colour", "base_color", "color3"},
        {"metallic", "metalness", "float"},
        {"roughness", "specular_roughness", "float"},
        {"normal", "normal", "vector3"},
        {"opacity", "opacity", "color3"},
        {"emissive", "emission_color", "color3"},
        {"specular_weight", "specular", "float"},
        {"specular_ior", "specular_IOR", "float"},
        {"specular_roughness_anisotropy", "specular_anisotropy", "float"},
        {"coat_weight", "coat", "float"},
        {"coat_roughness", "coat_roughness", "float"},
        {"fuzz_weight", "sheen", "float"},
        {"fuzz_color", "sheen_color", "color3"},
        {"fuzz_roughness", "sheen_roughness", "float"},
        {"subsurface_weight", "subsurface", "float"},
        {"subsurface_color", "subsurface_color", "color3"},
        {"subsurface_scatter_anisotropy", "subsurface_anisotropy", "float"}}}};
  return kSurfaces;
}

Frame::Frame(const Material& material, const std::string& what) : m_(material), name_(id_of_name(material.name)) {
  root_ = xml_.append_child("materialx");
  root_.append_attribute("version") = "1.39";
  root_.append_attribute("colorspace") = "lin_rec709";
  graph_ = root_.append_child("nodegraph");
  graph_.append_attribute("name") = (what + "_of_" + name_).c_str();
}

void Frame::give(const std::string& slot, const std::string& type, const std::string& node) {
  add_node(graph_, "output", slot, type).append_attribute("nodename") = node.c_str();
  outputs_[slot] = type;
}

// Where one node does what several did, those lead nowhere.
void Frame::drop_unread() {
  std::map<std::string, pugi::xml_node> nodes;
  std::vector<pugi::xml_node> waiting;
  for (const auto& n : graph_.children())
    if (std::string_view(n.name()) == "output")
      waiting.push_back(n);
    else
      nodes[n.attribute("name").value()] = n;
  const auto reach = [&](const pugi::xml_node& from) {
    const auto at = nodes.find(from.attribute("nodename").value());
    if (at == nodes.end()) return;
    waiting.push_back(at->second);
    nodes.erase(at);
  };
  while (!waiting.empty()) {
    const auto n = waiting.back();
    waiting.pop_back();
    reach(n);
    for (const auto& input : n.children()) reach(input);
  }
  for (const auto& [name, unread] : nodes) graph_.remove_child(unread);
}

std::string Frame::text() {
  drop_unread();
  for (const Surface& s : surfaces()) add_surface(s);
  if (!graph_.first_child()) root_.remove_child(graph_);
  std::ostringstream out;
  xml_.save(out, "  ");
  return out.str();
}

void Frame::from_graph(pugi::xml_node shader, const Goes& g) {
  const std::string has = outputs_.at(g.slot);
  std::string out = g.slot;
  if (has == "float" && std::string_view(g.type) == "color3") {
    out = std::string(g.slot) + "_grey";
    if (!outputs_.count(out)) {
      const std::string from = graph_.find_child_by_attribute("output", "name", g.slot).attribute("nodename").value();
      auto n = add_node(graph_, "convert", out + "_colour", "color3");
      add_from(n, "in", "float", from);
      auto o = add_node(graph_, "output", out, "color3");
      o.append_attribute("nodename") = (out + "_colour").c_str();
      outputs_[out] = "color3";
    }
  }
  auto i = add_input(shader, g.input, g.type);
  i.append_attribute("nodegraph") = graph_.attribute("name").value();
  i.append_attribute("output") = out.c_str();
}

bool Frame::is_said(const std::string& s) const {
  return m_.hem_values.count(s) || s == "base_colour" || s == "metallic" || s == "roughness";
}

void Frame::add_surface(const Surface& s) {
  const std::string shader = std::string(s.node) + "_of_" + name_;
  auto n = add_node(root_, s.node, shader, "surfaceshader");
  for (const Goes& g : s.goes) {
    if (outputs_.count(g.slot))
      from_graph(n, g);
    else if (const auto c = constant_of(m_, g.slot); c && is_said(g.slot))
      add_value(n, g.input, g.type, text_of(*c, g.type));
  }
  const bool glows = outputs_.count("emissive") || m_.hem_values.count("emissive");
  const bool thin = constant_of(m_, "geometry_thin_walled").value_or(std::array{0.0f, 0.0f, 0.0f})[0] > 0;
  const std::string_view kind = s.node;
  if (kind == "open_pbr_surface" && glows) add_value(n, "emission_luminance", "float", "1");
  if (kind == "standard_surface" && glows) add_value(n, "emission", "float", "1");
  if (kind == "open_pbr_surface" && thin) add_value(n, "geometry_thin_walled", "boolean", "true");
  if (kind == "standard_surface" && thin) add_value(n, "thin_walled", "boolean", "true");
  if (kind == "gltf_pbr" && outputs_.count("opacity")) add_value(n, "alpha_mode", "integer", "1");  // cut at one half
  auto material = add_node(root_, "surfacematerial", name_ + "_" + s.node, "material");
  add_from(material, "surfaceshader", "surfaceshader", shader);
  if (outputs_.count("height")) add_from(material, "displacementshader", "displacementshader", relief());
  auto look = root_.append_child("look");
  look.append_attribute("name") = (std::string("look_") + s.node).c_str();
  auto assign = look.append_child("materialassign");
  assign.append_attribute("name") = (std::string("assign_") + s.node).c_str();
  assign.append_attribute("material") = (name_ + "_" + s.node).c_str();
  assign.append_attribute("geom") = "/";
}

// Height 0 lies on the surface, 1 as deep as the relief.
std::string Frame::relief() {
  const std::string name = "relief_of_" + name_;
  if (root_.find_child_by_attribute("displacement", "name", name.c_str())) return name;
  auto n = add_node(root_, "displacement", name, "displacementshader");
  auto i = add_input(n, "displacement", "float");
  i.append_attribute("nodegraph") = graph_.attribute("name").value();
  i.append_attribute("output") = "height";
  const auto metres = static_cast<float>(m_.relief_metres);
  add_value(n, "scale", "float", text_of({metres, metres, metres}, "float"));
  return name;
}

}  // namespace loom::mtlx
