// The board: lanes, paper tags with their pictures, threads, and the hem that closes it. The widget holds the view and
// hands on what comes: to the painter, to the gesture of the pointer, to the mode of the keys, and to the commands.
#pragma once
#include <QWidget>
#include <functional>
#include <map>
#include <memory>
#include <string>
#include <vector>

#include "app/board/board_commands.h"
#include "app/board/board_painter.h"
#include "app/board/board_view.h"
#include "app/board/gestures.h"
#include "app/board/key_modes.h"

class QHelpEvent;

namespace loom::app {

class AddLine;

/// Shows a material and asks for edits; it keeps no state of the document but the selection.
class Board : public QWidget {
  Q_OBJECT
 public:
  explicit Board(QWidget* parent = nullptr);
  ~Board() override;

  void showMaterial(const Material& material);
  void showPictures(Pictures pictures);
  void showHem(const std::map<std::string, QImage>& pictures);
  void showHemOf(const QString& part);  ///< of which part the hem is; empty: of a whole
  void showFaults(const std::map<std::string, Error>& faults);
  /// The node in work now, empty: none.
  void showWeaving(const std::string& node);
  /// A place followed back: its value by "NODE.PEG", and the pegs in which the threads of the greatest influence end.
  /// Empty: none.
  void showFollowed(const std::map<std::string, QString>& values, const std::vector<std::string>& path);

  const BoardView& view() const { return view_; }
  BoardCommands& commands() { return commands_; }

  const std::vector<std::string>& selection() const { return view_.selected; }
  void select(const std::vector<std::string>& nodes);
  void focusSlot(const std::string& slot);  ///< of the hem, with the node that feeds it; empty: none
  std::string focusedOutput() const { return view_.focusedOutput(); }
  void nextOutput();
  void showOutput(const std::string& output);  ///< NODE.PEG: selects it, in the middle of the view
  void pointAt(QPointF board) { view_.cell = view_.layout.cellAt(board); }  ///< where the next node goes

  void setZoom(qreal zoom);
  qreal zoom() const { return view_.zoom; }
  void scrollTo(QPointF at);
  void fitAll();
  void fitSelection();
  void reveal(const std::string& node);  ///< as little as it takes to have all of its tag in sight
  void fly(const std::string& node);
  QPoint widgetPoint(QPointF board) const { return (board - view_.scroll).toPoint(); }
  struct Standpoint {
    qreal zoom = 1;
    QPointF scroll;
    std::vector<std::string> selection;
  };
  Standpoint standpoint() const { return {view_.zoom, view_.scroll, view_.selected}; }
  void stand(const Standpoint& at);

  // For what works on the board: gestures, modes of the keys, commands, menus, the add line.
  void edit(const QString& name, const Material& next) { Q_EMIT editWanted(name, next); }
  void say(const QString& text) { Q_EMIT message(text); }
  AddLine& addLine() { return *addLine_; }
  void takeKeys(std::shared_ptr<KeyMode> mode);
  /// A line of text in place, in the board's coordinates; `done` is called where it was changed.
  void write(QRectF rect, const QString& text, const std::function<void(const QString&)>& done);
  /// While it is on, a stroke with the button held cuts the threads that it crosses.
  void cutThreads(bool on);
  bool cutting() const { return cutting_; }
  /// What is in the hand lies over the board, which stays as it is painted.
  void paintHand() { QWidget::update(); }
  /// Everything may have changed: hides QWidget's, after which only what has come into sight is painted anew.
  void update();

 Q_SIGNALS:
  void editWanted(const QString& name, const loom::Material& next);
  void selectionChanged();
  void message(const QString& text);
  void followEnded();
  void insideWanted(const std::string& instance);
  void boltWanted(const std::string& node);                               ///< to see what stands behind the node
  void otherVersionWanted(const std::string& node, const QString& path);  ///< empty: it is to be asked for
  void hemHeadPressed(QPoint screen);
  void markWanted(const QString& letter, bool set);
  void numberTyped(const QString& begun);  ///< a number for the selected node, begun by this

 protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override;
  void wheelEvent(QWheelEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void contextMenuEvent(QContextMenuEvent*) override;
  bool event(QEvent*) override;

 private:
  void relayout();
  void rescale();
  void scrolled();
  void clampScroll();
  void showTip(const QHelpEvent& help);

  BoardView view_;
  BoardPainter painter_;
  BoardCommands commands_;
  AddLine* addLine_;
  std::unique_ptr<Gesture> gesture_;  // while a button is held
  std::shared_ptr<KeyMode> keys_;     // while keys have another meaning
  bool cutting_ = false;
};

}  // namespace loom::app
