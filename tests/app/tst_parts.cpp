// Parts of a mesh by real mouse and keys: chosen on the drape, given hems, pasted onto, recoloured.
#include <QListWidget>

#include "app/board/board_commands.h"
#include "app/loupe/loupe.h"
#include "app/shell/part_focus.h"
#include "core/bolt/package.h"
#include "core/graph/disc.h"
#include "core/graph/edit.h"
#include "core/graph/hem.h"
#include "core/graph/json.h"
#include "core/graph/validate.h"
#include "core/surface/drape.h"
#include "tests/app/driving.h"

using namespace loom;
using namespace loom::app;
using namespace loom::test;

class TestParts : public QObject {
  Q_OBJECT
  const Material& m() const { return window_->document().material(); }
  Board* board() const { return window_->board(); }
  DrapePanel* drape() const { return window_->drape(); }
  PartFocus& parts() const { return window_->parts(); }
  void calm() const {
    QVERIFY(settled([this] { return window_->isIdle(); }));
  }
  void key(int k, Qt::KeyboardModifiers with = Qt::NoModifier) const {
    QTest::keyClick(QApplication::focusWidget(), static_cast<Qt::Key>(k), with);
  }
  bool said(const QString& words) const {
    for (const QLabel* l : window_->findChildren<QLabel*>())
      if (l->text().contains(words)) return true;
    return false;
  }
  void backToBoard() const {
    window_->activateWindow();
    board()->setFocus();
    QTRY_VERIFY(board()->hasFocus());
  }
  // A place of the panel that shows the part; the middle one of those found.
  QPoint placeOf(const std::string& part) const {
    const Drape picture(drape()->outfit().on(drape()->view().parts()), drape()->view());
    std::vector<QPoint> places;
    for (int y = 60; y < drape()->height() - 40; y += 6)
      for (int x = 6; x < drape()->width() - 6; x += 6) {
        const auto hit = picture.under(static_cast<float>(x), static_cast<float>(y));
        if (hit && drape()->view().parts()[hit->part] == part) places.emplace_back(x, y);
      }
    return places.empty() ? QPoint() : places[places.size() / 2];
  }
  QColor colourAt(QPoint place) const { return drape()->image().pixelColor(place); }
  void openSign() {
    for (const char* name : {"sign.glb", "poster-sign.loom"})
      QVERIFY(QFile::copy(QStringLiteral(LOOM_DEMO "/") + name, folder_->filePath(QString::fromLatin1(name))));
    auto plain = open_material(folder_->filePath(QStringLiteral("poster-sign.loom")).toStdString());
    QVERIFY(plain.ok());
    plain->part_hems.clear();
    QVERIFY(write_file(folder_->filePath(QStringLiteral("plain.loom")).toStdString(), write_material(*plain)).ok());
    QVERIFY(window_->openPath(folder_->filePath(QStringLiteral("plain.loom"))));
    calm();
    QVERIFY(drape()->view().parts().size() == 3);
  }
  std::unique_ptr<QTemporaryDir> folder_;
  std::unique_ptr<MainWindow> window_;

 private Q_SLOTS:
  void initTestCase() { prepare(); }
  void init() {
    folder_ = std::make_unique<QTemporaryDir>();
    window_ = shownWindow();
    openSign();
  }
  void cleanup() { closeUnsaved(window_); }

  void aClickChoosesAPart() {
    QVERIFY(parts().part().empty());
    QTest::mouseClick(drape(), Qt::LeftButton, {}, placeOf("frame"));
    QCOMPARE(parts().part(), std::string("frame"));
    QCOMPARE(board()->view().hemOf, QStringLiteral("all parts"));
    // Turning the shape chooses nothing.
    const QPoint from = placeOf("board");
    QTest::mousePress(drape(), Qt::LeftButton, {}, from);
    QTest::mouseMove(drape(), from + QPoint(40, 0));
    QTest::mouseRelease(drape(), Qt::LeftButton, {}, from + QPoint(40, 0));
    QCOMPARE(parts().part(), std::string("frame"));
    QTest::mouseClick(drape(), Qt::LeftButton, {}, QPoint(3, drape()->height() / 2));
    QVERIFY(parts().part().empty() && board()->view().hemOf.isEmpty());
    QVERIFY(!window_->document().isEdited());
  }

