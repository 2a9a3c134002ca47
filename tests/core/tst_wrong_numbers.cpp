// Limits and edges of single nodes and of what a document may hold: each slot is a family of which one member was
// wrong.
#include "core/bolt/delivery.h"
#include "core/bolt/package.h"
#include "core/graph/json.h"
#include "core/graph/validate.h"
#include "tests/core/alone.h"

using namespace loom;
using namespace loom::test;

namespace {

Field ramp(int size) {
  return field_of(Kind::scalar, painted(size, [](double u, double) { return u; }));
}

Material document(const std::string& nodes, const std::string& rest = "") {
  auto m = read_material(R"({"format": 2, "name": "t", "lanes": [{"id": "relief", "name": "Relief"}], "nodes": [)" +
                         nodes + "]" + rest + "}");
  if (!m) qFatal("%s", m.error().text().c_str());
  return *m;
}

// The first fault of a document, empty if there is none.
std::string fault_of(const Material& m) {
  const auto faults = all_faults(m, catalogue());
  return faults.empty() ? std::string() : faults.front().text();
}

}  // namespace

class TestWrongNumbers : public QObject {
  Q_OBJECT
 private Q_SLOTS:
  // Where the mask says that a stamp is there, its region and its tone are there too, at every size and in every way to
  // overlap.
  void aStampIsWhereItsMaskIs_data() {
    QTest::addColumn<QString>("type");
    QTest::addColumn<QString>("overlap");
    QTest::addColumn<int>("size");
    for (const char* type : {"scatter", "nested_scatter"})
      for (const char* overlap : {"highest", "lowest", "newest", "summed"})
        for (const int size : {64, 256, 1024})
          QTest::newRow(qPrintable(QString::fromLatin1("%1 %2 %3").arg(type).arg(overlap).arg(size)))
              << type << overlap << size;
  }
  void aStampIsWhereItsMaskIs() {
    QFETCH(QString, type);
    QFETCH(QString, overlap);
    QFETCH(int, size);
    Rule tone;
    tone.from.number = 0.25, tone.to.number = 0.75;
    Resolved params{{"overlap", overlap.toStdString()}, {"background", 0.5}};
    if (type == "scatter") params["tone"] = tone;
    const auto out = weave_alone(*catalogue().find(type.toStdString()), size, {}, params);
    const Plane &mask = *out.at("mask").strand[0], &region = *out.at("regions").strand[0],
                &grey = *out.at("grey").strand[0];
    std::size_t there = 0, lost = 0;
    for (std::size_t i = 0; i < mask.texels(); ++i) {
      if (mask.data()[i] < 0.5f) continue;
      ++there;
      lost += region.data()[i] < 0 || (type == "scatter" && grey.data()[i] < 0.2f);
    }
    QVERIFY(there > mask.texels() / 50);
    QCOMPARE(lost, std::size_t{0});
  }

