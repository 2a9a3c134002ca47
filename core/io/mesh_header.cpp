#include "core/io/mesh_header.h"

#include <algorithm>
#include <array>
#include <cstring>
#include <nlohmann/json.hpp>
#include <sstream>
#include <string_view>
#include <vector>

#include "core/base/brackets.h"
#include "core/io/mesh.h"

namespace loom {
namespace {

using Json = nlohmann::json;

constexpr const char *kDamaged = "has a damaged header",
                     *kPromises = "promises more than it holds, or than can be taken", *kDeep = "is nested too deep";

// The library makes room for what a header promises before it finds out that it is not there, and searches for the end
// of a header that has none.
std::string fault_of_ply(std::istream& in, std::uintmax_t bytes) {
  constexpr std::array<std::string_view, 6> kWords = {"ply", "format", "comment", "obj_info", "element", "property"};
  std::string line;
  for (int i = 0; i < 1000 && std::getline(in, line); ++i) {
    std::istringstream words(line);
    std::string word, name;
    double count = 0;
    words >> word;
    if (word == "end_header") return i > 0 ? "" : kDamaged;
    if (std::find(kWords.begin(), kWords.end(), word) == kWords.end() || (i == 0) != (word == "ply")) return kDamaged;
    if (word == "element" && !(words >> name >> count && count >= 0)) return kDamaged;
    if (count > static_cast<double>(bytes)) return kPromises;
  }
  return kDamaged;
}

// What a stranger's document has under a name; null where it has nothing, or is of another kind.
const Json& member(const Json& of, const char* name) {
  static const Json kNothing;
  const auto it = of.is_object() ? of.find(name) : of.end();
  return it == of.end() ? kNothing : *it;
}
const Json& entry(const Json& of, const Json& index) {
  static const Json kNothing;
  const bool there = of.is_array() && index.is_number_unsigned() && index.get<std::size_t>() < of.size();
  return there ? of[index.get<std::size_t>()] : kNothing;
}
double number(const Json& value) { return value.is_number() ? std::abs(value.get<double>()) : 0; }

double sum_of(const Json& list, const char* name) {
  double sum = 0;
  if (list.is_array())
    for (const Json& one : list) sum += number(member(one, name));
  return sum;
}

// Corners of a mesh, as often as nodes show it.
double corners_shown(const Json& document) {
  const Json &accessors = member(document, "accessors"), &meshes = member(document, "meshes"),
             &nodes = member(document, "nodes");
  std::vector<double> corners;
  for (std::size_t m = 0; m < meshes.size() && meshes.is_array(); ++m) {
    double sum = 0;
    if (const Json& primitives = member(meshes[m], "primitives"); primitives.is_array())
      for (const Json& p : primitives) {
        const Json& indices = member(p, "indices");
        const Json& counted = indices.is_null() ? member(member(p, "attributes"), "POSITION") : indices;
        sum += number(member(entry(accessors, counted), "count"));
      }
    corners.push_back(sum);
  }
  double all = 0;
  if (nodes.is_array())
    for (const Json& node : nodes)
      if (const Json& mesh = member(node, "mesh");
          mesh.is_number_unsigned() && mesh.get<std::size_t>() < corners.size())
        all += corners[mesh.get<std::size_t>()];
  return all;
}

// Nodes are trees: each has one parent at most, and none is far from its root.
bool nodes_are_trees(const Json& nodes) {
  constexpr int kMostLevels = 256;
  if (!nodes.is_array()) return true;
  constexpr std::size_t kNone = ~std::size_t{0};
  std::vector<std::size_t> parent(nodes.size(), kNone);
  for (std::size_t i = 0; i < nodes.size(); ++i)
    if (const Json& children = member(nodes[i], "children"); children.is_array())
      for (const Json& child : children) {
        if (!child.is_number_unsigned() || child.get<std::size_t>() >= nodes.size()) return false;
        if (std::exchange(parent[child.get<std::size_t>()], i) != kNone) return false;
      }
  for (std::size_t i = 0; i < nodes.size(); ++i) {
    int levels = 0;
    for (std::size_t at = i; at != kNone; at = parent[at])
      if (++levels > kMostLevels) return false;
  }
  return true;
}

std::string fault_of_gltf(std::istream& in, bool binary, std::uintmax_t bytes) {
  std::string text;
  if (binary) {  // 12 bytes of header, then the length and the kind of the first piece
    std::array<char, 20> head{};
    in.read(head.data(), head.size());
    std::uint32_t length = 0;
    std::memcpy(&length, &head[12], sizeof length);
    if (!in || length > bytes) return kDamaged;
    text.resize(length);
    in.read(text.data(), length);
  } else {
    text.assign(std::istreambuf_iterator<char>(in), {});
  }
  constexpr int kMostBrackets = 64;
  if (nested_deeper(text, kMostBrackets)) return kDeep;
  const auto document = Json::parse(text, nullptr, false);
  if (document.is_discarded()) return kDamaged;
  if (!nodes_are_trees(member(document, "nodes"))) return kDeep;
  const bool fits = sum_of(member(document, "accessors"), "count") <= 16.0 * kMostTriangles &&
                    sum_of(member(document, "buffers"), "byteLength") <= static_cast<double>(kMostMeshBytes) &&
                    corners_shown(document) <= 3.0 * kMostTriangles;
  return fits ? "" : kPromises;
}

}  // namespace

std::string fault_of_header(std::istream& in, const std::string& ending, std::uintmax_t bytes) {
  if (ending == ".ply") return fault_of_ply(in, bytes);
  return ending == ".obj" ? "" : fault_of_gltf(in, ending == ".glb", bytes);
}

}  // namespace loom
