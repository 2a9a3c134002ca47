// The evaluator: fused or not, cached or not, cancelled or not, the planes are the same.
#include <oneapi/tbb/global_control.h>

#include <thread>

#include "core/bolt/package.h"
#include "core/graph/json.h"
#include "core/graph/validate.h"
#include "tests/core/alone.h"

using namespace loom;
using namespace loom::test;

class TestWeave : public QObject {
  Q_OBJECT
  static Material demo() { return *open_material(LOOM_DEMO "/quay-floor.loom"); }
  static std::vector<Want> hem_of(const FlatGraph& g) {
    std::vector<Want> wants;
    for (const auto& [slot, ref] : g.hem) wants.emplace_back(ref, slot_kind(slot));
    return wants;
  }
  static Woven weave(Weaver& w, const Material& m, int size, const WeaveOptions& options = {}) {
    const auto g = flatten(m, catalogue());
    if (!g) qFatal("%s", g.error().text().c_str());
    auto r = w.weave(*g, hem_of(*g), size, Stop{}, options);
    if (!r) qFatal("%s", r.error().text().c_str());
    return std::move(r).value();
  }
  static bool same(const Woven& a, const Woven& b) {
    for (std::size_t i = 0; i < a.fields.size(); ++i)
      for (std::size_t k = 0; k < planes_of(a.fields[i]).size(); ++k)
        if (!same_bits(*planes_of(a.fields[i])[k], *planes_of(b.fields[i])[k])) return false;
    return true;
  }
  static Material noise_into(const std::string& type, const std::string& peg, const std::string& out) {
    Material m = edit::add_node(edit::empty_material(), catalogue(), "gradient_noise", "relief", 0, 0);
    m = edit::add_node(std::move(m), catalogue(), type, "relief", 0, 1);
    m = edit::connect(std::move(m), {"gradient_noise", "value", type, peg});
    return edit::set_hem(std::move(m), "height", type + "." + out);
  }

