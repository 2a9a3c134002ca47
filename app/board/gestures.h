// What the pointer does on the board between press and release: one small object a gesture.
#pragma once
#include <QPointF>
#include <memory>

class QMouseEvent;
class QPainter;

namespace loom::app {

class Board;
struct BoardView;

class Gesture {
 public:
  /// `at`: where the button went down, in the widget.
  Gesture(Board& board, QPointF at);
  virtual ~Gesture() = default;
  virtual void move(QPointF widget);
  virtual void release(QPointF) {}
  /// What is in the hand, over the board, in its coordinates.
  virtual void paint(QPainter&) const {}
  virtual bool holdsThread() const { return false; }

 protected:
  Board& board_;
  const BoardView& view_;
  QPointF from_, at_;  // on the board
};

/// The gesture that begins with this press; null: the press was all.
std::unique_ptr<Gesture> beginGesture(Board& board, const QMouseEvent& press);

}  // namespace loom::app
