// Reworking a graph: splice, lift out, swap, replace, blend two, parameters, and what feeds what.
#include <QtTest>

#include "core/graph/json.h"
#include "core/graph/rework.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"

using namespace loom;

class TestRework : public QObject {
  Q_OBJECT
  // noise -> tone -> dye -> base colour, the tone also the roughness.
  static Material chain() {
    Material m = edit::empty_material();
    int row = 0;
    for (const char* type : {"gradient_noise", "tone", "dye", "bands"})
      m = edit::add_node(std::move(m), catalogue(), type, "relief", 0, row++);
    m = edit::connect(std::move(m), {"gradient_noise", "value", "tone", "value"});
    m = edit::connect(std::move(m), {"tone", "value", "dye", "value"});
    m = edit::set_hem(std::move(m), "base_colour", "dye.colour");
    return edit::set_hem(std::move(m), "roughness", "tone.value");
  }
  static std::string from(const Material& m, const char* node, const char* peg) {
    const Thread* t = m.into(node, peg);
    return t ? t->from_node + "." + t->from_peg : "";
  }
  static bool whole(const Material& m) { return validate(m, catalogue()).empty(); }

 private Q_SLOTS:
  void chainIsWhole() { QVERIFY(whole(chain())); }

  void upstreamAndDownstream() {
    const Material m = chain();
    QCOMPARE(edit::upstream(m, {"dye"}), (std::vector<std::string>{"gradient_noise", "tone"}));
    QCOMPARE(edit::downstream(m, {"gradient_noise"}), (std::vector<std::string>{"tone", "dye"}));
    QVERIFY(edit::upstream(m, {"bands"}).empty());
    QCOMPARE(edit::feeding_nothing(m), std::vector<std::string>{"bands"});
  }
  void aFormulasVectorGoesWherePlacesAreTaken() {
    Material m = edit::add_node(edit::empty_material(), catalogue(), "formula", "relief", 0, 0);
    m = edit::set_param(std::move(m), "formula", "formula", std::string("vector(u + a, 7 * a)"));
    QCOMPARE(output_kind(m, catalogue(), "formula", "result"), Kind::vector2);
    const NodeType &noise = *catalogue().find("gradient_noise"), &warp = *catalogue().find("warp");
    const Peg* peg = edit::feeding_peg(noise, "formula.result", Kind::vector2);
    QVERIFY(peg && peg->id == "coordinates");
    QVERIFY(!edit::feeding_peg(noise, "formula.result", Kind::scalar));
    QVERIFY(edit::feeds_data(edit::feeding_peg(warp, "formula.result", Kind::vector2)->id));
    m = edit::set_param(std::move(m), "formula", "formula", std::string("a.x * length(a)"));
    QCOMPARE(output_kind(m, catalogue(), "formula", "result"), Kind::scalar);
    m = edit::set_param(std::move(m), "formula", "formula", std::string("vector(1,"));
    QCOMPARE(output_kind(m, catalogue(), "formula", "result"), Kind::scalar);
  }
  void splicingAfterAnOutputTakesAllItsReaders() {
    Material m = edit::add_node(chain(), catalogue(), "invert", "relief", 0, 5);
    m = edit::splice_after(std::move(m), catalogue(), "tone.value", "invert");
    QCOMPARE(from(m, "invert", "value"), std::string("tone.value"));
    const std::string out = "invert." + catalogue().find("invert")->outputs.front().id;
    QCOMPARE(from(m, "dye", "value"), out);
    QCOMPARE(m.hem.at("roughness"), out);
    QVERIFY(whole(m));
    // And out again, all is as it was.
    m = edit::lift_out(std::move(m), catalogue(), "invert");
    QCOMPARE(from(m, "dye", "value"), std::string("tone.value"));
    QCOMPARE(m.hem.at("roughness"), std::string("tone.value"));
    QVERIFY(whole(m) && !m.node("invert"));
  }
  void splicingIntoOneThreadLeavesTheOthers() {
    Material m = edit::add_node(chain(), catalogue(), "blur", "relief", 0, 5);
    const Thread into = *m.into("dye", "value");
    m = edit::splice_into(std::move(m), catalogue(), into, "blur");
    QCOMPARE(from(m, "dye", "value"), std::string("blur.result"));
    QCOMPARE(m.hem.at("roughness"), std::string("tone.value"));
    QVERIFY(whole(m));
  }
  void whatDoesNotFitIsLeft() {
    // A generator reads nothing, and regions do not take a grey.
    Material m = edit::add_node(chain(), catalogue(), "region_values", "relief", 0, 5);
    QCOMPARE(write_material(edit::splice_after(m, catalogue(), "tone.value", "region_values")), write_material(m));
    QCOMPARE(write_material(edit::splice_after(m, catalogue(), "tone.value", "bands")), write_material(m));
    // A node cannot be spliced into a thread that would close a ring.
    m = chain();
    QCOMPARE(write_material(edit::splice_into(m, catalogue(), *m.into("tone", "value"), "dye")), write_material(m));
  }
  void liftingTheFirstUnplugsItsReaders() {
    const Material m = edit::lift_out(chain(), catalogue(), "gradient_noise");
    QVERIFY(!m.node("gradient_noise") && !m.into("tone", "value") && whole(m));
  }
  void swappingExchangesThreadsAndParameters() {
    Material m = edit::add_node(chain(), catalogue(), "blend", "relief", 0, 5);
    m = edit::connect(std::move(m), {"tone", "value", "blend", "lower"});
    m = edit::set_param(std::move(m), "blend", "upper", 0.75);
    const auto swapped = edit::swap_inputs(m, catalogue(), "blend");
    QVERIFY(swapped.has_value());
    QCOMPARE(from(*swapped, "blend", "upper"), std::string("tone.value"));
    QCOMPARE(from(*swapped, "blend", "lower"), std::string());
    QCOMPARE(std::get<double>(swapped->node("blend")->params.at("lower")), 0.75);
    QCOMPARE(write_material(*edit::swap_inputs(*swapped, catalogue(), "blend")), write_material(m));
    QVERIFY(!edit::swap_inputs(m, catalogue(), "gradient_noise"));
  }
  void replacingKeepsWhatFits() {
    Material m = chain();
    m = edit::set_param(std::move(m), "gradient_noise", "scale", 9.0);
    m = edit::set_param(std::move(m), "gradient_noise", "sum", std::string("ridged"));
    const double seed = std::get<double>(m.node("gradient_noise")->params.at("seed"));
    m = edit::replace_type(std::move(m), catalogue(), "gradient_noise", "value_noise");
    QCOMPARE(m.node("gradient_noise")->type, std::string("value_noise"));
    QCOMPARE(std::get<double>(m.node("gradient_noise")->params.at("scale")), 9.0);
    QCOMPARE(std::get<std::string>(m.node("gradient_noise")->params.at("sum")), std::string("ridged"));
    QCOMPARE(std::get<double>(m.node("gradient_noise")->params.at("seed")), seed);
    QCOMPARE(from(m, "tone", "value"), std::string("gradient_noise.value"));
    QVERIFY(whole(m));
    // Cellular noise has no output `value` and no `sum`: its first output stands in.
    m = edit::replace_type(std::move(m), catalogue(), "gradient_noise", "cellular_noise");
    QCOMPARE(from(m, "tone", "value"), std::string("gradient_noise.nearest"));
    QVERIFY(!m.node("gradient_noise")->params.count("sum") && whole(m));
  }
  void replacingMovesThreadsToPegsThatFit() {
    Material m = chain();  // the tone's peg is `value`, the blur's `source`
    m = edit::replace_type(std::move(m), catalogue(), "tone", "blur");
    QCOMPARE(from(m, "tone", "source"), std::string("gradient_noise.value"));
    QCOMPARE(from(m, "dye", "value"), std::string("tone.result"));
    QCOMPARE(m.hem.at("roughness"), std::string("tone.result"));
    QVERIFY(whole(m));
  }
  void everyTypeCanBeReplacedByEveryOther() {
    const auto all = catalogue().all();
    for (std::size_t i = 0; i < all.size(); ++i) {
      Material m = edit::replace_type(chain(), catalogue(), "tone", all[i]->id);
      const auto faults = validate(m, catalogue());
      QVERIFY2(faults.empty(), faults.empty() ? "" : (all[i]->id + ": " + faults.front().text()).c_str());
      m = edit::replace_type(std::move(m), catalogue(), "tone", all[(i * 7 + 3) % all.size()]->id);
      QVERIFY2(validate(m, catalogue()).empty(), all[i]->id.c_str());
    }
  }
  void blendingTwoHandsOnTheUpper() {
    std::string blend;
    const Material m = edit::blend_two(chain(), catalogue(), "bands.mask", "tone.value", &blend);
    QCOMPARE(from(m, blend.c_str(), "upper"), std::string("tone.value"));
    QCOMPARE(from(m, "dye", "value"), blend + ".result");
    QCOMPARE(m.hem.at("roughness"), blend + ".result");
  }
  void modesStepRoundInBothDirections() {
    Material m = edit::add_node(chain(), catalogue(), "blend", "relief", 0, 5);
    const auto& modes = catalogue().find("blend")->parameter("mode")->options;
    Material next = edit::step_choice(m, catalogue(), {"blend", "tone"}, "mode", 1);
    QCOMPARE(std::get<std::string>(next.node("blend")->params.at("mode")), modes[1]);
    next = edit::step_choice(m, catalogue(), {"blend"}, "mode", -1);
    QCOMPARE(std::get<std::string>(next.node("blend")->params.at("mode")), modes.back());
  }
  void parametersArePastedWhereTheyFit() {
    Material m = edit::add_node(chain(), catalogue(), "value_noise", "relief", 1, 0);
    m = edit::set_param(std::move(m), "gradient_noise", "scale", 9.0);
    m = edit::set_param(std::move(m), "gradient_noise", "gain", 0.7);
    const double seed = std::get<double>(m.node("value_noise")->params.at("seed"));
    const Material all = edit::paste_parameters(m, catalogue(), *m.node("gradient_noise"), {"value_noise", "dye"});
    QCOMPARE(std::get<double>(all.node("value_noise")->params.at("scale")), 9.0);
    QCOMPARE(std::get<double>(all.node("value_noise")->params.at("seed")), seed);
    QVERIFY(all.node("dye")->params.empty());
    const Material one = edit::paste_parameters(m, catalogue(), *m.node("gradient_noise"), {"value_noise"}, {"gain"});
    QVERIFY(!one.node("value_noise")->params.count("scale") && one.node("value_noise")->params.count("gain"));
  }
};

QTEST_GUILESS_MAIN(TestRework)
#include "tst_rework.moc"
