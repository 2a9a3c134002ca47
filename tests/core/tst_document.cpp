// Reading, writing and checking documents: what is kept, what is refused, and in which words.
#include <QTemporaryDir>
#include <QtTest>
#include <filesystem>

#include "core/graph/disc.h"
#include "core/graph/edit.h"
#include "core/graph/groups.h"
#include "core/graph/json.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"

using namespace loom;

namespace {

// The example of docs/format.md.
const char* const kExample = R"({
  "format": 2,
  "name": "Quay floor",
  "tile_metres": 2.0,
  "seed": 7,
  "lanes": [ {"id": "relief", "name": "Relief"} ],
  "nodes": [
    {"id": "laid", "type": "masonry", "lane": "relief", "row": 0, "column": 0, "params": {"bond": "herringbone", "units_across": {"follow": "units"}, "courses": 8, "bed_joint": 0.012, "seed": 1}},
    {"id": "edge", "type": "bevel", "lane": "relief", "row": 1, "column": 0, "params": {"width": {"follow": "edge_width"}}},
    {"id": "facing", "type": "normal_from_height", "lane": "relief", "row": 2, "column": 0, "params": {}}
  ],
  "threads": [ {"from": "laid.mask", "to": "edge.mask"}, {"from": "edge.height", "to": "facing.height"} ],
  "hem": { "height": "edge.height", "normal": "facing.normal" },
  "values": [
    {"id": "edge_width", "value": 0.016},
    {"id": "units", "value": 8, "dial": {"label": "Units across", "group": "Layout", "min": 2, "max": 24, "at_start": 8, "help": "How many tiles cross the floor."}}
  ],
  "relief_metres": 0.02,
  "presets": [ {"name": "Fine", "values": {"units": 16}} ]
})";

Json example() { return Json::parse(kExample); }

}  // namespace

class TestDocument : public QObject {
  Q_OBJECT
  // The first fault of a document, reading and validation together; empty if there is none.
  static std::string fault_of(const std::string& text) {
    const auto m = read_material(text);
    if (!m) return m.error().text();
    const auto faults = validate(*m, catalogue());
    return faults.empty() ? "" : faults.front().text();
  }

 private Q_SLOTS:
  void theExampleIsValid() {
    QCOMPARE(QString::fromStdString(fault_of(kExample)), QString());
    const auto m = read_material(kExample);
    QCOMPARE(m->nodes.size(), std::size_t{3});
    QCOMPARE(std::get<Follow>(m->node("laid")->params.at("units_across")).value, std::string("units"));
    QCOMPARE(m->value("units")->dial->label, std::string("Units across"));
  }

  void writingIsCanonical() {
    const auto m = read_material(kExample);
    const std::string once = write_material(*m);
    QCOMPARE(write_material(*read_material(once)), once);
    // Sorted keys, and one node a line.
    QVERIFY(once.find("\"format\"") < once.find("\"hem\"") && once.find("\"hem\"") < once.find("\"lanes\""));
    QCOMPARE(QString::fromStdString(once).count(QStringLiteral("\"type\": \"bevel\"")) +
                 QString::fromStdString(once).count(QStringLiteral("\"type\":\"bevel\"")),
             1);
    for (const QString& line : QString::fromStdString(once).split(QLatin1Char('\n')))
      QVERIFY(line.count(QStringLiteral("\"type\"")) <= 1);
  }

  void demosAreValidAndCanonical_data() {
    QTest::addColumn<QString>("path");
    for (const auto& e : std::filesystem::directory_iterator(LOOM_DEMO))
      if (e.path().extension() == ".loom")
        QTest::newRow(e.path().stem().c_str()) << QString::fromStdString(e.path().string());
  }
  void demosAreValidAndCanonical() {
    QFETCH(QString, path);
    const auto text = read_file(path.toStdString(), kMostDocumentBytes);
    QVERIFY(text.ok());
    QCOMPARE(QString::fromStdString(fault_of(*text)), QString());
    QCOMPARE(write_material(*read_material(*text)), *text);
  }

