// The library reads; what it hands over is checked here before anything relies on it.
#include "core/io/mesh.h"

#include <assimp/BaseImporter.h>
#include <assimp/DefaultIOSystem.h>
#include <assimp/MemoryIOWrapper.h>
#include <assimp/config.h>
#include <assimp/postprocess.h>
#include <assimp/scene.h>

#include <algorithm>
#include <assimp/IOStream.hpp>
#include <assimp/Importer.hpp>
#include <cctype>
#include <fstream>
#include <map>
#include <memory>
#include <sstream>
#include <stdexcept>

#include "core/io/mesh_header.h"

// The library, as Debian builds it, ends the program where a damaged file breaks what it takes for granted. Its own
// calls come here instead, and the file is refused.
namespace Assimp {
void aiAssertViolation(const char* expression, const char*, int) {
  throw std::runtime_error(std::string("it is damaged: ") + expression);
}
}  // namespace Assimp

namespace loom {
namespace {

namespace fs = std::filesystem;

// A file that ends a reader who goes round in circles over damaged bytes.
class CountedFile : public Assimp::IOStream {
 public:
  explicit CountedFile(std::unique_ptr<Assimp::IOStream> file)
      : file_(std::move(file)), left_(100'000 + file_->FileSize() / 64) {}
  std::size_t Read(void* to, std::size_t size, std::size_t count) override {
    return counted(file_->Read(to, size, count));
  }
  std::size_t Write(const void*, std::size_t, std::size_t) override { return 0; }
  aiReturn Seek(std::size_t offset, aiOrigin origin) override { return counted(file_->Seek(offset, origin)); }
  std::size_t Tell() const override { return file_->Tell(); }
  std::size_t FileSize() const override { return file_->FileSize(); }
  void Flush() override {}

 private:
  template <class T>
  T counted(T result) {
    if (left_-- == 0) throw std::runtime_error("its parts lead in a circle");
    return result;
  }
  std::unique_ptr<Assimp::IOStream> file_;
  std::size_t left_;
};

// Opens what lies in one folder, for reading alone.
class OwnFolder : public Assimp::DefaultIOSystem {
 public:
  explicit OwnFolder(const fs::path& folder) : folder_(fs::weakly_canonical(folder)) {}
  bool Exists(const char* file) const override { return is_within(file) && DefaultIOSystem::Exists(file); }
  Assimp::IOStream* Open(const char* file, const char* mode) override {
    if (mode[0] != 'r' || !is_within(file)) return nullptr;
    std::unique_ptr<Assimp::IOStream> opened(DefaultIOSystem::Open(file, mode));
    return opened ? new CountedFile(std::move(opened)) : nullptr;
  }

 private:
  bool is_within(const char* file) const {
    std::error_code code;
    const fs::path path = fs::weakly_canonical(file, code);
    if (code || std::mismatch(folder_.begin(), folder_.end(), path.begin(), path.end()).first != folder_.end())
      return false;
    const auto bytes = fs::file_size(path, code);
    return code || bytes <= kMostMeshBytes;
  }
  fs::path folder_;
};

// Bytes under one name, and nothing else.
class OneFile : public Assimp::IOSystem {
 public:
  OneFile(std::string name, std::string_view bytes) : name_(std::move(name)), bytes_(bytes) {}
  bool Exists(const char* file) const override { return file == name_; }
  char getOsSeparator() const override { return '/'; }
  Assimp::IOStream* Open(const char* file, const char* mode) override {
    if (mode[0] != 'r' || file != name_) return nullptr;
    return new CountedFile(
        std::make_unique<Assimp::MemoryIOStream>(reinterpret_cast<const std::uint8_t*>(bytes_.data()), bytes_.size()));
  }
  void Close(Assimp::IOStream* file) override { delete file; }

 private:
  std::string name_;
  std::string_view bytes_;
};

std::string ending_of(const fs::path& path) {
  std::string ending = path.extension().string();
  std::transform(ending.begin(), ending.end(), ending.begin(), [](unsigned char c) { return std::tolower(c); });
  return ending;
}

bool is_finite(Vec3 v) { return std::isfinite(v.x) && std::isfinite(v.y) && std::isfinite(v.z); }
Vec3 vec_of(const aiVector3D& v) { return {v.x, v.y, v.z}; }

class MeshReader {
 public:
  explicit MeshReader(float scale) : scale_(scale) {}

