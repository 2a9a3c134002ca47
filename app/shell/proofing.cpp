// What is found in Proof leads to a place and to its cause.
#include "app/shell/main_window.h"
#include "app/shell/proof_workspace.h"
#include "core/graph/edit.h"

namespace loom::app {

void MainWindow::connectProof() {
  connect(proof_, &ProofWorkspace::ringsWanted, this, &MainWindow::ring);
  connect(proof_, &ProofWorkspace::jumpWanted, this, &MainWindow::jumpToCause);
  connect(proof_->way(), &WayList::nodeWanted, this, [this](const std::string& node) {
    showWorkspace(Workspace::weave);
    navigation_->leaveTrail();
    board_->fly(node);
  });
  connect(proof_, &ProofWorkspace::fitWanted, this, [this] { openFit(); });
  SheetPanel* sheet = proof_->sheet();
  connect(sheet, &SheetPanel::takeWanted, this, [this](const Material& state, const QString& words) {
    document_.edit(tr("Take over %1").arg(words), state);
    say(tr("Taken over: %1").arg(words));
  });
  connect(sheet, &SheetPanel::presetWanted, this, [this](const Material& state, const QString& name) {
    // The preset alone is kept: what is at hand stays as it is.
    Material next = document_.material();
    next.presets = edit::keep_preset(state, name.toStdString()).presets;
    document_.edit(tr("Keep the preset %1").arg(name), next);
    say(tr("Kept as the preset %1").arg(name));
  });
  connect(sheet, &SheetPanel::message, this, &MainWindow::say);
}

// The loupe shows the slot in which something was found, with its places ringed in every repeat.
void MainWindow::ring(const QString& slot, const std::vector<Place>& places, double radius) {
  std::vector<QPointF> rings;
  for (const Place& p : places) rings.emplace_back(p.u, p.v);
  loupe_->showRings(rings, radius);
  const auto& hem = document_.material().hem;
  const auto from = hem.find(slot.toStdString());
  locked_ = from == hem.end() ? std::string() : from->second;
  loupe_->showTitle(outputTitle(shownOutput()), !locked_.empty());
  wish();
}

// What feeds the slot, with the worst place followed back through the graph.
void MainWindow::jumpToCause(const QString& slot, const std::vector<Place>& places) {
  const auto& hem = document_.material().hem;
  const auto from = hem.find(slot.toStdString());
  if (from == hem.end()) return say(tr("Nothing feeds %1: it is typed into the hem").arg(slot));
  showWorkspace(Workspace::weave);
  locked_.clear();
  navigation_->leaveTrail();
  board_->showOutput(from->second);
  if (!places.empty()) follow(QPointF(places[0].u, places[0].v));
}

}  // namespace loom::app
