// The window's bar, racks and commands.
#include "app/shell/main_window.h"

#include <QAction>
#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/board/add_line.h"
#include "app/shell/keys_dialog.h"
#include "app/shell/rack_icon.h"
#include "app/shell/theme.h"
#include "core/graph/groups.h"
#include "core/graph/rework.h"

namespace loom::app {

QWidget* MainWindow::topBar() {
  auto* bar = new QWidget;
  setRole(bar, "bar");
  bar->setFixedHeight(42);
  bar->setAutoFillBackground(true);
  auto* row = new QHBoxLayout(bar);
  row->setContentsMargins(24, 0, 24, 0);
  row->setSpacing(10);
  auto* title = new QLabel(QStringLiteral("Wild Loom"));
  setRole(title, "name");
  name_ = new QLabel;
  edited_ = new QLabel;
  setRole(edited_, "caution");
  status_ = new QLabel;
  message_ = new QLabel;
  setRole(message_, "accent");
  message_->setAccessibleName(tr("Message"));
  message_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);  // a long message must not widen the window
  message_->setAlignment(Qt::AlignCenter);
  const auto word = [&](const QString& text) {
    auto* b = new QToolButton;
    b->setText(text);
    b->setProperty("word", true);
    b->setPopupMode(QToolButton::InstantPopup);
    return b;
  };
  auto* file = word(tr("File"));
  fileMenu_ = new QMenu(file);
  file->setMenu(fileMenu_);
  auto* dials = word(tr("Dials"));
  auto* deliverWord = word(tr("Deliver"));
  auto* commands = word(tr("Commands"));
  connect(dials, &QToolButton::clicked, this, [this] { openDials(); });
  connect(deliverWord, &QToolButton::clicked, this, [this] { openDelivery(); });
  connect(commands, &QToolButton::clicked, this, &MainWindow::commandLine);
  row->addWidget(title);
  row->addWidget(name_);
  row->addWidget(edited_);
  row->addSpacing(8);
  row->addWidget(file);
  row->addWidget(dials);
  row->addWidget(deliverWord);
  row->addWidget(commands);
  row->addWidget(message_, 1);
  row->addWidget(status_);
  return bar;
}

QWidget* MainWindow::racks() {
  auto* panel = new QWidget;
  setRole(panel, "racks");
  panel->setMinimumWidth(62);
  panel->setMaximumWidth(76);
  panel->setAutoFillBackground(true);
  auto* box = new QVBoxLayout(panel);
  box->setContentsMargins(2, 10, 2, 10);
  box->setSpacing(4);
  for (std::size_t i = 0; i <= kRackLabels.size(); ++i) {
    auto* b = new QToolButton;
    b->setText(i < kRackLabels.size() ? QString::fromLatin1(kRackLabels[i]) : tr("Groups"));
    b->setIcon(rackIcon(static_cast<int>(i)));
    b->setIconSize(QSize(26, 22));
    b->setToolButtonStyle(Qt::ToolButtonTextUnderIcon);
    b->setAutoRaise(true);
    b->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    setRole(b, "rack");
    b->setAccessibleName(tr("Rack %1").arg(b->text()));
    connect(b, &QToolButton::clicked, this, [this, i] { board_->openAddLine(static_cast<int>(i)); });
    box->addWidget(b);
    rackButtons_.push_back(b);
  }
  box->addStretch(1);
  return panel;
}

QAction* MainWindow::action(const QString& name, const QString& keys, const std::function<void()>& run,
                            QWidget* scope) {
  auto* a = new QAction(name, this);
  QList<QKeySequence> sequences;
  for (const QString& key : keys.split(QLatin1Char(' '), Qt::SkipEmptyParts)) sequences << QKeySequence(key);
  a->setShortcuts(sequences);
  a->setShortcutContext(scope ? Qt::WidgetShortcut : Qt::WindowShortcut);
  KeysDialog::noteFirstKeys(*a);
  connect(a, &QAction::triggered, this, run);
  (scope ? scope : this)->addAction(a);
  commands_.push_back(a);
  return a;
}

