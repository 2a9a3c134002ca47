#include "app/board/key_modes.h"

#include <QKeyEvent>
#include <algorithm>

#include "app/base/ranking.h"
#include "app/board/board.h"
#include "app/board/board_commands.h"
#include "core/graph/edit.h"
#include "core/graph/groups.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"

namespace loom::app {

KeyMode::KeyMode(Board& board) : board_(board), view_(board.view()) {}

std::vector<ThreadByKeys::End> ThreadByKeys::ends() const {
  std::vector<End> fitting;
  const auto [node, peg] = split_output(view_.focusedOutput());
  const auto offer = [&](End end) {
    if (rank(end.name, {}, typed_) >= 0) fitting.push_back(std::move(end));
  };
  std::vector<const PegPlace*> pegs;
  for (const TagPlace& t : view_.layout.tags())
    for (const PegPlace& g : t.inputs)
      if (!t.hidden && refusal(view_.material, catalogue(), {node, peg, g.node, g.peg}).empty()) pegs.push_back(&g);
  std::stable_sort(pegs.begin(), pegs.end(), [](const PegPlace* a, const PegPlace* b) {
    return std::pair(a->at.y(), a->at.x()) < std::pair(b->at.y(), b->at.x());
  });
  for (const PegPlace* g : pegs) {
    const Node& n = *view_.material.node(g->node);
    QString label = qs(g->peg);
    for (const Peg& p : inputs_of(view_.material, catalogue(), n))
      if (p.id == g->peg) label = qs(p.label);
    offer({g, {}, qs(label_of(view_.material, catalogue(), n)) + QStringLiteral(", ") + label});
  }
  const Kind kind = output_kind(view_.material, catalogue(), node, peg);
  for (const BoardView::SlotView& s : view_.hemSlots())
    if (view_.material.inside || slot_kind(s.id) == Kind::any || converts(kind, slot_kind(s.id)))
      offer({nullptr, s.id, tr("hem, ") + s.label});
  return fitting;
}

void ThreadByKeys::choose(int by) {
  const auto all = ends();
  if (!all.empty()) at_ = (at_ + all.size() + static_cast<std::size_t>(by + static_cast<int>(all.size()))) % all.size();
  board_.say(
      all.empty()
          ? tr("Nothing that fits is called '%1'").arg(typed_)
          : tr("To %1 (%2 of %3); type to narrow, Enter connects").arg(all[at_].name).arg(at_ + 1).arg(all.size()));
  board_.update();
}

bool ThreadByKeys::press(QKeyEvent* e) {
  switch (e->key()) {
    case Qt::Key_Escape:
      board_.say({});
      return false;
    case Qt::Key_Right:
    case Qt::Key_Down:
      return choose(1), true;
    case Qt::Key_Left:
    case Qt::Key_Up:
      return choose(-1), true;
    case Qt::Key_Return:
    case Qt::Key_Enter:
      return enter(), false;
    case Qt::Key_Backspace:
      typed_.chop(1);
      break;
    default:
      if (e->text().isEmpty() || !e->text()[0].isPrint()) return true;
      typed_ += e->text();
  }
  at_ = 0;
  choose(0);
  return true;
}

bool ThreadByKeys::enter() {
  const auto all = ends();
  if (all.empty()) return true;
  const End& end = all[at_ % all.size()];
  board_.say(QString());  // what it asked for is answered
  if (end.peg)
    board_.commands().connectTo(view_.focusedOutput(), *end.peg);
  else
    board_.commands().hemTo(view_.focusedOutput(), end.slot);
  return true;
}

void ThreadByKeys::show(InHand& hand) const {
  hand.thread = true;
  const auto all = ends();
  if (all.empty()) return;
  hand.target = all[at_ % all.size()].peg;
  hand.slot = all[at_ % all.size()].slot;
}

GuideByKeys::GuideByKeys(Board& board) : KeyMode(board) {
  board_.say(
      tr("Arrows lead the thread, Space goes to the next guide or thread, Insert adds a guide, Delete takes it away, "
         "Enter ends"));
}

bool GuideByKeys::press(QKeyEvent* e) {
  const auto stops = view_.guideStops();
  if (stops.empty() || e->key() == Qt::Key_Escape || e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter) {
    board_.say({});
    return false;
  }
  at_ = std::min(at_, stops.size() - 1);
  const GuideStop& stop = stops[at_];
  BoardCommands& commands = board_.commands();
  switch (e->key()) {
    case Qt::Key_Left:
      commands.stepGuide(stop, -1, 0);
      break;
    case Qt::Key_Right:
      commands.stepGuide(stop, 1, 0);
      break;
    case Qt::Key_Up:
      commands.stepGuide(stop, 0, -1);
      break;
    case Qt::Key_Down:
      commands.stepGuide(stop, 0, 1);
      break;
    case Qt::Key_Space:
      at_ = (at_ + 1) % stops.size();
      board_.update();
      break;
    case Qt::Key_Delete:
      commands.removeGuide(stop);
      break;
    case Qt::Key_Insert:
      insertAfter(stop);
      break;
    default:
      break;
  }
  return true;
}

// Half way from the one at hand to the thread's end.
void GuideByKeys::insertAfter(const GuideStop& stop) {
  const TagPlace* tag = view_.layout.tag(view_.selected.back());
  const auto end = std::find_if(tag->inputs.begin(), tag->inputs.end(),
                                [&](const PegPlace& peg) { return peg.node + "." + peg.peg == stop.peg; });
  if (!stop.guide || end == tag->inputs.end()) return board_.commands().stepGuide(stop, 0, 0);
  auto through = view_.guidesOf(stop.peg);
  const std::size_t after = *stop.guide + 1;
  const QPointF from = view_.layout.pointOf(through[*stop.guide]),
                to = after < through.size() ? view_.layout.pointOf(through[after]) : end->at;
  through.insert(through.begin() + static_cast<std::ptrdiff_t>(after), view_.layout.guideAt((from + to) / 2));
  ++at_;
  board_.edit(tr("Lead a thread"), edit::set_guides(view_.material, stop.peg, through));
}

void GuideByKeys::show(InHand& hand) const {
  if (const auto stops = view_.guideStops(); !stops.empty()) hand.guide = stops[std::min(at_, stops.size() - 1)];
}

MarkByKeys::MarkByKeys(Board& board, bool set) : KeyMode(board), set_(set) {
  board_.say(set ? tr("Mark: type a letter") : tr("To which mark? Type its letter"));
}

bool MarkByKeys::press(QKeyEvent* e) {
  const QString letter = e->text().toLower();
  if (letter.size() == 1 && letter[0].isLetterOrNumber())
    Q_EMIT board_.markWanted(letter, set_);
  else
    board_.say(QString());
  return false;
}

}  // namespace loom::app
