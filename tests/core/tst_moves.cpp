// Transform and Region values: the two that the rolling test over the catalogue leaves to others.
#include "tests/core/alone.h"

using namespace loom;
using namespace loom::test;

class TestMoves : public QObject {
  Q_OBJECT
  static Plane moved(const Plane& p, const Resolved& params) {
    Fields in;
    in["source"] = field_of(Kind::scalar, p.clone());
    return weave_alone(*catalogue().find("transform"), p.size(), in, params).at("result").strand[0]->clone();
  }

 private Q_SLOTS:
  void aShiftByWholeTexelsIsARoll() {
    const Plane p = bumpy(128, 1);
    QVERIFY(furthest(moved(p, {{"shift", Vector{5.0 / 128, -9.0 / 128}}}), rolled(p, 5, -9)) < 1e-5);
    QVERIFY(furthest(moved(p, {{"shift", Vector{1.0, -2.0}}}), p) < 1e-5);  // whole tiles change nothing
  }
  void mirrorsTwiceAreNothing() {
    const Plane p = bumpy(128, 2);
    const Resolved m{{"mirror_u", 1.0}, {"mirror_v", 1.0}};
    QVERIFY(furthest(moved(p, {{"mirror_u", 1.0}}), p) > 0.1);
    QVERIFY(furthest(moved(moved(p, m), m), p) < 1e-5);
  }
  void quarterTurnsAreExactAndAnticlockwise() {
    Plane p = Plane::filled(64, 0);
    p.at(50, 32) = 1;  // right of the middle
    const Plane t = moved(p, {{"turn", 90.0}});
    QVERIFY(t.at(31, 13) > 0.9f || t.at(32, 13) > 0.9f);  // comes to stand above it
    Plane four = bumpy(64, 1);
    for (int i = 0; i < 4; ++i) four = moved(four, {{"turn", 90.0}});
    QVERIFY(furthest(four, bumpy(64, 1)) < 1e-5);
  }
  void anyTurnStillTiles() {
    // Turned content commutes with whole-tile shifts of what it reads, whatever the angle snaps to.
    const Plane p = bumpy(256, 1);
    for (const double turn : {17.0, 45.0, 200.0}) {
      const Plane t = moved(p, {{"turn", turn}, {"repeats", 3.0}});
      double seam = 0, inside = 0;
      for (int y = 0; y < 256; ++y) {
        seam = std::max(seam, std::abs(static_cast<double>(t.at(0, y) - t.at(255, y))));
        for (int x = 1; x < 256; ++x)
          inside = std::max(inside, std::abs(static_cast<double>(t.at(x, y) - t.at(x - 1, y))));
      }
      QVERIFY2(seam <= inside * 1.01, qPrintable(QString::number(turn)));
    }
  }
  void repeatsKeepTheMean() {
    const Plane p = painted(
        512, [](double u, double v) { return std::fmod(u * 8, 1.0) < 0.5 && std::fmod(v * 8, 1.0) < 0.5 ? 1.0 : 0.0; });
    QVERIFY(std::abs(range_of(moved(p, {{"repeats", 8.0}})).mean - 0.25f) < 0.01f);
  }