// Other words of the trade by which a command is found.
void MainWindow::wordCommands() {
  const std::vector<std::pair<QString, QString>> words{
      {tr("New"), tr("create document material start")},
      {tr("Open …"), tr("load file document")},
      {tr("Save"), tr("store write file")},
      {tr("Save as bolt …"), tr("package pack publish share utility")},
      {tr("Deliver …"), tr("export render output maps textures write files png exr")},
      {tr("Dials …"), tr("expose interface inputs controls parameters presets")},
      {tr("Dark palette"), tr("dark mode theme night light appearance")},
      {tr("Close"), tr("quit exit")},
      {tr("Undo"), tr("back revert step")},
      {tr("Redo"), tr("again forward step")},
      {tr("Reload changed files"), tr("refresh images pictures update")},
      {tr("Find a node"), tr("search locate jump")},
      {tr("Make a dial of the parameter in focus"), tr("expose offer publish parameter input")},
      {tr("Make a dial of the node's first parameter"), tr("expose offer publish parameter input")},
      {tr("Make a value of the parameter in focus"), tr("share variable reference link")},
      {tr("Add a node"), tr("create insert new")},
      {tr("Weave the selected together"), tr("connect link wire chain")},
      {tr("Start a thread by keyboard"), tr("connect link wire")},
      {tr("Lead threads by keyboard"), tr("route bend way")},
      {tr("Cut threads with a stroke"), tr("disconnect unlink remove slice")},
      {tr("Delete"), tr("remove erase")},
      {tr("Duplicate"), tr("copy clone double")},
      {tr("Duplicate with inputs"), tr("copy clone keep connections")},
      {tr("Bypass"), tr("mute disable skip off pass through")},
      {tr("Rename"), tr("name title label")},
      {tr("Tidy"), tr("arrange align layout clean order")},
      {tr("Fold into a group"), tr("collapse subgraph nest enclose")},
      {tr("Take the group apart"), tr("ungroup explode dissolve unfold")},
      {tr("Look inside the group"), tr("enter open edit subgraph")},
      {tr("Out of the group"), tr("leave exit up parent")},
      {tr("Make the group a copy of its own"), tr("unique independent unlink")},
      {tr("Keep the group as a template"), tr("save library reuse preset")},
      {tr("Add an input to the group"), tr("expose peg")},
      {tr("Visit a mark"), tr("bookmark go jump")},
      {tr("Set a mark"), tr("bookmark remember")},
      {tr("Write a note"), tr("comment annotation text")},
      {tr("Show threads by name, or as lines"), tr("alias hide")},
      {tr("Splice in"), tr("insert between")},
      {tr("Lift out"), tr("extract dissolve remove keep connections")},
      {tr("Replace"), tr("change type exchange")},
      {tr("Swap inputs"), tr("exchange flip reverse")},
      {tr("Blend the two selected"), tr("mix merge combine layer")},
      {tr("Begin, rename or end a stage"), tr("band section")},
      {tr("Delete what feeds nothing …"), tr("clean unused orphan")},
      {tr("Fit all"), tr("frame zoom whole home")},
      {tr("Fit the selection"), tr("frame zoom focus")},
      {tr("Show the next output in the loupe"), tr("preview view inspect")},
      {tr("Lock the loupe"), tr("pin hold preview")},
      {tr("Repeats of the loupe"), tr("tile tiling preview")},
      {tr("Range check of the loupe"), tr("clip clamp overflow out of range")},
      {tr("Seam check of the loupe"), tr("tile edge offset half")},
      {tr("Flip between A and B"), tr("compare versions before after")},
      {tr("Compare: A, wipe, difference"), tr("before after versions split")},
      {tr("Show the output unlit on the shape"), tr("flat albedo preview debug")},
      {tr("New seed"), tr("random variation shuffle")},
      {tr("Time and memory by node …"), tr("profile performance cost slow")},
      {tr("Keys …"), tr("shortcuts keyboard hotkeys")},
      {tr("Help of the node"), tr("documentation manual")}};
  for (QAction* a : commands_)
    for (const auto& [name, other] : words)
      if (a->text() == name) a->setData(other);
}

