// The board: lanes, paper tags with their pictures, threads, and the hem that closes it.
#pragma once
#include <QHash>
#include <QPixmap>
#include <QPolygonF>
#include <QWidget>
#include <map>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "app/board/board_layout.h"
#include "app/board/thread_brush.h"
#include "app/engine/engine.h"

class QLineEdit;

namespace loom::app {

class AddLine;

/// Shows a material and asks for edits; it keeps no state of the document but the selection.
class Board : public QWidget {
  Q_OBJECT
 public:
  explicit Board(QWidget* parent = nullptr);

  void showMaterial(const Material& material);
  void showPictures(Pictures pictures);
  void showHem(const std::map<std::string, QImage>& pictures);
  void showFaults(const std::map<std::string, Error>& faults);
  /// The node in work now, empty: none.
  void showWeaving(const std::string& node);
  /// A place followed back: its value by "NODE.PEG", and the pegs in which the threads of the greatest influence end.
  /// Empty: none.
  void showFollowed(const std::map<std::string, QString>& values, const std::vector<std::string>& path);

  const std::vector<std::string>& selection() const { return selected_; }
  void select(const std::vector<std::string>& nodes);
  /// NODE.PEG that the loupe should show: the focused output of the last selected node, or a slot's source.
  std::string focusedOutput() const;
  void setZoom(qreal zoom);
  qreal zoom() const { return zoom_; }
  void fitAll();
  void fitSelection();
  void reveal(const std::string& node);  ///< as little as it takes to have all of its tag in sight
  void fly(const std::string& node);
  void showOutput(const std::string& output);  ///< NODE.PEG: selects it, in the middle of the view
  BoardLayout::Cell focus() const;
  const BoardLayout& layoutOf() const { return layout_; }
  QPoint widgetPoint(QPointF board) const { return (board - scroll_).toPoint(); }
  QRect slotRect(const std::string& slot) const;
  struct Standpoint {
    qreal zoom = 1;
    QPointF scroll;
    std::vector<std::string> selection;
  };
  Standpoint standpoint() const { return {zoom_, scroll_, selected_}; }
  void stand(const Standpoint& at);
  static constexpr const char* kNewSlot = "+";  ///< of a group's hem: a further output

  // The actions, all also reachable by key and by the command line of the window.
  void openAddLine(int rack = -1);  ///< all types, or one rack's
  void weaveSelected();
  void removeSelected();
  void duplicateSelected(bool withInputs);
  void copySelected();
  void pasteHere();
  void bypassSelected();
  void renameSelected();
  void nextOutput();
  void moveFocus(int du, int dv);
  void nudge(int du, int dv);
  void disconnectSelected();
  void leadByKeys();  ///< the threads into the selected node through guides, by arrows
  void spliceIn();    ///< the add line's next node goes into the threads of the focused output
  void replaceSelected();
  void liftOutSelected();
  void swapInputs();
  /// While it is on, a stroke with the button held cuts the threads that it crosses.
  void cutThreads(bool on);
  bool cutting() const { return cutting_; }
  void blendSelected();  ///< the last two selected, the earlier one as lower
  void stepMode(int by);
  void selectUpstream();
  void selectDownstream();
  void copyParameters();
  void pasteParameters();
  void nameStage();              ///< begins, renames or ends one at the row of the node at hand
  void pasteChosenParameters();  ///< asks which of them
  void foldSelected();           ///< into a group
  void takeApartSelected();
  void copyOfItsOwn();  ///< the selected group's definition
  void lookInside();
  void writeNote();
  void toggleAliases();      ///< of the threads into the selection
  void awaitMark(bool set);  ///< the next letter sets or visits a mark
  void startThread();        ///< keyboard: the next arrows choose a peg, Enter connects

  static constexpr int kHemHeight = 58;
  static constexpr int kHemHead = 58;     // its name, left of the slots
  static constexpr int kHemBand = 30;     ///< over the hem, where its threads run to their slots
  static constexpr qreal kPegReach = 10;  ///< how near the pointer must be to a peg

  const BoardLayout& layout() const { return layout_; }
  /// Everything may have changed: hides QWidget's, after which only what has come into sight is painted anew.
  void update();

