// glTF as another library reads it, and by the worked rules of the standard.
#include <assimp/postprocess.h>
#include <assimp/scene.h>

#include <QTemporaryDir>
#include <assimp/Importer.hpp>
#include <fstream>
#include <nlohmann/json.hpp>

#include "core/io/mesh.h"
#include "core/surface/mesh_shape.h"
#include "tests/core/alone.h"

using namespace loom;
using Json = nlohmann::json;

namespace {

constexpr int kByte = 5120, kUnsignedByte = 5121, kShort = 5122, kUnsignedShort = 5123, kFloat = 5126;

// A document under way, with one buffer that it holds itself.
struct Document {
  Json json = {{"asset", {{"version", "2.0"}}}};
  std::string bytes;

  template <class T>
  int view(const std::vector<T>& numbers, int stride = 0) {
    while (bytes.size() % 4) bytes += '\0';
    Json v = {{"buffer", 0}, {"byteOffset", bytes.size()}, {"byteLength", numbers.size() * sizeof(T)}};
    if (stride) v["byteStride"] = stride;
    bytes.append(reinterpret_cast<const char*>(numbers.data()), numbers.size() * sizeof(T));
    json["bufferViews"].push_back(v);
    return static_cast<int>(json["bufferViews"].size()) - 1;
  }
  int accessor(int view, int component, const char* type, std::size_t count, std::size_t offset = 0,
               bool normalized = false) {
    Json a = {{"componentType", component}, {"count", count}, {"type", type}, {"byteOffset", offset}};
    if (view >= 0) a["bufferView"] = view;
    if (normalized) a["normalized"] = true;
    json["accessors"].push_back(a);
    return static_cast<int>(json["accessors"].size()) - 1;
  }
  int floats(const std::vector<float>& numbers, const char* type, std::size_t each) {
    return accessor(view(numbers), kFloat, type, numbers.size() / each);
  }
  void mesh(const std::vector<Json>& primitives) { json["meshes"].push_back({{"primitives", primitives}}); }
  std::string text() const {
    Json whole = json;
    const QByteArray coded = QByteArray(bytes.data(), static_cast<int>(bytes.size())).toBase64();
    if (!whole.contains("scenes")) whole["scenes"] = Json::parse("[{\"nodes\": [0]}]");
    whole["buffers"] = {
        {{"uri", "data:application/octet-stream;base64," + coded.toStdString()}, {"byteLength", bytes.size()}}};
    return whole.dump();
  }
};

// A square of two triangles in the plane of x and y, each corner at whole numbers.
const std::vector<float> kSquare{0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0};
const std::vector<std::uint16_t> kSides{0, 1, 2, 0, 2, 3};

Document square(const Json& attributes = Json::object()) {
  Document d;
  Json primitive = {{"attributes", attributes}, {"material", 0}};
  primitive["attributes"]["POSITION"] = d.floats(kSquare, "VEC3", 3);
  primitive["indices"] = d.accessor(d.view(kSides), kUnsignedShort, "SCALAR", kSides.size());
  d.json["materials"] = {{{"name", "sheet"}}};
  d.mesh({primitive});
  d.json["nodes"] = Json::parse(R"([{"mesh": 0}])");
  return d;
}

Result<Mesh> read(const Document& d) { return read_mesh("one.gltf", d.text()); }
Json& attributes_of(Document& d) { return d.json["meshes"][0]["primitives"][0]["attributes"]; }

const MeshAttribute* named(const Mesh& mesh, const std::string& name) {
  for (const MeshAttribute& a : mesh.attributes)
    if (a.name == name) return &a;
  return nullptr;
}

using Triangle = std::array<float, 9>;
std::vector<Triangle> triangles_of(const Mesh& mesh) {
  std::vector<Triangle> all;
  for (const auto& t : mesh.triangle) {
    Triangle now;
    for (std::size_t k = 0; k < 3; ++k) {
      const Vec3 p = mesh.position[t[k]];
      now[3 * k] = p.x, now[3 * k + 1] = p.y, now[3 * k + 2] = p.z;
    }
    all.push_back(now);
  }
  return all;
}

std::vector<Triangle> read_by_another(const std::string& path) {
  Assimp::Importer importer;
  const aiScene* scene =
      importer.ReadFile(path, aiProcess_Triangulate | aiProcess_SortByPType | aiProcess_PreTransformVertices);
  if (!scene) qFatal("%s", importer.GetErrorString());
  std::vector<Triangle> all;
  for (unsigned m = 0; m < scene->mNumMeshes; ++m)
    for (unsigned f = 0; f < scene->mMeshes[m]->mNumFaces; ++f) {
      Triangle now;
      for (unsigned k = 0; k < 3; ++k) {
        const aiVector3D& p = scene->mMeshes[m]->mVertices[scene->mMeshes[m]->mFaces[f].mIndices[k]];
        now[3 * k] = p.x, now[3 * k + 1] = p.y, now[3 * k + 2] = p.z;
      }
      all.push_back(now);
    }
  return all;
}

// How far the nearest triangle of the other lies from some of all, corner by corner, wherever it begins and whichever
// way it goes round: the other library leaves mirrored ones as they are.
float furthest_from(const std::vector<Triangle>& all, const std::vector<Triangle>& other) {
  float most = 0;
  for (std::size_t i = 0; i < all.size(); i += 1 + all.size() / 128) {
    const Triangle& t = all[i];
    float least = 1e9f;
    for (const Triangle& o : other)
      for (std::size_t order = 0; order < 6 && least > 1e-5f; ++order) {
        float apart = 0;
        for (std::size_t k = 0; k < 9; ++k) {
          const std::size_t corner = (k / 3 * (order < 3 ? 1 : 2) + order) % 3;
          apart = std::max(apart, std::abs(t[k] - o[3 * corner + k % 3]));
        }
        least = std::min(least, apart);
      }
    most = std::max(most, least);
  }
  return most;
}

}  // namespace

