// How the board is painted: lanes, threads, tags, the hem, and what is in the hand.
#pragma once
#include <QCoreApplication>
#include <QHash>
#include <QPixmap>
#include <optional>
#include <string>
#include <vector>

#include "app/board/board_view.h"
#include "app/board/thread_brush.h"

class QPainter;

namespace loom::app {

class Gesture;

/// What the hand holds while the board is painted.
struct InHand {
  bool thread = false;  ///< all pegs show where it may end
  const PegPlace* target = nullptr;
  std::string slot;                ///< where it would end: a peg, or a slot of the hem
  std::optional<GuideStop> guide;  ///< led by keys
};

class BoardPainter {
  Q_DECLARE_TR_FUNCTIONS(BoardPainter)
 public:
  explicit BoardPainter(const BoardView& view) : v_(view) {}

  /// Everything may have changed; else only what has come into sight is painted anew.
  void forget() { stale_ = true; }
  /// `pixelRatio`: device pixels a pixel. `gesture`: what the pointer does now, or null.
  void paint(QPainter& p, const InHand& hand, qreal pixelRatio, const Gesture* gesture);

 private:
  void refreshScene();
  void paintScene(QPainter& p, const QRectF& seen);
  void paintLanes(QPainter& p);
  void paintStages(QPainter& p);
  void paintBadges(QPainter& p, const TagPlace& t);
  void paintVeil(QPainter& p, const TagPlace& t);
  void paintFollowed(QPainter& p, const TagPlace& t);
  void paintLaneHeads(QPainter& p);
  ThreadLook lookOf(Kind kind, bool inked) const;
  void paintThread(QPainter& p, const ThreadPlace& t, bool inked, const QRectF& seen);
  bool isTouched(const ThreadPlace& t) const;
  void paintThreads(QPainter& p, const QRectF& seen);
  void paintHemThreads(QPainter& p);
  const QPixmap& smallPicture(const QImage& image, qreal side);
  QString secondLine(const Node& n) const;
  void paintTag(QPainter& p, const TagPlace& t);
  void paintFault(QPainter& p, const TagPlace& t, const Error& e);
  void paintHem(QPainter& p);
  void paintMap(QPainter& p);
  void paintBelow(QPainter& p);
  void paintGuides(QPainter& p, const std::vector<const ThreadPlace*>& shown);

  const BoardView& v_;
  InHand hand_;
  qreal pixelRatio_ = 1;
  QPixmap scene_;  // what scrolls, as it was last painted
  QPointF sceneScroll_;
  bool stale_ = true;
  ThreadBrush brush_;
  QHash<QPair<qint64, int>, QPixmap> smallPictures_;
};

}  // namespace loom::app
