// Drawn figures: the text they are kept as, what is drawn of them, and SVG drawings taken over.
#include "core/io/figure_shapes.h"
#include "tests/core/alone.h"

using namespace loom;
using namespace loom::test;

class TestFigure : public QObject {
  Q_OBJECT
  static Plane drawn(const std::string& inside, const Resolved& more = {}, int size = 512) {
    Resolved p{{"figure", "<svg>" + inside + "</svg>"}};
    for (const auto& [key, value] : more) p[key] = value;
    return weave_alone(*catalogue().find("drawn_figure"), size, {}, p).at("mask").strand[0]->clone();
  }
  static double area(const Plane& p) { return static_cast<double>(range_of(p).mean); }

 private Q_SLOTS:
  // Areas by plane geometry; a cubic in place of a quarter circle is off by 0.03 % of its radius.
  void shapesCoverTheirAreas_data() {
    QTest::addColumn<QString>("element");
    QTest::addColumn<double>("area");
    const double pi = 3.14159265358979;
    QTest::newRow("rectangle") << "<rect x='0.1' y='0.2' width='0.6' height='0.3'/>" << 0.18;
    QTest::newRow("rounded") << "<rect x='0.1' y='0.2' width='0.6' height='0.3' rx='0.1'/>" << 0.18 - (4 - pi) * 0.01;
    QTest::newRow("ellipse") << "<ellipse cx='0.5' cy='0.5' rx='0.4' ry='0.2'/>" << pi * 0.08;
    QTest::newRow("circle") << "<circle cx='0.5' cy='0.5' r='0.3'/>" << pi * 0.09;
    QTest::newRow("polygon") << "<polygon points='0.1,0.1 0.9,0.1 0.1,0.9'/>" << 0.32;
    QTest::newRow("straight path") << "<path d='M0.1,0.1 L0.9,0.1 L0.1,0.9 Z'/>" << 0.32;
    // Under a cubic with handles h straight above its ends, w apart: the integral of 3 h t (1 - t) 6 w t (1 - t) is
    // 0.6 h w.
    QTest::newRow("curve") << "<path d='M0.2,0.7 C0.2,0.3 0.8,0.3 0.8,0.7 Z'/>" << 0.144;
    QTest::newRow("over the edge") << "<rect x='0.8' y='0.9' width='0.4' height='0.2'/>" << 0.08;
  }
  void shapesCoverTheirAreas() {
    QFETCH(QString, element);
    QFETCH(double, area);
    const double got = this->area(drawn(element.toStdString()));
    QVERIFY2(std::abs(got - area) < 3e-4, qPrintable(QString::number(got)));
  }
  void whatCutsTakesAwayAndOrderCounts() {
    const std::string plate = "<rect x='0.1' y='0.1' width='0.8' height='0.8'/>",
                      hole = "<rect x='0.3' y='0.3' width='0.4' height='0.4' fill='black'/>";
    QVERIFY(std::abs(area(drawn(plate + hole)) - 0.48) < 3e-4);
    QVERIFY(std::abs(area(drawn(hole + plate)) - 0.64) < 3e-4);
    QCOMPARE(area(drawn("")), 0.0);
  }
  void aFigureIsMirroredAboutTheMiddle() {
    const std::string corner = "<rect x='0.1' y='0.1' width='0.2' height='0.1'/>";
    for (const auto& [word, times] :
         {std::pair{"none", 1}, {"left_and_right", 2}, {"top_and_bottom", 2}, {"both", 4}}) {
      const Plane p = drawn(corner, {{"symmetry", std::string(word)}});
      QVERIFY2(std::abs(area(p) - 0.02 * times) < 3e-4, word);
    }
    const Plane p = drawn(corner, {{"symmetry", std::string("left_and_right")}});
    for (int x = 0; x < 512; ++x) QVERIFY(std::abs(p.at(x, 77) - p.at(511 - x, 77)) < 1e-5f);
    // What cuts one side cuts the other too, and neither covers the other's cut.
    const std::string both =
        "<rect x='0.125' y='0.125' width='0.75' height='0.25'/><rect x='0.1875' y='0.1875' width='0.125' "
        "height='0.125' fill='black'/>";
    const double cut = area(drawn(both, {{"symmetry", std::string("left_and_right")}}));
    QVERIFY2(std::abs(cut - (0.1875 - 0.03125)) < 3e-4, qPrintable(QString::number(cut)));
  }