  // What grows from the setts' seeds carries a seed's tone everywhere: none of it is the nothing about a stamp.
  void settsHaveNoWedges_data() {
    QTest::addColumn<int>("size");
    for (const int size : {256, 512, 1024}) QTest::addRow("%d", size) << size;
  }
  void settsHaveNoWedges() {
    QFETCH(int, size);
    const auto m = open_material(LOOM_DEMO "/slipway-setts.loom");
    QVERIFY(m.ok());
    const auto g = flatten(*m, catalogue());
    QVERIFY(g.ok());
    Weaver w(256 << 20);
    const auto r = w.weave(
        *g, {g->outputs.at("seeds.grey"), g->outputs.at("grown.carried"), g->outputs.at("seeds.mask")}, size, Stop{});
    QVERIFY(r.ok());
    const Plane &grey = *r->fields[0].strand[0], &grown = *r->fields[1].strand[0], &mask = *r->fields[2].strand[0];
    std::set<float> tones;  // of the stamps
    for (std::size_t i = 0; i < mask.texels(); ++i)
      if (mask.data()[i] >= 0.5f) tones.insert(grey.data()[i]);
    std::size_t black = 0, strange = 0;
    for (std::size_t i = 0; i < grown.texels(); ++i) {
      black += grown.data()[i] < 1e-5f;
      strange += !tones.count(grown.data()[i]);
    }
    QVERIFY2(static_cast<double>(black) < 0.001 * static_cast<double>(grown.texels()),
             QByteArray::number(static_cast<qulonglong>(black)));
    QCOMPARE(strange, std::size_t{0});
  }
  void aHardEdgeIsTheLimitOfASoftOne() {
    Fields in;
    in["value"] = ramp(256);
    const auto pick = [&](double softness) {
      return weave_alone(*catalogue().find("pick_range"), 256, in, {{"width", 0.3}, {"softness", softness}})
          .at("mask")
          .strand[0];
    };
    QVERIFY(share_apart(*pick(0), *pick(1e-4), 0.01) < 0.02);
    QCOMPARE(pick(0)->at(128, 0), 1.0f);
    QCOMPARE(pick(0)->at(3, 0), 0.0f);
    const auto tone = [&](double white) {
      return weave_alone(*catalogue().find("tone"), 256, in, {{"black", 0.5}, {"white", white}}).at("value").strand[0];
    };
    QCOMPARE(tone(0.5)->at(200, 0), 1.0f);
    QCOMPARE(tone(0.5)->at(50, 0), 0.0f);
    const auto remap = weave_alone(*catalogue().find("remap"), 256, in,
                                   {{"from_low", 0.5}, {"from_high", 0.5}, {"to_low", 0.2}, {"to_high", 0.9}})
                           .at("value")
                           .strand[0];
    QCOMPARE(remap->at(50, 0), 0.2f);
    QCOMPARE(remap->at(200, 0), 0.9f);
  }

  void aFullRangeIsFullAtEverySize() {
    for (const int size : {128, 256, 512, 1024, 2048}) {
      const auto height =
          weave_alone(*catalogue().find("nested_scatter"), size, {}, {{"full_range", 1.0}}).at("height").strand[0];
      const Range r = range_of(*height);
      QVERIFY2(std::abs(r.least) < 0.002f && std::abs(r.most - 1) < 0.002f,
               qPrintable(QString::fromLatin1("%1: %2 to %3").arg(size).arg(r.least).arg(r.most)));
    }
  }

  // Twice the strength is twice the slope, and no normal ever points into the surface.
  void strengthScalesSlopes() {
    const double rows[][4] = {
        {0.6, 0, 0.8, 2}, {0.9, 0, 0.4358899, 2}, {0.3, -0.5, 0.8124038, 0.5}, {0.6, 0, 0.8, 100}};
    for (const auto& [x, y, z, strength] : rows) {
      Fields in;
      in["detail"] = field_of(Kind::normal, Plane::filled(16, static_cast<float>(x)),
                              Plane::filled(16, static_cast<float>(y)), Plane::filled(16, static_cast<float>(z)));
      const Field n = weave_alone(*catalogue().find("blend_normals"), 16, in, {{"strength", strength}}).at("normal");
      const double size = std::sqrt(strength * strength * (x * x + y * y) + z * z);
      QVERIFY(std::abs(static_cast<double>(n.strand[0]->at(0, 0)) - strength * x / size) < 1e-5);
      QVERIFY(std::abs(static_cast<double>(n.strand[1]->at(0, 0)) - strength * y / size) < 1e-5);
      QVERIFY(n.strand[2]->at(0, 0) > 0);
    }
  }

  // Alike units have alike neighbours: four in a stack bond, six in a running one.
  void alikeUnitsHaveAlikeNeighbours_data() {
    QTest::addColumn<QString>("bond");
    QTest::addColumn<double>("across");
    QTest::addColumn<int>("expected");
    for (const double across : {3.0, 4.0, 6.0, 8.0, 12.0}) {
      QTest::newRow(qPrintable(QString::fromLatin1("stack %1").arg(across))) << "stack" << across << 4;
      QTest::newRow(qPrintable(QString::fromLatin1("running %1").arg(across))) << "running" << across << 6;
    }
  }
  void alikeUnitsHaveAlikeNeighbours() {
    QFETCH(QString, bond);
    QFETCH(double, across);
    QFETCH(int, expected);
    for (const int size : {512, 1024}) {
      Fields in;
      in["regions"] =
          weave_alone(*catalogue().find("masonry"), size, {},
                      {{"bond", bond.toStdString()}, {"units_across", across}, {"courses", across}, {"linked", 0.0}})
              .at("regions");
      const auto out = weave_alone(*catalogue().find("region_shapes"), size, in);
      const Plane &n = *out.at("neighbours").strand[0], &index = *in["regions"].strand[0];
      const bool even = static_cast<int>(across) % 2 == 0 || bond == "stack";
      for (std::size_t i = 0; even && i < n.texels(); ++i)
        if (index.data()[i] >= 0) QCOMPARE(static_cast<int>(n.data()[i]), expected);
    }
  }

