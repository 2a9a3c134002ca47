// Masonry and Scatter: closing, rules, and what a unit knows.
#include "core/bolt/package.h"
#include "tests/core/alone.h"

using namespace loom;
using namespace loom::test;

class TestLaid : public QObject {
  Q_OBJECT
  static std::map<std::string, Field> masonry(const Resolved& params, int size = 512, const Fields& inputs = {}) {
    return weave_alone(*catalogue().find("masonry"), size, inputs, params);
  }
  static const RegionTable& table(const std::map<std::string, Field>& f) { return *f.at("regions").regions; }
  static Rule rule(const char* by, double from, double to) {
    Rule r;
    r.by = by;
    r.from.number = from;
    r.to.number = to;
    return r;
  }

 private Q_SLOTS:
  void countsAreSnappedSoThatBondsClose_data() {
    QTest::addColumn<QString>("bond");
    QTest::addColumn<int>("across");
    QTest::addColumn<int>("courses");
    QTest::addColumn<int>("units");
    QTest::newRow("stack 5 x 3") << "stack" << 5 << 3 << 15;
    QTest::newRow("running 5 x 3 becomes 5 x 4") << "running" << 5 << 3 << 20;
    QTest::newRow("third 4 x 4 becomes 4 x 6") << "third" << 4 << 4 << 24;
    QTest::newRow("herringbone 3 x 3 becomes 4 x 4") << "herringbone" << 3 << 3 << 32;
    QTest::newRow("basket weave 4 x 2") << "basket_weave" << 4 << 2 << 16;
  }
  void countsAreSnappedSoThatBondsClose() {
    QFETCH(QString, bond);
    QFETCH(int, across);
    QFETCH(int, courses);
    QFETCH(int, units);
    const auto f = masonry({{"bond", bond.toStdString()},
                            {"units_across", double(across)},
                            {"courses", double(courses)},
                            {"linked", 0.0},
                            {"bed_joint", 0.0},
                            {"cross_joint", 0.0},
                            {"corner_radius", 0.0}});
    QCOMPARE(static_cast<int>(table(f).count()), units);
    // Without joints the units cover the tile, none twice: their areas add up to it.
    float sum = 0;
    for (const float a : table(f).area) sum += a;
    QVERIFY(std::abs(sum - 1) < 1e-4f);
    QVERIFY(range_of(*f.at("mask").strand[0]).mean > 0.98f);
  }
  void everyRuleVariesAsItsEquationSays() {
    const Resolved base{{"bond", std::string("stack")}, {"units_across", 4.0}, {"courses", 3.0}, {"linked", 0.0}};
    const auto tones = [&](const Rule& r) {
      Resolved p = base;
      p["tone"] = r;
      const auto f = masonry(p, 128);
      std::vector<float> t;
      for (std::size_t i = 0; i < table(f).count(); ++i)
        t.push_back(f.at("grey").strand[0]->at(static_cast<int>(table(f).centre_u[i] * 128),
                                               static_cast<int>(table(f).centre_v[i] * 128)));
      return t;
    };
    const auto near = [](float a, double b) { return std::abs(static_cast<double>(a) - b) < 1e-5; };
    const auto course = tones(rule("course", 2, 4)), column = tones(rule("column", 0, 3)),
               chequer = tones(rule("chequer", 0, 1)), order = tones(rule("order", 0, 11));
    for (int i = 0; i < 12; ++i) {
      QVERIFY(near(course[static_cast<std::size_t>(i)], 2 + 2 * (i / 4) / 2.0));
      QVERIFY(near(column[static_cast<std::size_t>(i)], i % 4));
      QVERIFY(near(chequer[static_cast<std::size_t>(i)], (i / 4 + i % 4) % 2));
      QVERIFY(near(order[static_cast<std::size_t>(i)], i));
    }
    Rule nth = rule("nth", 0, 1);
    nth.every = 5;
    nth.offset = 2;
    const auto picked = tones(nth);
    for (int i = 0; i < 12; ++i) QVERIFY(near(picked[static_cast<std::size_t>(i)], i % 5 == 2));
    const auto size = tones(rule("size", 0, 1));
    for (const float t : size) QVERIFY(near(t, 1));  // all units are equally large
    const auto chance = tones(rule("chance", 10, 11));
    std::set<float> different(chance.begin(), chance.end());
    QVERIFY(different.size() > 9 && *different.begin() >= 10 && *different.rbegin() <= 11);
    Rule reseeded = rule("chance", 10, 11);
    reseeded.seed = 2;
    QVERIFY(tones(reseeded) != chance);
  }
  void aRuleReadsAMapAtTheUnitsCentre() {
    Fields inputs;
    inputs["map_b"] = field_of(Kind::scalar, painted(256, [](double u, double) { return u < 0.5 ? 0.0 : 1.0; }));
    Rule r = rule("map", 5, 7);
    r.map = "map_b";
    const auto f = masonry({{"bond", std::string("stack")}, {"units_across", 4.0}, {"tone", r}}, 256, inputs);
    QVERIFY(std::abs(f.at("grey").strand[0]->at(30, 10) - 5) < 1e-3f);
    QVERIFY(std::abs(f.at("grey").strand[0]->at(220, 10) - 7) < 1e-3f);
  }
  void formulasKnowTheUnit() {
    const auto f = masonry({{"bond", std::string("stack")},
                            {"units_across", 4.0},
                            {"courses", 4.0},
                            {"linked", 0.0},
                            {"tone", Formula{"row * 10 + column + joint", {{"joint", 0.5}}}}},
                           128);
    QCOMPARE(f.at("grey").strand[0]->at(16 + 64, 16 + 32), 12.5f);
  }
  void keepLeavesUnitsOut() {
    const auto f = masonry({{"bond", std::string("stack")}, {"units_across", 4.0}, {"keep", rule("chequer", 0, 1)}});
    QCOMPARE(table(f).count(), std::size_t{16});
  }
  void unitCoordinatesRunFrom0To1WithinTheUnit() {
    const auto f = masonry(
        {{"bond", std::string("herringbone")}, {"units_across", 4.0}, {"bed_joint", 0.0}, {"cross_joint", 0.0}});
    const Range r = range_of(*f.at("unit_coordinates").strand[0]);
    QVERIFY(r.least >= 0 && r.least < 0.02f && r.most <= 1.0001f && r.most > 0.98f);
    QVERIFY(std::abs(r.mean - 0.5f) < 0.01f);
    // Lying and standing units in equal number: turns of 0 and a quarter.
    QVERIFY(std::abs(range_of(*f.at("unit_turn").strand[0]).mean - 0.125f) < 1e-3f);
  }
  void quarterTurnsTurnTheWhole() {
    const Resolved p{{"bond", std::string("running")}, {"units_across", 4.0}, {"bed_joint", 0.03}};
    Resolved q = p;
    q["quarter_turns"] = 1.0;
    const Plane a = masonry(p, 256).at("mask").strand[0]->clone(), b = masonry(q, 256).at("mask").strand[0]->clone();
    // Anticlockwise as seen: what lies at (u, v) comes to (v, 1 - u).
    Plane turned(256);
    for (int y = 0; y < 256; ++y)
      for (int x = 0; x < 256; ++x) turned.at(y, 255 - x) = a.at(x, y);
    QVERIFY(share_apart(turned, b, 0.01) < 0.002);
  }
  void changingTheSeedChangesOnlyChance() {
    const auto a = masonry({{"seed", 1.0}}), b = masonry({{"seed", 2.0}});
    QVERIFY(same_bits(*a.at("mask").strand[0], *b.at("mask").strand[0]));
    QVERIFY(furthest(*a.at("grey").strand[0], *b.at("grey").strand[0]) > 0.1);
  }

