// What helps to find one's way: keys that can be changed, values and who follows them, times, finding and coming back,
// the unlit view, and names for those who hear the screen.
#include "app/shell/keys_dialog.h"
#include "app/shell/times_panel.h"
#include "app/tray/values_panel.h"
#include "core/bolt/package.h"
#include "core/graph/edit.h"
#include "tests/app/driving.h"

#include <QAbstractItemView>
#include <QAbstractSlider>
#include <QAction>
#include <QComboBox>
#include <QKeySequenceEdit>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QScrollBar>
#include <QSettings>
#include <QTableWidget>

using namespace loom;
using namespace loom::app;
using namespace loom::test;

class TestAids : public QObject {
  Q_OBJECT
  const Material& material() { return window_->document().material(); }
  Board* board() { return window_->board(); }
  void calm() {
    QVERIFY(settled([this] { return window_->isIdle(); }));
  }
  void key(int k, Qt::KeyboardModifiers with = Qt::NoModifier) {
    QTest::keyClick(board(), static_cast<Qt::Key>(k), with);
  }
  QAction* action(const QString& name) {
    for (QAction* a : window_->findChildren<QAction*>())
      if (a->text() == name) return a;
    return nullptr;
  }
  std::unique_ptr<MainWindow> window_;

 private Q_SLOTS:
  void initTestCase() { prepare(); }
  void init() {
    QSettings().remove(QStringLiteral("keys"));
    window_ = std::make_unique<MainWindow>();
    window_->drape()->setSamples(4);  // enough to see that it refines
    window_->show();
    QVERIFY(window_->openPath(QStringLiteral(LOOM_DEMO "/quay-floor.loom")));
    QVERIFY(QTest::qWaitForWindowExposed(window_.get()));
    board()->setFocus();
  }
  void cleanup() {
    window_->document().reset(edit::empty_material());
    window_.reset();
  }

