// Meshes: files good and bad, rays against every triangle by hand, and a mesh of a ball beside the ball itself.
#include <fstream>
#include <random>

#include "core/surface/drape.h"
#include "core/surface/shell_body.h"
#include "tests/core/alone.h"
#include "tests/core/ball_mesh.h"

using namespace loom;
using namespace loom::test;

namespace {

using Chance = std::mt19937;
float between(Chance& chance, float a, float b) { return std::uniform_real_distribution<float>(a, b)(chance); }

// Triangles anywhere in a cube of one metre.
Mesh soup(int triangles) {
  Chance chance(5);
  Mesh m;
  m.parts = {"whole"};
  for (int i = 0; i < triangles; ++i) {
    const Vec3 at{between(chance, -0.5f, 0.5f), between(chance, -0.5f, 0.5f), between(chance, -0.5f, 0.5f)};
    const auto first = static_cast<std::uint32_t>(m.position.size());
    for (int k = 0; k < 3; ++k)
      m.position.push_back(
          at + Vec3{between(chance, -0.1f, 0.1f), between(chance, -0.1f, 0.1f), between(chance, -0.1f, 0.1f)});
    m.normal.resize(m.position.size(), {0, 0, 1});
    m.triangle.push_back({first, first + 1, first + 2});
    m.part_of.push_back(0);
  }
  return m;
}

// Source: Möller and Trumbore, "Fast, Minimum Storage Ray/Triangle Intersection", 1997, in double.
std::optional<double> meets(const Mesh& m, const std::array<std::uint32_t, 3>& t, const Ray& ray) {
  using V = std::array<double, 3>;
  const auto v = [](Vec3 a) { return V{static_cast<double>(a.x), static_cast<double>(a.y), static_cast<double>(a.z)}; };
  const auto sub = [](V a, V b) { return V{a[0] - b[0], a[1] - b[1], a[2] - b[2]}; };
  const auto dotted = [](V a, V b) { return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]; };
  const auto crossed = [](V a, V b) {
    return V{a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]};
  };
  const V a = v(m.position[t[0]]), p = sub(v(m.position[t[1]]), a), q = sub(v(m.position[t[2]]), a), d = v(ray.towards),
          s = sub(v(ray.from), a), h = crossed(d, q), k = crossed(s, p);
  const double det = dotted(p, h), b = dotted(s, h) / det, c = dotted(d, k) / det, at = dotted(q, k) / det;
  if (b < 0 || c < 0 || b + c > 1 || at <= 0) return {};
  return at;
}

std::shared_ptr<const SurfaceMaps> even(Vec3 colour, std::map<std::string, Field> more = {}) {
  more["base_colour"] =
      field_of(Kind::colour, Plane::filled(16, colour.x), Plane::filled(16, colour.y), Plane::filled(16, colour.z));
  return std::make_shared<SurfaceMaps>(more);
}

}  // namespace

class TestMesh : public QObject {
  Q_OBJECT
  QTemporaryDir folder_;
  std::string written(const char* name, const std::string& text) const {
    const std::string path = folder_.filePath(QString::fromLatin1(name)).toStdString();
    std::ofstream(path, std::ios::binary) << text;
    return path;
  }

 private Q_SLOTS:
  void raysMeetWhatTheyMeetByHand() {
    const MeshShape shape(soup(300));
    Chance chance(8);
    int hits = 0;
    for (int i = 0; i < 3000; ++i) {
      const Vec3 from{between(chance, -1, 1), between(chance, -1, 1), between(chance, -1, 1)},
          to{between(chance, -0.5f, 0.5f), between(chance, -0.5f, 0.5f), between(chance, -0.5f, 0.5f)};
      const Ray ray{from, normalised(to - from)};
      std::optional<double> want;
      for (const auto& t : shape.mesh().triangle)
        if (const auto at = meets(shape.mesh(), t, ray); at && (!want || *at < *want)) want = at;
      const auto got = shape.first(ray, 0);
      QCOMPARE(got.has_value(), want.has_value());
      QCOMPARE(shape.meets(ray, 0), want.has_value());
      if (!got) continue;
      ++hits;
      QVERIFY(std::abs(static_cast<double>(got->t) - *want) < 1e-5);
      QVERIFY(!shape.first(ray, got->t + 1e-4f) || shape.first(ray, got->t + 1e-4f)->t > got->t);
    }
    QVERIFY2(hits > 1000, std::to_string(hits).c_str());
  }

