// Facts of the trade that hold in any program for this work. All: common practice, no source.
#include "tests/core/alone.h"

using namespace loom;
using namespace loom::test;

class TestTrade : public QObject {
  Q_OBJECT
  static std::map<std::string, Field> alone(const char* type, int size, const Fields& in, const Resolved& params = {}) {
    return weave_alone(*catalogue().find(type), size, in, params);
  }
  static Plane plane(const char* type, int size, const Fields& in, const Resolved& params, const char* out) {
    return alone(type, size, in, params).at(out).strand[0]->clone();
  }

 private Q_SLOTS:
  void theMiddleColourOfAChoiceIsAHairline() {
    Fields in;
    in["value"] = field_of(Kind::scalar, plane("gradient_noise", 512, {}, {{"octaves", 2.0}}, "value"));
    const Plane p =
        plane("choose", 512, in, {{"low", 0.496}, {"high", 0.504}, {"above", 0.0}, {"between", 1.0}, {"below", 0.0}},
              "result");
    const float share = range_of(p).mean;
    QVERIFY2(share > 0.002f && share < 0.05f, qPrintable(QString::number(share)));
  }
  void aFlowerRepeatsWithItsPetals() {
    // n petals: the same every 360 / n degrees; with four that is a quarter turn, exact on the grid.
    const Plane p = plane("rosette", 256, {}, {{"petals", 4.0}}, "height");
    for (int i = 3; i < 120; i += 9)
      for (int j = 3; j < 120; j += 7) QVERIFY(std::abs(p.at(128 + i, 128 + j) - p.at(128 + j, 127 - i)) < 1e-4f);
    QVERIFY(range_of(plane("rosette", 256, {}, {{"wave", 0.0}}, "mask")).mean >
            range_of(p).mean);  // without a wave it is the disc
  }
  void aRingFromNothingToTheCircleIsTheFullDisc() {
    const double mean =
        static_cast<double>(range_of(plane("polar", 512, {}, {{"inner", 0.0}, {"outer", 1.0}}, "mask")).mean);
    QVERIFY(std::abs(mean - 3.14159265 / 4) < 0.004);
  }
  void halfOfTheStampsVanishWhereSizesRunBelowNothing() {
    Rule sizes;
    sizes.from.number = -1;
    sizes.to.number = 1;
    const auto count =
        alone("scatter", 64, {}, {{"cells_across", 24.0}, {"size_u", sizes}}).at("regions").regions->count();
    QVERIFY2(count > 230 && count < 346, qPrintable(QString::number(count)));  // 288 of 576, five deviations wide
  }
  void aRampRepeatedFourTimesAsProfileGivesFourSteps() {
    Fields read;
    read["mask"] = field_of(Kind::scalar, painted(512, [](double u, double v) {
                              return std::max(std::abs(u - 0.5), std::abs(v - 0.5)) < 0.4 ? 1.0 : 0.0;
                            }));
    read["profile_map"] = field_of(
        Kind::scalar,
        plane("ramp", 512, {}, {{"kind", std::string("straight")}, {"repeats", 4.0}, {"angle", 0.0}}, "value"));
    const Plane rises = plane("bevel", 512, read, {{"width", 0.2}, {"rounding", 0.0}}, "height");
    int falls = 0;  // each repeat rises from 0 to 1 and falls back at once
    for (int x = 53; x < 156; ++x) falls += rises.at(x - 1, 256) - rises.at(x, 256) > 0.4f;
    QCOMPARE(falls, 3);
    QVERIFY(rises.at(200, 256) > 0.95f);
  }
  void aProfileDrawnInFourStepsGivesFourSteps() {
    Points steps;
    for (int i = 0; i < 4; ++i) steps.push_back({i / 4.0, i / 4.0}), steps.push_back({i / 4.0 + 0.2499, i / 4.0});
    steps.push_back({1, 1});
    Fields in;
    in["mask"] = field_of(Kind::scalar, painted(512, [](double u, double v) {
                            return std::max(std::abs(u - 0.5), std::abs(v - 0.5)) < 0.4 ? 1.0 : 0.0;
                          }));
    const Plane p = plane("bevel", 512, in, {{"width", 0.2}, {"rounding", 0.0}, {"profile", steps}}, "height");
    int levels = 1;
    for (int x = 52; x < 256; ++x) levels += p.at(x, 256) - p.at(x - 1, 256) > 0.1f;
    QVERIFY2(levels >= 4 && levels <= 6, qPrintable(QString::number(levels)));  // ground, three treads, top
  }
  void valuesDividedAndClampedKeepTheirOrder() {
    // Divided by 1.5 and clamped from 0.5: the lower ones are exactly 0.5, the greatest 0.667.
    Fields in;
    in["a"] = field_of(Kind::scalar, painted(256, [](double u, double) { return u; }));
    in["value"] = field_of(Kind::scalar, plane("divide", 256, in, {{"b", 1.5}}, "result"));
    const Plane p = plane("clamp", 256, in, {{"minimum", 0.5}}, "value");
    QCOMPARE(p.at(10, 3), 0.5f);
    QVERIFY(std::abs(range_of(p).most - 0.667f) < 0.002f);
  }
  void linesThatRunRoundTheTileAreFoundAsRegions() {
    Fields in;
    in["mask"] = field_of(Kind::scalar, plane("bands", 128, {}, {{"count", 3.0}, {"softness", 0.0}}, "mask"));
    QCOMPARE(alone("label_regions", 128, in).at("regions").regions->count(), std::size_t{3});
  }
  void narrowingARangeHardensWearAndWideningSoftensIt() {
    Fields in;
    in["value"] = field_of(Kind::scalar, plane("gradient_noise", 256, {}, {}, "value"));
    const auto soft = [&](double softness) {
      const Plane p = plane("pick_range", 256, in, {{"centre", 0.7}, {"width", 0.2}, {"softness", softness}}, "mask");
      std::size_t between = 0;
      for (std::size_t i = 0; i < p.texels(); ++i) between += p.data()[i] > 0.02f && p.data()[i] < 0.98f;
      return between;
    };
    QVERIFY(soft(0.02) * 3 < soft(0.2));
  }
  // A mask's low and high end are moved over the material (worn edges): the clip of a noise is a remap that clamps.
  void aClippedNoiseIsARemapThatClamps_data() {
    QTest::addColumn<QString>("type");
    QTest::addColumn<QString>("out");
    for (const char* type : {"gradient_noise", "value_noise", "facet_noise", "speckle"})
      QTest::newRow(type) << type << "value";
    QTest::newRow("cells") << "cellular_noise"
                           << "nearest";
  }
  void aClippedNoiseIsARemapThatClamps() {
    QFETCH(QString, type);
    QFETCH(QString, out);
    const std::string peg = out.toStdString(), id = type.toStdString();
    Fields in;
    in["value"] = field_of(Kind::scalar, plane(id.c_str(), 128, {}, {}, peg.c_str()));
    const Plane wanted = plane("remap", 128, in, {{"from_low", 0.35}, {"from_high", 0.55}, {"clamp", 1.0}}, "value");
    const Resolved clip{{"clip", 1.0}, {"clip_low", 0.35}, {"clip_high", 0.55}};
    QVERIFY(furthest(plane(id.c_str(), 128, {}, clip, peg.c_str()), wanted) < 1e-5);
    QCOMPARE(range_of(wanted).least, 0.0f);
    QCOMPARE(range_of(wanted).most, 1.0f);
    // Ends that meet make a hard step.
    const Plane hard =
        plane(id.c_str(), 128, {}, {{"clip", 1.0}, {"clip_low", 0.45}, {"clip_high", 0.45}}, peg.c_str());
    for (std::size_t i = 0; i < hard.texels(); ++i) QVERIFY(hard.data()[i] == 0 || hard.data()[i] == 1);
  }
  void aClampKeepsToneAndRemapBetweenTheirEnds() {
    Fields in;
    in["value"] = field_of(Kind::scalar, painted(64, [](double u, double) { return 3 * u - 1; }));
    for (const char* type : {"tone", "remap"}) {
      const bool tone = std::string(type) == "tone";
      const Resolved ends{{tone ? "low" : "to_low", 0.2}, {tone ? "high" : "to_high", 0.7}};
      Resolved clamped = ends;
      clamped["clamp"] = 1.0;
      const Plane open = plane(type, 64, in, ends, "value"), kept = plane(type, 64, in, clamped, "value");
      QVERIFY(range_of(open).least < 0 && range_of(open).most > 1);  // values live on until clamped on purpose
      for (std::size_t i = 0; i < kept.texels(); ++i)
        QVERIFY(std::abs(kept.data()[i] - std::clamp(open.data()[i], 0.2f, 0.7f)) < 1e-5f);
    }
  }
  void aStepIsOneFromItsEdgeOn() {
    Fields in;
    in["b"] = field_of(Kind::scalar, painted(64, [](double u, double) {
                         return u < 0.5 ? 0.25 : u < 0.75 ? 0.5 : 0.75;
                       }));
    const Plane p = plane("step", 64, in, {{"a", 0.5}}, "result");
    QCOMPARE(p.at(3, 3), 0.0f);
    QCOMPARE(p.at(40, 3), 1.0f);  // at the edge itself
    QCOMPARE(p.at(60, 3), 1.0f);
  }
  void noPebbleLiesOnAStone() {
    Fields in;
    in["avoid"] = field_of(
        Kind::scalar, painted(512, [](double u, double v) { return std::hypot(u - 0.5, v - 0.5) < 0.25 ? 1.0 : 0.0; }));
    Rule sizes;
    sizes.from.number = 0.5;
    sizes.to.number = 1.4;
    const Plane mask =
        plane("scatter", 512, in, {{"spacing", std::string("distance_apart")}, {"distance", 0.05}, {"size_u", sizes}},
              "mask");
    for (std::size_t i = 0; i < mask.texels(); ++i)
      QVERIFY(mask.data()[i] < 0.5f || in["avoid"].strand[0]->data()[i] < 0.5f);
    QVERIFY(range_of(mask).mean > 0.2f);
  }
};

QTEST_GUILESS_MAIN(TestTrade)
#include "tst_trade.moc"
