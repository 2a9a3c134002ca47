// Bonds against exact geometry: cell maps, joint shares, and the facts of the trade.
#include "tests/core/alone.h"
#include "tests/outside/reference.h"

using namespace loom;
using namespace loom::test;

class TestBonds : public QObject {
  Q_OBJECT
  static std::map<std::string, Field> masonry(const Resolved& params, int size) {
    return weave_alone(*catalogue().find("masonry"), size, {}, params);
  }
  static Plane alone(const char* type, int size, const Fields& in, const Resolved& params, const char* out) {
    return weave_alone(*catalogue().find(type), size, in, params).at(out).strand[0]->clone();
  }
  static double joints(const Resolved& params, int size) {
    return 1 - static_cast<double>(range_of(*masonry(params, size).at("mask").strand[0]).mean);
  }

 private Q_SLOTS:
  void herringboneHasThePublishedCellMap() {
    // masonry.057: unit identifiers of the 4 x 4 repeat, y up.
    const auto cells = reference("masonry.json", "masonry.057")["expected"].get<std::vector<std::vector<int>>>();
    const Plane index = masonry({{"bond", std::string("herringbone")},
                                 {"units_across", 2.0},
                                 {"bed_joint", 0.0},
                                 {"cross_joint", 0.0},
                                 {"corner_radius", 0.0}},
                                64)
                            .at("regions")
                            .strand[0]
                            ->clone();
    const auto ours = [&](int x, int y) { return static_cast<int>(index.at(x * 16 + 8, y * 16 + 8)); };
    // Two cells are of one unit in the reference map exactly when they are in ours, under one of the tile's symmetries.
    int matches = 0;
    for (int mirror = 0; mirror < 2; ++mirror)
      for (int dy = 0; dy < 4; ++dy)
        for (int dx = 0; dx < 4; ++dx) {
          bool same = true;
          for (int a = 0; a < 16 && same; ++a)
            for (int b = 0; b < 16 && same; ++b) {
              const auto cell = [&](int i) {
                return cells[static_cast<std::size_t>(i / 4)][static_cast<std::size_t>(i % 4)];
              };
              const auto here = [&](int i) {
                const int y = mirror ? 3 - i / 4 : i / 4;
                return ours((i % 4 + dx) % 4, (y + dy) % 4);
              };
              same = (cell(a) == cell(b)) == (here(a) == here(b));
            }
          matches += same;
        }
    QVERIFY(matches > 0);
  }
  void runningBondHasTheExactJointShare() {  // masonry.049 to masonry.051, raster counts
    for (const char* id : {"masonry.049", "masonry.050"}) {
      const json row = reference("masonry.json", id);
      const double n = row["inputs"]["N"], w = row["inputs"]["unit_px_incl_joint"][0],
                   h = row["inputs"]["unit_px_incl_joint"][1], j = row["inputs"]["joint_px"];
      const Resolved p{{"bond", std::string("running")},
                       {"units_across", n / w},
                       {"courses", n / h},
                       {"linked", 0.0},
                       {"bed_joint", j / n},
                       {"cross_joint", j / n},
                       {"corner_radius", 0.0},
                       {"stagger", row["inputs"]["row_offset_px"].get<double>() / w}};
      QVERIFY2(std::abs(joints(p, static_cast<int>(n)) - row["expected"][0].get<double>()) < 1e-4, id);
      QCOMPARE(static_cast<int>(masonry(p, 64).at("regions").regions->count()), row["expected"][1].get<int>());
    }
  }
  void twoToOneBondsHaveTheExactJointShare_data() {
    QTest::addColumn<QString>("bond");
    QTest::newRow("herringbone") << "herringbone";
    QTest::newRow("basket weave") << "basket_weave";
  }
  void twoToOneBondsHaveTheExactJointShare() {
    // 1 - L W / ((L + j)(W + j)) with L + j = 2 (W + j) (masonry.058, masonry.060).
    QFETCH(QString, bond);
    for (const double joint : {0.01, 0.02, 0.03}) {
      const double cell = 1.0 / 12, expected = 1 - (2 * cell - joint) * (cell - joint) / (2 * cell * cell);
      const double got = joints({{"bond", bond.toStdString()},
                                 {"units_across", 6.0},
                                 {"bed_joint", joint},
                                 {"cross_joint", joint},
                                 {"corner_radius", 0.0}},
                                1024);
      QVERIFY2(std::abs(got - expected) < 5e-4, qPrintable(QStringLiteral("%1, not %2").arg(got).arg(expected)));
    }
  }

