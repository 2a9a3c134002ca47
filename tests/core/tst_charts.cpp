// Coordinates of a mesh in which every place lies once, and maps that are delivered in them.
#include <QTemporaryDir>
#include <fstream>
#include <random>

#include "core/bolt/on_mesh.h"
#include "core/io/image.h"
#include "core/plane/colour.h"
#include "core/surface/charts.h"
#include "core/surface/drape.h"
#include "core/weave/hem_maps.h"
#include "tests/core/alone.h"

using namespace loom;
using namespace loom::test;

namespace {

Mesh demo_mesh(const char* name) {
  auto mesh = read_mesh(std::filesystem::path(LOOM_DEMO) / name);
  if (!mesh) qFatal("%s", mesh.error().text().c_str());
  return std::move(*mesh);
}

double area(const std::array<std::array<float, 2>, 3>& p) {
  const auto d = [&](int i, int c) { return static_cast<double>(p[i][c]) - static_cast<double>(p[0][c]); };
  return 0.5 * (d(1, 0) * d(2, 1) - d(2, 0) * d(1, 1));
}

// A strip that winds up over itself like a stair: seen from above its turns lie over each other.
Mesh winding(int turns) {
  Mesh m;
  m.parts = {"whole"};
  const int steps = 48 * turns;
  for (int i = 0; i <= steps; ++i)
    for (const float r : {0.3f, 0.5f}) {
      const float a = 2 * kPi * static_cast<float>(i) / 48, y = 0.2f * static_cast<float>(i) / 48;
      m.position.push_back({r * std::sin(a), y, r * std::cos(a)});
      m.normal.push_back({0, 1, 0});
    }
  for (int i = 0; i < steps; ++i) {
    const auto a = static_cast<std::uint32_t>(2 * i);
    for (const auto& t : {std::array{a, a + 1, a + 2}, {a + 2, a + 1, a + 3}})
      m.triangle.push_back(t), m.part_of.push_back(0);
  }
  return m;
}

Material material(std::vector<std::pair<const char*, const char*>> nodes, std::vector<Thread> threads,
                  std::map<std::string, std::string> hem) {
  Material m = edit::empty_material();
  for (const auto& [id, type] : nodes) {
    auto n = std::make_shared<Node>();
    n->id = id, n->type = type, n->lane = "relief";
    m.nodes.push_back(n);
  }
  m.threads = std::move(threads);
  m.hem = std::move(hem);
  return m;
}

// The base colour unlit, seen from one side.
std::vector<std::uint8_t> picture(std::shared_ptr<const MeshShape> mesh, std::shared_ptr<const SurfaceMaps> maps,
                                  float azimuth) {
  DrapeView view;
  view.mesh = std::move(mesh);
  view.width = view.height = 256;
  view.unlit = true;
  view.camera.azimuth = azimuth;
  view.repeats = 1;
  Drape drape(std::move(maps), view);
  drape.first_answer(1, Stop{});
  return drape.picture();
}

}  // namespace

class TestCharts : public QObject {
  Q_OBJECT

 private Q_SLOTS:
  void everyPlaceLiesOnce_data() {
    QTest::addColumn<QString>("which");
    for (const char* which : {"bollard", "sign", "winding"}) QTest::newRow(which) << QString(which);
  }
  void everyPlaceLiesOnce() {
    QFETCH(QString, which);
    const Mesh m = which == "winding" ? winding(4) : demo_mesh((which + ".glb").toLatin1());
    constexpr int kSize = 1024, kMargin = 8;
    const auto charts = charts_of(m, kSize, kMargin, Stop{});
    QVERIFY(charts && !charts->own);
    QCOMPARE(charts->of.size(), m.triangle.size());
    std::vector<std::uint32_t> owner(kSize * kSize, Atlas::Texel::kNone);
    std::size_t covered = 0, twice = 0;
    double most = 0, least = 1e9;
    for (std::uint32_t t = 0; t < charts->of.size(); ++t) {
      const auto& p = charts->of[t];
      for (const auto& [u, v] : p) QVERIFY(u >= 0 && u <= 1 && v >= 0 && v <= 1);
      // In one scale: flattened along one axis, at least 1/sqrt(3) of the area is left.
      const auto& [i, j, k] = m.triangle[t];
      const double in_space =
          0.5 * static_cast<double>(length(cross(m.position[j] - m.position[i], m.position[k] - m.position[i])));
      if (in_space > 1e-6) {
        const double share = std::abs(area(p)) / in_space;
        most = std::max(most, share), least = std::min(least, share);
      }
      // Middles of texels well within, by hand.
      for (int y = 0; y < kSize; ++y) {
        const double py = (y + 0.5) / kSize;
        if (py < static_cast<double>(std::min({p[0][1], p[1][1], p[2][1]})) ||
            py > static_cast<double>(std::max({p[0][1], p[1][1], p[2][1]})))
          continue;
        for (int x = static_cast<int>(std::min({p[0][0], p[1][0], p[2][0]}) * kSize);
             x <= static_cast<int>(std::max({p[0][0], p[1][0], p[2][0]}) * kSize) && x < kSize; ++x) {
          const std::array<float, 2> at{(static_cast<float>(x) + 0.5f) / kSize, static_cast<float>(py)};
          const double whole = area(p), b = area({p[0], at, p[2]}) / whole, c = area({p[0], p[1], at}) / whole;
          if (b < 1e-3 || c < 1e-3 || b + c > 0.999) continue;
          auto& own = owner[static_cast<std::size_t>(y * kSize + x)];
          ++covered;
          twice += own != Atlas::Texel::kNone;
          own = t;
        }
      }
    }
    QCOMPARE(twice, std::size_t{0});
    QVERIFY2(covered > kSize * kSize / 4, qPrintable(QString::number(covered)));
    QVERIFY2(most / least < 1.75, qPrintable(QString("%1 to %2").arg(least).arg(most)));
  }