  // 20 000 nodes one after the other are a document like any other; one more is refused, and so are groups without end.
  void aLongChainIsWoven_data() {
    QTest::addColumn<QString>("type");
    QTest::addColumn<QString>("peg");
    QTest::addColumn<int>("count");
    QTest::newRow("points") << "invert"
                            << "value" << 19999;
    QTest::newRow("areas") << "sharpen"
                           << "source" << 3000;
  }
  void aLongChainIsWoven() {
    QFETCH(QString, type);
    QFETCH(QString, peg);
    QFETCH(int, count);
    Material m = document(R"({"id": "n", "type": "gradient_noise", "params": {}})");
    std::string last = "n";
    const std::string out = catalogue().find(type.toStdString())->outputs[0].id;
    for (int i = 0; i < count; ++i) {
      auto n = std::make_shared<Node>();
      n->id = "c" + std::to_string(i);
      n->type = type.toStdString();
      n->lane = "relief";
      m.threads.push_back({last, i ? out : "value", n->id, peg.toStdString()});
      last = n->id;
      m.nodes.push_back(std::move(n));
    }
    const auto g = flatten(m, catalogue());
    QVERIFY2(g.ok(), g ? "" : g.error().text().c_str());
    Weaver w(0);
    WeaveOptions options;
    options.keep = false;
    const auto r = w.weave(*g, {*g->find(last + "." + out)}, 64, Stop{}, options);
    QVERIFY(r.ok() && r->fields[0].strand[0]);
    auto more = std::make_shared<Node>(*m.nodes[0]);
    more->id = "more";
    for (int i = count; i < 20000; ++i) {
      auto copy = std::make_shared<Node>(*more);
      copy->id = "more" + std::to_string(i);
      m.nodes.push_back(std::move(copy));
    }
    QVERIFY(fault_of(m).find("20000") != std::string::npos);
  }
  // What passes them by is followed without a step of recursion each.
  void aLongChainOfBypassedNodesIsWoven() {
    Material m = document(R"({"id": "n", "type": "value", "params": {"value": 0.25}})");
    std::string last = "n";
    for (int i = 0; i < 19998; ++i) {
      auto n = std::make_shared<Node>();
      n->id = "c" + std::to_string(i);
      n->type = "invert";
      n->lane = "relief";
      n->bypass = true;
      m.threads.push_back({last, "value", n->id, "value"});
      last = n->id;
      m.nodes.push_back(std::move(n));
    }
    const auto g = flatten(m, catalogue());
    QVERIFY2(g.ok(), g ? "" : g.error().text().c_str());
    QCOMPARE(g->find(last + ".value")->node, g->find("n.value")->node);
  }
  void groupsThatUnfoldWithoutEndAreRefused() {
    const auto nested = [](int levels, int uses) {
      Material m = edit::empty_material();
      for (int i = 0; i < levels; ++i) {
        auto g = std::make_shared<Group>();
        g->id = "g" + std::to_string(i);
        for (int k = 0; k < uses; ++k) {
          auto n = std::make_shared<Node>();
          n->id = "n" + std::to_string(k);
          n->type = i + 1 < levels ? "group" : "value";
          if (i + 1 < levels) n->group = "g" + std::to_string(i + 1);
          g->nodes.push_back(std::move(n));
        }
        m.groups.push_back(std::move(g));
      }
      auto top = std::make_shared<Node>();
      top->id = "top";
      top->type = "group";
      top->group = "g0";
      top->lane = "relief";
      m.nodes.push_back(std::move(top));
      return m;
    };
    QVERIFY(fault_of(nested(30, 2)).find("20000") != std::string::npos);
    QVERIFY(fault_of(nested(65, 1)).find("64 deep") != std::string::npos);
    QVERIFY(fault_of(nested(3000, 1)).find("64 deep") != std::string::npos);
    QCOMPARE(fault_of(nested(60, 1)), std::string());
  }

