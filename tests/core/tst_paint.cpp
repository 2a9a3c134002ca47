// Strokes of a hand: what they cover, that they are the same at every size, and how a document keeps them.
#include <oneapi/tbb/global_control.h>

#include <QtTest>
#include <cmath>
#include <random>

#include "core/graph/validate.h"
#include "core/nodes/painted_store.h"
#include "core/plane/paint.h"
#include "tests/core/strokes.h"

using namespace loom;
using namespace loom::test;

namespace {

HandStroke stroke(std::vector<StrokePoint> points, float radius = 0.05f, float softness = 0) {
  HandStroke s;
  s.radius = radius, s.softness = softness;
  s.points = std::move(points);
  return s;
}

Painted drawn(const std::vector<HandStroke>& strokes, int size, std::size_t strands = 1) {
  Painted p = unpainted(size, strands);
  std::vector<HandStrokePtr> all;
  for (const HandStroke& s : strokes) all.push_back(kept(s));
  paint(p, all, Stop{});
  return p;
}

double mean(const Plane& p) { return static_cast<double>(range_of(p).mean); }

// A hand's random ways, which leave the tile now and then.
Strokes scribbles(int count, unsigned seed, std::size_t strands = 1) {
  std::mt19937 chance(seed);
  std::uniform_real_distribution<float> share(0, 1);
  Strokes all;
  for (int i = 0; i < count; ++i) {
    HandStroke s;
    s.radius = 0.004f + 0.04f * share(chance), s.softness = share(chance), s.strength = 0.3f + 0.7f * share(chance);
    s.erase = share(chance) < 0.2f;
    s.paint.clear();
    for (std::size_t k = 0; k < strands; ++k) s.paint.push_back(share(chance));
    float x = share(chance), y = share(chance), way = 6.3f * share(chance);
    for (int k = 0; k < 12; ++k) {
      s.points.push_back({x, y, 0, 0.4f + 0.6f * share(chance)});
      way += share(chance) - 0.5f;
      x += 0.02f * std::cos(way), y += 0.02f * std::sin(way);
    }
    all.all.push_back(kept(std::move(s)));
  }
  return all;
}

Plane smaller(const Plane& p, int size) {
  const int by = p.size() / size;
  Plane out(size);
  for (int y = 0; y < size; ++y)
    for (int x = 0; x < size; ++x) {
      double sum = 0;
      for (int j = 0; j < by; ++j)
        for (int i = 0; i < by; ++i) sum += static_cast<double>(p.at(x * by + i, y * by + j));
      out.at(x, y) = static_cast<float>(sum / by / by);
    }
  return out;
}

}  // namespace

class TestPaint : public QObject {
  Q_OBJECT

 private Q_SLOTS:
  // Closed forms: a disc of radius r covers pi r^2, a straight way of length l with round ends 2 r l more; elementary
  // geometry. A rim that fades by a smooth step, which is odd about its middle, from r (1 - s) to r covers
  // 2 pi times the integral of t c(t), worked out here by Simpson's rule.
  void areas_data() {
    QTest::addColumn<int>("size");
    for (const int size : {64, 256, 1024}) QTest::addRow("%d", size) << size;
  }
  void areas() {
    QFETCH(int, size);
    const double pi = std::numbers::pi, r = 0.1;
    const auto off = [&](const HandStroke& s, double area) {
      return std::abs(mean(drawn({s}, size).cover) / area - 1);
    };
    QVERIFY(off(stroke({{0.4f, 0.5f}}, 0.1f), pi * r * r) < 0.01);
    QVERIFY(off(stroke({{0.3f, 0.3f}, {0.6f, 0.7f}}, 0.1f), pi * r * r + 2 * r * 0.5) < 0.01);
    for (const double s : {0.3, 0.6, 1.0}) {
      const auto cover = [&](double t) {
        const double c = std::clamp(0.5 + (r * (1 - s / 2) - t) / (r * s), 0.0, 1.0);
        return t * c * c * (3 - 2 * c);
      };
      double sum = 0;
      constexpr int kSteps = 2000;
      for (int i = 0; i <= kSteps; ++i) sum += (i == 0 || i == kSteps ? 1 : i % 2 ? 4 : 2) * cover(r * i / kSteps);
      QVERIFY(off(stroke({{0.4f, 0.5f}}, 0.1f, static_cast<float>(s)), 2 * pi * sum * r / kSteps / 3) < 0.012);
    }
  }

