// The board inside groups, its marks and notes; comparing, checking and following a place: by the window's own keys and
// clicks.
#include "app/tray/slider.h"
#include "core/bolt/package.h"
#include "core/graph/groups.h"
#include "core/graph/json.h"
#include "core/graph/validate.h"
#include "tests/app/driving.h"

#include <QLineEdit>
#include <QPushButton>

using namespace loom;
using namespace loom::app;
using namespace loom::test;

class TestInside : public QObject {
  Q_OBJECT
  // noise -> tone -> dye -> base colour, a second noise the height.
  static Material cloth() {
    Material m = edit::empty_material();
    int row = 0;
    for (const char* type : {"gradient_noise", "tone", "dye"})
      m = edit::add_node(std::move(m), catalogue(), type, "relief", 0, row++);
    m = edit::add_node(std::move(m), catalogue(), "cellular_noise", "colour", 0, 0);
    m = edit::connect(std::move(m), {"gradient_noise", "value", "tone", "value"});
    m = edit::connect(std::move(m), {"tone", "value", "dye", "value"});
    m = edit::set_hem(std::move(m), "base_colour", "dye.colour");
    return edit::set_hem(std::move(m), "height", "cellular_noise.nearest");
  }
  const Material& material() { return window_->document().material(); }
  Board* board() { return window_->board(); }
  void calm() {
    QVERIFY(settled([this] { return window_->engine().isIdle(); }));
  }
  void key(int k, Qt::KeyboardModifiers with = Qt::NoModifier) {
    QTest::keyClick(board(), static_cast<Qt::Key>(k), with);
  }
  void typeName(const QString& name) {
    auto* line = board()->findChild<QLineEdit*>(QString(), Qt::FindDirectChildrenOnly);
    for (auto* l : board()->findChildren<QLineEdit*>())
      if (l->isVisible()) line = l;
    QVERIFY(line && line->isVisible());
    line->selectAll();
    QTest::keyClicks(line, name);
    QTest::keyClick(line, Qt::Key_Return);
  }
  std::string fold(const std::vector<std::string>& nodes, const QString& name) {
    board()->select(nodes);
    board()->setFocus();
    key(Qt::Key_G, Qt::ControlModifier);
    typeName(name);
    return board()->selection().empty() ? std::string() : board()->selection().back();
  }
  std::unique_ptr<MainWindow> window_;

 private Q_SLOTS:
  void initTestCase() { prepare(); }
  void init() {
    window_ = std::make_unique<MainWindow>();
    window_->drape()->setSamples(4);  // enough to see that it refines
    window_->document().reset(cloth());
    window_->show();
    QVERIFY(QTest::qWaitForWindowExposed(window_.get()));
    board()->setFocus();
    calm();
  }
  void cleanup() {
    window_->document().reset(edit::empty_material());
    window_.reset();
  }

