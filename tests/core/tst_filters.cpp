// Area operations on planes: exact where they claim to be, and at home on the torus.
#include "tests/core/alone.h"

using namespace loom;
using namespace loom::test;

class TestFilters : public QObject {
  Q_OBJECT
  static Plane speckled(int size, unsigned seed, unsigned one_in) {
    std::mt19937 chance(seed);
    return painted(size, [&](double, double) { return chance() % one_in == 0 ? 1.0 : 0.0; });
  }

 private Q_SLOTS:
  void aBlurKeepsTheMeanAndTheUnbounded_data() {
    QTest::addColumn<float>("sigma");
    for (const float s : {0.0f, 0.002f, 0.01f, 0.03f, 0.1f, 0.5f})
      QTest::newRow(qPrintable(QString::number(static_cast<double>(s)))) << s;
  }
  void aBlurKeepsTheMeanAndTheUnbounded() {
    QFETCH(float, sigma);
    Plane p = painted(256, [](double u, double v) { return 40 * std::sin(6.2831853 * (u + 2 * v)) - 7; });
    const Plane b = blurred(p, sigma, Stop{});
    QVERIFY(std::abs(range_of(b).mean - range_of(p).mean) < 2e-3f);
    // A sine keeps its form; its height sinks by exp(-(2 pi f sigma)^2 / 2), f^2 = 1 + 4.
    const double fall = std::exp(-0.5 * std::pow(6.2831853 * static_cast<double>(sigma), 2) * 5);
    for (const int x : {3, 100, 255})
      QVERIFY2(std::abs(static_cast<double>(b.at(x, 77)) + 7 - fall * (static_cast<double>(p.at(x, 77)) + 7)) < 6e-3,
               qPrintable(QString::number(static_cast<double>(b.at(x, 77)))));
  }
  void aBlurCommutesWithARoll() {
    const Plane p = speckled(256, 1, 9);
    for (const float sigma : {0.01f, 0.05f, 0.2f})
      for (const auto& [du, dv] : {std::pair{1, 0}, {0, 1}, {31, 17}})
        QVERIFY(furthest(rolled(blurred(p, sigma, Stop{}), du, dv), blurred(rolled(p, du, dv), sigma, Stop{})) < 2e-5);
  }

