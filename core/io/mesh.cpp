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
#include <functional>
#include <memory>
#include <optional>
#include <sstream>
#include <stdexcept>

#include "core/io/gltf.h"
#include "core/io/mesh_builder.h"
#include "core/io/mesh_header.h"
#include "core/io/own_folder.h"

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
  explicit OwnFolder(fs::path folder) : folder_(std::move(folder)) {}
  bool Exists(const char* file) const override { return may_be_read(folder_, file) && DefaultIOSystem::Exists(file); }
  Assimp::IOStream* Open(const char* file, const char* mode) override {
    if (mode[0] != 'r' || !may_be_read(folder_, file)) return nullptr;
    std::unique_ptr<Assimp::IOStream> opened(DefaultIOSystem::Open(file, mode));
    return opened ? new CountedFile(std::move(opened)) : nullptr;
  }

 private:
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

Vec3 vec_of(const aiVector3D& v) { return {v.x, v.y, v.z}; }

std::string part_of(const aiScene& scene, const aiMesh& from) {
  const std::string name = from.mMaterialIndex < scene.mNumMaterials
                               ? scene.mMaterials[from.mMaterialIndex]->GetName().C_Str()
                               : std::string();
  return name == AI_DEFAULT_MATERIAL_NAME ? std::string() : name;
}

MeshPiece piece_of(const aiScene& scene, const aiMesh& from, float scale) {
  MeshPiece piece;
  piece.part = part_of(scene, from);
  for (unsigned i = 0; i < from.mNumVertices; ++i) {
    piece.position.push_back(vec_of(from.mVertices[i]) * scale);
    if (from.HasNormals()) piece.normal.push_back(vec_of(from.mNormals[i]));
    if (from.HasTextureCoords(0)) piece.tile.push_back({from.mTextureCoords[0][i].x, 1 - from.mTextureCoords[0][i].y});
  }
  for (unsigned set = 0; set < AI_MAX_NUMBER_OF_COLOR_SETS; ++set) {
    if (!from.HasVertexColors(set)) continue;
    MeshAttribute& a = piece.attributes.emplace_back();
    a.name = "COLOR_" + std::to_string(set);
    a.numbers = 4;
    for (unsigned i = 0; i < from.mNumVertices; ++i) {
      const aiColor4D& c = from.mColors[set][i];
      a.at.push_back({c.r, c.g, c.b, c.a});
    }
  }
  for (unsigned i = 0; i < from.mNumFaces; ++i)
    if (const aiFace& face = from.mFaces[i]; face.mNumIndices == 3)
      piece.triangle.push_back({face.mIndices[0], face.mIndices[1], face.mIndices[2]});
  return piece;
}

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
  MeshBuilder builder;
  for (unsigned i = 0; i < scene->mNumMeshes; ++i) builder.add(piece_of(*scene, *scene->mMeshes[i], scale));
  return builder.finished(path.string());
}

bool is_gltf(const fs::path& path) { return ending_of(path) == ".gltf" || ending_of(path) == ".glb"; }

std::optional<Error> not_a_mesh(const fs::path& path) {
  constexpr std::array kEndings = {".obj", ".ply", ".gltf", ".glb"};
  if (std::find(kEndings.begin(), kEndings.end(), ending_of(path)) != kEndings.end()) return {};
  return Error{path.string(), "is no mesh that can be read", "Use OBJ, PLY, glTF 2.0 or GLB"};
}

// Looks at what a file promises, and reads it by `read` if that can be.
Result<Mesh> checked(const fs::path& path, std::istream& head, std::uintmax_t bytes,
                     const std::function<Result<Mesh>()>& read) {
  if (bytes > kMostMeshBytes) return Error{path.string(), "is larger than 512 MiB", "Reduce it first"};
  try {
    if (const std::string fault = fault_of_header(head, ending_of(path), bytes); !fault.empty())
      return Error{path.string(), fault, "Export it anew, or reduce it"};
    return read();
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
  const fs::path folder = path.parent_path().empty() ? "." : path.parent_path();
  return checked(path, head, bytes, [&] {
    if (!is_gltf(path)) return read(path, std::make_unique<OwnFolder>(folder), scale);
    std::string document;
    if (!read_whole(path, document)) return Result<Mesh>(Error{path.string(), "cannot be read", "Check the file"});
    return read_gltf(path.string(), document, folder);
  });
}

Result<Mesh> read_mesh(const std::string& name, std::string_view bytes, float scale) {
  if (auto other = not_a_mesh(name)) return *other;
  std::istringstream head{std::string(bytes)};
  return checked(name, head, bytes.size(), [&] {
    return is_gltf(name) ? read_gltf(name, bytes, {}) : read(name, std::make_unique<OneFile>(name, bytes), scale);
  });
}

}  // namespace loom
