// The main window: top bar, racks, board with hem, tray, drape above loupe.
#pragma once
#include <QMainWindow>
#include <QTimer>
#include <functional>
#include <map>

#include "app/board/board.h"
#include "app/drape/drape_panel.h"
#include "app/engine/document.h"
#include "app/engine/engine.h"
#include "app/loupe/loupe.h"
#include "app/shell/document_files.h"
#include "app/shell/navigation.h"
#include "app/shell/shown_shape.h"
#include "app/shell/way_panel.h"
#include "app/tray/tray.h"
#include "core/proof/proof.h"

class QLabel;
class QSplitter;

namespace loom::app {

class BoltDialog;
class DialsPanel;
class HandPainting;
class FigureDrawing;
class VolumeMoving;
class KeptCamera;
class PartFocus;
class PictureForm;
class ViewRoom;
class HelpPanel;

class MainWindow : public QMainWindow {
  Q_OBJECT
 public:
  explicit MainWindow(QWidget* parent = nullptr);
  ~MainWindow() override;

  bool openPath(const QString& path) { return files_->open(path); }
  bool saveTo(const QString& path) { return files_->saveTo(path); }
  Document& document() { return document_; }
  Engine& engine() { return engine_; }
  Board* board() { return board_; }
  Tray* tray() { return tray_; }
  Loupe* loupe() { return loupe_; }
  DrapePanel* drape() { return drape_; }
  const SeenPtr& lastSeen() const { return seen_; }
  bool isIdle() const;
  QString status() const;
  /// What the board shows: the document, or the inside of the group that is looked into.
  const Material& shown() const { return navigation_->shown(); }
  Navigation& navigation() { return *navigation_; }
  DocumentFiles& files() { return *files_; }
  PartFocus& parts() { return *parts_; }
  /// Where the drape and the loupe stand.
  ViewRoom& room() { return *room_; }
  void keepTemplate();  ///< of the selected group
  QDialog* openDelivery();
  void openRecolour();  ///< of the selected nodes
  DialsPanel* openDials();
  BoltDialog* openBolt();
  PictureForm* openPicture();
  class FitDialog* openFit();
  class ValuesPanel* openValues();
  WayPanel* openWay();
  /// Building the graph, judging what it gives, or choosing what to open: the start.
  enum class Workspace { weave, proof, stockroom };
  void showWorkspace(Workspace workspace);
  Workspace workspace() const { return workspace_; }
  class ProofWorkspace* proof() const {
    return proof_;
  }
  class StockroomPage* stockroom() const {
    return stockroom_;
  }
  /// The stockroom as a column beside the board, from which things are dragged onto it.
  void showBeside(bool shown);
  class StockView* beside() const {
    return beside_;
  }
  class TimesPanel* openTimes();
  class KeysDialog* openKeys();
  HelpPanel* openHelp();  ///< of the selected node; null: none is selected
  void lockLoupe(bool locked);
  void tellShortOfMemory();

 protected:
  void closeEvent(QCloseEvent*) override;
  void dragEnterEvent(QDragEnterEvent*) override;
  void dropEvent(QDropEvent*) override;

 private:
  QWidget* topBar();
  QWidget* boardWithPath();
  void connectBoard();
  void connectTray();
  /// One undo step; a parameter that follows a dial turns the dial.
  void setParameters(const std::string& node, const std::vector<std::pair<std::string, ParamValue>>& values);
  void connectFiles();
  void connectParts();
  void edit(const QString& name, const Material& next, const QString& gesture = {}) {
    navigation_->edit(name, next, gesture);
  }
  std::string selectedNode() const { return board_->selection().empty() ? std::string() : board_->selection().back(); }
  void follow(std::optional<QPointF> place);
  void toggleUnlit();
  void makeValueOfFocus();
  void makeValue(const std::string& node, const std::string& param);
  std::string focusedParameter() const;
  void showFollowed(const FollowedPtr& followed);
  std::vector<WayStep> wayOf(const Followed& followed) const;
  void showWay(const std::vector<WayStep>& steps);
  void connectProof();
  void connectStockroom();
  void changeBench(Workspace to);
  void ring(const QString& slot, const std::vector<Place>& places, double radius);
  void jumpToCause(const QString& slot, const std::vector<Place>& places);
  QWidget* racks();
  /// Where a command's keys act.
  enum class Scope { window, board };
  struct Command {
    QString name, words, keys;  ///< `words`: others of the trade by which it is found; several keys stand apart
    Scope scope = Scope::window;
    std::function<void()> run;
    std::function<QString()> whyNot{};  ///< said in its place; empty: it can be done now
  };
  std::vector<Command> fileCommands(), editCommands(), boardCommands(), lookCommands(), parameterCommands();
  QAction* actionOf(const Command& command);
  void copyPicture(const QString& what, const QImage& picture);
  void makeActions();
  void showDocument();
  void wish();
  void wishNow();
  QString outputTitle(const std::string& path) const;
  void removeIdle();
  void showSeen(const SeenPtr& seen);
  void say(const QString& text);
  void commandLine();
  void find();
  void findParameter();
  void makeDialOfFocus();
  void newSeed();
  void toggleNight();
  std::string shownOutput() const;

  Document document_;
  Engine engine_;
  Board* board_;
  Navigation* navigation_;
  DocumentFiles* files_;
  Tray* tray_;
  Loupe* loupe_;
  DrapePanel* drape_;
  ShownShape* standing_;
  KeptCamera* camera_;
  PartFocus* parts_;
  HandPainting* painting_;
  class BoltNodes* boltNodes_;
  class MapSets* mapSets_;
  class ProofWorkspace* proof_;
  Workspace workspace_ = Workspace::weave, bench_ = Workspace::weave;  // bench: what the stockroom covers
  std::array<class QToolButton*, 3> workspaceButtons_{};
  class Stock* stock_;
  class StockroomPage* stockroom_;
  class StockView* beside_ = nullptr;
  bool besideWasShown_ = false;  // beside the board, when it was left
  QWidget* racks_ = nullptr;
  QByteArray weaveColumns_, weaveRight_;  // as they were left
  std::string weaveLocked_;
  VolumeMoving* volumes_;
  FigureDrawing* figures_;
  QSplitter *columns_, *left_, *right_;
  ViewRoom* room_;
  QLabel *name_, *edited_, *status_, *message_;
  class QMenu* fileMenu_;
  HelpPanel* help_ = nullptr;
  DialsPanel* dials_ = nullptr;
  BoltDialog* bolt_ = nullptr;
  FitDialog* fit_ = nullptr;
  std::vector<Command> commands_;
  std::vector<QAction*> actions_;  // of the commands, in their order
  std::vector<class QToolButton*> rackButtons_;
  SeenPtr seen_;
  std::map<std::string, Error> faults_;  // by the node's identifier on the board
  class ValuesPanel* values_ = nullptr;
  WayPanel* way_ = nullptr;
  class TimesPanel* times_ = nullptr;
  std::optional<QPointF> follow_;  // a place of the tile, followed back from the loupe's output
  std::string locked_;
  QString busy_;
  bool wishing_ = false;  // a wish is on its way
  QTimer messageTimer_;
};

}  // namespace loom::app
