// Keys and commands on the board.
#include "app/board/board.h"

#include <QApplication>
#include <QClipboard>
#include <QKeyEvent>

#include "app/base/ranking.h"
#include "app/board/add_line.h"
#include "app/board/choose_parameters.h"
#include "core/graph/groups.h"
#include "core/graph/json.h"
#include "core/graph/rework.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"

namespace loom::app {

void Board::foldSelected() {
  std::string instance;
  const auto next = edit::fold(material_, catalogue(), selected_, "Group", &instance);
  if (!next) return Q_EMIT message(tr("Not folded: %1").arg(qs(next.error().text())));
  Q_EMIT editWanted(tr("Fold into a group"), *next);
  select({instance});
  renameSelected();
}

void Board::takeApartSelected() {
  const Node* n = selected_.empty() ? nullptr : material_.node(selected_.back());
  if (!n || !n->is_group()) return Q_EMIT message(tr("Select a group to take apart"));
  std::vector<std::string> fresh;
  const Material next = edit::take_apart(material_, n->id, &fresh);
  Q_EMIT editWanted(tr("Take a group apart"), next);
  select(fresh);
}

void Board::copyOfItsOwn() {
  const Node* n = selected_.empty() ? nullptr : material_.node(selected_.back());
  if (!n || !n->is_group()) return Q_EMIT message(tr("Select a group first"));
  Q_EMIT editWanted(tr("Make it a copy of its own"), edit::own_copy(material_, n->id));
}

void Board::lookInside() {
  const Node* n = selected_.empty() ? nullptr : material_.node(selected_.back());
  if (!n || !n->is_group()) return Q_EMIT message(tr("Select a group to look into"));
  Q_EMIT insideWanted(n->id);
}

void Board::writeNote() {
  const TagPlace* t = selected_.empty() ? nullptr : layout_.tag(selected_.back());
  if (!t) return Q_EMIT message(tr("Select the node to write a note beside"));
  const auto note = material_.notes_on.find(t->node);
  editText(QRectF(t->rect.x(), t->rect.bottom() + 4, std::max(t->rect.width(), 220.0), 24),
           note == material_.notes_on.end() ? QString() : qs(note->second), [this, id = t->node](const QString& text) {
             Q_EMIT editWanted(tr("Write a note"), edit::set_note(material_, id, text.trimmed().toStdString()));
           });
}

void Board::toggleAliases() {
  Material next = material_;
  bool all = true, any = false;
  for (const Thread& t : material_.threads)
    if (isSelected(t.to_node)) all &= t.alias, any = true;
  if (!any) return Q_EMIT message(tr("Select a node with threads to show by their names"));
  for (const Thread& t : material_.threads)
    if (isSelected(t.to_node)) next = edit::set_alias(std::move(next), t.to_node, t.to_peg, !all);
  Q_EMIT editWanted(all ? tr("Show threads as lines") : tr("Show threads by name"), next);
}

void Board::awaitMark(bool set) {
  if (set && focusedOutput().empty()) return Q_EMIT message(tr("Select the node to mark first"));
  awaited_ = set;
  Q_EMIT message(set ? tr("Mark: type a letter") : tr("To which mark? Type its letter"));
}

void Board::keyPressEvent(QKeyEvent* e) {
  const bool control = e->modifiers() & Qt::ControlModifier;
  if (keyThread_) return keyOfThread(e);
  if (keyGuide_) return keyOfGuide(e);
  if (awaited_) {
    const QString letter = e->text().toLower();
    const bool set = *std::exchange(awaited_, std::nullopt);
    if (letter.size() == 1 && letter[0].isLetterOrNumber())
      Q_EMIT markWanted(letter, set);
    else
      Q_EMIT message(QString());
    return;
  }
  switch (e->key()) {
    case Qt::Key_Left:
      return control ? nudge(-1, 0) : moveFocus(-1, 0);
    case Qt::Key_Right:
      return control ? nudge(1, 0) : moveFocus(1, 0);
    case Qt::Key_Up:
      return control ? nudge(0, -1) : moveFocus(0, -1);
    case Qt::Key_Down:
      return control ? nudge(0, 1) : moveFocus(0, 1);
    case Qt::Key_Escape:
      if (cutting_) return cutThreads(false);
      if (!followed_.empty()) return Q_EMIT followEnded();
      return select({});
    default:
      break;
  }
  // A number is meant for the node at hand: nothing else on the board goes by figures.
  const QString typed = e->text();
  const bool begins =
      typed.size() == 1 && (typed[0].isDigit() || typed[0] == QLatin1Char('.') || typed[0] == QLatin1Char('-'));
  if (begins && !selected_.empty() && !(e->modifiers() & (Qt::ControlModifier | Qt::AltModifier)))
    return Q_EMIT numberTyped(typed);
  QWidget::keyPressEvent(e);
}

void Board::cutThreads(bool on) {
  cutting_ = on;
  if (on)
    setCursor(Qt::CrossCursor);
  else
    unsetCursor();
  Q_EMIT message(on ? tr("Cutting: stroke across the threads. Escape ends it") : QString());
}

void Board::moveFocus(int du, int dv) {
  const TagPlace* from = selected_.empty() ? nullptr : layout_.tag(selected_.back());
  const QPointF at = from ? from->rect.center() : layout_.cellRect(cell_).center();
  const TagPlace* best = nullptr;
  qreal least = 1e18;
  for (const TagPlace& t : layout_.tags()) {
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
  select({id});
  if (!QRectF(scroll_, QSizeF(width(), height() - kHemHeight)).contains(r)) fly(id);
}

void Board::nudge(int du, int dv) {
  std::vector<edit::Placing> places;
  for (const std::string& id : selected_) {
    const Node* n = material_.node(id);
    if (!n) continue;
    edit::Placing p{id, n->lane, n->column + du, std::max(0, n->row + dv)};
    int lane = 0;
    for (std::size_t i = 0; i < material_.lanes.size(); ++i)
      if (material_.lanes[i].id == n->lane) lane = static_cast<int>(i);
    int columns = 1;
    for (const NodePtr& other : material_.nodes)
      if (other->lane == n->lane && !isSelected(other->id)) columns = std::max(columns, other->column + 1);
    if (p.column < 0 || p.column >= columns + (du > 0 ? 1 : 0)) {  // over the lane's border
      const int to = std::clamp(lane + du, 0, static_cast<int>(material_.lanes.size()) - 1);
      if (to != lane)
        p.lane = material_.lanes[static_cast<std::size_t>(to)].id, p.column = 0;
      else
        p.column = std::max(0, p.column);
    }
    places.push_back(p);
  }
  if (!places.empty()) Q_EMIT editWanted(tr("Move"), edit::place_nodes(material_, places));
}

void Board::openAddLine(int rack) {
  const QRectF r = layout_.cellRect(focus()).translated(-scroll_);
  addLine_->openAt(QPoint(static_cast<int>(r.x()), static_cast<int>(r.y()) + 4), focusedOutput(), rack);
}

void Board::spliceIn() {
  const std::string output = focusedOutput();
  if (output.empty()) return Q_EMIT message(tr("Select the node to splice in after"));
  const QRectF r = layout_.cellRect(focus()).translated(-scroll_);
  addLine_->openAt(QPoint(static_cast<int>(r.x()), static_cast<int>(r.y()) + 4), output, -1, AddLine::Way::splice);
}

void Board::replaceSelected() {
  if (selected_.empty()) return Q_EMIT message(tr("Select the node to replace"));
  const QRectF r = layout_.tag(selected_.back())->rect.translated(-scroll_);
  addLine_->openAt(QPoint(static_cast<int>(r.x()), static_cast<int>(r.bottom()) + 4), outputOf(selected_.back()), -1,
                   AddLine::Way::replace);
}

void Board::liftOutSelected() {
  if (selected_.empty()) return;
  Material next = material_;
  for (const std::string& id : selected_) next = edit::lift_out(std::move(next), catalogue(), id);
  selected_.clear();
  Q_EMIT editWanted(tr("Lift out"), next);
}

void Board::swapInputs() {
  const auto next = selected_.empty() ? std::nullopt : edit::swap_inputs(material_, catalogue(), selected_.back());
  if (!next) return Q_EMIT message(tr("Select a node with two inputs of a kind"));
  Q_EMIT editWanted(tr("Swap inputs"), *next);
}

std::string Board::outputOf(const std::string& node) const {
  const TagPlace* t = layout_.tag(node);
  if (!t || t->outputs.empty()) return {};
  const std::size_t i = outputOf_.count(node) ? static_cast<std::size_t>(outputOf_.at(node)) : 0;
  return node + "." + t->outputs[i % t->outputs.size()].peg;
}

void Board::blendSelected() {
  if (selected_.size() < 2) return Q_EMIT message(tr("Select two nodes to blend"));
  const std::string lower = outputOf(selected_[selected_.size() - 2]), upper = outputOf(selected_.back());
  if (lower.empty() || upper.empty()) return;
  std::string blend;
  const Material next = edit::blend_two(material_, catalogue(), lower, upper, &blend);
  if (const auto faults = validate(next, catalogue()); !faults.empty())
    return Q_EMIT message(tr("Not blended: %1").arg(qs(faults.front().text())));
  Q_EMIT editWanted(tr("Blend two"), next);
  select({blend});
}

void Board::stepMode(int by) {
  const Material next = edit::step_choice(material_, catalogue(), selected_, "mode", by);
  if (selected_.empty() || write_material(next) == write_material(material_))
    return Q_EMIT message(tr("Select a node with a mode, such as Blend"));
  Q_EMIT editWanted(tr("Step the mode"), next);
  const auto& mode = next.node(selected_.back())->params;
  if (const auto it = mode.find("mode"); it != mode.end())
    Q_EMIT message(
        tr("Mode: %1").arg(qs(std::get<std::string>(it->second)).replace(QLatin1Char('_'), QLatin1Char(' '))));
}

void Board::selectUpstream() {
  auto all = edit::upstream(material_, selected_);
  all.insert(all.end(), selected_.begin(), selected_.end());
  select(all);
}

void Board::selectDownstream() {
  auto all = edit::downstream(material_, selected_);
  all.insert(all.end(), selected_.begin(), selected_.end());
  select(all);
}

void Board::copyParameters() {
  const Node* n = selected_.empty() ? nullptr : material_.node(selected_.back());
  if (!n) return;
  copied_ = *n;
  Q_EMIT message(tr("Parameters of %1 copied").arg(qs(label_of(material_, catalogue(), *n))));
}

void Board::pasteChosenParameters() {
  const auto type = copied_ ? type_of(material_, catalogue(), *copied_) : nullptr;
  if (!type || selected_.empty() || copied_->params.empty()) return pasteParameters();
  ChooseParameters choice(*type, *copied_, this);
  if (choice.exec() != QDialog::Accepted) return;
  const auto only = choice.chosen();
  if (only.empty()) return Q_EMIT message(tr("No parameter was ticked"));
  Q_EMIT editWanted(tr("Paste parameters"), edit::paste_parameters(material_, catalogue(), *copied_, selected_, only));
}

void Board::pasteParameters() {
  if (!copied_ || selected_.empty())
    return Q_EMIT message(tr("Copy the parameters of a node first, then select others"));
  Q_EMIT editWanted(tr("Paste parameters"), edit::paste_parameters(material_, catalogue(), *copied_, selected_));
}

std::vector<Board::ThreadEnd> Board::threadEnds() const {
  std::vector<ThreadEnd> ends;
  const auto [node, peg] = split_output(focusedOutput());
  const auto offer = [&](ThreadEnd end) {
    if (rank(end.name, {}, keyTyped_) >= 0) ends.push_back(std::move(end));
  };
  std::vector<const PegPlace*> pegs;
  for (const TagPlace& t : layout_.tags())
    for (const PegPlace& g : t.inputs)
      if (!t.hidden && refusal(material_, catalogue(), {node, peg, g.node, g.peg}).empty()) pegs.push_back(&g);
  std::stable_sort(pegs.begin(), pegs.end(), [](const PegPlace* a, const PegPlace* b) {
    return std::pair(a->at.y(), a->at.x()) < std::pair(b->at.y(), b->at.x());
  });
  for (const PegPlace* g : pegs) {
    const Node& n = *material_.node(g->node);
    QString label = qs(g->peg);
    for (const Peg& p : inputs_of(material_, catalogue(), n))
      if (p.id == g->peg) label = qs(p.label);
    offer({g, {}, qs(label_of(material_, catalogue(), n)) + QStringLiteral(", ") + label});
  }
  const Kind kind = output_kind(material_, catalogue(), node, peg);
  for (const SlotView& s : hemSlots())
    if (material_.inside || slot_kind(s.id) == Kind::any || converts(kind, slot_kind(s.id)))
      offer({nullptr, s.id, tr("hem, ") + s.label});
  return ends;
}

void Board::chooseEnd(int by) {
  const auto ends = threadEnds();
  if (!ends.empty())
    keyEnd_ = (keyEnd_ + ends.size() + static_cast<std::size_t>(by + static_cast<int>(ends.size()))) % ends.size();
  Q_EMIT message(ends.empty() ? tr("Nothing that fits is called '%1'").arg(keyTyped_)
                              : tr("To %1 (%2 of %3); type to narrow, Enter connects")
                                    .arg(ends[keyEnd_].name)
                                    .arg(keyEnd_ + 1)
                                    .arg(ends.size()));
  update();
}

void Board::startThread() {
  if (focusedOutput().empty()) return Q_EMIT message(tr("Select a node first"));
  keyThread_ = true;
  keyEnd_ = 0;
  keyTyped_.clear();
  chooseEnd(0);
}

// Arrows step through the ends, letters narrow them, Enter connects.
void Board::keyOfThread(QKeyEvent* e) {
  switch (e->key()) {
    case Qt::Key_Escape:
      keyThread_ = false;
      Q_EMIT message({});
      return update();
    case Qt::Key_Right:
    case Qt::Key_Down:
      return chooseEnd(1);
    case Qt::Key_Left:
    case Qt::Key_Up:
      return chooseEnd(-1);
    case Qt::Key_Return:
    case Qt::Key_Enter:
      return finishThread();
    case Qt::Key_Backspace:
      keyTyped_.chop(1);
      break;
    default:
      if (e->text().isEmpty() || !e->text()[0].isPrint()) return;
      keyTyped_ += e->text();
  }
  keyEnd_ = 0;
  chooseEnd(0);
}

void Board::finishThread() {
  const auto ends = threadEnds();
  keyThread_ = false;
  keyTyped_.clear();
  update();
  if (ends.empty()) return;
  const ThreadEnd& end = ends[keyEnd_ % ends.size()];
  Q_EMIT message(QString());  // what it asked for is answered
  if (end.peg)
    connectTo(focusedOutput(), *end.peg);
  else
    hemTo(focusedOutput(), end.slot);
}

void Board::weaveSelected() {
  std::vector<std::string> order = selected_;
  if (order.size() < 2) return Q_EMIT message(tr("Select two or more nodes to weave together"));
  std::stable_sort(order.begin(), order.end(), [&](const std::string& a, const std::string& b) {
    return layout_.tag(a)->rect.y() < layout_.tag(b)->rect.y();
  });
  Material next = material_;
  int laid = 0;
  // Every upper node feeds the first free peg that takes it, from the next lower one on.
  for (std::size_t i = 0; i + 1 < order.size(); ++i) {
    const TagPlace* from = layout_.tag(order[i]);
    if (from->outputs.empty()) continue;
    const std::string peg =
        from->outputs[static_cast<std::size_t>(outputOf_.count(order[i]) ? outputOf_.at(order[i]) : 0) %
                      from->outputs.size()]
            .peg;
    bool done = false;
    for (std::size_t j = i + 1; j < order.size() && !done; ++j)
      for (const PegPlace& in : layout_.tag(order[j])->inputs) {
        const Thread t{order[i], peg, in.node, in.peg};
        if (!edit::feeds_data(in.peg) || next.into(in.node, in.peg) || !refusal(next, catalogue(), t).empty()) continue;
        next = edit::connect(std::move(next), t);
        ++laid;
        done = true;
        break;
      }
  }
  if (laid == 0) return Q_EMIT message(tr("No free peg takes what the upper nodes give"));
  Q_EMIT editWanted(tr("Weave together"), next);
}

void Board::removeSelected() {
  if (selected_.empty()) return;
  const auto gone = selected_;
  selected_.clear();
  Q_EMIT editWanted(gone.size() == 1 ? tr("Delete") : tr("Delete %1 nodes").arg(gone.size()),
                    edit::remove_nodes(material_, gone));
}

void Board::disconnectSelected() {
  Material next = material_;
  for (const std::string& id : selected_)
    if (const Node* n = material_.node(id))
      for (const Peg& peg : inputs_of(material_, catalogue(), *n)) next = edit::disconnect(std::move(next), id, peg.id);
  Q_EMIT editWanted(tr("Unplug inputs"), next);
}

void Board::duplicateSelected(bool withInputs) {
  if (selected_.empty()) return;
  std::vector<std::string> fresh;
  const Material next = edit::duplicate(material_, selected_, withInputs, &fresh);
  Q_EMIT editWanted(tr("Duplicate"), next);
  select(fresh);
}

void Board::copySelected() {
  if (!selected_.empty()) QApplication::clipboard()->setText(qs(write_snippet(material_, selected_)));
}

void Board::pasteHere() {
  const auto snippet = read_snippet(QApplication::clipboard()->text().toStdString());
  if (!snippet) return Q_EMIT message(qs(snippet.error().text()));
  const auto at = focus();
  std::vector<std::string> fresh;
  const Material next = edit::paste(material_, *snippet, at.lane, at.column, at.row, &fresh);
  if (const auto faults = validate(next, catalogue()); !faults.empty())
    return Q_EMIT message(tr("Not pasted: %1").arg(qs(faults.front().text())));
  Q_EMIT editWanted(tr("Paste"), next);
  select(fresh);
}

void Board::bypassSelected() {
  Material next = material_;
  for (const std::string& id : selected_)
    if (const Node* n = next.node(id); n && n->type != kComesIn)
      next = edit::set_bypass(std::move(next), id, !n->bypass);
  if (!selected_.empty()) Q_EMIT editWanted(tr("Bypass"), next);
}

}  // namespace loom::app
