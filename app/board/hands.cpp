// The pointer on the board: tags, threads, guides, lanes and the board itself moved, menus, and text written in place.
#include "app/board/board.h"

#include <QApplication>
#include <QContextMenuEvent>
#include <QHelpEvent>
#include <QLineEdit>
#include <QMenu>
#include <QMouseEvent>
#include <QToolTip>
#include <cmath>

#include "app/base/theme.h"
#include "app/board/add_line.h"
#include "core/graph/groups.h"
#include "core/graph/rework.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"

namespace loom::app {

void Board::mousePressEvent(QMouseEvent* e) {
  setFocus();
  dragFrom_ = dragAt_ = boardPoint(e->position());
  if (e->button() == Qt::MiddleButton) {
    drag_ = Drag::pan;
    dragFrom_ = e->position();
    return;
  }
  if (e->button() != Qt::LeftButton) return;
  if (mapArea().contains(e->position())) {
    drag_ = Drag::map;
    return mouseMoveEvent(e);
  }
  if (const std::string slot = slotAt(e->position()); !slot.empty()) {
    slotFocus_ = slot;
    if (const auto it = material_.hem.find(slot); it != material_.hem.end()) {
      const auto [node, peg] = split_output(it->second);
      selected_ = {node};
    }
    update();
    Q_EMIT selectionChanged();
    return;
  }
  slotFocus_.clear();
  if (cutting_ || e->modifiers() & Qt::AltModifier) {
    drag_ = Drag::cut;
    stroke_ = QPolygonF{dragFrom_};
    return;
  }
  if (const PegPlace* g = layout_.pegNear(dragFrom_, kPegReach)) {
    if (!g->input) {
      dragOutput_ = g->node + "." + g->peg;
      drag_ = Drag::thread;
    } else if (const Thread* t = material_.into(g->node, g->peg)) {  // the thread comes off, its end in the hand
      dragOutput_ = t->from_node + "." + t->from_peg;
      drag_ = Drag::thread;
      Q_EMIT editWanted(tr("Unplug %1").arg(qs(g->peg)), edit::disconnect(material_, g->node, g->peg));
    }
    update();
    return;
  }
  if (const auto guide = guideNear(dragFrom_)) {
    dragPeg_ = guide->peg, dragGuide_ = *guide->guide;
    drag_ = Drag::guide;
    return;
  }
  if (e->position().y() < BoardLayout::kLaneHead && !layout_.lanes().empty()) {
    dragLane_ = layout_.lanes()[std::min(laneUnder(dragFrom_.x()), layout_.lanes().size() - 1)].id;
    drag_ = Drag::lane;
    cell_ = layout_.cellAt(dragFrom_);
    return update();
  }
  if (const TagPlace* t = tagAt(dragFrom_)) {
    const std::string id = t->node;
    if (e->modifiers() & (Qt::ShiftModifier | Qt::ControlModifier)) {
      auto all = selected_;
      if (isSelected(id))
        std::erase(all, id);
      else
        all.push_back(id);
      select(all);
    } else if (!isSelected(id)) {
      select({id});
    } else {
      std::erase(selected_, id);
      selected_.push_back(id);
      select(selected_);
    }
    drag_ = Drag::tags;
    return;
  }
  cell_ = layout_.cellAt(dragFrom_);
  if (!(e->modifiers() & Qt::ShiftModifier)) select({});
  drag_ = Drag::band;
}

void Board::mouseMoveEvent(QMouseEvent* e) {
  if (drag_ == Drag::none) return;
  if (drag_ == Drag::pan) {
    scroll_ -= e->position() - dragFrom_;
    dragFrom_ = e->position();
    scrolled();
    return;
  }
  if (drag_ == Drag::map) {
    const QRectF area = mapArea();
    scroll_ = (e->position() - area.topLeft()) * (layout_.size().width() / std::max(area.width(), 1.0)) -
              QPointF(width() / 2.0, (height() - kHemHeight) / 2.0);
    return scrolled();
  }
  dragAt_ = boardPoint(e->position());
  if (drag_ == Drag::cut) stroke_ << dragAt_;
  QWidget::update();  // what is in the hand lies over the board, which stays as it is painted
}

void Board::mouseReleaseEvent(QMouseEvent* e) {
  const Drag was = drag_;
  drag_ = Drag::none;
  const QPointF at = boardPoint(e->position());
  if (was == Drag::cut) {
    cutAcross(std::exchange(stroke_, {}) << at);
  } else if (was == Drag::thread) {
    const std::string output = std::exchange(dragOutput_, {});
    connectPegs(output, e->position());
  } else if (was == Drag::band) {
    const QRectF band = QRectF(dragFrom_, at).normalized();
    if (band.width() > 4 || band.height() > 4) {
      std::vector<std::string> inside;
      for (const TagPlace& t : layout_.tags())
        if (!t.hidden && t.rect.intersects(band)) inside.push_back(t.node);
      select(inside);
    }
  } else if (was == Drag::tags && (at - dragFrom_).manhattanLength() > 8) {
    const BoardLayout::Cell from = layout_.cellAt(dragFrom_), to = layout_.cellAt(at);
    std::vector<edit::Placing> places;
    for (const std::string& id : selected_)
      if (const Node* n = material_.node(id))
        places.push_back({id, n->lane == from.lane ? to.lane : n->lane,
                          std::max(0, n->column + (n->lane == from.lane ? to.column - from.column : 0)),
                          std::max(0, n->row + to.row - from.row)});
    Material next = edit::place_nodes(material_, places);
    // Dropped on a thread, a tag that nothing feeds yet goes into it.
    if (const ThreadPlace* th = selected_.size() == 1 ? threadAt(at) : nullptr; th && !th->toHem) {
      const auto [reader, peg] = split_output(th->to);
      const Thread* thread = material_.into(reader, peg);
      if (thread) next = edit::splice_into(std::move(next), catalogue(), *thread, selected_.front());
    }
    if (!places.empty()) Q_EMIT editWanted(tr("Move"), next);
  } else if (was == Drag::guide && (at - dragFrom_).manhattanLength() > 3) {
    moveGuide({dragPeg_, dragGuide_}, layout_.guideAt(at));
  } else if (was == Drag::lane && std::abs(at.x() - dragFrom_.x()) > 12) {
    dropLane(at);
  }
  update();
}

// The lane that x lies in; beyond all: their number.
std::size_t Board::laneUnder(qreal x) const {
  std::size_t i = 0;
  while (i < layout_.lanes().size() && x >= layout_.lanes()[i].rect.right()) ++i;
  return i;
}

void Board::dropLane(QPointF at) {
  const auto& lanes = layout_.lanes();
  const auto own = std::find_if(lanes.begin(), lanes.end(), [&](const LanePlace& l) { return l.id == dragLane_; });
  if (own == lanes.end()) return;
  const int by =
      static_cast<int>(std::min(laneUnder(at.x()), lanes.size() - 1)) - static_cast<int>(own - lanes.begin());
  if (by) Q_EMIT editWanted(tr("Move lane"), edit::move_lane(material_, dragLane_, by));
}

// Every thread that the stroke crosses is cut, in one step.
void Board::cutAcross(const QPolygonF& stroke) {
  QPainterPath line;
  line.addPolygon(stroke);
  QPainterPathStroker wide;
  wide.setWidth(1);
  const QPainterPath area = wide.createStroke(line);
  Material next = material_;
  int cut = 0;
  for (const ThreadPlace& t : layout_.threads()) {
    if (!wide.createStroke(t.path).intersects(area)) continue;
    const auto [node, peg] = split_output(t.to);
    next = t.toHem ? edit::set_hem(std::move(next), t.to, "") : edit::disconnect(std::move(next), node, peg);
    ++cut;
  }
  if (cut) Q_EMIT editWanted(tr("Cut %n threads", nullptr, cut), next);
}

void Board::connectPegs(const std::string& output, QPointF widget) {
  const auto [node, peg] = split_output(output);
  if (const std::string slot = slotAt(widget); !slot.empty()) return hemTo(output, slot);
  const PegPlace* g = layout_.pegNear(boardPoint(widget), 18);
  if (g && g->input) return connectTo(output, *g);
  if (const TagPlace* t = tagAt(boardPoint(widget))) {  // on the tag itself: its first free peg that fits
    for (const PegPlace& in : t->inputs)
      if (!in.connected && refusal(material_, catalogue(), {node, peg, in.node, in.peg}).empty())
        return connectTo(output, in);
    return;
  }
  if ((boardPoint(widget) - dragFrom_).manhattanLength() < 12) return;
  cell_ = layout_.cellAt(boardPoint(widget));
  selected_.clear();
  addLine_->openAt(widget.toPoint(), output);
}

void Board::hemTo(const std::string& output, std::string slot) {
  const auto [node, peg] = split_output(output);
  if (slot == kNewSlot) {
    slot = peg;
    for (int k = 2; material_.hem.count(slot); ++k) slot = peg + "_" + std::to_string(k);
  }
  const Kind kind = output_kind(material_, catalogue(), node, peg);
  if (!material_.inside && slot_kind(slot) != Kind::any && !converts(kind, slot_kind(slot)))
    return Q_EMIT message(tr("%1 takes a %2, not a %3")
                              .arg(qs(slot), QString::fromUtf8(kind_name(slot_kind(slot)).data()),
                                   QString::fromUtf8(kind_name(kind).data())));
  Q_EMIT editWanted(tr("Hem %1").arg(qs(slot)), edit::set_hem(material_, slot, output));
}

void Board::connectTo(const std::string& from, const PegPlace& to) {
  const auto [node, peg] = split_output(from);
  const Thread thread{node, peg, to.node, to.peg};
  if (const std::string why = refusal(material_, catalogue(), thread); !why.empty())
    return Q_EMIT message(tr("Not connected: %1").arg(qs(why)));
  Q_EMIT editWanted(tr("Connect %1").arg(qs(to.peg)), edit::connect(material_, thread));
}

void Board::mouseDoubleClickEvent(QMouseEvent* e) {
  const QPointF at = boardPoint(e->position());
  if (e->position().y() < BoardLayout::kLaneHead) {
    for (const LanePlace& l : layout_.lanes())
      if (at.x() >= l.rect.left() && at.x() < l.rect.right()) {
        const Lane* lane = material_.lane(l.id);
        const std::string id = l.id;
        if (l.collapsed) return Q_EMIT editWanted(tr("Open lane"), edit::collapse_lane(material_, id, false));
        return editText(QRectF(l.rect.x() + 10, scroll_.y() + 3, l.rect.width() - 20, 24), qs(lane->name),
                        [this, id](const QString& name) {
                          Q_EMIT editWanted(tr("Rename lane"), edit::rename_lane(material_, id, name.toStdString()));
                        });
      }
  } else if (const TagPlace* t = tagAt(at)) {
    const Node* n = material_.node(t->node);
    if (n && n->is_group())
      lookInside();
    else
      renameSelected();
  } else if (!slotAt(e->position()).empty()) {
    return;
  } else if (guideNear(at)) {
    return;
  } else if (const ThreadPlace* th = threadAt(at); th && !th->toHem && !th->alias) {
    addGuide(*th, at);
  } else {
    cell_ = layout_.cellAt(at);
    addLine_->openAt(e->position().toPoint(), {});
  }
}

void Board::editText(QRectF rect, const QString& text, const std::function<void(const QString&)>& done) {
  auto* line = new QLineEdit(text, this);
  line->setGeometry(rect.translated(-scroll_).toRect());
  line->setAutoFillBackground(true);
  line->setAccessibleName(tr("Name"));
  line->selectAll();
  line->show();
  line->setFocus();
  connect(line, &QLineEdit::editingFinished, this, [line, text, done, this] {
    if (!line->isVisible()) return;
    line->hide();
    line->deleteLater();
    if (line->text() != text) done(line->text());
    setFocus();
  });
}

void Board::renameSelected() {
  if (selected_.empty()) return;
  const TagPlace* t = layout_.tag(selected_.back());
  const Node* n = material_.node(selected_.back());
  if (!t || !n) return;
  const std::string id = n->id;
  editText(t->rect.adjusted(0, 4, 0, -4), qs(label_of(material_, catalogue(), *n)), [this, id](const QString& name) {
    const Node* now = material_.node(id);
    const Group* group = now ? material_.group_of(*now) : nullptr;  // its name is the definition's
    Q_EMIT editWanted(tr("Rename"),
                      group ? edit::describe_group(material_, group->id, name.trimmed().toStdString(), group->help)
                            : edit::rename_node(material_, id, name.trimmed().toStdString()));
  });
}

void Board::wheelEvent(QWheelEvent* e) {
  if (e->modifiers() & Qt::ControlModifier) {
    const QPointF under = boardPoint(e->position()) / zoom_;
    setZoom(zoom_ * std::pow(1.0015, e->angleDelta().y()));
    scroll_ = under * zoom_ - e->position();
    scrolled();
  } else {
    scroll_ -= QPointF(e->angleDelta().x(), e->angleDelta().y()) * 0.5;
    if (e->modifiers() & Qt::ShiftModifier) scroll_ -= QPointF(e->angleDelta().y() * 0.5, -e->angleDelta().y() * 0.5);
    scrolled();
  }
  e->accept();
}

bool Board::event(QEvent* e) {
  switch (e->type()) {  // Qt paints anew by itself after these
    case QEvent::PaletteChange:
    case QEvent::StyleChange:
    case QEvent::FontChange:
    case QEvent::FocusIn:
    case QEvent::FocusOut:
    case QEvent::EnabledChange:
      stale_ = true;
      break;
    default:
      break;
  }
  if (e->type() == QEvent::ShortcutOverride &&
      (awaited_ || keyThread_ ||
       keyGuide_)) {  // the key belongs to the mark, the thread or the guide, not to an action
    e->accept();
    return true;
  }
  if (e->type() == QEvent::ToolTip) {
    const auto* help = static_cast<QHelpEvent*>(e);
    const QPointF at = boardPoint(help->pos());
    if (const PegPlace* g = layout_.pegNear(at, kPegReach))
      QToolTip::showText(help->globalPos(), qs(g->peg).replace(QLatin1Char('_'), QLatin1Char(' ')) +
                                                QStringLiteral(", ") + QString::fromUtf8(kind_name(g->kind).data()));
    else if (const TagPlace* t = tagAt(at)) {
      const auto type = type_of(material_, catalogue(), *material_.node(t->node));
      const auto note = material_.notes_on.find(t->node);
      QToolTip::showText(
          help->globalPos(),
          (type ? qs(type->help) : QString()) +
              (note == material_.notes_on.end() ? QString() : QStringLiteral("\n\n") + qs(note->second)));
    } else
      QToolTip::hideText();
    return true;
  }
  return QWidget::event(e);
}

void Board::contextMenuEvent(QContextMenuEvent* e) {
  const QPointF at = boardPoint(e->pos());
  QMenu menu(this);
  if (const std::string slot = slotAt(e->pos()); !slot.empty()) {
    if (material_.hem.count(slot))
      menu.addAction(tr("Unplug"), this, [this, slot] {
        Q_EMIT editWanted(tr("Unplug %1").arg(qs(slot)), edit::set_hem(material_, slot, ""));
      });
  } else if (e->pos().y() < BoardLayout::kLaneHead) {
    for (const LanePlace& l : layout_.lanes())
      if (at.x() >= l.rect.left() && at.x() < l.rect.right()) menuOfLane(menu, l.id);
    menu.addAction(tr("Add a lane"), this,
                   [this] { Q_EMIT editWanted(tr("Add lane"), edit::add_lane(material_, "New lane")); });
  } else if (const TagPlace* t = tagAt(at)) {
    if (!isSelected(t->node)) select({t->node});
    menuOfTag(menu, t->node);
  } else if (const ThreadPlace* th = threadAt(at)) {
    const std::string to = th->to;
    if (th->toHem)
      menu.addAction(tr("Unplug"), this,
                     [this, to] { Q_EMIT editWanted(tr("Unplug %1").arg(qs(to)), edit::set_hem(material_, to, "")); });
    else {
      const auto [n, peg] = split_output(to);
      menu.addAction(tr("Cut this thread"), this, [this, n = n, peg = peg] {
        Q_EMIT editWanted(tr("Cut a thread"), edit::disconnect(material_, n, peg));
      });
      menu.addAction(th->alias ? tr("Show it as a line") : tr("Show it by its name"), this,
                     [this, n = n, peg = peg, now = th->alias] {
                       Q_EMIT editWanted(tr("Alias"), edit::set_alias(material_, n, peg, !now));
                     });
      if (!th->alias)
        menu.addAction(tr("Lead it through here\tdouble click"), this, [this, led = *th, at] { addGuide(led, at); });
      if (const auto guide = guideNear(at))
        menu.addAction(tr("Take this guide away"), this, [this, guide] { removeGuide(*guide); });
      if (!th->guides.empty())
        menu.addAction(tr("Let it find its way"), this, [this, to] {
          Q_EMIT editWanted(tr("Let a thread find its way"), edit::set_guides(material_, to, {}));
        });
    }
  } else {
    cell_ = layout_.cellAt(at);
    menu.addAction(tr("Add a node\t/"), this, [this, p = e->pos()] { addLine_->openAt(p, {}); });
    menu.addAction(tr("Paste\tCtrl+V"), this, &Board::pasteHere);
    menuOfStages(menu, cell_.row);
  }
  if (!menu.isEmpty()) menu.exec(e->globalPos());
}

void Board::menuOfLane(QMenu& menu, const std::string& lane) {
  const bool closed = material_.lane(lane)->collapsed;
  menu.addAction(closed ? tr("Open the lane") : tr("Collapse the lane"), this, [=, this] {
    Q_EMIT editWanted(closed ? tr("Open lane") : tr("Collapse lane"), edit::collapse_lane(material_, lane, !closed));
  });
  menu.addAction(tr("Move it left"), this,
                 [=, this] { Q_EMIT editWanted(tr("Move lane"), edit::move_lane(material_, lane, -1)); })
      ->setEnabled(material_.lanes.front().id != lane);
  menu.addAction(tr("Move it right"), this,
                 [=, this] { Q_EMIT editWanted(tr("Move lane"), edit::move_lane(material_, lane, 1)); })
      ->setEnabled(material_.lanes.back().id != lane);
  QMenu* tints = menu.addMenu(tr("Tint"));
  for (int i = 0; i < kLaneTints; ++i) {
    QPixmap swatch(28, 14);
    swatch.fill(laneTint(i));
    tints->addAction(QIcon(swatch), tr("Tint %1").arg(i + 1), this,
                     [=, this] { Q_EMIT editWanted(tr("Tint lane"), edit::tint_lane(material_, lane, i)); });
  }
}

void Board::menuOfTag(QMenu& menu, const std::string& node) {
  menu.addAction(tr("Rename\tF2"), this, &Board::renameSelected);
  menu.addAction(material_.notes_on.count(node) ? tr("Change the note\tShift+N") : tr("Write a note\tShift+N"), this,
                 &Board::writeNote);
  menu.addAction(tr("Bypass\tB"), this, &Board::bypassSelected);
  menu.addAction(tr("Duplicate\tCtrl+D"), this, [this] { duplicateSelected(false); });
  menu.addAction(tr("Duplicate with inputs"), this, [this] { duplicateSelected(true); });
  menu.addAction(tr("Unplug its inputs"), this, &Board::disconnectSelected);
  menu.addAction(tr("Replace\tR"), this, &Board::replaceSelected);
  menu.addAction(tr("Splice in after it\tI"), this, &Board::spliceIn);
  menu.addAction(tr("Lift out\tCtrl+Del"), this, &Board::liftOutSelected);
  menu.addAction(tr("Swap inputs\tS"), this, &Board::swapInputs);
  menu.addSeparator();
  menu.addAction(tr("Fold into a group\tCtrl+G"), this, &Board::foldSelected);
  if (const Node* n = material_.node(node); n && n->is_group()) {
    menu.addAction(tr("Look inside\tAlt+Down"), this, &Board::lookInside);
    menu.addAction(tr("Take the group apart\tCtrl+Shift+G"), this, &Board::takeApartSelected);
    menu.addAction(tr("Make it a copy of its own"), this, &Board::copyOfItsOwn)
        ->setEnabled(edit::uses_of(material_, n->group) > 1);
  }
  // Who reads it, aliases too: a choice flies there.
  QMenu* readers = menu.addMenu(tr("Read by"));
  for (const Thread& t : material_.threads)
    if (t.from_node == node)
      readers->addAction(qs(label_of(material_, catalogue(), *material_.node(t.to_node))) + QStringLiteral(", ") +
                             qs(t.to_peg).replace(QLatin1Char('_'), QLatin1Char(' ')),
                         this, [this, to = t.to_node] {
                           select({to});
                           fly(to);
                         });
  readers->setEnabled(!readers->isEmpty());
  menu.addSeparator();
  menu.addAction(tr("Delete\tDel"), this, &Board::removeSelected);
}

void Board::menuOfStages(QMenu& menu, int row) {
  const auto here =
      std::find_if(material_.stages.rbegin(), material_.stages.rend(), [&](const Stage& s) { return s.row <= row; });
  menu.addAction(tr("Begin a stage here …"), this, [this, row] { writeStage(row, {}); });
  if (here == material_.stages.rend()) return;
  menu.addAction(tr("Rename the stage %1 …").arg(qs(here->name)), this,
                 [this, s = *here] { writeStage(s.row, qs(s.name)); });
  menu.addAction(tr("End the stage %1").arg(qs(here->name)), this,
                 [this, at = here->row] { Q_EMIT editWanted(tr("End a stage"), edit::set_stage(material_, at, "")); });
}

void Board::writeStage(int row, const QString& text) {
  editText(QRectF(scroll_.x() + width() - 190, rowTop(row) - 11, 180, 22), text, [this, row](const QString& typed) {
    Q_EMIT editWanted(tr("Name a stage"), edit::set_stage(material_, row, typed.trimmed().toStdString()));
  });
}

// At the row of the node at hand: an emptied name ends the stage.
void Board::nameStage() {
  const Node* n = selected_.empty() ? nullptr : material_.node(selected_.back());
  const int row = n ? n->row : cell_.row;
  const auto at =
      std::find_if(material_.stages.begin(), material_.stages.end(), [&](const Stage& s) { return s.row == row; });
  writeStage(row, at == material_.stages.end() ? QString() : qs(at->name));
}

}  // namespace loom::app
