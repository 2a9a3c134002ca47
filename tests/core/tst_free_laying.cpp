// What a pattern's units may do freely: turns of the whole, offsets, parts, shares kept, shapes fitted into them; bell
// draws; twins of bands; stamps shifted by rule.
#include "tests/core/alone.h"

using namespace loom;
using namespace loom::test;

class TestFreeLaying : public QObject {
  Q_OBJECT
  static std::map<std::string, Field> laid(const char* type, const Resolved& params, int size = 256,
                                           const Fields& inputs = {}) {
    return weave_alone(*catalogue().find(type), size, inputs, params);
  }
  static const RegionTable& units(const std::map<std::string, Field>& f) { return *f.at("regions").regions; }
  static Resolved stacked(Resolved more = {}) {
    Resolved p{{"bond", std::string("stack")},
               {"units_across", 4.0},
               {"bed_joint", 0.0},
               {"cross_joint", 0.0},
               {"corner_radius", 0.0}};
    for (auto& [key, value] : more) p[key] = value;
    return p;
  }
  static Rule rule(const char* by, double from, double to) {
    Rule r;
    r.by = by;
    r.from.number = from;
    r.to.number = to;
    return r;
  }
  static double mean(const Field& f) { return static_cast<double>(range_of(*f.strand[0]).mean); }

