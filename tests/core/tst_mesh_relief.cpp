// Relief on meshes: against grids of displaced triangles, without gaps, and in the picture.
#include <random>

#include "core/surface/drape.h"
#include "tests/core/alone.h"
#include "tests/core/ball_mesh.h"

using namespace loom;
using namespace loom::test;

namespace {

constexpr float kDepth = 0.05f;

// All of it one part.
Mesh ball(int around) {
  Mesh m = ball_mesh(around);
  m.parts = {"whole"};
  m.part_of.assign(m.triangle.size(), 0);
  return m;
}

// A cube of one metre, with hard edges: each side has corners, normals and coordinates of its own.
Mesh cube() {
  Mesh m;
  m.parts = {"whole"};
  for (int axis = 0; axis < 3; ++axis)
    for (const float side : {-0.5f, 0.5f}) {
      const auto first = static_cast<std::uint32_t>(m.position.size());
      for (const auto& [s, t] : {std::pair{-0.5f, -0.5f}, {0.5f, -0.5f}, {0.5f, 0.5f}, {-0.5f, 0.5f}}) {
        m.position.push_back(axis == 0 ? Vec3{side, s, t} : axis == 1 ? Vec3{t, side, s} : Vec3{s, t, side});
        m.normal.push_back(axis == 0 ? Vec3{2 * side, 0, 0} : axis == 1 ? Vec3{0, 2 * side, 0} : Vec3{0, 0, 2 * side});
        m.tile.push_back({s + 0.5f, t + 0.5f});
      }
      for (const auto& [a, b, c] : {std::array<std::uint32_t, 3>{0, 1, 2}, {0, 2, 3}})
        m.triangle.push_back(side > 0 ? std::array{first + a, first + b, first + c}
                                      : std::array{first + a, first + c, first + b});
    }
  m.part_of.resize(m.triangle.size());
  return m;
}

// A square of one metre that faces +z.
Mesh sheet() {
  Mesh m;
  m.parts = {"whole"};
  for (const auto& [x, y] : {std::pair{-0.5f, -0.5f}, {0.5f, -0.5f}, {0.5f, 0.5f}, {-0.5f, 0.5f}}) {
    m.position.push_back({x, y, 0});
    m.normal.push_back({0, 0, 1});
    m.tile.push_back({x + 0.5f, 0.5f - y});
  }
  m.triangle = {{0, 1, 2}, {0, 2, 3}};
  m.part_of.resize(2);
  return m;
}

std::shared_ptr<const MeshShape> shape_of(Mesh m) { return std::make_shared<const MeshShape>(std::move(m)); }

std::shared_ptr<const SurfaceMaps> maps_of(Plane height) {
  std::map<std::string, Field> slots;
  slots["height"] = field(Kind::scalar, [&] {
    std::vector<Plane> planes;
    planes.push_back(std::move(height));
    return planes;
  }());
  return std::make_shared<const SurfaceMaps>(std::move(slots), Extent{1, static_cast<double>(kDepth)});
}

// 1 but for a hole in the middle.
Plane level() {
  return painted(64,
                 [](double u, double v) { return std::max(std::abs(u - 0.5), std::abs(v - 0.5)) < 0.05 ? 0.0 : 1.0; });
}

// Each triangle cut into n x n, every corner moved along the shell's lean by the height there.
Mesh displaced(const MeshShape& shape, const MeshShell& shell, const ReliefField& relief, float depth, int n) {
  const Mesh& m = shape.mesh();
  Mesh fine;
  fine.parts = m.parts;
  for (std::uint32_t t = 0; t < m.triangle.size(); ++t) {
    const auto first = static_cast<std::uint32_t>(fine.position.size());
    const auto at = [&](int i, int j) { return first + static_cast<std::uint32_t>(i * (n + 1) - i * (i - 1) / 2 + j); };
    const auto& [x, y, z] = m.triangle[t];
    for (int i = 0; i <= n; ++i)
      for (int j = 0; i + j <= n; ++j) {
        const float b = static_cast<float>(i) / static_cast<float>(n),
                    c = static_cast<float>(j) / static_cast<float>(n);
        const auto tile = shape.place({0, t, b, c}).tile;
        const Vec3 lean = shell.leans()[x] * (1 - b - c) + shell.leans()[y] * b + shell.leans()[z] * c;
        fine.position.push_back(shape.position({0, t, b, c}) +
                                lean * (relief.ground(tile[0], tile[1], 0).height * depth));
        fine.normal.push_back({0, 0, 1});
      }
    for (int i = 0; i < n; ++i)
      for (int j = 0; i + j < n; ++j) {
        fine.triangle.push_back({at(i, j), at(i + 1, j), at(i, j + 1)});
        if (i + j + 1 < n) fine.triangle.push_back({at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)});
      }
  }
  fine.part_of.resize(fine.triangle.size());
  return fine;
}

