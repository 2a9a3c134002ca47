// Measures of a mesh: against closed forms, and what must hold between them.
#include "core/surface/drape.h"
#include "core/surface/measured_map.h"
#include "core/surface/shape_mesh.h"
#include "tests/core/alone.h"
#include "tests/core/ball_mesh.h"

#include <set>

using namespace loom;
using namespace loom::test;

namespace {

using Corners = std::vector<Vec3>;
using Faces = std::vector<std::vector<std::uint32_t>>;

// Convex faces in any order of corners, turned outwards as seen from the middle; each corner divides into fans.
Mesh solid(const Corners& corners, const Faces& faces) {
  Mesh m;
  m.parts = {"whole"};
  m.position = corners;
  m.normal.resize(corners.size(), {0, 1, 0});
  for (const auto& face : faces)
    for (std::size_t i = 2; i < face.size(); ++i) {
      std::array<std::uint32_t, 3> t{face[0], face[i - 1], face[i]};
      const Vec3 a = corners[t[0]], n = cross(corners[t[1]] - a, corners[t[2]] - a);
      if (dot(n, a) < 0) std::swap(t[1], t[2]);
      m.triangle.push_back(t);
      m.part_of.push_back(0);
    }
  return m;
}

Mesh box(Vec3 half) {
  Corners corners;
  for (int i = 0; i < 8; ++i)
    corners.push_back(Vec3{i & 1 ? 1.0f : -1.0f, i & 2 ? 1.0f : -1.0f, i & 4 ? 1.0f : -1.0f} * half);
  return solid(corners, {{0, 1, 3, 2}, {4, 5, 7, 6}, {0, 1, 5, 4}, {2, 3, 7, 6}, {0, 2, 6, 4}, {1, 3, 7, 5}});
}

Mesh turned_inside_out(Mesh m) {
  for (auto& t : m.triangle) std::swap(t[1], t[2]);
  return m;
}

void append(Mesh& to, const Mesh& m, Vec3 by, const char* part) {
  const auto first = static_cast<std::uint32_t>(to.position.size());
  for (const Vec3& p : m.position) to.position.push_back(p + by);
  to.normal.resize(to.position.size(), {0, 1, 0});
  for (const auto& [a, b, c] : m.triangle) {
    to.triangle.push_back({a + first, b + first, c + first});
    to.part_of.push_back(static_cast<std::uint16_t>(to.parts.size()));
  }
  to.parts.emplace_back(part);
}

MeshMeasure asked(MeasureName name, float radius, int rays = 1024) {
  return {.name = name, .radius = radius, .rays = rays};
}

bool near(float value, float expected, float tolerance) { return std::abs(value - expected) <= tolerance; }

}  // namespace

class TestMeasured : public QObject {
  Q_OBJECT

  static float open_at(const MeshShape& m, Vec3 place, Vec3 normal, float radius) {
    return measured_at(m, asked(MeasureName::openness, radius), {place, normal})[0];
  }
  static auto edges_at(const MeshShape& m, Vec3 place, Vec3 normal, float radius) {
    return measured_at(m, asked(MeasureName::edges, radius), {place, normal});
  }

 private Q_SLOTS:
  // The sky at the foot of a wall. Source: Howell, "A Catalog of Radiation Heat Transfer Configuration Factors", from a
  // plane element to a rectangle at right angles to it (from memory), for an element at distance c from the wall,
  // before the middle of a wall 2b wide and a high: twice
  //   F = (1 / 2 pi) (atan(1/Y) - A Y atan A), A = 1 / sqrt(X^2 + Y^2), X = a/b, Y = c/b.
  void theSkyAtTheFootOfAWall() {
    Mesh m;
    append(m, box({5, 0.01f, 5}), {0, -0.01f, 0}, "ground");
    append(m, box({0.4f, 0.15f, 0.005f}), {0, 0.15f, -0.005f}, "wall");
    const MeshShape shape(m);
    const double b = 0.4, a = 0.3;
    for (const double c : {0.02, 0.05, 0.1, 0.2, 0.4}) {
      const double x = a / b, y = c / b, q = 1 / std::sqrt(x * x + y * y);
      const double wall = 2 * (std::atan(1 / y) - q * y * std::atan(q)) / (2 * M_PI);
      const float open = open_at(shape, {0, 0, static_cast<float>(c)}, {0, 1, 0}, 1);
      QVERIFY2(std::abs(static_cast<double>(open) - (1 - wall)) < 0.01,
               qPrintable(QString("%1: %2 for %3").arg(c).arg(static_cast<double>(open)).arg(1 - wall)));
    }
  }