  void englishAndFlemishBondHaveTheExactJointShare() {
    // masonry.english_share and masonry.flemish_share: stretchers of 215 x 65 mm, joints of 10, headers of 102.5.
    const double module = 225, course = 75, joint = 10;
    const int across = 6;
    for (const bool english : {true, false}) {
      const double tile = across * module * (english ? 1.0 : 1.5), rows = std::round(tile / course / 2) * 2;
      // The tile is square, so courses that do not divide it are stretched: the joint share of an unstretched wall is
      // compared.
      const Resolved p{{"bond", std::string(english ? "english" : "flemish")},
                       {"units_across", double(across)},
                       {"linked", 0.0},
                       {"courses", rows},
                       {"bed_joint", joint / course / rows},
                       {"cross_joint", joint / tile},
                       {"corner_radius", 0.0}};
      const double expected =
          reference("masonry.json", english ? "masonry.english_share" : "masonry.flemish_share")["expected"]
              .get<double>();
      QVERIFY2(std::abs(joints(p, 2048) - expected) < 1e-3,
               qPrintable(QStringLiteral("%1, not %2").arg(joints(p, 2048)).arg(expected)));
    }
  }
  void unitsThatTouchShowNoEdges_data() {
    QTest::addColumn<QString>("bond");
    for (const std::string& word : catalogue().find("masonry")->parameter("bond")->options)
      QTest::newRow(word.c_str()) << QString::fromStdString(word);
  }
  // Joints of no width cover nothing (area is conserved): the mask is whole at every size, and a narrow joint shows by
  // its share of a sample.
  void unitsThatTouchShowNoEdges() {
    QFETCH(QString, bond);
    const auto mask = [&](double joint, int size) {
      return masonry({{"bond", bond.toStdString()},
                      {"units_across", 4.0},
                      {"bed_joint", joint},
                      {"cross_joint", joint},
                      {"corner_radius", 0.0}},
                     size)
          .at("mask")
          .strand[0]
          ->clone();
    };
    for (const int size : {64, 128, 512}) {
      const Range r = range_of(mask(0, size));
      QVERIFY2(r.mean > 0.998f && r.least > 0.4f, QByteArray::number(static_cast<double>(r.mean)) + " " +
                                                      QByteArray::number(static_cast<double>(r.least)));
    }
    // A joint of half a texel at 128 covers as much there as at 1024, where it is four texels wide.
    const float coarse = range_of(mask(0.5 / 128, 128)).mean, fine = range_of(mask(0.5 / 128, 1024)).mean;
    QVERIFY2(std::abs(coarse - fine) < 0.01f,
             QByteArray::number(static_cast<double>(coarse)) + " " + QByteArray::number(static_cast<double>(fine)));
  }
  void bondsRepeatAsTheHandbooksSay() {
    // masonry.015, masonry.017, masonry.064: units in one repeat of the bond.
    const auto units = [](const char* bond, double across, double courses) {
      return static_cast<int>(
          masonry({{"bond", std::string(bond)}, {"units_across", across}, {"linked", 0.0}, {"courses", courses}}, 64)
              .at("regions")
              .regions->count());
    };
    QCOMPARE(units("english", 1, 2), reference("masonry.json", "masonry.015")["expected"][2].get<int>());
    QCOMPARE(units("flemish", 1, 2), reference("masonry.json", "masonry.017")["expected"][2].get<int>());
    const json pinwheel = reference("masonry.json", "masonry.064")["expected"];
    QCOMPARE(units("pinwheel", 1, 1), pinwheel[1].get<int>() + pinwheel[2].get<int>());
    QCOMPARE(units("hexagon", 4, 4), 16);
    QCOMPARE(units("octagon_and_dot", 3, 3), 18);
    QCOMPARE(units("diamond", 3, 3), 18);
    QCOMPARE(units("interlocking", 3, 2), 12);
    QCOMPARE(units("double_herringbone", 2, 2), 16);
  }
  void octagonsAndDotsHaveTheExactShares() {  // masonry.079: pitch 1 + root 2, side 1
    const json row = reference("masonry.json", "masonry.079");
    const double pitch = 1 + std::sqrt(2.0), joint = row["inputs"]["j"].get<double>(), n = 4;
    const Resolved p{{"bond", std::string("octagon_and_dot")},
                     {"units_across", n},
                     {"bed_joint", joint / pitch / n},
                     {"cross_joint", joint / pitch / n},
                     {"corner_radius", 0.0}};
    QVERIFY2(std::abs(joints(p, 1024) - row["expected"][2].get<double>()) < 1e-3,
             qPrintable(QString::number(joints(p, 1024))));
  }
  void hexagonsHaveTheExactJointShare() {
    // masonry.075, 1 - ((a - j) / a)^2, holds for regular ones; 7 columns by 8 rows are stretched by 1 % (masonry.070).
    const json row = reference("masonry.json", "masonry.075");
    const double a = 1.0 / 7, j = row["inputs"]["j"].get<double>() * a;
    const double stretch = std::abs(reference("masonry.json", "masonry.070")["expected"].get<double>());
    const double got = joints({{"bond", std::string("hexagon")},
                               {"units_across", 7.0},
                               {"linked", 0.0},
                               {"courses", 8.0},
                               {"bed_joint", j},
                               {"cross_joint", j},
                               {"corner_radius", 0.0}},
                              1024);
    QVERIFY2(std::abs(got - row["expected"].get<double>()) < stretch * 0.1 + 1e-3, qPrintable(QString::number(got)));
  }
  void everyBondFillsTheTileWithoutJoints_data() {
    QTest::addColumn<QString>("bond");
    for (const std::string& word : catalogue().find("masonry")->parameter("bond")->options)
      QTest::newRow(word.c_str()) << QString::fromStdString(word);
  }
  void everyBondFillsTheTileWithoutJoints() {
    QFETCH(QString, bond);
    for (const double diagonal : {0.0, 1.0})
      for (const double turns : {0.0, 1.0}) {
        const double open = joints({{"bond", bond.toStdString()},
                                    {"units_across", 4.0},
                                    {"bed_joint", 0.0},
                                    {"cross_joint", 0.0},
                                    {"corner_radius", 0.0},
                                    {"diagonal", diagonal},
                                    {"quarter_turns", turns}},
                                   1024);
        // Where two edges meet within a texel, the nearer unit alone covers its share, about half: a texel along each
        // edge.
        QVERIFY2(
            open < 0.035,
            qPrintable(
                QStringLiteral("%1 of the tile is open, diagonal %2, turns %3").arg(open).arg(diagonal).arg(turns)));
      }
  }
  void changingTheBondKeepsEveryThread() {
    const NodeType& type = *catalogue().find("masonry");
    for (const std::string& word : type.parameter("bond")->options) {
      const auto out = masonry({{"bond", word}}, 64);
      for (const Peg& peg : type.outputs) QVERIFY2(out.count(peg.id), word.c_str());
    }
  }
  void aDividedUnitIsTwo() {
    const auto count = [](ParamValue divide) {
      return masonry({{"bond", std::string("stack")}, {"units_across", 4.0}, {"divide", std::move(divide)}}, 64)
          .at("regions")
          .regions->count();
    };
    QCOMPARE(count(0.0), std::size_t{32});
    QCOMPARE(count(0.4), std::size_t{64});
    Rule every;
    every.by = "nth";
    every.every = 2;
    every.to.number = 0.5;
    QCOMPARE(count(every), std::size_t{48});
  }

