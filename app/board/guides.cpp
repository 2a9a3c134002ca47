// Guides: places that a thread is led through, set and moved by the pointer or by keys.
#include <QKeyEvent>
#include <QPainter>

#include "app/base/theme.h"
#include "app/board/board.h"
#include "core/graph/edit.h"

namespace loom::app {

std::vector<Guide> Board::guidesOf(const std::string& peg) const {
  const auto led = material_.guides.find(peg);
  return led == material_.guides.end() ? std::vector<Guide>{} : led->second;
}

std::optional<Board::GuideStop> Board::guideNear(QPointF at) const {
  for (const ThreadPlace& t : layout_.threads())
    for (std::size_t i = 0; i < t.guides.size(); ++i)
      if ((t.guides[i] - at).manhattanLength() < 9) return GuideStop{t.to, i};
  return {};
}

// Between those that it lies between along the thread.
void Board::addGuide(const ThreadPlace& thread, QPointF at) {
  const auto along = [&](QPointF p) {
    int best = 0;
    for (int i = 1; i <= 200; ++i)
      if ((thread.path.pointAtPercent(i / 200.0) - p).manhattanLength() <
          (thread.path.pointAtPercent(best / 200.0) - p).manhattanLength())
        best = i;
    return best;
  };
  std::size_t before = 0;
  while (before < thread.guides.size() && along(thread.guides[before]) < along(at)) ++before;
  auto through = guidesOf(thread.to);
  through.insert(through.begin() + static_cast<std::ptrdiff_t>(std::min(before, through.size())), layout_.guideAt(at));
  Q_EMIT editWanted(tr("Lead a thread"), edit::set_guides(material_, thread.to, through));
}

void Board::moveGuide(const GuideStop& stop, const Guide& to) {
  auto through = guidesOf(stop.peg);
  if (!stop.guide || *stop.guide >= through.size()) return;
  through[*stop.guide] = to;
  Q_EMIT editWanted(tr("Lead a thread"), edit::set_guides(material_, stop.peg, through));
}

void Board::removeGuide(const GuideStop& stop) {
  auto through = guidesOf(stop.peg);
  if (!stop.guide || *stop.guide >= through.size()) return;
  through.erase(through.begin() + static_cast<std::ptrdiff_t>(*stop.guide));
  Q_EMIT editWanted(tr("Take a guide away"), edit::set_guides(material_, stop.peg, through));
}

std::vector<Board::GuideStop> Board::guideStops() const {
  std::vector<GuideStop> stops;
  const TagPlace* tag = selected_.size() == 1 ? layout_.tag(selected_.back()) : nullptr;
  if (!tag) return stops;
  for (const PegPlace& peg : tag->inputs)
    for (const ThreadPlace& t : layout_.threads()) {
      if (t.alias || t.toHem || t.to != peg.node + "." + peg.peg) continue;
      if (t.guides.empty()) stops.push_back({t.to, {}});
      for (std::size_t i = 0; i < t.guides.size(); ++i) stops.push_back({t.to, i});
    }
  return stops;
}

void Board::leadByKeys() {
  if (guideStops().empty()) return Q_EMIT message(tr("Select one node that threads come into"));
  keyGuide_ = 0;
  Q_EMIT message(
      tr("Arrows lead the thread, Space goes to the next guide or thread, Insert adds a guide, Delete takes it away, "
         "Enter ends"));
  update();
}

// By a quarter of a place on the board; a thread without guides gets its first one in its middle.
void Board::stepGuide(const GuideStop& stop, int du, int dv) {
  if (!stop.guide) {
    for (const ThreadPlace& t : layout_.threads())
      if (t.to == stop.peg) return addGuide(t, t.path.pointAtPercent(0.5));
    return;
  }
  const QSizeF step = layout_.cellRect({}).size() / 4;
  moveGuide(stop, layout_.guideAt(layout_.pointOf(guidesOf(stop.peg).at(*stop.guide)) +
                                  QPointF(du * step.width(), dv * step.height())));
}

void Board::keyOfGuide(QKeyEvent* e) {
  const auto stops = guideStops();
  if (stops.empty() || e->key() == Qt::Key_Escape || e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter) {
    keyGuide_.reset();
    Q_EMIT message({});
    return update();
  }
  keyGuide_ = std::min(*keyGuide_, stops.size() - 1);
  const GuideStop& stop = stops[*keyGuide_];
  switch (e->key()) {
    case Qt::Key_Left:
      return stepGuide(stop, -1, 0);
    case Qt::Key_Right:
      return stepGuide(stop, 1, 0);
    case Qt::Key_Up:
      return stepGuide(stop, 0, -1);
    case Qt::Key_Down:
      return stepGuide(stop, 0, 1);
    case Qt::Key_Space:
      keyGuide_ = (*keyGuide_ + 1) % stops.size();
      return update();
    case Qt::Key_Delete:
      return removeGuide(stop);
    case Qt::Key_Insert: {  // half way from the one at hand to the thread's end
      auto through = guidesOf(stop.peg);
      const PegPlace* end = nullptr;
      for (const PegPlace& peg : layout_.tag(selected_.back())->inputs)
        if (peg.node + "." + peg.peg == stop.peg) end = &peg;
      if (!stop.guide || !end) return stepGuide(stop, 0, 0);
      const auto after = static_cast<std::ptrdiff_t>(*stop.guide) + 1;
      const QPointF next = after < static_cast<std::ptrdiff_t>(through.size())
                               ? layout_.pointOf(through[static_cast<std::size_t>(after)])
                               : end->at;
      through.insert(through.begin() + after, layout_.guideAt((layout_.pointOf(through[*stop.guide]) + next) / 2));
      ++*keyGuide_;
      return Q_EMIT editWanted(tr("Lead a thread"), edit::set_guides(material_, stop.peg, through));
    }
    default:
      return;
  }
}

void Board::paintGuides(QPainter& p, const std::vector<const ThreadPlace*>& shown) {
  const auto stops = keyGuide_ ? guideStops() : std::vector<GuideStop>{};
  const GuideStop* hand = stops.empty() ? nullptr : &stops[std::min(*keyGuide_, stops.size() - 1)];
  const auto square = [&p](QPointF at, qreal half) {
    p.drawRect(QRectF(at - QPointF(half, half), QSizeF(2 * half, 2 * half)));
  };
  for (const ThreadPlace* t : shown) {
    const bool led = hand && hand->peg == t->to;
    for (std::size_t i = 0; i < t->guides.size(); ++i) {
      const bool at = led && hand->guide == i;
      p.setPen(QPen(isTouched(*t) ? theme().indigo : theme().mute, 1.4));
      p.setBrush(at ? theme().indigo : theme().paper);
      square(t->guides[i], at ? 5 : 3.5);
    }
    if (!led || hand->guide) continue;
    p.setPen(QPen(theme().indigo, 1.4, Qt::DotLine));  // where its first one will be
    p.setBrush(theme().paper);
    square(t->path.pointAtPercent(0.5), 5);
  }
}

}  // namespace loom::app
