// bench_window FILE: the real main window, offscreen. From start to the first pictures; then the longest gap of the
// event loop while a set is delivered at 2048 and a dial is dragged; then how long a dragged dial takes to be seen and
// lit.
#include <QApplication>
#include <QDialog>
#include <QElapsedTimer>
#include <QMouseEvent>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QTimer>
#include <algorithm>
#include <cstdio>

#include "app/base/theme.h"
#include "app/deliver/deliver_form.h"
#include "app/shell/main_window.h"
#include "app/tray/slider.h"

using namespace loom::app;

namespace {

template <class Done>
void until(const Done& done, int most = 5000) {
  QElapsedTimer timer;
  timer.start();
  while (!done() && timer.elapsed() < most) QApplication::processEvents(QEventLoop::WaitForMoreEvents, 5);
}

// Moves the handle of a slider to and fro, as a hand does: a move every 16 ms.
class Hand : public QObject {
 public:
  explicit Hand(QWidget* slider) : slider_(slider) {
    send(QEvent::MouseButtonPress, 0);
    timer_.setInterval(16);
    connect(&timer_, &QTimer::timeout, this, [this] { send(QEvent::MouseMove, ++step_); });
    timer_.start();
  }
  ~Hand() override { send(QEvent::MouseButtonRelease, step_); }

 private:
  void send(QEvent::Type type, int step) {
    const int span = slider_->width() - 20, at = step * 3 % (2 * span);
    const QPointF place(10 + (at < span ? at : 2 * span - at), slider_->height() / 2.0);
    QMouseEvent e(type, place, slider_->mapToGlobal(place), Qt::LeftButton,
                  type == QEvent::MouseButtonRelease ? Qt::NoButton : Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(slider_, &e);
  }
  QWidget* slider_;
  QTimer timer_;
  int step_ = 0;
};

double worst(std::vector<double>& list, double share) {
  std::sort(list.begin(), list.end());
  return list.empty()
             ? 0
             : list[std::min(list.size() - 1, static_cast<std::size_t>(static_cast<double>(list.size()) * share))];
}

}  // namespace

int main(int argc, char** argv) {
  QElapsedTimer start;
  start.start();
  QStandardPaths::setTestModeEnabled(true);
  if (qEnvironmentVariableIsEmpty("QT_QPA_PLATFORM")) qputenv("QT_QPA_PLATFORM", "offscreen");
  QApplication application(argc, argv);
  QApplication::setOrganizationName(QStringLiteral("wildloom-bench"));
  installTheme();
  MainWindow window;
  window.resize(1280, 800);
  window.show();
  qint64 first = 0, full = 0;
  QObject::connect(window.drape(), &DrapePanel::pictureShown, &window, [&] {
    if (!first) first = start.elapsed();
    if (!full && window.drape()->mapSize() >= 512) full = start.elapsed();
  });
  std::setvbuf(stdout, nullptr, _IOLBF, 0);
  if (!window.openPath(argc > 1 ? QString::fromLocal8Bit(argv[1]) : QStringLiteral("demo/quay-floor.loom"))) return 1;
  until([&] { return full != 0; });
  std::printf("start to the first lit picture: %lld ms; of the maps at %d: %lld ms\n", static_cast<long long>(first),
              window.drape()->mapSize(), static_cast<long long>(full));
  until([&] { return window.isIdle(); });

  // The first followed number among the demo's nodes is the dial to drag.
  Slider* slider = nullptr;
  for (const auto& n : window.document().material().nodes)
    for (const auto& [id, value] : n->params)
      if (!slider && std::holds_alternative<loom::Follow>(value)) {
        window.board()->select({n->id});
        if (ParameterRow* row = window.tray()->row(id)) slider = row->findChild<Slider*>();
      }
  if (!slider) return std::fprintf(stderr, "no dial to drag\n"), 1;
  QTemporaryDir folder;
  QDialog* dialog = window.openDelivery();
  auto* form = dialog->findChild<DeliverForm*>(QStringLiteral("deliverForm"));
  form->setFolder(folder.path());
  std::vector<double> gaps;
  QElapsedTimer last, all;
  QTimer tick;
  tick.setTimerType(Qt::PreciseTimer);
  QObject::connect(&tick, &QTimer::timeout, &window, [&] {
    gaps.push_back(static_cast<double>(last.nsecsElapsed()) * 1e-6);
    if (gaps.back() > 40)
      std::printf("  a gap of %.0f ms, %.2f s after the start\n", gaps.back(),
                  static_cast<double>(all.elapsed()) / 1000);
    last.start();
  });
  {
    Hand hand(slider);
    last.start();
    tick.start(1);
    all.start();
    form->start();
    until([&] { return !form->isWriting(); }, 20000);
    tick.stop();
  }
  const double longest = worst(gaps, 1), p99 = worst(gaps, 0.99);
  std::printf(
      "event loop while a set is delivered at 2048 and a dial is dragged, %.1f s: longest gap %.1f ms, p99 %.1f ms\n",
      static_cast<double>(all.elapsed()) / 1000, longest, p99);
  dialog->close();
  until([&] { return window.isIdle(); });

  std::vector<double> lit;
  QElapsedTimer since;
  bool shown = false;
  QObject::connect(window.drape(), &DrapePanel::pictureShown, &window, [&] { shown = true; });
  for (int i = 0; i < 40; ++i) {
    until([&] { return window.isIdle(); }, 300);  // the samples that add up need not be waited for
    shown = false;
    since.start();
    QKeyEvent key(QEvent::KeyPress, i % 20 < 10 ? Qt::Key_Right : Qt::Key_Left, Qt::NoModifier);
    QApplication::sendEvent(slider, &key);
    until([&] { return shown; });
    lit.push_back(static_cast<double>(since.nsecsElapsed()) * 1e-6);
  }
  std::printf("a turned dial to its first lit picture in the window: median %.0f ms, p95 %.0f ms\n", worst(lit, 0.5),
              worst(lit, 0.95));
  return 0;
}