 private Q_SLOTS:
  // (p, q) of a square lattice: the angle is arctan(q / p), and the pattern stands p^2 + q^2 times (a similar
  // sublattice has the index p^2 + q^2: Conway and Sloane, "Sphere Packings, Lattices and Groups", from memory).
  void aTurnOfTheWholeClosesAndKeepsUnitsApart_data() {
    QTest::addColumn<QString>("bond");
    QTest::addColumn<double>("turn");
    QTest::addColumn<int>("copies");
    for (const char* bond : {"stack", "running", "herringbone", "hexagon"}) {
      QTest::addRow("%s by 2, 1", bond) << bond << 26.565 << 5;
      QTest::addRow("%s by 3, -2", bond) << bond << -33.69 << 13;
      QTest::addRow("%s past a right angle", bond) << bond << 90 + 26.565 << 5;
    }
  }
  void aTurnOfTheWholeClosesAndKeepsUnitsApart() {
    QFETCH(QString, bond);
    QFETCH(double, turn);
    QFETCH(int, copies);
    const Resolved still = stacked({{"bond", bond.toStdString()}, {"units_across", 8.0}});
    Resolved p = still;
    p["whole_turn"] = turn;
    const auto f = laid("masonry", p, 512);
    const RegionTable& t = units(f);
    QVERIFY(t.count() % static_cast<std::size_t>(copies) == 0);
    QCOMPARE(std::set<std::uint32_t>(t.key.begin(), t.key.end()).size(), t.count());
    QVERIFY2(mean(f.at("mask")) > 0.96, qPrintable(QString::number(mean(f.at("mask")))));
    if (bond != "hexagon") {  // boxes are as large as their share of the tile, and lie along the turn
      double area = 0;
      for (std::size_t i = 0; i < t.count(); ++i) {
        area += static_cast<double>(t.area[i]);
        const double angle = std::atan2(static_cast<double>(t.sine[i]), static_cast<double>(t.cosine[i])) * 57.29577951;
        QVERIFY(std::abs(std::remainder(angle - turn, 90.0)) < 0.01);
      }
      QVERIFY(std::abs(area - 1) < 1e-3);
    }
    // Rolled by a whole tile it is the same, and no unit is met twice: the tile's border is no seam.
    const std::size_t plain = units(laid("masonry", still, 64)).count();
    QVERIFY2(t.count() > plain / 2 && t.count() < plain * 2, qPrintable(QString::number(t.count())));  // about as large
  }
  void aTurnThatIsSnappedSaysWhatItBecame() {
    const NodeType& type = *catalogue().find("masonry");
    const auto note = [&](double turn) {
      const Resolved p{{"whole_turn", turn}};
      return type.note(NodeCall(type, p, 0, 64, {}));
    };
    QCOMPARE(note(0), std::string());
    QVERIFY(note(45).find("45") != std::string::npos && note(45).find("2 times") != std::string::npos);
    QVERIFY(note(27).find("26.57") != std::string::npos);
  }
  void everyWantedAngleIsMetWithinFourDegrees() {
    const NodeType& type = *catalogue().find("masonry");
    for (int turn = -180; turn <= 180; turn += 3) {
      const Resolved p{{"whole_turn", static_cast<double>(turn)}};
      const std::string note = type.note(NodeCall(type, p, 0, 64, {}));
      const double got = note.empty() ? 90 * std::round(turn / 90.0) : std::stod(note.substr(10));
      QVERIFY2(std::abs(std::remainder(got - turn, 360.0)) < 3.6, qPrintable(QString::number(turn)));
    }
  }
  void anOffsetMovesTheWhole() {
    const Plane still = laid("masonry", stacked({{"bed_joint", 0.05}})).at("mask").strand[0]->clone();
    const Plane moved = laid("masonry", stacked({{"bed_joint", 0.05}, {"offset", Vector{32.0 / 256, -7.0 / 256}}}))
                            .at("mask")
                            .strand[0]
                            ->clone();
    QVERIFY(share_apart(moved, rolled(still, 32, -7), 1e-3) < 0.002);
  }
  void aUnitKeepsItsLengthWhenTheBondChanges() {
    const auto longest = [](const char* bond, double kept) {
      const auto f =
          laid("masonry", stacked({{"bond", std::string(bond)}, {"units_across", 12.0}, {"size_kept", kept}}), 64);
      float most = 0;
      for (std::size_t i = 0; i < units(f).count(); ++i)
        most = std::max({most, units(f).size_u[i], units(f).size_v[i]});
      return static_cast<double>(most);
    };
    for (const char* bond :
         {"stack", "running", "english", "flemish", "herringbone", "double_herringbone", "basket_weave", "pinwheel"})
      QVERIFY2(std::abs(longest(bond, 1) - 1.0 / 12) < 1e-4, bond);
    QVERIFY(std::abs(longest("flemish", 0) - 1.0 / 18) < 1e-4);  // of its own: a pair is a unit across
  }
  void aCourseKeepsItsBreadthToo() {
    const auto breadth = [](const char* bond) {
      return static_cast<double>(units(laid("masonry",
                                            stacked({{"bond", std::string(bond)},
                                                     {"units_across", 6.0},
                                                     {"linked", 0.0},
                                                     {"courses", 10.0},
                                                     {"size_kept", 1.0}}),
                                            64))
                                     .size_v[0]);
    };
    for (const char* bond : {"stack", "running", "english", "flemish"}) QVERIFY(std::abs(breadth(bond) - 0.1) < 1e-4);
  }
  void unitsAreDividedBothWays() {
    QCOMPARE(units(laid("masonry", stacked())).count(), std::size_t{32});
    const auto f = laid("masonry", stacked({{"parts_along", 3.0}, {"parts_across", 2.0}}));
    QCOMPARE(units(f).count(), std::size_t{32 * 6});
    QVERIFY(mean(f.at("mask")) > 0.98);
    for (std::size_t i = 0; i < units(f).count(); ++i) {
      QVERIFY(std::abs(units(f).size_u[i] - 0.25f / 3) < 1e-5f);
      QVERIFY(std::abs(units(f).size_v[i] - 0.125f / 2) < 1e-5f);
    }
    // Two parts along are what dividing in the middle gives.
    const auto two = laid("masonry", stacked({{"parts_along", 2.0}})),
               half = laid("masonry", stacked({{"divide", 0.5}}));
    QCOMPARE(units(two).count(), units(half).count());
    QVERIFY(share_apart(*two.at("mask").strand[0], *half.at("mask").strand[0], 1e-3) < 0.001);
    const auto some = laid("masonry", stacked({{"parts_across", rule("chequer", 1, 3)}}));
    QCOMPARE(units(some).count(), std::size_t{16 + 3 * 16});
  }
  void unitsAreShiftedAndNarrowedAcrossTheirCourse() {
    const auto f = laid("masonry", stacked({{"shift_across", rule("chequer", 0, 0.5)}}), 64);
    const auto still = laid("masonry", stacked(), 64);
    for (std::size_t i = 0; i < units(f).count(); ++i) {
      const float apart = units(f).centre_v[i] - units(still).centre_v[i];
      const bool odd = (i / 4 + i % 4) % 2;
      QVERIFY(std::abs(apart - std::floor(apart) - (odd ? 0.0625f : 0.0f)) < 1e-5f);
    }
    QVERIFY(std::abs(mean(laid("masonry", stacked({{"breadth", 0.5}})).at("mask")) - 0.5) < 0.02);
  }
  void theShareThatIsKeptIsANumber() {
    for (const char* type : {"masonry", "scatter"}) {
      const char* count = std::string(type) == "masonry" ? "units_across" : "cells_across";
      const auto share = [&](double kept) {
        Resolved p{{count, 48.0}, {"share_kept", kept}};
        if (std::string(type) == "masonry") p["bed_joint"] = p["cross_joint"] = 0.0;
        return units(laid(type, p, 64)).count();
      };
      const double all = static_cast<double>(share(1)), kept = static_cast<double>(share(0.3));
      // Within four deviations of a binomial count.
      QVERIFY2(std::abs(kept - 0.3 * all) < 4 * std::sqrt(all * 0.3 * 0.7), type);
      QCOMPARE(share(0), std::size_t{0});
    }
  }
  void nthCountsUnitsCoursesOrColumns() {
    const auto kept = [](const char* over, double every, double offset) {
      Rule r = rule("nth", 0, 1);
      r.over = over;
      r.every = every;
      r.offset = offset;
      std::set<std::pair<int, int>> places;
      const auto f = laid("masonry", stacked({{"keep", r}}), 64);
      for (std::size_t i = 0; i < units(f).count(); ++i)
        places.emplace(static_cast<int>(units(f).centre_v[i] * 8), static_cast<int>(units(f).centre_u[i] * 4));
      return places;
    };
    for (const auto& [row, column] : kept("courses", 3, 1)) QCOMPARE(row % 3, 1);
    QCOMPARE(kept("courses", 3, 1).size(), std::size_t{3 * 4});
    for (const auto& [row, column] : kept("columns", 2, 0)) QCOMPARE(column % 2, 0);
    QCOMPARE(kept("columns", 2, 0).size(), std::size_t{8 * 2});
    QCOMPARE(kept("units", 5, 0).size(), std::size_t{7});
  }

