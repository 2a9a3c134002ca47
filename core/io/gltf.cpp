// The library parses the document and brings its buffers; what it hands over is trusted in nothing.
#include "core/io/gltf.h"

#include <cstring>
#include <limits>
#include <optional>
#include <stdexcept>

#include "core/io/gltf_library.h"
#include "core/io/mesh_builder.h"
#include "core/io/own_folder.h"

namespace loom {
namespace {

[[noreturn]] void damaged(const std::string& why) { throw std::runtime_error(why); }

// An entry of one of the document's lists.
template <class T>
const T& listed(const std::vector<T>& list, int index, const char* what) {
  if (index < 0 || static_cast<std::size_t>(index) >= list.size())
    damaged(std::string("it names a ") + what + " that is not there");
  return list[static_cast<std::size_t>(index)];
}

std::size_t bytes_of_component(int type) {
  switch (type) {
    case TINYGLTF_COMPONENT_TYPE_BYTE:
    case TINYGLTF_COMPONENT_TYPE_UNSIGNED_BYTE:
      return 1;
    case TINYGLTF_COMPONENT_TYPE_SHORT:
    case TINYGLTF_COMPONENT_TYPE_UNSIGNED_SHORT:
      return 2;
    case TINYGLTF_COMPONENT_TYPE_UNSIGNED_INT:
    case TINYGLTF_COMPONENT_TYPE_FLOAT:
      return 4;
    default:
      damaged("its numbers are of a kind that glTF does not know");
  }
}

// A number, a vector; 0 for a matrix.
std::size_t numbers_in(int type) {
  switch (type) {
    case TINYGLTF_TYPE_SCALAR:
      return 1;
    case TINYGLTF_TYPE_VEC2:
      return 2;
    case TINYGLTF_TYPE_VEC3:
      return 3;
    case TINYGLTF_TYPE_VEC4:
      return 4;
    default:
      return 0;
  }
}

template <class T>
T read_as(const unsigned char* at) {
  T value;
  std::memcpy(&value, at, sizeof value);
  return value;
}

double component(const unsigned char* at, int type) {
  switch (type) {
    case TINYGLTF_COMPONENT_TYPE_BYTE:
      return read_as<std::int8_t>(at);
    case TINYGLTF_COMPONENT_TYPE_UNSIGNED_BYTE:
      return *at;
    case TINYGLTF_COMPONENT_TYPE_SHORT:
      return read_as<std::int16_t>(at);
    case TINYGLTF_COMPONENT_TYPE_UNSIGNED_SHORT:
      return read_as<std::uint16_t>(at);
    case TINYGLTF_COMPONENT_TYPE_UNSIGNED_INT:
      return read_as<std::uint32_t>(at);
    default:
      return static_cast<double>(read_as<float>(at));
  }
}

// What 1 is of a whole number that stands for a share: section 3.6.2.1.
double whole_of(int type) {
  switch (type) {
    case TINYGLTF_COMPONENT_TYPE_BYTE:
      return 127;
    case TINYGLTF_COMPONENT_TYPE_UNSIGNED_BYTE:
      return 255;
    case TINYGLTF_COMPONENT_TYPE_SHORT:
      return 32767;
    case TINYGLTF_COMPONENT_TYPE_UNSIGNED_SHORT:
      return 65535;
    default:
      return 1;
  }
}

// `count` things of `size` bytes in a view of a buffer, a stride apart.
class Bytes {
 public:
  Bytes(const tinygltf::Model& model, int view, std::size_t offset, std::size_t size, std::size_t count) {
    const auto& v = listed(model.bufferViews, view, "view of a buffer");
    const auto& buffer = listed(model.buffers, v.buffer, "buffer").data;
    stride_ = v.byteStride ? v.byteStride : size;
    if (v.byteOffset > buffer.size() || v.byteLength > buffer.size() - v.byteOffset || offset > v.byteLength)
      damaged("a view reaches beyond its buffer");
    const std::size_t room = v.byteLength - offset;
    if (count && (size > room || (count - 1) > (room - size) / stride_)) damaged("its numbers reach beyond their view");
    first_ = buffer.data() + v.byteOffset + offset;
  }
  const unsigned char* at(std::size_t i) const { return first_ + i * stride_; }

