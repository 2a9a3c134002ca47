// Lines over the picture, against shapes whose outlines are known.
#include "core/surface/drape.h"
#include "core/surface/shape_mesh.h"
#include "tests/core/alone.h"

using namespace loom;
using namespace loom::test;

namespace {

std::shared_ptr<const SurfaceMaps> plain() {
  return std::make_shared<const SurfaceMaps>(
      std::map<std::string, Field>{{"base_colour", field_of(Kind::colour, Plane::filled(16, 0.5f),
                                                            Plane::filled(16, 0.5f), Plane::filled(16, 0.5f))}});
}

// A box of 1 m whose upper half is a part of its own, without a lid.
std::shared_ptr<const MeshShape> open_box() {
  Mesh m;
  m.parts = {"lower", "upper"};
  const auto quad = [&](Vec3 a, Vec3 b, Vec3 c, Vec3 d, std::uint16_t part) {
    const auto first = static_cast<std::uint32_t>(m.position.size());
    for (const Vec3& p : {a, b, c, d}) m.position.push_back(p), m.normal.push_back({0, 1, 0});
    m.triangle.push_back({first, first + 1, first + 2});
    m.triangle.push_back({first, first + 2, first + 3});
    m.part_of.insert(m.part_of.end(), {part, part});
  };
  const std::array<Vec3, 4> round{Vec3{-0.5f, 0, 0.5f}, {0.5f, 0, 0.5f}, {0.5f, 0, -0.5f}, {-0.5f, 0, -0.5f}};
  const Vec3 half{0, 0.5f, 0};
  for (std::size_t i = 0; i < 4; ++i) {
    const Vec3 p = round[i], q = round[(i + 1) % 4];
    quad(p - half, q - half, q, p, 0);
    quad(p, q, q + half, p + half, 1);
  }
  return std::make_shared<const MeshShape>(m);
}

DrapeView seen(float azimuth, float height) {
  DrapeView view;
  view.width = view.height = 200;
  view.camera = {azimuth, height, 5};
  view.unlit = true;
  for (auto& style : view.contours.of) style.on = true;
  return view;
}

struct Lines {
  ContourLines lines;
  std::unique_ptr<Drape> drape;
};

Lines lines_of(const DrapeView& view) {
  auto drape = std::make_unique<Drape>(plain(), view);
  const auto sight = [&](float x, float y) { return drape->body().first(drape->ray(x, y), {0, 0.003f}, 0.5f); };
  const auto on_rim = [&](const Body::Hit& hit, float within) {
    return view.mesh && view.mesh->on_rim(hit.triangle, hit.place, within);
  };
  const float pixel = 2 * std::tan(Camera::kField / 2 * kDegree) / 200;
  ContourLines lines(200, 200, pixel, view.contours, sight, on_rim, Stop{});
  return {std::move(lines), std::move(drape)};
}

// Where a place in space lies in the picture.
std::array<float, 2> in_picture(const Drape& drape, Vec3 p) {
  const DrapeView& v = drape.view();
  const Ray middle = drape.ray(100, 100), right = drape.ray(101, 100), down = drape.ray(100, 101);
  const Vec3 to = p - middle.from;
  const float depth = dot(to, middle.towards);
  const auto slope = [&](const Ray& r) { return r.towards * (1 / dot(r.towards, middle.towards)) - middle.towards; };
  const Vec3 per_x = slope(right), per_y = slope(down), off = to * (1 / depth) - middle.towards;
  (void)v;
  return {100 + dot(off, per_x) / dot(per_x, per_x), 100 + dot(off, per_y) / dot(per_y, per_y)};
}

float away(const std::array<float, 2>& p, std::array<float, 2> a, std::array<float, 2> b) {
  const float dx = b[0] - a[0], dy = b[1] - a[1],
              t = std::clamp(((p[0] - a[0]) * dx + (p[1] - a[1]) * dy) / (dx * dx + dy * dy), 0.0f, 1.0f);
  return std::hypot(p[0] - a[0] - t * dx, p[1] - a[1] - t * dy);
}

}  // namespace

class TestContours : public QObject {
  Q_OBJECT