  // The normal law: 68.3 % within one deviation, 95.4 % within two (NIST/SEMATECH e-Handbook of Statistical Methods,
  // 1.3.6.6.1). A deviation is a sixth of the range; beyond three all is kept at its ends.
  void bellDrawsFollowTheNormalLaw_data() {
    QTest::addColumn<bool>("formula");
    QTest::newRow("by rule") << false;
    QTest::newRow("by formula") << true;
  }
  void bellDrawsFollowTheNormalLaw() {
    QFETCH(bool, formula);
    Resolved p = stacked({{"units_across", 100.0}, {"linked", 0.0}, {"courses", 200.0}});
    if (formula)
      p["tone"] = Formula{"bell(-3, 3)", {}};
    else
      p["tone"] = rule("bell", -3, 3);
    const auto f = laid("masonry", p, 1024);
    std::vector<double> drawn;
    for (std::size_t i = 0; i < units(f).count(); ++i)
      drawn.push_back(static_cast<double>(f.at("grey").strand[0]->at(static_cast<int>(units(f).centre_u[i] * 1024),
                                                                     static_cast<int>(units(f).centre_v[i] * 1024))));
    const double n = static_cast<double>(drawn.size());
    double sum = 0, squares = 0, one = 0, two = 0;
    for (const double x : drawn) {
      QVERIFY(x >= -3.0001 && x <= 3.0001);
      sum += x, squares += x * x, one += std::abs(x) < 1, two += std::abs(x) < 2;
    }
    QVERIFY(n > 19000);
    QVERIFY2(std::abs(sum / n) < 0.03 && std::abs(squares / n - 0.987) < 0.03,
             qPrintable(QStringLiteral("%1 %2").arg(sum / n).arg(squares / n)));
    QVERIFY(std::abs(one / n - 0.6827) < 0.015 && std::abs(two / n - 0.9545) < 0.008);
  }
  void bellDrawsAreSharedByTheirKey() {
    const auto f = laid("nested_scatter", {{"levels", 1.0},
                                           {"across_1", 8.0},
                                           {"down_1", 8.0},
                                           {"motif_1", 1.0},
                                           {"size_1", Formula{"vector(bell(0.2, 0.9, 1), bell(0.2, 0.9, 1))", {}}}});
    for (std::size_t i = 0; i < units(f).count(); ++i) QCOMPARE(units(f).size_u[i], units(f).size_v[i]);
  }