  void keysAreChangedClashesShownAndKept() {
    KeysDialog* dialog = window_->openKeys();
    dialog->choose(QStringLiteral("Tidy"));
    auto* keys = dialog->findChild<QKeySequenceEdit*>();
    QLabel* clash = nullptr;
    for (QLabel* l : dialog->findChildren<QLabel*>())
      if (l->accessibleName() == QStringLiteral("Clashes")) clash = l;
    QVERIFY(keys && clash && clash->text().isEmpty());
    keys->setKeySequence(QKeySequence(QStringLiteral("B")));
    QVERIFY(clash->text().contains(QStringLiteral("Bypass")));
    for (QPushButton* b : dialog->findChildren<QPushButton*>())
      if (b->text() == QStringLiteral("Take these keys")) b->click();
    QCOMPARE(action(QStringLiteral("Tidy"))->shortcut(), QKeySequence(QStringLiteral("B")));
    QVERIFY(action(QStringLiteral("Bypass"))->shortcut().isEmpty());
    dialog->close();
    // The key does its new work, and the next window has it too.
    board()->select({"dyed"});
    const int row = material().node("dyed")->row;
    window_->document().edit(QStringLiteral("push"),
                             edit::place_nodes(material(), {{"dyed", material().node("dyed")->lane,
                                                             material().node("dyed")->column, row + 9}}));
    key(Qt::Key_B);
    QVERIFY(!material().node("dyed")->bypass && material().node("dyed")->row < row + 9);
    MainWindow second;
    for (QAction* a : second.findChildren<QAction*>()) {
      if (a->text() == QStringLiteral("Tidy")) QCOMPARE(a->shortcut(), QKeySequence(QStringLiteral("B")));
      if (a->text() == QStringLiteral("Bypass")) QVERIFY(a->shortcut().isEmpty());
    }
    dialog = window_->openKeys();
    dialog->choose(QStringLiteral("Tidy"));
    for (QPushButton* b : dialog->findChildren<QPushButton*>())
      if (b->text() == QStringLiteral("as it was")) b->click();
    QCOMPARE(action(QStringLiteral("Tidy"))->shortcut(), QKeySequence(QStringLiteral("C")));
  }
  void noTwoActionsBeginWithTheSameKeys() {
    std::map<QString, QString> taken;
    for (QAction* a : window_->findChildren<QAction*>())
      for (const QKeySequence& k : a->shortcuts()) {
        const QString keys = k.toString();
        QVERIFY2(!taken.count(keys),
                 qPrintable(keys + QStringLiteral(": ") + taken[keys] + QStringLiteral(" and ") + a->text()));
        taken[keys] = a->text();
      }
    QVERIFY(taken.size() > 50);
  }
  void aValueIsMadeFollowedAndSet() {
    board()->select({"rim"});
    key(Qt::Key_U);
    const Node* n = material().node("rim");
    const auto follow = std::find_if(n->params.begin(), n->params.end(),
                                     [](const auto& p) { return std::holds_alternative<Follow>(p.second); });
    QVERIFY(follow != n->params.end());
    const std::string id = std::get<Follow>(follow->second).value;
    QVERIFY(material().value(id) && !material().value(id)->dial);
    ValuesPanel* panel = window_->openValues();
    auto* table = panel->findChild<QTableWidget*>();
    int row = -1;
    for (int i = 0; i < table->rowCount(); ++i)
      if (table->item(i, 0)->text().toStdString() == id) row = i;
    QVERIFY(row >= 0);
    table->selectRow(row);
    QListWidget* followers = panel->findChild<QListWidget*>();
    QCOMPARE(followers->count(), 1);
    if (std::holds_alternative<double>(material().value(id)->value)) {
      table->item(row, 1)->setText(QStringLiteral("1/8"));
      QCOMPARE(std::get<double>(material().value(id)->value), 0.125);
      table->item(row, 1)->setText(QStringLiteral("no number"));
      QCOMPARE(std::get<double>(material().value(id)->value), 0.125);
      QCOMPARE(table->item(row, 1)->text(), QStringLiteral("0.125"));
    }
    // A follower is flown to.
    board()->select({});
    Q_EMIT followers->itemActivated(followers->item(0));
    QCOMPARE(board()->selection(), std::vector<std::string>{"rim"});
    key(Qt::Key_Backspace);
    QVERIFY(board()->selection().empty());
  }
  void theWayBackIsAListWithSwatches() {
    board()->select({"colour"});
    calm();
    WayPanel* way = window_->openWay();
    auto* table = way->findChild<QTableWidget*>();
    QCOMPARE(table->rowCount(), 0);
    Q_EMIT window_->loupe()->followWanted(QPointF(0.3, 0.42));
    QVERIFY(settled([&] { return table->rowCount() > 0 && window_->isIdle(); }));
    QVERIFY2(table->rowCount() >= 3, QByteArray::number(table->rowCount()));
    QCOMPARE(table->item(0, 1)->data(Qt::UserRole).toString(), QStringLiteral("colour"));
    for (int i = 1; i < table->rowCount(); ++i) {
      // Each step feeds one before it, and has a part in it.
      const std::string node = table->item(i, 1)->data(Qt::UserRole).toString().toStdString();
      bool feeds = false;
      for (const Thread& t : material().threads) feeds |= t.from_node == node;
      QVERIFY2(feeds, node.c_str());
      QVERIFY(table->item(i, 3)->text().toDouble() >= 0 && !table->item(i, 2)->text().isEmpty());
    }
    // A colour's numbers are kept short.
    const TracedOutput held{{}, Kind::colour, {0.2f, 0.4f, 0.1f}};
    QCOMPARE(tracedText(held), QStringLiteral(".20 .40 .10"));
    Q_EMIT table->itemActivated(table->item(2, 1));
    Q_EMIT window_->loupe()->followEnded();
    QCOMPARE(table->rowCount(), 0);
    way->close();
  }
  void followersOfDialsAreAllFound() {
    for (const Value& v : material().values) {
      std::size_t by_hand = 0;
      for (const NodePtr& n : material().nodes)
        for (const auto& [id, held] : n->params) {
          const auto* f = std::get_if<Follow>(&held);
          by_hand += f && f->value == v.id;
        }
      QVERIFY2(followersOf(material(), v.id).size() >= by_hand, v.id.c_str());
    }
  }
  void timesOfAllNodesAreListed() {
    TimesPanel* times = window_->openTimes();
    calm();
    QVERIFY2(times->rows() >= 25, qPrintable(QString::number(times->rows())));
    auto* table = times->findChild<QTableWidget*>();
    for (int i = 1; i < table->rowCount(); ++i)
      QVERIFY(table->item(i - 1, 1)->text().toDouble() >= table->item(i, 1)->text().toDouble());
    const QString first = table->item(0, 0)->data(Qt::UserRole).toString();
    Q_EMIT table->itemActivated(table->item(0, 1));
    QCOMPARE(QString::fromStdString(board()->selection().back()), first);
  }
  void foundByNoteAndValueAndBackAgain() {
    window_->document().edit(QStringLiteral("note"), edit::set_note(material(), "scuffs", "feet and trolleys"));
    board()->select({"laid"});
    const auto before = board()->standpoint();
    const WithModal narrow([](QWidget* dialog) {
      auto* line = dialog->findChild<QLineEdit*>();
      QTest::keyClicks(line, QStringLiteral("trolleys"));
      QTest::qCompare(dialog->findChild<QListWidget*>()->count(), 1, "entries", "1", __FILE__, __LINE__);
      QTest::keyClick(line, Qt::Key_Return);
    });
    key(Qt::Key_F, Qt::ControlModifier);
    QCOMPARE(board()->selection(), std::vector<std::string>{"scuffs"});
    window_->activateWindow();  // no window manager gives the keyboard back here
    QVERIFY(QTest::qWaitForWindowActive(window_.get()));
    key(Qt::Key_Backspace);
    QCOMPARE(board()->selection(), before.selection);
  }
  void anOutputIsWornUnlit() {
    calm();
    const QImage lit = window_->drape()->image();
    board()->select({"dyed"});
    key(Qt::Key_O);
    calm();
    QVERIFY(window_->drape()->isUnlit());
    const QImage unlit = window_->drape()->image();
    QVERIFY(lit != unlit);
    // In the middle of the ball the picture is a colour of the map itself, whatever the exposure.
    window_->drape()->setExposure(1.5f);
    calm();
    const QRgb a = unlit.pixel(unlit.width() / 2, unlit.height() / 2),
               b = window_->drape()->image().pixel(unlit.width() / 2, unlit.height() / 2);
    QVERIFY(std::abs(qRed(a) - qRed(b)) < 6 && std::abs(qGreen(a) - qGreen(b)) < 6 &&
            std::abs(qBlue(a) - qBlue(b)) < 6);
    key(Qt::Key_O);
    QVERIFY(!window_->drape()->isUnlit());
  }
  void lanesMoveAndTakeTints() {
    const std::string first = material().lanes[0].id;
    Material m = edit::move_lane(material(), first, 1);
    QCOMPARE(m.lanes[1].id, first);
    QCOMPARE(edit::move_lane(m, first, -9).lanes[0].id, first);
    QCOMPARE(edit::tint_lane(m, first, 4).lane(first)->tint, 4);
    window_->document().edit(QStringLiteral("Move lane"), m);
    QCOMPARE(board()->view().layout.lanes()[1].id, first);
  }
  void theMapPansALargeBoard() {
    board()->setZoom(1.6);
    const auto before = board()->standpoint().scroll;
    const QPoint corner = board()->view().mapArea().bottomRight().toPoint() - QPoint(4, 4);
    QTest::mouseClick(board(), Qt::LeftButton, {}, corner);
    QVERIFY(board()->standpoint().scroll != before);
    QCOMPARE(board()->selection().size(), std::size_t{0});
  }

