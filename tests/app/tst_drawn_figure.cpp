// A drawn figure with a real mouse and real keys: what is drawn in the loupe is in the document at once, one step back
// for each gesture.
#include <QToolButton>

#include "app/base/figure_tools.h"
#include "app/loupe/loupe.h"
#include "app/tray/tray.h"
#include "core/graph/edit.h"
#include "core/io/figure_shapes.h"
#include "tests/app/driving.h"

using namespace loom;
using namespace loom::app;
using namespace loom::test;
using Form = FigureShape::Form;
using Tool = FigureTools::Tool;

class TestDrawnFigure : public QObject {
  Q_OBJECT
  const Material& m() const { return window_->document().material(); }
  Loupe* loupe() const { return window_->loupe(); }
  void calm() const {
    QVERIFY(settled([this] { return window_->isIdle(); }));
  }
  FigureShapes shapes() const {
    const auto& params = m().node(node_)->params;
    const auto it = params.find("figure");
    const auto read = figure_shapes(it == params.end() ? "" : std::get<std::string>(it->second));
    return read ? *read : FigureShapes{};
  }
  QPoint at(double u, double v) const { return loupe()->widgetPlace({u, v}).toPoint(); }
  void moveTo(QPoint to, Qt::KeyboardModifiers with = {}) const {
    QMouseEvent move(QEvent::MouseMove, to, loupe()->mapToGlobal(to), Qt::NoButton, Qt::LeftButton, with);
    QApplication::sendEvent(loupe(), &move);
  }
  void drag(QPoint from, QPoint to, Qt::KeyboardModifiers with = {}) const {
    QTest::mousePress(loupe(), Qt::LeftButton, with, from);
    for (int i = 1; i <= 5; ++i) moveTo(from + (to - from) * i / 5, with);
    QTest::mouseRelease(loupe(), Qt::LeftButton, with, to);
    calm();
  }
  void key(int k, Qt::KeyboardModifiers with = {}) const { QTest::keyClick(loupe(), static_cast<Qt::Key>(k), with); }
  void tool(const QString& name) const {
    for (QToolButton* b : window_->findChildren<QToolButton*>())
      if (b->isVisible() && b->text() == name) return QTest::mouseClick(b, Qt::LeftButton);
    QFAIL(qPrintable(QStringLiteral("there is no tool %1").arg(name)));
  }
  float shown(double u, double v) const {
    const Plane& p = *window_->lastSeen()->loupe->strand[0];
    return p.at(static_cast<int>(u * p.size()), static_cast<int>(v * p.size()));
  }
  static bool near(double a, double b) { return std::abs(a - b) < 1e-5; }

 private Q_SLOTS:
  void initTestCase() { prepare(); }
  void init() {
    figureTools().setTool(Tool::choose);
    figureTools().setCuts(false);
    figureTools().setGrid(16);
    window_ = shownWindow();
    Material x = edit::add_node(edit::empty_material(), catalogue(), "drawn_figure", "relief", 0, 0, &node_);
    window_->document().reset(edit::set_param(std::move(x), node_, "figure", std::string()));
    window_->board()->select({node_});
    calm();
  }
  void cleanup() { closeUnsaved(window_); }

