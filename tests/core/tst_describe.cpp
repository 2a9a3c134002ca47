// How parameters are described, and how content is known.
#include <QtTest>
#include <set>

#include "core/base/key.h"
#include "core/graph/json.h"
#include "core/graph/offered.h"
#include "core/graph/parameter.h"
#include "core/nodes/catalogue.h"

using namespace loom;

class TestDescribe : public QObject {
  Q_OBJECT
 private Q_SLOTS:
  // What a slider spans is also what is accepted, unless limits are given, before or after.
  void limitsFollowWhatIsUsefulUnlessTheyAreGiven() {
    const Parameter plain = scalar("a", "A", 0.5);
    QCOMPARE(plain.useful.least, 0.0);
    QCOMPARE(plain.limits.most, 1.0);
    const Parameter wide = scalar("a", "A", 2.0).useful(-4, 4);
    QCOMPARE(wide.limits.least, -4.0);
    QCOMPARE(wide.limits.most, 4.0);
    const Parameter after = scalar("a", "A", 2.0).useful(0, 4).limits(0, 100);
    const Parameter before = scalar("a", "A", 2.0).limits(0, 100).useful(0, 4);
    for (const Parameter& p : {after, before}) {
      QCOMPARE(p.useful.most, 4.0);
      QCOMPARE(p.limits.most, 100.0);
    }
  }
  void aStandInTakesAnyNumberWhileItsPegIsFree() {
    const Parameter p = stand_in("source", "Source", 0.25, "Input");
    QCOMPARE(p.limits.least, -1e6);
    QCOMPARE(p.limits.most, 1e6);
    QCOMPARE(p.column, std::string("Input"));
    NodeType t{.id = "t", .label = "T"};
    t.inputs = {{"source", "Source"}};
    t.parameters = {p};
    QVERIFY(parameter_acts(t, p, {}, [](std::string_view) { return false; }));
    QVERIFY(!parameter_acts(t, p, {}, [](std::string_view peg) { return peg == "source"; }));
    QVERIFY(!p.acts.reason.empty() && !p.help.empty());
  }
  void choicesBeginWithTheFirstUnlessAnotherIsNamed() {
    const Parameter first = choice("c", "C", {"low", "high"}), named = choice("c", "C", {"low", "high"}, "high");
    QCOMPARE(std::get<std::string>(first.initial), std::string("low"));
    QCOMPARE(std::get<std::string>(named.initial), std::string("high"));
    QCOMPARE(named.options.size(), std::size_t{2});
  }
  void everyBuilderSaysItsKind() {
    const std::vector<std::pair<Parameter, ParameterKind>> all = {
        {integer("i", "I", 3), ParameterKind::integer},
        {toggle("t", "T", true), ParameterKind::toggle},
        {vector2("v", "V", 1, 2), ParameterKind::vector2},
        {colour("c", "C", {0.1, 0.2, 0.3}), ParameterKind::colour},
        {text("x", "X", "words"), ParameterKind::text},
        {figure("g", "G", "<svg/>"), ParameterKind::figure},
        {file("f", "F", {"png"}), ParameterKind::file},
        {formula("m", "M", "a + 1"), ParameterKind::formula},
        {points("p", "P"), ParameterKind::points},
        {strokes("h", "H"), ParameterKind::strokes},
        {seed("Chance"), ParameterKind::seed}};
    for (const auto& [p, kind] : all) QVERIFY2(p.kind == kind, p.id.c_str());
    QCOMPARE(std::get<double>(all[1].first.initial), 1.0);
    QCOMPARE(std::get<Vector>(all[2].first.initial), (Vector{1, 2}));
    QCOMPARE(all[6].first.options.front(), std::string("png"));
  }
  // Descriptions are whole: what the tray, the docs and the checks read of every parameter is there.
  void everyParameterOfTheCatalogueIsDescribed() {
    int n = 0;
    for (const NodeType* type : catalogue().all())
      for (const Parameter& p : type->parameters) {
        const QByteArray where = (type->id + "." + p.id).c_str();
        QVERIFY2(!p.label.empty() && !p.column.empty() && !p.help.empty(), where);
        QVERIFY2(p.limits.least <= p.useful.least && p.useful.most <= p.limits.most, where);
        QVERIFY2(p.acts.formula.empty() == p.acts.reason.empty(), where);
        if (p.kind == ParameterKind::choice) {
          const auto& first = std::get<std::string>(p.initial);
          QVERIFY2(std::find(p.options.begin(), p.options.end(), first) != p.options.end(), where);
        }
        if (const auto* number = std::get_if<double>(&p.initial); number && p.kind != ParameterKind::toggle)
          QVERIFY2(*number >= p.limits.least && *number <= p.limits.most, where);
        ++n;
      }
    QVERIFY(n > 300);
    qInfo("%d parameters of %zu types", n, catalogue().all().size());
  }
  // A copied description is its own; one that is moved from leaves a whole one behind it.
  void descriptionsAreValues() {
    const Parameter a = scalar("a", "A", 0.5).per_unit().help("One.");
    Parameter b = a;
    b.label = "B";
    QCOMPARE(a.label, std::string("A"));
    const Parameter c = std::move(b);
    QVERIFY(c.per_unit && c.label == "B" && c.help == "One.");
    Catalogue two;
    NodeType type{.id = "one", .label = "One"};
    type.parameters = {a};
    two.add(type);
    type.label = "Other";
    QCOMPARE(two.find("one")->label, std::string("One"));
    QVERIFY(two.find("one")->parameter("a") && !two.find("one")->parameter("b"));
  }