  void usableCoordinatesAreKept() {
    Mesh m = winding(1);
    for (std::size_t i = 0; i < m.position.size(); ++i)
      m.tile.push_back({static_cast<float>(i / 2) / 48, i % 2 ? 1.0f : 0.0f});
    const auto own = charts_of(m, 256, 8, Stop{});
    QVERIFY(own && own->own);
    QCOMPARE(own->of[3][1], m.tile[m.triangle[3][1]]);
    // Two turns in the same place, or beyond the map: laid out anew.
    Mesh twice = winding(2), beyond = m;
    for (std::size_t i = 0; i < twice.position.size(); ++i)
      twice.tile.push_back({static_cast<float>(i / 2 % 48) / 48, i % 2 ? 1.0f : 0.0f});
    for (auto& t : beyond.tile) t[0] *= 2;
    QVERIFY(!charts_of(twice, 256, 8, Stop{})->own && !charts_of(beyond, 256, 8, Stop{})->own);
  }

  void whatFindsNoRoomIsRefused() {
    Mesh dust;  // ten thousand triangles apart from each other do not fit into 64 x 64 with margins
    dust.parts = {"dust"};
    std::mt19937 chance(3);
    std::uniform_real_distribution<float> any(-1, 1);
    for (std::uint32_t i = 0; i < 10000; ++i) {
      const Vec3 at{any(chance), any(chance), any(chance)};
      for (const Vec3 to : {Vec3{}, {0.01f, 0, 0}, {0, 0.01f, 0}}) dust.position.push_back(at + to);
      dust.triangle.push_back({3 * i, 3 * i + 1, 3 * i + 2});
      dust.part_of.push_back(0);
    }
    dust.normal.resize(dust.position.size(), {0, 0, 1});
    QVERIFY(!charts_of(dust, 64, 8, Stop{}));
  }

  // Slivers a metre long: a scale that follows their area alone would lay them over millions of texels.
  void sliversAreLaidOut() {
    Mesh m;
    m.parts = {"slivers"};
    for (std::uint32_t i = 0; i < 50; ++i) {
      const float y = 0.01f * static_cast<float>(i);
      for (const Vec3 p : {Vec3{0, y, 0}, {0.7f, y + 0.7f, 0}, {0.7f, y + 0.70001f, 0}}) m.position.push_back(p);
      m.triangle.push_back({3 * i, 3 * i + 1, 3 * i + 2});
      m.part_of.push_back(0);
    }
    m.normal.resize(m.position.size(), {0, 0, 1});
    const auto charts = charts_of(m, 256, 4, Stop{});
    for (std::size_t t = 0; charts && t < charts->of.size(); ++t)
      for (const auto& [u, v] : charts->of[t]) QVERIFY(u >= 0 && u <= 1 && v >= 0 && v <= 1);
  }

  void bordersAreWidened() {
    const Mesh m = demo_mesh("sign.glb");
    const auto charts = charts_of(m, 512, 16, Stop{});
    const Atlas bare(*charts, 512, 0), wide(*charts, 512, 8);
    int added = 0;
    for (int y = 0; y < 512; ++y)
      for (int x = 0; x < 512; ++x) {
        if (bare.at(x, y).triangle != Atlas::Texel::kNone) {
          QCOMPARE(wide.at(x, y).triangle, bare.at(x, y).triangle);
          continue;
        }
        bool near = false;
        for (int j = std::max(y - 8, 0); j <= std::min(y + 8, 511) && !near; ++j)
          for (int i = std::max(x - 8, 0); i <= std::min(x + 8, 511) && !near; ++i)
            near = bare.at(i, j).triangle != Atlas::Texel::kNone;
        QCOMPARE(wide.at(x, y).triangle != Atlas::Texel::kNone, near);
        added += near;
      }
    QVERIFY(added > 1000);
  }