  // A copy covers its share of the tile whatever its size, turn and place; what sticks out comes in at the other side.
  void oneCopyKeepsItsAreaAndWraps_data() {
    QTest::addColumn<Vector>("size");
    QTest::addColumn<double>("turn");
    QTest::addColumn<Vector>("shift");
    QTest::newRow("small") << Vector{0.3, 0.2} << 0.0 << Vector{0.0, 0.0};
    QTest::newRow("turned") << Vector{0.6, 0.15} << 37.0 << Vector{0.0, 0.0};
    QTest::newRow("over the corner") << Vector{0.6, 0.3} << -63.0 << Vector{0.5, 0.48};
    QTest::newRow("far off") << Vector{0.5, 0.5} << 200.0 << Vector{-3.25, 7.75};
    QTest::newRow("longer than the tile") << Vector{1.3, 0.1} << 45.0 << Vector{0.1, 0.2};
  }
  void oneCopyKeepsItsAreaAndWraps() {
    QFETCH(Vector, size);
    QFETCH(double, turn);
    QFETCH(Vector, shift);
    const Resolved params{{"mode", std::string("one_copy")}, {"size", size}, {"turn", turn}, {"shift", shift}};
    const Plane copy = moved(Plane::filled(512, 1), params);
    QVERIFY2(std::abs(static_cast<double>(range_of(copy).mean) - size[0] * size[1]) < 2e-3,
             qPrintable(QString::number(range_of(copy).mean)));
    Resolved rolled_on = params;
    rolled_on["shift"] = Vector{shift[0] + 100.0 / 512, shift[1] - 31.0 / 512};
    QVERIFY(share_apart(moved(Plane::filled(512, 1), rolled_on), rolled(copy, 100, -31), 1e-3) < 0.001);
  }
  void oneCopyOfTheTilesOwnSizeIsTheTile() {
    const Plane p = bumpy(128, 1);
    const Resolved whole{{"mode", std::string("one_copy")}, {"size", Vector{1.0, 1.0}}};
    const Plane same = moved(p, whole);
    // The rim fades by half a texel to either side, over the copy in the next tile.
    double inside = 0;
    for (int y = 1; y < 127; ++y)
      for (int x = 1; x < 127; ++x)
        inside = std::max(inside, std::abs(static_cast<double>(same.at(x, y) - p.at(x, y))));
    QVERIFY2(inside < 1e-5, qPrintable(QString::number(inside)));
  }
  // Coordinates run from 0 to 1 over the copy, stay at its border beside it, and place a Make node's figure where the
  // figure's picture comes to lie.
  void coordinatesLayAFigureWhereItsPictureLies() {
    const Resolved params{{"mode", std::string("one_copy")},
                          {"size", Vector{0.5, 0.3}},
                          {"turn", 25.0},
                          {"shift", Vector{0.2, -0.1}},
                          {"mirror_u", 1.0}};
    const NodeType &transform = *catalogue().find("transform"), &motif = *catalogue().find("motif");
    const Resolved star{{"figure", std::string("star")}, {"sides", 5.0}, {"proportions", Vector{1.0, 0.6}}};
    const auto drawn = weave_alone(motif, 512, {}, star);
    Fields in;
    in["source"] = drawn.at("value");
    const auto copied = weave_alone(transform, 512, in, params);
    Fields at;
    at["coordinates"] = copied.at("coordinates");
    const auto laid = weave_alone(motif, 512, at, star);
    double apart = 0;
    for (std::size_t i = 0; i < laid.at("value").strand[0]->texels(); ++i)
      apart += std::abs(
          static_cast<double>(laid.at("value").strand[0]->data()[i] - copied.at("result").strand[0]->data()[i]));
    QVERIFY2(apart / (512 * 512) < 1e-3, qPrintable(QString::number(apart / (512 * 512))));
    for (std::size_t c = 0; c < 2; ++c) {
      const Range r = range_of(*copied.at("coordinates").strand[c]);
      QVERIFY(r.least == 0 && r.most == 1);
    }
  }
  void aCopyLiesOnItsGroundMapByMap() {
    Fields in;
    in["source"] = field_of(Kind::colour, Plane::filled(64, 0.25f), Plane::filled(64, 0.5f), Plane::filled(64, 0.75f));
    in["ground"] = field_of(Kind::scalar, Plane::filled(64, 2));
    const Resolved half{{"mode", std::string("one_copy")}, {"size", Vector{0.5, 0.5}}};
    const auto out = weave_alone(*catalogue().find("transform"), 64, in, half).at("result");
    QCOMPARE(out.kind, Kind::colour);  // the ground is turned into it
    for (std::size_t c = 0; c < 3; ++c) {
      QCOMPARE(out.strand[c]->at(32, 32), 0.25f * static_cast<float>(c + 1));
      QCOMPARE(out.strand[c]->at(2, 2), 2.0f);
    }
    Fields normals;
    normals["source"] = field_of(Kind::normal, Plane::filled(64, 0.6f), Plane::filled(64, 0), Plane::filled(64, 0.8f));
    const auto flat = weave_alone(*catalogue().find("transform"), 64, normals, half).at("result");
    QCOMPARE(flat.strand[2]->at(2, 2), 1.0f);  // where nothing lies, it is flat
  }

  void coordinatesRunOverEachUnitsOwnBox() {
    // For laid units, turned and across the edge, they are the unit's own coordinates.
    const auto laid =
        weave_alone(*catalogue().find("masonry"), 512, {},
                    {{"bond", std::string("herringbone")}, {"units_across", 4.0}, {"corner_radius", 0.0}});
    Fields in;
    in["regions"] = laid.at("regions");
    const auto values = weave_alone(*catalogue().find("region_values"), 512, in, {});
    for (std::size_t c = 0; c < 2; ++c) {
      double most = 0;
      for (int y = 0; y < 512; ++y)
        for (int x = 0; x < 512; ++x)
          if (laid.at("regions").strand[0]->at(x, y) >= 0)
            most = std::max(most, std::abs(static_cast<double>(values.at("coordinates").strand[c]->at(x, y) -
                                                               laid.at("unit_coordinates").strand[c]->at(x, y))));
      QVERIFY2(most < 2e-3, qPrintable(QString::number(most)));
    }
  }
  void everyRegionHasOneToneAndItsArea() {
    Plane m = Plane::filled(128, 0);
    for (int y = 10; y < 30; ++y)
      for (int x = 10; x < 30; ++x) m.at(x, y) = 1;
    for (int y = -5; y < 5; ++y)
      for (int x = -5; x < 5; ++x) m.at(wrap(x, 128), wrap(y, 128)) = 1;  // over the corner
    Labels l = label_regions(m, 0.5f, false, Stop{});
    Field f = field_of(Kind::regions, std::move(l.index));
    f.regions = std::make_shared<RegionTable>(std::move(l.table));
    Fields in;
    in["regions"] = f;
    const auto v = weave_alone(*catalogue().find("region_values"), 128, in, {});
    const Plane& tone = *v.at("grey").strand[0];
    QCOMPARE(tone.at(0, 0), tone.at(127, 127));
    QCOMPARE(tone.at(0, 0), tone.at(4, 124));
    QVERIFY(tone.at(0, 0) != tone.at(20, 20));
    QCOMPARE(v.at("area").strand[0]->at(20, 20), 1.0f);  // the largest
    QVERIFY(std::abs(v.at("area").strand[0]->at(0, 0) - 0.25f) < 1e-5f);
    // Coordinates run on over the tile's corner, and the plane is one half in the middle of its box.
    const Plane& x = *v.at("coordinates").strand[0];
    QVERIFY(x.at(123, 0) < 0.1f && x.at(4, 0) > 0.9f && std::abs(x.at(0, 0) - 0.55f) < 0.01f);
    QVERIFY(std::abs(v.at("plane").strand[0]->at(20, 20) - 0.5f) < 0.02f);
    QCOMPARE(v.at("plane").strand[0]->at(60, 60), 0.0f);  // no region, nothing
    const auto other = weave_alone(*catalogue().find("region_values"), 128, in, {{"seed", 9.0}});
    QVERIFY(other.at("grey").strand[0]->at(20, 20) != tone.at(20, 20));
  }
};

QTEST_GUILESS_MAIN(TestMoves)
#include "tst_moves.moc"