  void unknownKeysAreKeptAndNamed() {
    Json j = example();
    j["colour_of_the_bench"] = "green";
    j["nodes"][0]["sticker"] = {1, 2};
    std::vector<Error> warnings;
    const auto m = read_material(j.dump(), &warnings);
    QVERIFY(m.ok());
    QCOMPARE(warnings.size(), std::size_t{2});
    const Json again = Json::parse(write_material(*m));
    QCOMPARE(again["colour_of_the_bench"].get<std::string>(), std::string("green"));
    QCOMPARE(again["nodes"][0]["sticker"][1].get<int>(), 2);
  }

  void everyShapeOfAValueSurvives_data() {
    QTest::addColumn<QString>("json");
    for (const char* t :
         {"0.25", "[0.5,1.5]", "[0.1,0.2,0.3]", "\"word\"", "[[0.0,0.0],[0.5,0.8]]", "{\"formula\":\"a + 1\"}",
          "{\"follow\":\"edge\"}", "[{\"at\":0.5,\"colour\":[1.0,0.0,0.25]}]",
          "{\"rule\":{\"by\":\"chance\",\"from\":0.2,\"seed\":3.0,\"to\":{\"follow\":\"edge\"}}}",
          "{\"rule\":{\"by\":\"nth\",\"every\":3.0,\"from\":0.0,\"offset\":1.0,\"to\":1.0}}",
          "{\"rule\":{\"by\":\"map\",\"from\":0.0,\"map\":\"map_b\",\"to\":1.0}}"})
      QTest::newRow(t) << QString::fromLatin1(t);
  }
  void everyShapeOfAValueSurvives() {
    QFETCH(QString, json);
    bool understood = false;
    const ParamValue v = param_from_json(Json::parse(json.toStdString()), understood);
    QVERIFY(understood);
    QCOMPARE(QString::fromStdString(param_to_json(v).dump()), json);
  }