  // Delivered onto the mesh and worn by what goes with it, the picture is that of the shading graph.
  void whatIsDeliveredLooksTheSame() {
    QTemporaryDir folder;
    const Material m = material({{"place", "mesh_position"}, {"noise", "gradient_noise"}, {"zones", "toon_zones"}},
                                {{"place", "position", "noise", "positions"}, {"noise", "value", "zones", "number_1"}},
                                {{"base_colour", "zones.colour"}, {"roughness", "noise.value"}});
    const auto mesh = std::make_shared<const MeshShape>(demo_mesh("bollard.glb"));
    Weaver weaver(std::size_t{256} << 20);
    DeliveryPlan plan{.folder = folder.path().toStdString(), .size = 1024, .files = usual_files(m)};
    const auto report = deliver_onto(m, catalogue(), weaver, plan, mesh, Stop{});
    QVERIFY2(report.ok(), report ? "" : report.error().text().c_str());
    QCOMPARE(report->files.size(), std::size_t{3});
    QVERIFY(report->left_out.empty() && report->warnings.size() == 1);

    auto with_charts = read_mesh(report->files[2].path);
    QVERIFY(with_charts);
    QCOMPARE(with_charts->parts, mesh->mesh().parts);
    QCOMPARE(with_charts->triangle.size(), mesh->mesh().triangle.size());
    auto worn_mesh = std::make_shared<const MeshShape>(std::move(*with_charts));
    const auto image = read_image(report->files[0].path);
    QVERIFY(image);
    Field colour = field_of(Kind::colour, Plane(1024), Plane(1024), Plane(1024));
    for (std::size_t c = 0; c < 3; ++c) {
      Plane p(1024);
      for (int y = 0; y < 1024; ++y)
        for (int x = 0; x < 1024; ++x)
          p.at(x, y) = linear_from_srgb(
              image->values[(static_cast<std::size_t>(y) * 1024 + static_cast<std::size_t>(x)) * image->channels + c]);
      colour.strand[c] = std::make_shared<Plane>(std::move(p));
    }
    const auto flat = flatten(m, catalogue());
    const auto hem = weave_hem(weaver, *flat, flat->hem, 256, Stop{});
    QVERIFY(hem);
    const std::map<std::string, Field> slots{{"base_colour", colour}};
    const auto graph = std::make_shared<const SurfaceMaps>(hem->slots, Extent{}, hem->over_surface),
               delivered = std::make_shared<const SurfaceMaps>(slots);
    for (const float azimuth : {20.0f, 200.0f}) {
      const auto a = picture(mesh, graph, azimuth), b = picture(worn_mesh, delivered, azimuth);
      double off = 0;
      for (std::size_t i = 0; i < a.size(); ++i) off += std::abs(static_cast<int>(a[i]) - static_cast<int>(b[i]));
      QVERIFY2(off / static_cast<double>(a.size()) < 1.0, qPrintable(QString::number(off)));
    }
  }

  // The normals of a flat material are those of the charts; a measure comes out as it is asked for alone.
  void normalsAndMeasuresInTheCharts() {
    QTemporaryDir folder;
    const Material m =
        material({{"edges", "convex_edges"}, {"ground", "value"}, {"facing", "normal_from_height"}},
                 {{"ground", "value", "facing", "height"}}, {{"roughness", "edges.mask"}, {"normal", "facing.normal"}});
    const auto mesh = std::make_shared<const MeshShape>(demo_mesh("sign.glb"));
    Weaver weaver(std::size_t{256} << 20);
    DeliveryPlan plan{.folder = folder.path().toStdString(), .size = 256, .files = usual_files(m)};
    for (auto& s : plan.files) s.format = ImageFormat::exr, s.bits = 32;
    const auto report = deliver_onto(m, catalogue(), weaver, plan, mesh, Stop{});
    QVERIFY(report);
    const auto rough = read_image(report->files[0].path), normal = read_image(report->files[1].path);
    QVERIFY(rough && normal);
    const auto charts = charts_of(mesh->mesh(), 256, chart_margin(256), Stop{});
    const Atlas atlas(*charts, 256, chart_margin(256) / 2);
    double off = 0, more = 0;
    int count = 0;
    for (int y = 0; y < 256; ++y)
      for (int x = 0; x < 256; ++x) {
        const auto& t = atlas.at(x, y);
        if (t.triangle == Atlas::Texel::kNone) continue;
        const auto texel = static_cast<std::size_t>(y) * 256 + static_cast<std::size_t>(x);
        QVERIFY(std::abs(normal->values[3 * texel + 2] - 1) < 1e-3f);  // 0..1 of -1..1
        const MeshMeasure what{.name = MeasureName::edges};
        const MeasuredPoint point{mesh->position({0, t.triangle, t.b, t.c}), mesh->flat(t.triangle)};
        const auto apart =
            static_cast<double>(rough->values[rough->channels * texel] - measured_at(*mesh, what, point)[0]);
        off += std::abs(apart), more += apart;
        ++count;
      }
    // Both have the grain of 64 rays, which is not the same.
    QVERIFY2(off / count < 0.05, qPrintable(QString::number(off / count)));
    QVERIFY2(std::abs(more / count) < 0.005, qPrintable(QString::number(more / count)));
  }
};

QTEST_GUILESS_MAIN(TestCharts)
#include "tst_charts.moc"
