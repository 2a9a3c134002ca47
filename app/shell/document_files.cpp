#include "app/shell/document_files.h"

#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QInputDialog>
#include <QMenu>
#include <QMessageBox>
#include <QSettings>
#include <QTimer>
#include <filesystem>

#include "app/base/elsewhere.h"
#include "app/fitting/fitting_window.h"
#include "core/bolt/bolt_node.h"
#include "core/bolt/lit_pictures.h"
#include "core/bolt/package.h"
#include "core/graph/allowed_files.h"
#include "core/graph/edit.h"
#include "core/graph/groups.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"

namespace loom::app {
namespace {

constexpr int kMostRecent = 8;

}  // namespace

DocumentFiles::DocumentFiles(Document& document, QWidget* window)
    : QObject(window), document_(document), window_(window) {
  connect(&watched_, &QFileSystemWatcher::fileChanged, this, [this] {
    // Programs that save by renaming take the watched file away: it is looked for again a moment later.
    QTimer::singleShot(150, this, [this] { reload(); });
  });
}

DocumentFiles::~DocumentFiles() {
  for (const auto& fitting : fittings_) delete fitting.data();
}

// ---- opening

bool DocumentFiles::open(const QString& path) {
  if (path.endsWith(QStringLiteral(".bolt"))) return openFitting(path) != nullptr;
  if (!mayLeave()) return false;
  const auto done = document_.open(path);
  if (!done) {
    QMessageBox::warning(window_, tr("Cannot open"), QString::fromStdString(done.error().text()));
    return false;
  }
  Q_EMIT opened();
  const auto faults = elsewhere([&] {
    Material looked_at = document_.material();
    const auto missing = take_bolts(looked_at);  // says more than that a node has no definition
    return missing.empty() ? validate(looked_at, catalogue()) : missing;
  });
  if (!faults.empty()) Q_EMIT message(QString::fromStdString(faults.front().text()));
  noteRecent(path);
  askForOutside();
  return true;
}

namespace {

Result<Bolt> as_bolt(Result<Material> material) {
  if (!material) return material.error();
  return Bolt{std::move(material).value()};
}

}  // namespace

std::optional<Bolt> DocumentFiles::read(const QString& path) {
  auto bolt = elsewhere([&]() -> Result<Bolt> {
    const bool loose = path.endsWith(QStringLiteral(".loom"));
    auto found = loose ? as_bolt(open_material(path.toStdString())) : read_bolt(path.toStdString());
    if (!found) return found;
    if (const auto faults = validate(found->material, catalogue()); !faults.empty()) return faults.front();
    return found;
  });
  if (bolt) return std::move(bolt).value();
  QMessageBox::warning(window_, tr("Cannot open"), QString::fromStdString(bolt.error().text()));
  return {};
}

void DocumentFiles::take(const Material& material) {
  if (!mayLeave()) return;
  document_.reset(material);
  Q_EMIT opened();
  window_->show();
  window_->raise();
}

void DocumentFiles::openGraph(const QString& path) {
  if (const auto bolt = read(path)) take(bolt->material);
}

FittingWindow* DocumentFiles::openFitting(const QString& path) {
  const auto bolt = read(path);
  if (!bolt) return nullptr;
  auto* fitting = new FittingWindow(*bolt, path);
  fitting->setAttribute(Qt::WA_DeleteOnClose);
  fittings_.removeAll(nullptr);
  fittings_ << fitting;
  connect(fitting, &FittingWindow::openInWeave, this, &DocumentFiles::take);
  connect(fitting, &FittingWindow::openWanted, this, &DocumentFiles::openFitting);
  connect(fitting, &FittingWindow::stockroomWanted, this, &DocumentFiles::stockroomWanted);
  if (stock_) fitting->offer(*stock_);
  fitting->show();
  noteRecent(path);
  return fitting;
}

void DocumentFiles::openDialogue() {
  const QString path = QFileDialog::getOpenFileName(window_, tr("Open"), QFileInfo(document_.path()).path(),
                                                    tr("Materials and bolts (*.loom *.bolt)"));
  if (!path.isEmpty()) open(path);
}

bool DocumentFiles::newDocument() {
  if (!mayLeave()) return false;
  document_.reset(edit::empty_material());
  Q_EMIT begun();
  return true;
}

void DocumentFiles::offerRecovery() {
  for (const QString& file : Document::orphans()) {
    const QString stem = QFileInfo(file).completeBaseName().section(QLatin1Char('-'), 0, -3);
    const auto answer =
        QMessageBox::question(window_, tr("Work that was not saved"),
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
      QMessageBox::warning(window_, tr("Cannot open"), QString::fromStdString(done.error().text()));
    else {
      Q_EMIT opened();
      askForOutside();
    }
    return;
  }
}

// ---- saving

bool DocumentFiles::saveTo(const QString& path) {
  const auto done = document_.save(path);
  if (!done) {
    QMessageBox::warning(window_, tr("Cannot save"), QString::fromStdString(done.error().text()));
    return false;
  }
  noteRecent(path);
  Q_EMIT message(tr("Saved"));
  return true;
}

bool DocumentFiles::save() { return document_.path().isEmpty() ? saveAs() : saveTo(document_.path()); }

bool DocumentFiles::saveAs() {
  QString path = QFileDialog::getSaveFileName(
      window_, tr("Save as"), document_.path().isEmpty() ? QStringLiteral("material.loom") : document_.path(),
      tr("Materials (*.loom)"));
  if (path.isEmpty()) return false;
  if (!path.endsWith(QStringLiteral(".loom"))) path += QStringLiteral(".loom");
  return saveTo(path);
}

void DocumentFiles::saveAsBolt() {
  const QString stem =
      QString::fromStdString(document_.material().name).toLower().replace(QLatin1Char(' '), QLatin1Char('-'));
  const QString path = QFileDialog::getSaveFileName(
      window_, tr("Save as bolt"),
      QFileInfo(document_.path()).path() + QLatin1Char('/') + stem + QStringLiteral(".bolt"), tr("Bolts (*.bolt)"));
  if (!path.isEmpty()) writeBolt(path);
}

bool DocumentFiles::writeBolt(const QString& path) {
  Bolt bolt{document_.material()};
  const auto done = elsewhere([&]() -> Result<Done> {
    if (const auto faults = validate(bolt.material, catalogue()); !faults.empty()) return faults.front();
    if (auto made = add_pictures(bolt, Stop{}); !made) return made;
    return write_bolt(path.toStdString(), bolt);
  });
  if (!done)
    QMessageBox::warning(window_, tr("Cannot write the bolt"), QString::fromStdString(done.error().text()));
  else
    Q_EMIT message(tr("Written: %1").arg(QFileInfo(path).fileName()));
  return done.ok();
}

void DocumentFiles::renameMaterial() {
  bool good = false;
  const QString name = QInputDialog::getText(window_, tr("Rename the material"), tr("Name"), QLineEdit::Normal,
                                             QString::fromStdString(document_.material().name), &good);
  if (!good || name.trimmed().isEmpty()) return;
  Material next = document_.material();
  next.name = name.trimmed().toStdString();
  document_.edit(tr("Rename the material"), next);
}

bool DocumentFiles::mayLeave() {
  if (!document_.isEdited()) return true;
  const auto answer = QMessageBox::question(
      window_, tr("Unsaved work"),
      tr("%1 has changes that are not saved.").arg(QString::fromStdString(document_.material().name)),
      QMessageBox::Save | QMessageBox::Discard | QMessageBox::Cancel, QMessageBox::Save);
  if (answer == QMessageBox::Save) return save();
  return answer == QMessageBox::Discard;
}

// ---- lately used

void DocumentFiles::listRecentIn(QMenu* menu) {
  recentMenu_ = menu;
  listRecent();
}

void DocumentFiles::noteRecent(const QString& path) {
  QSettings settings;
  QStringList list = settings.value(QStringLiteral("recent")).toStringList();
  list.removeAll(QFileInfo(path).absoluteFilePath());
  list.prepend(QFileInfo(path).absoluteFilePath());
  while (list.size() > kMostRecent) list.removeLast();
  settings.setValue(QStringLiteral("recent"), list);
  listRecent();
}

void DocumentFiles::listRecent() {
  if (!recentMenu_) return;
  recentMenu_->clear();
  for (const QString& path : QSettings().value(QStringLiteral("recent")).toStringList())
    if (QFileInfo::exists(path))
      recentMenu_->addAction(QFileInfo(path).fileName() + QStringLiteral("    ") + QFileInfo(path).path(), this,
                             [this, path] { open(path); });
  recentMenu_->setEnabled(!recentMenu_->isEmpty());
}

// ---- files that the material reads

ParamValue DocumentFiles::besideDocument(const ParamValue& value) const {
  const auto* name = std::get_if<std::string>(&value);
  return name ? ParamValue(document_.nameOf(*name)) : value;
}

void DocumentFiles::reload() {
  watch();
  Q_EMIT changedOnDisc();
}

// Whoever chooses a file wants it read, wherever it lies.
void DocumentFiles::allowChosen(const ParamValue& value) {
  const auto* name = std::get_if<std::string>(&value);
  const auto& files = document_.material().files;
  if (name && !name->empty()) allow_files((files ? files->folder : std::filesystem::path()) / *name);
}

// Files outside a document's folder are read only if the person agrees: a stranger's document may name any.
void DocumentFiles::askForOutside() {
  const Material& m = document_.material();
  const FileRoot root = m.files ? *m.files : FileRoot{};
  QStringList named;
  for (const std::string& name : edit::file_names(m, catalogue()))
    if (leads_outside(root, name)) named << QString::fromStdString((root.folder / name).lexically_normal().string());
  if (named.isEmpty()) return;
  QMessageBox box(QMessageBox::Question, tr("Files outside the document's folder"),
                  tr("%1 wants to read files from elsewhere. Read them?").arg(QString::fromStdString(m.name)),
                  QMessageBox::Yes | QMessageBox::No, window_);
  box.setInformativeText(named.mid(0, 12).join(QLatin1Char('\n')) +
                         (named.size() > 12 ? tr("\nand %1 more").arg(named.size() - 12) : QString()));
  box.setDefaultButton(QMessageBox::No);
  if (box.exec() != QMessageBox::Yes) return;
  for (const QString& file : named) allow_files(file.toStdString());
  takeBoltsFound();
  reload();
}

// Bolts that could not be read before are nodes without pegs.
void DocumentFiles::takeBoltsFound() {
  Material found = document_.material();
  const std::size_t before = found.bolts.size();
  elsewhere([&] { return take_bolts(found); });
  if (found.bolts.size() == before) return;
  if (document_.isEdited())
    document_.edit(tr("Read its bolts"), found);
  else
    document_.reset(found, document_.path());
}

// What changes on disc is woven anew: an edited drawing shows at once.
void DocumentFiles::watch() {
  const Material& m = document_.material();
  if (m.files && m.files->sealed) return;
  QStringList wanted;
  for (const std::string& name : edit::file_names(m, catalogue())) {
    const std::filesystem::path path =
        std::filesystem::path(name).is_absolute() || !m.files ? std::filesystem::path(name) : m.files->folder / name;
    if (std::filesystem::exists(path)) wanted << QString::fromStdString(path.string());
  }
  const QStringList now = watched_.files();
  for (const QString& path : now)
    if (!wanted.contains(path)) watched_.removePath(path);
  for (const QString& path : wanted)
    if (!now.contains(path)) watched_.addPath(path);
}

}  // namespace loom::app

#include "moc_document_files.cpp"
