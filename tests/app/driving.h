// Driving real windows: wait until they are calm, press keys, point at things.
#pragma once
#include <QAbstractButton>
#include <QMessageBox>
#include <QSettings>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QtTest>

#include "app/base/theme.h"
#include "app/fitting/fitting_window.h"
#include "app/shell/main_window.h"
#include "core/nodes/catalogue.h"

namespace loom::test {

template <class Done>
bool settled(const Done& done, int most = 120000) {
  QElapsedTimer timer;
  timer.start();
  int calm = 0;
  while (timer.elapsed() < most && calm < 3) {
    QCoreApplication::processEvents(QEventLoop::AllEvents, 20);
    QThread::msleep(5);
    calm = done() ? calm + 1 : 0;
  }
  return calm >= 3;
}

inline void prepare() {
  QStandardPaths::setTestModeEnabled(true);
  QCoreApplication::setOrganizationName(QStringLiteral("wildloom-tests"));
  QCoreApplication::setApplicationName(QStringLiteral("tests-%1").arg(QCoreApplication::applicationPid()));
  QSettings().setValue(QStringLiteral("drape_samples"), 1);  // who waits for a drape waits for its last sample
  app::installTheme();
}

/// Does something with the next modal dialogue, once its own event loop runs.
class WithModal : public QObject {
 public:
  explicit WithModal(std::function<void(QWidget*)> act) {
    timer_.setInterval(15);
    connect(&timer_, &QTimer::timeout, this, [this, act = std::move(act)] {
      QWidget* dialog = QApplication::activeModalWidget();
      if (!dialog || !dialog->isVisible() || ++seen_ < 3) return;
      timer_.stop();
      act(dialog);
    });
    timer_.start();
  }

 private:
  QTimer timer_;
  int seen_ = 0;
};

/// Answers the next message box by its standard button, and keeps what it said.
class Answer : public QObject {
 public:
  explicit Answer(int button) {
    timer_.setInterval(20);
    connect(&timer_, &QTimer::timeout, this, [this, button] {
      for (QWidget* w : QApplication::topLevelWidgets())
        if (auto* box = qobject_cast<QMessageBox*>(w); box && box->isVisible()) {
          text = box->text();
          if (auto* b = box->button(static_cast<QMessageBox::StandardButton>(button)))
            b->click();
          else
            box->accept();
        }
    });
    timer_.start();
  }
  QString text;

 private:
  QTimer timer_;
};

/// The window as a user meets it, empty and in front.
inline std::unique_ptr<app::MainWindow> shownWindow() {
  auto window = std::make_unique<app::MainWindow>();
  window->drape()->measuring().setPoints(kCoarsePoints);
  window->resize(1280, 800);
  window->show();
  (void)QTest::qWaitForWindowExposed(window.get());
  window->activateWindow();
  return window;
}

/// Closes it and lets go of what is not saved.
inline void closeUnsaved(std::unique_ptr<app::MainWindow>& window) {
  Answer discard(QMessageBox::Discard);
  window->close();
  window.reset();
}

}  // namespace loom::test
