// Outputs over a shape as they lie in its own coordinates, against what is known of the shape.
#include "core/graph/edit.h"
#include "core/nodes/catalogue.h"
#include "core/surface/laid_out.h"
#include "core/surface/shape_mesh.h"
#include "core/weave/weaver.h"
#include "tests/core/alone.h"

using namespace loom;
using namespace loom::test;

namespace {

constexpr int kSize = 128;

Material one(const char* type, const Resolved& params = {}) {
  Material m = edit::add_node(edit::empty_material(), catalogue(), type, "relief", 0, 0);
  for (const auto& [id, value] : params) m = edit::set_param(std::move(m), type, id, value);
  return m;
}

std::shared_ptr<const ChartedShape> charted(const DrapeView& view) {
  auto made = ChartedShape::make(mesh_of(view), kSize, Stop{});
  if (!made) qFatal("%s", made.error().text().c_str());
  return *made;
}

SurfaceProgram program(const Material& m, const std::string& output) {
  const auto graph = flatten(m, catalogue());
  if (!graph) qFatal("%s", graph.error().text().c_str());
  Weaver weaver(std::size_t{64} << 20);
  auto made = weaver.over_surface(*graph, {{"shown", Want(*graph->find(output))}}, kSize, Stop{});
  if (!made) qFatal("%s", made.error().text().c_str());
  return std::move(made->program);
}

}  // namespace

class TestLaidOut : public QObject {
  Q_OBJECT

  static void shapes() {
    QTest::addColumn<int>("shape");
    for (std::size_t i = 0; i < shape_names().size(); ++i)
      QTest::newRow(shape_names()[i].first.c_str()) << static_cast<int>(i);
  }

 private Q_SLOTS:
  // Every texel shows a place of the shape, its own, and the normal there.
  void placesLieOnTheShape_data() { shapes(); }
  void placesLieOnTheShape() {
    QFETCH(int, shape);
    DrapeView view;
    view.shape = static_cast<ShapeName>(shape);
    const auto on = charted(view);
    const Field places = laid_out(program(one("mesh_position"), "mesh_position.position"), *on, view, {}, Stop{}),
                normals = laid_out(program(one("mesh_normal"), "mesh_normal.normal"), *on, view, {}, Stop{});
    QVERIFY(places.kind == Kind::vector3);
    int shown = 0;
    double apart = 0;
    for (int y = 0; y < kSize; ++y)
      for (int x = 0; x < kSize; ++x) {
        const auto at = [&](const Field& f) {
          return Vec3{f.strand[0]->at(x, y), f.strand[1]->at(x, y), f.strand[2]->at(x, y)};
        };
        if (!on->covers(x, y)) {
          QCOMPARE(length(at(places)), 0.0f);
          continue;
        }
        const Atlas::Texel& t = on->atlas().at(x, y);
        const Vec3 mesh = on->mesh()->position({0, t.triangle, t.b, t.c});
        apart = std::max(apart, static_cast<double>(length(at(places) - mesh)));
        QVERIFY(std::abs(length(at(normals)) - 1) < 1e-3f);
        QVERIFY(dot(at(normals), on->mesh()->flat(t.triangle)) > 0.8f);
        ++shown;
      }
    QVERIFY2(apart < 2e-3, qPrintable(QString::number(apart)));  // the mesh strays from the shape by a millimetre
    QVERIFY(shown > kSize * kSize / 5);
  }

  // The mean over the texels of a ball, each by the area that it shows, of what half of it has.
  void halfOfABall() {
    DrapeView view;
    const auto on = charted(view);
    const Field places = laid_out(program(one("mesh_position"), "mesh_position.position"), *on, view, {}, Stop{});
    double upper = 0, all = 0;
    for (int y = 0; y < kSize; ++y)
      for (int x = 0; x < kSize; ++x) {
        if (!on->covers(x, y)) continue;
        const double wide =
            static_cast<double>(chart_frame(on->mesh()->mesh(), on->charts(), on->atlas().at(x, y).triangle).breadth());
        all += wide * wide, upper += places.strand[1]->at(x, y) > 0 ? wide * wide : 0;
      }
    QVERIFY(std::abs(upper / all - 0.5) < 0.02);
  }

  // What faces the eye is what the drape sees: 1 where the line to the eye is the normal, 0 on the far side.
  void theEyeIsTheViews() {
    DrapeView view;
    view.camera.azimuth = 70, view.camera.height = 20;
    const auto on = charted(view);
    const Field facing = laid_out(program(one("facing"), "facing.value"), *on, view, {}, Stop{}),
                places = laid_out(program(one("mesh_position"), "mesh_position.position"), *on, view, {}, Stop{});
    const Vec3 eye = direction_of(70, 20);
    float most = 0, at_most = 0;
    for (int y = 0; y < kSize; ++y)
      for (int x = 0; x < kSize; ++x) {
        if (!on->covers(x, y)) continue;
        const Vec3 n = normalised({places.strand[0]->at(x, y), places.strand[1]->at(x, y), places.strand[2]->at(x, y)});
        if (facing.strand[0]->at(x, y) > most) most = facing.strand[0]->at(x, y), at_most = dot(n, eye);
        if (dot(n, eye) < 0) QCOMPARE(facing.strand[0]->at(x, y), 0.0f);
      }
    QVERIFY(most > 0.999f && at_most > 0.999f);
  }

  // A block's rounded edges, measured; nothing where nothing is measured yet.
  void measuresOfTheBlock() {
    DrapeView view;
    view.shape = ShapeName::block;
    const auto on = charted(view);
    const SurfaceProgram edges = program(one("convex_edges", {{"radius", 0.1}}), "convex_edges.mask");
    QCOMPARE(edges.program.measures.size(), std::size_t{1});
    const Field before = laid_out(edges, *on, view, {}, Stop{});
    QCOMPARE(range_of(*before.strand[0]).most, 0.0f);
    const auto measured = Measured::make(on->mesh(), edges.program.measures[0], kCoarsePoints, Stop{});
    QVERIFY(measured);
    MeasuredMesh known{on->mesh(), {{edges.program.measures[0], *measured}}};
    view.measured = std::make_shared<const MeasuredMesh>(known);
    const Field after = laid_out(edges, *on, view, {}, Stop{});
    QVERIFY(range_of(*after.strand[0]).most > 0.3f && range_of(*after.strand[0]).least < 0.02f);
    // Of another mesh nothing is taken.
    known.mesh = shape_mesh(ShapeName::ball);
    view.measured = std::make_shared<const MeasuredMesh>(known);
    QCOMPARE(range_of(*laid_out(edges, *on, view, {}, Stop{}).strand[0]).most, 0.0f);
  }
};

QTEST_GUILESS_MAIN(TestLaidOut)
#include "tst_laid_out.moc"
