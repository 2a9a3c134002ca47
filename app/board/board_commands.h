// The commands of the board: what is done to the selection, by key, by menu or by the command line of the window.
// Each asks the board for one edit, or says why there is none.
#pragma once
#include <QCoreApplication>
#include <QPointF>
#include <QPolygonF>
#include <optional>
#include <string>

#include "app/board/board_view.h"

namespace loom::app {

class Board;

class BoardCommands {
  Q_DECLARE_TR_FUNCTIONS(BoardCommands)
 public:
  explicit BoardCommands(Board& board);

  // Nodes: board_commands.cpp
  void moveFocus(int du, int dv);
  void nudge(int du, int dv);
  void openAddLine(int rack = -1);  ///< all types, or one rack's
  void removeSelected();
  void duplicateSelected(bool withInputs);
  void copySelected();
  void pasteHere();
  void bypassSelected();
  void replaceSelected();
  void liftOutSelected();
  void blendSelected();  ///< the last two selected, the earlier one as lower
  void stepMode(int by);
  void selectUpstream();
  void selectDownstream();
  void copyParameters();
  void pasteParameters();
  void pasteChosenParameters();  ///< asks which of them
  void foldSelected();           ///< into a group
  void takeApartSelected();
  void copyOfItsOwn();  ///< the selected group's definition
  void lookInside();
  void renameSelected();
  void writeNote();
  void nameStage();  ///< begins, renames or ends one at the row of the node at hand
  void writeStage(int row, const QString& text);
  void moveTags(QPointF pressed, QPointF released);  ///< the selected ones, from one place on the board to another
  void dropLane(const std::string& lane, qreal x);

  // Threads: thread_commands.cpp
  void weaveSelected();
  void spliceIn();  ///< the add line's next node goes into the threads of the focused output
  void swapInputs();
  void disconnectSelected();
  void toggleAliases();  ///< of the threads into the selection
  void cutAcross(const QPolygonF& stroke);
  void connectTo(const std::string& output, const PegPlace& peg);
  void connectToTag(const std::string& output, const TagPlace& tag);
  void hemTo(const std::string& output, std::string slot);
  void addGuide(const ThreadPlace& thread, QPointF at);
  void moveGuide(const GuideStop& stop, const Guide& to);
  void removeGuide(const GuideStop& stop);
  void stepGuide(const GuideStop& stop, int du, int dv);
  void leadByKeys();         ///< the threads into the selected node through guides, by arrows
  void startThread();        ///< by keys: the next arrows choose where it ends, Enter connects
  void awaitMark(bool set);  ///< the next letter sets or visits a mark

 private:
  QPoint focusPlace() const;  // in the widget, of the cell where a new node goes

  Board& board_;
  const BoardView& view_;
  std::optional<Node> copied_;  // its parameters can be pasted
};

}  // namespace loom::app
