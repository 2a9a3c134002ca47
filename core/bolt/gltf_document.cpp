// Source: glTF 2.0 specification, Khronos 2021 (ISO/IEC 12113:2022), and its ratified extensions
// KHR_materials_specular, _ior, _clearcoat, _sheen, _anisotropy and _emissive_strength.
#include <algorithm>
#include <cmath>

#include "core/bolt/documents.h"
#include "core/bolt/map_file.h"
#include "core/graph/disc.h"

namespace loom {
namespace {

constexpr std::size_t kMostTexture = std::size_t{2} << 30;

// What a texture of a glTF is made of, and whether the material has anything that is no constant in it.
struct Role {
  const char* name;
  std::vector<std::pair<const char*, ChannelSource>> channels;  // empty: the slot of its name, whole
  int bits;
  bool dither, scale;
};

std::vector<Role> roles_of(const Material& m) {
  const auto is_map = [&](const char* slot) { return m.hem.count(slot) != 0; };
  std::vector<Role> roles;
  if (is_map("opacity"))
    roles.push_back(
        {"base_colour_opacity",
         {{"r", {"base_colour", 0}}, {"g", {"base_colour", 1}}, {"b", {"base_colour", 2}}, {"a", {"opacity"}}},
         8,
         true,
         false});
  else if (is_map("base_colour"))
    roles.push_back({"base_colour", {}, 8, true, false});
  if (is_map("occlusion") || is_map("roughness") || is_map("metallic"))
    roles.push_back({"packed", {{"r", {"occlusion"}}, {"g", {"roughness"}}, {"b", {"metallic"}}}, 8, true, false});
  if (is_map("normal")) roles.push_back({"normal", {}, 16, true, false});
  if (is_map("emissive")) roles.push_back({"emissive", {}, 8, true, true});
  if (is_map("specular_weight"))
    roles.push_back(
        {"specular",
         {{"r", {"", -1, false, 1}}, {"g", {"", -1, false, 1}}, {"b", {"", -1, false, 1}}, {"a", {"specular_weight"}}},
         8,
         true,
         false});
  if (is_map("coat_weight") || is_map("coat_roughness"))
    roles.push_back(
        {"coat", {{"r", {"coat_weight"}}, {"g", {"coat_roughness"}}, {"b", {"", -1, false, 0}}}, 8, true, false});
  if (is_map("fuzz_color")) roles.push_back({"fuzz_color", {}, 8, true, false});
  return roles;
}

FileDelivery file_of(const Role& role) {
  FileDelivery file{role.name};
  file.bits = role.bits, file.dither = role.dither, file.scale = role.scale;
  for (const auto& [channel, source] : role.channels) file.channels[channel] = source;
  return file;
}

bool same_contents(const FileDelivery& a, const FileDelivery& b) {
  return a.format == b.format && a.bits == b.bits && a.channels == b.channels && a.scale == b.scale;
}

// The name under which a role's file goes, beside what the plan has.
std::string name_of(const Role& role, const DeliveryPlan& plan) {
  const FileDelivery wanted = file_of(role);
  for (const FileDelivery& f : plan.files) {
    if (!f.on || f.name != role.name) continue;
    const bool turned = std::string_view(role.name) == "normal" && !plan.green_up;
    if (!same_contents(f, wanted) || turned) return std::string(role.name) + "_gltf";
  }
  return role.name;
}

// Vertices of a glTF, three for each triangle.
struct Corners {
  std::vector<float> position, normal, tile, tangent;
  void add(Vec3 p, Vec3 n, std::array<float, 2> uv, Vec3 along, float hand) {
    for (const float x : {p.x, p.y, p.z}) position.push_back(x);
    for (const float x : {n.x, n.y, n.z}) normal.push_back(x);
    for (const float x : uv) tile.push_back(x);
    for (const float x : {along.x, along.y, along.z, hand}) tangent.push_back(x);
  }
};

// One tile as wide as it is, facing the default camera. v runs down, as in a glTF.
Corners tile_corners(float metres) {
  Corners c;
  const float h = metres / 2;
  const std::array<std::array<float, 2>, 4> uv{{{0, 0}, {0, 1}, {1, 1}, {1, 0}}};
  for (const std::size_t i : {0, 1, 2, 0, 2, 3})
    c.add({(uv[i][0] * 2 - 1) * h, (1 - uv[i][1] * 2) * h, 0}, {0, 0, 1}, uv[i], {1, 0, 0}, 1);
  return c;
}

// Along u within the surface; the other way is up in the picture, against v.
Corners mesh_corners(const Mesh& mesh, const Charts& charts) {
  Corners c;
  for (std::size_t t = 0; t < mesh.triangle.size(); ++t) {
    const ChartFrame frame = chart_frame(mesh, charts, static_cast<std::uint32_t>(t));
    for (std::size_t i = 0; i < 3; ++i) {
      const std::uint32_t at = mesh.triangle[t][i];
      const Vec3 n = normalised(mesh.normal[at]);
      Vec3 along = frame.along_u - n * dot(n, frame.along_u);
      if (!(dot(along, along) > 1e-20f)) along = std::abs(n.x) < 0.9f ? cross(n, {1, 0, 0}) : cross(n, {0, 1, 0});
      along = normalised(along);
      c.add(mesh.position[at], n, charts.of[t][i], along, dot(cross(n, along), frame.along_v) > 0 ? -1.0f : 1.0f);
    }
  }
  return c;
}

Json rounded(const std::array<float, 3>& v) { return {v[0], v[1], v[2]}; }

class GltfDocument {
 public:
  GltfDocument(const Material& material, const DeliveryPlan& plan, const DeliveryReport& report) : m_(material) {
    for (const Role& role : roles_of(material)) {
      const DeliveredFile* file = find_file(report, name_of(role, plan));
      if (!file) continue;
      texture_[role.name] = static_cast<int>(images_.size());
      images_.push_back(file);
    }
    doc_["asset"] = {{"version", "2.0"}, {"generator", "Wild Loom"}};
    doc_["scene"] = 0;
    doc_["scenes"] = {{{"nodes", {0}}}};
    doc_["nodes"] = {{{"mesh", 0}, {"name", m_.name}}};
  }