  // ---- shapes in units ----
  // A disc in units twice as long as broad: stretched it is an ellipse over the unit, within it a disc as broad as the
  // unit, and covering one as long as the unit, cut by it.
  void aShapeIsFittedIntoItsUnit_data() {
    QTest::addColumn<QString>("fit");
    QTest::addColumn<double>("share");
    const double pi = 3.14159265358979;
    QTest::newRow("stretched") << "stretched" << pi / 4;
    QTest::newRow("within") << "within" << pi / 8;
    // The disc of radius 1 in a box of 2 by 1: 2 (x sqrt(1 - x^2) + asin x) at x = 1/2, over 2.
    QTest::newRow("covering") << "covering" << 0.5 * std::sqrt(0.75) + std::asin(0.5);
  }
  void aShapeIsFittedIntoItsUnit() {
    QFETCH(QString, fit);
    QFETCH(double, share);
    Fields in;
    in["shape_a"] = field_of(
        Kind::scalar, painted(512, [](double u, double v) { return std::hypot(u - 0.5, v - 0.5) < 0.5 ? 1.0 : 0.0; }));
    const auto f = laid("masonry", stacked({{"shape_fit", fit.toStdString()}}), 512, in);
    QVERIFY2(std::abs(mean(f.at("mask")) - share) < 0.012, qPrintable(QString::number(mean(f.at("mask")))));
  }
  void aShapeIsTurnedScaledAndShiftedByRule() {
    // A bar along u in square units; turned by 90 degrees it stands, scaled by one half it covers a quarter of it.
    Fields in;
    in["shape_a"] = field_of(Kind::scalar, painted(256, [](double u, double v) {
                               return std::abs(v - 0.5) < 0.1 && std::abs(u - 0.5) < 0.4 ? 1.0 : 0.0;
                             }));
    const Resolved square = stacked({{"linked", 0.0}, {"courses", 4.0}});
    const auto with = [&](const char* id, ParamValue value) {
      Resolved p = square;
      p[id] = std::move(value);
      return laid("masonry", p, 256, in).at("mask").strand[0]->clone();
    };
    const Plane plain = laid("masonry", square, 256, in).at("mask").strand[0]->clone();
    QVERIFY(plain.at(12, 32) > 0.9f && plain.at(32, 12) < 0.1f);
    const Plane turned = with("shape_angle", 90.0);
    QVERIFY(turned.at(12, 32) < 0.1f && turned.at(32, 12) > 0.9f);
    // Anticlockwise: at 45 degrees the right end has risen.
    const Plane slanted = with("shape_angle", 45.0);
    QVERIFY(slanted.at(32 + 14, 32 - 14) > 0.9f && slanted.at(32 + 14, 32 + 14) < 0.1f);
    const Plane small = with("shape_scale", 0.5);
    QVERIFY(std::abs(range_of(small).mean * 4 - range_of(plain).mean) < 0.01f);
    const Plane right = with("shape_shift", Vector{0.0, 0.25});
    QVERIFY(right.at(32, 48) > 0.9f && right.at(32, 32) < 0.1f);
    const Plane each = with("shape_angle", rule("chequer", 0, 90));
    QVERIFY(each.at(12, 32) > 0.9f && each.at(64 + 12, 32) < 0.1f && each.at(64 + 32, 12) > 0.9f);
  }