  void theTextIsReadBackAsItIsWritten() {
    FigureShapes all;
    all.push_back(
        {.form = FigureShape::Form::rectangle, .knots = {knot_at({0.7, 0.8}), knot_at({0.1, 0.25})}, .rounding = 0.05});
    all.push_back(
        {.form = FigureShape::Form::ellipse, .cut = true, .knots = {knot_at({0.3, 0.3}), knot_at({0.5, 0.4})}});
    all.push_back(
        {.form = FigureShape::Form::polygon, .knots = {knot_at({0, 0}), knot_at({1, 0}), knot_at({-0.5, 1.25})}});
    all.push_back(
        {.form = FigureShape::Form::curve,
         .knots = {{{0.2, 0.2}, {0.1, 0.3}, {0.3, 0.1}}, knot_at({0.8, 0.2}), {{0.5, 0.9}, {0.6, 0.9}, {0.4, 0.9}}}});
    const std::string text = svg_of(all);
    const auto back = figure_shapes(text);
    QVERIFY2(back, back ? "" : back.error().text().c_str());
    QCOMPARE(svg_of(*back), text);
    QCOMPARE(back->size(), all.size());
    for (std::size_t i = 0; i < all.size(); ++i) {
      QVERIFY((*back)[i].form == all[i].form && (*back)[i].cut == all[i].cut);
      QCOMPARE((*back)[i].knots.size(), all[i].knots.size());
    }
    const Knot &was = all[3].knots[0], &is = (*back)[3].knots[0];
    QVERIFY(std::abs(is.in.x - was.in.x) < 1e-9 && std::abs(is.out.y - was.out.y) < 1e-9);
    QVERIFY(svg_of({}).empty() && figure_shapes("")->empty());
  }
  // The reader of any SVG draws the same: the text is what it says it is.
  void aFigureIsAnSvgDrawing() {
    const auto shapes = figure_shapes(
        "<svg><rect x='0.1' y='0.2' width='0.6' height='0.3' rx='0.1'/><circle cx='0.3' cy='0.35' r='0.1' "
        "fill='black'/></svg>");
    const auto read = read_svg(svg_of(*shapes));
    QVERIFY(read.ok());
    QVERIFY(share_apart(draw(*read, {}, 256).red, draw(drawing_of(*shapes), {}, 256).red, 0.01) < 1e-4);
  }
  void whatCannotBeReadIsToldWithItsPlace_data() {
    QTest::addColumn<QString>("inside");
    QTest::addColumn<QString>("where");
    QTest::newRow("no svg") << "<svg"
                            << "character";
    QTest::newRow("unknown") << "<svg><rect/><text>a</text></svg>"
                             << "element 2 (text)";
    QTest::newRow("colour") << "<svg><rect fill='#abc'/></svg>"
                            << "element 1 (rect)";
    QTest::newRow("number") << "<svg><rect x='wide'/></svg>"
                            << "element 1 (rect)";
    QTest::newRow("letters") << "<svg><path d='M0,0 Q1,1 2,2 Z'/></svg>"
                             << "element 1 (path)";
    QTest::newRow("endless") << "<svg><path d='M0,0 L1e9,1 Z'/></svg>"
                             << "element 1 (path)";
    QTest::newRow("curve first") << "<svg><path d='C0,0 1,1 2,2 Z'/></svg>"
                                 << "element 1 (path)";
    QTest::newRow("one point") << "<svg><polygon points='0.1,0.1'/></svg>"
                               << "element 1 (polygon)";
  }
  void whatCannotBeReadIsToldWithItsPlace() {
    QFETCH(QString, inside);
    QFETCH(QString, where);
    const auto shapes = figure_shapes(inside.toStdString());
    QVERIFY(!shapes);
    QVERIFY2(shapes.error().where.find(where.toStdString()) != std::string::npos, shapes.error().text().c_str());
    QVERIFY(!shapes.error().mend.empty());
  }

  // ---- from any SVG ----
  void aDrawingIsTakenOverWithItsHoles_data() {
    QTest::addColumn<QString>("rule");
    QTest::addColumn<QString>("inner");
    QTest::addColumn<double>("area");
    // A square of 80 with one of 40 within, in a frame of 100; turned the other way it is a hole by either rule (SVG
    // 1.1, 11.3).
    QTest::newRow("even-odd, turned alike") << "evenodd"
                                            << "M30 30 H70 V70 H30 Z" << 0.48;
    QTest::newRow("nonzero, turned alike") << "nonzero"
                                           << "M30 30 H70 V70 H30 Z" << 0.64;
    QTest::newRow("nonzero, turned against") << "nonzero"
                                             << "M30 30 V70 H70 V30 Z" << 0.48;
  }
  void aDrawingIsTakenOverWithItsHoles() {
    QFETCH(QString, rule);
    QFETCH(QString, inner);
    QFETCH(double, area);
    const QString text = QStringLiteral(
                             "<svg viewBox='0 0 100 100' xmlns='http://www.w3.org/2000/svg'><path d='M10 10 H90 V90 "
                             "H10 Z %1' fill-rule='%2'/></svg>")
                             .arg(inner, rule);
    const auto taken = figure_from_svg(text.toStdString(), 0);
    QVERIFY2(taken, taken ? "" : taken.error().text().c_str());
    QCOMPARE(taken->shapes.size(), std::size_t{2});
    QVERIFY(taken->left_out.empty());
    QVERIFY(std::abs(this->area(draw(drawing_of(taken->shapes), {}, 512).red) - area) < 3e-4);
  }
  void whatIsNotTakenOverIsListed() {
    const auto taken = figure_from_svg(
        "<svg viewBox='0 0 10 10' xmlns='http://www.w3.org/2000/svg'><circle cx='5' cy='5' r='3'/><path d='M0 0 L9 9' "
        "stroke='black' fill='none'/></svg>");
    QVERIFY(taken.ok());
    QCOMPARE(taken->shapes.size(), std::size_t{1});
    QCOMPARE(taken->left_out.size(), std::size_t{1});
    QVERIFY(taken->left_out[0].find("1 lines") == 0);
    QVERIFY(!figure_from_svg("<svg xmlns=\"http://www.w3.org/2000/svg\"/>").ok());
    QVERIFY(!figure_from_svg("no drawing").ok());
  }
};

QTEST_MAIN(TestFigure)
#include "tst_figure.moc"