  void show(const Corners& c) {
    const auto view = [&](const std::vector<float>& floats, const char* type, std::size_t each) {
      const std::size_t begin = binary_.size();
      binary_.append(reinterpret_cast<const char*>(floats.data()), floats.size() * sizeof(float));
      doc_["bufferViews"].push_back(
          {{"buffer", 0}, {"byteOffset", begin}, {"byteLength", floats.size() * sizeof(float)}, {"target", 34962}});
      doc_["accessors"].push_back({{"bufferView", doc_["bufferViews"].size() - 1},
                                   {"componentType", 5126},
                                   {"count", floats.size() / each},
                                   {"type", type}});
      return doc_["accessors"].size() - 1;
    };
    Json attributes;
    attributes["POSITION"] = view(c.position, "VEC3", 3);
    Json& place = doc_["accessors"].back();
    for (std::size_t k = 0; k < 3; ++k) {
      float least = INFINITY, most = -INFINITY;
      for (std::size_t i = k; i < c.position.size(); i += 3)
        least = std::min(least, c.position[i]), most = std::max(most, c.position[i]);
      place["min"].push_back(least), place["max"].push_back(most);
    }
    attributes["NORMAL"] = view(c.normal, "VEC3", 3);
    attributes["TEXCOORD_0"] = view(c.tile, "VEC2", 2);
    attributes["TANGENT"] = view(c.tangent, "VEC4", 4);
    doc_["meshes"] = {{{"primitives", {{{"attributes", attributes}, {"material", 0}}}}}};
  }

  void dress() {
    Json& mat = material_;
    mat["name"] = m_.name;
    base(mat);
    if (has("normal")) mat["normalTexture"] = texture("normal");
    if (has("packed") && m_.hem.count("occlusion")) mat["occlusionTexture"] = texture("packed");
    emissive(mat);
    if (m_.hem.count("opacity")) mat["alphaMode"] = "MASK", mat["alphaCutoff"] = 0.5;
    const bool thin = number("geometry_thin_walled", 0) > 0;
    if (m_.hem.count("opacity") || thin) mat["doubleSided"] = true;
    specular();
    coat();
    fuzz();
    if (number("specular_roughness_anisotropy", 0) > 0)
      extension("KHR_materials_anisotropy", {{"anisotropyStrength", number("specular_roughness_anisotropy", 0)}});
    doc_["materials"] = {material_};
    if (images_.empty()) return;
    doc_["samplers"] = {{{"magFilter", 9729}, {"minFilter", 9987}, {"wrapS", 10497}, {"wrapT", 10497}}};
    for (std::size_t i = 0; i < images_.size(); ++i) doc_["textures"].push_back({{"source", i}, {"sampler", 0}});
  }