  void foldedByKeyAndNamed() {
    const std::string id = fold({"tone", "dye"}, QStringLiteral("Faded dye"));
    QCOMPARE(material().nodes.size(), std::size_t{3});
    QCOMPARE(material().group(material().node(id)->group)->name, std::string("Faded dye"));
    window_->document().undo();  // the name
    window_->document().undo();  // the group
    QCOMPARE(write_material(material()), write_material(cloth()));
  }
  void theInsideIsEditedAndLeftByKeys() {
    const std::string id = fold({"tone", "dye"}, QStringLiteral("Faded dye"));
    board()->select({id});
    board()->setZoom(0.8);
    const auto before = board()->standpoint();
    key(Qt::Key_Down, Qt::AltModifier);
    QVERIFY(window_->shown().inside && window_->shown().node("tone") && window_->shown().node("in_value"));
    // The tray's edit of a node inside is an edit of the definition.
    board()->select({"tone"});
    Q_EMIT window_->tray()->paramWanted("tone", "black", 0.25);
    QCOMPARE(std::get<double>(material().group(material().node(id)->group)->nodes[0]->params.at("black")), 0.25);
    calm();
    // The loupe shows what is inside, the small pictures too.
    QCOMPARE(window_->lastSeen()->loupe_output, id + "/tone.value");
    key(Qt::Key_Up, Qt::AltModifier);
    QVERIFY(!window_->shown().inside);
    QCOMPARE(board()->zoom(), before.zoom);
    QCOMPARE(board()->selection(), before.selection);
    key(Qt::Key_Up, Qt::AltModifier);  // outside it says so and stays
    QVERIFY(!window_->shown().inside);
  }
  void aDoubleClickLooksInsideAndThePathLeadsBack() {
    const std::string id = fold({"tone", "dye"}, QStringLiteral("Faded dye"));
    const QPoint at = board()->widgetPoint(board()->view().layout.tag(id)->rect.center());
    QTest::mouseDClick(board(), Qt::LeftButton, {}, at);
    QVERIFY(window_->shown().inside);
    QPushButton* back = nullptr;
    for (auto* b : window_->findChildren<QPushButton*>())
      if (b->isVisible() && b->text() == QString::fromStdString(material().name)) back = b;
    QVERIFY(back);
    back->click();
    QTRY_VERIFY(!window_->shown().inside);
  }
  void undoOfTheGroupLeadsOutside() {
    const std::string id = fold({"tone", "dye"}, QStringLiteral("Faded dye"));
    board()->select({id});
    key(Qt::Key_Down, Qt::AltModifier);
    QVERIFY(window_->shown().inside);
    window_->document().undo();
    window_->document().undo();
    QVERIFY(!window_->shown().inside && window_->shown().node("tone"));
  }
  void nodesAreAddedAndOutputsMadeInside() {
    const std::string id = fold({"tone", "dye"}, QStringLiteral("Faded dye"));
    board()->select({id});
    key(Qt::Key_Down, Qt::AltModifier);
    board()->select({"tone"});
    key(Qt::Key_Slash);
    auto* line = board()->findChild<QFrame*>(QStringLiteral("addLine"))->findChild<QLineEdit*>();
    QTest::keyClicks(line, QStringLiteral("invert"));
    QTest::keyClick(line, Qt::Key_Return);
    QVERIFY(window_->shown().node("invert"));
    QCOMPARE(window_->shown().into("invert", "value")->from_node, std::string("tone"));
    // Its thread is dropped on the room for a new output.
    const auto& out = board()->view().layout.tag("invert")->outputs.front();
    const QPoint from = board()->widgetPoint(out.at), to = board()->view().slotRect(BoardView::kNewSlot).center();
    QVERIFY(!board()->view().slotRect(BoardView::kNewSlot).isEmpty());
    QTest::mousePress(board(), Qt::LeftButton, {}, from);
    QTest::mouseMove(board(), (from + to) / 2);
    QTest::mouseRelease(board(), Qt::LeftButton, {}, to);
    const Group* g = material().group(material().node(id)->group);
    QCOMPARE(g->outputs.size(), std::size_t{2});
    QCOMPARE(g->outputs[1].from.substr(0, 7), std::string("invert."));
    QCOMPARE(board()->view().layout.tags().size(), std::size_t{4});
  }
  void aDialInsideIsOfferedByEveryUse() {
    const std::string id = fold({"tone", "dye"}, QStringLiteral("Faded dye"));
    board()->select({id});
    key(Qt::Key_Down, Qt::AltModifier);
    board()->select({"tone"});
    key(Qt::Key_D);
    key(Qt::Key_Up, Qt::AltModifier);
    board()->select({id});
    const Group* g = material().group(material().node(id)->group);
    QCOMPARE(g->values.size(), std::size_t{1});
    ParameterRow* row = window_->tray()->row(g->values[0].id);
    QVERIFY(row && window_->tray()->row("seed"));
    auto* slider = row->findChild<Slider*>();
    QVERIFY(slider);
    calm();
    const auto before = window_->lastSeen()->hem.at("base_colour").strand[0];
    QTest::keyClick(slider, Qt::Key_Right);
    QVERIFY(material().node(id)->params.count(g->values[0].id));
    calm();
    QVERIFY(window_->lastSeen()->hem.at("base_colour").strand[0] != before);
  }
  void aFurtherUseAndACopyOfItsOwn() {
    const std::string id = fold({"tone", "dye"}, QStringLiteral("Faded dye"));
    board()->select({id});
    key(Qt::Key_Slash);
    auto* line = board()->findChild<QFrame*>(QStringLiteral("addLine"))->findChild<QLineEdit*>();
    QTest::keyClicks(line, QStringLiteral("faded"));
    QTest::keyClick(line, Qt::Key_Return);
    const std::string second = board()->selection().back();
    QVERIFY(second != id && material().node(second)->group == material().node(id)->group);
    board()->commands().copyOfItsOwn();
    QVERIFY(material().node(second)->group != material().node(id)->group);
  }
  void aTemplateIsOfferedInEveryMaterial() {
    const std::string id = fold({"tone", "dye"}, QStringLiteral("Faded dye"));
    board()->select({id});
    window_->keepTemplate();
    window_->document().reset(edit::empty_material());
    board()->setFocus();
    key(Qt::Key_Slash);
    auto* frame = board()->findChild<QFrame*>(QStringLiteral("addLine"));
    auto* line = frame->findChild<QLineEdit*>();
    auto* list = frame->findChild<QListWidget*>();
    const auto offered = [&] { return !list->findItems(QStringLiteral("Faded dye"), Qt::MatchStartsWith).isEmpty(); };
    // The line is there before the disc has answered; what it brings does not move whoever has gone down the list.
    QVERIFY(line->isVisible() && list->count() > 50 && !offered());
    for (int i = 0; i < 4; ++i) QTest::keyClick(line, Qt::Key_Down);
    const QString at = list->currentItem()->text();
    QVERIFY(settled(offered, 20000));
    QCOMPARE(list->currentItem()->text(), at);
    QTest::keyClicks(line, QStringLiteral("faded"));
    QTest::keyClick(line, Qt::Key_Return);
    QCOMPARE(material().groups.size(), std::size_t{1});
    QVERIFY(validate(material(), catalogue()).empty());
    QCOMPARE(material().group(material().nodes[0]->group)->nodes.size(), std::size_t{2});
  }
  void takenApartByKey() {
    const std::string id = fold({"tone", "dye"}, QStringLiteral("Faded dye"));
    board()->select({id});
    key(Qt::Key_G, Qt::ControlModifier | Qt::ShiftModifier);
    QVERIFY(material().groups.empty() && material().node("tone") && material().node("dye"));
    QCOMPARE(board()->selection().size(), std::size_t{2});
  }