  // ---- bands ----
  void twinsMovedApartKeepTheirWidth() {
    const auto covered = [](double thickness, double gap, const char* twins) {
      return mean(laid("bands",
                       {{"count", 4.0},
                        {"softness", 0.0},
                        {"thickness", thickness},
                        {"twin_gap", gap},
                        {"twins", std::string(twins)}},
                       1024)
                      .at("mask"));
    };
    for (const double gap : {0.0, 0.25, 0.6, 1.0})
      QVERIFY2(std::abs(covered(0.4, gap, "moved_apart") - 0.4) < 0.01, qPrintable(QString::number(gap)));
    QCOMPARE(covered(1, 0.5, "moved_apart"), 1.0);  // the greatest thickness fills
    QVERIFY(std::abs(covered(0.4, 0.25, "cut_out") - 0.3) < 0.01);
    // Twins at the closest gap are one (common practice, no source).
    const auto bands = [](double gap) {
      return laid("bands", {{"twin_gap", gap}, {"twins", std::string("moved_apart")}}).at("mask").strand[0]->clone();
    };
    QVERIFY(furthest(bands(1e-9), bands(0)) < 1e-5);
  }
  void twinsMayBeUnitsOfTheirOwn() {
    const Resolved pair{{"count", 4.0},
                        {"softness", 0.0},
                        {"thickness", 0.5},
                        {"twin_gap", 0.5},
                        {"twins", std::string("moved_apart")}};
    QCOMPARE(units(laid("bands", pair)).count(), std::size_t{4});
    Resolved apart = pair;
    apart["twins_apart"] = 1.0;
    apart["tone"] = rule("order", 0, 7);
    const auto f = laid("bands", apart);
    QCOMPARE(units(f).count(), std::size_t{8});
    std::set<float> tones;
    for (std::size_t i = 0; i < f.at("mask").strand[0]->texels(); ++i)
      if (f.at("mask").strand[0]->data()[i] > 0.5f) tones.insert(f.at("grey").strand[0]->data()[i]);
    QCOMPARE(tones.size(), std::size_t{8});
    // Across runs from 0 to 1 over each of them, the same way.
    const Plane& across = *f.at("across").strand[0];
    float least = 1, most = 0;
    for (std::size_t i = 0; i < across.texels(); ++i)
      if (f.at("mask").strand[0]->data()[i] > 0.5f && f.at("regions").strand[0]->data()[i] == 2.0f)
        least = std::min(least, across.data()[i]), most = std::max(most, across.data()[i]);
    QVERIFY(least < 0.2f && most > 0.8f);
  }

