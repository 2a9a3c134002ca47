// Bolts on the board: dropped, found by typing, opened, and exchanged for another version once its report was read.
#include <QBuffer>
#include <QDropEvent>
#include <QLineEdit>
#include <QListWidget>
#include <QMimeData>
#include <QPushButton>
#include <QTextBrowser>

#include "app/fitting/input_field.h"
#include "app/shell/bolt_nodes.h"
#include "core/bolt/package.h"
#include "core/graph/bolt_group.h"
#include "core/graph/disc.h"
#include "core/graph/edit.h"
#include "core/graph/json.h"
#include "core/graph/validate.h"
#include "core/io/image.h"
#include "tests/app/driving.h"

using namespace loom;
using namespace loom::app;
using namespace loom::test;

class TestBoltNodes : public QObject {
  Q_OBJECT
  std::unique_ptr<MainWindow> window_;
  std::unique_ptr<QTemporaryDir> dir_;

  static Material layer(const char* version = "1.0", double scale = 8) {
    Material m = edit::empty_material();
    m.name = "Soot layer";
    m.imprint = {"soot_layer", version, {}, ""};
    for (const char* type : {"input", "gradient_noise", "blend"})
      m = edit::add_node(std::move(m), catalogue(), type, "relief", 0, 0);
    m = edit::rename_node(std::move(m), "input", "Below");
    m = edit::set_param(std::move(m), "gradient_noise", "scale", scale);
    m = edit::connect(std::move(m), {"input", "value", "blend", "lower"});
    m = edit::connect(std::move(m), {"gradient_noise", "value", "blend", "upper"});
    m = edit::make_dial(std::move(m), catalogue(), "blend", "amount");
    m = edit::set_hem(std::move(m), "roughness", "blend.result");
    m.presets.push_back({"Thick", {{m.values[0].id, 0.9}}});
    return m;
  }
  const Material& material() { return window_->document().material(); }
  Board* board() { return window_->board(); }
  QString file(const char* name) { return dir_->filePath(QString::fromLatin1(name)); }
  void write(const char* name, const Material& m) { QVERIFY(write_bolt(file(name).toStdString(), {m}).ok()); }
  static void drop(QWidget* onto, QPointF at, QMimeData& data) {
    QDragEnterEvent enter(at.toPoint(), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(onto, &enter);
    QVERIFY(enter.isAccepted());
    QDropEvent event(at, Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(onto, &event);
  }
  void drop(QPointF at, const QString& path) {
    QMimeData data;
    data.setUrls({QUrl::fromLocalFile(path)});
    drop(window_.get(), at, data);
  }

 private Q_SLOTS:
  void initTestCase() { prepare(); }
  void init() {
    dir_ = std::make_unique<QTemporaryDir>();
    write("soot.bolt", layer());
    QVERIFY(write_file(file("m.loom").toStdString(), write_material(edit::empty_material())).ok());
    window_ = shownWindow();
    QVERIFY(window_->openPath(file("m.loom")));
  }
  void cleanup() { closeUnsaved(window_); }

  void aDroppedBoltIsANode() {
    drop(QPointF(board()->mapTo(window_.get(), board()->rect().center())), file("soot.bolt"));
    QCOMPARE(material().nodes.size(), std::size_t{1});
    const Node& n = *material().nodes[0];
    QCOMPARE(n.bolt->file, std::string("soot.bolt"));
    QCOMPARE(board()->selection(), std::vector<std::string>{n.id});
    // Its dials and what it asks for are rows of the tray; its slots are pegs, the cord with them.
    for (const char* row : {"blend_amount", "input", "repeats", "seed"})
      QVERIFY2(window_->tray()->row(material().group_of(n)->values[0].id) && (*row == 'b' || window_->tray()->row(row)),
               row);
    QCOMPARE(board()->view().layout.tag(n.id)->outputs.size(), std::size_t{2});
    window_->document().edit(QStringLiteral("slot"), edit::set_hem(material(), "roughness", n.id + ".roughness"));
    QVERIFY(settled([&] { return window_->engine().isIdle(); }));
    QVERIFY(window_->lastSeen()->hem.count("roughness"));
    // Saved and opened again it is found beside the document.
    QVERIFY(window_->files().saveTo(file("n.loom")));
    QVERIFY(window_->openPath(file("n.loom")));
    QVERIFY(validate(material(), catalogue()).empty());
  }

  void itIsFoundByTyping() {
    board()->setFocus();
    QTest::keyClick(board(), Qt::Key_Slash);
    auto* frame = board()->findChild<QFrame*>(QStringLiteral("addLine"));
    auto* line = frame->findChild<QLineEdit*>();
    auto* list = frame->findChild<QListWidget*>();
    QVERIFY(
        settled([&] { return !list->findItems(QStringLiteral("Soot layer"), Qt::MatchStartsWith).isEmpty(); }, 20000));
    QTest::keyClicks(line, QStringLiteral("soot"));
    QTest::keyClick(line, Qt::Key_Return);
    QCOMPARE(material().nodes.size(), std::size_t{1});
    QVERIFY(material().nodes[0]->is_bolt() && validate(material(), catalogue()).empty());
    // It stays one node, and is opened in a fitting.
    const std::string before = write_material(material());
    QTest::keyClick(board(), Qt::Key_G, Qt::ControlModifier | Qt::ShiftModifier);
    QCOMPARE(write_material(material()), before);
    QTest::keyClick(board(), Qt::Key_Down, Qt::AltModifier);
    FittingWindow* fitting = nullptr;
    for (QWidget* w : QApplication::topLevelWidgets())
      if (auto* f = qobject_cast<FittingWindow*>(w)) fitting = f;
    QVERIFY(fitting && fitting->material().name == "Soot layer");
    fitting->close();
    // Named on the board, its definition stays.
    board()->select({material().nodes[0]->id});
    QTest::keyClick(board(), Qt::Key_F2);
    for (auto* l : board()->findChildren<QLineEdit*>())
      if (l->isVisible()) {
        l->selectAll();
        QTest::keyClicks(l, QStringLiteral("Grime"));
        QTest::keyClick(l, Qt::Key_Return);
        break;
      }
    QCOMPARE(material().nodes[0]->name, std::string("Grime"));
    QVERIFY(material().groups.empty());
  }

  void anotherVersionIsTakenOnceItsReportIsRead() {
    drop(QPointF(board()->mapTo(window_.get(), board()->rect().center())), file("soot.bolt"));
    const std::string id = material().nodes[0]->id;
    QVERIFY(!newer_version(material(), *material().nodes[0]->bolt));
    write("soot-2.bolt", layer("1.2", 3));
    const auto newer = newer_version(material(), *material().nodes[0]->bolt);
    QVERIFY(newer && newer->version == "1.2");
    QString report;
    const auto answer = [&](const char* word) {
      return std::make_unique<WithModal>([&report, word](QWidget* dialog) {
        report = dialog->findChild<QTextBrowser*>()->toPlainText();
        for (auto* b : dialog->findChildren<QPushButton*>())
          if (b->text() == QLatin1String(word)) return b->click();
      });
    };
    {
      const auto leave = answer("Leave it");
      Q_EMIT board()->otherVersionWanted(id, QString::fromStdString(newer->file));
    }
    QCOMPARE(material().nodes[0]->bolt->version, std::string("1.0"));
    QVERIFY2(report.contains(QStringLiteral("roughness")) &&
                 report.contains(QStringLiteral("node gradient_noise, scale was 8")),
             qPrintable(report));
    {
      const auto take = answer("Take it");
      Q_EMIT board()->otherVersionWanted(id, QString::fromStdString(newer->file));
    }
    QCOMPARE(material().nodes[0]->bolt->version, std::string("1.2"));
    QVERIFY(validate(material(), catalogue()).empty());
    window_->document().undo();
    QCOMPARE(material().nodes[0]->bolt->version, std::string("1.0"));
    QVERIFY(validate(material(), catalogue()).empty());
  }

  void aFittingTakesMapsAndNumbers() {
    const std::vector<std::uint8_t> grey(48, 30);
    QVERIFY(write_file(file("below.png").toStdString(), *encode_picture(4, 4, grey)).ok());
    FittingWindow* f = window_->files().openFitting(file("soot.bolt"));
    QVERIFY(f);
    QVERIFY(settled([&] { return f->isIdle(); }, 60000));
    auto* field = f->findChild<InputField*>();
    QVERIFY(field && field->isVisible());
    const auto stands = [&] { return std::get<std::string>(f->material().node("input")->params.at("stands_in")); };
    QMimeData data;
    data.setUrls({QUrl::fromLocalFile(file("below.png"))});
    drop(field, QPointF(20, 20), data);
    QCOMPARE(stands(), std::string("picture"));
    QVERIFY(validate(f->material(), catalogue()).empty());
    QVERIFY(QFile::remove(file("below.png")));  // it is held from then on
    QVERIFY(settled([&] { return f->isIdle(); }, 60000));
    f->giveMap("input", file("gone.png"));
    QCOMPARE(std::get<std::string>(f->material().node("input")->params.at("file")), std::string("files/below.png"));
    for (auto* b : field->findChildren<QPushButton*>())
      if (b->text() == QStringLiteral("back")) b->click();
    QVERIFY(!f->material().node("input")->params.count("stands_in"));
    f->close();
  }
};

QTEST_MAIN(TestBoltNodes)
#include "tst_bolt_nodes.moc"