  void sizesBelowNothingStampNothing() {
    // Common practice, no source: a random size from -1 to 1 makes half of the stamps vanish.
    const NodeType& t = *catalogue().find("scatter");
    const auto f = weave_alone(
        t, 64, {}, {{"cells_across", 64.0}, {"size_u", rule("chance", -1, 1)}, {"jitter_u", 0.0}, {"jitter_v", 0.0}});
    const double share = static_cast<double>(f.at("regions").regions->count()) / 4096;
    QVERIFY2(std::abs(share - 0.5) < 0.03, qPrintable(QString::number(share)));
  }
  void overlapsCombineAsTheyAreNamed() {
    const NodeType& t = *catalogue().find("scatter");
    const auto height = [&](const char* overlap, double background) {
      return weave_alone(t, 128, {},
                         {{"cells_across", 4.0},
                          {"size_u", 2.0},
                          {"jitter_u", 0.0},
                          {"jitter_v", 0.0},
                          {"tone", 0.5},
                          {"overlap", std::string(overlap)},
                          {"background", background}})
          .at("height")
          .strand[0]
          ->clone();
    };
    const Plane highest = height("highest", 0), summed = height("summed", 0), lowest = height("lowest", 1);
    QVERIFY(std::abs(range_of(highest).most - 0.5f) < 0.01f);
    QVERIFY(range_of(summed).most > 0.6f);
    for (std::size_t i = 0; i < highest.texels(); i += 7)
      QVERIFY(summed.data()[i] >= highest.data()[i] - 1e-5f && lowest.data()[i] <= highest.data()[i] + 1e-5f);
  }
  void motifsAreDealtByRule() {
    const NodeType& t = *catalogue().find("scatter");
    Fields inputs;
    inputs["motif_a"] = field_of(Kind::scalar, Plane::filled(256, 0.25f));
    inputs["motif_b"] = field_of(Kind::scalar, Plane::filled(256, 0.75f));
    const auto f = weave_alone(t, 128, inputs,
                               {{"cells_across", 4.0},
                                {"size_u", 0.9},
                                {"jitter_u", 0.0},
                                {"jitter_v", 0.0},
                                {"tone", 1.0},
                                {"motif", rule("chequer", 0, 1)}});
    QVERIFY(std::abs(f.at("height").strand[0]->at(16, 16) - 0.25f) < 1e-4f);
    QVERIFY(std::abs(f.at("height").strand[0]->at(48, 16) - 0.75f) < 1e-4f);
  }