 private:
  const unsigned char* first_;
  std::size_t stride_;
};

// Numbers, one after another, as an accessor has them.
class Numbers {
 public:
  Numbers(const tinygltf::Model& model, int accessor)
      : accessor_(listed(model.accessors, accessor, "list of numbers")),
        numbers_(numbers_in(accessor_.type)),
        component_(bytes_of_component(accessor_.componentType)) {
    if (numbers_ == 0) damaged("a matrix stands where numbers are asked for");
    if (accessor_.bufferView >= 0)
      bytes_.emplace(model, accessor_.bufferView, accessor_.byteOffset, numbers_ * component_, accessor_.count);
    if (accessor_.sparse.isSparse) read_sparse(model);
  }
  std::size_t count() const { return accessor_.count; }
  std::size_t numbers() const { return numbers_; }
  std::array<float, 4> at(std::size_t i) const {
    const auto other = others_.find(i);
    const unsigned char* const from = other != others_.end() ? other->second : bytes_ ? bytes_->at(i) : nullptr;
    std::array<float, 4> v{};
    if (!from) return v;  // without a view they are 0
    const double whole = accessor_.normalized ? whole_of(accessor_.componentType) : 1;
    for (std::size_t k = 0; k < numbers_; ++k) {
      const double x = component(from + k * component_, accessor_.componentType) / whole;
      v[k] = static_cast<float>(accessor_.normalized ? std::max(x, -1.0) : x);
    }
    return v;
  }
  std::uint32_t index_at(std::size_t i) const {
    const double x = bytes_ ? component(bytes_->at(i), accessor_.componentType) : 0;
    return x >= 0 && x < 4294967295.0 ? static_cast<std::uint32_t>(x) : std::numeric_limits<std::uint32_t>::max();
  }

 private:
  // Some that stand elsewhere than the others: section 3.6.2.3.
  void read_sparse(const tinygltf::Model& model) {
    const auto& s = accessor_.sparse;
    if (s.count < 0 || s.indices.byteOffset < 0 || s.values.byteOffset < 0) damaged("its sparse numbers have no place");
    const auto count = static_cast<std::size_t>(s.count);
    const Bytes indices(model, s.indices.bufferView, static_cast<std::size_t>(s.indices.byteOffset),
                        bytes_of_component(s.indices.componentType), count),
        values(model, s.values.bufferView, static_cast<std::size_t>(s.values.byteOffset), numbers_ * component_, count);
    for (std::size_t i = 0; i < count; ++i)
      others_[static_cast<std::size_t>(std::max(component(indices.at(i), s.indices.componentType), 0.0))] =
          values.at(i);
  }
  const tinygltf::Accessor& accessor_;
  std::size_t numbers_, component_;
  std::optional<Bytes> bytes_;
  std::map<std::size_t, const unsigned char*> others_;
};

// Where a node's mesh stands: places are x, y and z times these columns, from `at`.
struct Placing {
  Vec3 x{1, 0, 0}, y{0, 1, 0}, z{0, 0, 1}, at{};
  Vec3 turned(Vec3 v) const { return x * v.x + y * v.y + z * v.z; }
  Vec3 placed(Vec3 v) const { return turned(v) + at; }
  Placing under(const Placing& above) const {
    return {above.turned(x), above.turned(y), above.turned(z), above.placed(at)};
  }
  bool mirrors() const { return dot(cross(x, y), z) < 0; }
  // By the cofactors, so that normals stay upright under scales of several measures.
  Vec3 normal(Vec3 n) const {
    const Vec3 turned = cross(y, z) * n.x + cross(z, x) * n.y + cross(x, y) * n.z;
    return mirrors() ? turned * -1 : turned;
  }
};

Vec3 three(const std::vector<double>& v, std::size_t from = 0) {
  return {static_cast<float>(v[from]), static_cast<float>(v[from + 1]), static_cast<float>(v[from + 2])};
}

Placing placing_of(const tinygltf::Node& node) {
  const auto& m = node.matrix;
  if (m.size() == 16) return {three(m), three(m, 4), three(m, 8), three(m, 12)};
  Placing p;
  if (const auto& q = node.rotation; q.size() == 4) {  // x, y, z, w of a unit quaternion
    const auto x = static_cast<float>(q[0]), y = static_cast<float>(q[1]), z = static_cast<float>(q[2]),
               w = static_cast<float>(q[3]);
    p.x = {1 - 2 * (y * y + z * z), 2 * (x * y + z * w), 2 * (x * z - y * w)};
    p.y = {2 * (x * y - z * w), 1 - 2 * (x * x + z * z), 2 * (y * z + x * w)};
    p.z = {2 * (x * z + y * w), 2 * (y * z - x * w), 1 - 2 * (x * x + y * y)};
  }
  if (node.scale.size() == 3) {
    const Vec3 s = three(node.scale);
    p.x = p.x * s.x, p.y = p.y * s.y, p.z = p.z * s.z;
  }
  if (node.translation.size() == 3) p.at = three(node.translation);
  return p;
}

class GltfReader {
 public:
  explicit GltfReader(const tinygltf::Model& model) : model_(model), seen_(model.nodes.size()) { check(); }