  void measuresOfTheTileHaveLimits() {
    for (const double bad : {1e-30, 1e30, -1.0, 0.0}) {
      Material m = document("");
      m.tile_metres = bad;
      QVERIFY(fault_of(m).find("tile_metres") != std::string::npos);
      m.tile_metres = 1;
      m.relief_metres = bad;
      QVERIFY(fault_of(m).find("relief_metres") != std::string::npos);
    }
    QCOMPARE(fault_of(document("")), std::string());
  }

  void dialsAndPresetsAreHeldToTheirLimits() {
    const Material m = *open_material(LOOM_DEMO "/quay-floor.loom");
    const auto refused = [&](const char* dial, const char* value) {
      const auto set = with_dial(m, catalogue(), dial, value);
      return set ? std::string() : set.error().text();
    };
    QVERIFY(refused("units", "-3").find("1 to 256") != std::string::npos);
    QVERIFY(refused("units", "1000000").find("1 to 256") != std::string::npos);
    QCOMPARE(refused("units", "6"), std::string());
    Material choice = document(R"({"id": "m", "type": "masonry", "params": {"bond": {"follow": "bond"}}})",
                               R"(, "values": [{"id": "bond", "value": "stack"}])");
    QVERIFY(with_dial(choice, catalogue(), "bond", "running").ok());
    const auto wrong = with_dial(choice, catalogue(), "bond", "nosuch");
    QVERIFY(!wrong && wrong.error().text().find("herringbone") != std::string::npos);
    choice.presets.push_back({"Odd", {{"bond", std::string("nosuch")}}});
    QVERIFY(fault_of(choice).find("preset Odd") != std::string::npos);
  }

  void aFollowedValueIsOfTheParametersKind() {
    const auto with = [](const char* value) {
      return fault_of(document(R"({"id": "n", "type": "gradient_noise", "params": {"scale": {"follow": "x"}}})",
                               std::string(R"(, "values": [{"id": "x", "value": )") + value + "}]"));
    };
    QCOMPARE(with("4"), std::string());
    QCOMPARE(with(R"({"formula": "2 + 2"})"), std::string());
    QVERIFY(with("[0.1, 0.2, 0.3]").find("another kind") != std::string::npos);
    QVERIFY(with(R"("four")").find("another kind") != std::string::npos);
    QVERIFY(fault_of(document(R"({"id": "n", "type": "colour", "params": {"colour": {"follow": "x"}}})",
                              R"(, "values": [{"id": "x", "value": 1}])"))
                .find("is a number") != std::string::npos);
  }

  // What `render` refuses, `check` refuses: names and functions that are not there, in every place of a formula.
  void formulasAreCheckedAsTheyAreWoven_data() {
    QTest::addColumn<QString>("node");
    QTest::addColumn<bool>("good");
    const auto row = [](const char* name, const char* node, bool good) {
      QTest::newRow(name) << QString::fromLatin1(node) << good;
    };
    row("node", R"x({"id": "f", "type": "formula", "params": {"formula": "a * sin(u) + b"}})x", true);
    row("node, elsewhere", R"x({"id": "f", "type": "formula", "params": {"formula": "a(u + 0.1, v)"}})x", true);
    row("node, a name", R"x({"id": "f", "type": "formula", "params": {"formula": "a * nosuch"}})x", false);
    row("node, a function", R"x({"id": "f", "type": "formula", "params": {"formula": "nosuch(a)"}})x", false);
    row("number", R"x({"id": "n", "type": "gradient_noise", "params": {"scale": {"formula": "2 * 3"}}})x", true);
    row("number, a name", R"x({"id": "n", "type": "gradient_noise", "params": {"scale": {"formula": "x + 1"}}})x",
        false);
    row("units", R"x({"id": "m", "type": "masonry", "params": {"tone": {"formula": "random(0, 1) * row / rows"}}})x",
        true);
    row("units, a vector", R"x({"id": "m", "type": "masonry", "params": {"tone": {"formula": "centre.x"}}})x", true);
    row("units, a name", R"x({"id": "m", "type": "masonry", "params": {"tone": {"formula": "depth"}}})x", false);
    row("units, no map", R"x({"id": "m", "type": "masonry", "params": {"tone": {"formula": "map_a"}}})x", false);
    row("units, a function",
        R"x({"id": "m", "type": "masonry", "params": {"tone": {"formula": "chance(1, 2, 3, 4)"}}})x", false);
  }
  void formulasAreCheckedAsTheyAreWoven() {
    QFETCH(QString, node);
    QFETCH(bool, good);
    const std::string fault = fault_of(document(node.toStdString()));
    QVERIFY2(fault.empty() == good, fault.c_str());
  }

