// A still of the screen on which a stroke is drawn: the colours along it become stops.
#pragma once
#include <QPixmap>
#include <QWidget>

#include "core/graph/value.h"

namespace loom::app {

class StrokePicker : public QWidget {
  Q_OBJECT
 public:
  /// Covers the screen that `asker` is on; where a screen gives no picture of itself, the asker's window.
  explicit StrokePicker(QWidget* asker);

 Q_SIGNALS:
  void picked(const loom::Stops& stops);

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  QImage still_;
  QList<QPointF> stroke_;
};

}  // namespace loom::app