  void distanceIsExact_data() {
    QTest::addColumn<unsigned>("one_in");
    QTest::addColumn<int>("size");
    for (const int size : {16, 64, 128})
      for (const unsigned n : {3u, 40u, 900u}) QTest::addRow("one in %u at %d", n, size) << n << size;
  }
  void distanceIsExact() {
    QFETCH(unsigned, one_in);
    QFETCH(int, size);
    Plane mask = speckled(size, one_in, one_in);
    mask.at(size / 3, size - 1) = 1;
    const DistanceField f = distance_to(mask, 0.5f, Stop{});
    std::vector<std::pair<int, int>> sources;
    for (int y = 0; y < size; ++y)
      for (int x = 0; x < size; ++x)
        if (mask.at(x, y) >= 0.5f) sources.emplace_back(x, y);
    const auto gap = [&](int a, int b) {
      const int d = std::abs(a - b);
      return std::min(d, size - d);
    };
    for (int y = 0; y < size; y += 3)
      for (int x = 0; x < size; x += 2) {
        int least = 1 << 30;
        for (const auto& [sx, sy] : sources) least = std::min(least, gap(x, sx) * gap(x, sx) + gap(y, sy) * gap(y, sy));
        const double d = static_cast<double>(f.distance.at(x, y));
        QVERIFY2(std::abs(d * d - least) < 0.01,
                 qPrintable(QStringLiteral("(%1, %2): %3, not %4").arg(x).arg(y).arg(d * d).arg(least)));
        const int n = f.nearest[static_cast<std::size_t>(y * size + x)];
        QVERIFY(n >= 0 && mask.data()[n] >= 0.5f);
        QCOMPARE(gap(x, n % size) * gap(x, n % size) + gap(y, n / size) * gap(y, n / size), least);
      }
  }
  // Upright bars leave blocks of columns that are all alike, from which the search leaps to what can be nearer.
  void distanceIsExactFarFromBars_data() {
    QTest::addColumn<float>("limit");
    for (const float limit : {1e6f, 150.0f, 70.0f, 20.0f})
      QTest::addRow("limit %g", static_cast<double>(limit)) << limit;
  }
  void distanceIsExactFarFromBars() {
    QFETCH(float, limit);
    constexpr int kSize = 1024;
    Plane mask = Plane::filled(kSize, 0);
    std::vector<std::pair<int, int>> sources{{500, 3}, {733, 960}};
    for (int y = 200; y < 700; ++y)
      for (const int x : {100, 101, 390, 1020}) sources.emplace_back(x, y);
    for (const auto& [x, y] : sources) mask.at(x, y) = 1;
    const DistanceField f = distance_to(mask, 0.5f, Stop{}, limit);
    const auto gap = [](int a, int b) {
      const int d = std::abs(a - b);
      return std::min(d, kSize - d);
    };
    for (int y = 0; y < kSize; y += 31)
      for (int x = 0; x < kSize; x += 7) {
        double least = 1e18;
        for (const auto& [sx, sy] : sources) least = std::min(least, std::hypot(gap(x, sx), gap(y, sy)));
        const double d = static_cast<double>(f.distance.at(x, y));
        if (least < static_cast<double>(limit))
          QVERIFY2(std::abs(d - least) < 1e-3,
                   qPrintable(QStringLiteral("(%1, %2): %3, not %4").arg(x).arg(y).arg(d).arg(least)));
        else
          QVERIFY(d >= static_cast<double>(limit) - 1e-3);
      }
  }
  // A row's result is its own: what was worked out before it does not show, even in which of two equally near sources
  // is told.
  void rowsDoNotLookAtOneAnother_data() {
    QTest::addColumn<int>("size");
    for (const int size : {16, 64, 128, 1024}) QTest::newRow(QByteArray::number(size)) << size;
  }
  void rowsDoNotLookAtOneAnother() {
    QFETCH(int, size);
    Plane mask = Plane::filled(size, 0);
    for (const auto& [x, y] : {std::pair{1, 2}, {size / 2 + 1, 2}, {size / 4, size / 2}, {3 * size / 4, size / 2 + 3}})
      mask.at(x, y) = 1;
    const DistanceField here = distance_to(mask, 0.5f, Stop{});
    for (const int by : {1, 5, size / 2 + 1}) {
      const DistanceField there = distance_to(rolled(mask, 0, by), 0.5f, Stop{});
      for (int i = 0; i < size * size; ++i) {
        const int moved = wrap(i + by * size, size * size), n = here.nearest[static_cast<std::size_t>(i)];
        QCOMPARE(there.nearest[static_cast<std::size_t>(moved)], wrap(n + by * size, size * size));
        QCOMPARE(there.distance.data()[moved], here.distance.data()[i]);
      }
    }
  }
  void withoutASourceEverythingIsFar() {
    const DistanceField f = distance_to(Plane::filled(64, 0), 0.5f, Stop{});
    QCOMPARE(f.distance.at(5, 9), kFar);
    QCOMPARE(f.nearest[77], -1);
  }
  void oneSourceReachesRoundTheTorus() {
    Plane m = Plane::filled(2048, 0);
    m.at(2, 3) = 1;
    const DistanceField f = distance_to(m, 0.5f, Stop{});
    QVERIFY(std::abs(f.distance.at(2046, 2047) - std::sqrt(32.0f)) < 1e-4f);
    QVERIFY(std::abs(f.distance.at(1026, 1027) - 1024 * std::sqrt(2.0f)) < 1e-2f);
  }
  void aCoveredEdgeIsPlacedWithinItsTexel() {
    // A half plane whose edge lies at x = 20.3: distances from it, whatever the grid.
    const Plane m = painted(64, [](double u, double) {
      const double x = u * 64;
      return std::clamp(x - 19.8, 0.0, 1.0) * std::clamp(50.5 - x, 0.0, 1.0);
    });
    const Plane d = smooth_distance(distance_to(m, 0.5f, Stop{}), m, false, Stop{});
    QVERIFY2(std::abs(d.at(10, 5) - (20.3f - 10.5f)) < 0.02f,
             qPrintable(QString::number(static_cast<double>(d.at(10, 5)))));
  }

