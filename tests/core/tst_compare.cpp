// What changed between two documents: every edit is told by its meaning, and what it does to the maps.
#include <QtTest>
#include <cmath>

#include "core/bolt/compare.h"
#include "core/bolt/package.h"
#include "core/graph/edit.h"
#include "core/graph/groups.h"
#include "core/graph/hem.h"
#include "core/nodes/catalogue.h"

using namespace loom;

class TestCompare : public QObject {
  Q_OBJECT
  static Material demo() { return *open_material(LOOM_DEMO "/quay-floor.loom"); }
  static std::string told(const std::vector<Change>& all) {
    std::string text;
    for (const Change& c : all) text += c.what + " | " + c.where + " | " + c.before + " | " + c.after + "\n";
    return text;
  }
  static Comparison compared(const Material& a, const Material& b, bool pictures = false) {
    Weaver w(std::size_t{64} << 20);
    auto c = compare(a, b, catalogue(), w, 128, pictures, Stop{});
    if (!c) qFatal("%s", c.error().text().c_str());
    return *c;
  }

 private Q_SLOTS:
  void nothingDiffersFromItself() {
    for (const char* name : {"quay-floor", "copper-shingles", "net-loft", "bollard", "poster-sign"}) {
      const Material m = *open_material(std::string(LOOM_DEMO "/") + name + ".loom");
      QVERIFY2(changes(m, m).empty(), name);
    }
    QVERIFY(!compared(demo(), demo()).differs());
  }
  void everyEditIsTold_data() {
    QTest::addColumn<QString>("edit");
    QTest::addColumn<QString>("line");
    QTest::newRow("parameter") << "level"
                               << "parameter | node bare, softness | ";
    QTest::newRow("parameter of a choice") << "bond"
                                           << "parameter | node laid, bond | herringbone | running";
    QTest::newRow("name") << "name"
                          << "name | node bare | Bare clay mask | Clay where it is bare";
    QTest::newRow("thread cut") << "cut"
                                << "thread | into worn.a | ";
    QTest::newRow("node gone") << "gone"
                               << "node | node crust | cellular_noise | \n";
    QTest::newRow("node new") << "new"
                              << "node | node ramp |  | ramp";
    QTest::newRow("slot") << "slot"
                          << "slot | roughness | rough.result | 0.5";
    QTest::newRow("dial's setting") << "turned"
                                    << "value | value wear | 0.42 | 0.9";
    QTest::newRow("dial") << "dial"
                          << "dial | dial wear | ";
    QTest::newRow("preset") << "preset"
                            << "preset | preset Winter salt, salt | ";
    QTest::newRow("preset new") << "kept"
                                << "preset | preset Ebb | ";
    QTest::newRow("size") << "size"
                          << "measure | tile_metres | 2.0 | 3.0";
    QTest::newRow("imprint") << "imprint"
                             << "imprint | imprint | ";
    QTest::newRow("bypass") << "bypass"
                            << "bypass | node bare |  | yes";
  }
  void everyEditIsTold() {
    QFETCH(QString, edit);
    QFETCH(QString, line);
    Material m = demo();
    if (edit == "level") m = edit::set_param(std::move(m), "bare", "softness", 0.5);
    if (edit == "bond") m = edit::set_param(std::move(m), "laid", "bond", std::string("running"));
    if (edit == "name") m = edit::rename_node(std::move(m), "bare", "Clay where it is bare");
    if (edit == "cut") m = edit::disconnect(std::move(m), "worn", "a");
    if (edit == "gone") m = edit::remove_nodes(std::move(m), {"crust"});
    if (edit == "new") m = edit::add_node(std::move(m), catalogue(), "ramp", "relief", 0, 30);
    if (edit == "slot") m.hem.erase("roughness"), m.hem_values["roughness"] = 0.5;
    if (edit == "turned") m = edit::set_value(std::move(m), "wear", 0.9);
    if (edit == "dial") {
      Dial d = *m.value("wear")->dial;
      d.label = "Footfall";
      m = edit::set_dial(std::move(m), "wear", d);
    }
    if (edit == "preset") m.presets[2].values["salt"] = 0.01;
    if (edit == "kept") m = edit::keep_preset(std::move(m), "Ebb");
    if (edit == "size") m.tile_metres = 3;
    if (edit == "imprint") m.imprint.version = "1.1";
    if (edit == "bypass") m = edit::set_bypass(std::move(m), "bare", true);
    const std::string all = told(changes(demo(), m));
    QVERIFY2(all.find(line.toStdString()) != std::string::npos, all.c_str());
    QVERIFY(changes(m, m).empty());
    // The other way round before and after change places.
    const auto there = changes(demo(), m), back = changes(m, demo());
    QCOMPARE(there.size(), back.size());
    for (const Change& c : there)
      QVERIFY2(std::find(back.begin(), back.end(), Change{c.what, c.where, c.after, c.before}) != back.end(),
               c.where.c_str());
  }
  void whereThingsStandIsNoChange() {
    Material m = demo();
    auto moved = std::make_shared<Node>(*m.nodes[3]);
    moved->row += 7;
    m.nodes[3] = moved;
    m.notes_on["bare"] = "look here";
    m.marks["q"] = "bare.mask";
    QVERIFY(changes(demo(), m).empty());
  }
  void whatIsInAGroupIsToldWithIt() {
    std::string id;
    const auto folded = edit::fold(demo(), catalogue(), {"bare", "worn"}, "Worn away", &id);
    QVERIFY(folded);
    Material m = *folded;
    auto g = std::make_shared<Group>(*m.groups[0]);
    for (NodePtr& n : g->nodes)
      if (n->id == "bare") {
        auto fresh = std::make_shared<Node>(*n);
        fresh->params["softness"] = 0.7;
        n = fresh;
      }
    m.groups[0] = g;
    const std::string all = told(changes(*folded, m));
    QVERIFY2(all.find("parameter | group " + g->id + ", node bare, softness | ") != std::string::npos, all.c_str());
    QCOMPARE(std::count(all.begin(), all.end(), '\n'), 1);
  }
  // A typed value beside another: the difference is known.
  void theResultIsMeasured() {
    Material a = demo(), b = demo();
    for (Material* m : {&a, &b}) m->hem.erase("roughness");
    a.hem_values["roughness"] = 0.25;
    b.hem_values["roughness"] = 0.5;
    b.hem.erase("occlusion");
    b = edit::set_of_hem(std::move(b), "opacity", 0.5);
    const Comparison c = compared(a, b, true);
    std::map<std::string, SlotDifference> by;
    for (const SlotDifference& d : c.slots) by[d.slot] = d;
    QCOMPARE(by.size(), std::size_t{3});
    QVERIFY(std::abs(by["roughness"].rms - 0.25) < 1e-6 && by["roughness"].share == 1);
    QVERIFY(by["occlusion"].before && !by["occlusion"].after);
    QVERIFY(!by["opacity"].before && by["opacity"].after);
    const std::string page = comparison_page({{"a < b", c}});
    QVERIFY(page.find("a &lt; b") != std::string::npos);
    QVERIFY(page.find("data:image/png;base64,iVBOR") != std::string::npos);
    for (const char* outside : {"http", "<script", "href", "url("})
      QVERIFY2(page.find(outside) == std::string::npos, outside);
  }
};

QTEST_GUILESS_MAIN(TestCompare)
#include "tst_compare.moc"
