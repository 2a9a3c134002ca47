// Strokes on a shape: what they cover in space, by closed forms and by going through all of them one by one.
#include <random>

#include "core/graph/surface_reach.h"
#include "core/graph/validate.h"
#include "core/program/builder.h"
#include "core/program/painted_space.h"
#include "core/weave/flatten.h"
#include "tests/core/strokes.h"

using namespace loom;
using namespace loom::test;

namespace {

struct Spot {
  Vec3 place, normal;
  float width = 1e-4f;
};

HandStroke stroke(std::vector<StrokePoint> points, float radius, float softness = 0) {
  HandStroke s;
  s.on_shape = true;
  s.radius = radius, s.softness = softness;
  s.points = std::move(points);
  return s;
}

Strokes all_of(const std::vector<HandStroke>& strokes) {
  Strokes all;
  for (const HandStroke& s : strokes) all.all.push_back(kept(s));
  return all;
}

// How much is covered at each spot, and what was painted.
std::vector<std::array<float, 4>> painted_at(const Strokes& strokes, const std::vector<Spot>& spots,
                                             std::size_t strands = 1) {
  Builder b(Domain::numbers());
  std::vector<Reg> in;
  for (std::uint32_t k = 0; k < 7; ++k) in.push_back(b.attribute(k));
  const int results = static_cast<int>(strands) + 1;
  const auto found =
      b.apply(kPaintedSpace, std::span<const Reg>(in), std::make_shared<PaintedSpace>(strokes, strands), results);
  for (int i = 0; i < results; ++i) b.store(found[static_cast<std::size_t>(i)], i);
  std::array<std::vector<float>, 7> numbers;
  for (const Spot& s : spots) {
    const float of[] = {s.place.x, s.place.y, s.place.z, s.normal.x, s.normal.y, s.normal.z, s.width};
    for (std::size_t k = 0; k < 7; ++k) numbers[k].push_back(of[k]);
  }
  std::array<std::vector<float>, 4> out;
  std::vector<const float*> from;
  std::vector<float*> to;
  for (auto& n : numbers) from.push_back(n.data());
  for (auto& o : out) o.resize(spots.size(), 0), to.push_back(o.data());
  run_samples(b.build(), spots.size(), from, {to.data(), static_cast<std::size_t>(results)}, Stop{});
  std::vector<std::array<float, 4>> at(spots.size());
  for (std::size_t i = 0; i < spots.size(); ++i)
    for (std::size_t k = 0; k < 4; ++k) at[i][k] = out[k][i];
  return at;
}

// Evenly over a ball. Source: the spherical Fibonacci lattice of Swinbank and Purser, "Fibonacci grids", Quarterly
// Journal of the Royal Meteorological Society 132, 2006.
std::vector<Spot> over_ball(int count, float radius) {
  std::vector<Spot> spots;
  for (int i = 0; i < count; ++i) {
    const double z = 1 - (2 * i + 1.0) / count, turn = i * std::numbers::pi * (3 - std::sqrt(5.0)),
                 r = std::sqrt(1 - z * z);
    const Vec3 n{static_cast<float>(r * std::cos(turn)), static_cast<float>(r * std::sin(turn)), static_cast<float>(z)};
    spots.push_back({n * radius, n});
  }
  return spots;
}

double mean_cover(const std::vector<std::array<float, 4>>& at) {
  double sum = 0;
  for (const auto& a : at) sum += static_cast<double>(a[0]);
  return sum / static_cast<double>(at.size());
}

// Ways over a ball of half a metre, some through the air, of all widths.
Strokes scribbles(int count, unsigned seed, bool colours) {
  std::mt19937 chance(seed);
  std::uniform_real_distribution<float> share(0, 1);
  std::vector<HandStroke> all;
  for (int i = 0; i < count; ++i) {
    HandStroke s = stroke({}, 0.003f + 0.1f * share(chance) * share(chance), share(chance));
    s.strength = 0.3f + 0.7f * share(chance);
    s.erase = share(chance) < 0.2f;
    s.paint.clear();
    for (int k = 0; k < (colours ? 3 : 1); ++k) s.paint.push_back(share(chance));
    const bool faces = share(chance) < 0.7f;
    Vec3 n = normalised({share(chance) - 0.5f, share(chance) - 0.5f, share(chance) - 0.5f});
    const int points = 1 + static_cast<int>(8 * share(chance));
    for (int k = 0; k < points; ++k) {
      const Vec3 p = n * 0.5f;
      StrokePoint point{p.x, p.y, p.z, 0.4f + 0.6f * share(chance)};
      if (faces) point.towards_x = n.x, point.towards_y = n.y, point.towards_z = n.z;
      s.points.push_back(point);
      n = normalised(n + Vec3{share(chance) - 0.5f, share(chance) - 0.5f, share(chance) - 0.5f} * 0.2f);
    }
    all.push_back(std::move(s));
  }
  return all_of(all);
}

// A stroke at a spot, written down anew in doubles.
double cover_by_hand(const HandStroke& s, const Spot& spot) {
  double most = 0;
  for (std::size_t i = 0; i < std::max<std::size_t>(s.points.size(), 2) - 1; ++i) {
    const StrokePoint &a = s.points[i], &b = s.points[std::min(i + 1, s.points.size() - 1)];
    const double from[] = {a.x, a.y, a.z}, to[] = {b.x, b.y, b.z}, at[] = {spot.place.x, spot.place.y, spot.place.z};
    double along = 0, square = 0, away = 0;
    for (int k = 0; k < 3; ++k) along += (at[k] - from[k]) * (to[k] - from[k]), square += std::pow(to[k] - from[k], 2);
    const double t = square > 0 ? std::clamp(along / square, 0.0, 1.0) : 0;
    for (int k = 0; k < 3; ++k) away += std::pow(at[k] - from[k] - t * (to[k] - from[k]), 2);
    away = std::sqrt(away);
    const double start = static_cast<double>(s.radius * a.pressure), end = static_cast<double>(s.radius * b.pressure),
                 radius = start + t * (end - start),
                 width = std::min(static_cast<double>(spot.width), std::max(start, end)),
                 soft = radius * static_cast<double>(s.softness), middle = radius - soft / 2;
    const double c = std::clamp(0.5 + (middle - away) / std::max(soft, width), 0.0, std::min(2 * middle / width, 1.0));
    const double smooth = std::clamp(soft / width - 1, 0.0, 1.0);
    double cover = c + smooth * (c * c * (3 - 2 * c) - c);
    if (a.towards_x != 0 || a.towards_y != 0 || a.towards_z != 0) {
      const auto mixed = [&](float x, float y) { return static_cast<double>(x) + t * static_cast<double>(y - x); };
      const double cosine = mixed(a.towards_x, b.towards_x) * static_cast<double>(spot.normal.x) +
                            mixed(a.towards_y, b.towards_y) * static_cast<double>(spot.normal.y) +
                            mixed(a.towards_z, b.towards_z) * static_cast<double>(spot.normal.z);
      const double f = std::clamp((cosine + 0.7) / 0.5, 0.0, 1.0);
      cover *= f * f * (3 - 2 * f);
    }
    most = std::max(most, cover);
  }
  return most;
}

}  // namespace