  void faultsSayWhatWhereAndTheMend_data() {
    QTest::addColumn<QString>("text");
    QTest::addColumn<QString>("says");
    const auto row = [](const char* name, const std::function<void(Json&)>& spoil, const char* says) {
      Json j = example();
      spoil(j);
      QTest::newRow(name) << QString::fromStdString(j.dump()) << QString::fromLatin1(says);
    };
    row(
        "unknown type", [](Json& j) { j["nodes"][1]["type"] = "chamfer"; },
        "node edge: there is no node type 'chamfer'");
    row(
        "twice the same id", [](Json& j) { j["nodes"][1]["id"] = "laid"; }, "used twice");
    row(
        "bad id", [](Json& j) { j["nodes"][1]["id"] = "Edge!"; }, "small letters");
    row(
        "no such parameter", [](Json& j) { j["nodes"][1]["params"]["wide"] = 1; }, "parameter wide");
    row(
        "wrong kind", [](Json& j) { j["nodes"][1]["params"]["width"] = "wide"; }, "wrong kind");
    row(
        "out of limits", [](Json& j) { j["nodes"][1]["params"]["width"] = 7; }, "is outside");
    row(
        "unknown word", [](Json& j) { j["nodes"][0]["params"]["bond"] = "zigzag"; }, "Use stack, running");
    row(
        "follows nothing",
        [](Json& j) {
          j["nodes"][1]["params"]["width"] = {{"follow", "gone"}};
        },
        "follows the value 'gone'");
    row(
        "bad formula",
        [](Json& j) {
          j["nodes"][1]["params"]["width"] = {{"formula", "1 + (2"}};
        },
        "character 5");
    row(
        "rule where none goes",
        [](Json& j) {
          j["nodes"][1]["params"]["width"] = {{"rule", {{"by", "chance"}}}};
        },
        "takes no rule");
    row(
        "unknown rule",
        [](Json& j) {
          j["nodes"][0]["params"]["turn"] = {{"rule", {{"by", "mood"}}}};
        },
        "there is no rule by 'mood'");
    row(
        "thread from nowhere", [](Json& j) { j["threads"][0]["from"] = "gone.mask"; }, "the node 'gone' is not there");
    row(
        "no such output", [](Json& j) { j["threads"][0]["from"] = "laid.shine"; }, "has no output 'shine'");
    row(
        "no such input", [](Json& j) { j["threads"][0]["to"] = "edge.shine"; }, "has no input 'shine'");
    row(
        "two threads into one peg",
        [](Json& j) {
          j["threads"].push_back({{"from", "laid.grey"}, {"to", "edge.mask"}});
        },
        "another thread ends in the same peg");
    row(
        "kinds that do not meet",
        [](Json& j) {
          j["threads"][0] = {{"from", "facing.normal"}, {"to", "edge.mask"}};
        },
        "a normal cannot become a scalar");
    row(
        "a circle",
        [](Json& j) {
          j["nodes"].push_back({{"id", "b"}, {"type", "blur"}});
          j["nodes"].push_back({{"id", "c"}, {"type", "blur"}});
          j["threads"].push_back({{"from", "b.result"}, {"to", "c.source"}});
          j["threads"].push_back({{"from", "c.result"}, {"to", "b.source"}});
        },
        "run in a circle: b > c > b");
    row(
        "hem of nothing", [](Json& j) { j["hem"]["height"] = "gone.height"; }, "hem, slot height");
    row(
        "hem of the wrong kind", [](Json& j) { j["hem"]["height"] = "facing.normal"; }, "takes a scalar, not a normal");
    row(
        "preset of nothing",
        [](Json& j) {
          j["presets"][0]["values"] = {{"gone", 1}};
        },
        "preset Fine");
    row(
        "dial upside down", [](Json& j) { j["values"][1]["dial"]["min"] = 99; }, "min lies above max");
    row(
        "no format", [](Json& j) { j.erase("format"); }, "has no 'format' number");
    row(
        "newer format", [](Json& j) { j["format"] = 99; }, "newer than this program");
    row(
        "nodes no list", [](Json& j) { j["nodes"] = 5; }, "'nodes' is not a list");
    row(
        "row not whole", [](Json& j) { j["nodes"][0]["row"] = 1.5; }, "whole number");
    row(
        "no tile", [](Json& j) { j["tile_metres"] = 0; }, "tile_metres: is outside");
    row(
        "a group that holds itself",
        [](Json& j) {
          j["groups"] = {{{"id", "g"}, {"name", "G"}, {"nodes", {{{"id", "x"}, {"type", "group"}, {"group", "g"}}}}}};
          j["nodes"].push_back({{"id", "use"}, {"type", "group"}, {"group", "g"}});
        },
        "holds itself");
    row(
        "a group that is gone",
        [](Json& j) {
          j["nodes"].push_back({{"id", "use"}, {"type", "group"}, {"group", "g"}});
        },
        "its group 'g' is not there");
    QTest::newRow("nothing") << QString() << "is not valid JSON";
    QTest::newRow("cut off") << QString::fromLatin1(kExample).left(400) << "is not valid JSON";
    QTest::newRow("brackets") << QString(5000, QLatin1Char('[')) << "nested more than 64 deep";
    QTest::newRow("a number") << QStringLiteral("5") << "is not an object";
    QTest::newRow("NaN") << QStringLiteral("{\"format\": NaN}") << "is not valid JSON";
    QTest::newRow("endless number") << QStringLiteral("{\"format\": 1, \"tile_metres\": 1e999}") << "document";
  }
  void faultsSayWhatWhereAndTheMend() {
    QFETCH(QString, text);
    QFETCH(QString, says);
    const QString fault = QString::fromStdString(fault_of(text.toStdString()));
    QVERIFY2(fault.contains(says), qPrintable(fault));
    QVERIFY2(fault.contains(QStringLiteral(". ")), "an error says how to mend it");
  }

  void aHundredMegabytesOfBracketsAreRefusedAtOnce() {
    QElapsedTimer timer;
    timer.start();
    QVERIFY(
        QString::fromStdString(fault_of(std::string(100'000'000, '['))).contains(QStringLiteral("larger than 32 MiB")));
    QVERIFY(QString::fromStdString(fault_of(std::string(30'000'000, '['))).contains(QStringLiteral("64 deep")));
    QVERIFY(timer.elapsed() < 5000);
  }

