// Commands on threads: connected, cut, led through guides, shown by their names.
#include "app/board/add_line.h"
#include "app/board/board.h"
#include "app/board/board_commands.h"
#include "app/board/key_modes.h"
#include "core/graph/groups.h"
#include "core/graph/rework.h"
#include "core/graph/surface_reach.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"

namespace loom::app {

void BoardCommands::weaveSelected() {
  std::vector<std::string> order = view_.selected;
  if (order.size() < 2) return board_.say(tr("Select two or more nodes to weave together"));
  std::stable_sort(order.begin(), order.end(), [&](const std::string& a, const std::string& b) {
    return view_.layout.tag(a)->rect.y() < view_.layout.tag(b)->rect.y();
  });
  Material next = view_.material;
  int laid = 0;
  // Every upper node feeds the first free peg that takes it, from the next lower one on.
  for (std::size_t i = 0; i + 1 < order.size(); ++i) {
    const std::string peg = split_output(view_.outputOf(order[i])).second;
    if (peg.empty()) continue;
    bool done = false;
    for (std::size_t j = i + 1; j < order.size() && !done; ++j)
      for (const PegPlace& in : view_.layout.tag(order[j])->inputs) {
        const Thread t{order[i], peg, in.node, in.peg};
        if (!edit::feeds_data(in.peg) || next.into(in.node, in.peg) || !refusal(next, catalogue(), t).empty()) continue;
        next = edit::connect(std::move(next), t);
        ++laid;
        done = true;
        break;
      }
  }
  if (laid == 0) return board_.say(tr("No free peg takes what the upper nodes give"));
  board_.edit(tr("Weave together"), next);
}

void BoardCommands::spliceIn() {
  const std::string output = view_.focusedOutput();
  if (output.empty()) return board_.say(tr("Select the node to splice in after"));
  board_.addLine().openAt(focusPlace(), output, -1, AddLine::Way::splice);
}

void BoardCommands::swapInputs() {
  const auto next =
      view_.selected.empty() ? std::nullopt : edit::swap_inputs(view_.material, catalogue(), view_.selected.back());
  if (!next) return board_.say(tr("Select a node with two inputs of a kind"));
  board_.edit(tr("Swap inputs"), *next);
}

void BoardCommands::disconnectSelected() {
  Material next = view_.material;
  for (const std::string& id : view_.selected)
    if (const Node* n = view_.material.node(id))
      for (const Peg& peg : inputs_of(view_.material, catalogue(), *n))
        next = edit::disconnect(std::move(next), id, peg.id);
  board_.edit(tr("Unplug inputs"), next);
}

void BoardCommands::toggleAliases() {
  Material next = view_.material;
  bool all = true, any = false;
  for (const Thread& t : view_.material.threads)
    if (view_.isSelected(t.to_node)) all &= t.alias, any = true;
  if (!any) return board_.say(tr("Select a node with threads to show by their names"));
  for (const Thread& t : view_.material.threads)
    if (view_.isSelected(t.to_node)) next = edit::set_alias(std::move(next), t.to_node, t.to_peg, !all);
  board_.edit(all ? tr("Show threads as lines") : tr("Show threads by name"), next);
}

// Every thread that the stroke crosses is cut, in one step.
void BoardCommands::cutAcross(const QPolygonF& stroke) {
  QPainterPath line;
  line.addPolygon(stroke);
  QPainterPathStroker wide;
  wide.setWidth(1);
  const QPainterPath area = wide.createStroke(line);
  Material next = view_.material;
  int cut = 0;
  for (const ThreadPlace& t : view_.layout.threads()) {
    if (!wide.createStroke(t.path).intersects(area)) continue;
    const auto [node, peg] = split_output(t.to);
    next = t.toHem ? edit::set_hem(std::move(next), t.to, "") : edit::disconnect(std::move(next), node, peg);
    ++cut;
  }
  if (cut) board_.edit(tr("Cut %n threads", nullptr, cut), next);
}

void BoardCommands::connectTo(const std::string& from, const PegPlace& to) {
  const auto [node, peg] = split_output(from);
  const Thread thread{node, peg, to.node, to.peg};
  if (const std::string why = refusal(view_.material, catalogue(), thread); !why.empty())
    return board_.say(tr("Not connected: %1").arg(qs(why)));
  board_.edit(tr("Connect %1").arg(qs(to.peg)), edit::connect(view_.material, thread));
}

// Its first free peg that fits.
void BoardCommands::connectToTag(const std::string& output, const TagPlace& tag) {
  const auto [node, peg] = split_output(output);
  for (const PegPlace& in : tag.inputs)
    if (!in.connected && refusal(view_.material, catalogue(), {node, peg, in.node, in.peg}).empty())
      return connectTo(output, in);
}

void BoardCommands::hemTo(const std::string& output, std::string slot) {
  const auto [node, peg] = split_output(output);
  if (slot == BoardView::kNewSlot) {
    slot = peg;
    for (int k = 2; view_.material.hem.count(slot); ++k) slot = peg + "_" + std::to_string(k);
  }
  const Kind kind = output_kind(view_.material, catalogue(), node, peg);
  if (!view_.material.inside && slot_kind(slot) != Kind::any && !converts(kind, slot_kind(slot)))
    return board_.say(tr("%1 takes a %2, not a %3")
                          .arg(qs(slot), QString::fromUtf8(kind_name(slot_kind(slot)).data()),
                               QString::fromUtf8(kind_name(kind).data())));
  if (surface_use(view_.material, catalogue(), node) != SurfaceUse::none)
    if (const auto refused = surface_refusal(slot))
      return board_.say(tr("Not connected: %1 %2").arg(qs(slot), qs(refused->what + ". " + refused->mend)));
  board_.edit(tr("Hem %1").arg(qs(slot)), edit::set_hem(view_.material, slot, output));
}

// Between those that it lies between along the thread.
void BoardCommands::addGuide(const ThreadPlace& thread, QPointF at) {
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
  auto through = view_.guidesOf(thread.to);
  through.insert(through.begin() + static_cast<std::ptrdiff_t>(std::min(before, through.size())),
                 view_.layout.guideAt(at));
  board_.edit(tr("Lead a thread"), edit::set_guides(view_.material, thread.to, through));
}

void BoardCommands::moveGuide(const GuideStop& stop, const Guide& to) {
  auto through = view_.guidesOf(stop.peg);
  if (!stop.guide || *stop.guide >= through.size()) return;
  through[*stop.guide] = to;
  board_.edit(tr("Lead a thread"), edit::set_guides(view_.material, stop.peg, through));
}

void BoardCommands::removeGuide(const GuideStop& stop) {
  auto through = view_.guidesOf(stop.peg);
  if (!stop.guide || *stop.guide >= through.size()) return;
  through.erase(through.begin() + static_cast<std::ptrdiff_t>(*stop.guide));
  board_.edit(tr("Take a guide away"), edit::set_guides(view_.material, stop.peg, through));
}

// By a quarter of a place on the board; a thread without guides gets its first one in its middle.
void BoardCommands::stepGuide(const GuideStop& stop, int du, int dv) {
  if (!stop.guide) {
    for (const ThreadPlace& t : view_.layout.threads())
      if (t.to == stop.peg) return addGuide(t, t.path.pointAtPercent(0.5));
    return;
  }
  const QSizeF step = view_.layout.cellRect({}).size() / 4;
  moveGuide(stop, view_.layout.guideAt(view_.layout.pointOf(view_.guidesOf(stop.peg).at(*stop.guide)) +
                                       QPointF(du * step.width(), dv * step.height())));
}

void BoardCommands::leadByKeys() {
  if (view_.guideStops().empty()) return board_.say(tr("Select one node that threads come into"));
  board_.takeKeys(std::make_shared<GuideByKeys>(board_));
}

void BoardCommands::startThread() {
  if (view_.focusedOutput().empty()) return board_.say(tr("Select a node first"));
  board_.takeKeys(std::make_shared<ThreadByKeys>(board_));
}

void BoardCommands::awaitMark(bool set) {
  if (set && view_.focusedOutput().empty()) return board_.say(tr("Select the node to mark first"));
  board_.takeKeys(std::make_shared<MarkByKeys>(board_, set));
}

}  // namespace loom::app