  // What is thinner than a texel covers as much less.
  void aHairKeepsItsArea() {
    const HandStroke hair = stroke({{0.1f, 0.13f}, {0.9f, 0.61f}}, 0.0008f);
    const double length = std::hypot(0.8, 0.48), area = 2 * 0.0008 * length;
    for (const int size : {64, 128, 256})
      QVERIFY2(std::abs(mean(drawn({hair}, size).cover) / area - 1) < 0.08,
               qPrintable(QString::number(mean(drawn({hair}, size).cover) / area)));
  }

  void theSameAtEverySize() {
    Strokes all = scribbles(60, 3);
    for (std::size_t i = 0; i < all.all.size(); i += 2) {  // half of them by a mouse
      HandStroke even = *all.all[i];
      for (StrokePoint& p : even.points) p.pressure = 1;
      all.all[i] = kept(even);
    }
    Painted small = unpainted(256, 1), large = unpainted(2048, 1);
    paint(small, all.all, Stop{});
    paint(large, all.all, Stop{});
    const Plane shrunk = smaller(large.cover, 256), paint_shrunk = smaller(large.paint[0], 256);
    double off = 0;
    for (int y = 0; y < 256; ++y)
      for (int x = 0; x < 256; ++x)
        off += std::abs(static_cast<double>(shrunk.at(x, y)) - static_cast<double>(small.cover.at(x, y))) +
               std::abs(static_cast<double>(paint_shrunk.at(x, y)) - static_cast<double>(small.paint[0].at(x, y)));
    QVERIFY2(off / 256 / 256 < 0.004, qPrintable(QString::number(off / 256 / 256)));
    QVERIFY2(furthest(shrunk, small.cover) < 0.25,
             qPrintable(QString::number(
                 furthest(shrunk, small.cover))));  // at a hard rim, where a texel of the small one holds all of it
  }

  void overTheEdgesOfTheTile() {
    const Painted middle = drawn({stroke({{0.5f, 0.5f}, {0.62f, 0.55f}}, 0.08f, 0.5f)}, 128),
                  corner = drawn({stroke({{1.0f, 2.0f}, {1.12f, 2.05f}}, 0.08f, 0.5f)}, 128),
                  before = drawn({stroke({{-1.5f, 0.5f}, {-1.38f, 0.55f}}, 0.08f, 0.5f)}, 128);
    QVERIFY(furthest(rolled(middle.cover, 64, 64), corner.cover) < 1e-5);
    QVERIFY(furthest(middle.cover, before.cover) < 1e-5);
    // Wider than half the tile, it meets itself and does not add up.
    QVERIFY(range_of(drawn({stroke({{0.5f, 0.5f}}, 0.8f, 1)}, 64).cover).most <= 1);
  }

  void aStrokeDoesNotAddUpButStrokesDo() {
    HandStroke cross = stroke({{0.2f, 0.2f}, {0.8f, 0.8f}, {0.8f, 0.2f}, {0.2f, 0.8f}}, 0.05f);
    cross.strength = 0.5f;
    const Painted once = drawn({cross}, 64), twice = drawn({cross, cross}, 64);
    QCOMPARE(once.cover.at(32, 32), 0.5f);
    QCOMPARE(twice.cover.at(32, 32), 0.75f);
  }

  // Worked out by hand: 0.8 over nothing, then half of 0.2 over that, then half of both erased.
  void oneOverTheOther() {
    HandStroke first = stroke({{0.5f, 0.5f}}, 0.2f), second = first, third = first;
    first.paint = {0.8f}, second.paint = {0.2f};
    second.strength = third.strength = 0.5f, third.erase = true;
    const Painted two = drawn({first, second}, 64), three = drawn({first, second, third}, 64);
    QCOMPARE(two.cover.at(32, 32), 1.0f);
    QCOMPARE(two.paint[0].at(32, 32), 0.5f);
    QCOMPARE(three.cover.at(32, 32), 0.5f);
    QCOMPARE(three.paint[0].at(32, 32), 0.25f);
    QCOMPARE(three.cover.at(2, 2), 0.0f);
  }

  void pressureMakesThinner() {
    const auto wide = [](float pressure) {
      return mean(drawn({stroke({{0.5f, 0.5f, 0, pressure}}, 0.2f)}, 256).cover);
    };
    QVERIFY(std::abs(wide(0.5f) / wide(1) - 0.25) < 0.01);
    QCOMPARE(wide(0), 0.0);
  }

