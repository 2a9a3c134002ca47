// States are whole materials that share their nodes: thousands of them are cheap.
#include "app/engine/document.h"

#include <signal.h>

#include <QCoreApplication>
#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QStandardPaths>

#include "app/base/elsewhere.h"
#include "core/bolt/bolt_node.h"
#include "core/bolt/package.h"
#include "core/graph/allowed_files.h"
#include "core/graph/disc.h"
#include "core/graph/edit.h"
#include "core/graph/json.h"
#include "core/nodes/catalogue.h"

namespace loom::app {
namespace {

constexpr std::size_t kMostStates = 5000;
constexpr std::size_t kLeastStates = 20;  // however little memory there is
constexpr std::size_t kShareOfBudget = 16;
constexpr int kAutosaveDelay = 1000;  // ms after the first edit that is not kept yet
constexpr std::size_t kNever = static_cast<std::size_t>(-1);

QString autosaveFolder() {
  const QString folder =
      QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation) + QStringLiteral("/autosave");
  QDir().mkpath(folder);
  return folder;
}

// What a state takes that it does not share with the one before: its lists, and a node or two.
std::size_t bytesOf(const Material& m) {
  constexpr std::size_t kNode = sizeof(Node) + 512, kSmall = 256;
  std::size_t strokes = 0;  // the longest list of them, which is copied, and the last one, which is new
  for (const NodePtr& n : m.nodes)
    for (const auto& [id, value] : n->params)
      if (const auto* s = std::get_if<Strokes>(&value); s && !s->all.empty())
        strokes = std::max(strokes, s->all.size() * sizeof(HandStrokePtr) +
                                        s->all.back()->points.size() * sizeof(StrokePoint) + sizeof(HandStroke));
  return strokes + sizeof(Material) + kNode + m.nodes.size() * sizeof(NodePtr) + m.threads.size() * sizeof(Thread) +
         m.groups.size() * sizeof(m.groups[0]) +
         kSmall * (m.lanes.size() + m.values.size() + m.presets.size() + m.guides.size() + m.notes_on.size() +
                   8 * m.part_hems.size());
}

}  // namespace

Document::State::State(Material m, const QString& n) : name(n) { set(std::move(m)); }

void Document::State::set(Material m) {
  material = std::move(m);
  bytes = Booked(bytesOf(material));
}

Document::Document(QObject* parent) : QObject(parent) {
  states_.emplace_back(edit::empty_material(), QString());
  writer_.setMaxThreadCount(1);
  autosave_.setSingleShot(true);
  autosave_.setInterval(kAutosaveDelay);
  connect(&autosave_, &QTimer::timeout, this, [this] { autosaveNow(); });
}

Document::~Document() { dropAutosave(); }

void Document::edit(const QString& name, Material next, const QString& gesture) {
  if (!gesture.isEmpty() && gesture == gesture_ && at_ != saved_) {
    states_.erase(states_.begin() + static_cast<std::ptrdiff_t>(at_) + 1, states_.end());
    states_[at_].set(std::move(next));
  } else {
    if (saved_ > at_ && saved_ != kNever) saved_ = kNever;  // the saved state lies on a branch that is now cut
    states_.erase(states_.begin() + static_cast<std::ptrdiff_t>(at_) + 1, states_.end());
    states_.emplace_back(std::move(next), name);
    ++at_;
    forgetOldest();
  }
  gesture_ = gesture;
  scheduleAutosave();
  Q_EMIT changed();
}

// What is undone farther back than anyone looks, or than there is memory for.
void Document::forgetOldest() {
  std::size_t bytes = 0, gone = 0;
  for (const State& s : states_) bytes += s.bytes.bytes();
  for (std::size_t left = states_.size();
       left > kMostStates || (left > kLeastStates && bytes > memory_budget() / kShareOfBudget); --left)
    bytes -= states_[gone++].bytes.bytes();
  states_.erase(states_.begin(), states_.begin() + static_cast<std::ptrdiff_t>(gone));
  at_ -= gone;
  saved_ = saved_ < gone || saved_ == kNever ? kNever : saved_ - gone;
}

void Document::undo() {
  if (!canUndo()) return;
  gesture_.clear();
  --at_;
  scheduleAutosave();
  Q_EMIT changed();
}

void Document::redo() {
  if (!canRedo()) return;
  gesture_.clear();
  ++at_;
  scheduleAutosave();
  Q_EMIT changed();
}

void Document::reset(Material material, const QString& path) {
  dropAutosave();
  states_.clear();
  states_.emplace_back(std::move(material), QString());
  at_ = saved_ = 0;
  path_ = path;
  gesture_.clear();
  Q_EMIT changed();
}

Result<Done> Document::open(const QString& path) {
  auto material = elsewhere([&] { return open_material(path.toStdString()); });
  if (!material) return material.error();
  reset(std::move(material).value(), path);
  return Done{};
}