void MainWindow::makeActions() {
  // Files.
  fileMenu_->addAction(action(tr("New"), QStringLiteral("Ctrl+N"), [this] { newDocument(); }));
  fileMenu_->addAction(action(tr("Open …"), QStringLiteral("Ctrl+O"), [this] { openDialogue(); }));
  recent_ = fileMenu_->addMenu(tr("Open recent"));
  fileMenu_->addAction(action(tr("Save"), QStringLiteral("Ctrl+S"), [this] { save(); }));
  fileMenu_->addAction(action(tr("Save as …"), QStringLiteral("Ctrl+Shift+S"), [this] { saveAs(); }));
  fileMenu_->addAction(action(tr("Save as bolt …"), {}, [this] {
    const QString path = QFileDialog::getSaveFileName(
        this, tr("Save as bolt"),
        QFileInfo(document_.path()).path() + QLatin1Char('/') +
            QString::fromStdString(document_.material().name).toLower().replace(QLatin1Char(' '), QLatin1Char('-')) +
            QStringLiteral(".bolt"),
        tr("Bolts (*.bolt)"));
    if (!path.isEmpty()) writeBolt(path);
  }));
  fileMenu_->addSeparator();
  fileMenu_->addAction(action(tr("Rename the material …"), {}, [this] {
    bool good = false;
    const QString name = QInputDialog::getText(this, tr("Rename the material"), tr("Name"), QLineEdit::Normal,
                                               QString::fromStdString(document_.material().name), &good);
    if (!good || name.trimmed().isEmpty()) return;
    Material next = document_.material();
    next.name = name.trimmed().toStdString();
    document_.edit(tr("Rename the material"), next);
  }));
  fileMenu_->addAction(action(tr("Reload changed files"), QStringLiteral("F5"), [this] {
    reloadFiles();
    say(tr("Files were looked at again"));
  }));
  fileMenu_->addAction(action(tr("Deliver …"), QStringLiteral("Ctrl+E"), [this] { openDelivery(); }));
  fileMenu_->addAction(action(tr("Dials …"), {}, [this] { openDials(); }));
  fileMenu_->addSeparator();
  fileMenu_->addAction(action(tr("Dark palette"), {}, [this] { toggleNight(); }));
  fileMenu_->addAction(action(tr("Close"), QStringLiteral("Ctrl+Q"), [this] { close(); }));
  refreshRecent();
  action(tr("Undo"), QStringLiteral("Ctrl+Z"), [this] {
    if (document_.canUndo()) {
      say(tr("Undone: %1").arg(document_.undoName()));
      document_.undo();
    }
  });
  action(tr("Redo"), QStringLiteral("Ctrl+Shift+Z Ctrl+Y"), [this] {
    if (document_.canRedo()) {
      say(tr("Redone: %1").arg(document_.redoName()));
      document_.redo();
    }
  });
  action(tr("Help of the node"), QStringLiteral("F1"), [this] { openHelp(); });
  action(tr("Commands"), QStringLiteral("Ctrl+K"), [this] { commandLine(); });
  action(tr("Find a node"), QStringLiteral("Ctrl+F"), [this] { find(); });
  action(tr("Make a dial of the parameter in focus"), {}, [this] { makeDialOfFocus(); });
  // The board's own keys act only with the board in focus.
  QWidget* b = board_;
  action(
      tr("Add a node"), QStringLiteral("/ Ins"), [this] { board_->openAddLine(); }, b);
  action(
      tr("Weave the selected together"), QStringLiteral("W"), [this] { board_->weaveSelected(); }, b);
  action(
      tr("Start a thread by keyboard"), QStringLiteral("Shift+W"), [this] { board_->startThread(); }, b);
  action(
      tr("Lead threads by keyboard"), QStringLiteral("G"), [this] { board_->leadByKeys(); }, b);
  action(
      tr("Delete"), QStringLiteral("Del"), [this] { board_->removeSelected(); }, b);
  action(
      tr("Duplicate"), QStringLiteral("Ctrl+D"), [this] { board_->duplicateSelected(false); }, b);
  action(
      tr("Duplicate with inputs"), QStringLiteral("Ctrl+Alt+D"), [this] { board_->duplicateSelected(true); }, b);
  action(
      tr("Copy"), QStringLiteral("Ctrl+C"), [this] { board_->copySelected(); }, b);
  action(
      tr("Paste"), QStringLiteral("Ctrl+V"), [this] { board_->pasteHere(); }, b);
  action(
      tr("Bypass"), QStringLiteral("B"), [this] { board_->bypassSelected(); }, b);
  action(
      tr("Rename"), QStringLiteral("F2"), [this] { board_->renameSelected(); }, b);
  action(
      tr("Tidy"), QStringLiteral("C"), [this] { edit(tr("Tidy"), edit::tidy(shown())); }, b);
  action(
      tr("Fold into a group"), QStringLiteral("Ctrl+G"), [this] { board_->foldSelected(); }, b);
  action(
      tr("Take the group apart"), QStringLiteral("Ctrl+Shift+G"), [this] { board_->takeApartSelected(); }, b);
  action(
      tr("Look inside the group"), QStringLiteral("Alt+Down"), [this] { board_->lookInside(); }, b);
  action(
      tr("Out of the group"), QStringLiteral("Alt+Up"), [this] { goOut(); }, b);
  action(tr("Make the group a copy of its own"), {}, [this] { board_->copyOfItsOwn(); });
  action(tr("Keep the group as a template"), {}, [this] { keepTemplate(); });
  action(tr("Add an input to the group"), {}, [this] {
    if (inside_.empty()) return say(tr("Look inside a group first"));
    edit(tr("Add an input"), edit::add_group_input(shown(), "Input"));
  });
  action(
      tr("Visit a mark"), QStringLiteral("M"), [this] { board_->awaitMark(false); }, b);
  action(
      tr("Set a mark"), QStringLiteral("Shift+M"), [this] { board_->awaitMark(true); }, b);
  action(tr("Marks …"), {}, [this] { listMarks(); });
  action(
      tr("Write a note"), QStringLiteral("Shift+N"), [this] { board_->writeNote(); }, b);
  action(
      tr("Show threads by name, or as lines"), QStringLiteral("A"), [this] { board_->toggleAliases(); }, b);
  action(
      tr("Cut threads with a stroke"), QStringLiteral("K"), [this] { board_->cutThreads(!board_->cutting()); }, b);
  action(
      tr("Splice in"), QStringLiteral("I"), [this] { board_->spliceIn(); }, b);
  action(
      tr("Lift out"), QStringLiteral("Ctrl+Del"), [this] { board_->liftOutSelected(); }, b);
  action(
      tr("Replace"), QStringLiteral("R"), [this] { board_->replaceSelected(); }, b);
  action(
      tr("Swap inputs"), QStringLiteral("S"), [this] { board_->swapInputs(); }, b);
  action(
      tr("Blend the two selected"), QStringLiteral("Y"), [this] { board_->blendSelected(); }, b);
  action(
      tr("Next mode"), QStringLiteral("."), [this] { board_->stepMode(1); }, b);
  action(
      tr("Previous mode"), QStringLiteral(","), [this] { board_->stepMode(-1); }, b);
  action(
      tr("Select what feeds the selection"), QStringLiteral("Shift+Up"), [this] { board_->selectUpstream(); }, b);
  action(
      tr("Select what the selection feeds"), QStringLiteral("Shift+Down"), [this] { board_->selectDownstream(); }, b);
  action(
      tr("Copy parameters"), QStringLiteral("Ctrl+Shift+C"), [this] { board_->copyParameters(); }, b);
  action(
      tr("Paste parameters"), QStringLiteral("Ctrl+Shift+V"), [this] { board_->pasteParameters(); }, b);
  action(
      tr("Begin, rename or end a stage"), QStringLiteral("Shift+R"), [this] { board_->nameStage(); }, b);
  action(
      tr("Paste chosen parameters"), QStringLiteral("Ctrl+Alt+V"), [this] { board_->pasteChosenParameters(); }, b);
  action(tr("Delete what feeds nothing …"), {}, [this] { removeIdle(); });
  action(
      tr("Fit all"), QStringLiteral("Home"), [this] { board_->fitAll(); }, b);
  action(
      tr("Fit the selection"), QStringLiteral("Shift+Home"), [this] { board_->fitSelection(); }, b);
  action(
      tr("Zoom in"), QStringLiteral("Ctrl++ Ctrl+="), [this] { board_->setZoom(board_->zoom() * 1.15); }, b);
  action(
      tr("Zoom out"), QStringLiteral("Ctrl+-"), [this] { board_->setZoom(board_->zoom() / 1.15); }, b);
  action(
      tr("Show the next output in the loupe"), QStringLiteral("Return Enter"), [this] { board_->nextOutput(); }, b);
  action(
      tr("Lock the loupe"), QStringLiteral("L"), [this] { lockLoupe(locked_.empty()); }, b);
  action(
      tr("Repeats of the loupe"), QStringLiteral("T"), [this] { loupe_->nextRepeats(); }, b);
  action(
      tr("Histogram"), QStringLiteral("H"), [this] { loupe_->toggleHistogram(); }, b);
  action(
      tr("Range check of the loupe"), QStringLiteral("Shift+H"),
      [this] { loupe_->setLook(loupe_->look() == Look::marked ? Look::plain : Look::marked); }, b);
  action(tr("Vectors as arrows in the loupe"), {},
         [this] { loupe_->setLook(loupe_->look() == Look::arrows ? Look::plain : Look::arrows); });
  action(tr("Values about zero in the loupe"), {},
         [this] { loupe_->setLook(loupe_->look() == Look::about_zero ? Look::plain : Look::about_zero); });
  action(
      tr("Seam check of the loupe"), QStringLiteral("Shift+T"), [this] { loupe_->toggleSeam(); }, b);
  action(
      tr("Flip between A and B"), QStringLiteral("V"), [this] { loupe_->flip(); }, b);
  action(
      tr("Hold A, then B, then let go"), QStringLiteral("Shift+V"), [this] { loupe_->hold(); }, b);
  action(tr("Compare: A, wipe, difference"), {}, [this] { loupe_->nextCompare(); });
  action(tr("End following"), {}, [this] { follow({}); });
  action(
      tr("Show the output unlit on the shape"), QStringLiteral("O"), [this] { toggleUnlit(); }, b);
  action(
      tr("Make a value of the parameter in focus"), QStringLiteral("U"), [this] { makeValueOfFocus(); }, b);
  action(
      tr("Values …"), QStringLiteral("Shift+U"), [this] { openValues(); }, b);
  action(tr("The way back of a followed place …"), QStringLiteral("Shift+P"), [this] { openWay(); });
  action(tr("Time and memory by node …"), {}, [this] { openTimes(); });
  action(
      tr("Back to where the board was"), QStringLiteral("Backspace"), [this] { goBack(); }, b);
  action(tr("Keys …"), QStringLiteral("Ctrl+?"), [this] { openKeys(); });
  action(
      tr("New seed"), QStringLiteral("N"), [this] { newSeed(); }, b);
  action(
      tr("Make a dial of the node's first parameter"), QStringLiteral("D"), [this] { makeDialOfFocus(); }, b);
  action(
      tr("To a parameter by its name"), QStringLiteral("="), [this] { findParameter(); }, b);
  action(
      tr("To the parameters"), QStringLiteral("P"), [this] { tray_->focusFirst(); }, b);
  action(tr("To the board"), QStringLiteral("Alt+B"), [this] { board_->setFocus(); });
  action(tr("Add a lane"), {}, [this] { edit(tr("Add lane"), edit::add_lane(shown(), "New lane")); });
  wordCommands();
}

}  // namespace loom::app
