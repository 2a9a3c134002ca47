// Formula text: what it means, and what is said when it means nothing.
#include <QtTest>

#include "core/program/formula.h"

using namespace loom;

class TestFormula : public QObject {
  Q_OBJECT
 private Q_SLOTS:
  void theKindIsKnownBeforeItIsCompiled() {
    Builder b(Domain::numbers());
    FormulaScope scope;
    std::map<std::string, Kind, std::less<>> kinds;
    const Reg one = b.constant(1);
    for (const auto& [name, kind] :
         {std::pair{"a", Kind::scalar}, {"b", Kind::vector2}, {"c", Kind::colour}, {"n", Kind::normal}}) {
      scope.names[name] = {.kind = kind, .at = {one, one, one, one}};
      kinds[name] = kind;
      scope.maps[name] = [key = name, &scope](Reg, Reg) { return scope.names.at(key); };
    }
    scope.unit_key = one;
    for (const char* text : {"1",
                             "a",
                             "b",
                             "c * a",
                             "a + b",
                             "vector(a, 2)",
                             "vector(a, 2, 3)",
                             "length(b)",
                             "dot(c, c)",
                             "b.y",
                             "random(0, 1)",
                             "pick(1, 2)",
                             "mix(b, vector(1, 2), a)",
                             "c(a, a)",
                             "b(b) * 2",
                             "if(a < 1, c, a)",
                             "-n",
                             "min(a, b, a)",
                             "pi * 2",
                             "chance(0.5)"}) {
      const auto parsed = parse_formula(text);
      QVERIFY2(parsed, text);
      const auto value = compile_formula(*parsed, scope, b);
      QVERIFY2(value && value->kind == kind_of_formula(*parsed, kinds), text);
    }
  }
  void givesItsValue_data() {
    QTest::addColumn<QString>("text");
    QTest::addColumn<double>("expected");
    const std::pair<const char*, double> rows[] = {
        {"1 + 2 * 3", 7},
        {"(1 + 2) * 3", 9},
        {"2 ^ 3 ^ 2", 512},
        {"-2 ^ 2", -4},
        {"2 ^ -1", 0.5},
        {"7 / 2 / 2", 1.75},
        {"10 - 4 - 3", 3},
        {"1/8", 0.125},
        {"1e-3", 0.001},
        {".5", 0.5},
        {"3 < 4", 1},
        {"3 >= 4", 0},
        {"2 == 2", 1},
        {"2 != 2", 0},
        {"min(3, 1, 2)", 1},
        {"max(3, 1, 2)", 3},
        {"clamp(5, 0, 1)", 1},
        {"mix(2, 4, 0.25)", 2.5},
        {"if(1 > 2, 5, 6)", 6},
        {"mod(-1, 4)", 3},
        {"step(0.5, 0.5)", 1},
        {"smoothstep(0, 1, 0.5)", 0.5},
        {"length(vector(3, 4))", 5},
        {"dot(vector(1, 2, 3), vector(4, 5, 6))", 32},
        {"vector(7, 8).y", 8},
        {"sqrt(-1)", 0},
        {"1 / 0", 0},
        {"sin(pi / 2)", 1},
        {"edge * 2", 0.5},
        {"+3", 3},
        {"- - 3", 3},
        {"fract(1.25) + floor(1.75)", 1.25},
        // What leaves the range of floats is held at its end; what has no value then is 0.
        {"1e30 * 1e30", 3e38},
        {"-1e30 * 1e30", -3e38},
        {"1e30 * 1e30 - 1e30 * 1e30", 0}};
    for (const auto& [text, e] : rows) QTest::newRow(text) << QString::fromLatin1(text) << e;
  }
  void givesItsValue() {
    QFETCH(QString, text);
    QFETCH(double, expected);
    const auto v = evaluate_formula(text.toStdString(), {{"edge", 0.25}});
    QVERIFY2(v.ok(), v.ok() ? "" : v.error().text().c_str());
    QVERIFY(std::abs(*v - expected) < 1e-5 * std::max(1.0, std::abs(expected)));
  }

  void tellsTheCharacterAndTheMend_data() {
    QTest::addColumn<QString>("text");
    QTest::addColumn<QString>("where");
    const std::pair<const char*, const char*> rows[] = {{"", "character 1"},
                                                        {"1 +", "character 4"},
                                                        {"0.5 * random(row, 4", "character 13"},
                                                        {"(1", "character 1"},
                                                        {"1)", "character 2"},
                                                        {"2 3", "character 3"},
                                                        {"foo(1)", "character 1"},
                                                        {"1 + bar", "character 5"},
                                                        {"min(1)", "character 1"},
                                                        {"vector(1, 2).z", "character 1"},
                                                        {"1 $ 2", "character 3"},
                                                        {"random(0, 1)", "character 1"},
                                                        {"1.2.3", "character 5"},
                                                        {"vector(1,2).w", "character 13"},
                                                        {"edge(1, 2)", "character 1"}};
    for (const auto& [text, w] : rows)
      QTest::newRow(*text ? text : "empty") << QString::fromLatin1(text) << QString::fromLatin1(w);
  }
  void tellsTheCharacterAndTheMend() {
    QFETCH(QString, text);
    QFETCH(QString, where);
    const auto v = evaluate_formula(text.toStdString(), {});
    QVERIFY(!v.ok());
    QCOMPARE(QString::fromStdString(v.error().where), where);
    QVERIFY(!v.error().what.empty() && !v.error().mend.empty());
  }

