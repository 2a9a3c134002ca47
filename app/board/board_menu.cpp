#include "app/board/board_menu.h"

#include <QMenu>

#include "app/base/elsewhere.h"
#include "app/base/theme.h"
#include "app/board/add_line.h"
#include "app/board/board.h"
#include "core/bolt/bolt_node.h"
#include "core/graph/groups.h"
#include "core/graph/rework.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"

namespace loom::app {

BoardMenu::BoardMenu(Board& board) : board_(board), commands_(board.commands()), view_(board.view()) {}

void BoardMenu::menuOfLane(QMenu& menu, const std::string& lane) {
  const bool closed = view_.material.lane(lane)->collapsed;
  menu.addAction(closed ? tr("Open the lane") : tr("Collapse the lane"), &board_, [=, this] {
    board_.edit(closed ? tr("Open lane") : tr("Collapse lane"), edit::collapse_lane(view_.material, lane, !closed));
  });
  menu.addAction(tr("Move it left"), &board_,
                 [=, this] { board_.edit(tr("Move lane"), edit::move_lane(view_.material, lane, -1)); })
      ->setEnabled(view_.material.lanes.front().id != lane);
  menu.addAction(tr("Move it right"), &board_,
                 [=, this] { board_.edit(tr("Move lane"), edit::move_lane(view_.material, lane, 1)); })
      ->setEnabled(view_.material.lanes.back().id != lane);
  QMenu* tints = menu.addMenu(tr("Tint"));
  for (int i = 0; i < kLaneTints; ++i) {
    QPixmap swatch(28, 14);
    swatch.fill(laneTint(i));
    tints->addAction(QIcon(swatch), tr("Tint %1").arg(i + 1), &board_,
                     [=, this] { board_.edit(tr("Tint lane"), edit::tint_lane(view_.material, lane, i)); });
  }
}

void BoardMenu::menuOfTag(QMenu& menu, const std::string& node) {
  menu.addAction(tr("Rename\tF2"), &board_, [this] { commands_.renameSelected(); });
  menu.addAction(view_.material.notes_on.count(node) ? tr("Change the note\tShift+N") : tr("Write a note\tShift+N"),
                 &board_, [this] { commands_.writeNote(); });
  menu.addAction(tr("Bypass\tB"), &board_, [this] { commands_.bypassSelected(); });
  menu.addAction(tr("Duplicate\tCtrl+D"), &board_, [this] { commands_.duplicateSelected(false); });
  menu.addAction(tr("Duplicate with inputs"), &board_, [this] { commands_.duplicateSelected(true); });
  menu.addAction(tr("Unplug its inputs"), &board_, [this] { commands_.disconnectSelected(); });
  menu.addAction(tr("Replace\tR"), &board_, [this] { commands_.replaceSelected(); });
  menu.addAction(tr("Splice in after it\tI"), &board_, [this] { commands_.spliceIn(); });
  menu.addAction(tr("Lift out\tCtrl+Del"), &board_, [this] { commands_.liftOutSelected(); });
  menu.addAction(tr("Swap inputs\tS"), &board_, [this] { commands_.swapInputs(); });
  menu.addSeparator();
  menu.addAction(tr("Fold into a group\tCtrl+G"), &board_, [this] { commands_.foldSelected(); });
  if (const Node* n = view_.material.node(node); n && n->bolt) {
    menuOfBolt(menu, *n);
  } else if (n && n->is_group()) {
    menu.addAction(tr("Look inside\tAlt+Down"), &board_, [this] { commands_.lookInside(); });
    menu.addAction(tr("Take the group apart\tCtrl+Shift+G"), &board_, [this] { commands_.takeApartSelected(); });
    menu.addAction(tr("Make it a copy of its own"), &board_, [this] { commands_.copyOfItsOwn(); })
        ->setEnabled(edit::uses_of(view_.material, n->group) > 1);
  }
  // Who reads it, aliases too: a choice flies there.
  QMenu* readers = menu.addMenu(tr("Read by"));
  for (const Thread& t : view_.material.threads)
    if (t.from_node == node)
      readers->addAction(qs(label_of(view_.material, catalogue(), *view_.material.node(t.to_node))) +
                             QStringLiteral(", ") + qs(t.to_peg).replace(QLatin1Char('_'), QLatin1Char(' ')),
                         &board_, [this, to = t.to_node] {
                           board_.select({to});
                           board_.fly(to);
                         });
  readers->setEnabled(!readers->isEmpty());
  menu.addSeparator();
  menu.addAction(tr("Delete\tDel"), &board_, [this] { commands_.removeSelected(); });
}

void BoardMenu::menuOfBolt(QMenu& menu, const Node& n) {
  menu.addAction(tr("Open the bolt\tAlt+Down"), &board_, [this] { commands_.lookInside(); });
  const Group* definition = view_.material.group_of(n);
  QMenu* presets = menu.addMenu(tr("Take a preset of it"));
  if (definition && definition->of_bolt)
    for (const Preset& p : definition->of_bolt->presets)
      presets->addAction(qs(p.name), &board_, [this, id = n.id, name = p.name] {
        board_.edit(tr("Take the preset %1").arg(qs(name)), edit::take_bolt_preset(view_.material, id, name));
      });
  presets->setEnabled(!presets->isEmpty());
  if (const auto newer = elsewhere([&] { return newer_version(view_.material, *n.bolt); }))
    menu.addAction(tr("Take version %1 …").arg(qs(newer->version)), &board_,
                   [this, id = n.id, file = qs(newer->file)] { Q_EMIT board_.otherVersionWanted(id, file); });
  menu.addAction(tr("Take another version …"), &board_,
                 [this, id = n.id] { Q_EMIT board_.otherVersionWanted(id, {}); });
}

void BoardMenu::menuOfStages(QMenu& menu, int row) {
  const auto here = std::find_if(view_.material.stages.rbegin(), view_.material.stages.rend(),
                                 [&](const Stage& s) { return s.row <= row; });
  menu.addAction(tr("Begin a stage here …"), &board_, [this, row] { commands_.writeStage(row, {}); });
  if (here == view_.material.stages.rend()) return;
  menu.addAction(tr("Rename the stage %1 …").arg(qs(here->name)), &board_,
                 [this, s = *here] { commands_.writeStage(s.row, qs(s.name)); });
  menu.addAction(tr("End the stage %1").arg(qs(here->name)), &board_,
                 [this, at = here->row] { board_.edit(tr("End a stage"), edit::set_stage(view_.material, at, "")); });
}

void BoardMenu::showAt(QPoint widget, QPoint screen) {
  const QPointF at = view_.boardPoint(widget);
  QMenu menu(&board_);
  if (const std::string slot = view_.slotAt(widget); !slot.empty()) {
    if (view_.material.hem.count(slot))
      menu.addAction(tr("Unplug"), &board_, [this, slot] {
        board_.edit(tr("Unplug %1").arg(qs(slot)), edit::set_hem(view_.material, slot, ""));
      });
  } else if (widget.y() < BoardLayout::kLaneHead) {
    for (const LanePlace& l : view_.layout.lanes())
      if (at.x() >= l.rect.left() && at.x() < l.rect.right()) menuOfLane(menu, l.id);
    menu.addAction(tr("Add a lane"), &board_,
                   [this] { board_.edit(tr("Add lane"), edit::add_lane(view_.material, "New lane")); });
  } else if (const TagPlace* t = view_.tagAt(at)) {
    if (!view_.isSelected(t->node)) board_.select({t->node});
    menuOfTag(menu, t->node);
  } else if (const ThreadPlace* th = view_.threadAt(at)) {
    const std::string to = th->to;
    if (th->toHem)
      menu.addAction(tr("Unplug"), &board_,
                     [this, to] { board_.edit(tr("Unplug %1").arg(qs(to)), edit::set_hem(view_.material, to, "")); });
    else {
      const auto [n, peg] = split_output(to);
      menu.addAction(tr("Cut this thread"), &board_, [this, n = n, peg = peg] {
        board_.edit(tr("Cut a thread"), edit::disconnect(view_.material, n, peg));
      });
      menu.addAction(th->alias ? tr("Show it as a line") : tr("Show it by its name"), &board_,
                     [this, n = n, peg = peg, now = th->alias] {
                       board_.edit(tr("Alias"), edit::set_alias(view_.material, n, peg, !now));
                     });
      if (!th->alias)
        menu.addAction(tr("Lead it through here\tdouble click"), &board_,
                       [this, led = *th, at] { commands_.addGuide(led, at); });
      if (const auto guide = view_.guideNear(at))
        menu.addAction(tr("Take this guide away"), &board_, [this, guide] { commands_.removeGuide(*guide); });
      if (!th->guides.empty())
        menu.addAction(tr("Let it find its way"), &board_, [this, to] {
          board_.edit(tr("Let a thread find its way"), edit::set_guides(view_.material, to, {}));
        });
    }
  } else {
    board_.pointAt(at);
    menu.addAction(tr("Add a node\t/"), &board_, [this, p = widget] { board_.addLine().openAt(p, {}); });
    menu.addAction(tr("Paste\tCtrl+V"), &board_, [this] { commands_.pasteHere(); });
    menuOfStages(menu, view_.cell.row);
  }
  if (!menu.isEmpty()) menu.exec(screen);
}

}  // namespace loom::app