  // ---- units that collide, and coordinates that are bent ----

  // Units shifted and turned into one another: no texel of one lies nearer to another than a joint is wide.
  void collidingUnitsKeepTheirJoint() {
    constexpr int kSize = 512;
    const double joint = 0.02;
    Rule shift = rule("chance", -0.4, 0.4), turn = rule("chance", -25, 25);
    turn.seed = 2;
    const auto f = masonry({{"bond", std::string("running")},
                            {"units_across", 6.0},
                            {"bed_joint", joint},
                            {"cross_joint", joint},
                            {"shift", shift},
                            {"turn", turn}},
                           kSize);
    const Plane& unit = *f.at("regions").strand[0];
    const Plane& mask = *f.at("mask").strand[0];
    // The nearest texel of another unit, along the eight directions.
    const int most = static_cast<int>(joint * kSize) - 2;
    int collisions = 0;
    for (int y = 0; y < kSize; ++y)
      for (int x = 0; x < kSize; ++x) {
        if (mask.at(x, y) < 0.9f) continue;
        for (int du = -1; du <= 1; ++du)
          for (int dv = -1; dv <= 1; ++dv)
            for (int k = 1; (du || dv) && k * std::hypot(du, dv) <= most; ++k) {
              const int u = wrap(x + k * du, kSize), v = wrap(y + k * dv, kSize);
              const bool other = mask.at(u, v) > 0.9f && unit.at(u, v) != unit.at(x, y);
              collisions += other;
            }
      }
    QCOMPARE(collisions, 0);
    QVERIFY(table(f).count() > 60);
  }
  void divideIsIdleOnUnitsThatAreNoBoxes() {
    const NodeType& type = *catalogue().find("masonry");
    for (const std::string& bond : type.parameter("bond")->options) {
      const bool acts = parameter_acts(type, *type.parameter("divide"), {{"bond", bond}}, [](auto) { return false; });
      const Resolved half{{"bond", bond}, {"units_across", 4.0}, {"divide", 0.5}},
          whole{{"bond", bond}, {"units_across", 4.0}};
      QCOMPARE(table(masonry(half, 128)).count() > table(masonry(whole, 128)).count(), acts);
    }
  }
  // A map under a rule is read where the unit comes to lie, whatever bends its coordinates.
  void aMapIsReadWhereTheUnitComesToLie_data() {
    QTest::addColumn<int>("size");
    for (const int size : {128, 512}) QTest::addRow("%d", size) << size;
  }
  void aMapIsReadWhereTheUnitComesToLie() {
    QFETCH(int, size);
    Fields in;
    const auto map = [](double u, double v) {
      return 0.5 + 0.4 * std::sin(6.283185307 * u) * std::cos(6.283185307 * v);
    };
    in["map_a"] = field_of(Kind::scalar, painted(size, map));
    const auto bend = [](double u, double v) { return 0.04 * std::sin(6.283185307 * (u + v)); };
    in["coordinates"] = field_of(Kind::vector2, painted(size, [&](double u, double v) { return u + 0.3 + bend(u, v); }),
                                 painted(size, [&](double u, double v) { return v - 0.2 + bend(v, u + 0.1); }));
    for (const ParamValue& by : {ParamValue(rule("map", 0, 1)), ParamValue(Formula{"map_a", {}})}) {
      const auto f = weave_alone(*catalogue().find("masonry"), size, in,
                                 {{"bond", std::string("stack")}, {"units_across", 6.0}, {"tone", by}});
      // Where a unit's own centre is seen: the texel nearest to it in unit coordinates.
      const Plane &unit = *f.at("regions").strand[0], &grey = *f.at("grey").strand[0],
                  &across = *f.at("unit_coordinates").strand[0], &down = *f.at("unit_coordinates").strand[1];
      std::map<float, std::pair<double, double>> found;  // how far off, and the difference there
      for (int y = 0; y < size; ++y)
        for (int x = 0; x < size; ++x) {
          if (unit.at(x, y) < 0) continue;
          const double off =
              std::hypot(static_cast<double>(across.at(x, y)) - 0.5, static_cast<double>(down.at(x, y)) - 0.5);
          auto [it, fresh] = found.try_emplace(unit.at(x, y), 9.0, 0.0);
          if (off < it->second.first)
            it->second = {off, std::abs(static_cast<double>(grey.at(x, y)) - map((x + 0.5) / size, (y + 0.5) / size))};
        }
      QVERIFY(found.size() > 30);
      for (const auto& [id, there] : found)
        if (there.first < 0.08)
          QVERIFY2(there.second < 0.03,
                   qPrintable(QStringLiteral("unit %1: %2").arg(static_cast<double>(id)).arg(there.second)));
    }
  }