  Result<Mesh> read(const std::string& name) {
    if (!model_.scenes.empty()) {
      for (const int root : listed(model_.scenes, std::max(model_.defaultScene, 0), "scene").nodes) visit(root, {});
    } else {
      std::vector<bool> is_child(model_.nodes.size());
      for (const auto& node : model_.nodes)
        for (const int child : node.children)
          if (child >= 0 && static_cast<std::size_t>(child) < is_child.size())
            is_child[static_cast<std::size_t>(child)] = true;
      for (std::size_t i = 0; i < is_child.size(); ++i)
        if (!is_child[i]) visit(static_cast<int>(i), {});
    }
    return builder_.finished(name);
  }

 private:
  // Geometry under a compression that is not read; and corners that many primitives share.
  void check() const {
    for (const std::string& needed : model_.extensionsRequired)
      if (needed.find("compression") != std::string::npos) damaged("it needs " + needed + ", which is not read");
    double corners = 0;
    for (const auto& mesh : model_.meshes)
      for (const auto& p : mesh.primitives)
        if (const auto at = p.attributes.find("POSITION"); at != p.attributes.end())
          corners += static_cast<double>(listed(model_.accessors, at->second, "list of numbers").count);
    if (corners > 16.0 * kMostTriangles) damaged("it promises more than can be taken");
  }

  void visit(int index, const Placing& above) {
    const auto& node = listed(model_.nodes, index, "node");
    if (seen_[static_cast<std::size_t>(index)]) return;
    seen_[static_cast<std::size_t>(index)] = true;
    const Placing placing = placing_of(node).under(above);
    if (node.mesh >= 0)
      for (const MeshPiece& piece : pieces_of(node.mesh)) add(piece, placing);
    for (const int child : node.children) visit(child, placing);
  }

  void add(const MeshPiece& from, const Placing& placing) {
    MeshPiece piece = from;
    for (Vec3& p : piece.position) p = placing.placed(p);
    for (Vec3& n : piece.normal) n = placing.normal(n);
    if (placing.mirrors())
      for (auto& t : piece.triangle) std::swap(t[1], t[2]);
    builder_.add(piece);
  }

  // Read once, however many nodes show them.
  const std::vector<MeshPiece>& pieces_of(int mesh) {
    const auto [it, fresh] = pieces_.try_emplace(mesh);
    if (fresh)
      for (const auto& primitive : listed(model_.meshes, mesh, "mesh").primitives)
        if (auto piece = piece_of(primitive)) it->second.push_back(std::move(*piece));
    return it->second;
  }

  std::optional<MeshPiece> piece_of(const tinygltf::Primitive& primitive) const {
    const auto at = primitive.attributes.find("POSITION");
    const int mode = primitive.mode < 0 ? TINYGLTF_MODE_TRIANGLES : primitive.mode;
    if (at == primitive.attributes.end() || mode < TINYGLTF_MODE_TRIANGLES) return {};  // points and lines
    const Numbers position(model_, at->second);
    MeshPiece piece;
    if (primitive.material >= 0) piece.part = listed(model_.materials, primitive.material, "material").name;
    piece.triangle = triangles_of(primitive, mode, position.count());
    const bool flat = primitive.attributes.count("NORMAL") == 0;
    const std::vector<std::uint32_t> corners = renumbered(piece.triangle, position.count(), flat);
    for (const std::uint32_t c : corners) {
      const auto p = position.at(c);
      piece.position.push_back({p[0], p[1], p[2]});
    }
    for (const auto& [name, accessor] : primitive.attributes) take(name, Numbers(model_, accessor), corners, piece);
    return piece;
  }

  static void take(const std::string& name, const Numbers& numbers, const std::vector<std::uint32_t>& corners,
                   MeshPiece& piece) {
    for (const char* left : {"POSITION", "TANGENT", "JOINTS", "WEIGHTS"})
      if (name.rfind(left, 0) == 0) return;
    MeshAttribute attribute{name, numbers.numbers(), {}, {}};
    for (const std::uint32_t c : corners) {
      if (c >= numbers.count()) damaged("a corner has no " + name);
      attribute.at.push_back(numbers.at(c));
    }
    if (name == "NORMAL")
      for (const auto& v : attribute.at) piece.normal.push_back({v[0], v[1], v[2]});
    else if (name == "TEXCOORD_0")
      for (const auto& v : attribute.at) piece.tile.push_back({v[0], v[1]});
    else
      piece.attributes.push_back(std::move(attribute));
  }