  // In the corner of three endless walls a quarter of the sky is left at most: by the same factor with X to infinity
  // one wall takes a half at its foot, and at an angle of 45 degrees between both it is 1/4 for the sky's own quadrant.
  void theSkyInTheCornerOfABox() {
    const MeshShape shape(turned_inside_out(box({1, 1, 1})));
    const float open = open_at(shape, {-0.9999f, -1, -0.9999f}, {0, 1, 0}, 0.25f);
    QVERIFY2(near(open, 0.25f, 0.02f), qPrintable(QString::number(static_cast<double>(open))));
  }

  void theSkyEndsAtTheRadius() {
    const MeshShape shape(turned_inside_out(box({1, 1, 1})));
    QCOMPARE(open_at(shape, {0, -1, 0}, {0, 1, 0}, 0.4f), 1.0f);
    QCOMPARE(open_at(shape, {0, -1, 0}, {0, 1, 0}, 2.0f), 0.0f);
  }

  // Facing angles of the regular solids. Source: Coxeter, "Regular Polytopes", table I: the angles between faces are
  // 70.53, 90, 109.47, 116.57 and 138.19 degrees; the turn is what is missing to 180.
  void theTurnOfTheRegularSolids_data() {
    QTest::addColumn<int>("faces");
    QTest::addColumn<double>("turn");
    QTest::newRow("tetrahedron") << 4 << 180 - 70.528779;
    QTest::newRow("cube") << 6 << 90.0;
    QTest::newRow("octahedron") << 8 << 180 - 109.471221;
    QTest::newRow("dodecahedron") << 12 << 180 - 116.565051;
    QTest::newRow("icosahedron") << 20 << 180 - 138.189685;
  }
  void theTurnOfTheRegularSolids() {
    QFETCH(int, faces);
    QFETCH(double, turn);
    const Mesh m = regular(faces);
    const MeshShape outside(m), inside(turned_inside_out(m));
    // Near the middle of the first edge that two faces of different planes share.
    const auto [place, normal] = near_an_edge(m);
    const float found = edges_at(outside, place, normal, 0.05f)[2],
                other = edges_at(inside, place, normal * -1, 0.05f)[2];
    QVERIFY2(near(found, static_cast<float>(turn), 0.05f), qPrintable(QString::number(static_cast<double>(found))));
    QVERIFY2(near(other, static_cast<float>(-turn), 0.05f), qPrintable(QString::number(static_cast<double>(other))));
  }

  // From the definition: on the edge of a cube a quarter of the ball about it is solid, in its corner an eighth; the
  // rounded normal lies half way between the faces.
  void edgesOfACube() {
    const MeshShape shape(box({0.5f, 0.5f, 0.5f}));
    const auto edge = edges_at(shape, {0.49999f, 0.5f, 0}, {0, 1, 0}, 0.1f);
    QVERIFY(near(edge[0], 0.5f, 0.01f) && edge[1] == 0);
    QVERIFY(near(edge[3], std::sqrt(0.5f), 0.02f) && near(edge[4], std::sqrt(0.5f), 0.02f) && near(edge[5], 0, 0.02f));
    const auto corner = edges_at(shape, {0.49999f, 0.5f, 0.49999f}, {0, 1, 0}, 0.1f);
    QVERIFY(near(corner[0], 0.75f, 0.01f));
    const auto flat = edges_at(shape, {0, 0.5f, 0}, {0, 1, 0}, 0.1f);
    QVERIFY(flat[0] == 0 && flat[1] == 0 && flat[2] == 0 && near(flat[4], 1, 1e-5f));
    // Half a radius away: 1 - (t/R)^3 over the directions that come out, in closed form t = d / cos; by a fine sum.
    double sum = 0;
    const int steps = 2000;
    for (int i = 0; i < steps; ++i)  // of the cosine to the edge's plane, whose directions go down by half
      if (const double towards = (i + 0.5) / steps; towards > 0.5)
        sum += 0.5 * (1 - std::pow(0.5 / towards, 3)) / steps;
    const auto beside = edges_at(shape, {0.45f, 0.5f, 0}, {0, 1, 0}, 0.1f);
    QVERIFY2(near(beside[0], static_cast<float>(sum), 0.01f),
             qPrintable(QString("%1 for %2").arg(static_cast<double>(beside[0])).arg(sum)));
  }

