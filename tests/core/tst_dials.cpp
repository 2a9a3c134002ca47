// Dials of every kind, when they act, and presets.
#include <QtTest>
#include <fstream>

#include "core/bolt/delivery.h"
#include "core/bolt/own_presets.h"
#include "core/bolt/package.h"
#include "core/graph/edit.h"
#include "core/graph/json.h"
#include "core/graph/offered.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"
#include "core/weave/weaver.h"

using namespace loom;

class TestDials : public QObject {
  Q_OBJECT
  // A material with one node, and a dial of one of its parameters.
  static Material with(const std::string& type, const std::string& param, std::string* id) {
    std::string node;
    Material m = edit::add_node(edit::empty_material(), catalogue(), type, "relief", 0, 0, &node);
    return edit::make_dial(std::move(m), catalogue(), node, param, id);
  }
  static Material demo() { return *open_material(LOOM_DEMO "/quay-floor.loom"); }
  static Value& value(Material& m, const std::string& id) {
    return *std::find_if(m.values.begin(), m.values.end(), [&](const Value& v) { return v.id == id; });
  }
  static std::string fault_of(const Material& m) {
    const auto faults = validate(m, catalogue());
    return faults.empty() ? std::string() : faults.front().text();
  }

 private Q_SLOTS:
  void aDialIsOfTheKindOfWhatItTurns_data() {
    QTest::addColumn<QString>("type");
    QTest::addColumn<QString>("param");
    QTest::addColumn<int>("kind");
    QTest::newRow("number") << "bevel"
                            << "width" << static_cast<int>(ParameterKind::scalar);
    QTest::newRow("whole number") << "masonry"
                                  << "courses" << static_cast<int>(ParameterKind::integer);
    QTest::newRow("choice") << "masonry"
                            << "bond" << static_cast<int>(ParameterKind::choice);
    QTest::newRow("on and off") << "tone"
                                << "full_range" << static_cast<int>(ParameterKind::toggle);
    QTest::newRow("colour") << "colour"
                            << "colour" << static_cast<int>(ParameterKind::colour);
    QTest::newRow("vector") << "transform"
                            << "shift" << static_cast<int>(ParameterKind::vector2);
    QTest::newRow("seed") << "speckle"
                          << "seed" << static_cast<int>(ParameterKind::seed);
    QTest::newRow("text") << "text"
                          << "text" << static_cast<int>(ParameterKind::text);
    QTest::newRow("picture") << "image"
                             << "file" << static_cast<int>(ParameterKind::file);
  }
  void aDialIsOfTheKindOfWhatItTurns() {
    QFETCH(QString, type);
    QFETCH(QString, param);
    QFETCH(int, kind);
    std::string id;
    const Material m = with(type.toStdString(), param.toStdString(), &id);
    QVERIFY2(!id.empty(), qPrintable(param));
    const Parameter p = offered_parameter(m.nodes, catalogue(), *m.value(id));
    QCOMPARE(static_cast<int>(p.kind), kind);
    QVERIFY2(fault_of(m).empty(), fault_of(m).c_str());
    const Parameter& source = *catalogue().find(type.toStdString())->parameter(param.toStdString());
    QCOMPARE(p.options, source.options);
    QCOMPARE(p.unit, source.unit);
    QVERIFY(p.limits == source.limits);
    const auto again = read_material(write_material(m));
    QVERIFY(again.ok());
    QCOMPARE(write_material(*again), write_material(m));
  }
  void allThatADialSaysIsKept() {
    Material m = demo();
    Dial& d = *value(m, "wear").dial;
    d.kind = ParameterKind::toggle, d.unit = Unit::degrees, d.limits = Limits{-1, 3}, d.step = 0.25;
    d.acts = {"units > 4", "Acts where there are more than four."};
    const auto again = read_material(write_material(m));
    QVERIFY(again.ok());
    QVERIFY(*again->value("wear")->dial == d);
    const std::string text =
        R"({"format": 2, "values": [{"id": "a", "value": 1, "dial": {"label": "A", "later": 5}}]})";
    std::vector<Error> warnings;
    const auto newer = read_material(text, &warnings);
    QVERIFY(newer.ok() && warnings.size() == 1);
    QVERIFY(write_material(*newer).find("\"later\": 5") != std::string::npos ||
            write_material(*newer).find("\"later\":5") != std::string::npos);
    for (const char* wrong : {R"("kind": "dial")", R"("unit": "miles")", R"("limits": [1])", R"("step": "a")"})
      QVERIFY2(
          !read_material(R"({"format": 2, "values": [{"id": "a", "value": 1, "dial": {)" + std::string(wrong) + "}}]}")
               .ok(),
          wrong);
  }
  void unitsAreKnownByTheirNames() {
    for (int i = 0; i <= static_cast<int>(Unit::millimetres); ++i)
      QVERIFY(unit_from_name(unit_name(static_cast<Unit>(i))) == static_cast<Unit>(i));
    QVERIFY(!unit_from_name("miles"));
  }
  void limitsAreThoseOfAllThatFollow() {
    std::string id;
    Material m = with("bevel", "width", &id);
    std::string other;
    m = edit::add_node(std::move(m), catalogue(), "outline", "relief", 0, 1, &other);
    m = edit::set_param(std::move(m), other, "width", Follow{id});
    const Limits both = offered_parameter(m.nodes, catalogue(), *m.value(id)).limits;
    const Limits a = catalogue().find("bevel")->parameter("width")->limits,
                 b = catalogue().find("outline")->parameter("width")->limits;
    QVERIFY(both == (Limits{std::max(a.least, b.least), std::min(a.most, b.most)}));
    value(m, id).dial->limits = Limits{0.001, 0.01};
    QVERIFY(offered_parameter(m.nodes, catalogue(), *m.value(id)).limits == (Limits{0.001, 0.01}));
    QVERIFY(!with_dial(m, catalogue(), id, "0.02").ok());
    QVERIFY(with_dial(m, catalogue(), id, "0.005").ok());
  }
  // One dial turns several parameters, through a formula each.
  void aDialTurnsThroughFormulas() {
    std::string id;
    Material m = with("bevel", "width", &id);
    std::string lit, pane;
    m = edit::add_node(std::move(m), catalogue(), "value", "relief", 0, 1, &lit);
    m = edit::add_node(std::move(m), catalogue(), "value", "relief", 0, 2, &pane);
    m = edit::set_param(std::move(m), lit, "value", Formula{id + " * 10", {}});
    m = edit::set_param(std::move(m), pane, "value", Formula{"1 - " + id + " * 10", {}});
    m = edit::set_value(std::move(m), id, 0.04);
    QVERIFY2(fault_of(m).empty(), fault_of(m).c_str());
    m = edit::set_hem(std::move(m), "height", lit + ".value");
    m = edit::set_hem(std::move(m), "roughness", pane + ".value");
    const auto graph = flatten(m, catalogue());
    QVERIFY2(graph.ok(), graph ? "" : graph.error().text().c_str());
    Weaver w(0);
    const auto woven = w.weave(*graph, {Want(graph->hem.at("height")), Want(graph->hem.at("roughness"))}, 64, Stop{});
    QVERIFY(woven.ok());
    QVERIFY(std::abs(woven->fields[0].strand[0]->at(3, 3) - 0.4f) < 1e-6f);
    QVERIFY(std::abs(woven->fields[1].strand[0]->at(3, 3) - 0.6f) < 1e-6f);
  }
  void aDialActsByTheOthers() {
    std::string bond;
    Material m = with("masonry", "bond", &bond);
    const auto acts = [&](const std::string& formula) {
      Material n = m;
      n.values.push_back({"moss", 0.5, Dial{"Moss", "", "", 0, 1, 0.5}});
      n.values.push_back({"crest", std::string(), Dial{"Crest", "", "", 0, 1, std::string()}});
      Value& v = value(n, "moss");
      v.dial->acts = {formula, "It has to be so."};
      return std::pair(dial_acts(n.nodes, n.values, catalogue(), v), fault_of(n));
    };
    QCOMPARE(acts("").first, true);
    QCOMPARE(acts("moss > 0.6").first, false);
    QCOMPARE(acts("moss > 0.4").first, true);
    QCOMPARE(acts("crest").first, false);  // a text that is empty
    QCOMPARE(acts(bond + " == 0").first, std::get<std::string>(m.value(bond)->value) ==
                                             catalogue().find("masonry")->parameter("bond")->options.front());
    QVERIFY(acts("moss > 0.4").second.empty());
    const auto [on, fault] = acts("nobody > 1");
    QVERIFY(on);  // a faulty formula switches nothing off
    QVERIFY2(fault.find("dial, acts_when") != std::string::npos, fault.c_str());
  }
  // Whoever reads a value follows its new name, and keeps its number when it goes.
  void whenADialActsFollowsRenamings() {
    Material m = demo();
    value(m, "salt").dial->acts = {"wear > 0.5", "Worn tiles alone hold salt."};
    m = edit::rename_value(std::move(m), "wear", "tread");
    QCOMPARE(m.value("salt")->dial->acts.formula, std::string("tread > 0.5"));
    QVERIFY2(fault_of(m).empty(), fault_of(m).c_str());
    m = edit::remove_value(edit::set_value(std::move(m), "tread", 0.25), "tread");
    QCOMPARE(m.value("salt")->dial->acts.formula, std::string("0.25 > 0.5"));
    QVERIFY2(fault_of(m).empty(), fault_of(m).c_str());
  }
  void faultsOfADialAreTold() {
    const auto told = [](const std::function<void(Dial&)>& spoil) {
      Material m = demo();
      spoil(*value(m, "wear").dial);
      return fault_of(m);
    };
    QVERIFY(told([](Dial&) {}).empty());
    QVERIFY(told([](Dial& d) { d.least = 2, d.most = 1; }).find("min lies above max") != std::string::npos);
    QVERIFY(told([](Dial& d) { d.limits = Limits{2, 1}; }).find("limits") != std::string::npos);
    QVERIFY(told([](Dial& d) { d.step = -1; }).find("step") != std::string::npos);
  }
  void presetsAreKeptRenamedOrderedAndUpdated() {
    Material m = demo();
    const auto names = [&] {
      std::string all;
      for (const Preset& p : m.presets) all += (all.empty() ? "" : ", ") + p.name;
      return all;
    };
    const std::string first = m.presets[0].name, second = m.presets[1].name, third = m.presets[2].name;
    m = edit::move_preset(std::move(m), first, 1);
    QCOMPARE(names(), second + ", " + first + ", " + third);
    m = edit::move_preset(std::move(m), first, -5);
    QCOMPARE(names(), first + ", " + second + ", " + third);
    m = edit::rename_preset(std::move(m), second, third);  // taken: nothing happens
    m = edit::rename_preset(std::move(m), second, "");
    QCOMPARE(names(), first + ", " + second + ", " + third);
    m = edit::rename_preset(std::move(m), second, "Spring tide");
    QCOMPARE(names(), first + ", Spring tide, " + third);
    m = edit::apply_preset(std::move(m), m.presets[1]);
    m = edit::set_value(std::move(m), "salt", 0.9);
    m = edit::keep_preset(std::move(m), "Spring tide");
    QCOMPARE(m.presets.size(), std::size_t{3});
    QCOMPARE(std::get<double>(m.presets[1].values.at("salt")), 0.9);
    m = edit::remove_preset(std::move(m), "Spring tide");
    QCOMPARE(names(), first + ", " + third);
  }
  // Kept beside the bolt, by its identifier; of another version only what is there holds.
  void ownPresetsFitAnyVersion() {
    QTemporaryDir dir;
    const std::filesystem::path folder = dir.filePath(QStringLiteral("mine")).toStdString();
    const Material m = *open_material(LOOM_DEMO "/quay-floor.loom");
    QVERIFY(own_presets(folder, m)->empty());
    const Preset kept{"Ferry steps", {{"wear", 0.61}, {"gone", 2.0}, {"salt", std::string("word")}}};
    QVERIFY(keep_own_presets(folder, m, {kept, Preset{"As made, almost"}}).ok());
    const auto found = own_presets(folder, m);
    QCOMPARE(found->size(), std::size_t{2});
    QVERIFY(found->front().values == kept.values);  // nothing of it is lost on disc
    const Preset fits = as_it_fits(found->front(), m);
    QCOMPARE(fits.values.size(), std::size_t{1});
    QCOMPARE(std::get<double>(fits.values.at("wear")), 0.61);
    Material sly = m;  // an identifier leads nowhere else
    sly.imprint.id = "../../quay_floor";
    QVERIFY(keep_own_presets(folder, sly, {kept}).ok());
    QCOMPARE(QDir(dir.path()).entryList(QDir::AllEntries | QDir::NoDotAndDotDot).size(), 1);
    std::ofstream(folder / "quay_floor.loom") << "{";
    QVERIFY(!own_presets(folder, m));
  }
};

QTEST_GUILESS_MAIN(TestDials)
#include "tst_dials.moc"
