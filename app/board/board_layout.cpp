// Threads run in the channels between rows and the gutters between columns, with rounded corners.
#include "app/board/board_layout.h"

#include <algorithm>
#include <cmath>
#include <set>

#include "app/board/thread_brush.h"
#include "core/graph/output_kinds.h"
#include "core/graph/validate.h"

namespace loom::app {
namespace {

constexpr qreal kCorner = ThreadBrush::kRadius, kTrack = ThreadTracks::kTrack;

// A polyline with rounded corners.
QPainterPath rounded(const std::vector<QPointF>& given) {
  std::vector<QPointF> points;
  for (const QPointF& p : given)
    if (points.empty() || std::hypot(p.x() - points.back().x(), p.y() - points.back().y()) > 0.5) points.push_back(p);
  QPainterPath path(points.front());
  for (std::size_t i = 1; i < points.size(); ++i) {
    if (i + 1 == points.size()) {
      path.lineTo(points[i]);
      break;
    }
    const QPointF a = points[i - 1], b = points[i], c = points[i + 1];
    const qreal in = std::hypot(b.x() - a.x(), b.y() - a.y()), out = std::hypot(c.x() - b.x(), c.y() - b.y());
    const qreal r = std::min({kCorner, in / 2, out / 2});
    // Three chords of the parabola from the one side to the other: a curve takes twice as long to be stroked and looks
    // the same.
    const QPointF from = b - (b - a) * (r / std::max(in, 1e-6)), to = b + (c - b) * (r / std::max(out, 1e-6));
    for (const qreal t : {0.0, 1 / 3.0, 2 / 3.0, 1.0})
      path.lineTo(from * ((1 - t) * (1 - t)) + b * (2 * t * (1 - t)) + to * (t * t));
  }
  return path;
}

// Tracks alternate about the middle: 0, 1, -1, 2, -2 ...
qreal offset(int track, qreal room) {
  const int step = (track + 1) / 2;
  return std::clamp((track % 2 ? step : -step) * kTrack, -room / 2 + 3, room / 2 - 3);
}

// A peg may be offered only in some states of its node; once connected it stays.
bool offered(const OutputKinds& graph, const Catalogue& catalogue, const NodePtr& n, const Peg& peg) {
  if (peg.shown_when.empty()) return true;
  const NodeType* type = catalogue.find(n->type);
  if (!type || graph.into(n->id, peg.id)) return true;
  Parameter as;
  as.acts = {peg.shown_when, "hidden"};
  return parameter_acts(*type, as, n->params,
                        [&](std::string_view id) { return graph.into(n->id, std::string(id)) != nullptr; });
}

}  // namespace

void BoardLayout::build(const Material& material, const Catalogue& catalogue, qreal zoom, qreal leastWidth,
                        qreal bottom, const std::map<std::string, qreal>& hemPegs) {
  listTags(material, catalogue);
  scale(material, zoom, leastWidth, bottom, hemPegs);
}

void BoardLayout::scale(const Material& material, qreal zoom, qreal leastWidth, qreal bottom,
                        const std::map<std::string, qreal>& hemPegs) {
  zoom_ = zoom;
  form_ = zoom >= 0.8 ? TagForm::whole : zoom >= 0.42 ? TagForm::brief : TagForm::picture;
  if (form_ == TagForm::whole)
    tagWidth_ = 138 * zoom, tagHeight_ = 56 * zoom, gutter_ = 24 * zoom, channel_ = 46 * zoom;
  else if (form_ == TagForm::brief)
    tagWidth_ = std::max(98 * zoom / 0.6, 84.0), tagHeight_ = 36, gutter_ = std::max(18 * zoom / 0.6, 12.0),
    channel_ = std::max(28 * zoom / 0.6, 18.0);
  else
    tagWidth_ = tagHeight_ = std::max(34 * zoom / 0.4, 14.0), gutter_ = 14, channel_ = 20;
  placeLanes(material, leastWidth);
  placeTags();
  routeThreads(material);
  routeHem(material, bottom, hemPegs);
}

void BoardLayout::routeHem(const Material& material, qreal bottom, const std::map<std::string, qreal>& hemPegs) {
  threads_.resize(inner_);
  Channels channels = channels_, gutters = gutters_;
  for (const auto& [slot, output] : material.hem) {
    const auto [node, peg] = split_output(output);
    const TagPlace* source = tag(node);
    const auto at = hemPegs.find(slot);
    const PegPlace* from = source ? pegAt(source->outputs, peg) : nullptr;
    if (!from || at == hemPegs.end()) continue;
    const int fromRow = rowOf(*source);
    const qreal side = source->rect.right() + gutter_ / 2;
    const qreal top = channelY(channels, fromRow, from->at.x(), side, output);
    const qreal x = side + offset(gutters[static_cast<int>(std::lround(side))].take(top, bottom, output), gutter_ - 4);
    const qreal low = bottom - 10 - 5 * (channels[100000].take(x, at->second, slot) % 4);
    ThreadPlace place{output, slot, from->kind, {}, true};
    place.corners = {from->at,
                     {from->at.x(), top},
                     {x, top},
                     {x, std::max(low, top)},
                     {at->second, std::max(low, top)},
                     {at->second, bottom}};
    place.path = rounded(place.corners);
    threads_.push_back(std::move(place));
  }
}

void BoardLayout::placeLanes(const Material& material, qreal leastWidth) {
  lanes_.clear();
  std::map<std::string, int> columns;
  int rows = 4;
  for (const Stage& s : material.stages) rows = std::max(rows, s.row + 1);
  for (const NodePtr& n : material.nodes) {
    columns[n->lane] = std::max(columns[n->lane], n->column + 1);
    rows = std::max(rows, n->row + 1);
  }
  const qreal height = kLaneHead + rows * (tagHeight_ + channel_) + channel_ * 0.7;
  qreal x = 0, open = 0;
  for (const Lane& l : material.lanes) {
    LanePlace p{l.id, {}, std::max(columns[l.id], 1), l.collapsed};
    const qreal width = l.collapsed ? kCollapsedWidth : p.columns * (tagWidth_ + gutter_) + gutter_;
    p.rect = QRectF(x, 0, width, height);
    x += width;
    if (!l.collapsed) open += 1;
    lanes_.push_back(p);
  }
  if (x < leastWidth && open > 0) {  // spare room goes to the open lanes alike
    const qreal more = (leastWidth - x) / open;
    qreal shift = 0;
    for (LanePlace& p : lanes_) {
      p.rect.translate(shift, 0);
      if (p.collapsed) continue;
      p.rect.setWidth(p.rect.width() + more);
      shift += more;
    }
    x = leastWidth;
  }
  size_ = QSizeF(x, height);
}

QRectF BoardLayout::cellRect(const Cell& cell) const {
  for (const LanePlace& l : lanes_) {
    if (l.id != cell.lane) continue;
    if (l.collapsed) return QRectF(l.rect.center().x() - 8, kLaneHead + 40 + cell.row * 14, 16, 12);
    // Columns stand in the middle of what the lane has to spare.
    const qreal spare = l.rect.width() - (std::max(l.columns, cell.column + 1) * (tagWidth_ + gutter_) + gutter_);
    return QRectF(l.rect.x() + gutter_ + std::max(spare, 0.0) / 2 + cell.column * (tagWidth_ + gutter_),
                  kLaneHead + channel_ * 0.4 + cell.row * (tagHeight_ + channel_), tagWidth_, tagHeight_);
  }
  return QRectF(0, kLaneHead, tagWidth_, tagHeight_);
}

BoardLayout::Cell BoardLayout::cellAt(QPointF at) const {
  Cell cell;
  if (lanes_.empty()) return cell;
  const LanePlace* lane = &lanes_.front();
  for (const LanePlace& l : lanes_)
    if (at.x() >= l.rect.left()) lane = &l;
  cell.lane = lane->id;
  const QRectF first = cellRect({lane->id, 0, 0});
  cell.column = std::clamp(static_cast<int>(std::floor((at.x() - first.x() + gutter_ / 2) / (tagWidth_ + gutter_))), 0,
                           lane->columns);
  cell.row = std::max(0, static_cast<int>(std::floor((at.y() - first.y() + channel_ / 2) / (tagHeight_ + channel_))));
  return cell;
}

QPointF BoardLayout::pointOf(const Guide& guide) const {
  const QRectF first = cellRect({guide.lane, 0, 0});
  const qreal column = std::clamp(guide.column, -2.0, 1000.0),
              row = std::clamp(guide.row, -2.0, 10000.0);  // whatever a document says
  for (const LanePlace& l : lanes_)
    if (l.id == guide.lane && l.collapsed)
      return {l.rect.center().x(), cellRect({guide.lane, 0, static_cast<int>(row)}).center().y()};
  return first.topLeft() + QPointF(column * (tagWidth_ + gutter_), row * (tagHeight_ + channel_));
}

Guide BoardLayout::guideAt(QPointF at) const {
  const std::string lane = cellAt(at).lane;
  const QPointF from = at - cellRect({lane, 0, 0}).topLeft();
  const auto rounded = [](qreal x) { return std::round(x * 100) / 100; };
  return {lane, rounded(from.x() / (tagWidth_ + gutter_)), rounded(from.y() / (tagHeight_ + channel_))};
}

// What stands on the board, as yet nowhere.
void BoardLayout::listTags(const Material& material, const Catalogue& catalogue) {
  tags_.clear();
  tagOf_.clear();
  std::set<std::string> read;  // outputs that a thread or a slot reads
  for (const Thread& t : material.threads) read.insert(t.from_node + "." + t.from_peg);
  for (const auto& [slot, from] : material.hem) read.insert(from);
  OutputKinds graph(material, catalogue);
  for (const NodePtr& n : material.nodes) {
    TagPlace t{n->id, n, {}};
    const auto list = [&](std::vector<PegPlace>& places, const std::vector<Peg>& pegs, bool input) {
      for (const Peg& p : pegs) {
        const bool connected = input ? graph.into(n->id, p.id) != nullptr : read.count(n->id + "." + p.id) != 0;
        if (!connected && !offered(graph, catalogue, n, p)) continue;
        places.push_back(
            {n->id, p.id, {}, p.kind == Kind::any && !input ? graph.of(n->id, p.id) : p.kind, input, connected});
      }
    };
    list(t.inputs, inputs_of(material, catalogue, *n), true);
    list(t.outputs, outputs_of(material, catalogue, *n), false);
    tagOf_[n->id] = tags_.size();
    tags_.push_back(std::move(t));
  }
}

void BoardLayout::placeTags() {
  for (TagPlace& t : tags_) {
    t.rect = cellRect({t.held->lane, t.held->column, t.held->row});
    for (const LanePlace& l : lanes_)
      if (l.id == t.held->lane) t.hidden = l.collapsed;
    for (auto* places : {&t.inputs, &t.outputs}) {
      const qreal step =
          std::min(26.0 * zoom_, (t.rect.width() - 12) / std::max<qreal>(static_cast<qreal>(places->size()), 1));
      const qreal first = t.rect.center().x() - step * (static_cast<qreal>(places->size()) - 1) / 2;
      for (std::size_t i = 0; i < places->size(); ++i)
        (*places)[i].at = QPointF(t.hidden ? t.rect.center().x() : first + step * static_cast<qreal>(i),
                                  places == &t.inputs ? t.rect.top() : t.rect.bottom());
    }
  }
}

const TagPlace* BoardLayout::tag(const std::string& node) const {
  const auto it = tagOf_.find(node);
  return it == tagOf_.end() ? nullptr : &tags_[it->second];
}

const PegPlace* BoardLayout::pegNear(QPointF at, qreal within) const {
  const PegPlace* best = nullptr;
  qreal least = within;
  for (const TagPlace& t : tags_) {
    if (t.hidden || !t.rect.adjusted(-within, -within, within, within).contains(at)) continue;
    for (const auto* list : {&t.inputs, &t.outputs})
      for (const PegPlace& p : *list)
        if (const qreal d = std::hypot(p.at.x() - at.x(), p.at.y() - at.y()); d < least) least = d, best = &p;
  }
  return best;
}

const PegPlace* BoardLayout::pegAt(const std::vector<PegPlace>& pegs, const std::string& peg) {
  for (const PegPlace& p : pegs)
    if (p.peg == peg) return &p;
  return nullptr;
}

int BoardLayout::rowOf(const TagPlace& t) const {
  return static_cast<int>(std::lround((t.rect.top() - kLaneHead - channel_ * 0.4) / (tagHeight_ + channel_)));
}

// The height of a track in the channel under row `row`.
qreal BoardLayout::channelY(Channels& channels, int row, qreal from, qreal to, const std::string& trunk) const {
  return kLaneHead + channel_ * 0.4 + (row + 1) * (tagHeight_ + channel_) - channel_ / 2 +
         offset(channels[row].take(from, to, trunk), channel_ - 8);
}

// Along the channel to above the first guide and down through it, square from one to the next, and along the channel
// over the target.
std::vector<QPointF> BoardLayout::ledWay(QPointF from, int fromRow, const std::vector<QPointF>& guides, QPointF to,
                                         int toRow, const std::string& trunk) {
  const qreal top = channelY(channels_, fromRow, from.x(), guides.front().x(), trunk),
              low = channelY(channels_, toRow - 1, guides.back().x(), to.x(), trunk + ">");
  std::vector<QPointF> way{from, {from.x(), top}, {guides.front().x(), top}, guides.front()};
  for (std::size_t i = 1; i < guides.size(); ++i)
    way.push_back({guides[i - 1].x(), guides[i].y()}), way.push_back(guides[i]);
  for (const QPointF& p : {QPointF(guides.back().x(), low), QPointF(to.x(), low), to}) way.push_back(p);
  return way;
}

void BoardLayout::routeThreads(const Material& material) {
  threads_.clear();
  channels_.clear();
  gutters_.clear();
  const auto route = [&](const PegPlace& from, const TagPlace& source, QPointF to, int toRow,
                         const std::string& trunk) -> std::vector<QPointF> {
    const int fromRow = rowOf(source);
    if (source.hidden)
      return {QPointF(source.rect.center().x() + 20, source.rect.center().y()),
              QPointF(to.x(), source.rect.center().y()), to};
    if (toRow == fromRow + 1) {
      if (std::abs(from.at.x() - to.x()) < 1) return {from.at, to};
      const qreal y = channelY(channels_, fromRow, from.at.x(), to.x(), trunk);
      return {from.at, {from.at.x(), y}, {to.x(), y}, to};
    }
    // Down the gutter beside the target's column: along the channel to it, down, along the channel above the target.
    const Cell cell = cellAt(to - QPointF(0, 1));
    const QRectF column = cellRect({cell.lane, cell.column, 0});
    const qreal side = to.x() >= column.center().x() && from.at.x() > to.x() ? column.right() + gutter_ / 2
                                                                             : column.left() - gutter_ / 2;
    const qreal top = channelY(channels_, fromRow, from.at.x(), side, trunk);
    const qreal x = side + offset(gutters_[static_cast<int>(std::lround(side))].take(top, to.y(), trunk), gutter_ - 4);
    const qreal low = channelY(channels_, toRow - 1, x, to.x(), trunk + ">");
    return {from.at, {from.at.x(), top}, {x, top}, {x, low}, {to.x(), low}, to};
  };
  // Short ways first, so that they get the middle tracks.
  struct Way {
    const Thread* thread;
    const TagPlace *source, *target;
    qreal span;
  };
  std::vector<Way> ways;
  for (const Thread& t : material.threads) {
    const TagPlace *p = tag(t.from_node), *q = tag(t.to_node);
    if (p && q && !(p->hidden && q->hidden))
      ways.push_back({&t, p, q,
                      std::abs(p->rect.center().y() - q->rect.center().y()) * 4 +
                          std::abs(p->rect.center().x() - q->rect.center().x())});
  }
  std::stable_sort(ways.begin(), ways.end(), [](const Way& a, const Way& b) { return a.span < b.span; });
  threads_.reserve(ways.size() + material.hem.size());
  for (const auto& [t, source, target, span] : ways) {
    const PegPlace *from = pegAt(source->outputs, t->from_peg), *to = pegAt(target->inputs, t->to_peg);
    if (!from || !to) continue;
    const QPointF end = target->hidden ? QPointF(target->rect.center().x() - 20, target->rect.center().y()) : to->at;
    const std::string trunk = t->from_node + "." + t->from_peg;
    ThreadPlace place{
        trunk, t->to_node + "." + t->to_peg, from->kind, {}, false, to->kind != Kind::any && to->kind != from->kind};
    if (t->alias && !target->hidden)
      place.alias = true, place.corners = {end - QPointF(0, 14 * std::min(zoom_, 1.0)), end};
    else if (target->hidden)
      place.corners = {from->at, {from->at.x(), end.y()}, end};
    else if (const auto led = material.guides.find(place.to);
             led != material.guides.end() && !led->second.empty() && !source->hidden &&
             std::all_of(led->second.begin(), led->second.end(),
                         [&](const Guide& g) { return material.lane(g.lane) != nullptr; })) {
      for (const Guide& g : led->second) place.guides.push_back(pointOf(g));
      place.corners = ledWay(from->at, rowOf(*source), place.guides, end, rowOf(*target), trunk);
    } else
      place.corners = route(*from, *source, end, rowOf(*target), trunk);
    place.path = rounded(place.corners);
    threads_.push_back(std::move(place));
  }
  inner_ = threads_.size();
}

}  // namespace loom::app