  // With one thread or two, at once or one after another, and out of the store: the same bits.
  void theSameBitsHoweverDrawn() {
    const Strokes all = scribbles(80, 9, 3);
    Painted whole = unpainted(256, 3), parts = unpainted(256, 3);
    paint(whole, all.all, Stop{});
    {
      const oneapi::tbb::global_control one(oneapi::tbb::global_control::max_allowed_parallelism, 1);
      for (std::size_t i = 0; i < all.all.size(); i += 7)
        paint(parts, std::span(all.all).subspan(i, std::min<std::size_t>(7, all.all.size() - i)), Stop{});
    }
    const auto same = [](const Painted& a, const Painted& b) {
      bool all_same = same_bits(a.cover, b.cover);
      for (std::size_t i = 0; i < a.paint.size(); ++i) all_same &= same_bits(a.paint[i], b.paint[i]);
      return all_same;
    };
    QVERIFY(same(whole, parts));
    PaintedStore store;
    Strokes growing;
    for (const HandStrokePtr& s : all.all) {
      growing.all.push_back(s);
      if (growing.all.size() % 5) continue;
      Painted fresh = unpainted(256, 3);
      paint(fresh, growing.all, Stop{});
      QVERIFY(same(store.paint(growing, 256, 3, Stop{}), fresh));
    }
    growing.all.erase(growing.all.begin() + 20);  // another past
    Painted fresh = unpainted(256, 3);
    paint(fresh, growing.all, Stop{});
    QVERIFY(same(store.paint(growing, 256, 3, Stop{}), fresh));
    while (store.let_go()) {
    }
    QVERIFY(same(store.paint(growing, 256, 3, Stop{}), fresh));
  }

  void theDocumentKeepsStrokes() {
    Strokes all = scribbles(40, 11);
    HandStroke on_shape = stroke({{0.1f, -0.25f, 0.4f, 0.5f}, {0.2f, -0.25f, 0.4f, 1}}, 0.01f, 0.3f);
    on_shape.on_shape = true;
    all.all.push_back(kept(on_shape));
    const Material m = painted_material(all, "value");
    QVERIFY(validate(m, catalogue()).empty());
    const std::string text = write_material(m);
    QVERIFY(keeps_strokes(m, all));  // key by key: every number
    // A line each, so that another stroke is another line; and short.
    std::size_t points = 0, lines = 0;
    for (const HandStrokePtr& s : all.all) points += s->points.size();
    for (std::size_t at = text.find("\"points\""); at != std::string::npos; at = text.find("\"points\"", at + 1)) {
      ++lines;
      QVERIFY(text.find('\n', at) > text.find("]]", at));
    }
    QCOMPARE(lines, all.all.size());
    QVERIFY(text.size() < 26 * points + 160 * all.all.size());
  }

