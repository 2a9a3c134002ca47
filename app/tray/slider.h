// A slider that can be overrun by typing: the handle stays at the end, the number goes on.
#pragma once
#include <QWidget>

namespace loom::app {

class Slider : public QWidget {
  Q_OBJECT
 public:
  explicit Slider(QWidget* parent = nullptr);
  void showValue(double value, double least, double most, double initial, bool whole);
  void setTick(double tick, bool on);
  /// Settings lie so far from each other, counted from the least; 0: any.
  void setStep(double step) { step_ = step; }
  double value() const { return value_; }
  /// By how much an arrow key moves it: Shift a tenth, Ctrl ten times.
  double stepOf(Qt::KeyboardModifiers m) const;
  QSize sizeHint() const override { return {120, 14}; }

 Q_SIGNALS:
  void valueWanted(double value);
  void gestureEnded();
  void resetWanted();

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override;
  void wheelEvent(QWheelEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  double xOf(double value) const;
  void want(double value);
  double value_ = 0, least_ = 0, most_ = 1, initial_ = 0, tick_ = 0, pressed_ = 0, step_ = 0;
  QPointF pressedAt_;
  bool whole_ = false, ticked_ = false, dragging_ = false;
};

}  // namespace loom::app
