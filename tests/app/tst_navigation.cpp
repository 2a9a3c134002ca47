// Where the eye is: inside groups and out again, there and back, marks; and what the board shows, asked without a
// window of its own: where things lie, what is looked at, what a press begins.
#include <QDir>
#include <QLineEdit>

#include "core/graph/groups.h"
#include "core/graph/json.h"
#include "tests/app/driving.h"

using namespace loom;
using namespace loom::app;
using namespace loom::test;

class TestNavigation : public QObject {
  Q_OBJECT
  // A group in a group: noise -> [outer: [inner: tone] -> dye] -> base colour.
  static Material nested(std::string& outer, std::string& inner) {
    Material m = edit::empty_material();
    int row = 0;
    for (const char* type : {"gradient_noise", "tone", "dye"})
      m = edit::add_node(std::move(m), catalogue(), type, "relief", 0, row++);
    m = edit::connect(std::move(m), {"gradient_noise", "value", "tone", "value"});
    m = edit::connect(std::move(m), {"tone", "value", "dye", "value"});
    m = edit::set_hem(std::move(m), "base_colour", "dye.colour");
    m = *edit::fold(m, catalogue(), {"tone"}, "Inner", &inner);
    return *edit::fold(m, catalogue(), {inner, "dye"}, "Outer", &outer);
  }

  Board* board() { return w_->board(); }
  Navigation& eye() { return w_->navigation(); }
  const Material& m() { return w_->document().material(); }
  void press(int key, Qt::KeyboardModifiers with = {}) { QTest::keyClick(board(), static_cast<Qt::Key>(key), with); }
  QPoint middleOf(const std::string& node) {
    return board()->widgetPoint(board()->view().layout.tag(node)->rect.center());
  }

  std::unique_ptr<MainWindow> w_;
  std::string outer_, inner_;

 private Q_SLOTS:
  void initTestCase() { prepare(); }
  void init() {
    w_ = shownWindow();
    w_->document().reset(nested(outer_, inner_));
    board()->setFocus();
  }
  void cleanup() { closeUnsaved(w_); }

  // ---- inside and out

  void pathsAreToldFromWhereTheBoardLooks() {
    QCOMPARE(eye().prefix(), std::string());
    QCOMPARE(eye().local("dye.colour"), std::string("dye.colour"));
    QCOMPARE(eye().local(outer_ + "/dye.colour"), std::string());
    eye().goInside(outer_);
    QVERIFY(eye().isInside());
    QCOMPARE(eye().prefix(), outer_ + "/");
    QCOMPARE(eye().local(outer_ + "/dye.colour"), std::string("dye.colour"));
    QCOMPARE(eye().local("gradient_noise.value"), std::string());
    eye().goInside(inner_);
    QCOMPARE(eye().prefix(), outer_ + "/" + inner_ + "/");
    QVERIFY(eye().shown().node("tone") && !eye().shown().node("dye"));
    eye().goOut();
    QVERIFY(eye().shown().node("dye") && !eye().shown().node("tone"));
    eye().goOut();
    QVERIFY(!eye().isInside() && &eye().shown() == &m());
  }

  void anEditInsideReachesTheDefinitionOnly() {
    eye().goInside(outer_);
    eye().goInside(inner_);
    const std::size_t outside = m().nodes.size();
    eye().edit(QStringLiteral("Set"), edit::set_param(eye().shown(), "tone", "black", 0.3));
    QCOMPARE(m().nodes.size(), outside);
    bool found = false;
    for (const auto& g : m().groups)
      for (const NodePtr& n : g->nodes)
        if (n->id == "tone") found = std::get<double>(n->params.at("black")) == 0.3;
    QVERIFY(found);
    QCOMPARE(eye().prefix(), outer_ + "/" + inner_ + "/");  // the eye stays where it is
  }

  void whatWasLookedIntoMayGo() {
    eye().goInside(outer_);
    eye().goInside(inner_);
    Material without = edit::remove_nodes(m(), {outer_});
    w_->document().edit(QStringLiteral("Delete"), without);
    QVERIFY(!eye().isInside());
    w_->document().undo();
    QVERIFY(!eye().isInside());  // undone, it is there again; the board does not jump by itself
    QVERIFY(m().node(outer_));
  }

  // Two documents may name a group alike: the second is shown whole.
  void anotherDocumentIsShownWhole() {
    QTemporaryDir folder;
    const QString file = folder.filePath(QStringLiteral("same.loom"));
    QVERIFY(w_->saveTo(file));
    eye().goInside(outer_);
    QVERIFY(w_->openPath(file));
    QVERIFY(!eye().isInside());
    eye().goInside(outer_);
    press(Qt::Key_N, Qt::ControlModifier);
    QVERIFY(!eye().isInside());
    QVERIFY(m().nodes.empty());
    eye().goBack();  // not into the one before
    QVERIFY(!eye().isInside());
  }