  // Noises can be exchanged while a warp is tuned: the mean push is the amount, whatever the noise.
  void anEvenSlopePushesAlike() {
    const auto push = [](double scale, double even) {
      Material m = edit::add_node(edit::empty_material(), catalogue(), "gradient_noise", "relief", 0, 0);
      m = edit::set_param(std::move(m), "gradient_noise", "scale", scale);
      m = edit::add_node(std::move(m), catalogue(), "formula", "relief", 0, 0);
      m = edit::set_param(std::move(m), "formula", "formula", std::string("sin(6.2831853 * u)"));
      m = edit::add_node(std::move(m), catalogue(), "warp", "relief", 0, 0);
      m = edit::set_param(std::move(m), "warp", "even_slope", even);
      m = edit::set_param(std::move(m), "warp", "amount", 0.02);
      m = edit::connect(std::move(m), {"formula", "result", "warp", "source"});
      m = edit::connect(std::move(m), {"gradient_noise", "value", "warp", "drive"});
      const auto g = *flatten(m, catalogue());
      Weaver w(0);
      const auto r = w.weave(g, {*g.find("warp.result"), *g.find("formula.result")}, 512, Stop{});
      double sum = 0;
      for (std::size_t i = 0; i < r->fields[0].strand[0]->texels(); ++i)
        sum += std::pow(static_cast<double>(r->fields[0].strand[0]->data()[i] - r->fields[1].strand[0]->data()[i]), 2);
      return std::sqrt(sum);
    };
    QVERIFY(push(24, 0) / push(4, 0) > 2);
    QVERIFY(std::abs(push(24, 1) / push(4, 1) - 1) < 0.15);
  }

  void aTurnThatIsSnappedSaysSo() {
    const NodeType& t = *catalogue().find("transform");
    const auto note = [&](double turn, double repeats) {
      const Resolved params{{"turn", turn}, {"repeats", repeats}};
      return t.note(NodeCall(t, params, 0, 64, {}));
    };
    QCOMPARE(note(0, 1), std::string());
    QCOMPARE(note(90, 3), std::string());
    QVERIFY(note(30, 1).find("Snapped to 0") != std::string::npos);
    QVERIFY(note(30, 5).find("repeats") != std::string::npos);
  }

  void whatAFileCutsOffIsTold() {
    Material m = document(R"({"id": "n", "type": "gradient_noise", "params": {}},
                              {"id": "m", "type": "multiply", "params": {"b": 3}})",
                          R"(, "threads": [{"from": "n.value", "to": "m.a"}], "hem": {"height": "m.result"})");
    QTemporaryDir dir;
    DeliveryPlan plan;
    plan.folder = dir.path().toStdString();
    plan.size = 64;
    plan.files = usual_files(m);
    Weaver w(0);
    const auto cut = deliver(m, catalogue(), w, plan, Stop{});
    QVERIFY(cut.ok() && cut->warnings.size() == 1);
    QVERIFY(cut->warnings[0].find("height runs from") != std::string::npos);
    plan.files[0].format = ImageFormat::exr;
    plan.files[0].bits = 32;
    QVERIFY(deliver(m, catalogue(), w, plan, Stop{})->warnings.empty());
    plan.files = usual_files(m);
    m = edit::set_hem(std::move(m), "height", "n.value");
    QVERIFY(deliver(m, catalogue(), w, plan, Stop{})->warnings.empty());
  }
};

QTEST_GUILESS_MAIN(TestWrongNumbers)
#include "tst_wrong_numbers.moc"
