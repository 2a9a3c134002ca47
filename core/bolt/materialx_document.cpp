// Source: MaterialX specification 1.39 and its physically based shading nodes; the inputs' names are those of
// the 1.39.4 data library.
#include <algorithm>
#include <pugixml.hpp>
#include <set>
#include <sstream>

#include "core/bolt/documents.h"
#include "core/bolt/map_file.h"
#include "core/graph/disc.h"

namespace loom {
namespace {

// Where a slot goes in a shading node.
struct Goes {
  const char *slot, *input, *type;
};

struct Surface {
  const char* node;
  std::vector<Goes> goes;
};

const std::vector<Surface>& surfaces() {
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

std::string text_of(const std::array<float, 3>& v, std::string_view type) {
  std::ostringstream out;
  out << v[0];
  if (type == "color3" || type == "vector3") out << ", " << v[1] << ", " << v[2];
  return out.str();
}

// Where a delivered file holds a slot's strand.
struct Held {
  const FileDelivery* file = nullptr;
  const DeliveredFile* done = nullptr;
  int channel = 0;
  bool inverted = false;
};

class MaterialxDocument {
 public:
  MaterialxDocument(const Material& material, const DeliveryPlan& plan, const DeliveryReport& report)
      : m_(material), plan_(plan), report_(report), name_(id_of_name(material.name)) {
    root_ = xml_.append_child("materialx");
    root_.append_attribute("version") = "1.39";
    root_.append_attribute("colorspace") = "lin_rec709";
    maps_ = root_.append_child("nodegraph");
    maps_.append_attribute("name") = ("maps_of_" + name_).c_str();
  }

  std::string text() {
    lay_maps();
    for (const Surface& s : surfaces()) add_surface(s);
    if (!maps_.first_child()) root_.remove_child(maps_);
    std::ostringstream out;
    xml_.save(out, "  ");
    return out.str();
  }

  // Slots with a thread that stand in no file, or have no place in a document.
  std::string not_carried() const {
    std::string all;
    for (const auto& [slot, from] : m_.hem)
      if (!outputs_.count(slot) && slot != "height") all += (all.empty() ? "" : ", ") + slot;
    return all;
  }

 private:
  static pugi::xml_node node(pugi::xml_node in, const std::string& kind, const std::string& name, const char* type) {
    auto n = in.append_child(kind.c_str());
    n.append_attribute("name") = name.c_str();
    n.append_attribute("type") = type;
    return n;
  }
  static pugi::xml_node input(pugi::xml_node of, const char* name, const char* type) {
    auto i = of.append_child("input");
    i.append_attribute("name") = name;
    i.append_attribute("type") = type;
    return i;
  }
  static void value(pugi::xml_node of, const char* name, const char* type, const std::string& v) {
    input(of, name, type).append_attribute("value") = v.c_str();
  }
  static void from_node(pugi::xml_node of, const char* name, const char* type, const std::string& n) {
    input(of, name, type).append_attribute("nodename") = n.c_str();
  }

  std::optional<Held> held(const std::string& slot, int strand) const {
    for (const FileDelivery& f : plan_.files) {
      const DeliveredFile* done = f.on ? find_file(report_, f.name) : nullptr;
      if (!done || done->bits == 0) continue;
      if (f.channels.empty()) {
        if (f.name == slot) return Held{&f, done, strand, false};
        continue;
      }
      const bool whole = f.channels.size() == 1;
      for (const auto& [channel, source] : f.channels) {
        if (source.slot != slot) continue;
        if (whole && source.strand < 0) return Held{&f, done, strand, source.inverted};
        if (std::max(source.strand, 0) == strand)
          return Held{&f, done, static_cast<int>(std::string_view("rgba").find(channel[0])), source.inverted};
      }
    }
    return {};
  }

  int channels_of(const Held& h) const { return static_cast<int>(h.done->channels.size()); }

  // The image node of a file, once. Colours are decoded; all else comes as it stands in the file.
  std::string image(const Held& h) {
    const std::string name = "file_" + h.done->name;
    if (!images_.insert(name).second) return name;
    const int n = channels_of(h);
    const bool colour = h.done->srgb;
    const char* type = n == 1 ? "float" : n == 4 ? (colour ? "color4" : "vector4") : colour ? "color3" : "vector3";
    auto file = input(node(maps_, "image", name, type), "file", "filename");
    file.append_attribute("value") = h.done->path.filename().string().c_str();
    if (colour) file.append_attribute("colorspace") = "srgb_texture";
    types_[name] = type;
    return name;
  }

  // One number out of a file, turned about and stretched as the file has it.
  std::string strand(const Held& h, const std::string& as) {
    std::string from = image(h);
    if (channels_of(h) > 1) {
      auto n = node(maps_, "extract", as + "_in_file", "float");
      from_node(n, "in", types_[from].c_str(), from);
      value(n, "index", "integer", std::to_string(h.channel));
      from = as + "_in_file";
    }
    if (h.file->scale && h.file->format != ImageFormat::exr && (h.done->least < 0 || h.done->most > 1)) {
      const float low = std::min(h.done->least, 0.0f), high = std::max(h.done->most, 1.0f);
      from = number_with("multiply", as + "_range", from, high - low);
      from = number_with("add", as + "_from", from, low);
    }
    if (h.inverted) {
      auto n = node(maps_, "invert", as + "_turned", "float");
      from_node(n, "in", "float", from);
      from = as + "_turned";
    }
    return from;
  }

  std::string number_with(const char* does, const std::string& name, const std::string& from, float by) {
    auto n = node(maps_, does, name, "float");
    from_node(n, "in1", "float", from);
    value(n, "in2", "float", text_of({by, by, by}, "float"));
    return name;
  }

  std::string combined(const std::string& name, const char* type, const std::array<std::string, 3>& from) {
    auto n = node(maps_, "combine3", name, type);
    const char* ins[] = {"in1", "in2", "in3"};
    for (std::size_t i = 0; i < 3; ++i) from_node(n, ins[i], "float", from[i]);
    return name;
  }

  void output(const std::string& slot, const char* type, const std::string& from) {
    auto out = node(maps_, "output", slot, type);
    out.append_attribute("nodename") = from.c_str();
    outputs_[slot] = type;
  }

  void lay_maps() {
    for (const auto& [slot, unused] : m_.hem) {
      const Slot* known = known_slot(slot);
      if (!known || slot == "geometry_tangent" || slot == "geometry_thin_walled") continue;
      if (slot == "normal")
        lay_normal();
      else if (known->channels == 3)
        lay_colour(slot);
      else if (const auto h = held(slot, 0))
        output(slot, "float", strand(*h, slot));
    }
  }

  void lay_colour(const std::string& slot) {
    const auto h = held(slot, 0);
    if (!h) return;
    const bool straight = h->channel == 0 && !h->inverted && h->done->srgb && !h->file->scale && channels_of(*h) == 3;
    if (straight) return output(slot, "color3", image(*h));
    std::array<std::string, 3> from;
    for (int i = 0; i < 3; ++i) {
      const auto one = held(slot, i);
      if (!one) return;
      from[static_cast<std::size_t>(i)] = strand(*one, slot + "_" + "rgb"[i]);
    }
    output(slot, "color3", combined(slot + "_whole", "color3", from));
  }

  void lay_normal() {
    const auto h = held("normal", 0);
    if (!h) return;
    const bool up = h->file->green_up.value_or(plan_.green_up);
    std::string from;
    if (up && h->channel == 0 && channels_of(*h) == 3) {
      from = image(*h);
    } else {
      std::array<std::string, 3> parts;
      for (int i = 0; i < 3; ++i) {
        auto one = held("normal", i);
        if (!one) return;
        if (i == 1 && !up) one->inverted = !one->inverted;
        parts[static_cast<std::size_t>(i)] = strand(*one, std::string("normal_") + "xyz"[i]);
      }
      from = combined("normal_whole", "vector3", parts);
    }
    auto n = node(maps_, "normalmap", "normal_turned_in", "vector3");
    from_node(n, "in", "vector3", from);
    output("normal", "vector3", "normal_turned_in");
  }

  void from_maps(pugi::xml_node shader, const Goes& g) {
    const std::string has = outputs_.at(g.slot);
    std::string out = g.slot;
    if (has == "float" && std::string_view(g.type) == "color3") {
      out = std::string(g.slot) + "_grey";
      if (!outputs_.count(out)) {
        const std::string from = maps_.find_child_by_attribute("output", "name", g.slot).attribute("nodename").value();
        auto n = node(maps_, "convert", out + "_colour", "color3");
        from_node(n, "in", "float", from);
        auto o = node(maps_, "output", out, "color3");
        o.append_attribute("nodename") = (out + "_colour").c_str();
        outputs_[out] = "color3";
      }
    }
    auto i = input(shader, g.input, g.type);
    i.append_attribute("nodegraph") = maps_.attribute("name").value();
    i.append_attribute("output") = out.c_str();
  }

  bool is_said(const char* slot) const {
    const std::string s(slot);
    return m_.hem_values.count(s) || s == "base_colour" || s == "metallic" || s == "roughness";
  }

  void add_surface(const Surface& s) {
    const std::string shader = std::string(s.node) + "_of_" + name_;
    auto n = node(root_, s.node, shader, "surfaceshader");
    for (const Goes& g : s.goes) {
      if (outputs_.count(g.slot))
        from_maps(n, g);
      else if (const auto c = constant_of(m_, g.slot); c && is_said(g.slot))
        value(n, g.input, g.type, text_of(*c, g.type));
    }
    const bool glows = outputs_.count("emissive") || m_.hem_values.count("emissive");
    const bool thin = constant_of(m_, "geometry_thin_walled").value_or(std::array{0.0f, 0.0f, 0.0f})[0] > 0;
    const std::string_view kind = s.node;
    if (kind == "open_pbr_surface" && glows) value(n, "emission_luminance", "float", "1");
    if (kind == "standard_surface" && glows) value(n, "emission", "float", "1");
    if (kind == "open_pbr_surface" && thin) value(n, "geometry_thin_walled", "boolean", "true");
    if (kind == "standard_surface" && thin) value(n, "thin_walled", "boolean", "true");
    if (kind == "gltf_pbr" && outputs_.count("opacity")) value(n, "alpha_mode", "integer", "1");  // cut at one half
    auto material = node(root_, "surfacematerial", name_ + "_" + s.node, "material");
    from_node(material, "surfaceshader", "surfaceshader", shader);
    if (outputs_.count("height")) from_node(material, "displacementshader", "displacementshader", relief());
    auto look = root_.append_child("look");
    look.append_attribute("name") = (std::string("look_") + s.node).c_str();
    auto assign = look.append_child("materialassign");
    assign.append_attribute("name") = (std::string("assign_") + s.node).c_str();
    assign.append_attribute("material") = (name_ + "_" + s.node).c_str();
    assign.append_attribute("geom") = "/";
  }

  // Height 0 lies on the surface, 1 as deep as the relief.
  std::string relief() {
    const std::string name = "relief_of_" + name_;
    if (root_.find_child_by_attribute("displacement", "name", name.c_str())) return name;
    auto n = node(root_, "displacement", name, "displacementshader");
    auto i = input(n, "displacement", "float");
    i.append_attribute("nodegraph") = maps_.attribute("name").value();
    i.append_attribute("output") = "height";
    const auto metres = static_cast<float>(m_.relief_metres);
    value(n, "scale", "float", text_of({metres, metres, metres}, "float"));
    return name;
  }

  const Material& m_;
  const DeliveryPlan& plan_;
  const DeliveryReport& report_;
  std::string name_;
  pugi::xml_document xml_;
  pugi::xml_node root_, maps_;
  std::set<std::string> images_;
  std::map<std::string, std::string> types_, outputs_;  // of image nodes; by slot
};

}  // namespace

Result<Done> write_materialx(const Material& material, const DeliveryPlan& plan, DeliveryReport& report) {
  MaterialxDocument document(material, plan, report);
  auto path = plan.folder / file_name(material, plan, FileDelivery{"materialx"});
  path.replace_extension(".mtlx");
  if (const auto done = write_file(path, document.text()); !done) return done;
  note_other_file("mtlx", path, report);
  if (const std::string rest = document.not_carried(); !rest.empty())
    report.warnings.push_back("MaterialX has no place for " + rest);
  return Done{};
}

}  // namespace loom