  // Whoever hears the screen gets a name for whatever takes the keyboard.
  void everyControlHasAName() {
    board()->select({"laid"});
    calm();
    window_->openDials();
    window_->openBolt();
    window_->openValues();
    window_->openTimes();
    window_->openKeys();
    window_->openDelivery();
    window_->openHelp();
    QApplication::processEvents();
    QStringList nameless;
    int seen = 0;
    for (QWidget* top : QApplication::topLevelWidgets()) {
      if (!top->isVisible()) continue;
      for (QWidget* w : top->findChildren<QWidget*>()) {
        if (!w->isVisible() || w->focusPolicy() == Qt::NoFocus || qobject_cast<QScrollBar*>(w)) continue;
        const bool inner =
            qobject_cast<QAbstractItemView*>(w->parentWidget()) || w->objectName().startsWith(QStringLiteral("qt_")) ||
            qobject_cast<QKeySequenceEdit*>(w->parentWidget()) || qobject_cast<QAbstractScrollArea*>(w->parentWidget());
        if (inner) continue;
        ++seen;
        const auto* button = qobject_cast<QAbstractButton*>(w);
        if (!w->accessibleName().isEmpty() || (button && !button->text().isEmpty())) continue;
        nameless << QString::fromLatin1(w->metaObject()->className()) + QStringLiteral(" in ") +
                        QString::fromLatin1(w->parentWidget()->metaObject()->className());
      }
    }
    nameless.removeDuplicates();
    QVERIFY2(nameless.isEmpty(), qPrintable(nameless.join(QStringLiteral("; "))));
    QVERIFY(seen > 60);
    for (QWidget* top : QApplication::topLevelWidgets())
      if (auto* dialog = qobject_cast<QDialog*>(top)) dialog->close();
  }
};

QTEST_MAIN(TestAids)
#include "tst_aids.moc"