  void marksAreSetAndVisited() {
    const std::string id = fold({"tone", "dye"}, QStringLiteral("Faded dye"));
    board()->select({"cellular_noise"});
    key(Qt::Key_M, Qt::ShiftModifier);
    key(Qt::Key_W);  // the letter, not the action of that key
    QCOMPARE(material().marks.at("w"), std::string("cellular_noise.nearest"));
    board()->select({id});
    key(Qt::Key_Down, Qt::AltModifier);
    board()->select({"tone"});
    key(Qt::Key_M, Qt::ShiftModifier);
    key(Qt::Key_T);
    QCOMPARE(material().marks.at("t"), id + "/tone.value");
    key(Qt::Key_M);
    key(Qt::Key_W);
    QVERIFY(!window_->shown().inside);
    QCOMPARE(board()->selection(), std::vector<std::string>{"cellular_noise"});
    key(Qt::Key_M);
    key(Qt::Key_T);
    QVERIFY(window_->shown().inside);
    QCOMPARE(board()->selection(), std::vector<std::string>{"tone"});
    key(Qt::Key_M);
    key(Qt::Key_X);  // not set: it says so, and nothing moves
    QCOMPARE(board()->selection(), std::vector<std::string>{"tone"});
  }
  void notesAndAliases() {
    board()->select({"dye"});
    key(Qt::Key_N, Qt::ShiftModifier);
    typeName(QStringLiteral("matched by eye"));
    QCOMPARE(material().notes_on.at("dye"), std::string("matched by eye"));
    key(Qt::Key_A);
    QVERIFY(material().into("dye", "value")->alias);
    const auto& threads = board()->view().layout.threads();
    const auto it =
        std::find_if(threads.begin(), threads.end(), [](const ThreadPlace& t) { return t.to == "dye.value"; });
    QVERIFY(it != threads.end() && it->alias && it->path.boundingRect().height() < 20);
    key(Qt::Key_A);
    QVERIFY(!material().into("dye", "value")->alias);
  }
  void findAndTidyWorkInside() {
    const std::string id = fold({"gradient_noise", "tone", "dye"}, QStringLiteral("All"));
    board()->select({id});
    key(Qt::Key_Down, Qt::AltModifier);
    board()->select({"dye"});
    key(Qt::Key_Down, Qt::ControlModifier);
    key(Qt::Key_Down, Qt::ControlModifier);
    const Group* g = material().group(material().node(id)->group);
    const auto row = [&] {
      for (const NodePtr& n : material().group(g->id)->nodes)
        if (n->id == "dye") return n->row;
      return -1;
    };
    QCOMPARE(row(), 5);
    key(Qt::Key_C);
    QCOMPARE(row(), 2);
  }