  void mangledDocumentsNeverCrash() {
    // Bytes of the example are changed, cut and doubled at random: an error or a material, nothing else.
    std::mt19937 chance(11);
    const std::string good = kExample;
    for (int round = 0; round < 3000; ++round) {
      std::string text = good;
      for (unsigned k = 0; k < 1 + chance() % 6; ++k) {
        const std::size_t at = chance() % text.size();
        switch (chance() % 4) {
          case 0:
            text[at] = static_cast<char>(chance());
            break;
          case 1:
            text.erase(at, chance() % 40);
            break;
          case 2:
            text.insert(at, text.substr(chance() % text.size(), chance() % 60));
            break;
          default:
            text[at] = "{}[]\",:0-e"[chance() % 10];
            break;
        }
        if (text.empty()) text = " ";
      }
      if (const auto m = read_material(text)) {
        validate(*m, catalogue());
        QVERIFY(read_material(write_material(*m)).ok());
      }
    }
  }

  void filesAppearWholeOrNotAtAll() {
    QTemporaryDir dir;
    const std::string path = dir.path().toStdString() + "/a.loom";
    QVERIFY(write_file(path, "one").ok());
    QVERIFY(write_file(path, "two").ok());
    QCOMPARE(*read_file(path, 100), std::string("two"));
    QCOMPARE(QDir(dir.path()).entryList(QDir::Files).size(), 1);
    const auto refused = write_file("/proc/none/a.loom", "x");
    QVERIFY(!refused.ok() && !refused.error().mend.empty());
    QVERIFY(!read_file(path, 2).ok());
    QVERIFY(!read_file(dir.path().toStdString(), 100).ok());
    QVERIFY(!read_file(path + ".none", 100).ok());
  }

  void snippetsCarryNodesAndTheThreadsBetween() {
    const auto m = read_material(kExample);
    const auto part = read_snippet(write_snippet(*m, {"laid", "edge"}));
    QVERIFY(part.ok());
    QCOMPARE(part->nodes.size(), std::size_t{2});
    QCOMPARE(part->threads.size(), std::size_t{1});
    QVERIFY(!read_snippet("hello").ok());
    QVERIFY(!read_snippet(kExample).ok());
  }
  void guidesAndStopsOwnWaysAreKept() {
    Material m = *read_material(kExample);
    m = edit::set_guides(std::move(m), "edge.mask", {{"relief", 1.25, 0.5}, {"relief", 2, 1.75}});
    m = edit::set_guides(std::move(m), "edge.nothing", {{"relief", 1, 1}});  // no thread ends there
    m = edit::add_node(std::move(m), catalogue(), "dye", "relief", 1, 0);
    m = edit::set_param(std::move(m), "dye", "stops", Stops{{0, {0, 0, 0, 1}, "stepped"}, {1, {1, 1, 1, 1}}});
    const Material back = *read_material(write_material(m));
    QCOMPARE(back.guides.size(), std::size_t{1});
    QCOMPARE(back.guides.at("edge.mask"), m.guides.at("edge.mask"));
    QCOMPARE(std::get<Stops>(back.node("dye")->params.at("stops")), std::get<Stops>(m.node("dye")->params.at("stops")));
    QVERIFY(edit::set_guides(back, "edge.mask", {}).guides.empty());
    const Material odd = edit::set_param(m, "dye", "stops", Stops{{0, {0, 0, 0, 1}, "sideways"}, {1, {1, 1, 1, 1}}});
    QVERIFY(validate(odd, catalogue()).front().text().find("sideways") != std::string::npos);
  }
  void foldedThreadsKeepTheirGuides() {
    Material m = *read_material(kExample);
    m = edit::set_guides(std::move(m), "edge.mask", {{"relief", 1.5, 0.5}});
    const Material f = *edit::fold(m, catalogue(), {"laid", "edge"}, "Rim");
    QCOMPARE(f.groups.front()->guides.at("edge.mask").front().row, 1.5);  // a row lower: the first is for what comes in
    QCOMPARE(read_material(write_material(f))->groups.front()->guides.size(), std::size_t{1});
  }
};

QTEST_GUILESS_MAIN(TestDocument)
#include "tst_document.moc"
