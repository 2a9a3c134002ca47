// Nested scatter, lists of items, formulas over units: one draw or two, shared draws, vectors; how values spread.
#include "core/graph/json.h"
#include "core/graph/validate.h"
#include "tests/core/alone.h"

using namespace loom;
using namespace loom::test;

class TestNested : public QObject {
  Q_OBJECT
  static const NodeType& nested() { return *catalogue().find("nested_scatter"); }
  // Only the last of `levels` stamps, and plainly: each level divides by two, from two cells across.
  static Resolved plain(int levels) {
    Resolved p{{"levels", static_cast<double>(levels)}};
    for (int i = 1; i <= levels; ++i) {
      const std::string n = "_" + std::to_string(i);
      p["across" + n] = p["down" + n] = 2.0;
      p["motif" + n] = i == levels ? 1.0 : 0.0;
      p["size" + n] = Vector{0.8, 0.8};
      p["tone" + n] = 1.0;
    }
    return p;
  }
  static std::size_t stamps(const Resolved& p) {
    return weave_alone(nested(), 128, {}, p).at("regions").regions->count();
  }

 private Q_SLOTS:
  void eachLevelDividesTheOneAbove() {
    QCOMPARE(stamps(plain(1)), std::size_t{4});
    QCOMPARE(stamps(plain(3)), std::size_t{64});
    Resolved p = plain(2);
    p["across_2"] = 3.0, p["down_2"] = 1.0;
    QCOMPARE(stamps(p), std::size_t{12});
  }
  void aLevelMayStampNothing() {
    Resolved p = plain(2);
    p["motif_2"] = 0.0;
    QCOMPARE(stamps(p), std::size_t{0});
    p["motif_1"] = 1.0;
    QCOMPARE(stamps(p), std::size_t{4});
  }
  void aCellThatIsNotKeptIsNotDivided() {
    Resolved p = plain(2);
    p["keep_1"] = Formula{"column", {}};  // the right half
    QCOMPARE(stamps(p), std::size_t{8});
    const auto regions = weave_alone(nested(), 64, {}, p).at("regions").regions;
    for (const float u : regions->centre_u) QVERIFY(u > 0.5f);
  }
  void aShiftCarriesWhatIsDividedFromTheCell() {
    Resolved p = plain(2);
    const auto still = weave_alone(nested(), 64, {}, p).at("regions").regions;
    p["shift_1"] = Vector{0.5, 0};  // of a cell half a tile wide
    const auto moved = weave_alone(nested(), 64, {}, p).at("regions").regions;
    for (std::size_t i = 0; i < still->count(); ++i) {
      const float apart = moved->centre_u[i] - still->centre_u[i];
      QVERIFY(std::abs(apart - std::floor(apart) - 0.25f) < 1e-5f);
      QCOMPARE(moved->centre_v[i], still->centre_v[i]);
    }
  }
  void formulasKnowTheLevelsWholeGrid() {
    Resolved p = plain(3);
    p["tone_3"] = Formula{"(row + 8 * column) / 64 + 0 * level", {}};
    const PlanePtr tone = weave_alone(nested(), 256, {}, p).at("grey").strand[0];
    for (int y = 0; y < 8; ++y)
      for (int x = 0; x < 8; ++x)
        QVERIFY(std::abs(tone->at(x * 32 + 16, y * 32 + 16) - static_cast<float>(y + 8 * x) / 64) < 1e-6f);
    p["tone_3"] = Formula{"level / 3", {}};
    QVERIFY(std::abs(weave_alone(nested(), 64, {}, p).at("grey").strand[0]->at(4, 4) - 1) < 1e-6f);
  }
  // Common practice, no source: one draw used twice keeps discs round, two draws do not.
  void oneDrawTwiceOrTwoDraws() {
    const auto sizes = [&](const char* text) {
      Resolved p = plain(3);
      p["size_3"] = Formula{text, {}};
      return weave_alone(nested(), 64, {}, p).at("regions").regions;
    };
    const auto round = sizes("random(0.3, 0.9)"), keyed = sizes("vector(random(0.3, 0.9, 1), random(0.3, 0.9, 1))"),
               apart = sizes("vector(random(0.3, 0.9), random(0.3, 0.9))");
    int oval = 0;
    for (std::size_t i = 0; i < 64; ++i) {
      QCOMPARE(round->size_u[i], round->size_v[i]);
      QCOMPARE(keyed->size_u[i], keyed->size_v[i]);
      oval += std::abs(apart->size_u[i] - apart->size_v[i]) > 1e-3f;
    }
    QVERIFY(oval > 55);
  }
  void aKeyedDrawIsSharedByTheParametersOfANode() {
    Resolved p = plain(2);
    p["size_2"] = Formula{"random(0.2, 0.9, 7)", {}};
    p["tone_2"] = Formula{"random(0.2, 0.9, 7)", {}};
    const auto all = weave_alone(nested(), 256, {}, p);
    const auto regions = all.at("regions").regions;
    for (std::size_t i = 0; i < regions->count(); ++i) {
      const float tone = all.at("grey").strand[0]->at(static_cast<int>(regions->centre_u[i] * 256),
                                                      static_cast<int>(regions->centre_v[i] * 256));
      QVERIFY(std::abs(regions->size_u[i] * 4 - tone) < 1e-4f);  // a cell is a quarter wide
    }
  }
  // Common practice, no source: random size from -1 to 1, and half the stamps vanish.
  void negativeSizesStampNothingAndAreSeen() {
    Material m = edit::add_node(edit::empty_material(), catalogue(), "nested_scatter", "relief", 0, 0);
    m = edit::set_param(std::move(m), "nested_scatter", "size_4", Formula{"random(-1, 1)", {}});
    const auto graph = flatten(m, catalogue());
    QVERIFY(graph.ok());
    Weaver weaver(1 << 24);
    const auto spreads = spreads_of(weaver, *graph, 0, Stop{});
    const auto& sizes = spreads.at("size_4");
    QCOMPARE(sizes.size(), std::size_t{2 * 288});
    const auto below = static_cast<double>(std::count_if(sizes.begin(), sizes.end(), [](float x) { return x < 0; })) /
                       static_cast<double>(sizes.size());
    QVERIFY(std::abs(below - 0.5) < 0.08);
    const auto laid = weave_alone(nested(), 64, {}, {{"size_4", Formula{"random(-1, 1)", {}}}}).at("regions").regions;
    QVERIFY(std::abs(static_cast<double>(laid->count()) / 256 - 0.5) < 0.1);
  }
  void fullRangeReachesNoughtAndOne() {
    Resolved p;
    p["background"] = 0.2;
    p["full_range"] = 1.0;
    const Range r = range_of(*weave_alone(nested(), 256, {}, p).at("height").strand[0]);
    QVERIFY(std::abs(r.least) < 1e-5f && std::abs(r.most - 1) < 1e-5f);
  }
  void tooManyCellsEndTheDivisionAndAreTold() {
    Resolved p{{"levels", 4.0}};
    for (const char* id : {"across_1", "down_1", "across_2", "down_2", "across_3", "down_3"}) p[id] = 64.0;
    const std::string note = nested().note(NodeCall(nested(), p, 1, 64, {}));
    QVERIFY2(note.find("Level 2") != std::string::npos, note.c_str());
  }

