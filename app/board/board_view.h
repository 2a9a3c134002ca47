// What the board shows and where it stands: the state that is painted, pointed at and edited.
#pragma once
#include <QImage>
#include <QSize>
#include <algorithm>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "app/board/board_layout.h"
#include "app/engine/engine.h"

namespace loom::app {

/// A thread by where it ends, NODE.PEG; one of its guides, or none yet.
struct GuideStop {
  std::string peg;
  std::optional<std::size_t> guide;
};

struct BoardView {
  Material material;
  BoardLayout layout;
  Pictures pictures;
  std::map<std::string, QImage> hemPictures;
  std::map<std::string, SurfaceUse> slotsOnSurface;  ///< of the hem: no maps
  std::map<std::string, Error> faults;
  std::string weaving;                      ///< the node in work now
  std::map<std::string, QString> followed;  ///< a place's values, by output
  std::vector<std::string> followedPath;    ///< the pegs in which its threads of the greatest influence end
  std::vector<std::string> selected;        ///< the node at hand last
  std::map<std::string, int> lookedAt;      ///< which output of a node is looked at
  std::string slotFocus;
  QString hemOf;           ///< of which part the hem is; empty: of a whole
  BoardLayout::Cell cell;  ///< where the next node goes
  qreal zoom = 1;
  QPointF scroll;
  QSize size;  ///< of the widget

  static constexpr int kHemHeight = 46;
  static constexpr int kHemHead = 66;                     ///< its name, left of the slots
  static constexpr int kSlotPicture = 26, kSlotPeg = 19;  ///< its side, and how far in the peg's middle is
  static constexpr int kHemBand = 30;                     ///< over the hem, where its threads run to their slots
  static constexpr qreal kPegReach = 10;                  ///< how near the pointer must be to a peg
  static constexpr const char* kNewSlot = "+";            ///< of a group's hem: a further output

  int width() const { return size.width(); }
  /// Of what scrolls: without the hem.
  int height() const { return size.height() - kHemHeight; }
  QPointF boardPoint(QPointF widget) const { return widget + scroll; }

  bool isSelected(const std::string& id) const {
    return std::find(selected.begin(), selected.end(), id) != selected.end();
  }
  /// The node at hand; null: none.
  const Node* atHand() const { return selected.empty() ? nullptr : material.node(selected.back()); }
  /// The output of a node that is looked at, NODE.PEG; empty: it has none.
  std::string outputOf(const std::string& node) const;
  /// NODE.PEG that the loupe should show: the focused output of the node at hand, or a slot's source.
  std::string focusedOutput() const;
  /// Where a new node goes: under the one at hand, or where the board was pointed at.
  BoardLayout::Cell focus() const;

  struct SlotView {
    std::string id;
    QString label;
  };
  std::vector<SlotView> hemSlots() const;
  QRect slotRect(const std::string& slot) const;
  std::map<std::string, qreal> hemPegs() const;
  std::string slotAt(QPointF widget) const;

  const TagPlace* tagAt(QPointF board) const;
  const ThreadPlace* threadAt(QPointF board) const;
  std::optional<GuideStop> guideNear(QPointF board) const;
  std::vector<Guide> guidesOf(const std::string& peg) const;
  /// Of the threads into the selected node, in the order of its pegs.
  std::vector<GuideStop> guideStops() const;
  /// The lane that x lies in; beyond all: their number.
  std::size_t laneUnder(qreal x) const;
  /// The line above a row, in the middle of the channel.
  qreal rowTop(int row) const;
  /// The whole board in a corner, while it is larger than the view; empty: it is not.
  QRectF mapArea() const;
  /// How many tags of each lane lie below what is in sight, by the lane's identifier.
  std::map<std::string, int> below() const;
  QImage pictureFor(const std::string& output) const;
};

}  // namespace loom::app