 Q_SIGNALS:
  void editWanted(const QString& name, const loom::Material& next);
  void selectionChanged();
  void message(const QString& text);
  void followEnded();
  void insideWanted(const std::string& instance);
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
  friend class AddLine;
  void relayout();
  void rescale();
  void scrolled();
  void refreshScene();
  void paintScene(QPainter& p, const QRectF& seen);
  std::map<std::string, qreal> hemPegs() const;
  void finishThread();
  void clampScroll();
  QPointF boardPoint(QPointF widget) const { return widget + scroll_; }
  std::string slotAt(QPointF widget) const;
  struct SlotView {
    std::string id;
    QString label;
  };
  std::vector<SlotView> hemSlots() const;
  void paintStages(QPainter& p);
  void paintMap(QPainter& p);
  QRectF mapArea() const;
  void menuOfLane(class QMenu& menu, const std::string& lane);
  void paintBadges(QPainter& p, const TagPlace& t);
  void paintFollowed(QPainter& p, const TagPlace& t);
  void paintVeil(QPainter& p, const TagPlace& t);
  qreal rowTop(int row) const;
  void menuOfTag(class QMenu& menu, const std::string& node);
  void menuOfStages(class QMenu& menu, int row);
  void writeStage(int row, const QString& text);
  const TagPlace* tagAt(QPointF board) const;
  const ThreadPlace* threadAt(QPointF board) const;
  void paintLanes(QPainter& p);
  void paintLaneHeads(QPainter& p);
  void paintThreads(QPainter& p, const QRectF& seen);
  void paintHemThreads(QPainter& p);
  bool isTouched(const ThreadPlace& t) const;
  struct GuideStop {
    std::string peg;
    std::optional<std::size_t> guide;
  };  // a thread by where it ends; one of its guides, or none yet
  std::optional<GuideStop> guideNear(QPointF board) const;
  std::vector<GuideStop> guideStops() const;  // of the threads into the selected node, in the order of its pegs
  std::vector<Guide> guidesOf(const std::string& peg) const;
  void addGuide(const ThreadPlace& thread, QPointF at);
  void moveGuide(const GuideStop& stop, const Guide& to);
  void removeGuide(const GuideStop& stop);
  void stepGuide(const GuideStop& stop, int du, int dv);
  void paintGuides(QPainter& p, const std::vector<const ThreadPlace*>& shown);
  void keyOfGuide(QKeyEvent* e);
  void dropLane(QPointF at);
  std::size_t laneUnder(qreal x) const;
  ThreadLook lookOf(Kind kind, bool inked) const;
  void paintThread(QPainter& p, const ThreadPlace& t, bool inked, const QRectF& seen);
  void paintTag(QPainter& p, const TagPlace& t);
  void paintHem(QPainter& p);
  void paintDrag(QPainter& p);
  void paintFault(QPainter& p, const TagPlace& t, const Error& e);
  QString secondLine(const Node& n) const;
  void connectTo(const std::string& from, const PegPlace& to);
  void hemTo(const std::string& output, std::string slot);
  void cutAcross(const QPolygonF& stroke);
  std::string outputOf(const std::string& node) const;
  void connectPegs(const std::string& output, QPointF widget);
  void editText(QRectF rect, const QString& text, const std::function<void(const QString&)>& done);
  bool isSelected(const std::string& id) const {
    return std::find(selected_.begin(), selected_.end(), id) != selected_.end();
  }
  QImage pictureFor(const std::string& output) const;
  const QPixmap& smallPicture(const QImage& image, qreal side);
  /// Where a thread in the hand may end: a peg, or a slot of the hem; `name` is what is typed to narrow the choice.
  struct ThreadEnd {
    const PegPlace* peg = nullptr;
    std::string slot;
    QString name;
  };
  std::vector<ThreadEnd> threadEnds() const;
  void chooseEnd(int by);
  void keyOfThread(QKeyEvent* e);

  Material material_;
  BoardLayout layout_;
  QPixmap scene_;  // what scrolls, as it was last painted
  QPointF sceneScroll_;
  bool stale_ = true;
  ThreadBrush brush_;
  Pictures pictures_;
  QHash<QPair<qint64, int>, QPixmap> smallPictures_;
  std::map<std::string, QImage> hemPictures_;
  std::map<std::string, Error> faults_;
  std::vector<std::string> selected_;
  std::map<std::string, QString> followed_;  // a place's values, by output
  std::vector<std::string> followedPath_;
  std::map<std::string, int> outputOf_;  // which output of a node is looked at
  std::string slotFocus_, weaving_;
  BoardLayout::Cell cell_;
  qreal zoom_ = 1;
  QPointF scroll_;
  AddLine* addLine_;

  enum class Drag { none, tags, thread, band, pan, cut, map, guide, lane } drag_ = Drag::none;
  QPointF dragFrom_, dragAt_;
  std::string dragOutput_;          // a thread in the hand
  std::string dragPeg_, dragLane_;  // whose guide is dragged, and which of them; a lane
  std::size_t dragGuide_ = 0;
  QPolygonF stroke_;             // of a cut
  bool cutting_ = false;         // until it is ended
  std::optional<bool> awaited_;  // a mark's letter, to set or to visit
  std::optional<Node> copied_;   // its parameters can be pasted
  bool keyThread_ = false;
  std::optional<std::size_t> keyGuide_;  // which stop of guideStops() the keys move
  std::size_t keyEnd_ = 0;
  QString keyTyped_;
  const PegPlace* keyTarget_ = nullptr;  // of the thread in the hand, while painting
  std::string keySlot_;
};

}  // namespace loom::app
