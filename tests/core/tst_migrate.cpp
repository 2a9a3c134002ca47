// Documents of format 1 are brought to format 2 and mean what they meant.
#include <filesystem>

#include "core/bolt/package.h"
#include "core/graph/json.h"
#include "core/graph/validate.h"
#include "tests/core/alone.h"

using namespace loom;
using namespace loom::test;

class TestMigrate : public QObject {
  Q_OBJECT
  static Material read(const std::string& nodes, const std::string& threads, const std::string& more = "") {
    auto m = read_material(R"({"format": 1, "name": "t", "lanes": [{"id": "relief", "name": "Relief"}], "nodes": [)" +
                           nodes + R"(], "threads": [)" + threads + "]" + more + "}");
    if (!m) qFatal("%s", m.error().text().c_str());
    for (const Error& fault : all_faults(*m, catalogue())) qFatal("%s", fault.text().c_str());
    return std::move(*m);
  }
  static std::string node(const char* id, const char* type, const char* params = "{}") {
    static int row = 0;
    return Json{{"id", id},           {"type", type}, {"lane", "relief"},
                {"row", ++row % 500}, {"column", 0},  {"params", Json::parse(params)}}
        .dump();
  }
  static std::string thread(const char* from, const char* to) { return Json{{"from", from}, {"to", to}}.dump(); }
  static const ParamValue& param(const Material& m, const char* node, const char* id) {
    const auto& params = m.node(node)->params;
    if (!params.count(id)) qFatal("%s has no %s", node, id);
    return params.at(id);
  }
  static double number(const Material& m, const char* node, const char* id) {
    return std::get<double>(param(m, node, id));
  }
  static Plane woven(Material m, const char* output, int size) {
    m.hem = {{"height", output}};
    const auto graph = flatten(m, catalogue());
    if (!graph) qFatal("%s", graph.error().text().c_str());
    Weaver weaver(512 << 20);
    auto done = weaver.weave(*graph, {{graph->hem.begin()->second, Kind::scalar}}, size, Stop{}, {});
    if (!done) qFatal("%s", done.error().text().c_str());
    return done->fields[0].strand[0]->clone();
  }

