#include "app/board/gestures.h"

#include <QMouseEvent>
#include <QPainter>
#include <QPolygonF>
#include <algorithm>
#include <cmath>

#include "app/base/theme.h"
#include "app/board/add_line.h"
#include "app/board/board.h"
#include "app/board/board_commands.h"
#include "core/graph/rework.h"
#include "core/nodes/catalogue.h"

namespace loom::app {

Gesture::Gesture(Board& board, QPointF at)
    : board_(board), view_(board.view()), from_(view_.boardPoint(at)), at_(from_) {}

void Gesture::move(QPointF widget) {
  at_ = view_.boardPoint(widget);
  board_.paintHand();
}

namespace {

/// The board follows the pointer.
class Pan : public Gesture {
 public:
  Pan(Board& board, QPointF at) : Gesture(board, at), last_(at) {}
  void move(QPointF widget) override {
    board_.scrollTo(view_.scroll - (widget - last_));
    last_ = widget;
  }

 private:
  QPointF last_;
};

/// What is pointed at in the small map comes into the middle.
class MapDrag : public Gesture {
 public:
  MapDrag(Board& board, QPointF at) : Gesture(board, at) { move(at); }
  void move(QPointF widget) override {
    const QRectF area = view_.mapArea();
    board_.scrollTo((widget - area.topLeft()) * (view_.layout.size().width() / std::max(area.width(), 1.0)) -
                    QPointF(view_.width() / 2.0, view_.height() / 2.0));
  }
};

/// A stroke that cuts the threads which it crosses.
class Cut : public Gesture {
 public:
  Cut(Board& board, QPointF at) : Gesture(board, at), stroke_{from_} {}
  void move(QPointF widget) override {
    Gesture::move(widget);
    stroke_ << at_;
  }
  void release(QPointF widget) override { board_.commands().cutAcross(stroke_ << view_.boardPoint(widget)); }
  void paint(QPainter& p) const override {
    p.setPen(QPen(theme().madder, 2));
    p.drawPolyline(stroke_);
  }

 private:
  QPolygonF stroke_;
};

/// A thread drawn from an output.
class ThreadDrag : public Gesture {
 public:
  ThreadDrag(Board& board, QPointF at, std::string output) : Gesture(board, at), output_(std::move(output)) {}
  bool holdsThread() const override { return true; }
  void release(QPointF widget) override;
  void paint(QPainter& p) const override {
    const auto [node, peg] = split_output(output_);
    const TagPlace* t = view_.layout.tag(node);
    if (!t) return;
    p.setPen(QPen(theme().indigo, 2));
    for (const PegPlace& g : t->outputs)
      if (g.peg == peg) p.drawLine(g.at, at_);
  }

 private:
  std::string output_;
};

// In a slot, in a peg, on a tag, or, over nothing, with the add line.
void ThreadDrag::release(QPointF widget) {
  const QPointF at = view_.boardPoint(widget);
  if (const std::string slot = view_.slotAt(widget); !slot.empty()) return board_.commands().hemTo(output_, slot);
  const PegPlace* g = view_.layout.pegNear(at, 18);
  if (g && g->input) return board_.commands().connectTo(output_, *g);
  if (const TagPlace* t = view_.tagAt(at)) return board_.commands().connectToTag(output_, *t);
  if ((at - from_).manhattanLength() < 12) return;
  board_.pointAt(at);
  board_.select({});
  board_.addLine().openAt(widget.toPoint(), output_);
}

/// A box that selects what it touches.
class Band : public Gesture {
 public:
  using Gesture::Gesture;
  void release(QPointF widget) override {
    const QRectF band = QRectF(from_, view_.boardPoint(widget)).normalized();
    if (band.width() <= 4 && band.height() <= 4) return;
    std::vector<std::string> inside;
    for (const TagPlace& t : view_.layout.tags())
      if (!t.hidden && t.rect.intersects(band)) inside.push_back(t.node);
    board_.select(inside);
  }
  void paint(QPainter& p) const override {
    p.setPen(QPen(theme().indigo, 1, Qt::DashLine));
    p.setBrush(Qt::NoBrush);
    p.drawRect(QRectF(from_, at_).normalized());
  }
};

/// The selected tags to other places.
class TagDrag : public Gesture {
 public:
  using Gesture::Gesture;
  void release(QPointF widget) override {
    const QPointF at = view_.boardPoint(widget);
    if ((at - from_).manhattanLength() > 8) board_.commands().moveTags(from_, at);
  }
  void paint(QPainter& p) const override {
    if ((at_ - from_).manhattanLength() <= 8) return;
    p.setPen(QPen(theme().indigo, 2, Qt::DashLine));
    p.setBrush(Qt::NoBrush);
    p.drawRoundedRect(view_.layout.cellRect(view_.layout.cellAt(at_)), 4, 4);
  }
};

class GuideDrag : public Gesture {
 public:
  GuideDrag(Board& board, QPointF at, GuideStop stop) : Gesture(board, at), stop_(std::move(stop)) {}
  void release(QPointF widget) override {
    const QPointF at = view_.boardPoint(widget);
    if ((at - from_).manhattanLength() > 3) board_.commands().moveGuide(stop_, view_.layout.guideAt(at));
  }
  void paint(QPainter& p) const override {
    p.setPen(QPen(theme().indigo, 1.4));
    p.setBrush(theme().paper);
    p.drawRect(QRectF(at_ - QPointF(4, 4), QSizeF(8, 8)));
  }

