// Groups: folding and taking apart change nothing that is woven; the inside is edited as a material of its own.
#include <QtTest>
#include <random>

#include "core/bolt/package.h"
#include "core/graph/groups.h"
#include "core/graph/json.h"
#include "core/graph/rework.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"
#include "core/weave/flatten.h"

using namespace loom;

class TestGroups : public QObject {
  Q_OBJECT
  // noise -> tone -> dye -> base colour; the tone is the roughness too, a second noise mixes in.
  static Material cloth() {
    Material m = edit::empty_material();
    int row = 0;
    for (const char* type : {"gradient_noise", "tone", "dye", "blend", "cellular_noise"})
      m = edit::add_node(std::move(m), catalogue(), type, "relief", 0, row++);
    m = edit::connect(std::move(m), {"gradient_noise", "value", "tone", "value"});
    m = edit::connect(std::move(m), {"tone", "value", "dye", "value"});
    m = edit::connect(std::move(m), {"dye", "colour", "blend", "lower"});
    m = edit::connect(std::move(m), {"cellular_noise", "nearest", "blend", "mask"});
    m = edit::set_hem(std::move(m), "base_colour", "blend.result");
    return edit::set_hem(std::move(m), "roughness", "tone.value");
  }
  // What a material weaves, without weaving it: the content keys of what the hem's slots show.
  static std::map<std::string, std::pair<Key, int>> woven(const Material& m) {
    std::map<std::string, std::pair<Key, int>> keys;
    const auto g = flatten(m, catalogue());
    if (!g) qWarning("%s", g.error().text().c_str());
    if (g)
      for (const auto& [slot, ref] : g->hem)
        keys[slot] = {g->nodes[static_cast<std::size_t>(ref.node)].key, ref.output};
    return keys;
  }
  static Material folded(const Material& m, const std::vector<std::string>& nodes, std::string* id = nullptr) {
    auto next = edit::fold(m, catalogue(), nodes, "Thread bare", id);
    if (!next) qFatal("%s", next.error().text().c_str());
    return *next;
  }

