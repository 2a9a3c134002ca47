// The program is killed at random moments while it is edited, woven and saved: nothing older than two seconds is lost,
// and a file is always the old one or the new one. Five times here; WILDLOOM_KILLS says another number (tools/kills
// runs two hundred).
#include <signal.h>

#include <QProcess>
#include <random>

#include "core/bolt/package.h"
#include "core/graph/edit.h"
#include "core/graph/json.h"
#include "core/graph/validate.h"
#include "tests/app/driving.h"

using namespace loom;
using namespace loom::app;
using namespace loom::test;

namespace {

// The child: a window with the quay floor whose seed counts up with every edit, a dial turning along; saved every now
// and then. Each edit is noted, with its time, in a file that outlives the process.
int live(const QString& folder) {
  MainWindow window;
  window.show();
  const QString path = folder + QStringLiteral("/floor.loom");
  if (!window.openPath(path)) return 1;
  QFile log(folder + QStringLiteral("/log"));
  if (!log.open(QIODevice::WriteOnly | QIODevice::Unbuffered)) return 1;
  QTimer edits;
  int count = 0;
  QObject::connect(&edits, &QTimer::timeout, &window, [&] {
    Material m = window.document().material();
    m.seed = ++count;
    if (!m.values.empty()) m = edit::set_value(m, m.values[0].id, 4.0 + count % 9);
    window.document().edit(QStringLiteral("Edit"), m);
    log.write(QStringLiteral("%1 %2\n").arg(count).arg(QDateTime::currentMSecsSinceEpoch()).toUtf8());
    if (count % 41 == 0 && !window.document().save(path)) QApplication::exit(1);
  });
  edits.start(12);
  return QApplication::exec();
}

}  // namespace

class TestKilled : public QObject {
  Q_OBJECT
 private Q_SLOTS:
  void nothingIsLost() {
    const int kills = std::max(
        1, qEnvironmentVariableIntValue("WILDLOOM_KILLS") ? qEnvironmentVariableIntValue("WILDLOOM_KILLS") : 5);
    std::mt19937 chance(static_cast<std::uint32_t>(QDateTime::currentMSecsSinceEpoch()));
    double oldest = 0;
    for (int round = 0; round < kills; ++round) {
      QTemporaryDir folder;
      const QString path = folder.filePath(QStringLiteral("floor.loom"));
      QVERIFY(QFile::copy(QStringLiteral(LOOM_DEMO "/quay-floor.loom"), path));
      QProcess child;
      child.setProcessChannelMode(QProcess::ForwardedErrorChannel);
      child.start(QCoreApplication::applicationFilePath(), {QStringLiteral("--child"), folder.path()});
      QVERIFY(child.waitForStarted());
      QFile log(folder.filePath(QStringLiteral("log")));
      QTRY_VERIFY_WITH_TIMEOUT(log.exists() && log.size() > 0, 60000);
      QThread::msleep(300 + chance() % 3500);
      ::kill(static_cast<pid_t>(child.processId()), SIGKILL);
      const qint64 died = QDateTime::currentMSecsSinceEpoch();
      QVERIFY(child.waitForFinished());
      // The file: whole, whichever save it was.
      const auto saved = open_material(path.toStdString());
      QVERIFY2(saved.ok(), saved.ok() ? "" : saved.error().text().c_str());
      QVERIFY(validate(*saved, catalogue()).empty());
      // What can be recovered, or the file if it is the newest of all.
      QVERIFY(log.open(QIODevice::ReadOnly));
      std::vector<std::pair<int, qint64>> edits;
      for (const QByteArray& line : log.readAll().split('\n')) {
        const auto parts = line.split(' ');
        if (parts.size() == 2) edits.emplace_back(parts[0].toInt(), parts[1].toLongLong());
      }
      int kept = static_cast<int>(saved->seed) == 7 && edits.front().first == 1 ? 0 : static_cast<int>(saved->seed);
      for (const QString& orphan : Document::orphans()) {
        if (!orphan.contains(QString::number(child.processId()))) continue;
        Document d;
        QVERIFY(d.recover(orphan).ok());
        QCOMPARE(d.path(), path);
        kept = std::max(kept, static_cast<int>(d.material().seed));
      }
      double lost = 0;
      for (const auto& [count, at] : edits)
        if (count > kept) lost = std::max(lost, static_cast<double>(died - at) / 1000);
      oldest = std::max(oldest, lost);
      QVERIFY2(lost <= 2.0, qPrintable(QStringLiteral("round %1: of %2 edits %3 were kept, the oldest lost %4 s old")
                                           .arg(round)
                                           .arg(edits.size())
                                           .arg(kept)
                                           .arg(lost)));
    }
    qInfo("killed %d times; the oldest edit that was lost was %.2f s old", kills, oldest);
  }
};

int main(int argc, char** argv) {
  if (qEnvironmentVariableIsEmpty("QT_QPA_PLATFORM")) qputenv("QT_QPA_PLATFORM", "offscreen");
  QApplication application(argc, argv);
  QStandardPaths::setTestModeEnabled(true);
  QCoreApplication::setOrganizationName(QStringLiteral("wildloom-tests"));
  QCoreApplication::setApplicationName(QStringLiteral("killed"));
  installTheme();
  if (argc > 2 && QByteArray(argv[1]) == "--child") return live(QString::fromLocal8Bit(argv[2]));
  TestKilled test;
  return QTest::qExec(&test, argc, argv);
}

#include "tst_killed.moc"
