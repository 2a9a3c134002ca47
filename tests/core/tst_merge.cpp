// Two descendants of one document: what each changed is in it, what both changed is ours and named.
#include <QtTest>

#include "core/bolt/package.h"
#include "core/graph/edit.h"
#include "core/graph/groups.h"
#include "core/graph/json.h"
#include "core/graph/merge.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"

using namespace loom;

class TestMerge : public QObject {
  Q_OBJECT
  Material base_ = *open_material(LOOM_DEMO "/quay-floor.loom");

  static Merged merged(const Material& base, const Material& ours, const Material& theirs) {
    auto found = merge(write_material(base), write_material(ours), write_material(theirs), catalogue());
    return found ? std::move(found).value() : Merged{{}, {found.error()}};
  }
  static QString told(const Merged& m) {
    QStringList all;
    for (const Error& e : m.clashes) all << QString::fromStdString(e.text());
    return all.join(QLatin1Char('\n'));
  }
  Material with(const char* node, const char* param, const ParamValue& value) const {
    return edit::set_param(base_, node, param, value);
  }

 private Q_SLOTS:
  void oneSideAloneIsTaken() {
    const Material other = with("wave", "scale", 12.0);
    for (const auto& [ours, theirs] : {std::pair(base_, other), {other, base_}, {other, other}}) {
      const Merged m = merged(base_, ours, theirs);
      QVERIFY2(m.clashes.empty(), qPrintable(told(m)));
      QCOMPARE(write_material(m.material), write_material(other));
    }
  }

  // Different nodes, and different things of one node, its place among them.
  void differentThingsMerge() {
    const Material ours = edit::rename_node(with("wave", "scale", 12.0), "sand", "Grit");
    Material theirs = edit::set_value(with("wave", "gain", 0.7), "wear", 0.9);
    theirs = edit::place_nodes(std::move(theirs), {{"wave", "glaze", 3, 9}});
    theirs = edit::keep_preset(std::move(theirs), "Storm");
    theirs.notes = "New notes";
    const Merged m = merged(base_, ours, theirs);
    QVERIFY2(m.clashes.empty(), qPrintable(told(m)));
    const Node& wave = *m.material.node("wave");
    QCOMPARE(std::get<double>(wave.params.at("scale")), 12.0);
    QCOMPARE(std::get<double>(wave.params.at("gain")), 0.7);
    QVERIFY(wave.lane == "glaze" && wave.column == 3 && wave.row == 9);
    QCOMPARE(m.material.node("sand")->name, std::string("Grit"));
    QCOMPARE(std::get<double>(m.material.value("wear")->value), 0.9);
    QCOMPARE(m.material.presets.back().name, std::string("Storm"));
    QCOMPARE(m.material.notes, std::string("New notes"));
    // The other way about it is the same material.
    QCOMPARE(write_material(merged(base_, theirs, ours).material), write_material(m.material));
  }

  void clashesAreNamedAndOurs() {
    const Merged m = merged(base_, with("wave", "scale", 12.0), with("wave", "scale", 3.0));
    QCOMPARE(m.clashes.size(), std::size_t{1});
    QVERIFY2(
        m.clashes[0].where.find("wave") != std::string::npos && m.clashes[0].where.find("scale") != std::string::npos,
        m.clashes[0].where.c_str());
    QVERIFY(m.clashes[0].what.find("12") != std::string::npos && m.clashes[0].what.find("3.0") != std::string::npos);
    QCOMPARE(std::get<double>(m.material.node("wave")->params.at("scale")), 12.0);
  }

  // The one took a node away that the other turned, or led a thread to.
  void whatIsGoneIsNoEnd() {
    const Material without = edit::remove_nodes(base_, {"wave"});
    const Merged kept = merged(base_, with("wave", "scale", 12.0), without);
    QVERIFY(kept.material.node("wave") && !kept.clashes.empty());
    const Merged gone = merged(base_, without, with("wave", "scale", 12.0));
    QVERIFY(!gone.material.node("wave") && gone.clashes.size() == 1);
    Material led = edit::add_node(base_, catalogue(), "invert", "relief", 5, 5);
    led = edit::connect(std::move(led), {"wave", "value", "invert", "value"});
    led = edit::set_hem(std::move(led), "metallic", "wave.value");
    const Merged loose = merged(base_, without, led);
    QCOMPARE(loose.clashes.size(), std::size_t{2});  // the thread, and the slot
    QVERIFY(loose.material.node("invert") && !loose.material.hem.count("metallic"));
    QVERIFY2(validate(loose.material, catalogue()).empty(), "what is merged can be woven");
  }

