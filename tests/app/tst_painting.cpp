// Painting by hand with a real mouse: strokes in the loupe become strokes of the document, one step back for each.
#include "app/base/brush.h"
#include "app/loupe/loupe.h"
#include "app/tray/tray.h"
#include "core/graph/disc.h"
#include "core/graph/edit.h"
#include "core/graph/json.h"
#include "core/graph/validate.h"
#include "core/surface/drape.h"
#include "tests/app/driving.h"

using namespace loom;
using namespace loom::app;
using namespace loom::test;

class TestPainting : public QObject {
  Q_OBJECT
  const Material& m() const { return window_->document().material(); }
  Board* board() const { return window_->board(); }
  Loupe* loupe() const { return window_->loupe(); }
  void calm() const {
    QVERIFY(settled([this] { return window_->isIdle(); }));
  }
  void key(int k, Qt::KeyboardModifiers with = Qt::NoModifier) const {
    QTest::keyClick(QApplication::focusWidget(), static_cast<Qt::Key>(k), with);
  }
  std::string add(const QString& typed) const {
    board()->setFocus();
    key(Qt::Key_Slash);
    QTest::keyClicks(QApplication::focusWidget(), typed);
    key(Qt::Key_Return);
    calm();
    return board()->selection().back();
  }
  const Strokes& strokes(const std::string& node) const {
    static const Strokes kNone;
    const auto& params = m().node(node)->params;
    const auto it = params.find("strokes");
    return it == params.end() ? kNone : std::get<Strokes>(it->second);
  }
  // A place of the tile in the widget: texelAt() the other way round.
  QPoint at(double u, double v) const {
    QPoint left, right;
    for (int x = 0; x < loupe()->width(); ++x)
      for (int y = 30; y < loupe()->height(); y += 4)
        if (loupe()->texelAt(QPointF(x, y)).x() >= 0) {
          if (left.isNull()) left = QPoint(x, y);
          right = QPoint(x, y);
        }
    int top = left.y(), bottom = top;
    while (loupe()->texelAt(QPointF(right.x(), top - 1)).x() >= 0) --top;
    while (loupe()->texelAt(QPointF(right.x(), bottom + 1)).x() >= 0) ++bottom;
    return QPoint(left.x() + qRound(u * (right.x() - left.x())), top + qRound(v * (bottom - top)));
  }
  void draw(const std::vector<std::pair<double, double>>& way, Qt::MouseButton button = Qt::LeftButton) const {
    QTest::mousePress(loupe(), button, {}, at(way.front().first, way.front().second));
    for (const auto& [u, v] : way) {
      const QPointF to = at(u, v);
      QMouseEvent move(QEvent::MouseMove, to, loupe()->mapToGlobal(to), Qt::NoButton, button, Qt::NoModifier);
      QApplication::sendEvent(loupe(), &move);
    }
    QTest::mouseRelease(loupe(), button, {}, at(way.back().first, way.back().second));
    calm();
  }
  float shown(double u, double v, int strand = 0) const {
    const Field& f = *window_->lastSeen()->loupe;
    const int size = f.size();
    return f.strand[static_cast<std::size_t>(strand)]->at(static_cast<int>(u * size), static_cast<int>(v * size));
  }
  DrapePanel* drape() const { return window_->drape(); }
  // A straight way of the mouse over the drape.
  void drawOnDrape(QPoint from, QPoint to, Qt::MouseButton button = Qt::LeftButton) const {
    QTest::mousePress(drape(), button, {}, from);
    constexpr int kSteps = 6;
    for (int i = 1; i <= kSteps; ++i) {
      const QPointF at = from + QPointF(to - from) * i / kSteps;
      QMouseEvent move(QEvent::MouseMove, at, drape()->mapToGlobal(at), Qt::NoButton, button, Qt::NoModifier);
      QApplication::sendEvent(drape(), &move);
    }
    QTest::mouseRelease(drape(), button, {}, to);
    calm();
  }
  bool shapeAt(QPoint at) const {
    return Drape(drape()->outfit().on({}), drape()->view())
        .under(static_cast<float>(at.x()), static_cast<float>(at.y()))
        .has_value();
  }
  // Red paint on the base colour's slot.
  std::string redPaint() const {
    const std::string node = add(QStringLiteral("hand paint, colour"));
    window_->document().edit(QStringLiteral("Colour"), edit::set_hem(m(), "base_colour", node + ".painted"));
    board()->select({node});
    brush().colour = {0.8, 0.01, 0.01};
    calm();
    return node;
  }
  bool redAt(QPoint at) const {
    const QColor c = drape()->image().pixelColor(at);
    return c.red() > 1.5 * c.green() + 10;
  }
  bool said(const QString& words) const {
    for (const QLabel* l : window_->findChildren<QLabel*>())
      if (l->text().contains(words)) return true;
    return false;
  }
  std::unique_ptr<MainWindow> window_;