 private Q_SLOTS:
  void fusedEqualsNodeByNode() {
    Weaver w(0);
    WeaveOptions apart;
    apart.fuse = apart.keep = false;
    const Woven a = weave(w, demo(), 256), b = weave(w, demo(), 256, apart);
    QVERIFY(same(a, b));
  }
  void cacheAndThreadsChangeNoBits() {
    Weaver cached(std::size_t{1} << 30), none(0);
    const Woven cold = weave(cached, demo(), 256), warm = weave(cached, demo(), 256);
    QVERIFY(same(cold, warm));
    QVERIFY(warm.times.empty());  // nothing was computed again
    const oneapi::tbb::global_control one(oneapi::tbb::global_control::max_allowed_parallelism, 1);
    WeaveOptions forget;
    forget.keep = false;
    QVERIFY(same(cold, weave(none, demo(), 256, forget)));
  }
  void aDialRecomputesOnlyWhatLiesBelowIt() {
    Weaver w(std::size_t{1} << 30);
    weave(w, demo(), 256);
    const Woven after = weave(w, edit::set_value(demo(), "salt", 0.6), 256);
    const auto g = *flatten(demo(), catalogue());
    for (const NodeTime& t : after.times) {
      const std::string& path = g.nodes[static_cast<std::size_t>(t.node)].path;
      QVERIFY2(path != "laid" && path != "scuffs" && path != "rim", path.c_str());
    }
    QVERIFY(!after.times.empty());
  }
  void theCacheKeepsToItsBudget() {
    Weaver w(std::size_t{3} << 20);
    weave(w, demo(), 256);
    QVERIFY(w.cached_bytes() <= std::size_t{3} << 20);
    w.forget();
    QCOMPARE(w.cached_bytes(), std::size_t{0});
  }
  void cancellingEndsSoonAndKeepsNothingHalfDone() {
    Weaver w(std::size_t{1} << 30);
    const auto g = *flatten(demo(), catalogue());
    Stop stop;
    QElapsedTimer timer;
    std::thread late([&] {
      std::this_thread::sleep_for(std::chrono::milliseconds(60));
      timer.start();
      stop.ask();
    });
    const auto r = w.weave(g, hem_of(g), 2048, stop);
    const qint64 took = timer.isValid() ? timer.elapsed() : 0;
    late.join();
    QVERIFY(!r.ok());
    QCOMPARE(r.error().what, std::string("cancelled"));
    QVERIFY2(took < 1000, "a cancelled weave ends long before a whole one");
    Weaver fresh(0);
    QVERIFY(same(weave(w, demo(), 256), weave(fresh, demo(), 256)));
  }
  void bypassPassesTheFirstInput() {
    const Material m = noise_into("invert", "value", "value");
    Weaver w(0);
    const Woven through = weave(w, edit::set_bypass(m, "invert", true), 64);
    const Woven plain = weave(w, edit::set_hem(m, "height", "gradient_noise.value"), 64);
    QVERIFY(same(through, plain));
  }
  void channelsArePickedOnTheThread() {
    std::string colour;
    Material m = edit::add_node(edit::empty_material(), catalogue(), "colour", "relief", 0, 0, &colour);
    m = edit::set_param(std::move(m), colour, "colour", Vector{0.1, 0.2, 0.4});
    m = edit::add_node(std::move(m), catalogue(), "blur", "relief", 0, 1);
    m = edit::add_node(std::move(m), catalogue(), "threshold", "relief", 0, 2);
    m = edit::set_param(std::move(m), "threshold", "level", 0.3);
    m = edit::set_hem(edit::connect(std::move(m), {colour, "colour", "threshold", "value", 2}), "height",
                      "threshold.mask");
    Weaver w(0);
    QCOMPARE(weave(w, m, 64).fields[0].strand[0]->at(0, 0), 1.0f);
    m.threads[0].channel = 0;
    QCOMPARE(weave(w, m, 64).fields[0].strand[0]->at(0, 0), 0.0f);
  }
  void groupsUnfoldAndInstancesDiffer() {
    Json j = Json::parse(R"({"format": 2, "lanes": [{"id": "a", "name": "A"}],
      "groups": [{"id": "clouds", "name": "Clouds", "values": [{"id": "inner", "value": 3}],
        "nodes": [{"id": "n", "type": "gradient_noise", "params": {"scale": {"follow": "inner"}}}, {"id": "t", "type": "tone", "params": {}}],
        "threads": [{"from": "n.value", "to": "t.value"}],
        "inputs": [{"id": "place", "kind": "vector2", "to": ["n.coordinates"]}], "outputs": [{"id": "cloud", "kind": "scalar", "from": "t.value"}]}],
      "nodes": [{"id": "one", "type": "group", "group": "clouds"}, {"id": "two", "type": "group", "group": "clouds", "params": {"seed": 5}},
                {"id": "same", "type": "group", "group": "clouds"}, {"id": "plain", "type": "gradient_noise", "params": {"scale": 3}},
                {"id": "c", "type": "coordinates"}],
      "threads": [{"from": "c.coordinates", "to": "same.place"}], "hem": {"height": "one.cloud"}})");
    const auto m = read_material(j.dump());
    QVERIFY(m.ok());
    QVERIFY(validate(*m, catalogue()).empty());
    const auto g = flatten(*m, catalogue());
    QVERIFY(g.ok());
    Weaver w(0);
    const auto r =
        w.weave(*g, {*g->find("one.cloud"), *g->find("two.cloud"), *g->find("same.cloud"), *g->find("plain.value")},
                128, Stop{});
    QVERIFY(r.ok());
    const auto& f = r->fields;
    QVERIFY(same_bits(*f[0].strand[0], *f[3].strand[0]));        // seed 0: as the definition
    QVERIFY(furthest(*f[0].strand[0], *f[1].strand[0]) > 0.1);   // its own seed
    QVERIFY(furthest(*f[0].strand[0], *f[2].strand[0]) < 1e-4);  // coordinates from outside
  }
  void setsCarryTheirMaps() {
    Material m = noise_into("make_set", "roughness", "set");
    m.hem.clear();
    m = edit::add_node(std::move(m), catalogue(), "open_set", "relief", 0, 2);
    m = edit::connect(std::move(m), {"make_set", "set", "open_set", "set"});
    const auto g = *flatten(m, catalogue());
    Weaver w(0);
    const auto r = w.weave(g,
                           {*g.find("open_set.roughness"), *g.find("gradient_noise.value"), *g.find("open_set.normal"),
                            *g.find("make_set.set")},
                           64, Stop{});
    QVERIFY(r.ok());
    QVERIFY(same_bits(*r->fields[0].strand[0], *r->fields[1].strand[0]));
    QCOMPARE(r->fields[2].strand[2]->at(3, 3), 1.0f);
    QCOMPARE(r->fields[3].members.size(), hem_slots().size());
  }
  void labelsInheritTheirKeysFromTheWorkingSize() {
    Material m = noise_into("label_regions", "mask", "regions");
    m.hem.clear();
    m = edit::set_param(std::move(m), "gradient_noise", "octaves", 1.0);
    m = edit::add_node(std::move(m), catalogue(), "region_values", "relief", 0, 2);
    m = edit::connect(std::move(m), {"label_regions", "regions", "region_values", "regions"});
    m = edit::set_hem(std::move(m), "height", "region_values.grey");
    Weaver w(std::size_t{1} << 30);
    const Woven small = weave(w, m, 512), work = weave(w, m, kWorkingSize), large = weave(w, m, 2048);
    const Plane half = reduced(*work.fields[0].strand[0]), quarter = reduced(reduced(*large.fields[0].strand[0]));
    QVERIFY(share_apart(*small.fields[0].strand[0], half, 0.02) < 0.02);
    QVERIFY(share_apart(*small.fields[0].strand[0], quarter, 0.02) < 0.02);
  }
  void aFaultInAFormulaIsToldAndGivesZeros() {
    Material m = noise_into("formula", "a", "result");
    m = edit::set_param(std::move(m), "formula", "formula", std::string("a + nonsense"));
    Weaver w(std::size_t{1} << 30);  // the cache must not hide it the second time
    for (int round = 0; round < 2; ++round) {
      const Woven r = weave(w, m, 64);
      QCOMPARE(r.faults.size(), std::size_t{1});
      QVERIFY(r.faults.begin()->second.text().find("nonsense") != std::string::npos);
      QCOMPARE(range_of(*r.fields[0].strand[0]).most, 0.0f);
    }
  }
  void parametersMayBeFormulasOfValues() {
    Material m = noise_into("blur", "source", "result");
    Value v;
    v.id = "soft";
    v.value = 0.02;
    m.values.push_back(v);
    m = edit::set_param(std::move(m), "blur", "radius", Formula{"soft * 2", {}});
    Weaver w(0);
    const Woven a = weave(w, m, 64), b = weave(w, edit::set_param(m, "blur", "radius", 0.04), 64);
    QVERIFY(same(a, b));
    m = edit::set_param(std::move(m), "blur", "radius", Formula{"soft * gone", {}});
    const auto g = flatten(m, catalogue());
    QVERIFY(!g.ok());
    QVERIFY(g.error().text().find("gone") != std::string::npos);
  }
  void contentNotIdentityIsTheKey() {
    const Material m = edit::duplicate(noise_into("blur", "source", "result"), {"gradient_noise", "blur"}, false);
    const auto g = *flatten(m, catalogue());
    QCOMPARE(g.nodes[0].key, g.nodes[2].key);
    QVERIFY(g.nodes[0].key != g.nodes[1].key);
  }
};

QTEST_GUILESS_MAIN(TestWeave)
#include "tst_weave.moc"