  void concaveIsConvexOfTheMeshTurnedInsideOut() {
    const Mesh m = box({0.5f, 0.3f, 0.2f});
    const MeshShape out(m), in(turned_inside_out(m));
    for (const Vec3 place : {Vec3{0.49f, 0.3f, 0.1f}, {0.45f, 0.3f, 0.19f}, {0.2f, 0.3f, 0}}) {
      const auto a = edges_at(out, place, {0, 1, 0}, 0.08f), b = edges_at(in, place, {0, -1, 0}, 0.08f);
      QVERIFY(near(a[0], b[1], 0.01f) && near(a[1], b[0], 0.01f));
    }
  }

  // Outer edges alone are what the rounded edge darkens without what is shut in: common practice, no source.
  void outerEdgesAreRoundedOnesWithoutTheShutIn() {
    Mesh m;
    append(m, box({2, 0.1f, 2}), {0, -0.1f, 0}, "ground");
    append(m, box({0.3f, 0.3f, 0.3f}), {0, 0.3f, 0}, "block");
    const MeshShape shape(m);
    const float radius = 0.04f;
    const auto both = [&](Vec3 place, Vec3 normal) {
      const auto e = edges_at(shape, place, normal, radius);
      const float rounded = 1 - dot(Vec3{e[3], e[4], e[5]}, normal),
                  shut_in = 1 - open_at(shape, place, normal, radius);
      return std::pair{rounded, std::max(rounded - shut_in, 0.0f)};
    };
    const auto outer = both({0.295f, 0.6f, 0}, {0, 1, 0}), inner = both({0.305f, 0, 0}, {0, 1, 0});
    QVERIFY(outer.first > 0.15f && outer.second > 0.15f);
    QVERIFY(inner.first > 0.15f && inner.second < 0.01f);
  }

  void aSheetIsNoEdge() {
    const MeshShape sheet(box({0.5f, 0.002f, 0.5f}));
    const auto middle = edges_at(sheet, {0, 0.002f, 0}, {0, 1, 0}, 0.05f),
               rim = edges_at(sheet, {0.499f, 0.002f, 0}, {0, 1, 0}, 0.05f);
    QVERIFY2(middle[0] < 0.01f && near(middle[4], 1, 1e-4f),
             qPrintable(QString::number(static_cast<double>(middle[0]))));
    QVERIFY(rim[0] > 0.02f);
  }