 private Q_SLOTS:
  void initTestCase() { prepare(); }
  void init() {
    brush() = Brush();
    window_ = shownWindow();
  }
  void cleanup() { closeUnsaved(window_); }

  // Asked for its kind when it is made: the add line offers each.
  void theKindIsAskedFor() {
    const std::string mask = add(QStringLiteral("hand paint")), value = add(QStringLiteral("hand paint, value")),
                      colour = add(QStringLiteral("hand paint, colour"));
    const auto kind = [&](const std::string& id) { return std::get<std::string>(m().node(id)->params.at("kind")); };
    QCOMPARE(kind(mask), std::string("mask"));
    QCOMPARE(kind(value), std::string("value"));
    QCOMPARE(kind(colour), std::string("colour"));
    QVERIFY(validate(m(), catalogue()).empty());
    QVERIFY(loupe()->paints());
    add(QStringLiteral("gradient noise"));
    QVERIFY(!loupe()->paints());
  }

  void strokesComeAndGoOneByOne() {
    const std::string node = add(QStringLiteral("hand paint"));
    QCOMPARE(shown(0.5, 0.5), 0.0f);
    draw({{0.3, 0.5}, {0.5, 0.5}, {0.7, 0.5}});
    QCOMPARE(strokes(node).all.size(), std::size_t{1});
    QVERIFY(shown(0.5, 0.5) > 0.95f && shown(0.5, 0.4) == 0);
    QCOMPARE(strokes(node).all[0]->points.size(), std::size_t{2});  // straight: what lay between tells nothing
    brush().number = 0.3;                                           // of values: a mask is painted whole
    draw({{0.5, 0.2}, {0.5, 0.8}});
    QCOMPARE(strokes(node).all.size(), std::size_t{2});
    QVERIFY(shown(0.5, 0.3) > 0.95f);
    // The right button erases, whatever the brush does.
    draw({{0.5, 0.5}, {0.5, 0.51}}, Qt::RightButton);
    QVERIFY(strokes(node).all[2]->erase && shown(0.5, 0.5) < 0.05f && shown(0.5, 0.3) > 0.95f);
    QCOMPARE(window_->document().undoName(), QStringLiteral("Erase with a stroke"));
    for (const std::size_t left : {2u, 1u, 0u}) {
      window_->document().undo();
      calm();
      QCOMPARE(strokes(node).all.size(), left);
    }
    QCOMPARE(shown(0.5, 0.5), 0.0f);
    window_->document().redo();
    QCOMPARE(strokes(node).all.size(), std::size_t{1});
  }

  // While the hand still draws, what rests on the paint is seen; there is one step all the same.
  void theRestFollowsWhileOneDraws() {
    const std::string node = add(QStringLiteral("hand paint"));
    Material next = edit::add_node(m(), catalogue(), "invert", m().lanes.front().id, 0, 6);
    QVERIFY(next.node("invert"));
    next = edit::set_hem(std::move(next), "roughness", node + ".painted");
    window_->document().edit(QStringLiteral("Roughness"), next);
    board()->select({node});
    calm();
    QTest::mousePress(loupe(), Qt::LeftButton, {}, at(0.2, 0.2));
    for (int i = 1; i <= 12; ++i) {
      const QPointF to = at(0.2 + 0.04 * i, 0.2);
      QMouseEvent move(QEvent::MouseMove, to, loupe()->mapToGlobal(to), Qt::NoButton, Qt::LeftButton, Qt::NoModifier);
      QApplication::sendEvent(loupe(), &move);
      QTest::qWait(20);
    }
    QTRY_VERIFY(window_->lastSeen()->hem.count("roughness") &&
                range_of(*window_->lastSeen()->hem.at("roughness").strand[0]).most > 0.9f);
    QCOMPARE(strokes(node).all.size(), std::size_t{1});
    QTest::mouseRelease(loupe(), Qt::LeftButton, {}, at(0.68, 0.2));
    calm();
    window_->document().undo();
    QVERIFY(strokes(node).all.empty());
    QCOMPARE(window_->document().undoName(), QStringLiteral("Roughness"));
  }

