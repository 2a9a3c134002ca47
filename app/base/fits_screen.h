// Windows that open no larger than the free area of their screen.
#pragma once
#include <QObject>

namespace loom::app {

/// Installed on the application: each window that is shown is made to fit its screen with its frame, and put within
/// it if it has a place of its own.
class FitsScreen : public QObject {
  Q_OBJECT
 public:
  using QObject::QObject;

 protected:
  bool eventFilter(QObject* watched, QEvent* e) override;
};

}  // namespace loom::app
