// The add line: type a few letters, a number or a formula; Enter places the node under the selection.
#pragma once
#include <QFrame>
#include <string>
#include <vector>

#include "app/shell/picture_maker.h"
#include "core/graph/node_type.h"

class QLineEdit;
class QListWidget;

namespace loom::app {

class Board;

class AddLine : public QFrame {
  Q_OBJECT
 public:
  /// What Enter does: adds a node under the selection, puts it into the threads of `output`, or makes the selected node one of that type.
  enum class Way { add, splice, replace };
  explicit AddLine(Board* board);
  /// Opens at a place on the board; `output` is what a new node would be connected to (may be empty). `rack` filters, -1: all.
  void openAt(QPoint place, const std::string& output, int rack = -1, Way way = Way::add);

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  struct Choice { const NodeType* type; QString why; };   ///< why it does not fit; empty if it does
  void refill();
  void accept();
  void place(const NodeType& type, const std::string& param, const ParamValue& value);
  /// The material with a node of this type under the selection, connected where it makes sense.
  Material placed(const NodeType& type, const std::string& param, const ParamValue& value, std::string& id) const;
  void orderPictures();
  Board* board_;
  QLineEdit* text_;
  QListWidget* list_;
  std::vector<Choice> choices_;
  std::string output_;
  Way way_ = Way::add;
  std::vector<std::string> recent_;  // types placed lately come first among equals
  int rack_ = -1, generation_ = 0;   // of the pictures: late ones of an older list are dropped
  PictureMaker pictures_{64};
};

}  // namespace loom::app
