// Edits: from one material to the next, without touching the one before.
#include <QtTest>
#include <set>

#include "core/graph/edit.h"
#include "core/graph/json.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"

using namespace loom;

class TestEdit : public QObject {
  Q_OBJECT
  static Material two() {
    Material m = edit::add_node(edit::empty_material(), catalogue(), "gradient_noise", "relief", 0, 0);
    m = edit::add_node(std::move(m), catalogue(), "blur", "relief", 0, 1);
    return edit::connect(std::move(m), {"gradient_noise", "value", "blur", "source"});
  }

 private Q_SLOTS:
  void theStateBeforeStays() {
    const Material before = two();
    const std::string text = write_material(before);
    const Material after = edit::set_param(edit::remove_nodes(before, {"blur"}), "gradient_noise", "scale", 9.0);
    QCOMPARE(write_material(before), text);
    QCOMPARE(after.nodes.size(), std::size_t{1});
    QVERIFY(after.threads.empty());
    // What was not touched is shared.
    const Material moved = edit::place_nodes(before, {{"blur", "colour", 0, 3}});
    QVERIFY(moved.nodes[0].get() == before.nodes[0].get());
    QVERIFY(moved.nodes[1].get() != before.nodes[1].get());
  }
  void newNodesGetUnusedIdentifiersSeedsAndRows() {
    Material m = two();
    std::string id;
    m = edit::add_node(std::move(m), catalogue(), "gradient_noise", "relief", 0, 0, &id);
    QCOMPARE(id, std::string("gradient_noise_2"));
    QVERIFY(std::get<double>(m.node(id)->params.at("seed")) !=
            std::get<double>(m.node("gradient_noise")->params.at("seed")));
    QCOMPARE(m.node(id)->row, 2);
    QVERIFY(validate(m, catalogue()).empty());
  }
  void aPegTakesOneThread() {
    Material m = edit::add_node(two(), catalogue(), "value", "relief", 1, 0);
    m = edit::connect(std::move(m), {"value", "value", "blur", "source"});
    QCOMPARE(m.threads.size(), std::size_t{1});
    QCOMPARE(m.threads[0].from_node, std::string("value"));
  }
  void removingANodeUnplugsTheHem() {
    const Material m = edit::remove_nodes(edit::set_hem(two(), "height", "blur.result"), {"blur"});
    QVERIFY(m.hem.empty());
    QVERIFY(validate(m, catalogue()).empty());
  }
  void copiesKeepTheirSeedAndTheirThreads() {
    std::vector<std::string> fresh;
    const Material m = edit::duplicate(two(), {"gradient_noise", "blur"}, false, &fresh);
    QCOMPARE(fresh.size(), std::size_t{2});
    QCOMPARE(m.threads.size(), std::size_t{2});
    QCOMPARE(std::get<double>(m.node(fresh[0])->params.at("seed")),
             std::get<double>(m.node("gradient_noise")->params.at("seed")));
    const Material with = edit::duplicate(two(), {"blur"}, true);
    QCOMPARE(with.threads.size(), std::size_t{2});
    QVERIFY(validate(with, catalogue()).empty());
  }
  void pastingRenamesWhatClashes() {
    const Material m = two();
    std::vector<std::string> fresh;
    const Material p =
        edit::paste(m, *read_snippet(write_snippet(m, {"gradient_noise", "blur"})), "relief", 0, 4, &fresh);
    QCOMPARE(p.nodes.size(), std::size_t{4});
    QVERIFY(validate(p, catalogue()).empty());
    QVERIFY(p.into(fresh[1], "source"));
  }
  void aDialIsMadeInOneStepAndTakenBack() {
    std::string id;
    const Material m = edit::make_dial(two(), catalogue(), "blur", "radius", &id);
    QCOMPARE(std::get<Follow>(m.node("blur")->params.at("radius")).value, id);
    QCOMPARE(m.value(id)->dial->label, std::string("Radius"));
    QVERIFY(validate(m, catalogue()).empty());
    const Material back = edit::remove_value(edit::set_value(m, id, 0.05), id);
    QCOMPARE(std::get<double>(back.node("blur")->params.at("radius")), 0.05);
    QVERIFY(back.values.empty());
  }
  void presetsKeepWhatDiffersFromTheStart() {
    std::string id;
    Material m = edit::make_dial(two(), catalogue(), "blur", "radius", &id);
    m = edit::keep_preset(edit::set_value(std::move(m), id, 0.07), "Soft");
    QCOMPARE(m.presets.size(), std::size_t{1});
    m = edit::set_value(std::move(m), id, 0.2);
    QCOMPARE(std::get<double>(edit::apply_preset(m, m.presets[0]).value(id)->value), 0.07);
    QCOMPARE(std::get<double>(edit::apply_preset(m, {}).value(id)->value),
             std::get<double>(m.value(id)->dial->at_start));
  }
  void tidyLetsDataRunDown() {
    Material m = two();
    for (const char* t : {"blend", "tone", "threshold"})
      m = edit::add_node(std::move(m), catalogue(), t, "colour", 0, 0);
    m = edit::connect(std::move(m), {"blur", "result", "blend", "lower"});
    m = edit::connect(std::move(m), {"blend", "result", "tone", "value"});
    m = edit::connect(std::move(m), {"tone", "value", "threshold", "value"});
    m = edit::place_nodes(std::move(m), {{"threshold", "colour", 0, 0}});
    const Material t = edit::tidy(m);
    for (const Thread& th : t.threads) QVERIFY(t.node(th.from_node)->row < t.node(th.to_node)->row);
    std::set<std::tuple<std::string, int, int>> places;
    for (const NodePtr& n : t.nodes) QVERIFY(places.insert({n->lane, n->column, n->row}).second);
  }
  void tidySetsWhatNothingFeedsNearWhatItFeeds() {
    Material m = edit::empty_material();
    for (const char* type : {"gradient_noise", "tone", "blur", "blend", "colour"})
      m = edit::add_node(std::move(m), catalogue(), type, "relief", 0, 0);
    m = edit::connect(std::move(m), {"gradient_noise", "value", "tone", "value"});
    m = edit::connect(std::move(m), {"tone", "value", "blur", "source"});
    m = edit::connect(std::move(m), {"blur", "result", "blend", "lower"});
    m = edit::connect(std::move(m), {"colour_2", "colour", "blend", "upper"});
    m = edit::place_nodes(std::move(m), {{"colour_2", "relief", 1, 0}});
    const Material t = edit::tidy(m);
    QCOMPARE(t.node("blend")->row, 3);
    QCOMPARE(t.node("colour_2")->row, 2);
    QCOMPARE(t.node("gradient_noise")->row, 0);
    QCOMPARE(write_material(edit::tidy(t)), write_material(t));
    // Not out of its stage.
    Material staged = t;
    staged.stages = {{"Make", 0}, {"Mix", 2}};
    staged = edit::place_nodes(std::move(staged), {{"colour_2", "relief", 1, 0}});
    const Material s = edit::tidy(staged);
    QVERIFY(s.node("colour_2")->row < s.stages[1].row);
  }
  void movingPushesWhatIsInTheWayDown() {
    const Material m = edit::place_nodes(two(), {{"gradient_noise", "relief", 0, 1}});
    QCOMPARE(m.node("gradient_noise")->row, 1);
    QCOMPARE(m.node("blur")->row, 2);
    // A whole run of nodes keeps its order; what stands after a gap stays.
    Material run = edit::empty_material();
    for (const int row : {1, 2, 3, 5}) run = edit::add_node(std::move(run), catalogue(), "blur", "relief", 0, row);
    run = edit::add_node(std::move(run), catalogue(), "tone", "relief", 1, 0);
    run = edit::place_nodes(std::move(run), {{"tone", "relief", 0, 1}});
    const std::pair<const char*, int> rows[] = {{"tone", 1}, {"blur", 2}, {"blur_2", 3}, {"blur_3", 4}, {"blur_4", 5}};
    for (const auto& [id, row] : rows) QCOMPARE(run.node(id)->row, row);
  }
  void refusalsAreExplained() {
    const Material m = two();
    QVERIFY(refusal(m, catalogue(), {"blur", "result", "blur", "source"}).find("itself") != std::string::npos);
    Material more = edit::add_node(m, catalogue(), "tone", "relief", 0, 2);
    more = edit::connect(std::move(more), {"blur", "result", "tone", "value"});
    more = edit::disconnect(std::move(more), "blur", "source");
    QVERIFY(refusal(more, catalogue(), {"tone", "value", "blur", "source"}).find("circle") != std::string::npos);
    more = edit::add_node(std::move(more), catalogue(), "region_values", "relief", 0, 3);
    QVERIFY(refusal(more, catalogue(), {"tone", "value", "region_values", "regions"}).find("cannot become") !=
            std::string::npos);
    QVERIFY(refusal(more, catalogue(), {"gradient_noise", "value", "blur", "source"}).empty());
  }
  void kindsFlowThroughNodesThatTakeAny() {
    std::string colour;
    Material m = edit::add_node(two(), catalogue(), "colour", "relief", 0, 0, &colour);
    QVERIFY(colour != "colour");  // a lane has that identifier
    m = edit::add_node(std::move(m), catalogue(), "blend", "relief", 0, 3);
    m = edit::connect(std::move(m), {"blur", "result", "blend", "lower"});
    QVERIFY(output_kind(m, catalogue(), "blend", "result") == Kind::scalar);
    m = edit::connect(std::move(m), {colour, "colour", "blend", "upper"});
    QVERIFY(output_kind(m, catalogue(), "blend", "result") == Kind::colour);
  }
  void kindsOfLongDiamondsAreFoundAtOnce() {
    // Both operands of each step come from the step before: two to the power 60 ways, one answer.
    Material m = edit::add_node(edit::empty_material(), catalogue(), "gradient_noise", "relief", 0, 0);
    std::string from = "gradient_noise", peg = "value", id;
    for (int i = 0; i < 60; ++i) {
      m = edit::add_node(std::move(m), catalogue(), "add", "relief", 0, 0, &id);
      for (const char* in : {"a", "b"}) m = edit::connect(std::move(m), {from, peg, id, in});
      from = id, peg = "result";
    }
    QElapsedTimer timer;
    timer.start();
    QVERIFY(output_kind(m, catalogue(), from, peg) == Kind::scalar);
    QVERIFY(timer.elapsed() < 2000);
  }
  void aThousandStatesOfALargeMaterialAreCheap() {
    Material m = edit::empty_material();
    for (int i = 0; i < 200; ++i) m = edit::add_node(std::move(m), catalogue(), "tone", "relief", i % 4, i / 4);
    std::vector<Material> states;
    for (int i = 0; i < 1000; ++i) states.push_back(m = edit::set_param(m, "tone", "black", 0.001 * i));
    // All but the one node that changed is the same object in every state.
    for (std::size_t k = 1; k < m.nodes.size(); ++k)
      QVERIFY(states.front().nodes[k].get() == states.back().nodes[k].get());
  }
};

QTEST_GUILESS_MAIN(TestEdit)
#include "tst_edit.moc"
