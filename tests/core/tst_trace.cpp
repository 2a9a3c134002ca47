// Following a place back, and the figures of a tile's edges.
#include <QtTest>

#include "core/graph/edit.h"
#include "core/nodes/catalogue.h"
#include "core/plane/seam.h"
#include "core/weave/trace.h"

using namespace loom;

class TestTrace : public QObject {
  Q_OBJECT
  static FlatGraph flat(const Material& m) {
    auto g = flatten(m, catalogue());
    if (!g) qFatal("%s", g.error().text().c_str());
    return std::move(*g);
  }
  static Plane painted(int size, const std::function<double(double, double)>& f) {
    Plane p(size);
    for (int y = 0; y < size; ++y)
      for (int x = 0; x < size; ++x) p.at(x, y) = static_cast<float>(f((x + 0.5) / size, (y + 0.5) / size));
    return p;
  }
  // strong * 0.9 + weak * 0.1, as a formula of two noises.
  static Material mixed() {
    Material m = edit::empty_material();
    m = edit::add_node(std::move(m), catalogue(), "gradient_noise", "relief", 0, 0);
    m = edit::add_node(std::move(m), catalogue(), "value_noise", "relief", 0, 1);
    m = edit::add_node(std::move(m), catalogue(), "formula", "relief", 0, 2);
    m = edit::add_node(std::move(m), catalogue(), "invert", "relief", 0, 3);
    m = edit::set_param(std::move(m), "formula", "formula", std::string("0.1 * a + 0.9 * b"));
    m = edit::connect(std::move(m), {"gradient_noise", "value", "formula", "a"});
    m = edit::connect(std::move(m), {"value_noise", "value", "formula", "b"});
    return edit::connect(std::move(m), {"formula", "result", "invert", "value"});
  }

 private Q_SLOTS:
  void valuesAreThoseOfTheWovenPlanes() {
    Weaver w(std::size_t{256} << 20);
    const FlatGraph g = flat(mixed());
    const OutputRef out = *g.find("invert." + catalogue().find("invert")->outputs.front().id);
    const auto t = trace(w, catalogue(), g, out, 0.31, 0.77, 256, Stop{});
    QVERIFY(t.ok());
    QCOMPARE(t->outputs.size(), std::size_t{4});
    for (const TracedOutput& o : t->outputs) {
      const auto woven = w.weave(g, {o.ref}, 256, Stop{});
      QCOMPARE(o.value[0], woven->fields[0].strand[0]->at(static_cast<int>(0.31 * 256), static_cast<int>(0.77 * 256)));
    }
  }
  void theStrongerInputIsFollowed() {
    Weaver w(std::size_t{256} << 20);
    const FlatGraph g = flat(mixed());
    const OutputRef out = *g.find("invert." + catalogue().find("invert")->outputs.front().id);
    int strong = 0, all = 0;
    for (double u : {0.1, 0.35, 0.62, 0.9})
      for (double v : {0.2, 0.5, 0.8}) {
        const auto t = trace(w, catalogue(), g, out, u, v, 128, Stop{});
        QVERIFY(t.ok() && t->path.size() == 2);
        QCOMPARE(g.nodes[static_cast<std::size_t>(t->path[0].node)].path, std::string("invert"));
        strong += t->path[1].peg == "b";
        ++all;
        // Influence is what putting the mean there changes: the inversion itself changes nothing of its size.
        QVERIFY(t->path[1].influence <= t->path[0].influence + 0.5);
      }
    QVERIFY2(strong >= all - 2, qPrintable(QString::number(strong)));
  }
  void anUnusedInputHasNoInfluence() {
    Material m = edit::add_node(mixed(), catalogue(), "blend", "relief", 0, 5);
    m = edit::connect(std::move(m), {"gradient_noise", "value", "blend", "lower"});
    m = edit::connect(std::move(m), {"value_noise", "value", "blend", "upper"});
    m = edit::set_param(std::move(m), "blend", "amount", 0.0);
    Weaver w(std::size_t{256} << 20);
    const FlatGraph g = flat(m);
    const auto t = trace(w, catalogue(), g, *g.find("blend.result"), 0.4, 0.4, 128, Stop{});
    QVERIFY(t.ok() && t->path.size() == 1);
    QCOMPARE(t->path[0].peg, std::string("lower"));
  }
  void aCancelledTraceSaysSo() {
    Weaver w(0);
    const FlatGraph g = flat(mixed());
    const Stop stop;
    stop.ask();
    QVERIFY(!trace(w, catalogue(), g, *g.find("formula.result"), 0.5, 0.5, 512, stop).ok());
  }

  // The differences of a sine along u are known: 2 sin(pi k / N) times the mean of |cos|, 2 / pi.
  void aSineGoesOverTheEdgeAsInside() {
    const int n = 256, k = 3;
    const SeamFigures f =
        seam_figures(painted(n, [](double u, double) { return std::sin(6.283185307179586 * 3 * u); }), Stop{});
    QVERIFY(!f.seam());
    const double expected = 2 * std::sin(3.141592653589793 * k / n) * 2 / 3.141592653589793;
    QVERIFY(f.over_u);
    QVERIFY(std::abs(static_cast<double>(f.inside_first) - expected) < 0.02 * expected);
    QVERIFY(std::abs(static_cast<double>(f.most_first) - 2 * std::sin(3.141592653589793 * k / n)) <
            0.02 * static_cast<double>(f.most_first));
  }
  void stepsAndKinksAreToldWithTheirEdge() {
    const SeamFigures step = seam_figures(painted(128, [](double u, double) { return u; }), Stop{});
    QVERIFY(step.seam() && step.over_u);
    QVERIFY(std::abs(static_cast<double>(step.first) - 127.0 / 128) < 1e-5);
    const SeamFigures down = seam_figures(painted(128, [](double, double v) { return v * v; }), Stop{});
    QVERIFY(down.seam() && !down.over_u);
    // Continuous, but with a kink: only the second difference shows it.
    const SeamFigures kink = seam_figures(painted(256, [](double u, double) { return u * (1 - u); }), Stop{});
    QVERIFY(kink.seam() && kink.first <= kink.most_first * 1.01f);
    // A pattern of steps as high as the one at the edge has no seam.
    QVERIFY(!seam_figures(painted(128, [](double u, double) { return u * 8 - std::floor(u * 8); }), Stop{}).seam());
  }
  void everyMakeNodeTiles() {
    for (const NodeType* t : catalogue().all()) {
      if (t->rack != Rack::make || t->follows_positions || t->outputs.front().kind == Kind::regions) continue;
      std::string id;
      const Material m = edit::add_node(edit::empty_material(), catalogue(), t->id, "relief", 0, 0, &id);
      Weaver w(0);
      const FlatGraph g = flat(m);
      const auto woven = w.weave(g, {*g.find(id + "." + t->outputs.front().id)}, 256, Stop{});
      QVERIFY(woven.ok());
      const Field& f = woven->fields[0];
      for (int c = 0; c < strand_count(f.kind); ++c)
        QVERIFY2(!seam_figures(*f.strand[static_cast<std::size_t>(c)], Stop{}).seam(), t->id.c_str());
    }
  }
};

QTEST_GUILESS_MAIN(TestTrace)
#include "tst_trace.moc"