std::vector<Ray> rays_at(float radius, std::size_t count) {
  std::mt19937 chance(3);
  std::uniform_real_distribution<float> between(-1, 1);
  std::vector<Ray> rays;
  while (rays.size() < count) {
    const Vec3 out{between(chance), between(chance), between(chance)},
        to{between(chance), between(chance), between(chance)};
    if (dot(out, out) > 1 || dot(out, out) < 0.1f) continue;
    const Vec3 from = normalised(out) * 2;
    rays.push_back({from, normalised(to * radius - from)});
  }
  return rays;
}

}  // namespace

class TestMeshRelief : public QObject {
  Q_OBJECT
 private Q_SLOTS:
  // Outlines and distances are those of the same mesh cut fine and displaced. Over a face whose corners lean apart, as
  // those of the cube do, what stands on it is shifted along it by up to a quarter of the depth.
  void itIsMetWhereDisplacedTrianglesAre_data() {
    QTest::addColumn<bool>("round");
    QTest::newRow("ball") << true;
    QTest::newRow("cube") << false;
  }
  void itIsMetWhereDisplacedTrianglesAre() {
    QFETCH(bool, round);
    const auto shape = shape_of(round ? ball(32) : cube());
    const auto maps = maps_of(bumpy(64, 1));
    const MeshBody body(shape, Worn(maps), shape->tile_metres(), 1);
    QVERIFY(body.has_relief());
    const float depth = kDepth * shape->tile_metres();
    const MeshShell shell(*shape, {{0, depth}});
    const MeshShape fine(displaced(*shape, shell, *maps->relief(), depth, round ? 24 : 256));
    int both = 0, only_one = 0, apart = 0;
    for (const Ray& ray : rays_at(0.7f, 20000)) {
      const auto got = body.first(ray, {0, 0}, 0.5f);
      const auto want = fine.first(ray, 0);
      QCOMPARE(body.blocks(ray, {0, 0}, 0.5f), got.has_value());
      only_one += got.has_value() != want.has_value();
      if (!got || !want) continue;
      ++both;
      apart += std::abs(got->t - want->t) > (round ? 2e-3f : 0.3f * depth);
    }
    // What is apart or met by one alone are rays that graze.
    QVERIFY2(both > 4000 && only_one < 0.004 * both && apart < (round ? 0.01 : 0.03) * both,
             qPrintable(QString("%1 %2 %3").arg(both).arg(only_one).arg(apart)));
  }

  // No ray slips through between prisms, whichever corner or edge it aims at.
  void thereAreNoGaps() {
    for (const bool round : {true, false}) {
      const auto shape = shape_of(round ? ball(48) : cube());
      const MeshBody body(shape, Worn(maps_of(bumpy(64, 2))), shape->tile_metres(), 1);
      for (const Ray& ray : rays_at(0.2f, 40000)) {
        const auto hit = body.first(ray, {0, 0}, 0.5f);
        QVERIFY(hit && !hit->inside && hit->t < 2);
      }
      const Mesh& m = shape->mesh();
      for (const Vec3& p : m.position) {
        const Vec3 from = normalised(p) * 2;
        const auto hit = body.first({from, normalised(p - from)}, {0, 0}, 0.5f);
        QVERIFY(hit && hit->t < 1.6f);
      }
    }
  }

