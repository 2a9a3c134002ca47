// What keys mean for a while instead of what they mean else: one object a mode, which takes every key until it ends.
#pragma once
#include <QCoreApplication>
#include <string>
#include <vector>

#include "app/board/board_painter.h"

class QKeyEvent;

namespace loom::app {

class Board;

class KeyMode {
 public:
  explicit KeyMode(Board& board);
  virtual ~KeyMode() = default;
  /// Whether it goes on after this key.
  virtual bool press(QKeyEvent* e) = 0;
  /// Does what it was begun for; whether it could.
  virtual bool enter() { return false; }
  virtual bool endsWithSelection() const { return false; }
  virtual void show(InHand&) const {}

 protected:
  Board& board_;
  const BoardView& view_;
};

/// A thread from the focused output: arrows step through the places where it may end, letters narrow them, Enter
/// connects.
class ThreadByKeys : public KeyMode {
  Q_DECLARE_TR_FUNCTIONS(ThreadByKeys)
 public:
  explicit ThreadByKeys(Board& board) : KeyMode(board) { choose(0); }
  bool press(QKeyEvent* e) override;
  bool enter() override;
  void show(InHand& hand) const override;

 private:
  /// A peg, or a slot of the hem; `name` is what is typed to narrow the choice.
  struct End {
    const PegPlace* peg = nullptr;
    std::string slot;
    QString name;
  };
  std::vector<End> ends() const;
  void choose(int by);

  std::size_t at_ = 0;
  QString typed_;
};

/// The threads into the selected node are led through guides by arrows.
class GuideByKeys : public KeyMode {
  Q_DECLARE_TR_FUNCTIONS(GuideByKeys)
 public:
  explicit GuideByKeys(Board& board);
  bool press(QKeyEvent* e) override;
  bool endsWithSelection() const override { return true; }
  void show(InHand& hand) const override;

 private:
  void insertAfter(const GuideStop& stop);
  std::size_t at_ = 0;
};

/// The next letter sets or visits a mark.
class MarkByKeys : public KeyMode {
  Q_DECLARE_TR_FUNCTIONS(MarkByKeys)
 public:
  MarkByKeys(Board& board, bool set);
  bool press(QKeyEvent* e) override;

 private:
  bool set_;
};

}  // namespace loom::app