  // What cannot be opened changes nothing: an edit inside is still one of the group, not of the whole.
  void aFailedOpeningLeavesTheEyeWhereItIs() {
    QTemporaryDir folder;
    const QString file = folder.filePath(QStringLiteral("broken.loom"));
    QFile broken(file);
    QVERIFY(broken.open(QIODevice::WriteOnly) && broken.write("{") == 1);
    broken.close();
    eye().goInside(outer_);
    const std::size_t whole = m().nodes.size();
    {
      Answer ok(QMessageBox::Ok);
      QVERIFY(!w_->openPath(file));
    }
    QCOMPARE(eye().prefix(), outer_ + "/");
    QVERIFY(board()->view().material.node("dye"));
    eye().edit(QStringLiteral("Rename"), edit::rename_node(eye().shown(), "dye", "Colours"));
    QCOMPARE(m().nodes.size(), whole);
    QVERIFY(m().node(outer_));
  }

  // ---- there and back

  void jumpsAreGoneBackAcrossLevels() {
    board()->select({"gradient_noise"});
    const auto start = board()->standpoint();
    eye().leaveTrail();
    eye().goInside(outer_);
    board()->select({"dye"});
    const auto middle = board()->standpoint();
    eye().leaveTrail();
    eye().goInside(inner_);
    eye().goBack();
    QCOMPARE(eye().prefix(), outer_ + "/");
    QCOMPARE(board()->standpoint().selection, middle.selection);
    eye().goBack();
    QVERIFY(!eye().isInside());
    QCOMPARE(board()->standpoint().selection, start.selection);
    QString said;
    connect(&eye(), &Navigation::message, this, [&](const QString& text) { said = text; });
    eye().goBack();
    QVERIFY(!said.isEmpty());  // there is nothing to go back to
  }

  void aMarkIsVisitedFromAnyLevel() {
    eye().goInside(outer_);
    eye().goInside(inner_);
    board()->select({"tone"});
    eye().setMark(QStringLiteral("t"));
    QCOMPARE(m().marks.at("t"), outer_ + "/" + inner_ + "/tone.value");
    eye().goOut();
    eye().goOut();
    board()->select({"gradient_noise"});
    eye().goToMark(QStringLiteral("t"));
    QCOMPARE(eye().prefix(), outer_ + "/" + inner_ + "/");
    QCOMPARE(board()->selection(), std::vector<std::string>{"tone"});
    // Back to where it was left from.
    eye().goBack();
    QVERIFY(!eye().isInside());
    QCOMPARE(board()->selection(), std::vector<std::string>{"gradient_noise"});
    QString said;
    connect(&eye(), &Navigation::message, this, [&](const QString& text) { said = text; });
    eye().goToMark(QStringLiteral("q"));
    QVERIFY(said.contains(QStringLiteral("Q")));
    QVERIFY(!eye().isInside());
  }

  void keysOfAMarkAreTakenOnce() {
    board()->select({"gradient_noise"});
    press(Qt::Key_M, Qt::ShiftModifier);
    press(Qt::Key_G);
    QCOMPARE(m().marks.at("g"), std::string("gradient_noise.value"));
    board()->select({outer_});
    press(Qt::Key_M);
    press(Qt::Key_G);
    QCOMPARE(board()->selection(), std::vector<std::string>{"gradient_noise"});
    press(Qt::Key_Escape);  // the keys mean what they mean again
    QVERIFY(board()->selection().empty());
  }

  // ---- what the board shows

  void thingsAreFoundWhereTheyLie() {
    const BoardView& v = board()->view();
    for (const TagPlace& t : v.layout.tags()) {
      QCOMPARE(v.tagAt(t.rect.center())->node, t.node);
      for (const PegPlace& g : t.outputs) QCOMPARE(v.layout.pegNear(g.at, BoardView::kPegReach)->peg, g.peg);
    }
    QVERIFY(!v.tagAt(QPointF(-50, -50)));
    for (const ThreadPlace& t : v.layout.threads())
      if (!t.toHem && !t.alias) QVERIFY2(v.threadAt(t.path.pointAtPercent(0.5)), t.to.c_str());
    for (const BoardView::SlotView& s : v.hemSlots()) QCOMPARE(v.slotAt(QPointF(v.slotRect(s.id).center())), s.id);
    QCOMPARE(v.slotAt(QPointF(v.width() / 2.0, v.height() - 4.0)), std::string());
    const auto& lanes = v.layout.lanes();
    for (std::size_t i = 0; i < lanes.size(); ++i) QCOMPARE(v.laneUnder(lanes[i].rect.center().x()), i);
    QCOMPARE(v.laneUnder(1e6), lanes.size());
  }