  // Slots that are maps and that no texture holds.
  std::string not_carried() const {
    static const std::array kCarried = {"base_colour", "opacity",        "occlusion", "roughness",
                                        "metallic",    "normal",         "emissive",  "specular_weight",
                                        "coat_weight", "coat_roughness", "fuzz_color"};
    std::string all;
    for (const auto& [slot, from] : m_.hem)
      if (std::find(kCarried.begin(), kCarried.end(), slot) == kCarried.end()) all += (all.empty() ? "" : ", ") + slot;
    return all;
  }

  // Beside its maps, with its numbers in a file of their own.
  Result<std::vector<std::filesystem::path>> write_apart(const std::filesystem::path& path) {
    Json doc = doc_;
    for (const DeliveredFile* image : images_)
      doc["images"].push_back({{"uri", image->path.filename().string()}, {"mimeType", "image/png"}});
    auto numbers = path;
    numbers.replace_extension(".bin");
    doc["buffers"] = {{{"byteLength", binary_.size()}, {"uri", numbers.filename().string()}}};
    if (const auto done = write_file(numbers, binary_); !done) return done.error();
    if (const auto done = write_file(path, doc.dump(1, ' ', false, Json::error_handler_t::replace) + "\n"); !done)
      return done.error();
    return std::vector{path, numbers};
  }

  // All in one file. Source: section 4.4, the GLB container.
  Result<std::vector<std::filesystem::path>> write_whole(const std::filesystem::path& path) {
    Json doc = doc_;
    std::string binary = binary_;
    for (const DeliveredFile* image : images_) {
      const auto bytes = read_file(image->path, kMostTexture);
      if (!bytes) return bytes.error();
      doc["images"].push_back({{"bufferView", doc["bufferViews"].size()}, {"mimeType", "image/png"}});
      doc["bufferViews"].push_back({{"buffer", 0}, {"byteOffset", binary.size()}, {"byteLength", bytes->size()}});
      binary += *bytes;
      binary.resize((binary.size() + 3) / 4 * 4, '\0');
    }
    doc["buffers"] = {{{"byteLength", binary.size()}}};
    std::string json = doc.dump(-1, ' ', false, Json::error_handler_t::replace);
    json.resize((json.size() + 3) / 4 * 4, ' ');
    std::string out;
    const auto put = [&](std::size_t n) {
      for (const int shift : {0, 8, 16, 24}) out += static_cast<char>(static_cast<std::uint32_t>(n) >> shift);
    };
    put(0x46546c67), put(2), put(12 + 8 + json.size() + 8 + binary.size());
    put(json.size()), put(0x4e4f534a);
    out += json;
    put(binary.size()), put(0x004e4942);
    out += binary;
    if (const auto done = write_file(path, out); !done) return done.error();
    return std::vector{path};
  }

 private:
  bool has(const char* role) const { return texture_.count(role) != 0; }
  Json texture(const char* role) const { return {{"index", texture_.at(role)}}; }
  double number(const char* slot, double where_map) const {
    const auto c = constant_of(m_, slot);
    return c ? static_cast<double>((*c)[0]) : where_map;
  }

  void extension(const char* name, Json body) {
    material_["extensions"][name] = std::move(body);
    doc_["extensionsUsed"].push_back(name);
  }

  void base(Json& mat) {
    Json pbr;
    const char* role = has("base_colour_opacity") ? "base_colour_opacity" : "base_colour";
    if (has(role)) {
      pbr["baseColorTexture"] = texture(role);
    } else {
      Json factor = rounded(constant_of(m_, "base_colour").value_or(std::array{1.0f, 1.0f, 1.0f}));
      for (Json& x : factor) x = std::clamp(x.get<double>(), 0.0, 1.0);
      factor.push_back(std::clamp(number("opacity", 1), 0.0, 1.0));
      pbr["baseColorFactor"] = factor;
      if (factor[3].get<double>() < 1) mat["alphaMode"] = "BLEND";
    }
    if (has("packed")) {
      pbr["metallicRoughnessTexture"] = texture("packed");
    } else {
      pbr["metallicFactor"] = std::clamp(number("metallic", 0), 0.0, 1.0);
      pbr["roughnessFactor"] = std::clamp(number("roughness", 1), 0.0, 1.0);
    }
    mat["pbrMetallicRoughness"] = pbr;
  }

