// Controls that one turns or moves within: a wheel for an angle, a pad for two numbers at once. Shift goes finely, Ctrl
// in coarse steps.
#pragma once
#include <QWidget>

namespace loom::app {

/// Degrees, anticlockwise as seen, from the right.
class AngleWheel : public QWidget {
  Q_OBJECT
 public:
  explicit AngleWheel(QWidget* parent = nullptr);
  void showAngle(double degrees);

 Q_SIGNALS:
  void angleWanted(double degrees);
  void gestureEnded();

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  double pointed(QPointF at) const;
  void want(double degrees);
  double angle_ = 0, exact_ = 0, last_ = 0;  // shown; as dragged, before coarse steps; where the hand pointed last
  bool dragging_ = false;
};

/// Two numbers over a square: u to the right, v down.
class PlacePad : public QWidget {
  Q_OBJECT
 public:
  explicit PlacePad(QWidget* parent = nullptr);
  void showPlace(QPointF place, double least, double most, QPointF initial);

 Q_SIGNALS:
  void placeWanted(QPointF place);
  void gestureEnded();

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  QPointF shown(QPointF place) const;
  void want(QPointF place);
  QPointF place_, initial_, pressed_, pressedAt_;
  double least_ = 0, most_ = 1;
  bool dragging_ = false;
};

}  // namespace loom::app
