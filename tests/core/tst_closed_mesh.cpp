// Closed meshes as volumes: distances against closed forms, what is within by what a body is, and what is refused.
#include <fstream>
#include <random>

#include "core/io/mesh.h"
#include "core/program/builder.h"
#include "core/program/solid_field.h"
#include "tests/core/alone.h"
#include "tests/core/ball_mesh.h"

using namespace loom;
using namespace loom::test;

namespace {

struct Triangles {
  std::vector<Vec3> corner;
  std::vector<std::array<std::uint32_t, 3>> face;
};

// Its sides have corners of their own, as files with hard edges have them.
void add_box(Triangles& to, Vec3 middle, Vec3 size) {
  for (int axis = 0; axis < 3; ++axis)
    for (const float side : {-0.5f, 0.5f}) {
      const auto first = static_cast<std::uint32_t>(to.corner.size());
      for (const auto& [s, t] : {std::pair{-0.5f, -0.5f}, {0.5f, -0.5f}, {0.5f, 0.5f}, {-0.5f, 0.5f}}) {
        const Vec3 unit = axis == 0 ? Vec3{side, s, t} : axis == 1 ? Vec3{t, side, s} : Vec3{s, t, side};
        to.corner.push_back(middle + unit * size);
      }
      for (const auto& [a, b, c] : {std::array<std::uint32_t, 3>{0, 1, 2}, {0, 2, 3}})
        to.face.push_back(side > 0 ? std::array{first + a, first + b, first + c}
                                   : std::array{first + a, first + c, first + b});
    }
}

Triangles ball(float radius, int around) {
  const Mesh m = ball_mesh(around);
  Triangles t{m.position, m.triangle};
  for (Vec3& p : t.corner) p = p * (2 * radius);
  return t;
}

std::shared_ptr<const SolidField> body_field(const Triangles& t) {
  const auto field = solid_field(t.corner, t.face, Stop{});
  if (!field) qFatal("%s", field.error().text().c_str());
  return *field;
}

// Distance and direction at each place, through a strip program.
std::array<std::vector<float>, 4> read(const std::shared_ptr<const SolidField>& field, const std::vector<Vec3>& at) {
  Builder b(Domain::numbers());
  const std::array<Reg, 4> found = b.apply(kSolidDistance, {b.attribute(0), b.attribute(1), b.attribute(2)}, field, 4);
  for (std::size_t i = 0; i < 4; ++i) b.store(found[i], static_cast<int>(i));
  std::array<std::vector<float>, 3> lanes;
  std::array<std::vector<float>, 4> got;
  for (const Vec3 p : at) lanes[0].push_back(p.x), lanes[1].push_back(p.y), lanes[2].push_back(p.z);
  std::vector<const float*> in;
  std::vector<float*> out;
  for (const auto& lane : lanes) in.push_back(lane.data());
  for (auto& g : got) g.resize(at.size()), out.push_back(g.data());
  run_samples(b.build(), at.size(), in, out, Stop{});
  return got;
}

std::vector<Vec3> scattered(float reach) {
  std::mt19937 chance(5);
  std::uniform_real_distribution<float> between(-reach, reach);
  std::vector<Vec3> at(2000);
  for (Vec3& p : at) p = {between(chance), between(chance), between(chance)};
  return at;
}

// Source of the closed form: the distance of a box, as it is the largest of its slabs within and the length of what
// lies beyond them outside.
float box_distance(Vec3 p, Vec3 size) {
  const Vec3 out{std::abs(p.x) - size.x / 2, std::abs(p.y) - size.y / 2, std::abs(p.z) - size.z / 2};
  return length({std::max(out.x, 0.0f), std::max(out.y, 0.0f), std::max(out.z, 0.0f)}) +
         std::min(std::max({out.x, out.y, out.z}), 0.0f);
}

}  // namespace

class TestClosedMesh : public QObject {
  Q_OBJECT

  QTemporaryDir folder_;

