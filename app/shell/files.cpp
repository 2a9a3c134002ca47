// Documents, bolts and what is dropped on the window.
#include "app/shell/main_window.h"

#include <QCloseEvent>
#include <QDir>
#include <QDragEnterEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QInputDialog>
#include <QMenu>
#include <QMessageBox>
#include <QMimeData>
#include <QSettings>

#include "app/base/elsewhere.h"
#include "app/fitting/fitting_window.h"
#include "core/bolt/package.h"
#include "core/graph/groups.h"
#include "core/graph/json.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"

namespace loom::app {
namespace {

constexpr int kMostRecent = 8;

}  // namespace

bool MainWindow::openPath(const QString& path) {
  if (path.endsWith(QStringLiteral(".bolt"))) return openFitting(path) != nullptr;
  if (!mayLeave()) return false;
  inside_.clear();
  outside_.clear();
  const auto done = document_.open(path);
  if (!done) {
    QMessageBox::warning(this, tr("Cannot open"), QString::fromStdString(done.error().text()));
    return false;
  }
  const auto faults = elsewhere([&] { return validate(document_.material(), catalogue()); });
  if (!faults.empty()) say(QString::fromStdString(faults.front().text()));
  noteRecent(path);
  askForOutside();
  board_->select({});
  board_->fitAll();
  return true;
}

FittingWindow* MainWindow::openFitting(const QString& path) {
  const auto bolt = elsewhere([&]() -> Result<Bolt> {
    auto found = read_bolt(path.toStdString());
    if (!found) return found;
    if (const auto faults = validate(found->material, catalogue()); !faults.empty()) return faults.front();
    return found;
  });
  if (!bolt) {
    QMessageBox::warning(this, tr("Cannot open"), QString::fromStdString(bolt.error().text()));
    return nullptr;
  }
  auto* fitting = new FittingWindow(*bolt, path);
  fitting->setAttribute(Qt::WA_DeleteOnClose);
  connect(fitting, &FittingWindow::openInWeave, this, [this](const Material& m) {
    if (!mayLeave()) return;
    document_.reset(m);
    board_->fitAll();
    show();
    raise();
  });
  fitting->show();
  noteRecent(path);
  return fitting;
}

bool MainWindow::saveTo(const QString& path) {
  const auto done = document_.save(path);
  if (!done) {
    QMessageBox::warning(this, tr("Cannot save"), QString::fromStdString(done.error().text()));
    return false;
  }
  noteRecent(path);
  say(tr("Saved"));
  return true;
}

bool MainWindow::save() { return document_.path().isEmpty() ? saveAs() : saveTo(document_.path()); }

bool MainWindow::saveAs() {
  QString path = QFileDialog::getSaveFileName(
      this, tr("Save as"), document_.path().isEmpty() ? QStringLiteral("material.loom") : document_.path(),
      tr("Materials (*.loom)"));
  if (path.isEmpty()) return false;
  if (!path.endsWith(QStringLiteral(".loom"))) path += QStringLiteral(".loom");
  return saveTo(path);
}

void MainWindow::saveAsBolt() {
  const QString stem =
      QString::fromStdString(document_.material().name).toLower().replace(QLatin1Char(' '), QLatin1Char('-'));
  const QString path = QFileDialog::getSaveFileName(
      this, tr("Save as bolt"), QFileInfo(document_.path()).path() + QLatin1Char('/') + stem + QStringLiteral(".bolt"),
      tr("Bolts (*.bolt)"));
  if (!path.isEmpty()) writeBolt(path);
}

void MainWindow::renameMaterial() {
  bool good = false;
  const QString name = QInputDialog::getText(this, tr("Rename the material"), tr("Name"), QLineEdit::Normal,
                                             QString::fromStdString(document_.material().name), &good);
  if (!good || name.trimmed().isEmpty()) return;
  Material next = document_.material();
  next.name = name.trimmed().toStdString();
  document_.edit(tr("Rename the material"), next);
}

bool MainWindow::mayLeave() {
  if (!document_.isEdited()) return true;
  const auto answer = QMessageBox::question(
      this, tr("Unsaved work"),
      tr("%1 has changes that are not saved.").arg(QString::fromStdString(document_.material().name)),
      QMessageBox::Save | QMessageBox::Discard | QMessageBox::Cancel, QMessageBox::Save);
  if (answer == QMessageBox::Save) return save();
  return answer == QMessageBox::Discard;
}

void MainWindow::newDocument() {
  if (!mayLeave()) return;
  document_.reset(edit::empty_material());
  board_->setZoom(1);
}

void MainWindow::openDialogue() {
  const QString path = QFileDialog::getOpenFileName(this, tr("Open"), QFileInfo(document_.path()).path(),
                                                    tr("Materials and bolts (*.loom *.bolt)"));
  if (!path.isEmpty()) openPath(path);
}

void MainWindow::noteRecent(const QString& path) {
  QSettings settings;
  QStringList list = settings.value(QStringLiteral("recent")).toStringList();
  list.removeAll(QFileInfo(path).absoluteFilePath());
  list.prepend(QFileInfo(path).absoluteFilePath());
  while (list.size() > kMostRecent) list.removeLast();
  settings.setValue(QStringLiteral("recent"), list);
  refreshRecent();
}

void MainWindow::refreshRecent() {
  recent_->clear();
  for (const QString& path : QSettings().value(QStringLiteral("recent")).toStringList())
    if (QFileInfo::exists(path))
      recent_->addAction(QFileInfo(path).fileName() + QStringLiteral("    ") + QFileInfo(path).path(), this,
                         [this, path] { openPath(path); });
  recent_->setEnabled(!recent_->isEmpty());
}

void MainWindow::offerRecovery() {
  for (const QString& file : Document::orphans()) {
    const QString stem = QFileInfo(file).completeBaseName().section(QLatin1Char('-'), 0, -3);
    const auto answer =
        QMessageBox::question(this, tr("Work that was not saved"),
                              tr("'%1' was open when the program ended unexpectedly on %2. Open what was kept?")
                                  .arg(stem, QFileInfo(file).lastModified().toString(Qt::TextDate)),
                              QMessageBox::Open | QMessageBox::Discard | QMessageBox::Cancel, QMessageBox::Open);
    if (answer == QMessageBox::Cancel) return;
    if (answer == QMessageBox::Discard) {
      QFile::remove(file);
      continue;
    }
    const auto done = document_.recover(file);
    if (!done)
      QMessageBox::warning(this, tr("Cannot open"), QString::fromStdString(done.error().text()));
    else {
      askForOutside();
      board_->fitAll();
    }
    return;
  }
}

void MainWindow::closeEvent(QCloseEvent* e) {
  if (!mayLeave()) return e->ignore();
  QSettings settings;
  for (const auto& [key, s] : {std::pair{"columns", columns_}, {"left", left_}, {"right", right_}})
    settings.setValue(QStringLiteral("layout/") + QLatin1String(key), s->saveState());
  document_.reset(document_.material(), document_.path());  // nothing is left to recover
  e->accept();
}

void MainWindow::dragEnterEvent(QDragEnterEvent* e) {
  for (const QUrl& url : e->mimeData()->urls())
    if (url.toLocalFile().endsWith(QStringLiteral(".loom")) || url.toLocalFile().endsWith(QStringLiteral(".bolt")))
      e->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* e) {
  for (const QUrl& url : e->mimeData()->urls()) {
    openPath(url.toLocalFile());
    break;
  }
}

}  // namespace loom::app
