// The quay floor's graph, built from nothing with keys alone: every node, name, thread and slot.
#include "core/bolt/package.h"
#include "core/graph/edit.h"
#include "core/graph/validate.h"
#include "tests/app/driving.h"

#include <QLineEdit>
#include <QListWidget>

using namespace loom;
using namespace loom::app;
using namespace loom::test;

class TestKeysAlone : public QObject {
  Q_OBJECT
  MainWindow* window_ = nullptr;
  const Material& material() { return window_->document().material(); }
  // Keys go to whatever has the keyboard, as a person's do.
  void key(int k, Qt::KeyboardModifiers with = Qt::NoModifier) {
    QWidget* at = QApplication::focusWidget();
    QVERIFY(at);
    QTest::keyClick(at, static_cast<Qt::Key>(k), with);
  }
  void type(const QString& text) {
    QWidget* at = QApplication::focusWidget();
    QVERIFY(at);
    QTest::keyClicks(at, text);
  }
  // Ctrl+F, the name, Enter.
  void find(const std::string& id) {
    const WithModal narrow([id](QWidget* dialog) {
      auto* line = dialog->findChild<QLineEdit*>();
      QTest::keyClicks(line, QStringLiteral("    ") + QString::fromStdString(id));  // entries end in the identifier
      auto* list = dialog->findChild<QListWidget*>();
      for (int i = 0; i < list->count() &&
                      !list->currentItem()->text().endsWith(QStringLiteral("    ") + QString::fromStdString(id));
           ++i)
        list->setCurrentRow(i);
      QTest::keyClick(line, Qt::Key_Return);
    });
    key(Qt::Key_F, Qt::ControlModifier);
    window_->activateWindow();  // no window manager gives the keyboard back here
    QVERIFY(QTest::qWaitForWindowActive(window_));
    QCOMPARE(window_->board()->selection(), std::vector<std::string>{id});
  }
  // Enter steps through the outputs until the loupe shows the one that is wanted.
  void showOutput(const std::string& node, const std::string& peg) {
    for (int i = 0; i < 16 && window_->board()->focusedOutput() != node + "." + peg; ++i) key(Qt::Key_Return);
    QCOMPARE(window_->board()->focusedOutput(), node + "." + peg);
  }
  void thread(const std::string& node, const std::string& peg, const QString& to) {
    find(node);
    showOutput(node, peg);
    key(Qt::Key_W, Qt::ShiftModifier);
    type(to);
    key(Qt::Key_Return);
  }

 private Q_SLOTS:
  void initTestCase() { prepare(); }
  void theQuayFloorIsBuilt() {
    const Material wanted = *open_material(LOOM_DEMO "/quay-floor.loom");
    MainWindow window;
    window_ = &window;
    window.resize(1280, 800);
    window.document().reset(edit::empty_material());
    window.show();
    QVERIFY(QTest::qWaitForWindowActive(&window));
    key(Qt::Key_B, Qt::AltModifier);          // to the board
    std::map<std::string, std::string> made;  // by the demo's identifiers
    for (const NodePtr& n : wanted.nodes) {
      key(Qt::Key_Escape);  // nothing selected: the new node is connected to nothing
      key(Qt::Key_Slash);
      type(QString::fromStdString(catalogue().find(n->type)->label));
      key(Qt::Key_Return);
      QCOMPARE(window.board()->selection().size(), std::size_t{1});
      made[n->id] = window.board()->selection().back();
      QCOMPARE(material().node(made[n->id])->type, n->type);
      key(Qt::Key_F2);
      key(Qt::Key_A, Qt::ControlModifier);
      type(QString::fromStdString(n->name));
      key(Qt::Key_Return);
      QCOMPARE(material().node(made[n->id])->name, n->name);
    }
    for (const Thread& t : wanted.threads) {
      const Node& to = *wanted.node(t.to_node);
      QString peg;
      for (const Peg& p : inputs_of(wanted, catalogue(), to))
        if (p.id == t.to_peg) peg = QString::fromStdString(p.label);
      thread(made[t.from_node], t.from_peg, QString::fromStdString(to.name) + QStringLiteral(", ") + peg);
      const Thread* laid = material().into(made[t.to_node], t.to_peg);
      QVERIFY2(laid && laid->from_node == made[t.from_node] && laid->from_peg == t.from_peg,
               (t.from_node + " " + t.to_node + "." + t.to_peg).c_str());
    }
    for (const auto& [slot, from] : wanted.hem) {
      const auto [node, peg] = split_output(from);
      thread(made[node], peg, QStringLiteral("hem, ") + QString::fromUtf8(hem_slot(slot)->label.data()));
      QCOMPARE(material().hem.at(slot), made[node] + "." + peg);
    }
    key(Qt::Key_C);  // tidy
    QVERIFY(validate(material(), catalogue()).empty());
    QCOMPARE(material().nodes.size(), wanted.nodes.size());
    QCOMPARE(material().threads.size(), wanted.threads.size());
    // A number of the first node by keys: P goes to its parameters, the arrow turns the first slider that is one.
    find(made["scuffs"]);
    key(Qt::Key_P);
    QVERIFY(QApplication::focusWidget() != window.board());
    // And back: all of it undone, step by step.
    int steps = 0;
    key(Qt::Key_B, Qt::AltModifier);
    while (window.document().canUndo() && steps < 2000) key(Qt::Key_Z, Qt::ControlModifier), ++steps;
    QVERIFY(material().nodes.empty());
    window.document().reset(edit::empty_material());
  }
};

QTEST_MAIN(TestKeysAlone)
#include "tst_keys_alone.moc"
