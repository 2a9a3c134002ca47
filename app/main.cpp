// wildloom [FILE]: opens a material in Weave, or a bolt in a fitting.
#include <QApplication>
#include <QFileInfo>
#include <QTimer>
#include <cstdio>
#include <new>

#include "app/base/fits_screen.h"
#include "app/base/theme.h"
#include "app/fitting/fitting_window.h"
#include "app/shell/main_window.h"

namespace {

// Where memory runs out while the window works, what was asked for is given up, not the program.
class Application : public QApplication {
 public:
  using QApplication::QApplication;
  bool notify(QObject* receiver, QEvent* event) override {
    try {
      return QApplication::notify(receiver, event);
    } catch (const std::bad_alloc&) {
      for (QWidget* w : topLevelWidgets())
        if (auto* window = qobject_cast<loom::app::MainWindow*>(w)) window->tellShortOfMemory();
      return true;
    }
  }
};

}  // namespace

int main(int argc, char** argv) {
  Application application(argc, argv);
  QApplication::setOrganizationName(QStringLiteral("wildloom"));
  QApplication::setApplicationName(QStringLiteral("wildloom"));
  QApplication::setDesktopFileName(QStringLiteral("wildloom"));
  const QStringList arguments = application.arguments();
  if (arguments.contains(QStringLiteral("--help"))) {
    std::puts("wildloom [FILE.loom | FILE.bolt]\nOpens a material in Weave, or a bolt in a fitting window.");
    return 0;
  }
  loom::app::installTheme();
  loom::app::FitsScreen fits;
  application.installEventFilter(&fits);
  loom::app::MainWindow window;
  const QString file = arguments.size() > 1 ? arguments[1] : QString();
  if (file.endsWith(QStringLiteral(".bolt"))) {
    if (!window.files().openFitting(file)) return 1;  // only the fitting is shown; Weave waits behind it
  } else {
    window.show();
    if (file.isEmpty() || !window.openPath(file)) window.showWorkspace(loom::app::MainWindow::Workspace::stockroom);
    QTimer::singleShot(0, &window.files(), &loom::app::DocumentFiles::offerRecovery);
  }
  return application.exec();
}