  void aHeldStateIsComparedWithTheLiveOne() {
    Loupe* loupe = window_->loupe();
    board()->select({"tone"});
    calm();
    QVERIFY(settled([this] { return window_->isIdle(); }));
    key(Qt::Key_V, Qt::ShiftModifier);
    QCOMPARE(loupe->compare(), Compare::b);
    Q_EMIT window_->tray()->paramWanted("tone", "black", 0.4);
    calm();
    QApplication::processEvents();
    const DrapePanel* drape = window_->drape();
    const auto lit = [drape] {
      return settled([drape] { return drape->isIdle(); }) ? drape->image().copy() : QImage();
    };
    const QImage live = loupe->grab().toImage(), live_lit = lit();
    key(Qt::Key_V);
    QCOMPARE(loupe->compare(), Compare::a);
    const QImage held_lit = lit();
    QVERIFY2(!held_lit.isNull() && held_lit != live_lit, "the drape shows A's maps too");
    const QImage held = loupe->grab().toImage();
    QVERIFY(live.pixel(loupe->width() / 2, loupe->height() / 3) !=
                held.pixel(loupe->width() / 2, loupe->height() / 3) ||
            live != held);
    loupe->nextCompare();
    QCOMPARE(loupe->compare(), Compare::wipe);
    QCOMPARE(lit(), live_lit);
    QCOMPARE(drape->heldImage(), held_lit);
    // The divider follows the pointer: far left, all is B; far right, all is A.
    const QPoint middle(loupe->width() / 2, loupe->height() / 3);
    QTest::mousePress(loupe, Qt::LeftButton, {}, middle);
    QTest::mouseMove(loupe, middle + QPoint(loupe->width() / 8, 0));
    QTest::mouseRelease(loupe, Qt::LeftButton, {}, middle + QPoint(loupe->width() / 8, 0));
    const QImage wiped = loupe->grab().toImage();
    QCOMPARE(wiped.pixel(middle - QPoint(20, 0)), held.pixel(middle - QPoint(20, 0)));
    const QImage both = window_->drape()->grab().toImage();
    const QPoint left(drape->width() / 4, drape->height() / 2), far(drape->width() - 12, drape->height() / 2);
    QCOMPARE(both.pixel(left), held_lit.pixel(left));
    QCOMPARE(both.pixel(far), live_lit.pixel(far));
    loupe->nextCompare();
    QCOMPARE(loupe->compare(), Compare::difference);
    QVERIFY(window_->drape()->grab().toImage() != both);
    loupe->nextCompare();
    QCOMPARE(loupe->compare(), Compare::off);
  }
  void theRangeAndTheSeamAreChecked() {
    Loupe* loupe = window_->loupe();
    board()->select({"tone"});
    key(Qt::Key_H, Qt::ShiftModifier);
    Q_EMIT window_->tray()->paramWanted("tone", "white", 0.5);
    calm();
    QCOMPARE(loupe->look(), Look::marked);
    QVERIFY(window_->lastSeen()->below >= 0 && window_->lastSeen()->below + window_->lastSeen()->above <= 1);
    board()->select({"cellular_noise"});
    key(Qt::Key_T, Qt::ShiftModifier);
    calm();
    QVERIFY(loupe->seamChecked() && window_->lastSeen()->seam && !window_->lastSeen()->seam->seam());
    // What has a seam by nature is told as one.
    Material m = edit::add_node(material(), catalogue(), "coordinates", "colour", 0, 1);
    window_->document().edit(QStringLiteral("add"), m);
    board()->select({"coordinates"});
    calm();
    QVERIFY(window_->lastSeen()->seam && window_->lastSeen()->seam->seam());
    // The texel in the middle of the shifted picture is the tile's first.
    const QPoint middle = loupe->texelAt(loupe->pictureArea().center() + QPointF(0, 1));
    QVERIFY(middle.y() < 8 || middle.y() > window_->lastSeen()->size - 8);
    key(Qt::Key_T, Qt::ShiftModifier);
    key(Qt::Key_H, Qt::ShiftModifier);
    QCOMPARE(loupe->look(), Look::plain);
  }
  void aPlaceIsFollowedBack() {
    Loupe* loupe = window_->loupe();
    board()->select({"dye"});
    calm();
    QSignalSpy spy(&window_->engine(), &Engine::followed);
    QTest::mouseClick(loupe, Qt::LeftButton, Qt::ControlModifier, QPoint(loupe->width() / 2, loupe->height() / 3));
    QVERIFY(settled([&] { return spy.count() > 0 && window_->engine().isIdle(); }));
    const auto followed = spy.last()[0].value<FollowedPtr>();
    QCOMPARE(followed->values.size(), std::size_t{3});
    QCOMPARE(followed->path.size(), std::size_t{2});
    QCOMPARE(followed->path[0].first, std::string("dye.value"));
    QCOMPARE(followed->path[1].first, std::string("tone.value"));
    const QImage with = board()->grab().toImage();
    board()->setFocus();
    key(Qt::Key_Escape);
    QVERIFY(board()->grab().toImage() != with);
    QCOMPARE(board()->selection(), std::vector<std::string>{"dye"});  // it ended the following, not the selection
  }
};

QTEST_MAIN(TestInside)
#include "tst_inside.moc"