  void aRectangleIsDrawnFromCornerToCorner() {
    tool(QStringLiteral("rectangle"));
    drag(at(0.253, 0.26), at(0.74, 0.62));
    QCOMPARE(shapes().size(), std::size_t{1});
    const FigureShape s = shapes()[0];
    QVERIFY(s.form == Form::rectangle && !s.cut);
    // To the grid of sixteen.
    QVERIFY(near(s.knots[0].at.x, 0.25) && near(s.knots[0].at.y, 0.25));
    QVERIFY(near(s.knots[1].at.x, 0.75) && near(s.knots[1].at.y, 0.625));
    QCOMPARE(shown(0.5, 0.4), 1.0f);  // the material answers
    QCOMPARE(shown(0.5, 0.8), 0.0f);
    QVERIFY(figureTools().tool() == Tool::choose);  // what was drawn can be taken at once
    window_->document().undo();
    QVERIFY(shapes().empty());
  }
  void aClickDrawsNothing() {
    tool(QStringLiteral("ellipse"));
    QTest::mouseClick(loupe(), Qt::LeftButton, {}, at(0.4, 0.4));
    calm();
    QVERIFY(shapes().empty());
    QVERIFY(!m().node(node_)->params.count("figure") ||
            std::get<std::string>(m().node(node_)->params.at("figure")).empty());
  }
  void aCornerIsDraggedAndTheWholeMoved() {
    tool(QStringLiteral("ellipse"));
    drag(at(0.25, 0.25), at(0.5, 0.5));
    drag(at(0.5, 0.5), at(0.75, 0.625));
    FigureShape s = shapes()[0];
    QVERIFY(s.form == Form::ellipse && near(s.knots[1].at.x, 0.75) && near(s.knots[1].at.y, 0.625));
    drag(at(0.5, 0.4375), at(0.5625, 0.5));
    s = shapes()[0];
    QVERIFY2(near(s.knots[0].at.x, 0.3125) && near(s.knots[0].at.y, 0.3125),
             qPrintable(QStringLiteral("%1, %2").arg(s.knots[0].at.x).arg(s.knots[0].at.y)));
    // With Shift a corner goes where the hand is, not to the grid.
    drag(at(0.8125, 0.6875), at(0.86, 0.73), Qt::ShiftModifier);
    QVERIFY(!near(std::round(shapes()[0].knots[1].at.x * 16) / 16, shapes()[0].knots[1].at.x));
    window_->document().undo();
    window_->document().undo();
    QVERIFY(near(shapes()[0].knots[0].at.x, 0.25));
  }
  void aPolygonClosesAtItsFirstCorner() {
    tool(QStringLiteral("polygon"));
    for (const auto& [u, v] : {std::pair{0.25, 0.25}, {0.75, 0.25}, {0.75, 0.75}, {0.25, 0.25}}) {
      QTest::mouseClick(loupe(), Qt::LeftButton, {}, at(u, v));
      QTest::qWait(QApplication::doubleClickInterval() + 20);  // clicks, not a double click
    }
    calm();
    QCOMPARE(shapes().size(), std::size_t{1});
    QVERIFY(shapes()[0].form == Form::polygon);
    QCOMPARE(shapes()[0].knots.size(), std::size_t{3});
    QCOMPARE(shown(0.6, 0.4), 1.0f);
    QCOMPARE(shown(0.4, 0.6), 0.0f);
    // A point more where its side is double clicked; then it is dragged out.
    QTest::mouseDClick(loupe(), Qt::LeftButton, {}, at(0.5, 0.25));
    calm();
    QCOMPARE(shapes()[0].knots.size(), std::size_t{4});
    drag(at(0.5, 0.25), at(0.5, 0.125));
    QCOMPARE(shown(0.5, 0.2), 1.0f);
    key(Qt::Key_Delete);  // the point that is held
    calm();
    QCOMPARE(shapes()[0].knots.size(), std::size_t{3});
  }
  void aCurveIsBentWhileItIsDrawn() {
    tool(QStringLiteral("curve"));
    for (const auto& [u, v] : {std::pair{0.5, 0.25}, {0.75, 0.5}, {0.5, 0.75}, {0.25, 0.5}}) {
      const QPointF way(-(v - 0.5) * 0.55, (u - 0.5) * 0.55);
      QTest::mousePress(loupe(), Qt::LeftButton, {}, at(u, v));
      moveTo(at(u + way.x(), v + way.y()));
      QTest::mouseRelease(loupe(), Qt::LeftButton, {}, at(u + way.x(), v + way.y()));
    }
    loupe()->setFocus();
    key(Qt::Key_Return);
    calm();
    QCOMPARE(shapes().size(), std::size_t{1});
    QVERIFY(shapes()[0].form == Form::curve);
    // About a disc of a quarter: pi / 16 of the tile.
    const double mean = static_cast<double>(range_of(*window_->lastSeen()->loupe->strand[0]).mean);
    QVERIFY2(std::abs(mean - 0.19635) < 0.006, qPrintable(QString::number(mean)));
    window_->document().undo();
    QVERIFY(shapes().empty());
  }
  void aShapeCuts() {
    tool(QStringLiteral("rectangle"));
    drag(at(0.125, 0.125), at(0.875, 0.875));
    tool(QStringLiteral("cuts"));
    tool(QStringLiteral("ellipse"));
    drag(at(0.375, 0.375), at(0.625, 0.625));
    QVERIFY(shapes()[1].cut);
    QCOMPARE(shown(0.5, 0.5), 0.0f);
    loupe()->setFocus();
    key(Qt::Key_0);  // the chosen one adds instead
    calm();
    QVERIFY(!shapes()[1].cut);
    key(Qt::Key_0);
    key(Qt::Key_PageDown);  // under the plate
    calm();
    QVERIFY(shapes()[0].cut);
    QCOMPARE(shown(0.5, 0.5), 1.0f);
  }
  // Everything by keys: tool, shape, point, move, copy, smooth, round, remove.
  void aFigureIsDrawnByKeysAlone() {
    loupe()->setFocus();
    key(Qt::Key_2);
    key(Qt::Key_Return);
    QCOMPARE(shapes().size(), std::size_t{1});
    key(Qt::Key_Right);
    QVERIFY(near(shapes()[0].knots[0].at.x, 0.3125));
    key(Qt::Key_K);  // its first corner
    key(Qt::Key_Up);
    QVERIFY(near(shapes()[0].knots[0].at.y, 0.1875) && near(shapes()[0].knots[1].at.y, 0.75));
    key(Qt::Key_BracketRight);
    QVERIFY(near(shapes()[0].rounding, 0.01));
    key(Qt::Key_D);
    QCOMPARE(shapes().size(), std::size_t{2});
    key(Qt::Key_4);
    key(Qt::Key_Return);
    QCOMPARE(shapes().size(), std::size_t{3});
    key(Qt::Key_K);
    key(Qt::Key_S);
    QVERIFY(shapes()[2].form == Form::curve && shapes()[2].knots[0].in.x < shapes()[2].knots[0].at.x);
    key(Qt::Key_N);  // on to the first
    key(Qt::Key_Delete);
    QCOMPARE(shapes().size(), std::size_t{2});
    key(Qt::Key_N, Qt::ShiftModifier);
    key(Qt::Key_Left, Qt::ShiftModifier);
    QCOMPARE(shapes().size(), std::size_t{2});
    calm();
    while (window_->document().canUndo()) window_->document().undo();
    QVERIFY(shapes().empty());
  }
  void whatHangsOnItFollowsWhileItIsDragged() {
    Material x = m();
    x = edit::add_node(std::move(x), catalogue(), "bevel", "relief", 1, 0);
    x = edit::connect(std::move(x), {node_, "mask", "bevel", "mask"});
    window_->document().reset(std::move(x));
    window_->board()->select({node_});
    calm();
    tool(QStringLiteral("rectangle"));
    QTest::mousePress(loupe(), Qt::LeftButton, {}, at(0.25, 0.25));
    moveTo(at(0.5, 0.5));
    QCOMPARE(shapes().size(), std::size_t{1});  // in the document while the button is down
    moveTo(at(0.75, 0.75));
    QVERIFY(near(shapes()[0].knots[1].at.x, 0.75));
    QTest::mouseRelease(loupe(), Qt::LeftButton, {}, at(0.75, 0.75));
    window_->document().undo();
    QVERIFY(shapes().empty());
  }
  void anotherNodePutsThePenAway() {
    QVERIFY(loupe()->pen().isOn());
    Material x = m();
    x = edit::add_node(std::move(x), catalogue(), "motif", "relief", 1, 0);
    window_->document().edit(QStringLiteral("Add"), std::move(x));
    window_->board()->select({"motif"});
    calm();
    QVERIFY(!loupe()->pen().isOn());
  }

 private:
  std::unique_ptr<MainWindow> window_;
  std::string node_;
};

QTEST_MAIN(TestDrawnFigure)
#include "tst_drawn_figure.moc"