  // A factor may be 1 at most: what is brighter is its strength, and the texture was scaled by it.
  void emissive(Json& mat) {
    double strength = 1;
    if (has("emissive")) {
      mat["emissiveTexture"] = texture("emissive");
      mat["emissiveFactor"] = {1, 1, 1};
      strength = static_cast<double>(images_[static_cast<std::size_t>(texture_.at("emissive"))]->most);
    } else if (const auto c = constant_of(m_, "emissive"); c && std::max({(*c)[0], (*c)[1], (*c)[2]}) > 0) {
      strength = static_cast<double>(std::max({(*c)[0], (*c)[1], (*c)[2], 1.0f}));
      mat["emissiveFactor"] = Json::array();
      for (const float x : *c) mat["emissiveFactor"].push_back(std::max(0.0, static_cast<double>(x)) / strength);
    }
    if (strength > 1) extension("KHR_materials_emissive_strength", {{"emissiveStrength", strength}});
  }

  void specular() {
    if (has("specular"))
      extension("KHR_materials_specular", {{"specularTexture", texture("specular")}});
    else if (number("specular_weight", 1) != 1)
      extension("KHR_materials_specular", {{"specularFactor", std::clamp(number("specular_weight", 1), 0.0, 1.0)}});
    const double ior = number("specular_ior", 1.5);
    if (ior != 1.5 && ior >= 1) extension("KHR_materials_ior", {{"ior", ior}});
  }

  void coat() {
    if (has("coat"))
      extension("KHR_materials_clearcoat", {{"clearcoatFactor", 1},
                                            {"clearcoatTexture", texture("coat")},
                                            {"clearcoatRoughnessFactor", 1},
                                            {"clearcoatRoughnessTexture", texture("coat")}});
    else if (number("coat_weight", 0) > 0)
      extension("KHR_materials_clearcoat",
                {{"clearcoatFactor", std::clamp(number("coat_weight", 0), 0.0, 1.0)},
                 {"clearcoatRoughnessFactor", std::clamp(number("coat_roughness", 0), 0.0, 1.0)}});
  }

  void fuzz() {
    const double weight = std::clamp(number("fuzz_weight", 1), 0.0, 1.0);
    if (weight == 0) return;
    Json body{{"sheenRoughnessFactor", std::clamp(number("fuzz_roughness", 0.5), 0.0, 1.0)}};
    body["sheenColorFactor"] = Json::array();
    const auto colour = constant_of(m_, "fuzz_color").value_or(std::array{1.0f, 1.0f, 1.0f});
    for (const float x : colour)
      body["sheenColorFactor"].push_back(std::clamp(static_cast<double>(x) * weight, 0.0, 1.0));
    if (has("fuzz_color")) body["sheenColorTexture"] = texture("fuzz_color");
    extension("KHR_materials_sheen", std::move(body));
  }

  const Material& m_;
  std::map<std::string, int> texture_;  // by role
  std::vector<const DeliveredFile*> images_;
  Json doc_, material_;
  std::string binary_;
};

}  // namespace

std::vector<FileDelivery> gltf_files(const Material& material, const DeliveryPlan& plan) {
  std::vector<FileDelivery> files;
  for (const Role& role : roles_of(material)) {
    FileDelivery file = file_of(role);
    file.name = name_of(role, plan);
    if (file.channels.empty() && file.name != role.name) file.channels["r"] = {role.name};
    file.green_up = true;
    files.push_back(std::move(file));
  }
  return files;
}

Result<Done> write_gltf(const Material& material, const DeliveryPlan& plan, const ShownOn& on, DeliveryReport& report) {
  GltfDocument document(material, plan, report);
  document.show(on.mesh ? mesh_corners(*on.mesh, *on.charts) : tile_corners(static_cast<float>(material.tile_metres)));
  document.dress();
  std::vector<std::filesystem::path> written;
  auto path = plan.folder / file_name(material, plan, FileDelivery{"gltf"});
  for (const bool whole : {false, true}) {
    if (!(whole ? plan.glb : plan.gltf)) continue;
    path.replace_extension(whole ? ".glb" : ".gltf");
    auto files = whole ? document.write_whole(path) : document.write_apart(path);
    if (!files) return files.error();
    written.insert(written.end(), files->begin(), files->end());
  }
  for (const auto& file : written) {
    note_other_file(file.extension().string().substr(1), file, report);
  }
  if (const std::string rest = document.not_carried(); !rest.empty())
    report.warnings.push_back("glTF has no place for " + rest);
  return Done{};
}

}  // namespace loom