  void aLevelReliefIsAParallelFace() {
    const auto shape = shape_of(cube());
    const MeshBody body(shape, Worn(maps_of(level())), 1, 2);  // 0.1 m
    const auto hit = body.first({{0.3f, -0.2f, 3}, {0, 0, -1}}, {0, 0}, 0.5f);
    QVERIFY(hit && std::abs(hit->t - 2.4f) < 1e-3f && std::abs(hit->at.height - 0.1f) < 1e-3f);
    QVERIFY(dot(hit->facet, Vec3{0, 0, 1}) > 0.9999f && !hit->flat_side);
    // The corners are as far out as the faces.
    QVERIFY(body.first({{0.595f, 0.595f, 3}, {0, 0, -1}}, {0, 0}, 0.5f));
    QVERIFY(!body.first({{0.605f, 0.3f, 3}, {0, 0, -1}}, {0, 0}, 0.5f));
    // What starts on it is free, and does not meet it.
    QVERIFY(!body.blocks({body.off(*hit).place, {0, 0, 1}}, {0, 0}, 0.5f));
    QVERIFY(body.blocks({body.off(*hit).place, {0, 0, -1}}, {0, 0}, 0.5f));
  }

  // A relief that is far deeper than triangles are wide is lit by its normals alone, and is known to be.
  void whatIsTooDeepIsNotRaised() {
    DrapeView view;
    view.mesh = shape_of(ball(96));
    const Worn worn(maps_of(bumpy(64, 1)));
    for (const float factor : {1.0f, 3.0f}) {
      view.relief_factor = factor;
      QCOMPARE(body_of(worn, view)->has_relief(), factor == 1);
      QCOMPARE(is_too_deep(worn, view), factor != 1);
    }
    view.mesh = nullptr;
    QVERIFY(!is_too_deep(worn, view) && body_of(worn, view)->has_relief());
  }

  // Where a mesh ends its relief ends in a wall; from behind it is as it was.
  void openSidesAreWalls() {
    const MeshBody body(shape_of(sheet()), Worn(maps_of(level())), 1, 2);
    const auto wall = body.first({{2, 0.1f, 0.05f}, {-1, 0, 0}}, {0, 0}, 0.5f);
    QVERIFY(wall && wall->flat_side && std::abs(wall->t - 1.5f) < 1e-3f && wall->facet.x > 0.999f);
    QVERIFY(!body.first({{2, 0.1f, 0.11f}, {-1, 0, 0}}, {0, 0}, 0.5f));
    const auto back = body.first({{0.1f, 0.2f, -2}, {0, 0, 1}}, {0, 0}, 0.5f);
    QVERIFY(back && back->inside && std::abs(back->t - 2) < 1e-3f && back->facet.z < -0.999f);
  }

  // What lies deep is dark beside what throws a shadow over it, in the first answer and by paths; without relief it is
  // not.
  void itShadowsItself() {
    const auto shape = shape_of(sheet());
    const auto maps = maps_of(painted(64, [](double u, double) { return u > 0.4 && u < 0.6 ? 1.0 : 0.0; }));
    DrapeView view;
    view.mesh = shape;
    view.width = view.height = 96;
    view.camera = {0, 0, 2.4f};
    view.light_degrees = 60, view.light_height = 5;  // from the left
    view.relief_factor = 3;
    const auto lit = [&](bool relief, bool paths) {
      view.relief = relief;
      Drape drape(Worn(maps), view);
      if (paths)
        for (int i = 0; i < 8; ++i) drape.add_sample(Stop{});
      else
        drape.first_answer(1, Stop{});
      const auto light = drape.radiance();
      const auto at = [&](int x) { return light[4 * (48 * 96 + static_cast<std::size_t>(x))]; };
      return at(62) / at(20);  // behind the ridge, before it
    };
    for (const bool paths : {false, true}) {
      QVERIFY(lit(true, paths) < 0.7f);
      QVERIFY(std::abs(lit(false, paths) - 1) < 0.1f);
    }
  }
};

QTEST_GUILESS_MAIN(TestMeshRelief)
#include "tst_mesh_relief.moc"