  // ---- facts of the trade; all: common practice, no source ----

  void clamp01IsClampWith0And1() {
    Fields in;
    in["value"] = field_of(Kind::scalar, painted(64, [](double u, double v) { return 3 * u - v; }));
    QVERIFY(same_bits(alone("clamp_0_1", 64, in, {}, "value"),
                      alone("clamp", 64, in, {{"minimum", 0.0}, {"maximum", 1.0}}, "value")));
  }
  void aHighGainThenAClampLeavesNearlyAllWhite() {
    Fields in;
    in["value"] = field_of(Kind::scalar, alone("gradient_noise", 256, {}, {}, "value"));
    const Plane p =
        alone("clamp_0_1", 256,
              {{"value", field_of(Kind::scalar, alone("remap", 256, in, {{"to_high", 50.0}}, "value"))}}, {}, "value");
    QVERIFY(range_of(p).mean > 0.99f);
  }
  void seedsBelowOneHalfDoNotGrow() {
    Plane m = Plane::filled(64, 0);
    m.at(10, 10) = 0.49f;
    m.at(40, 40) = 0.9f;
    Fields in;
    in["mask"] = field_of(Kind::scalar, m.clone());
    in["value"] = field_of(Kind::scalar, m.clone());
    const Plane carried = alone("distance_to_mask", 64, in, {{"reach", 2.0}}, "carried");
    const Range r = range_of(carried);
    QCOMPARE(r.least, 0.9f);  // every place carries the tone of the one seed that grows
    QCOMPARE(r.most, 0.9f);
  }
  void aBevelOfWidth0IsNoBevel() {
    Fields in;
    in["mask"] = field_of(Kind::scalar, bumpy(64, 1));
    QVERIFY(same_bits(alone("bevel", 64, in, {{"width", 0.0}}, "height"), bumpy(64, 1)));
  }
  void regionsThatAdjoinAreBevelledApart() {
    // Four squares without joints: the bevel rises straight from their common borders, by exact distance, also where no
    // mask is connected.
    Fields in;
    in["regions"] = field_of(
        Kind::regions, painted(256, [](double u, double v) { return (u < 0.5 ? 0.0 : 1.0) + (v < 0.5 ? 0.0 : 2.0); }));
    auto table = std::make_shared<RegionTable>();
    table->resize(4);
    in["regions"].regions = table;
    const Plane height = alone("bevel", 256, in, {{"width", 0.1}, {"rounding", 0.0}}, "height");
    for (int y = 0; y < 256; ++y)
      for (int x = 0; x < 256; ++x) {
        const auto to_border = [](int at) { return std::min(at % 128, 127 - at % 128) + 0.5; };
        QVERIFY(std::abs(static_cast<double>(height.at(x, y)) -
                         std::min(1.0, std::min(to_border(x), to_border(y)) / 25.6)) < 1e-3);
      }
    // Ground between regions counts as outside.
    in["regions"] = field_of(Kind::regions, painted(256, [](double u, double) { return u < 0.5 ? 0.0 : -1.0; }));
    in["regions"].regions = table;
    const Plane outside =
        alone("bevel", 256, in, {{"width", 0.1}, {"rounding", 0.0}, {"side", std::string("outside")}}, "height");
    QVERIFY(outside.at(64, 9) == 1 && outside.at(192, 9) == 0 && outside.at(134, 9) > 0.6f &&
            outside.at(134, 9) < 0.9f);
  }
  void theProfileIsReadAlongALineOfTheMap() {
    Fields in;
    in["mask"] = field_of(Kind::scalar, painted(256, [](double u, double) { return u < 0.5 ? 1.0 : 0.0; }));
    in["profile_map"] = field_of(Kind::scalar, painted(256, [](double u, double v) { return v < 0.5 ? u * u : 0.25; }));
    const auto at = [&](double line) {
      return alone("bevel", 256, in, {{"width", 0.2}, {"rounding", 0.0}, {"profile_row", line}}, "height");
    };
    const Plane squares = at(0.25), level = at(0.75);
    for (int x = 2; x < 50; ++x) {
      const double t = (x + 0.5) / 51.2;
      QVERIFY(std::abs(static_cast<double>(squares.at(x, 40)) - t * t) < 0.01);
      QCOMPARE(level.at(x, 40), 0.25f);
    }
  }
  void bandsAreEmptyFullAndHard() {
    const auto bands = [](const Resolved& p) { return alone("bands", 256, {}, p, "mask"); };
    QCOMPARE(range_of(bands({{"thickness", 0.0}})).most, 0.0f);
    QCOMPARE(range_of(bands({{"count", 0.0}})).most, 0.0f);
    QCOMPARE(range_of(bands({{"thickness", 1.0}})).least, 1.0f);
    const Plane hard = bands({{"softness", 0.0}, {"angle", 30.0}});
    for (std::size_t i = 0; i < hard.texels(); ++i) QVERIFY(hard.data()[i] == 0 || hard.data()[i] == 1);
    // Twins at the closest gap are one stripe.
    QVERIFY(furthest(bands({{"twin_gap", 1e-9}}), bands({{"twin_gap", 0.0}})) < 1e-5);
  }
  void redToBlueInterpolatesStraight() {
    Fields in;
    in["value"] = field_of(Kind::scalar, painted(64, [](double u, double) { return u < 0.5 ? 0.1 : 0.8; }));
    const auto f =
        weave_alone(*catalogue().find("dye"), 64, in, {{"stops", Stops{{0, {1, 0, 0, 1}}, {1, {0, 0, 1, 1}}}}});
    const auto at = [&](int x, std::size_t c) { return f.at("colour").strand[c]->at(x, 0); };
    QVERIFY(std::abs(at(0, 0) - 0.9f) < 1e-6f && std::abs(at(0, 2) - 0.1f) < 1e-6f && at(0, 1) == 0);
    QVERIFY(std::abs(at(63, 0) - 0.2f) < 1e-6f && std::abs(at(63, 2) - 0.8f) < 1e-6f);
  }
  void anEdgeMaskTimesNoiseNeverExceedsTheMask() {
    Fields in;
    in["a"] = field_of(Kind::scalar, bumpy(64, 1));
    in["b"] = field_of(Kind::scalar, alone("gradient_noise", 64, {}, {}, "value"));
    const Plane p = alone("multiply", 64, in, {}, "result");
    for (std::size_t i = 0; i < p.texels(); ++i) QVERIFY(p.data()[i] <= in["a"].strand[0]->data()[i] + 1e-7f);
  }
  void blendModesFollowTheStandard() {
    // W3C Compositing and Blending Level 1, section 10.1, computed by hand for lower 0.2 and upper 0.6.
    const std::pair<const char*, double> rows[] = {{"multiply", 0.12},   {"screen", 0.68},     {"overlay", 0.24},
                                                   {"darken", 0.2},      {"lighten", 0.6},     {"colour_dodge", 0.5},
                                                   {"colour_burn", 0.0}, {"hard_light", 0.36}, {"soft_light", 0.2496},
                                                   {"difference", 0.4},  {"exclusion", 0.56}};
    for (const auto& [mode, e] : rows) {
      const double got = static_cast<double>(
          alone("blend", 64, {}, {{"lower", 0.2}, {"upper", 0.6}, {"mode", std::string(mode)}}, "result").at(0, 0));
      QVERIFY2(std::abs(got - e) < 2e-4,
               qPrintable(QStringLiteral("%1: %2, not %3").arg(QLatin1String(mode)).arg(got).arg(e)));
    }
  }
};

QTEST_GUILESS_MAIN(TestBonds)
#include "tst_bonds.moc"
