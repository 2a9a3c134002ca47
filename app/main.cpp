// wildloom [FILE]: opens a material in Weave, or a bolt in a fitting.
#include <QApplication>
#include <QFileInfo>
#include <QTimer>
#include <cstdio>

#include "app/fitting/fitting_window.h"
#include "app/shell/main_window.h"
#include "app/shell/theme.h"

int main(int argc, char** argv) {
  QApplication application(argc, argv);
  QApplication::setOrganizationName(QStringLiteral("wildloom"));
  QApplication::setApplicationName(QStringLiteral("wildloom"));
  QApplication::setDesktopFileName(QStringLiteral("wildloom"));
  const QStringList arguments = application.arguments();
  if (arguments.contains(QStringLiteral("--help"))) {
    std::puts("wildloom [FILE.loom | FILE.bolt]\nOpens a material in Weave, or a bolt in a fitting window.");
    return 0;
  }
  loom::app::installTheme();
  loom::app::MainWindow window;
  const QString file = arguments.size() > 1 ? arguments[1] : QString();
  if (file.endsWith(QStringLiteral(".bolt"))) {
    if (!window.openFitting(file)) return 1;  // only the fitting is shown; Weave waits behind it
  } else {
    window.show();
    if (!file.isEmpty()) window.openPath(file);
    QTimer::singleShot(0, &window, &loom::app::MainWindow::offerRecovery);
  }
  return application.exec();
}