  // By keys alone: to a part, a hem of its own, and another colour there, which the others do not get.
  void aHemOfItsOwn() {
    const auto all = m().hem;
    board()->setFocus();
    key(Qt::Key_J);
    const std::string part = parts().part();
    QCOMPARE(part, drape()->view().parts()[0]);
    key(Qt::Key_J, Qt::ControlModifier);
    QCOMPARE(m().part_hems.at(part).hem, all);
    QCOMPARE(board()->view().hemOf, QString::fromStdString(part));
    key(Qt::Key_Slash);
    QTest::keyClicks(QApplication::focusWidget(), QStringLiteral("colour"));
    key(Qt::Key_Return);
    calm();
    const std::string node = board()->selection().back();
    QCOMPARE(m().node(node)->type, std::string("colour"));
    key(Qt::Key_W, Qt::ShiftModifier);
    QTest::keyClicks(QApplication::focusWidget(), QStringLiteral("hem, emissive"));
    key(Qt::Key_Return);
    QCOMPARE(m().hem, all);
    QCOMPARE(split_output(m().part_hems.at(part).hem.at("emissive")).first, node);
    Q_EMIT window_->tray()->paramWanted(node, "colour", Vector{0.9, 0.0, 0.0});
    calm();
    QVERIFY(board()->view().hemPictures.count("emissive"));
    const QColor own = colourAt(placeOf(part)), other = colourAt(placeOf(drape()->view().parts()[1]));
    QVERIFY(own.red() > 180 && own.green() < 60);
    QVERIFY(!(other.red() > 180 && other.green() < 60));
    // Back through all parts to the hem of all.
    board()->setFocus();
    for (int i = 0; i < 3; ++i) key(Qt::Key_J);
    QVERIFY(parts().part().empty());
    QCOMPARE(board()->view().material.hem, all);
    key(Qt::Key_J);
    key(Qt::Key_J, Qt::ControlModifier);
    QVERIFY(m().part_hems.empty());
    window_->document().undo();
    QVERIFY(m().part_hems.count(part));
    QVERIFY(validate(m(), catalogue()).empty());
  }