  void theOutputLookedAtIsStepped() {
    Material cells = edit::add_node(m(), catalogue(), "cellular_noise", "relief", 1, 0);
    w_->document().edit(QStringLiteral("Add"), cells);
    board()->select({"cellular_noise"});
    const BoardView& v = board()->view();
    const auto& outputs = v.layout.tag("cellular_noise")->outputs;
    QVERIFY(outputs.size() > 1);
    for (std::size_t i = 0; i < 2 * outputs.size(); ++i) {
      QCOMPARE(v.focusedOutput(), "cellular_noise." + outputs[i % outputs.size()].peg);
      board()->nextOutput();
    }
    board()->showOutput("cellular_noise." + outputs.back().peg);
    QCOMPARE(v.focusedOutput(), "cellular_noise." + outputs.back().peg);
    // A slot shows what feeds it, and an empty one nothing.
    board()->focusSlot("base_colour");
    QCOMPARE(v.focusedOutput(), m().hem.at("base_colour"));
    QCOMPARE(board()->selection(), std::vector<std::string>{outer_});
    board()->focusSlot("height");
    QCOMPARE(v.focusedOutput(), std::string());
  }

  void aNewNodeGoesUnderTheOneAtHand() {
    const BoardView& v = board()->view();
    board()->select({"gradient_noise"});
    const Node& n = *m().node("gradient_noise");
    QCOMPARE(v.focus().row, n.row + 1);
    QCOMPARE(v.focus().column, n.column);
    board()->select({});
    board()->pointAt(v.layout.cellRect({n.lane, n.column, n.row + 2}).center());
    QCOMPARE(v.focus().row, n.row + 2);
  }

  // ---- what a press begins

  void pressesThatOnlyPressChangeNothing() {
    const std::string before = write_material(m());
    const BoardView& v = board()->view();
    const QPoint peg = board()->widgetPoint(v.layout.tag("gradient_noise")->outputs[0].at);
    for (const QPoint at :
         {middleOf("gradient_noise"), middleOf(outer_), peg, QPoint(v.width() / 2, v.height() - 60)}) {
      QTest::mousePress(board(), Qt::LeftButton, {}, at);
      QTest::mouseMove(board(), at + QPoint(2, 1));
      QTest::mouseRelease(board(), Qt::LeftButton, {}, at + QPoint(2, 1));
      QCOMPARE(write_material(m()), before);
    }
    QTest::mousePress(board(), Qt::LeftButton, Qt::AltModifier, QPoint(20, v.height() - 60));  // a cut through nothing
    QTest::mouseRelease(board(), Qt::LeftButton, Qt::AltModifier, QPoint(60, v.height() - 60));
    QCOMPARE(write_material(m()), before);
  }

  void aPressWithShiftAddsAndTakesOut() {
    QTest::mouseClick(board(), Qt::LeftButton, {}, middleOf("gradient_noise"));
    QCOMPARE(board()->selection(), std::vector<std::string>{"gradient_noise"});
    QTest::mouseClick(board(), Qt::LeftButton, Qt::ShiftModifier, middleOf(outer_));
    QCOMPARE(board()->selection(), (std::vector<std::string>{"gradient_noise", outer_}));
    QTest::mouseClick(board(), Qt::LeftButton, {}, middleOf("gradient_noise"));  // it comes to hand, the other stays
    QCOMPARE(board()->selection(), (std::vector<std::string>{outer_, "gradient_noise"}));
    QTest::mouseClick(board(), Qt::LeftButton, Qt::ControlModifier, middleOf(outer_));
    QCOMPARE(board()->selection(), std::vector<std::string>{"gradient_noise"});
  }

  void theMiddleButtonMovesTheBoardByWholePixels() {
    Material tall = m();
    for (int i = 0; i < 24; ++i) tall = edit::add_node(std::move(tall), catalogue(), "tone", "relief", i % 3, 4 + i);
    w_->document().edit(QStringLiteral("Add"), tall);
    board()->setZoom(1);
    board()->scrollTo({0, 0});
    QTest::mousePress(board(), Qt::MiddleButton, {}, QPoint(300, 300));
    QTest::mouseMove(board(), QPoint(300, 180));
    QTest::mouseRelease(board(), Qt::MiddleButton, {}, QPoint(300, 180));
    QCOMPARE(board()->view().scroll, QPointF(0, 120));
    board()->scrollTo({-40, 1e6});  // no further than there is something to see
    QCOMPARE(board()->view().scroll.x(), 0.0);
    QCOMPARE(board()->view().scroll.y(), std::round(board()->view().layout.size().height() - board()->view().height()));
  }

  void aThreadByKeysNarrowsByLettersAndEscapes() {
    const std::string before = write_material(m());
    board()->select({"gradient_noise"});
    QString said;
    connect(board(), &Board::message, this, [&](const QString& text) { said = text; });
    board()->commands().startThread();
    QVERIFY(said.startsWith(QStringLiteral("To ")));
    QTest::keyClicks(board(), QStringLiteral("hem, height"));
    QVERIFY2(said.contains(QStringLiteral("Height")), qPrintable(said));
    press(Qt::Key_Escape);
    QCOMPARE(write_material(m()), before);
    board()->commands().startThread();
    QTest::keyClicks(board(), QStringLiteral("hem, height"));
    press(Qt::Key_Return);
    QCOMPARE(m().hem.at("height"), std::string("gradient_noise.value"));
    press(Qt::Key_Escape);  // ended: the key clears the selection
    QVERIFY(board()->selection().empty());
  }
};

QTEST_MAIN(TestNavigation)
#include "tst_navigation.moc"
