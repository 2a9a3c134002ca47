// Commands on nodes: moved, added, copied, grouped, named.
#include "app/board/board_commands.h"
#include "app/base/elsewhere.h"

#include <QApplication>
#include <QClipboard>

#include "app/board/add_line.h"
#include "app/board/board.h"
#include "app/board/choose_parameters.h"
#include "core/bolt/bolt_node.h"
#include "core/graph/groups.h"
#include "core/graph/json.h"
#include "core/graph/rework.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"

namespace loom::app {
namespace {

// What the keys step: a mode before all else, such as Blend's, then the first choice of a type: a bond, a figure, a
// sum.
std::optional<Parameter> choiceOf(const Material& m, const Node* n) {
  const auto type = n ? type_of(m, catalogue(), *n) : nullptr;
  if (!type) return {};
  const auto is_choice = [](const Parameter& p) { return p.kind == ParameterKind::choice; };
  if (const Parameter* mode = type->parameter("mode"); mode && is_choice(*mode)) return *mode;
  const auto first = std::ranges::find_if(type->parameters, is_choice);
  if (first == type->parameters.end()) return {};
  return *first;
}

}  // namespace

BoardCommands::BoardCommands(Board& board) : board_(board), view_(board.view()) {}

void BoardCommands::moveFocus(int du, int dv) {
  const TagPlace* from = view_.selected.empty() ? nullptr : view_.layout.tag(view_.selected.back());
  const QPointF at = from ? from->rect.center() : view_.layout.cellRect(view_.cell).center();
  const TagPlace* best = nullptr;
  qreal least = 1e18;
  for (const TagPlace& t : view_.layout.tags()) {
    if (t.hidden || (from && t.node == from->node)) continue;
    const QPointF d = t.rect.center() - at;
    const qreal ahead = d.x() * du + d.y() * dv, aside = std::abs(d.x() * dv) + std::abs(d.y() * du);
    if (from && ahead < 4) continue;
    const qreal cost = ahead + 2.5 * aside;
    if (cost < least) least = cost, best = &t;
  }
  if (!best) return;
  const std::string id = best->node;
  const QRectF r = best->rect;
  board_.select({id});
  if (!QRectF(view_.scroll, QSizeF(view_.width(), view_.height())).contains(r)) board_.fly(id);
}

void BoardCommands::nudge(int du, int dv) {
  std::vector<edit::Placing> places;
  for (const std::string& id : view_.selected) {
    const Node* n = view_.material.node(id);
    if (!n) continue;
    edit::Placing p{id, n->lane, n->column + du, std::max(0, n->row + dv)};
    int lane = 0;
    for (std::size_t i = 0; i < view_.material.lanes.size(); ++i)
      if (view_.material.lanes[i].id == n->lane) lane = static_cast<int>(i);
    int columns = 1;
    for (const NodePtr& other : view_.material.nodes)
      if (other->lane == n->lane && !view_.isSelected(other->id)) columns = std::max(columns, other->column + 1);
    if (p.column < 0 || p.column >= columns + (du > 0 ? 1 : 0)) {  // over the lane's border
      const int to = std::clamp(lane + du, 0, static_cast<int>(view_.material.lanes.size()) - 1);
      if (to != lane)
        p.lane = view_.material.lanes[static_cast<std::size_t>(to)].id, p.column = 0;
      else
        p.column = std::max(0, p.column);
    }
    places.push_back(p);
  }
  if (!places.empty()) board_.edit(tr("Move"), edit::place_nodes(view_.material, places));
}

QPoint BoardCommands::focusPlace() const {
  return board_.widgetPoint(view_.layout.cellRect(view_.focus()).topLeft()) + QPoint(0, 4);
}

void BoardCommands::openAddLine(int rack) { board_.addLine().openAt(focusPlace(), view_.focusedOutput(), rack); }

void BoardCommands::removeSelected() {
  if (view_.selected.empty()) return;
  const auto gone = view_.selected;
  board_.edit(gone.size() == 1 ? tr("Delete") : tr("Delete %1 nodes").arg(gone.size()),
              edit::remove_nodes(view_.material, gone));
}

void BoardCommands::duplicateSelected(bool withInputs) {
  if (view_.selected.empty()) return;
  std::vector<std::string> fresh;
  const Material next = edit::duplicate(view_.material, view_.selected, withInputs, &fresh);
  board_.edit(tr("Duplicate"), next);
  board_.select(fresh);
}

void BoardCommands::copySelected() {
  if (!view_.selected.empty()) QApplication::clipboard()->setText(qs(write_snippet(view_.material, view_.selected)));
}

void BoardCommands::pasteHere() {
  const auto snippet = read_snippet(QApplication::clipboard()->text().toStdString());
  if (!snippet) return board_.say(qs(snippet.error().text()));
  const auto at = view_.focus();
  std::vector<std::string> fresh;
  Material next = edit::paste(view_.material, *snippet, at.lane, at.column, at.row, &fresh);
  elsewhere([&] { return take_bolts(next); });  // what cannot be had is a fault
  if (const auto faults = validate(next, catalogue()); !faults.empty())
    return board_.say(tr("Not pasted: %1").arg(qs(faults.front().text())));
  board_.edit(tr("Paste"), next);
  board_.select(fresh);
}

void BoardCommands::bypassSelected() {
  Material next = view_.material;
  for (const std::string& id : view_.selected)
    if (const Node* n = next.node(id); n && n->type != kComesIn)
      next = edit::set_bypass(std::move(next), id, !n->bypass);
  if (!view_.selected.empty()) board_.edit(tr("Bypass"), next);
}

void BoardCommands::replaceSelected() {
  if (view_.selected.empty()) return board_.say(tr("Select the node to replace"));
  const QPoint under = board_.widgetPoint(view_.layout.tag(view_.selected.back())->rect.bottomLeft()) + QPoint(0, 4);
  board_.addLine().openAt(under, view_.outputOf(view_.selected.back()), -1, AddLine::Way::replace);
}

void BoardCommands::liftOutSelected() {
  if (view_.selected.empty()) return;
  Material next = view_.material;
  for (const std::string& id : view_.selected) next = edit::lift_out(std::move(next), catalogue(), id);
  board_.edit(tr("Lift out"), next);
}

void BoardCommands::blendSelected() {
  if (view_.selected.size() < 2) return board_.say(tr("Select two nodes to blend"));
  const std::string lower = view_.outputOf(view_.selected[view_.selected.size() - 2]),
                    upper = view_.outputOf(view_.selected.back());
  if (lower.empty() || upper.empty()) return;
  std::string blend;
  const Material next = edit::blend_two(view_.material, catalogue(), lower, upper, &blend);
  if (const auto faults = validate(next, catalogue()); !faults.empty())
    return board_.say(tr("Not blended: %1").arg(qs(faults.front().text())));
  board_.edit(tr("Blend two"), next);
  board_.select({blend});
}

void BoardCommands::stepMode(int by) {
  const auto choice = choiceOf(view_.material, view_.atHand());
  if (!choice) return board_.say(tr("Select a node with a choice, such as Blend's mode or Masonry's bond"));
  const Material next = edit::step_choice(view_.material, catalogue(), view_.selected, choice->id, by);
  const QString label = qs(choice->label);
  if (write_material(next) == write_material(view_.material))
    return board_.say(tr("%1 follows a dial: turn that").arg(label));
  board_.edit(tr("Step %1").arg(label.toLower()), next);
  const auto& now = next.node(view_.selected.back())->params;
  if (const auto it = now.find(choice->id); it != now.end())
    if (const auto* word = std::get_if<std::string>(&it->second))
      board_.say(tr("%1: %2").arg(label, qs(*word).replace(QLatin1Char('_'), QLatin1Char(' '))));
}

void BoardCommands::selectUpstream() {
  auto all = edit::upstream(view_.material, view_.selected);
  all.insert(all.end(), view_.selected.begin(), view_.selected.end());
  board_.select(all);
}

void BoardCommands::selectDownstream() {
  auto all = edit::downstream(view_.material, view_.selected);
  all.insert(all.end(), view_.selected.begin(), view_.selected.end());
  board_.select(all);
}

void BoardCommands::copyParameters() {
  const Node* n = view_.atHand();
  if (!n) return;
  copied_ = *n;
  board_.say(tr("Parameters of %1 copied").arg(qs(label_of(view_.material, catalogue(), *n))));
}

void BoardCommands::pasteParameters() {
  if (!copied_ || view_.selected.empty())
    return board_.say(tr("Copy the parameters of a node first, then select others"));
  board_.edit(tr("Paste parameters"), edit::paste_parameters(view_.material, catalogue(), *copied_, view_.selected));
}

void BoardCommands::pasteChosenParameters() {
  const auto type = copied_ ? type_of(view_.material, catalogue(), *copied_) : nullptr;
  if (!type || view_.selected.empty() || copied_->params.empty()) return pasteParameters();
  const auto only = choose_parameters(*type, *copied_, &board_);
  if (only.empty()) return;
  board_.edit(tr("Paste parameters"),
              edit::paste_parameters(view_.material, catalogue(), *copied_, view_.selected, only));
}

void BoardCommands::foldSelected() {
  std::string instance;
  const auto next = edit::fold(view_.material, catalogue(), view_.selected, "Group", &instance);
  if (!next) return board_.say(tr("Not folded: %1").arg(qs(next.error().text())));
  board_.edit(tr("Fold into a group"), *next);
  board_.select({instance});
  renameSelected();
}

void BoardCommands::takeApartSelected() {
  const Node* n = view_.atHand();
  if (!n || !n->is_group()) return board_.say(tr("Select a group to take apart"));
  if (n->bolt) return board_.say(tr("A bolt stays one node: open it in Weave to change it"));
  std::vector<std::string> fresh;
  const Material next = edit::take_apart(view_.material, n->id, &fresh);
  board_.edit(tr("Take a group apart"), next);
  board_.select(fresh);
}

void BoardCommands::copyOfItsOwn() {
  const Node* n = view_.atHand();
  if (!n || !n->is_group()) return board_.say(tr("Select a group first"));
  if (n->bolt) return board_.say(tr("A bolt is the same wherever it is used"));
  board_.edit(tr("Make it a copy of its own"), edit::own_copy(view_.material, n->id));
}

void BoardCommands::lookInside() {
  const Node* n = view_.atHand();
  if (!n || !n->is_group()) return board_.say(tr("Select a group to look into"));
  if (n->bolt) return Q_EMIT board_.boltWanted(n->id);
  Q_EMIT board_.insideWanted(n->id);
}

void BoardCommands::renameSelected() {
  if (view_.selected.empty()) return;
  const TagPlace* t = view_.layout.tag(view_.selected.back());
  const Node* n = view_.material.node(view_.selected.back());
  if (!t || !n) return;
  const std::string id = n->id;
  board_.write(
      t->rect.adjusted(0, 4, 0, -4), qs(label_of(view_.material, catalogue(), *n)), [this, id](const QString& name) {
        const Node* now = view_.material.node(id);
        const Group* group =
            now && !now->bolt ? view_.material.group_of(*now) : nullptr;  // its name is the definition's
        board_.edit(tr("Rename"),
                    group ? edit::describe_group(view_.material, group->id, name.trimmed().toStdString(), group->help)
                          : edit::rename_node(view_.material, id, name.trimmed().toStdString()));
      });
}

void BoardCommands::writeNote() {
  const TagPlace* t = view_.selected.empty() ? nullptr : view_.layout.tag(view_.selected.back());
  if (!t) return board_.say(tr("Select the node to write a note beside"));
  const auto note = view_.material.notes_on.find(t->node);
  board_.write(QRectF(t->rect.x(), t->rect.bottom() + 4, std::max(t->rect.width(), 220.0), 24),
               note == view_.material.notes_on.end() ? QString() : qs(note->second),
               [this, id = t->node](const QString& text) {
                 board_.edit(tr("Write a note"), edit::set_note(view_.material, id, text.trimmed().toStdString()));
               });
}

// At the row of the node at hand: an emptied name ends the stage.
void BoardCommands::nameStage() {
  const Node* n = view_.atHand();
  const int row = n ? n->row : view_.cell.row;
  const auto at = std::find_if(view_.material.stages.begin(), view_.material.stages.end(),
                               [&](const Stage& s) { return s.row == row; });
  writeStage(row, at == view_.material.stages.end() ? QString() : qs(at->name));
}

void BoardCommands::writeStage(int row, const QString& text) {
  board_.write(QRectF(view_.scroll.x() + view_.width() - 190, view_.rowTop(row) - 11, 180, 22), text,
               [this, row](const QString& typed) {
                 board_.edit(tr("Name a stage"), edit::set_stage(view_.material, row, typed.trimmed().toStdString()));
               });
}

// By as many places as the pointer went. Dropped on a thread, a tag that nothing feeds yet goes into it.
void BoardCommands::moveTags(QPointF pressed, QPointF released) {
  const BoardLayout::Cell from = view_.layout.cellAt(pressed), to = view_.layout.cellAt(released);
  std::vector<edit::Placing> places;
  for (const std::string& id : view_.selected)
    if (const Node* n = view_.material.node(id)) {
      const bool across = n->lane == from.lane;
      places.push_back({id, across ? to.lane : n->lane, std::max(0, n->column + (across ? to.column - from.column : 0)),
                        std::max(0, n->row + to.row - from.row)});
    }
  if (places.empty()) return;
  Material next = edit::place_nodes(view_.material, places);
  if (const ThreadPlace* th = view_.selected.size() == 1 ? view_.threadAt(released) : nullptr; th && !th->toHem) {
    const auto [reader, peg] = split_output(th->to);
    const Thread* thread = view_.material.into(reader, peg);
    if (thread) next = edit::splice_into(std::move(next), catalogue(), *thread, view_.selected.front());
  }
  board_.edit(tr("Move"), next);
}

// Where the lane stands that x lies in.
void BoardCommands::dropLane(const std::string& lane, qreal x) {
  const auto& lanes = view_.layout.lanes();
  const auto own = std::find_if(lanes.begin(), lanes.end(), [&](const LanePlace& l) { return l.id == lane; });
  if (own == lanes.end()) return;
  const int by =
      static_cast<int>(std::min(view_.laneUnder(x), lanes.size() - 1)) - static_cast<int>(own - lanes.begin());
  if (by) board_.edit(tr("Move lane"), edit::move_lane(view_.material, lane, by));
}

}  // namespace loom::app