  void theThicknessOfASlab() {
    const MeshShape slab(box({1, 0.05f, 1}));
    const auto straight = measured_at(slab, asked(MeasureName::thickness, 1), {{0.1f, 0.05f, 0.2f}, {0, 1, 0}});
    QVERIFY(near(straight[0], 0.1f, 1e-4f));
    // Over a cone of half the angle h the mean of d / cos: d ln(1 / cos h) / (1 - cos h).
    MeshMeasure cone = asked(MeasureName::thickness, 1);
    cone.spread = 90;
    const double c = std::cos(M_PI / 4), mean = 0.1 * std::log(1 / c) / (1 - c);
    const auto wide = measured_at(slab, cone, {{0.1f, 0.05f, 0.2f}, {0, 1, 0}});
    QVERIFY(near(wide[0], static_cast<float>(mean), 5e-4f));
    // Several solids in each other are one.
    Mesh two;
    append(two, box({1, 0.05f, 1}), {}, "slab");
    append(two, box({0.1f, 0.3f, 0.1f}), {0, -0.3f, 0}, "post");
    const MeshShape both(two);
    MeshMeasure one = asked(MeasureName::thickness, 1);
    const MeasuredPoint over{{0.02f, 0.05f, 0.03f}, {0, 1, 0}};
    QVERIFY(near(measured_at(both, one, over)[0], 0.65f, 1e-3f));
    one.part_only = true;
    QVERIFY(near(measured_at(both, one, over)[0], 0.1f, 1e-4f));
  }

  void thisPartOnly() {
    Mesh m;
    append(m, box({2, 0.1f, 2}), {0, -0.1f, 0}, "ground");
    append(m, box({0.3f, 0.3f, 0.3f}), {0, 0.3f, 0}, "block");
    const MeshShape shape(m);
    MeshMeasure what = asked(MeasureName::openness, 0.1f);
    const MeasuredPoint foot{{0.31f, 0, 0}, {0, 1, 0}};
    QVERIFY(measured_at(shape, what, foot)[0] < 0.6f);
    what.part_only = true;
    QCOMPARE(measured_at(shape, what, foot)[0], 1.0f);
  }

  // However the faces are divided and the points laid: what is read between the points is what is found there.
  void theGridHoldsWhatIsFound() {
    Mesh m;
    append(m, box({2, 0.1f, 2}), {0, -0.1f, 0}, "ground");
    append(m, box({0.3f, 0.3f, 0.3f}), {0, 0.3f, 0}, "block");
    auto shape = std::make_shared<const MeshShape>(m);
    const MeshMeasure what = asked(MeasureName::openness, 0.2f, 256);
    const auto laid = Measured::make(shape, what, 300000, Stop{});
    QVERIFY(laid);
    double off = 0;
    int count = 0;
    for (float x = 0.32f; x < 1; x += 0.03f)
      for (float z = -0.9f; z < 1; z += 0.1f) {
        const auto met = shape->first({{x, 1, z}, {0, -1, 0}}, 0);
        QVERIFY(met);
        const float read = (*laid)->at(met->triangle, met->b, met->c)[0];
        off += std::abs(static_cast<double>(read - open_at(*shape, {x, 0, z}, {0, 1, 0}, 0.2f)));
        ++count;
      }
    QVERIFY2(off / count < 0.01, qPrintable(QString::number(off / count)));
  }

  // Rays that find their way together are told what each is told alone.
  void pointsTogetherAreThoseAlone() {
    Mesh m;
    append(m, box({2, 0.1f, 2}), {0, -0.1f, 0}, "ground");
    append(m, box({0.3f, 0.3f, 0.3f}), {0, 0.3f, 0}, "block");
    append(m, box({0.1f, 0.4f, 0.1f}), {0.35f, 0.2f, 0}, "post");  // in both
    const MeshShape shape(m);
    std::vector<MeasuredPoint> points;
    for (int i = 0; i < 13; ++i) points.push_back({{0.5f + 0.05f * static_cast<float>(i), 0, 0.1f}, {0, 1, 0}, 0});
    points.push_back({{0.3f, 0.2f, 0.05f}, {1, 0, 0}, 1});  // and those that look another way
    points.push_back({{0.45f, 0.5f, 0.02f}, {1, 0, 0}, 2});
    for (const MeasureName name : {MeasureName::edges, MeasureName::openness, MeasureName::thickness})
      for (const bool part_only : {false, true}) {
        MeshMeasure what = asked(name, 0.1f, 64);
        what.part_only = part_only, what.spread = 90;
        std::vector<MeasuredNumbers> found(points.size());
        MeshProbe(shape, what).look(points, MeshProbe::kWhole, found);
        for (std::size_t i = 0; i < points.size(); ++i) {
          const MeasuredNumbers alone = measured_at(shape, what, points[i]);
          for (std::size_t k = 0; k < what.numbers(); ++k) QVERIFY(near(found[i][k], alone[k], 1e-4f));
        }
      }
  }