  void badStrokesAreRefused_data() {
    QTest::addColumn<QByteArray>("strokes");
    QTest::addColumn<QString>("words");
    const auto row = [](const char* name, const char* text, const char* words) {
      QTest::newRow(name) << QByteArray(text) << QString::fromUtf8(words);
    };
    row("no points", R"([{"radius": 0.1, "points": []}])", "stroke 1 has no points");
    row("wide", R"([{"radius": 2, "points": [[0, 0]]}])", "radius");
    row("soft", R"([{"softness": 2, "points": [[0, 0]]}])", "softness");
    row("two numbers", R"([{"colour": [1, 2], "points": [[0, 0]]}])", "neither a number nor a colour");
    row("far", R"([{"points": [[1e9, 0]]}])", "beyond 1000");
    row("hard", R"([{"points": [[0, 0, 7]]}])", "pressure");
    row("one number", R"([{"points": [[0]]}])", "is no value");
    row("words", R"([{"points": [["a", "b"]]}])", "is no value");
    row("another key", R"([{"points": [[0, 0]], "wide": 3}])", "is no value");
    row("elsewhere", R"([{"points": [[0, 0]], "on": "moon"}])", "is no value");
    row("half a direction", R"([{"points": [[0, 0, 0, 1, 0.5]], "on": "shape"}])", "is no value");
    row("too long a direction", R"([{"points": [[0, 0, 0, 1, 0, 7, 0]], "on": "shape"}])", "no direction");
    row("wide on a shape", R"([{"radius": 2000, "points": [[0, 0, 0]], "on": "shape"}])", "0.00001 to 1000");
    row("flat on a shape", R"([{"points": [[0, 0]], "on": "shape"}])", "is no value");
    row("no strokes", R"(4)", "wrong kind");
    row("too large", R"([{"radius": 1e300, "points": [[0, 0]]}])", "radius");
  }
  void badStrokesAreRefused() {
    QFETCH(QByteArray, strokes);
    QFETCH(QString, words);
    const QByteArray text = R"({"format": 2, "name": "t", "lanes": [{"id": "a", "name": "A"}], "threads": [], "hem": {},
      "nodes": [{"id": "n", "type": "hand_paint", "lane": "a", "params": {"strokes": )" +
                            strokes + "}}]}";
    const auto m = read_material(text.toStdString());
    const auto faults = m ? validate(*m, catalogue()) : std::vector<Error>{m.error()};
    QVERIFY(!faults.empty());
    QVERIFY2(QString::fromStdString(faults.front().text()).contains(words), faults.front().text().c_str());
    QVERIFY(QString::fromStdString(faults.front().where).contains(QStringLiteral("strokes")));
  }

  // What is left strays from the way by less than was allowed, and little of it is left.
  void thinnedStrokesKeepTheirWay() {
    std::vector<StrokePoint> way;
    for (int i = 0; i <= 400; ++i) {
      const float a = static_cast<float>(i) * 0.01f;
      way.push_back({0.5f + 0.3f * std::cos(a), 0.5f + 0.2f * std::sin(a), 0, 1});
    }
    const auto left = thinned(way, 0.001f);
    QVERIFY(left.size() < 40 && left.front() == way.front() && left.back() == way.back());
    for (const StrokePoint& p : way) {
      float nearest = 1;
      for (std::size_t i = 0; i + 1 < left.size(); ++i) {
        const float bx = left[i + 1].x - left[i].x, by = left[i + 1].y - left[i].y, px = p.x - left[i].x,
                    py = p.y - left[i].y;
        const float t = std::clamp((px * bx + py * by) / (bx * bx + by * by), 0.0f, 1.0f);
        nearest = std::min(nearest, std::hypot(px - t * bx, py - t * by));
      }
      QVERIFY(nearest <= 0.00101f);
    }
    QCOMPARE(thinned({{0, 0}, {0, 0}}, 0.1f).size(), std::size_t{2});
  }

  // Over a ground that comes in, in the kind that was asked for.
  void theNodePaintsOverItsGround() {
    const NodeType& type = *catalogue().find("hand_paint");
    HandStroke s = stroke({{0.5f, 0.5f}}, 0.2f);
    s.paint = {3};
    Strokes number;
    number.all.push_back(kept(s));
    Fields ground;
    ground.emplace("ground", field_of(Kind::scalar, Plane::filled(64, 0.25f)));
    const auto at = [](const Field& f, int x, int y) { return f.strand[0]->at(x, y); };
    const auto value = weave_alone(type, 64, ground, {{"kind", std::string("value")}, {"strokes", number}});
    QCOMPARE(at(value.at("painted"), 32, 32), 3.0f);
    QCOMPARE(at(value.at("painted"), 2, 2), 0.25f);
    const auto mask = weave_alone(type, 64, ground, {{"kind", std::string("mask")}, {"strokes", number}});
    QCOMPARE(at(mask.at("painted"), 32, 32), 1.0f);
    QCOMPARE(at(mask.at("cover"), 32, 32), 1.0f);
    s.paint = {0.1f, 0.2f, 0.3f};
    Strokes colour;
    colour.all.push_back(kept(s));
    const auto painted = weave_alone(
        type, 64, {}, {{"kind", std::string("colour")}, {"strokes", colour}, {"ground_colour", Vector{0.7, 0.6, 0.5}}});
    QVERIFY(painted.at("painted").kind == Kind::colour);
    QCOMPARE(painted.at("painted").strand[2]->at(32, 32), 0.3f);
    QCOMPARE(painted.at("painted").strand[1]->at(2, 2), 0.6f);
    // A stroke on a shape is none of the tile's.
    s.on_shape = true;
    s.points = {{7, 7, 7}};
    Strokes elsewhere;
    elsewhere.all.push_back(kept(s));
    QCOMPARE(
        range_of(
            *weave_alone(type, 64, {}, {{"kind", std::string("mask")}, {"strokes", elsewhere}}).at("cover").strand[0])
            .most,
        0.0f);
  }

  void anotherStrokeIsAnotherKey() {
    const Strokes two = scribbles(2, 5);
    Strokes one = two, other = two;
    one.all.pop_back();
    HandStroke moved = *other.all[1];
    moved.points[0].x += 0.01f;
    other.all[1] = kept(moved);
    std::set<Key> keys;
    for (const Strokes& s : {two, one, other}) {
      const auto graph = flatten(painted_material(s, "mask"), catalogue());
      QVERIFY(graph);
      keys.insert(graph->nodes[0].key);
    }
    QCOMPARE(keys.size(), std::size_t{3});
  }
};

QTEST_APPLESS_MAIN(TestPaint)
#include "tst_paint.moc"