  // Strips and fans taken apart: section 3.7.2.1.
  std::vector<std::array<std::uint32_t, 3>> triangles_of(const tinygltf::Primitive& primitive, int mode,
                                                         std::size_t corners) const {
    std::optional<Numbers> indices;
    if (primitive.indices >= 0) indices.emplace(model_, primitive.indices);
    const std::size_t count = indices ? indices->count() : corners;
    const auto index = [&](std::size_t i) {
      const std::uint32_t c = indices ? indices->index_at(i) : static_cast<std::uint32_t>(i);
      if (c >= corners) damaged("a triangle has a corner that is not there");
      return c;
    };
    const bool list = mode == TINYGLTF_MODE_TRIANGLES;
    std::vector<std::array<std::uint32_t, 3>> out;
    for (std::size_t i = 0; i + 2 < count; i += list ? 3 : 1) {
      const bool odd = mode == TINYGLTF_MODE_TRIANGLE_STRIP && i % 2 == 1;
      const std::size_t first = mode == TINYGLTF_MODE_TRIANGLE_FAN ? 0 : i;
      const std::array<std::uint32_t, 3> t{index(first), index(odd ? i + 2 : i + 1), index(odd ? i + 1 : i + 2)};
      if (list || (t[0] != t[1] && t[1] != t[2] && t[2] != t[0])) out.push_back(t);  // strips turn by such as have none
    }
    return out;
  }

  // The corners that triangles have, in whose numbers they are told from now on; `apart`: none is shared.
  static std::vector<std::uint32_t> renumbered(std::vector<std::array<std::uint32_t, 3>>& triangles,
                                               std::size_t corners, bool apart) {
    constexpr auto kNone = std::numeric_limits<std::uint32_t>::max();
    std::vector<std::uint32_t> place(apart ? 0 : corners, kNone), used;
    for (auto& triangle : triangles)
      for (std::uint32_t& c : triangle) {
        const auto next = static_cast<std::uint32_t>(used.size());
        const std::uint32_t to = apart ? next : place[c] == kNone ? (place[c] = next) : place[c];
        if (to == next) used.push_back(c);
        c = to;
      }
    return used;
  }

  const tinygltf::Model& model_;
  std::vector<bool> seen_;
  std::map<int, std::vector<MeshPiece>> pieces_;
  MeshBuilder builder_;
};

// Files beside the document, in its own folder alone.
tinygltf::FsCallbacks files_in(const std::filesystem::path& folder) {
  tinygltf::FsCallbacks files{};
  files.user_data = const_cast<std::filesystem::path*>(&folder);
  const auto may = [](const std::string& file, void* own) {
    return may_be_read(*static_cast<const std::filesystem::path*>(own), file) && std::filesystem::is_regular_file(file);
  };
  files.FileExists = may;
  files.ExpandFilePath = [](const std::string& file, void*) { return file; };
  files.ReadWholeFile = [](std::vector<unsigned char>* out, std::string*, const std::string& file, void* own) {
    return may_be_read(*static_cast<const std::filesystem::path*>(own), file) && read_whole(file, *out);
  };
  files.WriteWholeFile = [](std::string*, const std::string&, const std::vector<unsigned char>&, void*) {
    return false;
  };
  return files;
}

}  // namespace

Result<Mesh> read_gltf(const std::string& name, std::string_view bytes, const std::filesystem::path& folder) {
  tinygltf::TinyGLTF library;
  tinygltf::Model model;
  std::string error, warning;
  library.SetFsCallbacks(files_in(folder));
  // Pictures within the file are left alone: without this it would be refused for them.
  library.SetImageLoader([](tinygltf::Image*, int, std::string*, std::string*, int, int, const unsigned char*, int,
                            void*) { return true; },
                         nullptr);
  const auto size = static_cast<unsigned>(bytes.size());
  const bool binary = bytes.substr(0, 4) == "glTF";
  const bool read =
      binary ? library.LoadBinaryFromMemory(&model, &error, &warning,
                                            reinterpret_cast<const unsigned char*>(bytes.data()), size, folder.string())
             : library.LoadASCIIFromString(&model, &error, &warning, bytes.data(), size, folder.string());
  if (!read) damaged(error.substr(0, error.find('\n')));
  return GltfReader(model).read(name);
}

}  // namespace loom