  void itsMeasuresAreTheBalls() {
    const MeshShape shape(ball_mesh(256));
    QVERIFY(length(shape.middle()) < 1e-5f);
    QVERIFY(std::abs(shape.radius() - 0.5f * std::sqrt(3.0f)) < 1e-3f);  // of the sphere about its box
    QVERIFY(std::abs(shape.foot() + 0.5f) < 1e-5f);
    // Its area, pi, on eight tiles.
    QVERIFY(std::abs(shape.tile_metres() - std::sqrt(kPi / 8)) < 4e-3f);  // at the poles halves of quads are missing
  }

  // Place, frame and tile are the ball's.
  void aMeshOfABallIsTheBall() {
    const auto maps = even({0.5f, 0.5f, 0.5f});
    const auto shape = std::make_shared<const MeshShape>(ball_mesh(512));
    const MeshBody body(shape, maps, shape->tile_metres());
    const ShellBody closed(Shape::make(ShapeName::ball, kPi / 4), maps, 0);
    Chance chance(2);
    int hits = 0;
    for (int i = 0; i < 2000; ++i) {
      const Vec3 from = direction_of(between(chance, 0, 360), between(chance, -60, 60)) * 2;
      const Vec3 to{between(chance, -0.28f, 0.28f), between(chance, -0.28f, 0.28f), between(chance, -0.28f, 0.28f)};
      const Ray ray{from, normalised(to - from)};
      const auto got = body.first(ray, {0, 1e-3f}, 0), want = closed.first(ray, {0, 1e-3f}, 0);
      QVERIFY(got.has_value() && want.has_value());
      if (dot(want->facet, ray.towards) > -0.2f || std::abs(want->facet.y) > 0.9f) continue;  // grazing, or a pole
      ++hits;
      QVERIFY(length(got->place - want->place) < 3e-4f);
      QVERIFY(dot(got->frame.normal, want->frame.normal) > 0.99999f);
      QVERIFY(std::abs(std::remainder(got->at.u - want->at.u, 1.0f)) < 2e-3f);
      QVERIFY(std::abs(got->at.v - want->at.v) < 2e-3f);
      QVERIFY(length(got->frame.along_u - want->frame.along_u) < 0.04f * length(want->frame.along_u));
      QVERIFY(length(got->frame.along_v - want->frame.along_v) < 0.04f * length(want->frame.along_v));
      // A normal of the material lies on it the same way.
      const Vec3 tilted = normalised({0.3f, -0.2f, 1});
      QVERIFY(dot(normalised(worn(*got, {0, 0, 1})), worn(*want, {0, 0, 1})) > 0.9999f);
      const Vec3 a = worn(*got, tilted) - got->frame.normal, b = worn(*want, tilted) - want->frame.normal;
      QVERIFY(dot(normalised(a), normalised(b)) > 0.99f);
    }
    QVERIFY2(hits > 1000, std::to_string(hits).c_str());
  }

  // The lit picture is the ball's but for its outline, and where the sphere about it is taken for it.
  void itsPictureIsTheBalls() {
    const auto maps = even({0.3f, 0.5f, 0.2f});
    DrapeView view;
    view.width = view.height = 160;
    view.background = Background::none;
    Drape closed(maps, view);
    closed.first_answer(1, Stop{});
    view.mesh = std::make_shared<const MeshShape>(ball_mesh(256));
    view.camera.distance *= 0.5f / view.mesh->radius();
    Drape meshed(maps, view);
    meshed.first_answer(1, Stop{});
    const auto a = closed.picture_with_alpha(), b = meshed.picture_with_alpha();
    int apart = 0, covered = 0;
    for (std::size_t i = 0; i < a.size(); i += 4) {
      covered += a[i + 3] == 255;
      int most = 0;
      for (std::size_t c = 0; c < 4; ++c) most = std::max(most, std::abs(a[i + c] - b[i + c]));
      apart += most > 3;
    }
    QVERIFY(covered > 8000);
    QVERIFY2(apart < covered / 50, std::to_string(apart).c_str());
  }

