// Nodes and commands are found by name and by other words; files from elsewhere are asked for.
#include <QLineEdit>
#include <QListWidget>
#include <fstream>

#include "app/base/ranking.h"
#include "core/graph/edit.h"
#include "core/plane/plane.h"
#include "tests/app/driving.h"

using namespace loom;
using namespace loom::app;
using namespace loom::test;

class TestFinding : public QObject {
  Q_OBJECT
  std::unique_ptr<MainWindow> w_;

  QStringList typedInto(QWidget* holder, const QString& typed) const {
    auto* line = holder->findChild<QLineEdit*>();
    auto* list = holder->findChild<QListWidget*>();
    line->setText(typed);
    QStringList all;
    for (int i = 0; i < list->count(); ++i) all << list->item(i)->text().section(QLatin1Char('\n'), 0, 0);
    return all;
  }
  QStringList commandsFor(const QString& typed) const {
    QStringList found;
    const WithModal modal([&](QWidget* dialog) {
      found = typedInto(dialog, typed);
      dialog->close();
    });
    for (QAction* a : w_->actions())
      if (a->text() == QStringLiteral("Commands")) a->trigger();
    return found;
  }

 private Q_SLOTS:
  void initTestCase() { prepare(); }
  void init() { w_ = shownWindow(); }
  void cleanup() { closeUnsaved(w_); }

  void aWholeWordComesBeforeTheBeginningOfALongerOne() {
    const auto of = [](const char* name, const char* typed, const char* words = "") {
      return rank(QString::fromLatin1(name), QString::fromLatin1(words), QString::fromLatin1(typed));
    };
    QVERIFY(of("Normal from height", "normal") < of("Normalise", "normal"));
    QVERIFY(of("Blend normals", "blend") < of("Blending", "blend"));
    QVERIFY(of("Flip green", "green") < of("Greenish", "green"));
    QVERIFY(of("Tone", "tone") < of("Tone curve", "tone"));
    QVERIFY(of("Bypass", "mute", "mute off") < of("Commute", "mute"));  // a word of its own before a part of another
    QVERIFY(of("Height from normal", "height norm") >= 0);              // several words, in any order
    QVERIFY(of("Height from normal", "norm height") >= 0);
    QCOMPARE(of("Height from normal", "tile"), -1);
    QVERIFY(of("Tiles", "joint", "Note\njoint 0.2") >= 0);  // a line of the other words begins a word too
    QCOMPARE(of("Anything", ""), 0);
  }
  void theAddLineRanksSo() {
    w_->board()->commands().openAddLine();
    auto* line = w_->findChild<QWidget*>(QStringLiteral("addLine"));
    QVERIFY(line);
    const QStringList normal = typedInto(line, QStringLiteral("normal"));
    QVERIFY2(normal.indexOf(QStringLiteral("Normal from height")) < normal.indexOf(QStringLiteral("Normalise")),
             qPrintable(normal.join(QLatin1Char('\n'))));
    QCOMPARE(typedInto(line, QStringLiteral("sqrt")).value(0), QStringLiteral("Square root"));
    QCOMPARE(typedInto(line, QStringLiteral("bitmap")).value(0), QStringLiteral("Image"));
  }
  void commandsAreFoundByOtherWords_data() {
    QTest::addColumn<QString>("typed");
    QTest::addColumn<QString>("command");
    for (const auto& [typed, command] : {std::pair{"export", "Deliver …"},
                                         {"expose", "Dials …"},
                                         {"mute", "Bypass"},
                                         {"theme", "Dark palette"},
                                         {"package", "Bolt (package) …"},
                                         {"slice", "Cut threads with a stroke"},
                                         {"ungroup", "Take the group apart"},
                                         {"bookmark", "Visit a mark"},
                                         {"shortcuts", "Keys …"},
                                         {"quit", "Close"}})
      QTest::newRow(typed) << QString::fromUtf8(typed) << QString::fromUtf8(command);
  }
  void commandsAreFoundByOtherWords() {
    QFETCH(QString, typed);
    QFETCH(QString, command);
    const QStringList found = commandsFor(typed);
    QVERIFY2(found.value(0).startsWith(command), qPrintable(found.join(QLatin1Char('\n'))));
  }

  void filesFromElsewhereAreAskedFor_data() {
    QTest::addColumn<int>("answer");
    QTest::newRow("no") << static_cast<int>(QMessageBox::No);
    QTest::newRow("yes") << static_cast<int>(QMessageBox::Yes);
  }
  void filesFromElsewhereAreAskedFor() {
    QFETCH(int, answer);
    QTemporaryDir dir;
    const std::string top = dir.path().toStdString();
    QDir(dir.path()).mkpath(QStringLiteral("doc"));
    std::ofstream(top + "/sign.svg") << "<svg viewBox='0 0 10 10'><rect width='10' height='5'/></svg>";
    std::ofstream(top + "/doc/sign.loom") << R"({"format": 2, "lanes": [{"id": "a", "name": "A"}],
      "nodes": [{"id": "s", "type": "svg_drawing", "lane": "a", "row": 0, "column": 0,
                 "params": {"file": "../sign.svg", "margin": 0}}],
      "threads": [], "hem": {"height": "s.mask"}})";
    float mean = -1;
    QObject here;  // what is seen after this is of no interest, and has nowhere to go
    connect(&w_->engine(), &Engine::seen, &here, [&](const SeenPtr& seen) {
      if (seen->hem.count("height")) mean = range_of(*seen->hem.at("height").strand[0]).mean;
    });
    Answer asked(answer);
    QVERIFY(w_->openPath(dir.filePath(QStringLiteral("doc/sign.loom"))));
    QVERIFY(!asked.text.isEmpty());
    const float wanted = answer == QMessageBox::Yes ? 0.5f : 0.0f;
    QVERIFY(settled([&] { return w_->isIdle() && std::abs(mean - wanted) < 0.01f; }));
  }
};

QTEST_MAIN(TestFinding)
#include "tst_finding.moc"