class TestPaintOnShape : public QObject {
  Q_OBJECT

 private Q_SLOTS:
  // The part of a ball that lies within a distance r of one of its points has the area of a disc of that radius, pi
  // r^2, however large the ball: Archimedes, On the Sphere and Cylinder I, 42.
  void aDabCoversADisc() {
    constexpr float kBall = 0.5f;
    const auto spots = over_ball(400000, kBall);
    const double whole = 4 * std::numbers::pi * 0.25;
    for (const float r : {0.05f, 0.2f, 0.6f}) {
      const double area = mean_cover(painted_at(all_of({stroke({{0, 0, kBall}}, r)}), spots)) * whole;
      QVERIFY2(std::abs(area / (std::numbers::pi * static_cast<double>(r * r)) - 1) < 0.004,
               qPrintable(QString::number(area)));
    }
  }

  // A way of length l over a flat: 2 r l and the disc of both its ends.
  void aWayCoversItsBreadth() {
    std::vector<Spot> spots;
    constexpr int kSide = 500;
    for (int j = 0; j < kSide; ++j)
      for (int i = 0; i < kSide; ++i)
        spots.push_back(
            {{(static_cast<float>(i) + 0.5f) / kSide, 0.2f, (static_cast<float>(j) + 0.5f) / kSide}, {0, 1, 0}});
    const double area = mean_cover(painted_at(all_of({stroke({{0.3f, 0.2f, 0.3f}, {0.6f, 0.2f, 0.7f}}, 0.1f)}), spots));
    QVERIFY(std::abs(area / (std::numbers::pi * 0.01 + 2 * 0.1 * 0.5) - 1) < 0.004);
  }