  void theBrushByKeysAndInTheTray() {
    const std::string node = add(QStringLiteral("hand paint, colour"));
    const double wide = brush().radius, soft = brush().softness;
    loupe()->setFocus();
    key(Qt::Key_Up);
    key(Qt::Key_Right);
    QVERIFY(brush().radius > wide && brush().softness > soft);
    key(Qt::Key_Down);
    key(Qt::Key_Left);
    QVERIFY(std::abs(brush().radius - wide) < 1e-9 && std::abs(brush().softness - soft) < 1e-9);
    key(Qt::Key_R);
    QVERIFY(brush().erase);
    key(Qt::Key_R);
    // The radius in the tray, typed; the colour of the next stroke.
    ParameterRow* radius = nullptr;
    for (ParameterRow* row : window_->tray()->findChildren<ParameterRow*>())
      if (row->id() == "radius") radius = row;
    QVERIFY(radius && radius->numberField());
    radius->focusValue();
    QTest::keyClick(radius->numberField(), Qt::Key_A, Qt::ControlModifier);
    QTest::keyClicks(radius->numberField(), QStringLiteral("8 %"));
    QTest::keyClick(radius->numberField(), Qt::Key_Return);
    QCOMPARE(brush().radius, 0.08);
    brush().colour = {0.1, 0.5, 0.2};
    draw({{0.4, 0.6}, {0.6, 0.6}});
    QCOMPARE(strokes(node).all[0]->radius, 0.08f);
    QVERIFY(std::abs(shown(0.5, 0.6, 1) - 0.5f) < 1e-4f && std::abs(shown(0.5, 0.6, 2) - 0.2f) < 1e-4f);
    // Taken back by the buttons.
    draw({{0.4, 0.2}, {0.6, 0.2}});
    const auto press = [this](const QString& name) {
      for (auto* b : window_->tray()->findChildren<QAbstractButton*>())
        if (b->accessibleName() == name) return b->click();
    };
    press(QStringLiteral("Takes the last stroke back"));
    QCOMPARE(strokes(node).all.size(), std::size_t{1});
    press(QStringLiteral("Takes all strokes back"));
    QVERIFY(!m().node(node)->params.count("strokes"));
    window_->document().undo();
    QCOMPARE(strokes(node).all.size(), std::size_t{1});
  }

  void drawnOnTheShape() {
    const std::string node = redPaint();
    QVERIFY(drape()->paints() && !drape()->draws());
    const QPoint middle(drape()->width() / 2, drape()->height() / 2), right = middle + QPoint(40, 0), corner(12, 60);
    const Camera before = drape()->view().camera;
    QTest::keyClick(window_.get(), Qt::Key_B, Qt::ShiftModifier);
    QVERIFY(drape()->draws());
    brush().softness = 0;
    drawOnDrape(middle, right);
    QCOMPARE(strokes(node).all.size(), std::size_t{1});
    const HandStroke& s = *strokes(node).all[0];
    QVERIFY(s.on_shape && std::abs(s.radius - 0.03f) < 1e-4f && s.points.size() > 2);  // round the ball, no chord
    for (const StrokePoint& p : s.points) {
      const Vec3 place{p.x, p.y, p.z}, towards{p.towards_x, p.towards_y, p.towards_z};
      QVERIFY(std::abs(length(place) - 0.5f) < 0.05f && dot(towards, normalised(place)) > 0.99f);
    }
    QVERIFY(drape()->view().camera == before);
    QVERIFY(redAt(middle) && redAt(right) && !redAt(middle + QPoint(0, 40)));
    // The loupe shows it as it lies on the shape; there is nothing to draw on, which is told.
    QVERIFY(loupe()->onShape());
    draw({{0.4, 0.4}, {0.5, 0.5}});
    QVERIFY(strokes(node).all.size() == 1 && said(QStringLiteral("Shift+B")));
    // Beside the shape the hand turns it, and what was drawn goes along.
    QVERIFY(!shapeAt(corner));
    drawOnDrape(corner, corner + QPoint(60, 0));
    QVERIFY(!(drape()->view().camera == before) && strokes(node).all.size() == 1 && !redAt(middle - QPoint(40, 0)));
    drape()->lookFromStart();
    calm();
    // The right button erases; one step back each.
    drawOnDrape(middle, middle + QPoint(3, 0), Qt::RightButton);
    QVERIFY(strokes(node).all.size() == 2 && strokes(node).all[1]->erase && !redAt(middle) && redAt(right));
    window_->document().undo();
    calm();
    QVERIFY(redAt(middle));
    window_->document().undo();
    calm();
    QVERIFY(strokes(node).all.empty() && !redAt(middle));
    // Keys turn the brush here too; without drawing they turn the shape.
    drape()->setFocus();
    key(Qt::Key_R);
    key(Qt::Key_Up);
    QVERIFY(brush().erase && brush().radius > 0.03 && drape()->view().camera == before);
    key(Qt::Key_R);
    for (auto* b : drape()->findChildren<QAbstractButton*>())
      if (b->accessibleName() == QStringLiteral("Draw on the shape")) b->click();
    QVERIFY(!drape()->draws());
    drawOnDrape(middle, right);
    QVERIFY(strokes(node).all.empty() && !(drape()->view().camera == before));
    // Another node: there is nothing to draw on.
    drape()->setDrawing(true);
    add(QStringLiteral("gradient noise"));
    QVERIFY(!drape()->paints() && !drape()->draws());
    QTest::keyClick(window_.get(), Qt::Key_B, Qt::ShiftModifier);
    QVERIFY(said(QStringLiteral("Hand paint node")) && !drape()->draws());
  }

