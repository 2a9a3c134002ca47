// The menu of what lies under the pointer on the board.
#pragma once
#include <QCoreApplication>
#include <QPoint>
#include <string>

class QMenu;

namespace loom {
struct Node;
}

namespace loom::app {

class Board;
class BoardCommands;
struct BoardView;

class BoardMenu {
  Q_DECLARE_TR_FUNCTIONS(BoardMenu)
 public:
  explicit BoardMenu(Board& board);
  /// Shows it, and does what is chosen.
  void showAt(QPoint widget, QPoint screen);

 private:
  void menuOfLane(QMenu& menu, const std::string& lane);
  void menuOfTag(QMenu& menu, const std::string& node);
  void menuOfBolt(QMenu& menu, const Node& node);
  void menuOfStages(QMenu& menu, int row);

  Board& board_;
  BoardCommands& commands_;
  const BoardView& view_;
};

}  // namespace loom::app