  // What a dial offers is described by the parameter that follows it.
  void anOfferedParameterIsThatWhichFollows() {
    Node n;
    n.id = n.type = "blur";
    n.params["radius"] = Follow{"soft"};
    Value v;
    v.id = "soft";
    v.dial = Dial{"Softness", "Edges", "How soft.", 0, 0.05, 0.01};
    const Parameter p = offered_parameter({std::make_shared<const Node>(n)}, catalogue(), v);
    const Parameter& source = *catalogue().find("blur")->parameter("radius");
    QCOMPARE(p.label, std::string("Softness"));
    QCOMPARE(p.column, std::string("Edges"));
    QCOMPARE(p.useful.most, 0.05);
    QVERIFY(p.unit == source.unit && p.kind == source.kind);
    QCOMPARE(p.limits.most, source.limits.most);
    const Parameter lonely = offered_parameter({}, catalogue(), v);
    QVERIFY(lonely.kind == ParameterKind::scalar);
  }

  // ---- keys

  // XXH3 of nothing, 128 bits: a published test value of the method (from memory).
  void theKeyOfNothingIsThatOfTheMethod() {
    const Key k = key_of("");
    QCOMPARE(k.high, std::uint64_t{0x99aa06d3014798d8});
    QCOMPARE(k.low, std::uint64_t{0x6001c324468d497f});
  }
  void partsDoNotRunTogether() {
    const auto of = [](auto... parts) {
      KeyMaker maker;
      (maker.add(parts), ...);
      return maker.key();
    };
    using V = std::string_view;
    QVERIFY(of(V("ab"), V("c")) != of(V("a"), V("bc")));
    QVERIFY(of(V("")) != of(V(""), V("")));
    QVERIFY(of(1) != of(2));
    QVERIFY(of(V("1")) != of(1));
    QVERIFY(of(0.0) == of(-0.0));  // one value, one content
    QVERIFY(of(of(V("a"))) == of(of(V("a"))));
  }
  void likeKeysOfManyContentsAreNotSeen() {
    std::set<Key> keys;
    for (int i = 0; i < 200000; ++i) keys.insert(KeyMaker().add(i).key());
    QCOMPARE(keys.size(), std::size_t{200000});
  }
};

QTEST_GUILESS_MAIN(TestDescribe)
#include "tst_describe.moc"
