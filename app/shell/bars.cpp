// The window's bar and racks.
#include "app/shell/main_window.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QToolButton>
#include <QVBoxLayout>
#include <QtMath>

#include "app/base/theme.h"
#include "app/board/add_line.h"
#include "app/shell/rack_icon.h"

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
  edited_->setFixedWidth(qCeil(advanceOf(textFont(12), tr("edited"))) + 2);  // its coming and going moves nothing
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
  auto* boltWord = word(tr("Bolt"));
  auto* deliverWord = word(tr("Deliver"));
  auto* commands = word(tr("Commands"));
  connect(dials, &QToolButton::clicked, this, [this] { openDials(); });
  connect(boltWord, &QToolButton::clicked, this, [this] { openBolt(); });
  connect(deliverWord, &QToolButton::clicked, this, [this] { openDelivery(); });
  connect(commands, &QToolButton::clicked, this, &MainWindow::commandLine);
  row->addWidget(title);
  row->addWidget(name_);
  row->addWidget(edited_);
  row->addSpacing(8);
  row->addWidget(file);
  row->addWidget(dials);
  row->addWidget(boltWord);
  row->addWidget(deliverWord);
  row->addWidget(commands);
  row->addSpacing(10);
  for (const auto& [name, of] : {std::pair(tr("Stockroom"), Workspace::stockroom),
                                 {tr("Weave"), Workspace::weave},
                                 {tr("Proof"), Workspace::proof}}) {
    auto* b = word(name);
    b->setCheckable(true);
    b->setChecked(of == Workspace::weave);
    b->setAccessibleName(tr("Workspace %1").arg(name));
    setRole(b, "workspace");
    connect(b, &QToolButton::clicked, this, [this, of = of] { showWorkspace(of); });
    workspaceButtons_[static_cast<std::size_t>(of)] = b;
    row->addWidget(b);
  }
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
    connect(b, &QToolButton::clicked, this, [this, i] { board_->commands().openAddLine(static_cast<int>(i)); });
    box->addWidget(b);
    rackButtons_.push_back(b);
  }
  box->addStretch(1);
  return panel;
}

}  // namespace loom::app