  Result<Mesh> read(const aiScene& scene, const std::string& name) {
    std::size_t triangles = 0;
    for (unsigned i = 0; i < scene.mNumMeshes; ++i) triangles += scene.mMeshes[i]->mNumFaces;
    if (triangles > kMostTriangles)
      return Error{name,
                   "has " + std::to_string(triangles) + " triangles; the most is " + std::to_string(kMostTriangles),
                   "Reduce it first"};
    for (unsigned i = 0; i < scene.mNumMeshes; ++i) any_tile_ |= scene.mMeshes[i]->HasTextureCoords(0);
    for (unsigned i = 0; i < scene.mNumMeshes; ++i) add(scene, *scene.mMeshes[i]);
    if (mesh_.triangle.empty()) return Error{name, "holds no triangles that can be seen", "Export the mesh anew"};
    if (dropped_)
      mesh_.notes.push_back(std::to_string(dropped_) +
                            " triangles without area or with numbers that are none were left out");
    if (any_tile_ && bare_) mesh_.notes.emplace_back("a part has no tile coordinates, others have: it lies at 0, 0");
    return std::move(mesh_);
  }

 private:
  void add(const aiScene& scene, const aiMesh& from) {
    const auto first = static_cast<std::uint32_t>(mesh_.position.size());
    const bool has_tile = from.HasTextureCoords(0), has_normals = from.HasNormals();
    bare_ |= !has_tile;
    for (unsigned i = 0; i < from.mNumVertices; ++i) {
      mesh_.position.push_back(vec_of(from.mVertices[i]) * scale_);
      const Vec3 n = has_normals ? normalised(vec_of(from.mNormals[i])) : Vec3{};
      mesh_.normal.push_back(is_finite(n) ? n : Vec3{});
      if (!any_tile_) continue;
      const std::array<float, 2> t =
          has_tile ? std::array{from.mTextureCoords[0][i].x, 1 - from.mTextureCoords[0][i].y} : std::array{0.0f, 0.0f};
      mesh_.tile.push_back(std::isfinite(t[0]) && std::isfinite(t[1]) ? t : std::array{0.0f, 0.0f});
    }
    const std::uint16_t part = part_named(scene, from);
    for (unsigned i = 0; i < from.mNumFaces; ++i) add_triangle(from, from.mFaces[i], first, part);
  }

  void add_triangle(const aiMesh& from, const aiFace& face, std::uint32_t first, std::uint16_t part) {
    if (face.mNumIndices != 3) return;
    std::array<std::uint32_t, 3> corner;
    for (std::size_t k = 0; k < 3; ++k) {
      if (face.mIndices[k] >= from.mNumVertices) return void(++dropped_);
      corner[k] = first + face.mIndices[k];
      if (!is_finite(mesh_.position[corner[k]])) return void(++dropped_);
    }
    const Vec3 a = mesh_.position[corner[0]],
               area = cross(mesh_.position[corner[1]] - a, mesh_.position[corner[2]] - a);
    const Vec3 flat = normalised(area);
    if (!(dot(area, area) > 0) || !is_finite(flat)) return void(++dropped_);
    for (const std::uint32_t c : corner)
      if (!(dot(mesh_.normal[c], mesh_.normal[c]) > 0.5f)) mesh_.normal[c] = flat;
    mesh_.triangle.push_back(corner);
    mesh_.part_of.push_back(part);
  }

  std::uint16_t part_named(const aiScene& scene, const aiMesh& from) {
    std::string name = from.mMaterialIndex < scene.mNumMaterials
                           ? scene.mMaterials[from.mMaterialIndex]->GetName().C_Str()
                           : std::string();
    if (name.empty() || name == AI_DEFAULT_MATERIAL_NAME) name = "whole";
    const auto [it, fresh] = parts_.emplace(name, static_cast<std::uint16_t>(mesh_.parts.size()));
    if (fresh) mesh_.parts.push_back(name);
    return it->second;
  }