std::string Document::nameOf(const std::filesystem::path& file) const {
  const auto& root = material().files;
  if (!root || root->folder.empty() || !file.is_absolute()) return file.string();
  const std::filesystem::path beside = file.lexically_relative(root->folder);
  return beside.empty() || beside.native().rfind("..", 0) == 0 ? file.string() : beside.string();
}

// File names start at the document's folder: beside another one they are given anew.
Material Document::movedTo(const QString& path) const {
  const std::filesystem::path from = material().files ? material().files->folder : std::filesystem::path();
  const std::filesystem::path to = std::filesystem::absolute(path.toStdString()).parent_path();
  auto root = std::make_shared<FileRoot>();
  root->folder = to;
  if (material().files)
    for (const auto& [name, file] : material().files->packed)
      if (is_of_bolt(name)) root->packed.emplace(name, file);        // of nodes that stand for bolts
  const bool sealed = material().files && material().files->sealed;  // its files were just put beside it
  Material m =
      from == to || sealed ? material() : edit::rename_files(material(), catalogue(), [&](const std::string& name) {
        const std::filesystem::path whole =
            std::filesystem::path(name).is_absolute() ? std::filesystem::path(name) : from / name;
        if (material().files && !leads_outside(*material().files, name))
          allow_files(whole);  // what was read goes on being read
        const std::filesystem::path beside = whole.lexically_relative(to);
        return beside.empty() || beside.native().rfind("..", 0) == 0 ? whole.string() : beside.string();
      });
  m.files = std::move(root);
  return m;
}

Result<Done> Document::save(const QString& path) {
  Material moved;
  const auto done = elsewhere([&]() -> Result<Done> {
    if (const auto& root = material().files; root && root->sealed)
      if (auto unpacked = unpack_files(*root, std::filesystem::absolute(path.toStdString()).parent_path()); !unpacked)
        return unpacked;
    moved = movedTo(path);
    return write_file(path.toStdString(), write_material(moved));
  });
  if (!done) return done;
  states_[at_].set(std::move(moved));
  dropAutosave();
  path_ = path;
  saved_ = at_;
  gesture_.clear();
  Q_EMIT changed();
  return done;
}

QString Document::autosavePath(const QString& path) {
  const QString stem = path.isEmpty() ? QStringLiteral("untitled") : QFileInfo(path).completeBaseName();
  const QString key = QString::number(qHash(path), 16);
  return autosaveFolder() + QStringLiteral("/%1-%2-%3.loom").arg(stem, key).arg(QCoreApplication::applicationPid());
}

void Document::scheduleAutosave() {
  if (!isEdited())
    dropAutosave();
  else if (!autosave_.isActive())
    autosave_.start();  // not anew with every edit: a long drag would keep it waiting
}

// What it replaces is removed once it stands.
void Document::autosaveNow(const QString& replaces) {
  Material copy = material();
  copy.extra["autosaved_from"] = path_.toStdString();
  writer_.start([this, copy = std::move(copy), to = autosavePath(path_), replaces] {
    QString fault;
    try {
      const auto done = write_file(to.toStdString(), write_material(copy));
      if (!done) fault = QString::fromStdString(done.error().text());
    } catch (const std::bad_alloc&) {
      fault = tr("there is not enough memory");
    }
    if (fault.isEmpty() && !replaces.isEmpty()) QFile::remove(replaces);
    if (fault.isEmpty()) return;
    QMetaObject::invokeMethod(
        this, [this, fault] { Q_EMIT trouble(tr("Autosave: %1").arg(fault)); }, Qt::QueuedConnection);
  });
}

void Document::dropAutosave() {
  autosave_.stop();
  writer_.start([file = autosavePath(path_)] { QFile::remove(file); });
}

QStringList Document::orphans() {
  QStringList found;
  const QDir folder(autosaveFolder());
  for (const QFileInfo& file : folder.entryInfoList({QStringLiteral("*.loom")}, QDir::Files, QDir::Time)) {
    const qint64 pid = file.completeBaseName().section(QLatin1Char('-'), -1).toLongLong();
    const bool running =
        pid > 0 && (pid == QCoreApplication::applicationPid() || ::kill(static_cast<pid_t>(pid), 0) == 0);
    if (!running) found << file.absoluteFilePath();
  }
  return found;
}

Result<Done> Document::recover(const QString& autosave) {
  auto found = elsewhere([&] { return open_material(autosave.toStdString()); });
  if (!found) return found.error();
  Material m = std::move(found).value();
  const QString from = QString::fromStdString(m.extra.value("autosaved_from", std::string()));
  m.extra.erase("autosaved_from");
  auto root = std::make_shared<FileRoot>();
  if (!from.isEmpty()) root->folder = std::filesystem::absolute(from.toStdString()).parent_path();
  m.files = std::move(root);
  elsewhere([&] { return take_bolts(m); });
  reset(std::move(m), from);
  saved_ = kNever;
  autosaveNow(autosave);
  Q_EMIT changed();
  return Done{};
}

}  // namespace loom::app

#include "moc_document.cpp"
