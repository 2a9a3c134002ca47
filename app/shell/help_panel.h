// What a node type does: its help from the catalogue, beside a picture that the program makes of it.
#pragma once
#include <QDialog>

#include "app/engine/picture_maker.h"

class QLabel;
class QTextBrowser;

namespace loom::app {

class HelpPanel : public QDialog {
  Q_OBJECT
 public:
  explicit HelpPanel(QWidget* parent = nullptr);
  void showType(const NodeType& type);

 private:
  QLabel* picture_;
  QTextBrowser* text_;
  PictureMaker pictures_{192};
  int shown_ = 0;  // of the orders: late pictures of another type are dropped
};

}  // namespace loom::app