 private Q_SLOTS:
  // Seen from d radii away a ball's outline is a circle of asin(1 / d) about its middle.
  void theOutlineOfABallIsACircle() {
    DrapeView view = seen(0, 0);
    const Lines found = lines_of(view);
    const float pixel = 2 * std::tan(Camera::kField / 2 * kDegree) / 200,
                radius = std::tan(std::asin(1 / 5.0f)) / pixel;
    const auto& outline = found.lines.places(ContourKind::outline);
    QVERIFY2(outline.size() > static_cast<std::size_t>(6 * radius),
             qPrintable(QString("%1 for %2").arg(outline.size()).arg(static_cast<double>(radius))));
    float worst = 0;
    for (const auto& [x, y] : outline) worst = std::max(worst, std::abs(std::hypot(x - 100, y - 100) - radius));
    QVERIFY2(worst < 0.1f, qPrintable(QString::number(static_cast<double>(worst))));
    for (const auto kind : {ContourKind::open, ContourKind::creases, ContourKind::parts})
      QVERIFY(found.lines.places(kind).empty());
  }

  // Every line of a box without a lid is of the kind that it is, and lies where its edge does.
  void theLinesOfAnOpenBox() {
    DrapeView view = seen(30, 35);
    view.mesh = open_box();
    const Lines found = lines_of(view);
    const auto at = [&](float x, float y, float z) { return in_picture(*found.drape, {x, y, z}); };
    const auto on_any = [&](ContourKind kind, std::vector<std::pair<std::array<float, 2>, std::array<float, 2>>> edges,
                            std::size_t least) {
      const auto& places = found.lines.places(kind);
      float worst = 0;
      for (const auto& p : places) {
        float nearest = 1e9f;
        for (const auto& [a, b] : edges) nearest = std::min(nearest, away(p, a, b));
        worst = std::max(worst, nearest);
      }
      QVERIFY2(places.size() >= least, qPrintable(QString("%1 of %2").arg(places.size()).arg(least)));
      QVERIFY2(worst < 0.15f,
               qPrintable(QString("kind %1: %2").arg(static_cast<int>(kind)).arg(static_cast<double>(worst))));
    };
    const auto border = [&](float y) {
      return std::vector<std::pair<std::array<float, 2>, std::array<float, 2>>>{
          {at(-0.5f, y, 0.5f), at(0.5f, y, 0.5f)},
          {at(0.5f, y, 0.5f), at(0.5f, y, -0.5f)},
          {at(0.5f, y, -0.5f), at(-0.5f, y, -0.5f)},
          {at(-0.5f, y, -0.5f), at(-0.5f, y, 0.5f)}};
    };
    on_any(ContourKind::parts, border(0), 60);
    auto rims = border(0.5f);
    for (const auto& e : border(-0.5f)) rims.push_back(e);
    on_any(ContourKind::open, rims, 150);
    std::vector<std::pair<std::array<float, 2>, std::array<float, 2>>> upright;
    for (const float x : {-0.5f, 0.5f})
      for (const float z : {-0.5f, 0.5f}) upright.push_back({at(x, -0.5f, z), at(x, 0.5f, z)});
    on_any(ContourKind::creases, upright, 40);
    on_any(ContourKind::outline, upright, 60);
  }

  // Relief counts: a smooth ball has no creases, one with a step has.
  void whatIsSwitchedOffIsNotDrawn() {
    DrapeView view = seen(30, 35);
    view.mesh = open_box();
    Drape bare(plain(), view);
    bare.first_answer(1, Stop{});
    const auto before = bare.picture();
    bare.find_contours(Stop{});
    const auto with = bare.picture();
    QVERIFY(before != with);
    view.contours = {};
    Drape without(plain(), view);
    without.first_answer(1, Stop{});
    without.find_contours(Stop{});
    QCOMPARE(without.picture(), before);
    // One kind in a colour of its own: as many pixels have it as its lines are long, two wide.
    view.contours[ContourKind::parts] = {true, {255, 0, 0}, 2};
    Drape parts(plain(), view);
    parts.first_answer(1, Stop{});
    parts.find_contours(Stop{});
    const auto codes = parts.picture();
    std::size_t red = 0;
    for (std::size_t i = 0; i < codes.size(); i += 3) {
      red += codes[i] > 240 && codes[i + 1] < 20;
      if (codes[i] == before[i] && codes[i + 1] == before[i + 1]) continue;
      QVERIFY(codes[i] >= before[i] && codes[i + 1] <= before[i + 1]);
    }
    QVERIFY2(red > 60 && red < 600, qPrintable(QString::number(red)));
  }

  void aListIsTaken() {
    Contours c;
    QVERIFY(c.take("") && !c.any());
    QVERIFY(c.take("outline,parts") && c[ContourKind::outline].on && c[ContourKind::parts].on &&
            !c[ContourKind::open].on);
    QVERIFY(!Contours().take("outline,rim"));
  }
};

QTEST_GUILESS_MAIN(TestContours)
#include "tst_contours.moc"
