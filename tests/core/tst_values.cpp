// Values that hold formulas over others, and what becomes of whoever follows a value that is renamed or removed.
#include <QtTest>

#include "core/graph/edit.h"
#include "core/graph/groups.h"
#include "core/graph/json.h"
#include "core/graph/validate.h"
#include "core/graph/worked_values.h"
#include "core/nodes/catalogue.h"
#include "core/program/formula.h"
#include "core/weave/flatten.h"

using namespace loom;

class TestValues : public QObject {
  Q_OBJECT
  // A threshold whose level follows a value, and a Formula-held softness.
  static Material rope() {
    Material m = edit::empty_material();
    m = edit::add_node(std::move(m), catalogue(), "gradient_noise", "relief", 0, 0);
    m = edit::add_node(std::move(m), catalogue(), "threshold", "relief", 0, 1);
    m = edit::connect(std::move(m), {"gradient_noise", "value", "threshold", "value"});
    m.values = {
        {"strand", 0.25, {}}, {"rope", Formula{"strand * 3", {}}, {}}, {"hawser", Formula{"rope + strand", {}}, {}}};
    m = edit::set_param(std::move(m), "threshold", "level", Follow{"rope"});
    return edit::set_param(std::move(m), "threshold", "softness", Formula{"hawser / 10", {}});
  }
  static double param(const Material& m, const char* id) {
    const auto g = flatten(m, catalogue());
    if (!g) qWarning("%s", g.error().text().c_str());
    for (const FlatNode& n : g->nodes)
      if (n.type->id == "threshold") return std::get<double>(n.params.at(id));
    return -1;
  }
  static std::string fault(const Material& m) {
    const auto all = validate(m, catalogue());
    return all.empty() ? "" : all.front().text();
  }

