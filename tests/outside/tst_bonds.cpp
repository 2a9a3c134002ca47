// Bonds against exact geometry: cell maps, joint shares, and the facts of the trade.
#include "tests/core/alone.h"
#include "tests/outside/published.h"

using namespace loom;
using namespace loom::test;

class TestBonds : public QObject {
  Q_OBJECT
  static std::map<std::string, Field> masonry(const Resolved& params, int size) { return weave_alone(*catalogue().find("masonry"), size, {}, params); }
  static Plane alone(const char* type, int size, const Fields& in, const Resolved& params, const char* out) { return weave_alone(*catalogue().find(type), size, in, params).at(out).strand[0]->clone(); }
  static double joints(const Resolved& params, int size) { return 1 - static_cast<double>(range_of(*masonry(params, size).at("mask").strand[0]).mean); }

 private Q_SLOTS:
  void herringboneHasThePublishedCellMap() {
    // masonry.057: unit identifiers of the 4 x 4 repeat, y up.
    const auto cells = published("masonry.json", "masonry.057")["expected"].get<std::vector<std::vector<int>>>();
    const Plane index = masonry({{"bond", std::string("herringbone")}, {"units_across", 2.0}, {"bed_joint", 0.0}, {"cross_joint", 0.0}, {"corner_radius", 0.0}}, 64).at("regions").strand[0]->clone();
    const auto ours = [&](int x, int y) { return static_cast<int>(index.at(x * 16 + 8, y * 16 + 8)); };
    // Two cells are of one unit in the published map exactly when they are in ours, under one of the tile's symmetries.
    int matches = 0;
    for (int mirror = 0; mirror < 2; ++mirror)
      for (int dy = 0; dy < 4; ++dy)
        for (int dx = 0; dx < 4; ++dx) {
          bool same = true;
          for (int a = 0; a < 16 && same; ++a)
            for (int b = 0; b < 16 && same; ++b) {
              const auto cell = [&](int i) { return cells[static_cast<std::size_t>(i / 4)][static_cast<std::size_t>(i % 4)]; };
              const auto here = [&](int i) { const int y = mirror ? 3 - i / 4 : i / 4; return ours((i % 4 + dx) % 4, (y + dy) % 4); };
              same = (cell(a) == cell(b)) == (here(a) == here(b));
            }
          matches += same;
        }
    QVERIFY(matches > 0);
  }
  void runningBondHasTheExactJointShare() {  // masonry.049 to masonry.051, raster counts
    for (const char* id : {"masonry.049", "masonry.050"}) {
      const json row = published("masonry.json", id);
      const double n = row["inputs"]["N"], w = row["inputs"]["unit_px_incl_joint"][0], h = row["inputs"]["unit_px_incl_joint"][1], j = row["inputs"]["joint_px"];
      const Resolved p{{"bond", std::string("running")}, {"units_across", n / w}, {"courses", n / h}, {"linked", 0.0}, {"bed_joint", j / n}, {"cross_joint", j / n}, {"corner_radius", 0.0},
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
      const double got = joints({{"bond", bond.toStdString()}, {"units_across", 6.0}, {"bed_joint", joint}, {"cross_joint", joint}, {"corner_radius", 0.0}}, 1024);
      QVERIFY2(std::abs(got - expected) < 5e-4, qPrintable(QStringLiteral("%1, not %2").arg(got).arg(expected)));
    }
  }

  // ---- facts of the trade; all: common practice, no source ----

  void clamp01IsClampWith0And1() {
    Fields in;
    in["value"] = field_of(Kind::scalar, painted(64, [](double u, double v) { return 3 * u - v; }));
    QVERIFY(same_bits(alone("clamp_0_1", 64, in, {}, "value"), alone("clamp", 64, in, {{"least", 0.0}, {"most", 1.0}}, "value")));
  }
  void aHighGainThenAClampLeavesNearlyAllWhite() {
    Fields in;
    in["value"] = field_of(Kind::scalar, alone("gradient_noise", 256, {}, {}, "value"));
    const Plane p = alone("clamp_0_1", 256, {{"value", field_of(Kind::scalar, alone("remap", 256, in, {{"to_high", 50.0}}, "value"))}}, {}, "value");
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
  void bandsAreEmptyFullAndHard() {
    const auto bands = [](const Resolved& p) { return alone("bands", 256, {}, p, "mask"); };
    QCOMPARE(range_of(bands({{"thickness", 0.0}})).most, 0.0f);
    QCOMPARE(range_of(bands({{"count", 0.0}})).most, 0.0f);
    QCOMPARE(range_of(bands({{"thickness", 1.0}})).least, 1.0f);
    const Plane hard = bands({{"hard", 1.0}, {"angle", 30.0}});
    for (std::size_t i = 0; i < hard.texels(); ++i) QVERIFY(hard.data()[i] == 0 || hard.data()[i] == 1);
    // Twins at the closest gap are one stripe.
    QVERIFY(furthest(bands({{"twin_gap", 1e-9}}), bands({{"twin_gap", 0.0}})) < 1e-5);
  }
  void redToBlueInterpolatesStraight() {
    Fields in;
    in["value"] = field_of(Kind::scalar, painted(64, [](double u, double) { return u < 0.5 ? 0.1 : 0.8; }));
    const auto f = weave_alone(*catalogue().find("dye"), 64, in, {{"stops", Stops{{0, {1, 0, 0, 1}}, {1, {0, 0, 1, 1}}}}});
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
    const std::pair<const char*, double> rows[] = {{"multiply", 0.12}, {"screen", 0.68}, {"overlay", 0.24}, {"darken", 0.2}, {"lighten", 0.6}, {"colour_dodge", 0.5},
      {"colour_burn", 0.0}, {"hard_light", 0.36}, {"soft_light", 0.2496}, {"difference", 0.4}, {"exclusion", 0.56}};
    for (const auto& [mode, e] : rows) {
      const double got = static_cast<double>(alone("blend", 64, {}, {{"lower", 0.2}, {"upper", 0.6}, {"mode", std::string(mode)}}, "result").at(0, 0));
      QVERIFY2(std::abs(got - e) < 2e-4, qPrintable(QStringLiteral("%1: %2, not %3").arg(QLatin1String(mode)).arg(got).arg(e)));
    }
  }
};

QTEST_GUILESS_MAIN(TestBonds)
#include "tst_bonds.moc"