  float scale_;
  Mesh mesh_;
  std::map<std::string, std::uint16_t> parts_;
  std::size_t dropped_ = 0;
  bool any_tile_ = false, bare_ = false;
};

// A file is read as what its ending says: the library would else try all that it knows, by the content.
void keep_reader_of(Assimp::Importer& importer, const std::string& ending) {
  std::vector<Assimp::BaseImporter*> others;
  for (std::size_t i = 0; i < importer.GetImporterCount(); ++i) {
    std::istringstream endings(importer.GetImporterInfo(i)->mFileExtensions);
    bool reads = false;
    for (std::string word; endings >> word;) reads |= "." + word == ending;
    if (!reads) others.push_back(importer.GetImporter(i));
  }
  for (Assimp::BaseImporter* other : others) {
    importer.UnregisterLoader(other);
    delete other;  // nobody else does
  }
}

Result<Mesh> read(const fs::path& path, std::unique_ptr<Assimp::IOSystem> files, float scale) {
  Assimp::Importer importer;
  keep_reader_of(importer, ending_of(path));
  importer.SetIOHandler(files.release());
  importer.SetPropertyInteger(AI_CONFIG_PP_SBP_REMOVE, aiPrimitiveType_POINT | aiPrimitiveType_LINE);
  importer.SetPropertyInteger(AI_CONFIG_PP_RVC_FLAGS,
                              aiComponent_ANIMATIONS | aiComponent_TEXTURES | aiComponent_LIGHTS | aiComponent_CAMERAS |
                                  aiComponent_BONEWEIGHTS | aiComponent_TANGENTS_AND_BITANGENTS);
  importer.SetPropertyFloat(AI_CONFIG_PP_GSN_MAX_SMOOTHING_ANGLE, 60);
  const aiScene* scene =
      importer.ReadFile(path.string(), aiProcess_ValidateDataStructure | aiProcess_RemoveComponent |
                                           aiProcess_Triangulate | aiProcess_SortByPType | aiProcess_GenSmoothNormals |
                                           aiProcess_JoinIdenticalVertices | aiProcess_PreTransformVertices);
  if (!scene)
    return Error{path.string(), std::string("cannot be read as a mesh: ") + importer.GetErrorString(),
                 "Export it anew"};
  const std::string ending = ending_of(path);
  return MeshReader(ending == ".obj" || ending == ".ply" ? scale : 1).read(*scene, path.string());
}

std::optional<Error> not_a_mesh(const fs::path& path) {
  constexpr std::array kEndings = {".obj", ".ply", ".gltf", ".glb"};
  if (std::find(kEndings.begin(), kEndings.end(), ending_of(path)) != kEndings.end()) return {};
  return Error{path.string(), "is no mesh that can be read", "Use OBJ, PLY, glTF 2.0 or GLB"};
}

Result<Mesh> checked(const fs::path& path, std::istream& head, std::uintmax_t bytes,
                     std::unique_ptr<Assimp::IOSystem> files, float scale) {
  if (bytes > kMostMeshBytes) return Error{path.string(), "is larger than 512 MiB", "Reduce it first"};
  try {
    if (const std::string fault = fault_of_header(head, ending_of(path), bytes); !fault.empty())
      return Error{path.string(), fault, "Export it anew, or reduce it"};
    return read(path, std::move(files), scale);
  } catch (const std::bad_alloc&) {
    return Error{path.string(), "does not fit into memory", "Reduce it first"};
  } catch (const std::exception& e) {
    return Error{path.string(), std::string("cannot be read as a mesh: ") + e.what(), "Export it anew"};
  }
}

}  // namespace

Result<Mesh> read_mesh(const fs::path& path, float scale) {
  if (auto other = not_a_mesh(path)) return *other;
  std::error_code code;
  const auto bytes = fs::file_size(path, code);
  if (code) return Error{path.string(), "cannot be read: " + code.message(), "Check the name"};
  std::ifstream head(path, std::ios::binary);
  return checked(path, head, bytes, std::make_unique<OwnFolder>(path.parent_path().empty() ? "." : path.parent_path()),
                 scale);
}

Result<Mesh> read_mesh(const std::string& name, std::string_view bytes, float scale) {
  if (auto other = not_a_mesh(name)) return *other;
  std::istringstream head{std::string(bytes)};
  return checked(name, head, bytes.size(), std::make_unique<OneFile>(name, bytes), scale);
}

}  // namespace loom