  void asGoingThroughAllOfThem_data() {
    QTest::addColumn<int>("count");
    QTest::addColumn<float>("width");
    QTest::newRow("few") << 5 << 1e-4f;
    QTest::newRow("many") << 400 << 1e-4f;
    QTest::newRow("seen from afar") << 400 << 0.02f;
  }
  void asGoingThroughAllOfThem() {
    QFETCH(int, count);
    QFETCH(float, width);
    const Strokes all = scribbles(count, 5, true);
    auto spots = over_ball(3000, 0.5f);
    for (const Spot& s : over_ball(500, 0.47f)) spots.push_back({s.place, s.normal * -1, s.width});  // and beside it
    for (Spot& s : spots) s.width = width;
    const auto got = painted_at(all, spots, 3);
    double worst = 0;
    for (std::size_t i = 0; i < spots.size(); ++i) {
      std::array<double, 4> by_hand{};
      for (const HandStrokePtr& s : all.all) {
        const double c = static_cast<double>(s->strength) * cover_by_hand(*s, spots[i]);
        for (std::size_t k = 0; k < 4; ++k) {
          const double leaves = s->erase ? 0 : k == 0 ? 1 : static_cast<double>(s->paint[k - 1]);
          by_hand[k] += c * (leaves - by_hand[k]);
        }
      }
      for (std::size_t k = 0; k < 4; ++k)
        worst = std::max(worst, std::abs(by_hand[k] - static_cast<double>(got[i][k])));
    }
    QVERIFY2(worst < 2e-3, qPrintable(QString::number(worst)));  // hard rims are some 1e-4 m wide: floats of 1e-7
  }

  // Whatever lies beside a place in the strip, and whoever computes it.
  void theSameBitsInAnyOrder() {
    const Strokes all = scribbles(300, 9, false);
    auto spots = over_ball(5000, 0.5f);
    const auto first = painted_at(all, spots);
    std::vector<std::size_t> order(spots.size());
    std::iota(order.begin(), order.end(), 0);
    std::shuffle(order.begin(), order.end(), std::mt19937(3));
    std::vector<Spot> shuffled;
    for (const std::size_t i : order) shuffled.push_back(spots[i]);
    const auto then = painted_at(all, shuffled);
    for (std::size_t i = 0; i < order.size(); ++i) QVERIFY(first[order[i]] == then[i]);
  }

  void theFarSideIsLeftAndCornersAreNot() {
    HandStroke s = stroke({{0, 0, 0}}, 0.1f);
    s.points[0].towards_y = 1;
    const std::vector<Spot> spots{{{0.02f, 0, 0}, {0, 1, 0}},        // the side that was painted
                                  {{0.02f, -0.01f, 0}, {0, -1, 0}},  // the back of a thin sheet
                                  {{0.02f, -0.02f, 0}, {1, 0, 0}}};  // round a right-angled edge
    auto at = painted_at(all_of({s}), spots);
    QCOMPARE(at[0][0], 1.0f);
    QCOMPARE(at[1][0], 0.0f);
    QCOMPARE(at[2][0], 1.0f);
    s.points[0].towards_y = 0;  // painted whatever way it faces
    at = painted_at(all_of({s}), spots);
    QCOMPARE(at[1][0], 1.0f);
  }