 private Q_SLOTS:
  void theDemosOfFormat1_data() {
    QTest::addColumn<QString>("file");
    for (const auto& file : std::filesystem::directory_iterator(LOOM_DATA "/format_1"))
      QTest::newRow(file.path().filename().c_str()) << QString::fromStdString(file.path().string());
  }
  // The same documents as the program of format 2 wrote them: reading either gives the same, to the letter.
  void theDemosOfFormat1() {
    QFETCH(QString, file);
    std::vector<Error> warnings;
    const auto old = open_material(file.toStdString(), &warnings);
    QVERIFY2(old, old ? "" : old.error().text().c_str());
    QVERIFY(warnings.empty());
    const auto faults = all_faults(*old, catalogue());
    QVERIFY2(faults.empty(), faults.empty() ? "" : faults[0].text().c_str());
    for (const NodePtr& n : old->nodes)
      if (const NodeType* type = catalogue().find(n->type))
        for (const auto& [id, value] : n->params) QVERIFY2(type->parameter(id), (n->type + "." + id).c_str());
    const std::string now = write_material(*old);
    QVERIFY(now.find("\"format\": 2") != std::string::npos);
    const auto later = open_material(
        std::string(LOOM_DATA "/format_2/") + std::filesystem::path(file.toStdString()).filename().string(), nullptr);
    QVERIFY(later);
    QCOMPARE(now, write_material(*later));
  }
  void everyRenamedThingIsFound() {
    const Material m =
        read(node("r", "root") + "," + node("d", "distance_of_points") + "," + node("p", "picture") + "," +
                 node("c", "clamp", R"({"least": 0.1, "most": 0.7})") + "," +
                 node("k", "keep_regions", R"({"least": 0.2, "most": 0.9, "others": true})") + "," +
                 node("s", "statistics") + "," + node("y", "masonry", R"({"joint_share": 0.5})") + "," +
                 node("n", "cellular_noise", R"({"measure": "manhattan"})") + "," +
                 node("b", "bevel", R"({"line": 0.3})") + "," + node("g", "grow_and_shrink", R"({"by": 0.02})") + "," +
                 node("o", "outline", R"({"rounding": 0.4, "sensitivity": 0.1})") + "," +
                 node("w", "warp", R"({"passes": 3})") + "," +
                 node("a", "colour_adjust", R"({"lightness": 1.5, "lift": 0.1})") + "," +
                 node("l", "relief_light", R"({"rise": 30})"),
             thread("y.tone", "c.value") + "," + thread("c.value", "r.a") + "," + thread("s.least", "d.a") + "," +
                 thread("s.most", "d.b") + "," + thread("y.regions", "k.regions"),
             R"(, "hem": {"height": "n.tone", "roughness": "y.tone"}, "marks": [{"letter": "q", "at": "s.most"}],
           "guides": [{"thread": "d.a", "through": [{"lane": "relief", "column": 1, "row": 2}]}])");
    QCOMPARE(m.node("r")->type, std::string("square_root"));
    QCOMPARE(m.node("d")->type, std::string("distance_between_points"));
    QCOMPARE(m.node("p")->type, std::string("image"));
    QCOMPARE(number(m, "c", "minimum"), 0.1);
    QCOMPARE(number(m, "k", "inverted"), 1.0);
    QCOMPARE(number(m, "y", "joint_scale"), 0.5);
    QCOMPARE(std::get<std::string>(param(m, "n", "metric")), std::string("manhattan"));
    QCOMPARE(number(m, "b", "profile_row"), 0.3);
    QCOMPARE(number(m, "g", "distance"), 0.02);
    QCOMPARE(number(m, "o", "crown"), 0.4);
    QCOMPARE(number(m, "o", "least_step"), 0.1);
    QCOMPARE(number(m, "w", "pushes"), 3.0);
    QCOMPARE(number(m, "w", "fan"), 360.0);  // what it started with
    QCOMPARE(number(m, "a", "lightness_scale"), 1.5);
    QCOMPARE(number(m, "a", "lightness"), 0.1);
    QCOMPARE(number(m, "l", "elevation"), 30.0);
    QCOMPARE(m.into("c", "value")->from_peg, std::string("grey"));
    QCOMPARE(m.into("d", "b")->from_peg, std::string("maximum"));
    QCOMPARE(m.hem.at("height"), std::string("n.grey"));
    QCOMPARE(m.marks.at("q"), std::string("s.maximum"));
    QVERIFY(m.guides.count("d.a"));
  }
  // Format 1 counted the angle from down: at 0 the stripes lay below one another.
  void anglesAreTurnedToCountFromTheRight() {
    const Material m =
        read(node("b", "bands", R"({"count": 3})") + "," + node("t", "bands", R"({"angle": 90, "count": 3})") + "," +
                 node("r", "ramp", R"({"kind": "straight"})") + "," +
                 node("g", "ramp", R"({"kind": "angular", "angle": 30})"),
             "");
    const Plane below = woven(m, "b.mask", 128), beside = woven(m, "t.mask", 128), ramp = woven(m, "r.value", 128);
    QVERIFY(same_bits(below, rolled(below, 31, 0)) && !same_bits(below, rolled(below, 0, 31)));
    QVERIFY(same_bits(beside, rolled(beside, 0, 31)));
    QVERIFY(ramp.at(5, 100) > ramp.at(5, 20) && ramp.at(100, 9) == ramp.at(20, 9));
    QCOMPARE(number(m, "g", "angle"), 30.0);
    // Format 2: anticlockwise from the right, as docs/format.md says of every angle.
    const auto value = [](double angle) {
      return weave_alone(*catalogue().find("ramp"), 128, {}, {{"kind", std::string("straight")}, {"angle", angle}})
          .at("value")
          .strand[0]
          ->clone();
    };
    QVERIFY(value(0).at(100, 9) > value(0).at(20, 9) && value(0).at(20, 100) == value(0).at(20, 20));
    QVERIFY(value(90).at(9, 20) > value(90).at(9, 100));
  }
  void theSwitchForHardEdgesBecomesSoftness() {
    const Material m =
        read(node("h", "bands", R"({"hard": true, "softness": 0.3})") + "," + node("s", "bands", R"({"softness": 0})") +
                 "," + node("f", "bands", R"({"hard": {"follow": "sharp"}, "angle": {"follow": "way"}})"),
             "", R"(, "values": [{"id": "sharp", "value": 1}, {"id": "way", "value": 40}])");
    QCOMPARE(number(m, "h", "softness"), 0.0);
    QCOMPARE(number(m, "s", "softness"), 0.001);  // one sample wide, as it was
    QVERIFY(std::holds_alternative<Follow>(param(m, "f", "softness")));
    const Plane hard = woven(m, "f.mask", 128);
    for (std::size_t i = 0; i < hard.texels(); ++i) QVERIFY(hard.data()[i] == 0 || hard.data()[i] == 1);
    QCOMPARE(std::get<Formula>(m.value(std::get<Follow>(param(m, "f", "angle")).value)->value).text,
             std::string("way - 90"));
  }
  // Equal within a tolerance was a range about b.
  void chooseByARangeGivesWhatItGave() {
    const std::string noise = node("n", "gradient_noise", R"({"scale": 4})") + "," + node("v", "value_noise");
    for (const bool apart : {false, true})
      for (const bool followed : {false, true}) {
        const Json tolerance = followed ? Json{{"follow", "about"}} : Json(apart ? 0.1 : 0);
        const Material m =
            read(noise + "," + node("c", "choose", Json{{"tolerance", tolerance}}.dump().c_str()) + "," +
                     node("d", "choose", R"({"a": 0.2, "b": 0.3, "tolerance": 0.05, "greater": 7})"),
                 thread("n.value", "c.a") + "," + thread("v.value", "c.b") + "," + thread("v.value", "c.equal"),
                 R"(, "values": [{"id": "about", "value": 0.1}])");
        const Plane a = woven(m, "n.value", 128), b = woven(m, "v.value", 128), c = woven(m, "c.result", 128);
        const float about = apart || followed ? 0.1f : 0.0f;
        int equal = 0;
        for (std::size_t i = 0; i < a.texels(); ++i) {
          const float by = a.data()[i] - b.data()[i];
          if (std::abs(std::abs(by) - about) < 1e-5f) continue;
          const bool near = std::abs(by) <= about;
          equal += near;
          QCOMPARE(c.data()[i], near ? b.data()[i] : by > 0 ? 1.0f : 0.0f);
        }
        QVERIFY(about == 0 || equal > 1000);
        QCOMPARE(number(m, "d", "low"), 0.3 - 0.05);
        QCOMPARE(number(m, "d", "high"), 0.3 + 0.05);
        QCOMPARE(number(m, "d", "above"), 7.0);
      }
  }
  void whatANodeStartedWithStays() {
    const Material m = read(node("n", "nested_scatter") + "," + node("b", "bands") + "," + node("c", "choose"), "");
    for (const char* id : {"across_1", "down_1", "down_3"}) QCOMPARE(number(m, "n", id), 2.0);
    QCOMPARE(number(m, "b", "angle"), -90.0);
    QCOMPARE(number(m, "b", "softness"), 0.05);
    QCOMPARE(number(m, "c", "low"), 0.5);
  }
  void groupsAreMigratedWithTheirPegsAndMarks() {
    const auto m = read_material(R"({"format": 1, "name": "t", "lanes": [{"id": "a", "name": "A"}],
        "nodes": [{"id": "use", "type": "group", "group": "g", "lane": "a", "row": 0, "column": 0, "params": {}}],
        "threads": [], "hem": {"height": "use.out"}, "marks": [{"letter": "x", "at": "use/stone.tone"}],
        "groups": [{"id": "g", "name": "G", "help": "", "lanes": [{"id": "l", "name": "L"}],
          "nodes": [{"id": "stone", "type": "masonry", "lane": "l", "row": 0, "column": 0, "params": {}},
                    {"id": "pick", "type": "choose", "lane": "l", "row": 1, "column": 0, "params": {"tolerance": 0.2}}],
          "threads": [{"from": "stone.tone", "to": "pick.a"}],
          "inputs": [{"id": "in", "label": "In", "kind": "scalar", "to": ["pick.b", "pick.less"]}],
          "outputs": [{"id": "out", "label": "Out", "kind": "scalar", "from": "pick.result"},
                      {"id": "grey", "label": "Grey", "kind": "scalar", "from": "stone.tone"}]}]})");
    QVERIFY2(m, m ? "" : m.error().text().c_str());
    const auto faults = all_faults(*m, catalogue());
    QVERIFY2(faults.empty(), faults.empty() ? "" : faults[0].text().c_str());
    const Group& g = *m->group("g");
    QCOMPARE(m->marks.at("x"), std::string("use/stone.grey"));
    QCOMPARE(g.outputs[1].from, std::string("stone.grey"));
    QCOMPARE(g.inputs[0].to, (std::vector<std::string>{"pick_low.a", "pick_high.a", "pick.below"}));
  }
  void copiedNodesOfFormat1ArePasted() {
    const auto part = read_snippet(R"({"format": 1, "part": true, "lanes": [], "threads": [],
        "nodes": [{"id": "r", "type": "root", "lane": "a", "row": 0, "column": 0, "params": {}}]})");
    QVERIFY(part);
    QCOMPARE(part->nodes[0]->type, std::string("square_root"));
  }
  void whatIsNoDocumentIsRefusedAsBefore() {
    for (const char* text : {R"({"format": 1, "nodes": 5})", R"({"format": 1, "nodes": [5]})",
                             R"({"format": 1, "nodes": [{"id": "a", "type": "choose", "params": 3}], "threads": [7]})",
                             R"({"format": 1, "nodes": [], "groups": [{"id": 4}], "hem": [], "marks": [3]})"}) {
      const auto m = read_material(text);
      QVERIFY2(!m && !m.error().what.empty(), text);
    }
  }
};

QTEST_GUILESS_MAIN(TestMigrate)
#include "tst_migrate.moc"