class TestGltf : public QObject {
  Q_OBJECT
  QTemporaryDir folder_;
  std::string kept(const Document& d) const {
    const std::string path = folder_.filePath(QStringLiteral("kept.gltf")).toStdString();
    std::ofstream(path) << d.text();
    return path;
  }
  void isReadAlike(const std::string& path) {
    const auto mesh = read_mesh(path);
    QVERIFY2(mesh.ok(), mesh ? "" : mesh.error().text().c_str());
    const auto ours = triangles_of(*mesh), theirs = read_by_another(path);
    QCOMPARE(ours.size(), theirs.size());
    QVERIFY(furthest_from(ours, theirs) < 1e-5f && furthest_from(theirs, ours) < 1e-5f);
  }

 private Q_SLOTS:
  void theDemosMeshesAreReadAlike() {
    isReadAlike(LOOM_DEMO "/bollard.glb");
    isReadAlike(LOOM_DEMO "/sign.glb");
  }

  // Turned, scaled by several measures, mirrored, one node in another; a matrix and a node whose mesh stands twice.
  void nodesPlaceTheirMeshes() {
    Document d = square();
    d.json["nodes"] = Json::parse(R"([
        {"children": [1, 2], "translation": [1, 2, 3], "rotation": [0.5, 0.5, 0.5, 0.5]},
        {"mesh": 0, "scale": [2, -3, 0.5]},
        {"mesh": 0, "matrix": [0, 1, 0, 0, -1, 0, 0, 0, 0, 0, 1, 0, 5, 6, 7, 1], "children": [3]},
        {"mesh": 0, "rotation": [0, 0.70710678, 0, 0.70710678], "scale": [-1, -1, -1]}])");
    isReadAlike(kept(d));
    // Mirrored ones keep their faces: section 3.7.4.
    d = square();
    d.json["nodes"] = Json::parse(R"([{"mesh": 0, "scale": [-1, 1, 1]}])");
    const auto mesh = read(d);
    QVERIFY(mesh.ok());
    for (const Vec3& n : mesh->normal) QVERIFY(n.z > 0.999f);
    for (std::uint32_t t = 0; t < 2; ++t) QVERIFY(MeshShape(*mesh).flat(t).z > 0.999f);
  }

  void stripsAndFansAreTakenApart() {
    Document d;
    const int places = d.floats({0, 0, 0, 1, 0, 0, 0, 1, 0, 1, 1, 0, 0, 2, 0}, "VEC3", 3);
    d.mesh(
        {{{"attributes", {{"POSITION", places}}}, {"mode", 5}}, {{"attributes", {{"POSITION", places}}}, {"mode", 6}}});
    d.json["nodes"] = Json::parse(R"([{"mesh": 0}])");
    const auto mesh = read(d);
    QVERIFY(mesh.ok());
    // The strip's three all look the same way; the fan's three go round the first corner.
    QCOMPARE(mesh->triangle.size(), std::size_t{6});
    const MeshShape shape(*mesh);
    for (std::uint32_t t = 0; t < 3; ++t) QVERIFY(shape.flat(t).z > 0.999f);
    isReadAlike(kept(d));
  }

  // Numbers between each other, and some that stand elsewhere: sections 3.6.2.4 and 3.6.2.3.
  void numbersMayStandApartAndElsewhere() {
    Document d;
    std::vector<float> between;
    for (std::size_t i = 0; i < 4; ++i) {
      for (std::size_t k = 0; k < 3; ++k) between.push_back(kSquare[3 * i + k]);
      between.push_back(static_cast<float>(i));  // of another accessor
      between.push_back(10 + static_cast<float>(i));
    }
    const int view = d.view(between, 20);
    const int places = d.accessor(view, kFloat, "VEC3", 4), own = d.accessor(view, kFloat, "VEC2", 4, 12);
    const int indices = d.view(std::vector<std::uint16_t>{1, 3}), values = d.view(std::vector<float>{3, 0, 0, 0, 5, 0});
    d.json["accessors"][static_cast<std::size_t>(places)]["sparse"] = {
        {"count", 2},
        {"indices", {{"bufferView", indices}, {"componentType", kUnsignedShort}}},
        {"values", {{"bufferView", values}}}};
    d.mesh({{{"attributes", {{"POSITION", places}, {"_OWN", own}}},
             {"indices", d.accessor(d.view(kSides), kUnsignedShort, "SCALAR", 6)}}});
    d.json["nodes"] = Json::parse(R"([{"mesh": 0}])");
    const auto mesh = read(d);
    QVERIFY2(mesh.ok(), mesh ? "" : mesh.error().text().c_str());
    float right = 0, up = 0;
    for (const Vec3& p : mesh->position) right = std::max(right, p.x), up = std::max(up, p.y);
    QCOMPARE(right, 3.0f);
    QCOMPARE(up, 5.0f);
    QVERIFY(named(*mesh, "_OWN"));
    QCOMPARE(mesh->parts, std::vector<std::string>{"whole"});
    for (std::size_t i = 0; i < mesh->position.size(); ++i) {
      const auto& v = named(*mesh, "_OWN")->at[i];
      QVERIFY(v[1] == v[0] + 10 && v[2] == 0 && v[3] == 1);
    }
  }

  // f = c / 255, c / 65535, max(c / 127, -1), max(c / 32767, -1): section 3.6.2.1. A vector or a colour keeps its
  // numbers, a single one is repeated; whole numbers that are no shares stay what they are.
  void cornersCarryNumbersOfAnyKind() {
    Document d = square();
    Json& at = attributes_of(d);
    at["COLOR_0"] = d.accessor(
        d.view(std::vector<std::uint8_t>{0, 51, 255, 102, 0, 51, 255, 102, 0, 51, 255, 102, 0, 51, 255, 102}),
        kUnsignedByte, "VEC4", 4, 0, true);
    at["_DAMP"] = d.accessor(d.view(std::vector<std::uint16_t>{13107, 13107, 13107, 13107}), kUnsignedShort, "SCALAR",
                             4, 0, true);
    at["_WAY"] = d.accessor(
        d.view(std::vector<std::int8_t>{-128, 127, 0, 0, -128, 127, 0, 0, -128, 127, 0, 0, -128, 127, 0, 0}, 4), kByte,
        "VEC3", 4, 0, true);
    at["_STEP"] = d.accessor(d.view(std::vector<std::int16_t>{-7, -7, -7, -7}), kShort, "SCALAR", 4);
    at["TEXCOORD_1"] = d.floats({0.25f, 2, 0.25f, 2, 0.25f, 2, 0.25f, 2}, "VEC2", 2);
    const auto mesh = read(d);
    QVERIFY2(mesh.ok(), mesh ? "" : mesh.error().text().c_str());
    QCOMPARE(mesh->attributes.size(), std::size_t{5});
    QCOMPARE(mesh->parts, std::vector<std::string>{"sheet"});
    const std::pair<const char*, std::array<float, 4>> expected[] = {{"COLOR_0", {0, 0.2f, 1, 0.4f}},
                                                                     {"_DAMP", {0.2f, 0.2f, 0.2f, 1}},
                                                                     {"_WAY", {-1, 1, 0, 1}},
                                                                     {"_STEP", {-7, -7, -7, 1}},
                                                                     {"TEXCOORD_1", {0.25f, 2, 0, 1}}};
    const MeshShape shape(*mesh);
    for (const auto& [name, numbers] : expected) {
      const MeshAttribute* const a = shape.carried(hash_text(name));
      QVERIFY2(a, name);
      const auto found = shape.carried(*a, 1, 0.3f, 0.4f);
      for (std::size_t i = 0; i < 4; ++i) QVERIFY2(std::abs(found[i] - numbers[i]) < 1e-6f, name);
      QCOMPARE(found[kIsCarried], 1.0f);
    }
    QVERIFY(!shape.carried(hash_text("_OTHER")));
  }

  // Between corners, and on the part that has it alone.
  void attributesAreBlendedOverTriangles() {
    Document d = square();
    attributes_of(d)["_U"] = d.floats({0, 1, 1, 0}, "SCALAR", 1);
    const int more = d.floats({5, 0, 0, 6, 0, 0, 5, 1, 0}, "VEC3", 3);
    d.json["materials"].push_back({{"name", "bare"}});
    d.json["meshes"][0]["primitives"].push_back({{"attributes", {{"POSITION", more}}}, {"material", 1}});
    const auto mesh = read(d);
    QVERIFY(mesh.ok());
    const MeshShape shape(*mesh);
    const MeshAttribute* const u = shape.carried(hash_text("_U"));
    QVERIFY(u);
    for (std::uint32_t t = 0; t < 2; ++t)
      for (const auto& [b, c] : {std::pair{0.2f, 0.5f}, {0.0f, 0.9f}, {0.4f, 0.1f}}) {
        const auto found = shape.carried(*u, t, b, c);
        QVERIFY(std::abs(found[0] - shape.position({0, t, b, c}).x) < 1e-6f && found[kIsCarried] == 1);
      }
    QCOMPARE(shape.carried(*u, 2, 0.3f, 0.3f)[kIsCarried], 0.0f);
    QCOMPARE(mesh->parts, (std::vector<std::string>{"sheet", "bare"}));
  }

  // Without normals of their own faces are flat: section 3.7.2.1.
  void withoutNormalsFacesAreFlat() {
    Document d;
    const int places = d.floats({0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1}, "VEC3", 3);
    const std::vector<std::uint8_t> sides{0, 2, 1, 0, 1, 3, 0, 3, 2};
    d.mesh(
        {{{"attributes", {{"POSITION", places}}}, {"indices", d.accessor(d.view(sides), kUnsignedByte, "SCALAR", 9)}}});
    d.json["nodes"] = Json::parse(R"([{"mesh": 0}])");
    const auto mesh = read(d);
    QVERIFY(mesh.ok());
    const MeshShape shape(*mesh);
    for (std::uint32_t t = 0; t < 3; ++t)
      for (const std::uint32_t c : mesh->triangle[t]) QVERIFY(length(mesh->normal[c] - shape.flat(t)) < 1e-6f);
  }

  // Colours of corners in the other formats stand under the same name.
  void otherFormatsHaveColoursToo() {
    const std::string ply =
        "ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\n"
        "property uchar red\nproperty uchar green\nproperty uchar blue\nelement face 1\n"
        "property list uchar int vertex_indices\nend_header\n0 0 0 255 51 0\n1 0 0 255 51 0\n0 1 0 255 51 0\n3 0 1 2\n";
    const std::string obj = "v 0 0 0 1 0.2 0\nv 1 0 0 1 0.2 0\nv 0 1 0 1 0.2 0\nf 1 2 3\n";
    for (const auto& mesh : {read_mesh("one.ply", ply), read_mesh("one.obj", obj)}) {
      QVERIFY2(mesh.ok(), mesh ? "" : mesh.error().text().c_str());
      const MeshAttribute* const colour = named(*mesh, "COLOR_0");
      QVERIFY(colour);
      for (const auto& v : colour->at) {
        QVERIFY(std::abs(v[0] - 1) < 1e-6f && std::abs(v[1] - 0.2f) < 1e-3f && v[2] == 0);
      }
    }
  }

  void whatIsDamagedIsRefused_data() {
    QTest::addColumn<QString>("pointer");
    QTest::addColumn<QString>("value");
    QTest::addColumn<QString>("says");
    const auto row = [](const char* name, const char* pointer, const char* value, const char* says) {
      QTest::newRow(name) << QString::fromLatin1(pointer) << QString::fromLatin1(value) << QString::fromLatin1(says);
    };
    row("a view that is not there", "/accessors/0/bufferView", "77", "not there");
    row("beyond the view", "/accessors/0/count", "5", "beyond their view");
    row("an offset beyond all", "/accessors/0/byteOffset", "4000000000", "beyond");
    row("a view beyond the buffer", "/bufferViews/0/byteLength", "4000", "beyond its buffer");
    row("a stride that overflows", "/bufferViews/0/byteStride", "252", "beyond");
    row("numbers of no kind", "/accessors/0/componentType", "9999", "cannot be read");
    row("a matrix for places", "/accessors/0/type", "\"MAT4\"", "matrix");
    row("a list that is not there", "/meshes/0/primitives/0/attributes/POSITION", "55", "not there");
    row("a mesh that is not there", "/nodes/0/mesh", "9", "not there");
    row("a material that is not there", "/meshes/0/primitives/0/material", "9", "not there");
    row("compressed", "/extensionsRequired", "[\"KHR_draco_mesh_compression\"]", "KHR_draco_mesh_compression");
    row("corners beyond all", "/accessors/1/count", "600", "beyond");
  }
  void whatIsDamagedIsRefused() {
    QFETCH(QString, pointer);
    QFETCH(QString, value);
    QFETCH(QString, says);
    Document d = square();
    QVERIFY(read(d).ok());
    d.json[Json::json_pointer(pointer.toStdString())] = Json::parse(value.toStdString());
    const auto mesh = read(d);
    QVERIFY(!mesh.ok());
    QVERIFY2(QString::fromStdString(mesh.error().text()).contains(says), mesh.error().text().c_str());
    QVERIFY(!mesh.error().mend.empty());
  }
  void cornersThatAreNotThereAreRefused() {
    Document d;
    const int places = d.floats(kSquare, "VEC3", 3);
    const std::vector<std::uint16_t> sides{0, 1, 4};
    d.mesh({{{"attributes", {{"POSITION", places}}},
             {"indices", d.accessor(d.view(sides), kUnsignedShort, "SCALAR", 3)}}});
    d.json["nodes"] = Json::parse(R"([{"mesh": 0}])");
    const auto mesh = read(d);
    QVERIFY(!mesh.ok() && mesh.error().text().find("corner") != std::string::npos);
  }
};

QTEST_GUILESS_MAIN(TestGltf)
#include "tst_gltf.moc"