  void hostileTextIsRefused() {
    QVERIFY(!parse_formula(std::string(5000, '1')).ok());
    QVERIFY(!parse_formula(std::string(2000, '(')).ok());
    QVERIFY(!parse_formula(std::string(3000, '-') + "1").ok());
    QVERIFY(!parse_formula("1e999").ok());
    QVERIFY(!parse_formula(std::string("a\0b", 3)).ok());
  }

  void vectorsAreWorkedOnStrandByStrand() {
    Builder b(Domain::numbers());
    FormulaScope scope;
    scope.names["p"] = {.kind = Kind::vector2, .at = {b.constant(3), b.constant(5)}};
    const auto v = compile_formula(*parse_formula("p * 2 + 1"), scope, b);
    QVERIFY(v.ok());
    QVERIFY(v->kind == Kind::vector2);
    QCOMPARE(*b.known(v->at[0]), 7.0f);
    QCOMPARE(*b.known(v->at[1]), 11.0f);
  }

  void drawsAreTheSameForTheSameKey() {
    Builder b(Domain::numbers());
    FormulaScope scope;
    scope.unit_key = b.attribute(0);
    const auto two = compile_formula(*parse_formula("random(0, 1, 7) - random(0, 1, 7)"), scope, b);
    QVERIFY(two.ok());
    const auto bells = compile_formula(*parse_formula("bell(0, 1, 7) - bell(0, 1, 7)"), scope, b);
    QVERIFY(bells.ok());
    b.store(bells->at[0], 2);
    const auto fresh = compile_formula(*parse_formula("random(0, 1) - random(0, 1)"), scope, b);
    b.store(two->at[0], 0);
    b.store(fresh->at[0], 1);
    std::vector<float> keys{1, 2, 3, 4}, same(4), other(4), bell(4, 1.0f);
    const float* in = keys.data();
    float* out[] = {same.data(), other.data(), bell.data()};
    run_samples(b.build(), 4, {&in, 1}, out, Stop{});
    for (std::size_t i = 0; i < 4; ++i) {
      QCOMPARE(same[i], 0.0f);
      QCOMPARE(bell[i], 0.0f);
      QVERIFY(other[i] != 0.0f);
    }
  }

  void namesAreListedOnce() {
    const auto names = names_in(*parse_formula("a + b * a + sin(c) + pi"));
    QCOMPARE(names, (std::vector<std::string>{"a", "b", "c"}));
  }
  void mapsAreReadAtAPlace() {
    QCOMPARE(maps_in(*parse_formula("a(u, v) + b * sin(c) + a(v, u)")), (std::vector<std::string>{"a"}));
    QCOMPARE(names_in(*parse_formula("a(u, 0) + b")), (std::vector<std::string>{"a", "u", "b"}));
    Builder b(Domain::numbers());
    FormulaScope scope;
    scope.names["place"] = {.kind = Kind::vector2, .at = {b.constant(3), b.constant(4)}};
    scope.maps["a"] = [&](Reg u, Reg v) {
      return Strands{.kind = Kind::scalar, .at = {b.multiply_add(u, b.constant(10), v)}};
    };
    const auto value = [&](const char* text) { return compile_formula(*parse_formula(text), scope, b); };
    QCOMPARE(*b.known(value("a(1, 2)")->at[0]), 12.0f);
    QCOMPARE(*b.known(value("2 * a(place)")->at[0]), 68.0f);
    for (const char* wrong : {"a()", "a(1)", "a(1, 2, 3)", "a(place, 1)", "c(1, 2)"}) {
      QVERIFY2(!value(wrong).ok(), wrong);
      QVERIFY(!value(wrong).error().mend.empty());
    }
  }
  void everyFunctionHelpedExists() {
    for (const auto& f : formula_functions()) {
      std::string call = std::string(f.name) + "(1";
      for (const char c : f.operands)
        if (c == ',') call += ", 1";
      call += ")";
      if (f.operands.find("...") != std::string_view::npos) call = std::string(f.name) + "(1, 1)";
      Builder b(Domain::numbers());
      FormulaScope scope;
      scope.unit_key = b.attribute(0);
      const auto parsed = parse_formula(call);
      QVERIFY(parsed.ok());
      const auto v = compile_formula(*parsed, scope, b);
      QVERIFY2(v.ok(), v.ok() ? "" : (call + ": " + v.error().text()).c_str());
    }
  }
};

QTEST_GUILESS_MAIN(TestFormula)
#include "tst_formula.moc"