  // The four orders share twice as many directions as a point is to have, each of them once.
  void fourOrdersAreTwiceTheRays() {
    Mesh m;
    append(m, box({2, 0.1f, 2}), {0, -0.1f, 0}, "ground");
    append(m, box({0.3f, 0.3f, 0.3f}), {0, 0.3f, 0}, "block");
    const MeshShape shape(m);
    const MeasuredPoint foot{{0.33f, 0, 0.1f}, {0, 1, 0}};
    const MeshMeasure what = asked(MeasureName::openness, 0.2f, 64), twice = asked(MeasureName::openness, 0.2f, 128);
    float sum = 0;
    std::set<float> different;
    for (int order = 0; order < MeshProbe::kOrders; ++order) {
      MeasuredNumbers found;
      MeshProbe(shape, what).look({&foot, 1}, order, {&found, 1});
      sum += found[kOpen] / MeshProbe::kOrders;
      different.insert(found[kBentNormal]);
    }
    QCOMPARE(sum, measured_at(shape, twice, foot)[kOpen]);
    QCOMPARE(different.size(), std::size_t{MeshProbe::kOrders});
  }

  // What is laid over a mesh has less of the grain than the rays of a point leave, whatever its triangles.
  void neighboursShareTheirRays() {
    const auto shape = std::make_shared<const MeshShape>(ball_mesh(24));
    const auto measured = [&](int rays) {
      return *Measured::make(shape, asked(MeasureName::edges, 0.2f, rays), 40000, Stop{});
    };
    const auto few = measured(32), many = measured(1024);
    double laid = 0, alone = 0;
    for (std::uint32_t t = 0; t < shape->mesh().triangle.size(); ++t) {
      const auto truth = static_cast<double>(many->at(t, 0.3f, 0.3f)[kConvex]);
      const MeasuredPoint point{shape->position({0, t, 0.3f, 0.3f}), shape->flat(t)};
      const auto at_once = measured_at(*shape, asked(MeasureName::edges, 0.2f, 16), point);
      laid += std::abs(static_cast<double>(few->at(t, 0.3f, 0.3f)[kConvex]) - truth);
      alone += std::abs(static_cast<double>(at_once[kConvex]) - truth);
    }
    QVERIFY2(laid < 0.7 * alone, qPrintable(QString("%1 for %2").arg(laid).arg(alone)));
  }

  void theSameBitsTwice() {
    const auto mesh = std::make_shared<const MeshShape>(box({0.5f, 0.3f, 0.2f}));
    const MeshMeasure what = asked(MeasureName::edges, 0.1f, 32);
    const auto a = Measured::make(mesh, what, 5000, Stop{}), b = Measured::make(mesh, what, 5000, Stop{});
    for (std::uint32_t t = 0; t < mesh->mesh().triangle.size(); ++t)
      for (float s = 0; s < 1; s += 0.09f) QCOMPARE((*a)->at(t, s, 0.5f * (1 - s)), (*b)->at(t, s, 0.5f * (1 - s)));
  }

  // What `measure` names is what the nodes give, and no measuring node is left out.
  void outputsAreThoseOfTheNodes() {
    std::set<std::string> named;
    for (const MeasureOutput& o : measure_outputs()) {
      const auto [node, peg] = split_output(o.output);
      const NodeType* type = catalogue().find(node);
      QVERIFY2(type && type->output(peg), std::string(o.output).c_str());
      QCOMPARE(measure_output(o.output), &o);
      named.insert(std::string(o.output));
    }
    for (const NodeType* type : catalogue().all())
      if (type->id != "mesh_attribute" && !over_two_boxes(*type, {}).empty())  // which is read, not measured
        for (const Peg& out : type->outputs) QVERIFY2(named.count(type->id + "." + out.id), out.id.c_str());
    QCOMPARE(std::string(measure_output("thickness")->output), std::string("thickness.metres"));
    QVERIFY(!measure_output("thick") && !measure_output("roundness"));
  }