  void partsWearTheirOwn() {
    DrapeView view;
    view.width = view.height = 64;
    view.unlit = true;
    view.background = Background::none;
    view.camera = {0, 0, 3};
    view.mesh = std::make_shared<const MeshShape>(ball_mesh(64));
    const Worn worn(even({1, 0, 0}), {nullptr, even({0, 0, 1})});
    Drape drape(worn, view);
    drape.first_answer(1, Stop{});
    const auto rgba = drape.picture_with_alpha();
    const auto at = [&](int x) { return &rgba[4 * (32 * 64 + static_cast<std::size_t>(x))]; };
    // u grows to the right in front, from 0 in the middle: the eastern half lies there.
    QCOMPARE(int(at(40)[2]), 255);
    QCOMPARE(int(at(40)[0]), 0);
    QCOMPARE(int(at(24)[0]), 255);
    QCOMPARE(int(at(24)[2]), 0);
  }

  void openingsLetRaysThrough() {
    const auto open = even({1, 1, 1}, {{"opacity", field_of(Kind::scalar, Plane::filled(16, 0.0f))}});
    const auto shape = std::make_shared<const MeshShape>(ball_mesh(64));
    const Ray through{{0, 0, 3}, {0, 0, -1}};
    QVERIFY(!MeshBody(shape, Worn(open), 1).first(through, {0, 0}, 0.5f));
    QVERIFY(!MeshBody(shape, Worn(open), 1).blocks(through, {0, 0}, 0.5f));
    // One half open: its far side is seen from within.
    const MeshBody half(shape, Worn(even({1, 1, 1}), {open, nullptr}), 1);
    const Ray slanted{{-0.2f, 0.05f, 3}, {0, 0, -1}};
    const auto hit = half.first(slanted, {0, 0}, 0.5f);
    QVERIFY(!hit || hit->part == 1);
    QVERIFY(half.first({{0.2f, 0.05f, 3}, {0, 0, -1}}, {0, 0}, 0.5f));
  }

  void aSheetIsSeenFromBothSides() {
    Mesh sheet;
    sheet.position = {{-1, -1, 0}, {1, -1, 0}, {1, 1, 0}};
    sheet.normal.assign(3, {0, 0, 1});
    sheet.triangle = {{0, 1, 2}};
    sheet.part_of = {0};
    sheet.parts = {"whole"};
    const auto maps = even({1, 1, 1});
    const MeshBody body(std::make_shared<const MeshShape>(std::move(sheet)), maps, 1);
    for (const float side : {1.0f, -1.0f}) {
      const auto hit = body.first({{0.3f, 0, 2 * side}, {0, 0, -side}}, {0, 0}, 0);
      QVERIFY(hit);
      QCOMPARE(hit->frame.normal.z, side);
      QCOMPARE(hit->inside, side < 0);
      // A ray that goes on from there does not meet it again.
      QVERIFY(!body.first({body.off(*hit).place, {0, 0, side}}, {0, 0}, 0));
    }
  }

  void filesAreRead_data() {
    QTest::addColumn<QString>("name");
    QTest::addColumn<QByteArray>("text");
    QTest::addColumn<int>("triangles");
    QTest::newRow("obj") << "quad.obj"
                         << QByteArray(
                                "v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\n"
                                "usemtl lid\nf 1/1 2/2 3/3 4/4\nusemtl rim\nf 1/1 3/3 2/2\n")
                         << 3;
    QTest::newRow("ply") << "one.ply"
                         << QByteArray(
                                "ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\n"
                                "property float z\nelement face 1\nproperty list uchar int vertex_indices\n"
                                "end_header\n0 0 0\n1 0 0\n0 1 0\n3 0 1 2\n")
                         << 1;
  }
  void filesAreRead() {
    QFETCH(QString, name);
    QFETCH(QByteArray, text);
    QFETCH(int, triangles);
    const auto mesh = read_mesh(written(name.toLatin1().constData(), text.toStdString()), 2);
    QVERIFY2(mesh.ok(), mesh ? "" : mesh.error().text().c_str());
    QCOMPARE(static_cast<int>(mesh->triangle.size()), triangles);
    for (const Vec3& n : mesh->normal) QVERIFY(std::abs(length(n) - 1) < 1e-4f);
    float most = 0;
    for (const Vec3& p : mesh->position) most = std::max({most, p.x, p.y});
    QCOMPARE(most, 2.0f);  // the scale
    QCOMPARE(mesh->tile.empty(), name != QLatin1String("quad.obj"));
    if (mesh->tile.empty()) return;
    QCOMPARE(mesh->parts, (std::vector<std::string>{"lid", "rim"}));
    // In the file v runs up, on the tile it runs down.
    for (std::size_t i = 0; i < mesh->position.size(); ++i) QCOMPARE(mesh->tile[i][1], 1 - mesh->position[i].y / 2);
  }