  // Over the hole of a ring there is nothing to draw on: two strokes, one step back.
  void overAGapOfTheShape() {
    const std::string node = redPaint();
    drape()->setShape(ShapeName::ring);
    calm();
    QPoint from, hole, to;
    for (int y = 70; y < drape()->height() - 50 && to.x() - from.x() < 60; y += 4) {  // a hole that is plainly one
      from = hole = to = QPoint();
      for (int x = 10; x < drape()->width() - 10; x += 2) {
        const bool there = shapeAt({x, y});
        if (there && hole.isNull()) from = QPoint(x, y);
        if (!there && !from.isNull() && to.isNull()) hole = QPoint(x, y);
        if (there && !hole.isNull() && to.isNull()) to = QPoint(x + 8, y);
      }
    }
    QVERIFY(!to.isNull() && shapeAt(to));
    drape()->setDrawing(true);
    brush().softness = 0, brush().radius = 0.05;
    drawOnDrape(from - QPoint(4, 0), to);
    QCOMPARE(strokes(node).all.size(), std::size_t{2});
    QVERIFY(redAt(to));
    window_->document().undo();
    QVERIFY(strokes(node).all.empty());
  }

  void whatReadsNeighboursIsNotDrawnOnTheShape() {
    const std::string node = redPaint();
    Material next = edit::add_node(m(), catalogue(), "blur", m().lanes.front().id, 0, 7);
    const std::string blur = next.nodes.back()->id;
    next = edit::connect(std::move(next), {node, "painted", blur, catalogue().find("blur")->inputs[0].id});
    window_->document().edit(QStringLiteral("Blurred"), next);
    board()->select({node});
    calm();
    drape()->setDrawing(true);
    QVERIFY(drape()->draws());
    const QPoint middle(drape()->width() / 2, drape()->height() / 2);
    drawOnDrape(middle, middle + QPoint(20, 0));
    QVERIFY(strokes(node).all.empty());
    QVERIFY(said(QStringLiteral("Not drawn")));
    QCOMPARE(window_->document().undoName(), QStringLiteral("Blurred"));
  }

  // Drawn over the tile's edge, saved, and opened again: the same to the last bit.
  void savedAndOpenedAgain() {
    const std::string node = add(QStringLiteral("hand paint, value"));
    loupe()->nextRepeats();  // two tiles a side: a stroke from one into the other
    calm();
    draw({{0.4, 0.3}, {0.6, 0.3}});
    QCOMPARE(loupe()->repeats(), 2);
    QVERIFY(strokes(node).all[0]->points.back().x > 1);
    QVERIFY(shown(0.02, 0.6) > 0.9f && shown(0.97, 0.6) > 0.9f && shown(0.5, 0.6) == 0);
    QTemporaryDir folder;
    const QString path = folder.filePath(QStringLiteral("painted.loom"));
    QVERIFY(window_->saveTo(path));
    const Strokes before = strokes(node);
    QVERIFY(window_->openPath(path));
    calm();
    QVERIFY(strokes(node) == before);
    const auto text = read_file(path.toStdString(), 1 << 20);
    QVERIFY(text && text->find("\"points\"") != std::string::npos);
  }
};

QTEST_MAIN(TestPainting)
#include "tst_painting.moc"