 private Q_SLOTS:
  void foldingMakesPegsOfTheCutThreads() {
    std::string id;
    const Material m = folded(cloth(), {"tone", "dye"}, &id);
    QVERIFY2(validate(m, catalogue()).empty(),
             validate(m, catalogue()).empty() ? "" : validate(m, catalogue()).front().text().c_str());
    const Group* g = m.group("thread_bare");
    QVERIFY(g && m.node(id) && !m.node("tone"));
    QCOMPARE(g->inputs.size(), std::size_t{1});
    QCOMPARE(g->inputs[0].kind, std::string("scalar"));
    QCOMPARE(g->outputs.size(), std::size_t{2});
    QCOMPARE(m.hem.at("roughness"), id + ".value");
    QCOMPARE(m.into("blend", "lower")->from_node, id);
    QCOMPARE(outputs_of(m, catalogue(), *m.node(id))[0].kind, Kind::colour);
  }
  void whatIsWovenStaysTheSame() {
    const Material m = cloth();
    const auto before = woven(m);
    QCOMPARE(before.size(), std::size_t{2});
    for (const auto& chosen :
         std::vector<std::vector<std::string>>{{"tone"},
                                               {"tone", "dye"},
                                               {"gradient_noise", "tone", "dye", "blend"},
                                               {"gradient_noise", "tone", "dye", "blend", "cellular_noise"},
                                               {"cellular_noise", "gradient_noise"}}) {
      std::string id;
      const Material f = folded(m, chosen, &id);
      QCOMPARE(woven(f), before);
      QCOMPARE(woven(edit::take_apart(f, id)), before);
      QVERIFY(edit::take_apart(f, id).groups.empty());
    }
  }
  void chosenNodesOfTheDemosFoldAndUnfold() {
    std::mt19937 chance(7);
    int done = 0, refused = 0;
    for (const char* name : {"quay-floor", "copper-shingles", "terrazzo-bench", "net-loft", "slipway-setts"}) {
      const auto m = open_material(std::string(LOOM_DEMO) + "/" + name + ".loom");
      QVERIFY(m.ok());
      const auto before = woven(*m);
      for (int round = 0; round < 12; ++round) {
        std::vector<std::string> chosen;
        if (round % 4 == 0) {  // any nodes: mostly something lies between
          for (const NodePtr& n : m->nodes)
            if (chance() % 3 == 0) chosen.push_back(n->id);
        } else {  // what feeds one node without what feeds another: nothing can lie between
          const std::string a = m->nodes[chance() % m->nodes.size()]->id, b = m->nodes[chance() % m->nodes.size()]->id;
          const auto without = edit::upstream(*m, {b});
          chosen = edit::upstream(*m, {a});
          chosen.push_back(a);
          std::erase_if(chosen, [&](const std::string& id) {
            return id == b || std::find(without.begin(), without.end(), id) != without.end();
          });
        }
        std::string id;
        const auto f = edit::fold(*m, catalogue(), chosen, "Part", &id);
        if (!f) {
          ++refused;
          QVERIFY(!f.error().what.empty() && !f.error().mend.empty());
          continue;
        }
        ++done;
        QVERIFY2(validate(*f, catalogue()).empty(),
                 validate(*f, catalogue()).empty() ? "" : validate(*f, catalogue()).front().text().c_str());
        QCOMPARE(woven(*f), before);
        QCOMPARE(woven(edit::take_apart(*f, id)), before);
        QCOMPARE(woven(*read_material(write_material(*f))), before);
      }
    }
    QVERIFY2(done >= 10 && refused >= 5, qPrintable(QStringLiteral("%1 folded, %2 refused").arg(done).arg(refused)));
  }
  void aNodeBetweenIsNamed() {
    const auto f = edit::fold(cloth(), catalogue(), {"gradient_noise", "dye"}, "Group");
    QVERIFY(!f.ok());
    QVERIFY(f.error().where.find("tone") != std::string::npos && !f.error().mend.empty());
    QVERIFY(!edit::fold(cloth(), catalogue(), {}, "Group").ok());
  }
  void theInsideComesBackAsItWas() {
    std::string id;
    const Material m = folded(cloth(), {"tone", "dye"}, &id);
    const Material view = edit::inside_of(m, "thread_bare");
    QVERIFY(validate(view, catalogue()).empty());
    QCOMPARE(view.hem.size(), std::size_t{2});
    QVERIFY(view.node("in_value") && view.node("in_value")->type == kComesIn);
    QCOMPARE(write_material(edit::with_inside(m, catalogue(), "thread_bare", view)), write_material(m));
    QVERIFY2(
        !validate(edit::set_hem(edit::connect(view, {"in_value", "value", "dye", "value"}), "colour", "dye.colour"),
                  catalogue())
             .size(),
        "a view is edited like any material");
  }
  void aChangeInsideReachesEveryUse() {
    std::string id, second;
    Material m = folded(cloth(), {"tone", "dye"}, &id);
    m = edit::add_use(std::move(m), "thread_bare", "relief", 1, 0, &second);
    QCOMPARE(edit::uses_of(m, "thread_bare"), 2);
    m = edit::set_hem(std::move(m), "height", second + ".value");
    const auto before = woven(m);
    Material view = edit::set_param(edit::inside_of(m, "thread_bare"), "tone", "black", 0.2);
    const Material both = edit::with_inside(m, catalogue(), "thread_bare", view);
    QVERIFY(woven(both).at("height") != before.at("height") && woven(both).at("roughness") != before.at("roughness"));
    // A copy of its own stays apart.
    Material apart = edit::own_copy(m, second);
    QVERIFY(apart.node(second)->group != "thread_bare");
    QCOMPARE(woven(apart), before);
    apart = edit::with_inside(apart, catalogue(), "thread_bare",
                              edit::set_param(edit::inside_of(apart, "thread_bare"), "tone", "black", 0.2));
    QVERIFY(woven(apart).at("height") == before.at("height") && woven(apart).at("roughness") != before.at("roughness"));
  }
  void aDialInsideIsAParameterOfEveryUse() {
    std::string id, second, dial;
    Material m = folded(cloth(), {"tone", "dye"}, &id);
    Material view = edit::make_dial(edit::inside_of(m, "thread_bare"), catalogue(), "tone", "white", &dial);
    m = edit::with_inside(m, catalogue(), "thread_bare", view);
    QVERIFY(m.values.empty());
    const auto type = type_of(m, catalogue(), *m.node(id));
    QVERIFY(type->parameter(dial));
    QCOMPARE(type->parameter(dial)->label, catalogue().find("tone")->parameter("white")->label);
    const auto before = woven(m);
    m = edit::set_param(std::move(m), id, dial, 0.5);
    QVERIFY(woven(m) != before);
    // The instance's parameter may follow a value of the document, or be a formula of values.
    m.values.push_back({"half", 0.25, {}});
    const auto held = woven(edit::set_param(m, id, dial, 0.25));
    QCOMPARE(woven(edit::set_param(m, id, dial, Follow{"half"})), held);
    QCOMPARE(woven(edit::set_param(m, id, dial, Formula{"half * 2 - 0.25", {}})), held);
    // Taken apart, what the instance held is written into the nodes.
    QCOMPARE(woven(edit::take_apart(edit::set_param(m, id, dial, 0.25), id)), held);
  }
  void valuesOfTheDocumentAreSeenInside() {
    Material m = cloth();
    std::string dial;
    m = edit::make_dial(std::move(m), catalogue(), "tone", "black", &dial);
    const auto before = woven(m);
    std::string id;
    m = folded(m, {"tone", "dye"}, &id);
    QCOMPARE(woven(m), before);
    Material view = edit::inside_of(m, "thread_bare");
    QVERIFY(view.value(dial));
    m = edit::with_inside(m, catalogue(), "thread_bare", edit::set_value(view, dial, 0.1));
    QCOMPARE(std::get<double>(m.value(dial)->value), 0.1);
    QVERIFY(m.group("thread_bare")->values.empty());
  }
  void formulasOfGroupValuesSurviveBeingTakenApart() {
    Material m = edit::add_node(edit::empty_material(), catalogue(), "gradient_noise", "relief", 0, 0);
    m = edit::set_hem(std::move(m), "height", "gradient_noise.value");
    std::string id;
    m = folded(m, {"gradient_noise"}, &id);
    Material view = edit::inside_of(m, "thread_bare");
    view.values.push_back({"reach", 3.0, Dial{"Reach", "", "", 1, 9, 3.0}});
    view = edit::set_param(std::move(view), "gradient_noise", "scale", Formula{"reach * 2", {}});
    m = edit::with_inside(m, catalogue(), "thread_bare", view);
    m.values.push_back({"reach", 100.0, {}});  // another value of the same name outside
    m = edit::set_param(std::move(m), id, "reach", 4.0);
    const auto before = woven(m);
    const Material apart = edit::take_apart(m, id);
    QCOMPARE(woven(apart), before);
    QCOMPARE(std::get<double>(apart.value("reach")->value), 100.0);
  }
  void pegsComeAndGo() {
    std::string id;
    Material m = folded(cloth(), {"tone", "dye"}, &id);
    // An output that is gone takes its thread along; the roughness was read from it.
    Material view = edit::set_hem(edit::inside_of(m, "thread_bare"), "value", "");
    Material less = edit::with_inside(m, catalogue(), "thread_bare", view);
    QVERIFY(!less.hem.count("roughness") && less.into("blend", "lower"));
    QVERIFY(validate(less, catalogue()).empty());
    // An input that is gone, too.
    view = edit::remove_nodes(edit::inside_of(m, "thread_bare"), {"in_value"});
    less = edit::with_inside(m, catalogue(), "thread_bare", view);
    QVERIFY(inputs_of(less, catalogue(), *less.node(id)).empty() && !less.into(id, "value"));
    QVERIFY(validate(less, catalogue()).empty());
    // A new one is there for every use.
    view = edit::add_group_input(edit::inside_of(m, "thread_bare"), "Soot");
    view = edit::connect(std::move(view), {"in_soot", "value", "dye", "value"});
    const Material more = edit::with_inside(m, catalogue(), "thread_bare", view);
    QCOMPARE(inputs_of(more, catalogue(), *more.node(id)).back().label, std::string("Soot"));
    QVERIFY(validate(more, catalogue()).empty());
  }
  void threadsOfOneOutputBecomeOneWhateverTheirAlias() {
    Material m = edit::connect(cloth(), {"gradient_noise", "value", "blend", "upper"});
    m = edit::set_alias(std::move(m), "blend", "upper", true);
    const auto before = woven(m);
    const Material f = folded(m, {"tone", "dye", "blend"});
    QVERIFY2(validate(f, catalogue()).empty(),
             validate(f, catalogue()).empty() ? "" : validate(f, catalogue()).front().text().c_str());
    QCOMPARE(woven(f), before);
  }
  void groupsWithinGroups() {
    std::string inner, outer;
    Material m = folded(cloth(), {"tone", "dye"}, &inner);
    m.marks["t"] = inner + "/tone.value";
    const auto before = woven(m);
    m = *edit::fold(m, catalogue(), {inner, "blend"}, "Outer", &outer);
    QCOMPARE(woven(m), before);
    QCOMPARE(edit::uses_of(m, "thread_bare"), 1);
    QCOMPARE(m.marks.at("t"), outer + "/" + inner + "/tone.value");
    const auto g = flatten(m, catalogue());
    QVERIFY(g->find(outer + "/" + inner + "/tone.value"));
    QVERIFY(g->find(outer + "/" + inner + "/in_value.value"));
    QCOMPARE(woven(edit::take_apart(edit::take_apart(m, outer), inner)), before);
    QVERIFY(!edit::holds_itself(m));
    const Material ring = edit::with_inside(m, catalogue(), "thread_bare",
                                            edit::add_use(edit::inside_of(m, "thread_bare"), "outer", "relief", 0, 9));
    QVERIFY(edit::holds_itself(ring));
  }
  void pastedGroupsBringTheirDefinition() {
    std::string id;
    const Material m = folded(cloth(), {"tone", "dye"}, &id);
    std::vector<std::string> fresh;
    const auto snippet = read_snippet(write_snippet(m, {id}));
    QVERIFY(snippet.ok());
    Material other = edit::paste(edit::empty_material(), *snippet, "relief", 0, 0, &fresh);
    QVERIFY(validate(other, catalogue()).empty());
    QCOMPARE(other.groups.size(), std::size_t{1});
    other = edit::paste(std::move(other), *snippet, "relief", 0, 4, &fresh);
    QCOMPARE(other.groups.size(), std::size_t{1});  // the same definition is shared
    // One that only has the same name gets another.
    const Material changed = edit::with_inside(
        m, catalogue(), "thread_bare", edit::set_param(edit::inside_of(m, "thread_bare"), "tone", "black", 0.4));
    other = edit::paste(std::move(other), *read_snippet(write_snippet(changed, {id})), "relief", 0, 8, &fresh);
    QCOMPARE(other.groups.size(), std::size_t{2});
    QVERIFY(validate(other, catalogue()).empty());
  }
  void marksNotesAndStagesAreKept() {
    Material m = cloth();
    m.marks["a"] = "dye.colour";
    m = edit::set_note(std::move(m), "dye", "as the old one faded");
    m = edit::set_stage(std::move(m), 2, "Colour");
    m = edit::set_alias(std::move(m), "blend", "mask", true);
    const auto again = read_material(write_material(m));
    QVERIFY(again.ok());
    QCOMPARE(write_material(*again), write_material(m));
    QCOMPARE(again->marks.at("a"), std::string("dye.colour"));
    QCOMPARE(again->stages.at(0).name, std::string("Colour"));
    QVERIFY(again->into("blend", "mask")->alias);
    std::string id;
    const Material f = folded(m, {"tone", "dye"}, &id);
    QCOMPARE(f.marks.at("a"), id + "/dye.colour");
    QCOMPARE(f.group("thread_bare")->notes_on.at("dye"), std::string("as the old one faded"));
    const Material apart = edit::take_apart(f, id);
    QCOMPARE(apart.marks.at("a"), std::string("dye.colour"));
    QCOMPARE(apart.notes_on.at("dye"), std::string("as the old one faded"));
    QVERIFY(edit::set_note(m, "dye", "").notes_on.empty() && edit::set_stage(m, 2, "").stages.empty());
  }
  void tidyKeepsNodesInTheirStages() {
    Material m = edit::empty_material();
    for (int i = 0; i < 6; ++i)
      m = edit::add_node(std::move(m), catalogue(), i % 2 ? "tone" : "gradient_noise", i < 3 ? "relief" : "colour", 0,
                         2 * i);
    m = edit::connect(std::move(m), {"gradient_noise", "value", "tone", "value"});
    m = edit::set_stage(edit::set_stage(std::move(m), 0, "Shape"), 5, "Wear");
    m = edit::set_stage(std::move(m), 9, "Last");
    const auto stage = [](const Material& at, const std::string& node) {
      std::string name;
      for (const Stage& s : at.stages)
        if (s.row <= at.node(node)->row) name = s.name;
      return name;
    };
    const Material t = edit::tidy(m);
    for (const NodePtr& n : m.nodes) QCOMPARE(stage(t, n->id), stage(m, n->id));
    QCOMPARE(t.stages.size(), m.stages.size());
    QVERIFY(t.stages[1].row > 1 && t.stages[1].row < 5);
    QCOMPARE(write_material(edit::tidy(t)), write_material(t));
  }
};

QTEST_GUILESS_MAIN(TestGroups)
#include "tst_groups.moc"
