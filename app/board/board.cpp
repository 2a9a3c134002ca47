// What the board shows and where it stands.
#include "app/board/board.h"

#include <cmath>

#include "app/board/add_line.h"
#include "core/graph/groups.h"
#include "core/nodes/catalogue.h"

namespace loom::app {

Board::Board(QWidget* parent) : QWidget(parent), addLine_(new AddLine(this)) {
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setMinimumSize(300, 200);
  setAccessibleName(tr("Board"));
  setAttribute(Qt::WA_OpaquePaintEvent);
}

void Board::showMaterial(const Material& material) {
  material_ = material;
  std::erase_if(selected_, [&](const std::string& id) { return !material_.node(id); });
  if (!material_.lane(cell_.lane)) cell_ = {material_.lanes.empty() ? "" : material_.lanes.front().id, 0, 0};
  relayout();
  Q_EMIT selectionChanged();
}

void Board::showPictures(Pictures pictures) {
  pictures_ = std::move(pictures);
  update();
}

void Board::showHem(const std::map<std::string, QImage>& pictures) {
  if (pictures.empty()) return;
  hemPictures_ = pictures;
  update();
}

void Board::showFaults(const std::map<std::string, Error>& faults) {
  faults_ = faults;
  update();
}

void Board::showWeaving(const std::string& node) {
  if (weaving_ == node) return;
  weaving_ = node;
  update();
}

void Board::showFollowed(const std::map<std::string, QString>& values, const std::vector<std::string>& path) {
  followed_ = values;
  followedPath_ = path;
  update();
}

void Board::select(const std::vector<std::string>& nodes) {
  selected_ = nodes;
  slotFocus_.clear();
  keyGuide_.reset();
  if (!nodes.empty())
    if (const Node* n = material_.node(nodes.back())) cell_ = {n->lane, n->column, n->row};
  update();
  Q_EMIT selectionChanged();
}

std::string Board::focusedOutput() const {
  if (!slotFocus_.empty()) {
    const auto it = material_.hem.find(slotFocus_);
    return it == material_.hem.end() ? "" : it->second;
  }
  if (selected_.empty()) return {};
  const TagPlace* t = layout_.tag(selected_.back());
  if (!t || t->outputs.empty()) return {};
  // The output that is connected says more than the first one.
  std::size_t index = 0;
  if (const auto it = outputOf_.find(selected_.back()); it != outputOf_.end())
    index = static_cast<std::size_t>(it->second) % t->outputs.size();
  return t->node + "." + t->outputs[index].peg;
}

void Board::nextOutput() {
  if (keyThread_) return finishThread();  // Enter means this while a thread is in the hand
  if (selected_.empty()) return;
  ++outputOf_[selected_.back()];
  update();
  Q_EMIT selectionChanged();
}

BoardLayout::Cell Board::focus() const {
  BoardLayout::Cell c = cell_;
  if (!selected_.empty())
    if (const Node* n = material_.node(selected_.back())) c = {n->lane, n->column, n->row + 1};
  return c;
}

// ---- layout ----

// The fixed slots and the artist's own; inside a group its outputs, and room for another.
std::vector<Board::SlotView> Board::hemSlots() const {
  std::vector<SlotView> all;
  const auto known = [&](const std::string& id) {
    return std::any_of(all.begin(), all.end(), [&](const SlotView& s) { return s.id == id; });
  };
  if (material_.inside) {
    for (const GroupPeg& out : material_.inside->outputs)
      if (material_.hem.count(out.id)) all.push_back({out.id, qs(out.label.empty() ? out.id : out.label)});
  } else {
    for (const Slot& s : hem_slots()) all.push_back({std::string(s.id), QString::fromUtf8(s.label.data())});
  }
  for (const auto& [id, from] : material_.hem)
    if (!known(id)) all.push_back({id, qs(id)});
  if (material_.inside) all.push_back({kNewSlot, tr("New output")});
  return all;
}

void Board::stand(const Standpoint& at) {
  if (zoom_ != at.zoom) {
    zoom_ = at.zoom;
    rescale();
  }
  scroll_ = at.scroll;
  scrolled();
  if (selected_ != at.selection) select(at.selection);
}

QRect Board::slotRect(const std::string& slot) const {
  const auto all = hemSlots();
  const auto it = std::find_if(all.begin(), all.end(), [&](const SlotView& s) { return s.id == slot; });
  if (it == all.end()) return {};
  const qreal room = static_cast<qreal>(width()) - kHemHead,
              wide = std::min(room / static_cast<qreal>(all.size()), material_.inside ? 180.0 : 1e4);
  const auto i = static_cast<qreal>(it - all.begin());
  return QRectF(kHemHead + i * wide, height() - kHemHeight, wide, kHemHeight).toRect();
}

std::map<std::string, qreal> Board::hemPegs() const {
  std::map<std::string, qreal> pegs;
  for (const auto& [slot, from] : material_.hem) pegs[slot] = slotRect(slot).x() + 26 + scroll_.x();
  return pegs;
}

void Board::relayout() {
  layout_.build(material_, catalogue(), zoom_, width(), height() - kHemHeight + scroll_.y(), hemPegs());
  stale_ = true;
  scrolled();
}

// The same things, larger or smaller.
void Board::rescale() {
  layout_.scale(material_, zoom_, width(), height() - kHemHeight + scroll_.y(), hemPegs());
  stale_ = true;
  scrolled();
}

// Nothing but the view has moved.
void Board::scrolled() {
  clampScroll();
  layout_.routeHem(material_, height() - kHemHeight + scroll_.y(), hemPegs());
  QWidget::update();
}

void Board::clampScroll() {
  const qreal most_x = std::max(0.0, layout_.size().width() - width()),
              most_y = std::max(0.0, layout_.size().height() - (height() - kHemHeight));
  scroll_ = QPointF(std::round(std::clamp(scroll_.x(), 0.0, most_x)),
                    std::round(std::clamp(scroll_.y(), 0.0, most_y)));  // whole pixels: what is painted can move along
}

void Board::resizeEvent(QResizeEvent*) { rescale(); }

void Board::setZoom(qreal zoom) {
  zoom_ = std::clamp(zoom, 0.2, 1.6);
  rescale();
}

// As large as the width allows, but never so small that the names go: a tall board is scrolled.
void Board::fitAll() {
  for (const qreal z : {1.0, 0.9, 0.8, 0.75, 0.7, 0.65, 0.6, 0.55, 0.5, 0.46, 0.42}) {
    zoom_ = z;
    scroll_ = {};
    layout_.scale(material_, z, 0, 0, {});
    qreal lowest = 0;
    for (const TagPlace& t : layout_.tags()) lowest = std::max(lowest, t.rect.bottom());
    if (layout_.size().width() <= width() && lowest + kHemBand <= height() - kHemHeight) break;
  }
  rescale();
}

void Board::fitSelection() {
  if (!selected_.empty()) fly(selected_.back());
}

void Board::reveal(const std::string& node) {
  const TagPlace* t = layout_.tag(node);
  if (!t) return;
  const QRectF room(scroll_ + QPointF(0, BoardLayout::kLaneHead),
                    QSizeF(width(), height() - kHemHeight - BoardLayout::kLaneHead)),
      all = t->rect.adjusted(-16, -16, 16, 24);
  const auto by = [](qreal low, qreal high, qreal from, qreal to) {
    return high > to ? high - to : low < from ? low - from : 0;
  };
  scroll_ += QPointF(by(all.left(), all.right(), room.left(), room.right()),
                     by(all.top(), all.bottom(), room.top(), room.bottom()));
  scrolled();
}

void Board::fly(const std::string& node) {
  const TagPlace* t = layout_.tag(node);
  if (!t) return;
  scroll_ = t->rect.center() - QPointF(width() / 2.0, (height() - kHemHeight) / 2.0);
  scrolled();
}

void Board::showOutput(const std::string& output) {
  const auto [node, peg] = split_output(output);
  const TagPlace* t = layout_.tag(node);
  if (!t) return;
  for (std::size_t i = 0; i < t->outputs.size(); ++i)
    if (t->outputs[i].peg == peg) outputOf_[node] = static_cast<int>(i);
  select({node});
  fly(node);
}

std::string Board::slotAt(QPointF at) const {
  if (at.y() < height() - kHemHeight) return {};
  for (const SlotView& s : hemSlots())
    if (slotRect(s.id).contains(at.toPoint())) return s.id;
  return {};
}

const TagPlace* Board::tagAt(QPointF board) const {
  for (const TagPlace& t : layout_.tags())
    if (!t.hidden && t.rect.contains(board)) return &t;
  return nullptr;
}

const ThreadPlace* Board::threadAt(QPointF board) const {
  QPainterPathStroker stroker;
  stroker.setWidth(9);
  for (const ThreadPlace& t : layout_.threads())
    if (t.path.boundingRect().adjusted(-6, -6, 6, 6).contains(board) && stroker.createStroke(t.path).contains(board))
      return &t;
  return nullptr;
}

QImage Board::pictureFor(const std::string& output) const {
  if (!pictures_) return {};
  const auto it = pictures_->find(output);
  return it == pictures_->end() ? QImage() : it->second;
}

}  // namespace loom::app