  // ---- stamps ----
  void stampsAreShiftedByRuleMapAndFormula() {
    const Resolved grid{{"cells_across", 4.0}, {"jitter_u", 0.0}, {"jitter_v", 0.0}};
    const auto still = laid("scatter", grid, 64);
    const auto apart = [&](const ParamValue& shift, const Fields& in = {}) {
      Resolved p = grid;
      p["shift"] = shift;
      const auto f = laid("scatter", p, 64, in);
      std::vector<std::pair<float, float>> moved;
      for (std::size_t i = 0; i < units(f).count(); ++i)
        moved.emplace_back(std::remainder(units(f).centre_u[i] - units(still).centre_u[i], 1.0f),
                           std::remainder(units(f).centre_v[i] - units(still).centre_v[i], 1.0f));
      return moved;
    };
    for (const auto& [u, v] : apart(Vector{0.5, -0.25}))
      QVERIFY(std::abs(u - 0.125f) < 1e-5f && std::abs(v + 0.0625f) < 1e-5f);
    const auto by_course = apart(rule("course", 0, 1));
    QVERIFY(std::abs(by_course[0].first) < 1e-5f && std::abs(by_course[15].first - 0.25f) < 1e-5f);
    for (const auto& [u, v] : apart(Formula{"vector(0, 0.4)", {}}))
      QVERIFY(std::abs(u) < 1e-5f && std::abs(v - 0.1f) < 1e-5f);
    Fields in;
    in["map_a"] = field_of(Kind::scalar, painted(64, [](double u, double) { return u < 0.5 ? 0.0 : 1.0; }));
    const auto by_map = apart(rule("map", 0, 0.4), in);
    QVERIFY(std::abs(by_map[0].first) < 1e-3f && std::abs(by_map[3].first - 0.1f) < 1e-3f);
  }
  void jitterStraysAlongADirection() {
    const auto f =
        laid("scatter", {{"cells_across", 8.0}, {"jitter_u", 0.8}, {"jitter_v", 0.0}, {"jitter_direction", 30.0}}, 64);
    double most = 0;
    for (std::size_t i = 0; i < units(f).count(); ++i) {
      const double u = (static_cast<double>(i % 8) + 0.5) / 8, v = std::floor(static_cast<double>(i) / 8) / 8 + 0.0625;
      const double du = std::remainder(static_cast<double>(units(f).centre_u[i]) - u, 1.0),
                   dv = std::remainder(static_cast<double>(units(f).centre_v[i]) - v, 1.0);
      QVERIFY(std::abs(dv + du * std::tan(30 / 57.29577951)) < 1e-5);  // up to the right: v runs down
      most = std::max(most, std::abs(du));
    }
    QVERIFY(most > 0.02);
  }
  void aStampsOwnShiftLeavesTheLevelsBelow() {
    Resolved p{{"levels", 2.0},
               {"across_1", 2.0},
               {"down_1", 2.0},
               {"across_2", 2.0},
               {"down_2", 2.0},
               {"motif_1", 1.0},
               {"motif_2", 1.0},
               {"size_1", Vector{0.3, 0.3}},
               {"size_2", Vector{0.3, 0.3}}};
    const auto still = laid("nested_scatter", p, 64);
    p["stamp_shift_1"] = Vector{0.5, 0};
    const auto moved = laid("nested_scatter", p, 64);
    QCOMPARE(units(moved).count(), std::size_t{4 + 16});
    for (std::size_t i = 0; i < units(moved).count(); ++i) {
      const double apart =
          std::remainder(static_cast<double>(units(moved).centre_u[i] - units(still).centre_u[i]), 1.0);
      QVERIFY(std::abs(std::abs(apart) - (i < 4 ? 0.25 : 0)) < 1e-5);
    }
  }
  void twelveLevelsAreLaid() {
    Resolved p{{"levels", 12.0}};
    for (int i = 1; i <= 12; ++i) {
      const std::string n = "_" + std::to_string(i);
      p["across" + n] = i <= 3 ? 2.0 : 1.0, p["down" + n] = 1.0;
      p["motif" + n] = i == 12 ? 1.0 : 0.0;
      p["size" + n] = Vector{0.8, 0.8};
    }
    QCOMPARE(units(laid("nested_scatter", p, 64)).count(), std::size_t{8});
  }
};

QTEST_MAIN(TestFreeLaying)
#include "tst_free_laying.moc"