  // A volume mask whose files lie in the folder.
  Result<Weaver::OverSurface> over(std::map<std::string, ParamValue> params) const {
    auto node = std::make_shared<Node>();
    node->id = node->type = "volume_mask", node->lane = "relief", node->params = std::move(params);
    Material m = edit::empty_material();
    m.nodes = {node};
    m.files = std::make_shared<FileRoot>(FileRoot{.folder = folder_.path().toStdString()});
    const auto flat = flatten(m, catalogue());
    if (!flat) qFatal("%s", flat.error().text().c_str());
    Weaver weaver(std::size_t{64} << 20);
    return weaver.over_surface(*flat, {{"shown", Want(*flat->find("volume_mask.distance"))}}, 64, Stop{});
  }
  std::vector<float> distances(const std::map<std::string, ParamValue>& params, const std::vector<Vec3>& at) const {
    const auto made = over(params);
    if (!made || !made->faults.empty()) qFatal("not made");
    std::vector<std::vector<float>> attribute(kSurfaceAttributes, std::vector<float>(at.size()));
    const std::size_t first = loom::at(SurfaceValue::position);
    for (std::size_t i = 0; i < at.size(); ++i)
      attribute[first][i] = at[i].x, attribute[first + 1][i] = at[i].y, attribute[first + 2][i] = at[i].z;
    std::vector<const float*> in;
    for (const auto& lane : attribute) in.push_back(lane.data());
    std::vector<float> got(at.size());
    float* out[] = {got.data()};
    run_samples(made->program.program, at.size(), in, out, Stop{});
    return got;
  }

 private Q_SLOTS:
  void aBoxHasTheDistancesOfItsClosedForm() {
    const Vec3 size{0.6f, 1.2f, 0.3f};
    Triangles t;
    add_box(t, {3, -2, 1}, size);  // wherever it stands, its middle is 0
    const auto field = body_field(t);
    QVERIFY(std::abs(field->size.x - size.x) < 1e-6f && std::abs(field->size.y - size.y) < 1e-6f);
    const auto at = scattered(1.5f);  // up to three times as far as the grid reaches
    const auto got = read(field, at);
    for (std::size_t i = 0; i < at.size(); ++i)
      QVERIFY2(std::abs(got[0][i] - box_distance(at[i], size)) < 0.6f * field->step, std::to_string(i).c_str());
  }

  void aBallIsRoundAndGrowsOutwards() {
    const auto field = body_field(ball(0.5f, 128));
    const auto at = scattered(1);
    const auto got = read(field, at);
    float worst[2] = {}, least = 1;
    for (std::size_t i = 0; i < at.size(); ++i) {
      const float far = length(at[i]);
      // Beyond the grid, which reaches to 0.56 on each side, by the place that its side is nearest to.
      const bool beyond = std::max({std::abs(at[i].x), std::abs(at[i].y), std::abs(at[i].z)}) > 0.56f;
      const float error = std::abs(got[0][i] - (far - 0.5f));
      worst[beyond] = std::max(worst[beyond], error / field->step);
      const Vec3 grows{got[1][i], got[2][i], got[3][i]};
      QVERIFY(std::abs(length(grows) - 1) < 1e-4f);
      if (far > 0.1f) least = std::min(least, dot(grows, at[i]) / far);
    }
    QVERIFY2(worst[0] < 0.25f && worst[1] < 6 && least > 0.97f,
             qPrintable(QString("%1 %2 %3").arg(worst[0]).arg(worst[1]).arg(least)));
  }

  void turnedOverItIsTheSameBody() {
    Triangles t;
    add_box(t, {}, {0.3f, 0.9f, 0.2f});
    add_box(t, {0, 0.5f, 0}, {0.25f, 0.25f, 0.25f});
    const auto field = body_field(t);
    for (auto& f : t.face) std::swap(f[0], f[1]);
    const auto turned = body_field(t);
    for (std::size_t i = 0; i < field->distance.size(); ++i)
      QVERIFY(std::abs(field->distance[i] - turned->distance[i]) < 0.1f * field->step);
  }

  // Where two bodies overlap there is a body, not a hole.
  void partsMayOverlap() {
    Triangles t;
    add_box(t, {-0.2f, 0, 0}, {0.6f, 0.5f, 0.5f});
    add_box(t, {0.2f, 0, 0}, {0.6f, 0.4f, 0.4f});
    const auto field = body_field(t);
    const auto got = read(field, {{0, 0, 0}, {-0.4f, 0, 0}, {0.45f, 0, 0}, {0.3f, 0.22f, 0}, {0.6f, 0, 0}});
    for (std::size_t i = 0; i < 3; ++i) QVERIFY(got[0][i] < 0);
    for (std::size_t i = 3; i < 5; ++i) QVERIFY(got[0][i] > 0);
  }