  void strokesThatLieFarApartAreFound() {
    std::vector<HandStroke> strokes;
    std::vector<Spot> spots;
    for (int i = 0; i < 300; ++i) {
      const float x = i < 100 ? 0.001f * static_cast<float>(i) : 3.0f * static_cast<float>(i - 50);
      strokes.push_back(stroke({{x, 1, 2}}, 0.004f));
      strokes.back().paint = {static_cast<float>(i)};
      spots.push_back({{x, 1, 2.001f}, {0, 1, 0}});
    }
    const auto at = painted_at(all_of(strokes), spots);
    for (std::size_t i = 0; i < 300; ++i)  // the last of those that reach it
      QCOMPARE(at[i][1], static_cast<float>(i < 100 ? std::min<std::size_t>(i + 3, 99) : i));
  }

  void nothingIsNothing() {
    const std::vector<Spot> spots{{{0, 0, 0}, {0, 1, 0}}};
    QCOMPARE(painted_at(Strokes{}, spots)[0][0], 0.0f);
    HandStroke unpressed = stroke({{0, 0, 0, 0}}, 0.1f);
    QCOMPARE(painted_at(all_of({unpressed}), spots)[0][0], 0.0f);
    HandStroke of_tile = stroke({{0, 0, 0}}, 0.1f);
    of_tile.on_shape = false;
    QCOMPARE(painted_at(all_of({of_tile}), spots)[0][0], 0.0f);
  }

  // What lies on the shape makes what rests on it depend on the shape; what lies on the tile does not.
  void theNodeKnowsWhereItIsPainted() {
    HandStroke s = stroke({{0, 0, 0.5f}}, 0.2f);
    Material m = painted_material(all_of({s}), "mask");
    m.hem["roughness"] = "hand_paint.painted";
    QVERIFY(slots_on_surface(m, catalogue()).count("roughness") == 1);
    QVERIFY(flatten(m, catalogue()));
    m.hem["height"] = "hand_paint.painted";
    QVERIFY(!flatten(m, catalogue()));
    m.hem.erase("height");
    m = edit::add_node(std::move(m), catalogue(), "blur", "relief", 1, 0);
    const Thread thread{"hand_paint", "painted", "blur", "input"};
    const std::string peg = catalogue().find("blur")->inputs.front().id;
    QVERIFY(!refusal(m, catalogue(), {"hand_paint", "painted", "blur", peg}).empty());
    s.on_shape = false;
    m = edit::set_param(std::move(m), "hand_paint", "strokes", all_of({s}));
    QVERIFY(slots_on_surface(m, catalogue()).empty());
    QVERIFY(refusal(m, catalogue(), {"hand_paint", "painted", "blur", peg}).empty());
  }

  // Over the ball that a tile shows: the tile's coat below, the shape's above.
  void theShapesCoatLiesOverTheTiles() {
    HandStroke tile = stroke({{0.5f, 0.5f}}, 0.4f), shape = stroke({{0, 0.5f, 0}}, 0.2f);
    tile.on_shape = false;
    tile.paint = {0.25f}, shape.paint = {0.75f};
    for (const bool other_way : {false, true}) {
      const Strokes all = other_way ? all_of({shape, tile}) : all_of({tile, shape});
      const auto out = weave_alone(*catalogue().find("hand_paint"), 64, {},
                                   {{"kind", std::string("value")}, {"strokes", all}, {"ground_number", 0.5}});
      const Plane& painted = *out.at("painted").strand[0];
      std::set<float> seen;
      for (int y = 0; y < 64; ++y)
        for (int x = 0; x < 64; ++x) seen.insert(std::round(painted.at(x, y) * 100) / 100);
      QVERIFY(seen.count(0.25f) && seen.count(0.75f) && seen.count(0.5f));
    }
  }

  void theDocumentKeepsTheWayItFaced() {
    const Strokes all = scribbles(40, 21, false);
    const Material m = painted_material(all, "value");
    QVERIFY(validate(m, catalogue()).empty());
    QVERIFY(keeps_strokes(m, all));
  }
};

QTEST_GUILESS_MAIN(TestPaintOnShape)
#include "tst_paint_on_shape.moc"