  // The whole set-up for the other parts, recoloured in two actions.
  void pastedOntoPartsAndRecoloured() {
    board()->setFocus();
    std::vector<std::string> nodes;
    for (const NodePtr& n : m().nodes) nodes.push_back(n->id);
    board()->select(nodes);
    key(Qt::Key_C, Qt::ControlModifier);
    const std::size_t before = nodes.size();
    {
      const WithModal tick([](QWidget* dialog) {
        auto* list = dialog->findChild<QListWidget*>();
        QVERIFY(list && list->count() == 3);
        for (int i = 0; i < 3; ++i)
          if (list->item(i)->text() != QStringLiteral("board")) {
            list->setCurrentRow(i);
            QTest::keyClick(list, Qt::Key_Space);
          }
        QTest::keyClick(dialog, Qt::Key_Return);
      });
      key(Qt::Key_J, Qt::ControlModifier | Qt::ShiftModifier);
    }
    QCOMPARE(m().nodes.size(), 3 * before);
    QCOMPARE(m().part_hems.size(), std::size_t{2});
    QVERIFY(m().part_hems.at("frame").hem != m().part_hems.at("bracket").hem);
    QCOMPARE(board()->selection().size(), 2 * before);
    calm();
    const QColor was = colourAt(placeOf("frame")), board_was = colourAt(placeOf("board"));
    // E, and an arrow key a few times.
    backToBoard();
    key(Qt::Key_E);
    auto* dialog = window_->findChild<QDialog*>(QStringLiteral("recolour"));
    QVERIFY(dialog && settled([&] { return dialog->isActiveWindow() && QApplication::focusWidget(); }));
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_Right, Qt::ControlModifier);
    const Material one = m();
    for (int i = 0; i < 3; ++i) QTest::keyClick(QApplication::focusWidget(), Qt::Key_Right, Qt::ControlModifier);
    QVERIFY(write_material(one) != write_material(m()));
    calm();
    dialog->accept();
    calm();
    const QColor is = colourAt(placeOf("frame")), board_is = colourAt(placeOf("board"));
    const auto apart = [](const QColor& a, const QColor& b) {
      return std::abs(a.red() - b.red()) + std::abs(a.green() - b.green()) + std::abs(a.blue() - b.blue());
    };
    QVERIFY2(apart(was, is) > 25, qPrintable(was.name() + is.name()));
    QVERIFY(apart(board_was, board_is) < 8);
    QCOMPARE(window_->document().undoName(), QStringLiteral("Recolour"));
    // One step back, and a dialogue that is left leaves no step.
    window_->document().undo();
    const std::string text = write_material(m());
    QVERIFY(text != write_material(one));
    backToBoard();
    key(Qt::Key_E);
    dialog = window_->findChild<QDialog*>(QStringLiteral("recolour"));
    QVERIFY(dialog && settled([&] { return dialog->isActiveWindow() && QApplication::focusWidget(); }));
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_Right);
    QVERIFY(text != write_material(m()));
    QTest::keyClick(dialog, Qt::Key_Escape);
    QCOMPARE(write_material(m()), text);
    // Saved, opened anew, and worn as before.
    QVERIFY(window_->saveTo(folder_->filePath(QStringLiteral("three.loom"))));
    QVERIFY(window_->openPath(folder_->filePath(QStringLiteral("three.loom"))));
    calm();
    QCOMPARE(drape()->outfit().of_part.size(), std::size_t{2});
    QVERIFY(parts().part().empty());
  }

  // The part that a mesh does not have keeps its hem, and that is told.
  void aPartThatIsGone() {
    parts().focus("frame");
    parts().toggleOwnHem();
    calm();
    drape()->takeMesh(QStringLiteral(LOOM_DEMO "/bollard.glb"));
    QVERIFY(said(QStringLiteral("frame")));
    calm();
    QVERIFY(m().part_hems.count("frame"));
    QCOMPARE(parts().part(), std::string("frame"));  // still to be edited
    QVERIFY(drape()->outfit().on(drape()->view().parts()).of_part.empty());
    window_->document().undo();
    calm();
    QCOMPARE(drape()->outfit().on(drape()->view().parts()).of_part.size(), std::size_t{3});
  }

  void whatNeedsPartsSaysSo() {
    drape()->setShape(ShapeName::ball);
    board()->setFocus();
    key(Qt::Key_J);
    QVERIFY(parts().part().empty() && said(QStringLiteral("no parts")));
    key(Qt::Key_J, Qt::ControlModifier);
    QVERIFY(said(QStringLiteral("Choose a part first")));
    key(Qt::Key_J, Qt::ControlModifier | Qt::ShiftModifier);
    QVERIFY(said(QStringLiteral("no parts")) && !window_->document().isEdited());
    board()->select({"facing"});
    key(Qt::Key_E);
    QVERIFY(said(QStringLiteral("no colours")));
  }

  // A menu at the hem's head does the same.
  void theMenuAtTheHemsHead() {
    const auto choose = [this](const QString& text) {
      QTimer::singleShot(200, this, [text] {
        auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
        if (!menu) return;
        for (QAction* a : menu->actions())
          if (a->text().startsWith(text)) {
            menu->setActiveAction(a);
            return QTest::keyClick(menu, Qt::Key_Return);
          }
        menu->close();
      });
      QTest::mouseClick(board(), Qt::LeftButton, {}, QPoint(20, board()->height() - 20));
    };
    choose(QStringLiteral("bracket"));
    QCOMPARE(parts().part(), std::string("bracket"));
    choose(QStringLiteral("A hem of its own"));
    QVERIFY(m().part_hems.count("bracket"));
    choose(QStringLiteral("All parts"));
    QVERIFY(parts().part().empty() && board()->view().hemOf.isEmpty());
  }
};

QTEST_MAIN(TestParts)
#include "tst_parts.moc"