  // What is known as well is taken over, a coarser answer or one of another mesh is not.
  void whatIsKnownIsNotMeasuredAgain() {
    const auto ask = [](int rays) {
      Builder b(Domain::surface_points());
      b.store(b.measured(asked(MeasureName::openness, 0.1f, rays))[0], 0);
      auto program = std::make_shared<SurfaceProgram>();
      program->program = b.build();
      program->outputs = {{"roughness", Kind::scalar, 0}};
      return std::make_shared<const SurfaceMaps>(std::map<std::string, Field>{}, Extent{}, program);
    };
    DrapeView view;
    view.mesh = std::make_shared<const MeshShape>(box({0.5f, 0.3f, 0.2f}));
    const auto measure = [&](int rays, std::size_t points) {
      view.measured = *measured_for(ask(rays), view, Stop{}, {}, points);
      return view.measured->known.begin()->second;
    };
    const auto first = measure(32, 4000);
    QCOMPARE(measure(32, 4000), first);
    QCOMPARE(measure(32, 1000), first);
    QVERIFY(measure(32, 40000) != first);
    const auto fine = measure(32, 40000);
    QVERIFY(measure(64, 4000) != fine);
    const auto finer = measure(64, 4000);
    view.mesh = std::make_shared<const MeshShape>(box({0.5f, 0.3f, 0.2f}));
    QVERIFY(measure(64, 4000) != finer);
  }

  // One ray has no grain: what it finds is neither blended nor smoothed away.
  void straightThicknessKeepsItsSteps() {
    Mesh m;
    append(m, box({0.5f, 0.05f, 0.5f}), {}, "plate");
    append(m, box({0.1f, 0.05f, 0.5f}), {0, -0.06f, 0}, "rib");
    const auto mesh = std::make_shared<const MeshShape>(m);
    MeshMeasure what = asked(MeasureName::thickness, 1, 1);
    const auto laid = Measured::make(mesh, what, 200000, Stop{});
    int between = 0;
    for (float x = -0.4f; x < 0.4f; x += 0.0021f) {
      const auto met = mesh->first({{x, 1, 0.013f}, {0, -1, 0}}, 0);
      const float found = (*laid)->at(met->triangle, met->b, met->c)[0];
      const bool rib = near(found, 0.16f, 1e-3f), plate = near(found, 0.1f, 1e-3f);
      between += !rib && !plate;
      if (std::abs(std::abs(x) - 0.1f) > 0.01f) QVERIFY(std::abs(x) < 0.1f ? rib : plate);
    }
    QVERIFY2(between <= 8, qPrintable(QString::number(between)));
  }

  void itCanBeStopped() {
    Stop stop;
    stop.ask();
    const auto mesh = std::make_shared<const MeshShape>(box({0.5f, 0.3f, 0.2f}));
    QVERIFY(!Measured::make(mesh, asked(MeasureName::edges, 0.1f), 5000, stop));
  }

  // The meshes of the built-in shapes lie on them.
  void shapesHaveMeshes() {
    for (std::size_t i = 0; i < shape_names().size(); ++i) {
      const auto name = static_cast<ShapeName>(i);
      const auto mesh = shape_mesh(name);
      const auto shape = Shape::make(name, 1);
      for (std::uint32_t t = 0; t < mesh->mesh().triangle.size(); ++t) {
        const auto& [a, b, c] = mesh->mesh().triangle[t];
        const Vec3 middle =
            (mesh->mesh().position[a] + mesh->mesh().position[b] + mesh->mesh().position[c]) * (1.0f / 3);
        const Vec3 flat = mesh->flat(t);
        const Ray ray{middle + flat * 0.2f, flat * -1};
        const auto near_by = shape->near(ray, 0, 0);
        QVERIFY2(near_by && std::abs(near_by->from - 0.2f) < 1e-3f,
                 qPrintable(QString("%1, triangle %2: %3")
                                .arg(shape_names()[i].first.c_str())
                                .arg(t)
                                .arg(near_by ? static_cast<double>(near_by->from) : -1.0)));
      }
    }
  }