 private:
  GuideStop stop_;
};

/// A lane by its head, to where another one stands.
class LaneDrag : public Gesture {
 public:
  LaneDrag(Board& board, QPointF at, std::string lane) : Gesture(board, at), lane_(std::move(lane)) {}
  void release(QPointF widget) override {
    const QPointF at = view_.boardPoint(widget);
    if (std::abs(at.x() - from_.x()) > 12) board_.commands().dropLane(lane_, at.x());
  }
  void paint(QPainter& p) const override {
    const auto& lanes = view_.layout.lanes();
    if (std::abs(at_.x() - from_.x()) <= 12 || lanes.empty()) return;
    const LanePlace& l = lanes[std::min(view_.laneUnder(at_.x()), lanes.size() - 1)];
    p.setPen(QPen(theme().indigo, 2, Qt::DashLine));
    p.setBrush(Qt::NoBrush);
    p.drawRect(QRectF(l.rect.x() + 1, view_.scroll.y() + 1, l.rect.width() - 2, view_.height() - 2));
  }

 private:
  std::string lane_;
};

// A press on a tag selects it, or adds it to the selection, or takes it out.
void selectPressed(Board& board, const std::string& id, bool more) {
  auto all = board.selection();
  const bool was = board.view().isSelected(id);
  if (!more && !was) all.clear();
  if (was) std::erase(all, id);
  if (!more || !was) all.push_back(id);
  board.select(all);
}

// The thread at a peg: a new one from an output; one that ends here comes off, its end in the hand.
std::unique_ptr<Gesture> takeThread(Board& board, QPointF at, const PegPlace& peg) {
  if (!peg.input) return std::make_unique<ThreadDrag>(board, at, peg.node + "." + peg.peg);
  const Material& material = board.view().material;
  const Thread* t = material.into(peg.node, peg.peg);
  if (!t) return nullptr;
  auto drag = std::make_unique<ThreadDrag>(board, at, t->from_node + "." + t->from_peg);
  board.edit(Board::tr("Unplug %1").arg(qs(peg.peg)), edit::disconnect(material, peg.node, peg.peg));
  return drag;
}

}  // namespace

std::unique_ptr<Gesture> beginGesture(Board& board, const QMouseEvent& press) {
  const QPointF widget = press.position();
  if (press.button() == Qt::MiddleButton) return std::make_unique<Pan>(board, widget);
  if (press.button() != Qt::LeftButton) return nullptr;
  const BoardView& view = board.view();
  const QPointF at = view.boardPoint(widget);
  const auto held = press.modifiers();
  if (view.mapArea().contains(widget)) return std::make_unique<MapDrag>(board, widget);
  if (const std::string slot = view.slotAt(widget); !slot.empty()) return board.focusSlot(slot), nullptr;
  board.focusSlot({});
  if (widget.y() >= view.height()) return Q_EMIT board.hemHeadPressed(press.globalPosition().toPoint()), nullptr;
  if (board.cutting() || held & Qt::AltModifier) return std::make_unique<Cut>(board, widget);
  if (const PegPlace* g = view.layout.pegNear(at, BoardView::kPegReach)) {
    const PegPlace peg = *g;  // an edit lays the board out anew
    return takeThread(board, widget, peg);
  }
  if (const auto guide = view.guideNear(at)) return std::make_unique<GuideDrag>(board, widget, *guide);
  if (widget.y() < BoardLayout::kLaneHead && !view.layout.lanes().empty()) {
    const auto& lanes = view.layout.lanes();
    const std::string lane = lanes[std::min(view.laneUnder(at.x()), lanes.size() - 1)].id;
    board.pointAt(at);
    return std::make_unique<LaneDrag>(board, widget, lane);
  }
  if (const TagPlace* t = view.tagAt(at)) {
    selectPressed(board, std::string(t->node), held & (Qt::ShiftModifier | Qt::ControlModifier));
    return std::make_unique<TagDrag>(board, widget);
  }
  board.pointAt(at);
  if (!(held & Qt::ShiftModifier)) board.select({});
  return std::make_unique<Band>(board, widget);
}

}  // namespace loom::app
