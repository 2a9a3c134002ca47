// The window's commands, one row each: what it is called, the words it is found by, its keys, where they act, what it
// does, and why it cannot be done now.
#include <QClipboard>
#include <QMenu>

#include "app/shell/bolt_nodes.h"
#include "app/shell/hand_painting.h"
#include "app/shell/keys_dialog.h"
#include "app/shell/main_window.h"
#include "app/shell/map_sets.h"
#include "app/shell/part_focus.h"
#include "app/shell/view_room.h"
#include "app/stockroom/stock_view.h"
#include "core/graph/groups.h"
#include "core/graph/rework.h"

namespace loom::app {

// Files and the program.
std::vector<MainWindow::Command> MainWindow::fileCommands() {
  return {
      {tr("New"), tr("create document material start"), QStringLiteral("Ctrl+N"), Scope::window,
       [this] { files_->newDocument(); }},
      {tr("Open …"), tr("load file document"), QStringLiteral("Ctrl+O"), Scope::window,
       [this] { files_->openDialogue(); }},
      {tr("Save"), tr("store write file"), QStringLiteral("Ctrl+S"), Scope::window, [this] { files_->save(); }},
      {tr("Save as …"), {}, QStringLiteral("Ctrl+Shift+S"), Scope::window, [this] { files_->saveAs(); }},
      {tr("Bolt (package) …"),
       tr("package pack publish share utility version licence tags notes"),
       {},
       Scope::window,
       [this] { openBolt(); }},
      {tr("Bring in a set of maps …"), tr("import textures pictures files normal roughness albedo exchange swap set"),
       QStringLiteral("Ctrl+Shift+I"), Scope::window, [this] { mapSets_->chooseFiles(); }},
      {tr("Bring in a folder of maps …"),
       tr("import textures directory set"),
       {},
       Scope::window,
       [this] { mapSets_->chooseFolder(); }},
      {tr("Rename the material …"), {}, {}, Scope::window, [this] { files_->renameMaterial(); }},
      {tr("Reload changed files"), tr("refresh images pictures update"), QStringLiteral("F5"), Scope::window,
       [this] {
         files_->reload();
         say(tr("Files were looked at again"));
       }},
      {tr("Deliver …"), tr("export render output maps textures write files png exr"), QStringLiteral("Ctrl+E"),
       Scope::window, [this] { openDelivery(); }},
      {tr("Lit picture to a file …"),
       tr("render image beauty save drape png exr"),
       {},
       Scope::window,
       [this] { openPicture(); },
       [this] { return drape_->outfit() ? QString() : tr("There is nothing on the drape yet"); }},
      {tr("Copy the lit picture"), tr("clipboard drape render image png"), QStringLiteral("Ctrl+Alt+C"), Scope::window,
       [this] { copyPicture(tr("The lit picture"), drape_->image()); },
       [this] { return drape_->outfit() ? QString() : tr("There is nothing on the drape yet"); }},
      {tr("Copy the loupe's picture"),
       tr("clipboard output image png"),
       {},
       Scope::window,
       [this] { copyPicture(tr("The output"), loupe_->picture()); },
       [this] { return loupe_->picture().isNull() ? tr("The loupe shows nothing yet") : QString(); }},
      {tr("Dials …"),
       tr("expose interface inputs controls parameters presets"),
       {},
       Scope::window,
       [this] { openDials(); }},
      {tr("Fit to a picture …"),
       tr("match photo reference optimise dials search likeness estimate"),
       {},
       Scope::window,
       [this] { openFit(); }},
      {tr("Dark palette"), tr("dark mode theme night light appearance"), {}, Scope::window, [this] { toggleNight(); }},
      {tr("Close"), tr("quit exit"), QStringLiteral("Ctrl+Q"), Scope::window, [this] { close(); }}};
}

// Back and forth, finding, help.
std::vector<MainWindow::Command> MainWindow::editCommands() {
  return {{tr("Undo"), tr("back revert step"), QStringLiteral("Ctrl+Z"), Scope::window,
           [this] {
             say(tr("Undone: %1").arg(document_.undoName()));
             document_.undo();
           },
           [this] { return document_.canUndo() ? QString() : tr("There is nothing to undo"); }},
          {tr("Redo"), tr("again forward step"), QStringLiteral("Ctrl+Shift+Z Ctrl+Y"), Scope::window,
           [this] {
             say(tr("Redone: %1").arg(document_.redoName()));
             document_.redo();
           },
           [this] { return document_.canRedo() ? QString() : tr("There is nothing to redo"); }},
          {tr("Help of the node"), tr("documentation manual"), QStringLiteral("F1"), Scope::window,
           [this] { openHelp(); }, [this] { return selectedNode().empty() ? tr("Select a node first") : QString(); }},
          {tr("Commands"), {}, QStringLiteral("Ctrl+K"), Scope::window, [this] { commandLine(); }},
          {tr("Find a node"), tr("search locate jump"), QStringLiteral("Ctrl+F"), Scope::window, [this] { find(); }},
          {tr("Make a dial of the parameter in focus"),
           tr("expose offer publish parameter input"),
           {},
           Scope::window,
           [this] { makeDialOfFocus(); }}};
}

// What is done with nodes, threads, groups and stages.
std::vector<MainWindow::Command> MainWindow::boardCommands() {
  return {{tr("Weave: build the graph"), tr("workspace board nodes"), QStringLiteral("Alt+1"), Scope::window,
           [this] { showWorkspace(Workspace::weave); }},
          {tr("Proof: judge the result"), tr("workspace check findings variation sheet quality"),
           QStringLiteral("Alt+2"), Scope::window, [this] { showWorkspace(Workspace::proof); }},
          {tr("Stockroom: what there is to open"), tr("start home library browser recent bolts materials"),
           QStringLiteral("Alt+0"), Scope::window, [this] { showWorkspace(Workspace::stockroom); }},
          {tr("Stockroom beside the board"), tr("library browser drag bolts"), QStringLiteral("Alt+9"), Scope::window,
           [this] { showBeside(!beside_->isVisible()); }},
          {tr("Add a node"), tr("create insert new"), QStringLiteral("/ Ins"), Scope::board,
           [this] { board_->commands().openAddLine(); }},
          {tr("Add a bolt as a node …"),
           tr("package instance nested material reference use import"),
           {},
           Scope::window,
           [this] { boltNodes_->chooseAndAdd(); }},
          {tr("Weave the selected together"), tr("connect link wire chain"), QStringLiteral("W"), Scope::board,
           [this] { board_->commands().weaveSelected(); }},
          {tr("Start a thread by keyboard"), tr("connect link wire"), QStringLiteral("Shift+W"), Scope::board,
           [this] { board_->commands().startThread(); }},
          {tr("Lead threads by keyboard"), tr("route bend way"), QStringLiteral("G"), Scope::board,
           [this] { board_->commands().leadByKeys(); }},
          {tr("Delete"), tr("remove erase"), QStringLiteral("Del"), Scope::board,
           [this] { board_->commands().removeSelected(); }},
          {tr("Duplicate"), tr("copy clone double"), QStringLiteral("Ctrl+D"), Scope::board,
           [this] { board_->commands().duplicateSelected(false); }},
          {tr("Duplicate with inputs"), tr("copy clone keep connections"), QStringLiteral("Ctrl+Alt+D"), Scope::board,
           [this] { board_->commands().duplicateSelected(true); }},
          {tr("Copy"), {}, QStringLiteral("Ctrl+C"), Scope::board, [this] { board_->commands().copySelected(); }},
          {tr("Paste"), {}, QStringLiteral("Ctrl+V"), Scope::board, [this] { board_->commands().pasteHere(); }},
          {tr("Paste onto parts …"), tr("mesh material apply assign same set-up"), QStringLiteral("Ctrl+Shift+J"),
           Scope::board, [this] { parts_->pasteOnto(); }},
          {tr("Recolour the selected …"), tr("hue shift saturation brightness tint change colours"),
           QStringLiteral("E"), Scope::board, [this] { openRecolour(); }},
          {tr("Bypass"), tr("mute disable skip off pass through"), QStringLiteral("B"), Scope::board,
           [this] { board_->commands().bypassSelected(); }},
          {tr("Rename"), tr("name title label"), QStringLiteral("F2"), Scope::board,
           [this] { board_->commands().renameSelected(); }},
          {tr("Tidy"), tr("arrange align layout clean order"), QStringLiteral("C"), Scope::board,
           [this] { edit(tr("Tidy"), edit::tidy(shown())); }},
          {tr("Fold into a group"), tr("collapse subgraph nest enclose"), QStringLiteral("Ctrl+G"), Scope::board,
           [this] { board_->commands().foldSelected(); }},
          {tr("Take the group apart"), tr("ungroup explode dissolve unfold"), QStringLiteral("Ctrl+Shift+G"),
           Scope::board, [this] { board_->commands().takeApartSelected(); }},
          {tr("Look inside the group"), tr("enter open edit subgraph"), QStringLiteral("Alt+Down"), Scope::board,
           [this] { board_->commands().lookInside(); }},
          {tr("Out of the group"), tr("leave exit up parent"), QStringLiteral("Alt+Up"), Scope::board,
           [this] { navigation_->goOut(); },
           [this] { return !navigation_->isInside() ? tr("The board shows the whole material already") : QString(); }},
          {tr("Make the group a copy of its own"),
           tr("unique independent unlink"),
           {},
           Scope::window,
           [this] { board_->commands().copyOfItsOwn(); }},
          {tr("Keep the group as a template"),
           tr("save library reuse preset"),
           {},
           Scope::window,
           [this] { keepTemplate(); }},
          {tr("Add an input to the group"),
           tr("expose peg"),
           {},
           Scope::window,
           [this] { edit(tr("Add an input"), edit::add_group_input(shown(), "Input")); },
           [this] { return !navigation_->isInside() ? tr("Look inside a group first") : QString(); }},
          {tr("Visit a mark"), tr("bookmark go jump"), QStringLiteral("M"), Scope::board,
           [this] { board_->commands().awaitMark(false); }},
          {tr("Set a mark"), tr("bookmark remember"), QStringLiteral("Shift+M"), Scope::board,
           [this] { board_->commands().awaitMark(true); }},
          {tr("Marks …"), {}, {}, Scope::window, [this] { navigation_->listMarks(); }},
          {tr("Write a note"), tr("comment annotation text"), QStringLiteral("Shift+N"), Scope::board,
           [this] { board_->commands().writeNote(); }},
          {tr("Show threads by name, or as lines"), tr("alias hide"), QStringLiteral("A"), Scope::board,
           [this] { board_->commands().toggleAliases(); }},
          {tr("Cut threads with a stroke"), tr("disconnect unlink remove slice"), QStringLiteral("K"), Scope::board,
           [this] { board_->cutThreads(!board_->cutting()); }},
          {tr("Splice in"), tr("insert between"), QStringLiteral("I"), Scope::board,
           [this] { board_->commands().spliceIn(); }},
          {tr("Lift out"), tr("extract dissolve remove keep connections"), QStringLiteral("Ctrl+Del"), Scope::board,
           [this] { board_->commands().liftOutSelected(); }},
          {tr("Replace"), tr("change type exchange"), QStringLiteral("R"), Scope::board,
           [this] { board_->commands().replaceSelected(); }},
          {tr("Swap inputs"), tr("exchange flip reverse"), QStringLiteral("S"), Scope::board,
           [this] { board_->commands().swapInputs(); }},
          {tr("Blend the two selected"), tr("mix merge combine layer"), QStringLiteral("Y"), Scope::board,
           [this] { board_->commands().blendSelected(); }},
          {tr("Next choice: mode, bond, figure, sum"), tr("cycle blend step"), QStringLiteral("."), Scope::board,
           [this] { board_->commands().stepMode(1); }},
          {tr("Previous choice"), tr("cycle blend mode step"), QStringLiteral(","), Scope::board,
           [this] { board_->commands().stepMode(-1); }},
          {tr("Select what feeds the selection"),
           {},
           QStringLiteral("Shift+Up"),
           Scope::board,
           [this] { board_->commands().selectUpstream(); }},
          {tr("Select what the selection feeds"),
           {},
           QStringLiteral("Shift+Down"),
           Scope::board,
           [this] { board_->commands().selectDownstream(); }},
          {tr("Copy parameters"),
           {},
           QStringLiteral("Ctrl+Shift+C"),
           Scope::board,
           [this] { board_->commands().copyParameters(); }},
          {tr("Paste parameters"),
           {},
           QStringLiteral("Ctrl+Shift+V"),
           Scope::board,
           [this] { board_->commands().pasteParameters(); }},
          {tr("Begin, rename or end a stage"), tr("band section"), QStringLiteral("Shift+R"), Scope::board,
           [this] { board_->commands().nameStage(); }},
          {tr("Paste chosen parameters"),
           {},
           QStringLiteral("Ctrl+Alt+V"),
           Scope::board,
           [this] { board_->commands().pasteChosenParameters(); }},
          {tr("Delete what feeds nothing …"), tr("clean unused orphan"), {}, Scope::window, [this] { removeIdle(); }}};
}

// What is looked at, and how.
std::vector<MainWindow::Command> MainWindow::lookCommands() {
  return {
      {tr("Fit all"), tr("frame zoom whole home"), QStringLiteral("Home"), Scope::board, [this] { board_->fitAll(); }},
      {tr("Fit the selection"), tr("frame zoom focus"), QStringLiteral("Shift+Home"), Scope::board,
       [this] { board_->fitSelection(); }},
      {tr("Zoom in"),
       {},
       QStringLiteral("Ctrl++ Ctrl+="),
       Scope::board,
       [this] { board_->setZoom(board_->zoom() * 1.15); }},
      {tr("Zoom out"), {}, QStringLiteral("Ctrl+-"), Scope::board, [this] { board_->setZoom(board_->zoom() / 1.15); }},
      {tr("Enlarge the drape over the board, or back"), tr("maximise full screen big preview"), QStringLiteral("Z"),
       Scope::window, [this] { room_->toggleOver(drape_); }},
      {tr("Enlarge the loupe over the board, or back"), tr("maximise full screen big preview"),
       QStringLiteral("Shift+Z"), Scope::window, [this] { room_->toggleOver(loupe_); }},
      {tr("The drape in a window of its own"),
       tr("second screen detach float undock"),
       {},
       Scope::window,
       [this] { room_->put(drape_, ViewRoom::Place::window); }},
      {tr("The loupe in a window of its own"),
       tr("second screen detach float undock"),
       {},
       Scope::window,
       [this] { room_->put(loupe_, ViewRoom::Place::window); }},
      {tr("Show the next output in the loupe"), tr("preview view inspect"), QStringLiteral("Return Enter"),
       Scope::board, [this] { board_->nextOutput(); }},
      {tr("Lock the loupe"), tr("pin hold preview"), QStringLiteral("L"), Scope::board,
       [this] { lockLoupe(locked_.empty()); }},
      {tr("Repeats of the loupe"), tr("tile tiling preview"), QStringLiteral("T"), Scope::board,
       [this] { loupe_->nextRepeats(); }},
      {tr("Histogram"), {}, QStringLiteral("H"), Scope::board, [this] { loupe_->toggleHistogram(); }},
      {tr("Range check of the loupe"), tr("clip clamp overflow out of range"), QStringLiteral("Shift+H"), Scope::board,
       [this] { loupe_->setLook(loupe_->look() == Look::marked ? Look::plain : Look::marked); }},
      {tr("Vectors as arrows in the loupe"),
       {},
       {},
       Scope::window,
       [this] { loupe_->setLook(loupe_->look() == Look::arrows ? Look::plain : Look::arrows); }},
      {tr("Values about zero in the loupe"),
       {},
       {},
       Scope::window,
       [this] { loupe_->setLook(loupe_->look() == Look::about_zero ? Look::plain : Look::about_zero); }},
      {tr("Seam check of the loupe"), tr("tile edge offset half"), QStringLiteral("Shift+T"), Scope::board,
       [this] { loupe_->toggleSeam(); }},
      {tr("Flip between A and B"), tr("compare versions before after"), QStringLiteral("V"), Scope::board,
       [this] { loupe_->flip(); }},
      {tr("Hold A, then B, then let go"), {}, QStringLiteral("Shift+V"), Scope::board, [this] { loupe_->hold(); }},
      {tr("Compare: A, wipe, difference"),
       tr("before after versions split"),
       {},
       Scope::window,
       [this] { loupe_->nextCompare(); }},
      {tr("End following"), {}, {}, Scope::window, [this] { follow({}); }},
      {tr("To the next part of the mesh"), tr("hem material slot select"), QStringLiteral("J"), Scope::window,
       [this] { parts_->next(1); }},
      {tr("To the part of the mesh before"),
       {},
       QStringLiteral("Shift+J"),
       Scope::window,
       [this] { parts_->next(-1); }},
      {tr("Own hem for the part, or the hem of all"), tr("material slot assign mesh"), QStringLiteral("Ctrl+J"),
       Scope::window, [this] { parts_->toggleOwnHem(); }},
      {tr("Draw on the shape, or turn it"), tr("paint brush stroke mesh hand"), QStringLiteral("Shift+B"),
       Scope::window, [this] { painting_->toggleOnShape(); }},
      {tr("Contours on the drape"), tr("outline edges wireframe ink lines"), QStringLiteral("Shift+O"), Scope::window,
       [this] { drape_->toggleContours(); }},
      {tr("Show the output unlit on the shape"), tr("flat albedo preview debug"), QStringLiteral("O"), Scope::board,
       [this] { toggleUnlit(); }}};
}

// Values, parameters and the panels about them.
std::vector<MainWindow::Command> MainWindow::parameterCommands() {
  return {
      {tr("Make a value of the parameter in focus"), tr("share variable reference link"), QStringLiteral("U"),
       Scope::board, [this] { makeValueOfFocus(); }},
      {tr("Values …"), {}, QStringLiteral("Shift+U"), Scope::board, [this] { openValues(); }},
      {tr("The way back of a followed place …"), {}, QStringLiteral("Shift+P"), Scope::window, [this] { openWay(); }},
      {tr("Time and memory by node …"),
       tr("profile performance cost slow"),
       {},
       Scope::window,
       [this] { openTimes(); }},
      {tr("Back to where the board was"),
       {},
       QStringLiteral("Backspace"),
       Scope::board,
       [this] { navigation_->goBack(); }},
      {tr("Keys …"), tr("shortcuts keyboard hotkeys"), QStringLiteral("Ctrl+?"), Scope::window, [this] { openKeys(); }},
      {tr("New seed"), tr("random variation shuffle"), QStringLiteral("N"), Scope::board, [this] { newSeed(); }},
      {tr("Make a dial of the node's first parameter"), tr("expose offer publish parameter input"), QStringLiteral("D"),
       Scope::board, [this] { makeDialOfFocus(); }},
      {tr("To a parameter by its name"), {}, QStringLiteral("="), Scope::board, [this] { findParameter(); }},
      {tr("To the parameters"), {}, QStringLiteral("P"), Scope::board, [this] { tray_->focusFirst(); }},
      {tr("To the board"), {}, QStringLiteral("Alt+B"), Scope::window, [this] { board_->setFocus(); }},
      {tr("Add a lane"), {}, {}, Scope::window, [this] { edit(tr("Add lane"), edit::add_lane(shown(), "New lane")); }}};
}

// Any program takes it: as PNG and the other forms that the desktop knows.
void MainWindow::copyPicture(const QString& what, const QImage& picture) {
  QApplication::clipboard()->setImage(picture);
  say(tr("%1 is on the clipboard, %2 x %3").arg(what).arg(picture.width()).arg(picture.height()));
}

QAction* MainWindow::actionOf(const Command& c) {
  auto* a = new QAction(c.name, this);
  QList<QKeySequence> sequences;
  for (const QString& key : c.keys.split(QLatin1Char(' '), Qt::SkipEmptyParts)) sequences << QKeySequence(key);
  a->setShortcuts(sequences);
  // The board's own keys act only with the board in focus.
  a->setShortcutContext(c.scope == Scope::board ? Qt::WidgetShortcut : Qt::WindowShortcut);
  KeysDialog::noteFirstKeys(*a);
  connect(a, &QAction::triggered, this, [this, c] {
    const QString why = c.whyNot ? c.whyNot() : QString();
    why.isEmpty() ? c.run() : say(why);
  });
  (c.scope == Scope::board ? static_cast<QWidget*>(board_) : this)->addAction(a);
  actions_.push_back(a);
  commands_.push_back(c);
  return a;
}

void MainWindow::makeActions() {
  for (const Command& c : fileCommands()) {
    if (c.name == tr("Save")) files_->listRecentIn(fileMenu_->addMenu(tr("Open recent")));
    if (c.name == tr("Rename the material …") || c.name == tr("Dark palette")) fileMenu_->addSeparator();
    fileMenu_->addAction(actionOf(c));
  }
  for (const auto& group : {editCommands(), boardCommands(), lookCommands(), parameterCommands()})
    for (const Command& c : group) actionOf(c);
}

}  // namespace loom::app
