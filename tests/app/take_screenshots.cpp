// take_screenshots DEMO_FOLDER OUT_FOLDER: pictures of the real windows, made from the demo.
#include <QApplication>
#include <QDir>
#include <QDialog>
#include <QElapsedTimer>
#include <QLineEdit>
#include <QThread>
#include <QStandardPaths>
#include <QTemporaryDir>

#include "app/deliver/deliver_form.h"
#include "app/deliver/dials_panel.h"
#include "app/fitting/fitting_window.h"
#include "app/shell/main_window.h"
#include "app/shell/theme.h"

using namespace loom::app;

namespace {

template <class Done>
void settle(const Done& done, int most = 60000) {
  QElapsedTimer timer;
  timer.start();
  int calm = 0;
  while (timer.elapsed() < most && calm < 5) {
    QApplication::processEvents(QEventLoop::AllEvents, 40);
    QThread::msleep(20);
    calm = done() ? calm + 1 : 0;
  }
}

void keep(QWidget& w, const QString& path) { w.grab().save(path); }

}  // namespace

int main(int argc, char** argv) {
  QStandardPaths::setTestModeEnabled(true);
  if (qEnvironmentVariableIsEmpty("QT_QPA_PLATFORM")) qputenv("QT_QPA_PLATFORM", "offscreen");
  QApplication application(argc, argv);
  QApplication::setOrganizationName(QStringLiteral("wildloom-pictures"));
  if (argc < 3) return 2;
  const QString demo = QString::fromLocal8Bit(argv[1]), out = QString::fromLocal8Bit(argv[2]);
  const QString only = argc > 3 ? QString::fromLocal8Bit(argv[3]) : QString();
  const auto wanted = [&](const char* name) { return only.isEmpty() || only == QLatin1String(name); };
  QDir().mkpath(out);
  installTheme();
  QTemporaryDir folder;
  MainWindow window;
  window.resize(1280, 800);
  window.show();
  window.openPath(demo + QStringLiteral("/quay-floor.loom"));
  settle([&] { return window.isIdle(); });
  window.board()->select({"laid"});
  settle([&] { return window.isIdle(); });
  if (wanted("weave")) keep(window, out + QStringLiteral("/weave.png"));
  if (wanted("add-line")) {
    window.board()->select({"worn"});
    window.board()->setFocus();
    window.board()->openAddLine();
    settle([&] { return window.isIdle(); });
    for (QLineEdit* line : window.board()->findChildren<QLineEdit*>()) if (line->isVisible()) line->setText(QStringLiteral("bl"));
    settle([&] { return window.isIdle(); }, 2000);
    keep(window, out + QStringLiteral("/add-line.png"));
    for (QLineEdit* line : window.board()->findChildren<QLineEdit*>()) if (line->isVisible()) line->parentWidget()->hide();
  }
  if (wanted("tile")) {
    window.drape()->setShape(loom::Shape::tile);
    window.board()->select({"dyed"});
    window.board()->setZoom(1.0);
    window.board()->fly("dyed");
    window.loupe()->nextRepeats();
    settle([&] { return window.isIdle(); });
    keep(window, out + QStringLiteral("/weave-close.png"));
    window.board()->fitAll();
    window.drape()->setShape(loom::Shape::ball);
  }
  if (wanted("deliver")) {
    QDialog* dialog = window.openDelivery();
    auto* form = dialog->findChild<DeliverForm*>(QStringLiteral("deliverForm"));
    form->setFolder(folder.path() + QStringLiteral("/lantern-quay"));
    form->start();
    settle([&] { return !form->isWriting(); });
    form->setFolder(QStringLiteral("lantern-quay/floor"));
    keep(*dialog, out + QStringLiteral("/deliver.png"));
    dialog->close();
  }
  if (wanted("dials")) {
    DialsPanel* dials = window.openDials();
    settle([&] { return window.isIdle(); }, 1000);
    keep(*dials, out + QStringLiteral("/dials.png"));
    dials->close();
  }
  for (const char* name : {"quay-floor", "copper-shingles"}) {
    if (!wanted("fitting") || !QFile::exists(demo + QLatin1Char('/') + QLatin1String(name) + QStringLiteral(".loom"))) continue;
    const auto material = loom::open_material((demo + QLatin1Char('/') + QLatin1String(name) + QStringLiteral(".loom")).toStdString());
    if (!material) continue;
    loom::Bolt bolt{*material, "1.0", material->notes, {}};
    FittingWindow fitting(bolt, QLatin1String(name) + QStringLiteral(".bolt"));
    fitting.show();
    if (std::string(name) == "copper-shingles") fitting.choosePreset(1);
    fitting.form()->setFolder(QStringLiteral("lantern-quay/maps"));
    settle([&] { return fitting.isIdle(); });
    keep(fitting, out + QStringLiteral("/fitting-") + QLatin1String(name) + QStringLiteral(".png"));
  }
  return 0;
}