  // ---- stripes, spokes and regions, each by rule ----

  void stripesVaryByRuleAndFormula() {
    // Four stripes, one below the other, each a quarter of the tile: thickness by course, tone by formula.
    const auto f = weave_alone(*catalogue().find("bands"), 256, {},
                               {{"count", 4.0},
                                {"softness", 0.0},
                                {"thickness", rule("course", 0.2, 0.8)},
                                {"tone", Formula{"row + size.y", {}}}});
    for (int i = 0; i < 4; ++i) {
      double sum = 0;
      for (int y = 64 * i; y < 64 * (i + 1); ++y) sum += static_cast<double>(f.at("mask").strand[0]->at(7, y));
      QVERIFY2(std::abs(sum / 64 - (0.2 + 0.2 * i)) < 0.02,
               qPrintable(QStringLiteral("stripe %1: %2").arg(i).arg(sum / 64)));
      QVERIFY(std::abs(f.at("grey").strand[0]->at(100, 64 * i + 32) - (static_cast<float>(i) + 0.25f)) < 1e-5f);
    }
    QCOMPARE(table(f).count(), std::size_t{4});
    QCOMPARE(f.at("regions").strand[0]->at(5, 2 * 64 + 32), 2.0f);
    QCOMPARE(f.at("regions").strand[0]->at(5, 0), -1.0f);
    QVERIFY(std::abs(table(f).centre_v[1] - 0.375f) < 1e-6f);
  }
  void
  aSlantedStripeThatComesRoundIsOne() {  // 3 periods along u and 3 along v: three stripes, each through the tile twice
    const auto f = weave_alone(*catalogue().find("bands"), 256, {},
                               {{"count", 3 * std::sqrt(2.0)}, {"angle", -45.0}, {"softness", 0.0}});
    QCOMPARE(table(f).count(), std::size_t{3});
    const Labels found = label_regions(*f.at("mask").strand[0], 0.5f, false, Stop{});
    QCOMPARE(found.table.count(), std::size_t{3});
    for (int y = 0; y < 256; ++y)  // what is labelled one region has one number here, and the other way round
      for (int x = 0; x < 256; ++x) QCOMPARE(f.at("regions").strand[0]->at(x, y) < 0, found.index.at(x, y) < 0);
  }
  void aShiftedStripeStaysWhole() {
    const auto mask = [](double shift) {
      return weave_alone(*catalogue().find("bands"), 256, {},
                         {{"count", 2.0}, {"thickness", 0.3}, {"softness", 0.001}, {"shift", shift}})
          .at("mask")
          .strand[0]
          ->clone();
    };
    const Plane middle = mask(0), low = mask(-1), high = mask(1);
    QVERIFY2(
        std::abs(range_of(low).mean - range_of(middle).mean) < 2e-3f && std::abs(range_of(high).mean - 0.3f) < 2e-3f,
        QByteArray::number(range_of(low).mean) + ' ' + QByteArray::number(range_of(middle).mean) + ' ' +
            QByteArray::number(range_of(high).mean));
    QVERIFY(low.at(0, 3) > 0.99f && low.at(0, 124) < 0.01f && high.at(0, 124) > 0.99f && high.at(0, 3) < 0.01f);
  }
  void spokesVaryByRule() {
    // Six spokes, the first to the right: every second one is short, and each leans to the next by a rule of its own.
    Rule second = rule("nth", 0.9, 0.3);
    const auto f = weave_alone(*catalogue().find("rays"), 512, {},
                               {{"count", 6.0}, {"length", second}, {"width", 0.3}, {"tone", rule("column", 0, 5)}});
    const Plane& mask = *f.at("mask").strand[0];
    const auto at = [&](const Plane& p, double turns, double radius) {
      return p.at(static_cast<int>(256 + 512 * radius * std::cos(turns * 6.283185307)),
                  static_cast<int>(256 - 512 * radius * std::sin(turns * 6.283185307)));
    };
    for (int k = 0; k < 6; ++k) {
      QVERIFY(at(mask, k / 6.0, 0.1) > 0.9f);
      QCOMPARE(at(mask, k / 6.0, 0.3) > 0.5f, k % 2 == 1);
      QVERIFY(std::abs(at(*f.at("grey").strand[0], k / 6.0, 0.3) - static_cast<float>(k)) < 1e-5f);
    }
    const Plane leaning =
        weave_alone(*catalogue().find("rays"), 512, {}, {{"count", 6.0}, {"width", 0.3}, {"lean", 0.25}})
            .at("mask")
            .strand[0]
            ->clone();
    QVERIFY(at(leaning, 0.25 / 6, 0.3) > 0.9f && at(leaning, 0, 0.35) < 0.1f);
  }
  void regionsTakeRulesOfTheirSizePlaceAndMaps() {
    Fields in;  // a small square at the left above a large one at the right
    const auto mask = painted(256, [](double u, double v) {
      return (u > 0.1 && u < 0.2 && v > 0.1 && v < 0.2) || (u > 0.5 && u < 0.9 && v > 0.5 && v < 0.9) ? 1.0 : 0.0;
    });
    Labels l = label_regions(mask, 0.5f, false, Stop{});
    in["regions"] = field_of(Kind::regions, std::move(l.index));
    in["regions"].regions = std::make_shared<RegionTable>(std::move(l.table));
    in["map_a"] = field_of(Kind::scalar, painted(256, [](double u, double) { return u; }));
    const auto tone = [&](ParamValue by, int x, int y) {
      return weave_alone(*catalogue().find("region_values"), 256, in, {{"tone", std::move(by)}})
          .at("grey")
          .strand[0]
          ->at(x, y);
    };
    const int small = 256 * 15 / 100, large = 256 * 7 / 10;
    QVERIFY(std::abs(tone(rule("size", 0, 1), small, small) - 1 / 16.0f) < 0.01f);
    QCOMPARE(tone(rule("size", 0, 1), large, large), 1.0f);
    QCOMPARE(tone(rule("course", 3, 4), small, small), 3.0f);
    QCOMPARE(tone(rule("column", 3, 4), large, large), 4.0f);
    QVERIFY(std::abs(tone(rule("map", 0, 1), large, large) - 0.7f) < 0.01f);
    const float worked = tone(Formula{"10 * size.x + centre.y", {}}, small, small);
    QVERIFY2(std::abs(worked - 1.15f) < 0.05f, QByteArray::number(worked));  // the square is 26 texels of 256 wide
    // A small span sags less than a large one: the plane's slope by the size of the box.
    const Plane plane = weave_alone(*catalogue().find("region_values"), 256, in, {{"tilt", Formula{"size.x", {}}}})
                            .at("plane")
                            .strand[0]
                            ->clone();
    const auto rise = [&](int from, int to) {
      return std::max(std::abs(plane.at(to, from) - plane.at(from, from)),
                      std::abs(plane.at(from, to) - plane.at(from, from)));
    };
    QVERIFY(rise(large - 40, large + 40) <= 0.4f && rise(small - 10, small + 10) <= 0.1f &&
            rise(large - 40, large + 40) > 0);
  }
};

QTEST_GUILESS_MAIN(TestLaid)
#include "tst_laid.moc"
