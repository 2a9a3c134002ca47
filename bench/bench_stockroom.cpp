// bench_stockroom [COUNT]: a stockroom of thousands of materials and bolts: how long until all are listed, and how long
// the window stands still meanwhile, while words are typed, and while the list is scrolled from end to end.
#include <QApplication>
#include <QElapsedTimer>
#include <QLineEdit>
#include <QScrollBar>
#include <QSettings>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QTimer>
#include <cstdio>

#include "app/base/theme.h"
#include "app/stockroom/stockroom_page.h"
#include "core/bolt/package.h"
#include "core/graph/disc.h"
#include "core/graph/edit.h"
#include "core/graph/json.h"
#include "core/nodes/catalogue.h"

using namespace loom;
using namespace loom::app;

namespace {

Material made(int i) {
  Material m = edit::empty_material();
  m.name = "Plank " + std::to_string(i);
  m.seed = static_cast<unsigned>(i);
  m.imprint.tags = {i % 3 ? "wood" : "stone", "quay"};
  m.tile_metres = 0.1 * (1 + i % 40);
  m = edit::add_node(std::move(m), catalogue(), "gradient_noise", m.lanes[0].id, 0, 0);
  return edit::set_hem(std::move(m), "base_colour", "gradient_noise.value");
}

// The longest time between two turns of the event loop.
class Pauses {
 public:
  Pauses() {
    last_.start();
    QObject::connect(&beat_, &QTimer::timeout, [this] {
      longest_ = std::max(longest_, last_.nsecsElapsed());
      last_.restart();
    });
    beat_.start(0);
  }
  double take() {
    const double ms = static_cast<double>(longest_) / 1e6;
    longest_ = 0;
    last_.restart();
    return ms;
  }

 private:
  QTimer beat_;
  QElapsedTimer last_;
  qint64 longest_ = 0;
};

void turn(int ms) {
  QElapsedTimer t;
  t.start();
  while (t.elapsed() < ms) QCoreApplication::processEvents(QEventLoop::AllEvents, 5);
}

}  // namespace

int main(int argc, char** argv) {
  QApplication application(argc, argv);
  QStandardPaths::setTestModeEnabled(true);
  QCoreApplication::setOrganizationName(QStringLiteral("wildloom-bench"));
  QCoreApplication::setApplicationName(QStringLiteral("bench_stockroom"));
  installTheme();
  const int count = argc > 1 ? std::atoi(argv[1]) : 5000;
  const QTemporaryDir dir;
  for (int i = 0; i < count; ++i) {
    const std::string base = dir.path().toStdString() + "/" + std::to_string(i);
    const Material m = made(i);
    const bool done = i % 2 ? write_bolt(base + ".bolt", {m}).ok() : write_file(base + ".loom", write_material(m)).ok();
    if (!done) return 1;
  }
  QSettings().setValue(QStringLiteral("stockroom/folders"), QStringList{dir.path()});
  Stock stock;
  StockroomPage page(stock);
  page.resize(1280, 758);
  page.show();
  turn(300);
  Pauses pauses;
  QElapsedTimer timer;
  timer.start();
  stock.look();
  StockModel& listed = page.view().pictures().items();
  while (listed.rowCount() < count && timer.elapsed() < 120000) turn(5);
  std::printf("%d listed in %.2f s, longest pause %.0f ms\n", listed.rowCount(),
              static_cast<double>(timer.elapsed()) / 1000, pauses.take());
  for (const char* typed : {"p", "pl", "plank 4", "wood", "", "> 2 m", ""}) {
    page.view().line()->setText(QString::fromLatin1(typed));
    turn(200);
  }
  std::printf("typing: longest pause %.0f ms\n", pauses.take());
  QScrollBar* bar = page.view().pictures().verticalScrollBar();
  for (int i = 0; i <= 100; ++i) {
    bar->setValue(bar->maximum() * i / 100);
    turn(20);
  }
  std::printf("scrolling: longest pause %.0f ms\n", pauses.take());
  timer.restart();
  stock.look();
  turn(50);
  while (!stock.isIdle() && timer.elapsed() < 120000) turn(5);
  std::printf("looked through again, nothing changed: %.2f s, longest pause %.0f ms\n",
              static_cast<double>(timer.elapsed()) / 1000, pauses.take());
  return 0;
}