  // ---- lists ----

  void itemsAreAddedCopiedMovedAndRemoved() {
    Material m = edit::add_node(edit::empty_material(), catalogue(), "layers", "relief", 0, 0);
    for (const char* type : {"value", "gradient_noise", "bands"})
      m = edit::add_node(std::move(m), catalogue(), type, "relief", 1, 0);
    m = edit::connect(std::move(m), {"gradient_noise", "value", "layers", "layer_1"});
    m = edit::connect(std::move(m), {"bands", "mask", "layers", "layer_2"});
    m = edit::connect(std::move(m), {"value", "value", "layers", "mask_2"});
    m = edit::set_param(std::move(m), "layers", "mode_2", std::string("multiply"));
    m = edit::set_param(std::move(m), "layers", "amount_1", Formula{"1 / 3", {}});
    const auto from = [](const Material& x, const char* peg) {
      return x.into("layers", peg) ? x.into("layers", peg)->from_node : std::string();
    };

    const Material swapped = edit::arrange_items(m, catalogue(), "layers", {2, 1});
    QCOMPARE(from(swapped, "layer_1"), std::string("bands"));
    QCOMPARE(from(swapped, "mask_1"), std::string("value"));
    QCOMPARE(from(swapped, "mask_2"), std::string());
    QVERIFY(std::get<std::string>(swapped.node("layers")->params.at("mode_1")) == "multiply");
    QVERIFY(std::holds_alternative<Formula>(swapped.node("layers")->params.at("amount_2")));
    QCOMPARE(swapped.node("layers")->params.count("mode_2"), std::size_t{0});

    const Material copied = edit::arrange_items(m, catalogue(), "layers", {1, 1, 2, 0});
    QCOMPARE(std::get<double>(copied.node("layers")->params.at("count")), 4.0);
    QCOMPARE(from(copied, "layer_2"), std::string("gradient_noise"));
    QVERIFY(std::holds_alternative<Formula>(copied.node("layers")->params.at("amount_2")));
    QCOMPARE(from(copied, "layer_3"), std::string("bands"));
    QCOMPARE(from(copied, "layer_4"), std::string());

    const Material removed = edit::arrange_items(copied, catalogue(), "layers", {3});
    QCOMPARE(from(removed, "layer_1"), std::string("bands"));
    QCOMPARE(from(removed, "layer_2"), std::string());
    QVERIFY2(validate(removed, catalogue()).empty(),
             validate(removed, catalogue()).empty() ? "" : validate(removed, catalogue()).front().text().c_str());
    // There and back again is the same document.
    QCOMPARE(write_material(edit::arrange_items(swapped, catalogue(), "layers", {2, 1})),
             write_material(edit::arrange_items(m, catalogue(), "layers", {1, 2})));
  }
  void aLevelKeepsItsOwnStartWhenItMoves() {
    Material m = edit::add_node(edit::empty_material(), catalogue(), "nested_scatter", "relief", 0, 0);
    m = edit::arrange_items(std::move(m), catalogue(), "nested_scatter",
                            {4, 1, 2, 3});  // the fourth begins with a motif, the first has none
    QCOMPARE(std::get<double>(m.node("nested_scatter")->params.at("motif_1")), 1.0);
    QCOMPARE(std::get<double>(m.node("nested_scatter")->params.at("motif_4")), 0.0);
  }
  void tooManyItemsAreCut() {
    Material m = edit::add_node(edit::empty_material(), catalogue(), "layers", "relief", 0, 0);
    m = edit::arrange_items(std::move(m), catalogue(), "layers", std::vector<int>(40, 0));
    QCOMPARE(std::get<double>(m.node("layers")->params.at("count")), 12.0);
  }
};

QTEST_GUILESS_MAIN(TestNested)
#include "tst_nested.moc"
