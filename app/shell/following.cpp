// A place of the tile, followed back through the graph.
#include "app/shell/main_window.h"
#include "app/shell/proof_workspace.h"

namespace loom::app {

void MainWindow::follow(std::optional<QPointF> place) {
  follow_ = place;
  loupe_->showFollowed(place);
  if (place)
    say(tr("Following u %1, v %2 of %3; Escape ends it")
            .arg(place->x(), 0, 'f', 3)
            .arg(place->y(), 0, 'f', 3)
            .arg(QString::fromStdString(shownOutput())));
  else {
    board_->showFollowed({}, {});
    showWay({});
    say({});
  }
  wish();
}

void MainWindow::showFollowed(const FollowedPtr& followed) {
  if (!follow_) return;
  std::map<std::string, QString> values;
  for (const auto& [path, t] : followed->values)
    if (const std::string own = navigation_->local(path); !own.empty() && t.kind != Kind::set)
      values[own] = tracedText(t);
  std::vector<std::string> path;
  for (const auto& [to, influence] : followed->path)
    if (const std::string own = navigation_->local(to); !own.empty()) path.push_back(own);
  board_->showFollowed(values, path);
  showWay(wayOf(*followed));
}

void MainWindow::showWay(const std::vector<WayStep>& steps) {
  if (way_) way_->list()->showWay(shown(), steps);
  proof_->way()->showWay(shown(), steps);
}

// The output that is looked at, then the one at the far end of each thread of the way, as far as the board shows them.
std::vector<WayStep> MainWindow::wayOf(const Followed& followed) const {
  std::vector<WayStep> steps;
  const auto add = [&](const std::string& output, double influence) {
    if (const auto it = followed.values.find(navigation_->prefix() + output); it != followed.values.end())
      steps.push_back({output, it->second, influence});
  };
  add(navigation_->local(shownOutput()), 1);
  for (const auto& [to, influence] : followed.path) {
    const auto [node, peg] = split_output(navigation_->local(to));
    if (const Thread* t = shown().into(node, peg)) add(t->from_node + "." + t->from_peg, influence);
  }
  return steps;
}

WayPanel* MainWindow::openWay() {
  if (!way_) {
    way_ = new WayPanel(this);
    connect(way_->list(), &WayList::nodeWanted, this,
            [this](const std::string& node) { navigation_->leaveTrail(), board_->fly(node); });
  }
  way_->show();
  way_->raise();
  if (follow_) wish();
  return way_;
}

}  // namespace loom::app