 private Q_SLOTS:
  void formulasAreWorkedOutInAnyOrder() {
    const auto worked = work_out({{"c", Formula{"a + b", {}}, {}},
                                  {"b", Formula{"2 * a", {}}, {}},
                                  {"a", 3.0, {}},
                                  {"word", std::string("smooth"), {}}});
    QVERIFY(worked.faults.empty());
    QCOMPARE(worked.numbers, (std::map<std::string, double>{{"a", 3}, {"b", 6}, {"c", 9}}));
  }
  void longChainsAndDiamondsTakeNoTime() {  // worked out once each: the ways through them double at every step
    std::vector<Value> all{{"v0", 1.0, {}}};
    for (int i = 1; i < 60; ++i)
      all.push_back({"v" + std::to_string(i),
                     Formula{"(v" + std::to_string(i - 1) + " + v" + std::to_string(i - 1) + ") / 2", {}},
                     {}});
    QCOMPARE(work_out(all).numbers.at("v59"), 1.0);
  }
  void circlesAreRefusedWithTheirPath() {
    Material m = rope();
    m.values[0].value = Formula{"hawser - 1", {}};
    const std::string text = fault(m);
    QVERIFY2(text.find("circle") != std::string::npos, text.c_str());
    for (const char* id : {"strand", "rope", "hawser"}) QVERIFY2(text.find(id) != std::string::npos, text.c_str());
    m.values[0].value = Formula{"strand", {}};
    QVERIFY(fault(m).find("strand > strand") != std::string::npos);
  }
  void whatIsWrongWithAFormulaIsToldByItsCharacter() {
    Material m = rope();
    m.values[1].value = Formula{"strand * cord", {}};
    const auto all = validate(m, catalogue());
    QVERIFY(!all.empty());
    QCOMPARE(all.front().where, std::string("value rope, character 10"));
    m.values[1].value = Formula{"strand *", {}};
    QCOMPARE(validate(m, catalogue()).front().where, std::string("value rope, character 9"));
  }
  void aDialIsNoFormula() {
    Material m = rope();
    m.values[1].dial = Dial{"Rope", "", "", 0, 1, 0.5};
    QVERIFY(fault(m).find("cannot be a dial") != std::string::npos);
  }
  void parametersGetWhatTheyComeTo() {
    QCOMPARE(fault(rope()), std::string());
    QCOMPARE(param(rope(), "level"), 0.75);
    QVERIFY(std::abs(param(rope(), "softness") - 0.1) < 1e-6);
    QCOMPARE(param(edit::set_value(rope(), "strand", 0.1), "level"), evaluate_formula("0.1 * 3", {}).value());
  }
  void withinAGroupTheValuesAroundAreKnown() {
    std::string id;
    Material m = *edit::fold(rope(), catalogue(), {"gradient_noise", "threshold"}, "Knot", &id);
    QCOMPARE(param(m, "level"), 0.75);
    Material inside = edit::inside_of(m, m.node(id)->group);
    inside.values.push_back({"splice", Formula{"strand * 2", {}}, {}});
    inside = edit::set_param(std::move(inside), "threshold", "level", Follow{"splice"});
    m = edit::with_inside(m, catalogue(), m.node(id)->group, inside);
    QCOMPARE(fault(m), std::string());
    QCOMPARE(param(m, "level"), 0.5);
  }
  void takenApartAGroupLeavesWhatItsFormulasCameTo() {
    std::string id;
    Material m = *edit::fold(rope(), catalogue(), {"gradient_noise", "threshold"}, "Knot", &id);
    Material inside = edit::inside_of(m, m.node(id)->group);
    inside.values.push_back({"turns", 2.0, {}});
    inside.values.push_back({"splice", Formula{"strand * turns", {}}, {}});
    inside = edit::set_param(std::move(inside), "threshold", "level", Follow{"splice"});
    inside = edit::set_param(std::move(inside), "threshold", "softness", Formula{"splice / 10", {}});
    m = edit::with_inside(m, catalogue(), m.node(id)->group, inside);
    QCOMPARE(param(m, "level"), 0.5);
    const Material apart = edit::take_apart(m, id);
    QCOMPARE(fault(apart), std::string());
    QCOMPARE(param(apart, "level"), 0.5);
    QVERIFY(std::abs(param(apart, "softness") - 0.05) < 1e-6);
  }
  void aChainWithoutEndIsRefused() {  // and does not take the stack with it
    std::vector<Value> all{{"v0", 1.0, {}}};
    for (int i = 1; i < 20000; ++i)
      all.push_back({"v" + std::to_string(i), Formula{"v" + std::to_string(i - 1) + " + 1", {}}, {}});
    std::reverse(all.begin(), all.end());
    QVERIFY(!work_out(all).faults.empty());
  }
  void aRenamedValueIsFollowedStill() {
    Material m = rope();
    m.presets.push_back({"Thin", {{"strand", 0.1}}});
    const Material r = edit::rename_value(m, "strand", "yarn");
    QCOMPARE(fault(r), std::string());
    QVERIFY(!r.value("strand") && r.value("yarn"));
    QCOMPARE(std::get<Formula>(r.value("rope")->value).text, std::string("yarn * 3"));
    QCOMPARE(r.presets[0].values.count("yarn"), std::size_t{1});
    QCOMPARE(param(r, "level"), param(m, "level"));
    // Not to a name that is taken or is none.
    QVERIFY(edit::rename_value(m, "strand", "rope").value("strand"));
    QVERIFY(edit::rename_value(m, "strand", "Two words").value("strand"));
  }
  void aRenamedValueIsFollowedFromWithinGroups() {
    std::string id;
    const Material m = *edit::fold(rope(), catalogue(), {"gradient_noise", "threshold"}, "Knot", &id);
    const Material r = edit::rename_value(m, "rope", "line");
    QCOMPARE(fault(r), std::string());
    QCOMPARE(param(r, "level"), 0.75);
    const Material gone = edit::remove_value(m, "rope");
    QCOMPARE(fault(gone), std::string());
    QCOMPARE(param(gone, "level"), 0.75);
  }
  void aRemovedValueLeavesItsNumber() {
    const Material m = edit::remove_value(rope(), "rope");
    QCOMPARE(fault(m), std::string());
    QCOMPARE(param(m, "level"), 0.75);
    QCOMPARE(std::get<Formula>(m.value("hawser")->value).text, std::string("0.75 + strand"));
    Material below = rope();
    below.values[0].value = -0.25;  // a sign of its own stays within brackets
    QCOMPARE(std::get<Formula>(edit::remove_value(below, "rope").value("hawser")->value).text,
             std::string("(-0.75) + strand"));
  }
  void theyAreWrittenAndReadBack() {
    const auto back = read_material(write_material(rope()));
    QVERIFY(back.ok());
    QCOMPARE(std::get<Formula>(back->value("hawser")->value).text, std::string("rope + strand"));
    QCOMPARE(param(*back, "level"), 0.75);
  }
  void namesAreReplacedWholeOnly() {
    std::string text = "edge + edges * edge_2 - sin(edge)";
    QVERIFY(replace_name(text, "edge", "rim"));
    QCOMPARE(text, std::string("rim + edges * edge_2 - sin(rim)"));
    QVERIFY(!replace_name(text, "edge", "rim"));
  }
};

QTEST_GUILESS_MAIN(TestValues)
#include "tst_values.moc"