  void labelsKnowTheTorus() {
    Plane m = Plane::filled(64, 0);
    const auto fill = [&](int x0, int x1, int y0, int y1) {
      for (int y = y0; y < y1; ++y)
        for (int x = x0; x < x1; ++x) m.at(wrap(x, 64), wrap(y, 64)) = 1;
    };
    fill(-4, 6, -3, 5);  // across both edges: one region, its box 10 x 8
    fill(20, 30, 20, 24);
    fill(0, 64, 40, 42);  // runs round
    const Labels l = label_regions(m, 0.5f, false, Stop{});
    QCOMPARE(l.table.count(), std::size_t{3});
    QCOMPARE(l.index.at(62, 62), l.index.at(3, 3));
    const auto at = [&](int x, int y) { return static_cast<std::size_t>(l.index.at(x, y)); };
    const std::size_t corner = at(0, 0), box = at(25, 22), band = at(5, 40);
    QCOMPARE(l.table.size_u[corner], 10.0f / 64);
    QCOMPARE(l.table.size_v[corner], 8.0f / 64);
    QCOMPARE(l.table.box_u[corner], 60.0f / 64);
    QCOMPARE(l.table.box_v[corner], 61.0f / 64);
    QVERIFY(std::abs(l.table.centre_u[corner] - 1.0f / 64) < 1e-5f);
    QCOMPARE(l.table.size_u[box], 10.0f / 64);
    QCOMPARE(l.table.area[box], 40.0f / 4096);
    QCOMPARE(l.table.size_u[band], 1.0f);
    QCOMPARE(l.table.size_v[band], 2.0f / 64);
  }
  void diagonalsJoinOnlyWhenCornersTouch() {
    Plane m = Plane::filled(64, 0);
    m.at(10, 10) = m.at(11, 11) = m.at(63, 30) = m.at(0, 31) = 1;
    QCOMPARE(label_regions(m, 0.5f, false, Stop{}).table.count(), std::size_t{4});
    QCOMPARE(label_regions(m, 0.5f, true, Stop{}).table.count(), std::size_t{2});
  }
  void labelsCommuteWithARollUpToRenaming() {
    const Plane m = speckled(128, 4, 2);
    const Labels a = label_regions(m, 0.5f, false, Stop{}), b = label_regions(rolled(m, 45, 77), 0.5f, false, Stop{});
    QCOMPARE(a.table.count(), b.table.count());
    std::map<float, float> name;
    const Plane back = rolled(b.index, -45, -77);
    for (std::size_t i = 0; i < back.texels(); ++i) {
      const auto [it, fresh] = name.emplace(a.index.data()[i], back.data()[i]);
      QCOMPARE(it->second, back.data()[i]);
    }
    float sum = 0;
    for (const float x : a.table.area) sum += x;
    QVERIFY(std::abs(sum - range_of(m).mean) < 1e-4f);
  }

  void warpingByWholeTexelsIsARoll() {
    const Plane p = bumpy(64, 2), du = Plane::filled(64, 5.0f / 64), dv = Plane::filled(64, -3.0f / 64);
    QVERIFY(furthest(warped(p, du, dv, Stop{}), rolled(p, -5, 3)) < 1e-5);
  }
  void flatHeightsAreOpenAndFaceUp() {
    const Plane flat = Plane::filled(64, 0.7f);
    const auto n = normals(flat, 0.5f, Stop{});
    QCOMPARE(n[2].at(9, 9), 1.0f);
    QCOMPARE(range_of(occlusion(flat, 1, 0.3f, Stop{})).least, 1.0f);
  }
  void normalsPointUpTheSlopeInGreen() {
    // v runs down, +Y up: a height that rises downwards faces up in the picture.
    const auto n = normals(painted(64, [](double, double v) { return 0.1 * std::sin(6.2831853 * v); }), 1, Stop{});
    QVERIFY(n[1].at(0, 1) > 0.3f);
    QVERIFY(std::abs(n[0].at(0, 1)) < 1e-6f);
  }
  // Half a plane that comes back, as a half spectrum does, leaves the planes it is worked with where they are.
  void thePoolKeepsPlanesBesideSmallerBuffers() {
    constexpr std::size_t kHalf = std::size_t{4096} * 2064 * sizeof(float);
    drop_spare_buffers();
    std::size_t planes = 0;
    {
      std::vector<Plane> all;  // never written: pages that are not touched cost nothing
      for (int i = 0; i < 6; ++i) planes += all.emplace_back(4096).bytes();
    }
    QCOMPARE(pool_state().spare, planes);
    { const Pooled<float> half = pooled<float>(kHalf / sizeof(float)); }
    QCOMPARE(pool_state().spare, planes + kHalf);
    { const Plane small(512); }  // far smaller ones do not hold on to them
    QVERIFY(pool_state().spare <= std::size_t{192} << 20);
    drop_spare_buffers();
    QCOMPARE(pool_state().spare, std::size_t{0});
  }
  void bufferPoolGivesBackWhatItTook() {
    const std::size_t before = pool_state().used;
    {
      const Plane a(1024), b(1024);
      QCOMPARE(pool_state().used, before + 2 * a.bytes());
    }
    QCOMPARE(pool_state().used, before);
  }
};

QTEST_GUILESS_MAIN(TestFilters)
#include "tst_filters.moc"