 private:
  static Mesh regular(int faces) {
    const float g = (1 + std::sqrt(5.0f)) / 2;
    if (faces == 4)
      return solid({{1, 1, 1}, {1, -1, -1}, {-1, 1, -1}, {-1, -1, 1}}, {{0, 1, 2}, {0, 1, 3}, {0, 2, 3}, {1, 2, 3}});
    if (faces == 6) return box({1, 1, 1});
    if (faces == 8) {
      Faces all;
      for (const std::uint32_t x : {0u, 1u})
        for (const std::uint32_t y : {2u, 3u})
          for (const std::uint32_t z : {4u, 5u}) all.push_back({x, y, z});
      return solid({{1, 0, 0}, {-1, 0, 0}, {0, 1, 0}, {0, -1, 0}, {0, 0, 1}, {0, 0, -1}}, all);
    }
    Corners corners;
    for (const float a : {-1.0f, 1.0f})
      for (const float b : {-g, g}) corners.insert(corners.end(), {{0, a, b}, {a, b, 0}, {b, 0, a}});
    // Corners of the icosahedron at the least distance of each other are joined.
    Faces triangles;
    const auto joined = [&](std::uint32_t i, std::uint32_t j) { return length(corners[i] - corners[j]) < 2.1f; };
    for (std::uint32_t i = 0; i < 12; ++i)
      for (std::uint32_t j = i + 1; j < 12; ++j)
        for (std::uint32_t k = j + 1; k < 12; ++k)
          if (joined(i, j) && joined(j, k) && joined(i, k)) triangles.push_back({i, j, k});
    if (faces == 20) return solid(corners, triangles);
    // The dodecahedron has its corners over the faces, and its faces round the corners.
    Corners middles;
    for (const auto& t : triangles) middles.push_back((corners[t[0]] + corners[t[1]] + corners[t[2]]) * (1.0f / 3));
    Faces pentagons;
    for (std::uint32_t i = 0; i < 12; ++i) {
      std::vector<std::uint32_t> round;
      for (std::uint32_t t = 0; t < triangles.size(); ++t)
        if (std::count(triangles[t].begin(), triangles[t].end(), i)) round.push_back(t);
      const Frame frame(normalised(corners[i]));
      std::sort(round.begin(), round.end(), [&](std::uint32_t a, std::uint32_t b) {
        const Vec3 p = frame.local(middles[a]), q = frame.local(middles[b]);
        return std::atan2(p.y, p.x) < std::atan2(q.y, q.x);
      });
      pentagons.push_back(round);
    }
    return solid(middles, pentagons);
  }

  // On a face, a hundredth beside the middle of an edge at which another plane begins.
  static std::pair<Vec3, Vec3> near_an_edge(const Mesh& m) {
    const auto flat = [&](const auto& t) {
      return normalised(cross(m.position[t[1]] - m.position[t[0]], m.position[t[2]] - m.position[t[0]]));
    };
    const auto& first = m.triangle[0];
    for (const auto& other : m.triangle) {
      std::vector<std::uint32_t> shared;
      for (const auto a : first)
        if (std::count(other.begin(), other.end(), a)) shared.push_back(a);
      if (shared.size() != 2 || dot(flat(first), flat(other)) > 0.999f) continue;
      const Vec3 middle = (m.position[shared[0]] + m.position[shared[1]]) * 0.5f;
      const Vec3 centre = (m.position[first[0]] + m.position[first[1]] + m.position[first[2]]) * (1.0f / 3);
      return {middle + (centre - middle) * 0.02f, flat(first)};
    }
    qFatal("no edge");
    return {};
  }
};

QTEST_GUILESS_MAIN(TestMeasured)
#include "tst_measured.moc"