  void theDemosMeshesHaveTheirParts() {
    const auto bollard = read_mesh(LOOM_DEMO "/bollard.glb"), sign = read_mesh(LOOM_DEMO "/sign.glb");
    QVERIFY(bollard.ok() && sign.ok());
    QCOMPARE(bollard->parts, (std::vector<std::string>{"foot", "post", "head"}));
    QCOMPARE(sign->parts, (std::vector<std::string>{"board", "frame", "bracket"}));
    for (const Mesh* m : {&*bollard, &*sign}) {
      QVERIFY(m->notes.empty());
      // Half a metre a tile, everywhere within a third but where the edges bend.
      const MeshShape shape(*m);
      QVERIFY(std::abs(shape.tile_metres() - 0.5f) < 0.1f);
      // Normals look outwards with their triangles.
      int against = 0;
      for (const auto& [i, j, k] : m->triangle) {
        const Vec3 n = cross(m->position[j] - m->position[i], m->position[k] - m->position[i]);
        against += dot(n, m->normal[i] + m->normal[j] + m->normal[k]) <= 0;
      }
      QCOMPARE(against, 0);
    }
  }

  void badFilesAreRefusedWithTheReason_data() {
    QTest::addColumn<QString>("name");
    QTest::addColumn<QByteArray>("text");
    QTest::addColumn<QString>("says");
    QTest::newRow("no such ending") << "mesh.txt" << QByteArray("v 0 0 0") << "no mesh that can be read";
    QTest::newRow("empty") << "empty.obj" << QByteArray() << "cannot be read as a mesh";
    QTest::newRow("no faces") << "bare.obj" << QByteArray("v 0 0 0\nv 1 0 0\nv 1 1 0\n") << "";
    QTest::newRow("indices beyond the end") << "far.obj" << QByteArray("v 0 0 0\nv 1 0 0\nv 1 1 0\nf 1 2 9\n") << "";
    QTest::newRow("without area") << "flat.obj" << QByteArray("v 0 0 0\nv 1 0 0\nv 2 0 0\nf 1 2 3\n") << "no triangles";
    QTest::newRow("no numbers") << "nan.obj" << QByteArray("v nan nan nan\nv 1 0 0\nv 1 1 0\nf 1 2 3\n") << "";
    QTest::newRow("cut off") << "cut.glb" << QByteArray("glTF\2\0\0\0\xff\0\0\0", 12) << "damaged header";
    QTest::newRow("a piece longer than the file")
        << "long.glb" << QByteArray("glTF\2\0\0\0\x22\0\0\0\x98\x0a\0\xfdJSON{\"asset\":{}}", 34) << "damaged header";
    QTest::newRow("glTF that is none") << "no.gltf" << QByteArray("{\"asset\": 7}") << "cannot be read as a mesh";
    QTest::newRow("no JSON") << "words.gltf" << QByteArray("a mesh, please") << "damaged header";
    QTest::newRow("ten thousand million corners")
        << "huge.ply"
        << QByteArray(
               "ply\nformat binary_little_endian 1.0\nelement vertex 10000000000\nproperty float x\nproperty float "
               "y\nproperty float z\nelement face 4000000000\nproperty list uchar int vertex_indices\nend_header\n")
        << "promises more than it holds";
    QTest::newRow("brackets without end")
        << "deep.gltf"
        << "{\"asset\":{\"version\":\"2.0\"},\"x\":" + QByteArray(3000000, '[') << "nested too deep";
    const auto nodes = [](const QByteArray& text) {
      return "{\"asset\":{\"version\":\"2.0\"},\"scene\":0,\"scenes\":[{\"nodes\":[0]}],\"nodes\":[" + text + "]}";
    };
    QTest::newRow("a node within itself")
        << "circle.gltf" << nodes("{\"children\":[1]},{\"children\":[0]}") << "nested too deep";
    QByteArray chain = "{}";
    for (int i = 100000; i > 0; --i) chain += ",{\"children\":[" + QByteArray::number(100000 - i) + "]}";
    QTest::newRow("a chain of nodes") << "chain.gltf" << nodes(chain) << "nested too deep";
    // A thousand times a mesh of a million corners.
    QByteArray shown = "{\"mesh\":0}";
    for (int i = 1; i < 1000; ++i) shown += ",{\"mesh\":0}";
    QTest::newRow("instances without number") << "many.gltf"
                                              << nodes(shown).chopped(1) +
                                                     ",\"meshes\":[{\"primitives\":[{\"attributes\":{\"POSITION\":0}}]}"
                                                     "],\"accessors\":[{\"componentType\":5126,"
                                                     "\"count\":1000000,\"type\":\"VEC3\"}]}"
                                              << "promises more";
    QTest::newRow("a header without end")
        << "endless.ply"
        << QByteArray("ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nend_headey\n0 0 0 ;;;;")
        << "damaged header";
    QTest::newRow("another format under this ending")
        << "other.obj"
        << QByteArray(
               "solid one\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 0\nvertex 0 1 0\nendloop\n"
               "endfacet\nendsolid\n")
        << "";
    QTest::newRow("faces that are not there")  // the library's own checks would end the program
        << "two.ply"
        << QByteArray(
               "ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\n"
               "element face 2\nproperty list uchar int vertex_indices\nend_header\n0 0 0\n1 0 0\n0 1 3\n00  1 2\n")
        << "it is damaged";
    QTest::newRow("numbers from nowhere")
        << "void.gltf"
        << QByteArray(
               "{\"asset\":{\"version\":\"2.0\"},\"accessors\":[{\"componentType\":5126,\"count\":4000000000,"
               "\"type\":\"VEC3\"}],\"meshes\":[{\"primitives\":[{\"attributes\":{\"POSITION\":0}}]}],"
               "\"nodes\":[{\"mesh\":0}],\"scenes\":[{\"nodes\":[0]}],\"scene\":0}")
        << "promises more than it holds";
    QTest::newRow("reads outside its folder")
        << "escape.gltf"
        << QByteArray(
               "{\"asset\":{\"version\":\"2.0\"},\"buffers\":[{\"uri\":\"../../../../../../etc/passwd\","
               "\"byteLength\":36}],\"bufferViews\":[{\"buffer\":0,\"byteLength\":36}],\"accessors\":[{"
               "\"bufferView\":0,\"componentType\":5126,\"count\":3,\"type\":\"VEC3\"}],\"meshes\":[{"
               "\"primitives\":[{\"attributes\":{\"POSITION\":0}}]}],\"nodes\":[{\"mesh\":0}],\"scenes\":[{"
               "\"nodes\":[0]}],\"scene\":0}")
        << "cannot be read as a mesh";
  }
  void badFilesAreRefusedWithTheReason() {
    QFETCH(QString, name);
    QFETCH(QByteArray, text);
    QFETCH(QString, says);
    const auto mesh = read_mesh(written(name.toLatin1().constData(), text.toStdString()));
    QVERIFY(!mesh.ok());
    QVERIFY(!mesh.error().mend.empty());
    QVERIFY2(QString::fromStdString(mesh.error().text()).contains(says), mesh.error().text().c_str());
  }

  void whatIsBrokenInPartIsToldAndLeftOut() {
    const auto mesh = read_mesh(written("part.obj", "v 0 0 0\nv 1 0 0\nv 1 1 0\nv 2 0 0\nf 1 2 3\nf 1 2 4\n"));
    QVERIFY(mesh.ok());
    QCOMPARE(mesh->triangle.size(), std::size_t{1});
    QVERIFY(mesh->notes.front().find("left out") != std::string::npos);
  }
};

QTEST_GUILESS_MAIN(TestMesh)
#include "tst_mesh.moc"