  void whatHasHolesIsRefused() {
    Triangles t;
    add_box(t, {}, {1, 1, 1});
    t.face.pop_back();
    const auto open = solid_field(t.corner, t.face, Stop{});
    QVERIFY(!open);
    QVERIFY2(QString::fromStdString(open.error().what).startsWith("3 edges"), open.error().what.c_str());
    QVERIFY(!solid_field({}, {}, Stop{}));
    // No thicker than nothing, though each edge has its other side; and sizes whose squares are no numbers.
    const std::vector<std::array<std::uint32_t, 3>> both_sides{{0, 1, 2}, {2, 1, 0}};
    QVERIFY(!solid_field(std::vector<Vec3>{{0, 0, 0}, {1, 0, 0}, {0, 1, 0}}, both_sides, Stop{}));
    for (const float side : {1e-9f, 1e30f, 3e38f}) {
      Triangles wrong;
      add_box(wrong, {}, {side, side, side});
      QVERIFY(!solid_field(wrong.corner, wrong.face, Stop{}));
    }
    Triangles specks;
    for (const float at : {0.0f, 1.0f}) add_box(specks, {at, at, at}, {1e-7f, 1e-7f, 1e-7f});
    QVERIFY(!solid_field(specks.corner, specks.face, Stop{}));
    Triangles one_turned;
    add_box(one_turned, {}, {1, 1, 1});
    std::swap(one_turned.face[0][0], one_turned.face[0][1]);
    QVERIFY(!solid_field(one_turned.corner, one_turned.face, Stop{}));
  }

  void itIsBrokenOff() {
    Triangles t;
    add_box(t, {}, {1, 1, 1});
    const Stop stop;
    stop.ask();
    const auto none = solid_field(t.corner, t.face, stop);
    QVERIFY(none && !*none);
  }

  // The node fits a file's body into its size: a ball of a file, stretched, is the ball that the node knows itself.
  void theNodeFitsItIntoItsSize() {
    const Triangles t = ball(3, 96);
    std::ofstream file(folder_.filePath("ball.obj").toStdString());
    for (const Vec3 p : t.corner) file << "v " << p.x << ' ' << p.y << ' ' << p.z << '\n';
    for (const auto& [a, b, c] : t.face) file << "f " << a + 1 << ' ' << b + 1 << ' ' << c + 1 << '\n';
    file.close();
    const std::map<std::string, ParamValue> ball_itself{{"form", std::string("ball")}, {"turn", 20.0}},
        ball_of_file{{"form", std::string("closed_mesh")},
                     {"file", std::string("ball.obj")},
                     {"stretched", 1.0},
                     {"turn", 20.0}};
    const auto at = scattered(0.6f);
    const auto want = distances(ball_itself, at), got = distances(ball_of_file, at);
    for (std::size_t i = 0; i < at.size(); ++i)
      if (std::abs(want[i]) < 0.05f) QVERIFY2(std::abs(got[i] - want[i]) < 0.006f, std::to_string(i).c_str());
    auto kept = ball_of_file;
    kept["stretched"] = 0.0;  // 0.4 m, the least of its size, on all sides
    const auto round = distances(kept, at);
    for (std::size_t i = 0; i < at.size(); ++i)
      if (const float far = length(at[i] - Vec3{0, -0.45f, 0.1f}) - 0.2f; std::abs(far) < 0.02f)
        QVERIFY(std::abs(round[i] - far) < 0.001f);
  }

  void theFaultNamesTheFile() {
    std::ofstream(folder_.filePath("open.obj").toStdString()) << "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n";
    const auto made = over({{"form", std::string("closed_mesh")}, {"file", std::string("open.obj")}});
    QVERIFY(made.ok());
    QCOMPARE(made->faults.size(), std::size_t{1});
    QCOMPARE(made->faults.begin()->second.where, "open.obj");
  }

  // The demo's own mesh holds what the sum of its tetrahedra says (the divergence theorem), less what its parts share.
  void theSignOfTheDemoBoundsABody() {
    const auto mesh = read_mesh(std::filesystem::path(LOOM_DEMO) / "sign.glb");
    QVERIFY(mesh.ok());
    const auto field = solid_field(mesh->position, mesh->triangle, Stop{});
    QVERIFY2(field.ok(), field ? "" : field.error().text().c_str());
    double within = 0, sum = 0;
    for (const float d : (*field)->distance) within += d < 0;
    within *= std::pow(static_cast<double>((*field)->step), 3);
    for (const auto& [a, b, c] : mesh->triangle)
      sum += static_cast<double>(dot(mesh->position[a], cross(mesh->position[b], mesh->position[c]))) / 6;
    QVERIFY2(within > 0.9 * sum && within < 1.01 * sum, qPrintable(QString("%1 of %2").arg(within).arg(sum)));
  }
};

QTEST_GUILESS_MAIN(TestClosedMesh)
#include "tst_closed_mesh.moc"