  // Both made a node of the same type: two nodes that are called alike and are not one.
  void namesThatBothGaveAreToldApart() {
    const auto made = [&](const char* slot, double value) {
      Material m = edit::add_node(base_, catalogue(), "invert", "relief", 7, 7);
      m = edit::set_param(std::move(m), "invert", "value", value);
      m = edit::make_dial(std::move(m), catalogue(), "invert", "value");
      return edit::set_hem(std::move(m), slot, "invert.value");
    };
    const Merged m = merged(base_, made("metallic", 0.25), made("opacity", 0.75));
    QVERIFY2(m.clashes.empty(), qPrintable(told(m)));
    QCOMPARE(m.material.nodes.size(), base_.nodes.size() + 2);
    QCOMPARE(m.material.values.size(), base_.values.size() + 2);
    const std::string metal = m.material.hem.at("metallic"), open = m.material.hem.at("opacity");
    QVERIFY(metal != open);
    const auto value_of = [&](const std::string& output) {
      const Follow* follow = followed(*m.material.node(split_output(output).first), "value");
      return std::get<double>(m.material.value(follow->value)->value);
    };
    QCOMPARE(value_of(metal), 0.25);
    QCOMPARE(value_of(open), 0.75);
    // They came into one place: one of them moved down.
    const Node *a = m.material.node(split_output(metal).first), *b = m.material.node(split_output(open).first);
    QVERIFY(std::tie(a->lane, a->column, a->row) != std::tie(b->lane, b->column, b->row));
    QVERIFY(validate(m.material, catalogue()).empty());
    // The same node taken over on both sides stays one.
    const Merged once = merged(base_, made("metallic", 0.25), made("metallic", 0.25));
    QCOMPARE(once.material.nodes.size(), base_.nodes.size() + 1);
  }

  void noRingCloses() {
    Material m = edit::empty_material();
    for (int i = 0; i < 2; ++i) m = edit::add_node(std::move(m), catalogue(), "invert", m.lanes[0].id, i, 0);
    const std::string a = m.nodes[0]->id, b = m.nodes[1]->id;
    const Merged ring =
        merged(m, edit::connect(m, {a, "value", b, "value"}), edit::connect(m, {b, "value", a, "value"}));
    QCOMPARE(ring.clashes.size(), std::size_t{1});
    QCOMPARE(ring.material.threads.size(), std::size_t{1});
    QCOMPARE(ring.material.threads[0].from_node, a);
    QVERIFY(validate(ring.material, catalogue()).empty());
  }

  // Within a group as in the whole.
  void groupsMergeWithin() {
    const auto folded = edit::fold(base_, catalogue(), {"wave", "waved"}, "Waves");
    QVERIFY(folded.ok());
    const Material& whole = *folded;
    const Group& group = *whole.groups[0];
    const auto turned = [&](std::size_t node, const char* name) {
      Material m = whole;
      auto fresh = std::make_shared<Group>(group);
      auto n = std::make_shared<Node>(*fresh->nodes[node]);
      n->name = name;
      fresh->nodes[node] = n;
      m.groups[0] = fresh;
      return m;
    };
    QVERIFY(group.nodes.size() > 1);
    const Merged m = merged(whole, turned(0, "Ours"), turned(1, "Theirs"));
    QVERIFY2(m.clashes.empty(), qPrintable(told(m)));
    QCOMPARE(m.material.groups[0]->nodes[0]->name, std::string("Ours"));
    QCOMPARE(m.material.groups[0]->nodes[1]->name, std::string("Theirs"));
    QVERIFY(!merged(whole, turned(0, "Ours"), turned(0, "Theirs")).clashes.empty());
  }

  void whatIsNoDocumentIsSaid() {
    const std::string good = write_material(base_);
    for (int bad = 0; bad < 3; ++bad) {
      const auto m = merge(bad == 0 ? "{" : good, bad == 1 ? "[]" : good, bad == 2 ? "" : good, catalogue());
      QVERIFY(!m.ok());
      QCOMPARE(m.error().where, std::string(bad == 0 ? "BASE" : bad == 1 ? "OURS" : "THEIRS"));
    }
  }
};

QTEST_GUILESS_MAIN(TestMerge)
#include "tst_merge.moc"
