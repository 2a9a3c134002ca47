// Weave, Proof and the Stockroom: which of them is seen. Weave and Proof share the loupe and the drape; the Stockroom
// covers either.
#include <QLayout>
#include <QSplitter>
#include <QToolButton>

#include "app/shell/bolt_nodes.h"
#include "app/shell/main_window.h"
#include "app/shell/map_sets.h"
#include "app/shell/proof_workspace.h"
#include "app/shell/view_room.h"
#include "app/stockroom/stockroom_page.h"

namespace loom::app {
namespace {

constexpr int kRepeats = 3;

}  // namespace

void MainWindow::connectStockroom() {
  connect(stock_, &Stock::trouble, this, &MainWindow::say);
  files_->offer(stock_);
  connect(files_, &DocumentFiles::stockroomWanted, this, [this] {
    showWorkspace(Workspace::stockroom);
    show();
    raise();
    activateWindow();
  });
  const auto leave = [this] {
    if (workspace_ == Workspace::stockroom) showWorkspace(bench_);
  };
  connect(files_, &DocumentFiles::opened, this, leave);
  connect(files_, &DocumentFiles::begun, this, leave);
  connect(stockroom_, &StockroomPage::emptyWanted, files_, &DocumentFiles::newDocument);
  connect(stockroom_, &StockroomPage::fileWanted, files_, &DocumentFiles::openDialogue);
  connect(stockroom_, &StockroomPage::mapsWanted, this, [this] {
    if (files_->newDocument()) mapSets_->chooseFiles();
  });
  connect(stockroom_, &StockroomPage::openWanted, this, &MainWindow::openPath);
  connect(stockroom_, &StockroomPage::weaveWanted, files_, &DocumentFiles::openGraph);
  connect(stockroom_, &StockroomPage::fittingWanted, files_, &DocumentFiles::openFitting);
  connect(stockroom_, &StockroomPage::nodeWanted, this, [this](const QString& file) {
    showWorkspace(Workspace::weave);
    boltNodes_->add(file);
  });
  StockPictures& pictures = beside_->pictures();
  connect(&pictures, &StockPictures::openWanted, this, &MainWindow::openPath);
  connect(&pictures, &StockPictures::weaveWanted, files_, &DocumentFiles::openGraph);
  connect(&pictures, &StockPictures::fittingWanted, files_, &DocumentFiles::openFitting);
  connect(&pictures, &StockPictures::nodeWanted, boltNodes_, &BoltNodes::add);
  connect(drape_, &DrapePanel::materialDropped, this, [this](const QString& path, const std::string& part) {
    // A document on what has no parts is opened, as anywhere else.
    if (part.empty() && path.endsWith(QStringLiteral(".loom")))
      openPath(path);
    else
      boltNodes_->wear(path, part);
  });
}

void MainWindow::showBeside(bool shown) {
  showWorkspace(Workspace::weave);
  beside_->setVisible(shown);
  if (shown) {
    stock_->look();
    beside_->line()->setFocus();
  } else {
    board_->setFocus();
  }
}

void MainWindow::showWorkspace(Workspace workspace) {
  for (std::size_t i = 0; i < workspaceButtons_.size(); ++i)
    workspaceButtons_[i]->setChecked(static_cast<std::size_t>(workspace) == i);
  if (workspace == workspace_) return;
  room_->bringBack();
  workspace_ = workspace;
  const bool stock = workspace == Workspace::stockroom, proof = workspace == Workspace::proof;
  // What goes first makes room for what comes: the window keeps its size.
  (stock ? static_cast<QWidget*>(columns_) : stockroom_)->hide();
  if (stock) proof_->sheet()->hide();
  centralWidget()->layout()->activate();
  (stock ? static_cast<QWidget*>(stockroom_) : columns_)->show();
  if (!stock && workspace != bench_) changeBench(workspace);
  proof_->sheet()->setVisible(proof);
  proof_->setActive(proof);
  if (stock) {
    stock_->look();
    stockroom_->view().line()->setFocus();
  } else {
    (proof ? static_cast<QWidget*>(loupe_) : board_)->setFocus();
  }
}

void MainWindow::changeBench(Workspace to) {
  bench_ = to;
  const bool proof = to == Workspace::proof;
  if (proof) {
    navigation_->leaveAll();  // what is judged is the whole material
    weaveColumns_ = columns_->saveState();
    weaveRight_ = right_->saveState();
    weaveLocked_ = locked_;
  }
  // What goes first makes room for what comes: the window keeps its size.
  const auto show = [&](std::initializer_list<QWidget*> panels, bool visible) {
    for (QWidget* panel : panels) panel->setVisible(visible);
    columns_->updateGeometry();
    centralWidget()->layout()->activate();
  };
  const bool beside = proof ? beside_->isVisibleTo(columns_) : besideWasShown_;
  if (proof) besideWasShown_ = beside;
  beside_->setVisible(!proof && beside);
  show(proof ? std::initializer_list<QWidget*>{racks_, left_}
             : std::initializer_list<QWidget*>{proof_->side(), proof_->sheet()},
       false);
  show(proof ? std::initializer_list<QWidget*>{proof_->side(), proof_->sheet()}
             : std::initializer_list<QWidget*>{racks_, left_},
       true);
  right_->setOrientation(proof ? Qt::Horizontal : Qt::Vertical);
  right_->insertWidget(proof ? 0 : 1, loupe_);
  if (proof) {
    right_->setSizes({484, 484});
    columns_->setSizes({0, 0, 0, width() - 312, 312});
    if (loupe_->repeats() == 1) loupe_->setRepeats(kRepeats);
  } else {
    loupe_->setRepeats(1);
    loupe_->showRings({}, 0);
    locked_ = weaveLocked_;
    loupe_->showTitle(outputTitle(shownOutput()), !locked_.empty());
    wish();
    columns_->restoreState(weaveColumns_);
    right_->restoreState(weaveRight_);
  }
}

}  // namespace loom::app
