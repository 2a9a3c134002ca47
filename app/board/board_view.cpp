#include "app/board/board_view.h"

#include "app/base/theme.h"

#include <QPainterPathStroker>

namespace loom::app {

std::string BoardView::outputOf(const std::string& node) const {
  const TagPlace* t = layout.tag(node);
  if (!t || t->outputs.empty()) return {};
  const auto at = lookedAt.find(node);
  const std::size_t i = at == lookedAt.end() ? 0 : static_cast<std::size_t>(at->second);
  return node + "." + t->outputs[i % t->outputs.size()].peg;
}

std::string BoardView::focusedOutput() const {
  if (slotFocus.empty()) return selected.empty() ? std::string() : outputOf(selected.back());
  const auto it = material.hem.find(slotFocus);
  return it == material.hem.end() ? "" : it->second;
}

BoardLayout::Cell BoardView::focus() const {
  BoardLayout::Cell c = cell;
  if (!selected.empty())
    if (const Node* n = material.node(selected.back())) c = {n->lane, n->column, n->row + 1};
  return c;
}

// The fixed slots and the artist's own; inside a group its outputs, and room for another.
std::vector<BoardView::SlotView> BoardView::hemSlots() const {
  std::vector<SlotView> all;
  const auto known = [&](const std::string& id) {
    return std::any_of(all.begin(), all.end(), [&](const SlotView& s) { return s.id == id; });
  };
  if (material.inside) {
    for (const GroupPeg& out : material.inside->outputs)
      if (material.hem.count(out.id)) all.push_back({out.id, qs(out.label.empty() ? out.id : out.label)});
  } else {
    for (const Slot& s : hem_slots()) all.push_back({std::string(s.id), QString::fromUtf8(s.label.data())});
  }
  const auto named = [&](const std::string& id) {
    const Slot* slot = known_slot(id);
    if (!known(id)) all.push_back({id, slot ? QString::fromUtf8(slot->label.data()) : qs(id)});
  };
  for (const auto& [id, from] : material.hem) named(id);
  if (!material.inside)
    for (const auto& [id, typed] : material.hem_values) named(id);
  if (material.inside) all.push_back({kNewSlot, QObject::tr("New output")});
  return all;
}

// Each as wide as its name asks, and all together as wide as there is room.
QRect BoardView::slotRect(const std::string& slot) const {
  const auto all = hemSlots();
  const auto asked = [](const SlotView& s) {
    return kSlotPicture + 14 + advanceOf(textFont(11, QFont::DemiBold), s.label);
  };
  qreal before = 0, sum = 0;
  const SlotView* found = nullptr;
  for (const SlotView& s : all) {
    if (s.id == slot) found = &s, before = sum;
    sum += asked(s);
  }
  if (!found) return {};
  const qreal room = static_cast<qreal>(width()) - kHemHead - 4, most = material.inside ? 1.6 : 2.2;
  const qreal scale = std::min(room / sum, most);
  return QRectF(kHemHead + before * scale, height(), asked(*found) * scale, kHemHeight).toRect();
}

std::map<std::string, qreal> BoardView::hemPegs() const {
  std::map<std::string, qreal> pegs;
  for (const auto& [slot, from] : material.hem) pegs[slot] = slotRect(slot).x() + kSlotPeg + scroll.x();
  return pegs;
}

std::string BoardView::slotAt(QPointF at) const {
  if (at.y() < height()) return {};
  for (const SlotView& s : hemSlots())
    if (slotRect(s.id).contains(at.toPoint())) return s.id;
  return {};
}

const TagPlace* BoardView::tagAt(QPointF board) const {
  for (const TagPlace& t : layout.tags())
    if (!t.hidden && t.rect.contains(board)) return &t;
  return nullptr;
}

const ThreadPlace* BoardView::threadAt(QPointF board) const {
  QPainterPathStroker stroker;
  stroker.setWidth(9);
  for (const ThreadPlace& t : layout.threads())
    if (t.path.boundingRect().adjusted(-6, -6, 6, 6).contains(board) && stroker.createStroke(t.path).contains(board))
      return &t;
  return nullptr;
}

std::optional<GuideStop> BoardView::guideNear(QPointF at) const {
  for (const ThreadPlace& t : layout.threads())
    for (std::size_t i = 0; i < t.guides.size(); ++i)
      if ((t.guides[i] - at).manhattanLength() < 9) return GuideStop{t.to, i};
  return {};
}

std::vector<Guide> BoardView::guidesOf(const std::string& peg) const {
  const auto led = material.guides.find(peg);
  return led == material.guides.end() ? std::vector<Guide>{} : led->second;
}

std::vector<GuideStop> BoardView::guideStops() const {
  std::vector<GuideStop> stops;
  const TagPlace* tag = selected.size() == 1 ? layout.tag(selected.back()) : nullptr;
  if (!tag) return stops;
  for (const PegPlace& peg : tag->inputs)
    for (const ThreadPlace& t : layout.threads()) {
      if (t.alias || t.toHem || t.to != peg.node + "." + peg.peg) continue;
      if (t.guides.empty()) stops.push_back({t.to, {}});
      for (std::size_t i = 0; i < t.guides.size(); ++i) stops.push_back({t.to, i});
    }
  return stops;
}

// The lane that x lies in; beyond all: their number.
std::size_t BoardView::laneUnder(qreal x) const {
  std::size_t i = 0;
  while (i < layout.lanes().size() && x >= layout.lanes()[i].rect.right()) ++i;
  return i;
}

// The line above a row, in the middle of the channel.
qreal BoardView::rowTop(int row) const {
  const QRectF first = layout.cellRect({material.lanes.empty() ? "" : material.lanes.front().id, 0, 0}),
               second = layout.cellRect({material.lanes.empty() ? "" : material.lanes.front().id, 0, 1});
  const qreal pitch = std::max(second.y() - first.y(), first.height() + 4);
  return row == 0 ? BoardLayout::kLaneHead : first.y() + row * pitch - (pitch - first.height()) / 2;
}

// The whole board in a corner, while it is larger than the view.
QRectF BoardView::mapArea() const {
  const QSizeF all = layout.size();
  if (all.width() <= width() * 1.05 && all.height() <= (height()) * 1.25) return {};
  const qreal k = std::min(150.0 / all.width(), 110.0 / all.height());
  // Over the line that tells what lies below.
  return QRectF(width() - all.width() * k - 10, height() - kHemBand - all.height() * k - 4, all.width() * k,
                all.height() * k);
}

std::map<std::string, int> BoardView::below() const {
  std::map<std::string, int> count;
  for (const TagPlace& t : layout.tags())
    if (t.rect.center().y() - scroll.y() > height() - kHemBand)
      if (const Node* n = material.node(t.node)) ++count[n->lane];
  return count;
}

QImage BoardView::pictureFor(const std::string& output) const {
  if (!pictures) return {};
  const auto it = pictures->find(output);
  return it == pictures->end() ? QImage() : it->second;
}

}  // namespace loom::app
