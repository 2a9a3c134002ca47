#include "app/shell/map_sets.h"

#include <QFileDialog>
#include <QFileInfo>
#include <QMimeData>
#include <QUrl>

#include "app/base/elsewhere.h"
#include "app/board/board.h"
#include "app/coming_in/map_set_dialog.h"
#include "app/shell/navigation.h"
#include "core/bolt/files_beside.h"
#include "core/graph/allowed_files.h"
#include "core/nodes/catalogue.h"

namespace loom::app {
namespace {

std::vector<std::filesystem::path> pathsOf(const QStringList& paths) {
  std::vector<std::filesystem::path> all;
  for (const QString& path : paths) all.emplace_back(path.toStdString());
  return all;
}

// What a set can take the place of, and what of it is worth asking.
MapSetBoard boardFor(const Document& document, const Navigation& navigation, const ImportPlan& plan,
                     const std::vector<SetOnBoard>& sets) {
  MapSetBoard board;
  for (const SetOnBoard& set : sets) board.sets << QString::fromStdString(set.name);
  board.has_hem = !navigation.isInside();
  for (const auto& [slot, output] : navigation.shown().hem) board.filled << QString::fromStdString(slot);
  const FilesBeside beside(document.path().toStdString());
  const bool elsewhere = std::any_of(plan.maps.begin(), plan.maps.end(), [&](const ImportedMap& map) {
    return document.path().isEmpty() || beside.is_elsewhere(map.file);
  });
  if (!elsewhere) return board;
  if (document.path().isEmpty())
    board.why_no_copies = MapSets::tr("the files stay where they are: the material is not saved yet");
  else
    board.copies_to = QFileInfo(document.path()).completeBaseName() + QStringLiteral(".files");
  return board;
}

}  // namespace

MapSets::MapSets(Document& document, Navigation& navigation, Board& board, QWidget* window)
    : QObject(window), document_(document), navigation_(navigation), board_(board), window_(window) {}

QStringList MapSets::among(const QMimeData& dropped) {
  QStringList paths;
  for (const QUrl& url : dropped.urls()) {
    const QString path = url.toLocalFile();
    if (!path.isEmpty() && (QFileInfo(path).isDir() || is_picture_file(path.toStdString()))) paths << path;
  }
  return paths;
}

void MapSets::take(const QStringList& paths) {
  if (paths.size() == 1 && !QFileInfo(paths.front()).isDir()) return bringPicture(paths.front());
  bringIn(paths);
}

void MapSets::bringPicture(const QString& path) {
  const auto at = board_.view().focus();
  ImportedMap map{path.toStdString(), "base_colour"};
  if (const auto as = named_as(map.file.stem().string())) map.slot = as->channels.empty() ? as->slot : "occlusion";
  const bool normal = map.slot == "normal";
  if (normal)
    if (const auto read = elsewhere([&] { return measure_green(map); }); !read)
      return Q_EMIT message(QString::fromStdString(read.error().text()));
  allow_files(map.file);  // whoever drops a file wants it read
  std::string id;
  Material next = bring_picture(
      navigation_.shown(), catalogue(), map, [&](const auto& file) { return document_.nameOf(file); },
      {{}, at.lane, at.column, at.row}, &id);
  next = edit::rename_node(std::move(next), id, map.file.stem().string());
  navigation_.edit(tr("Bring in a picture"), next);
  board_.select({id});
  Q_EMIT message(normal ? QString::fromStdString(map.told)
                 : map.slot == "base_colour"
                     ? tr("An image that holds colours")
                     : tr("An image that holds data, as its name says: it is read as it is written"));
}

void MapSets::bringIn(const QStringList& paths) {
  const auto plan = elsewhere([files = pathsOf(paths)] { return sort_maps(files); });
  if (!plan) return Q_EMIT message(QString::fromStdString(plan.error().text()));
  for (const ImportedMap& map : plan->maps) allow_files(map.file);
  for (const auto& [file, why] : plan->left_out)
    if (is_picture_file(file)) allow_files(file);
  const std::vector<SetOnBoard> sets = sets_on(navigation_.shown());
  MapSetDialog dialog(*plan, boardFor(document_, navigation_, *plan, sets), window_);
  dialog.setObjectName(QStringLiteral("mapSet"));
  if (dialog.exec() != QDialog::Accepted) return;
  if (const auto done = taken(dialog, sets); !done) Q_EMIT message(QString::fromStdString(done.error().text()));
}

Result<Done> MapSets::taken(const MapSetDialog& dialog, const std::vector<SetOnBoard>& sets) {
  const ImportPlan plan = dialog.plan();
  // Copied before anything is edited.
  std::map<std::filesystem::path, std::string> names;
  const FilesBeside beside(document_.path().toStdString());
  for (const ImportedMap& map : plan.maps) {
    if (!dialog.copies()) {
      names[map.file] = document_.nameOf(map.file);
      continue;
    }
    auto name = elsewhere([&] { return beside.name(map.file); });
    if (!name) return name.error();
    names[map.file] = *name;
  }
  const FileNaming named = [&](const std::filesystem::path& file) { return names[file]; };
  const Material& now = navigation_.shown();
  if (const int set = dialog.inPlaceOf(); set >= 0) {
    navigation_.edit(tr("Exchange a set of maps"),
                     exchange_set(now, catalogue(), sets[static_cast<std::size_t>(set)], plan, named));
    Q_EMIT message(
        tr("%1 stands in the place of %2")
            .arg(QString::fromStdString(plan.name), QString::fromStdString(sets[static_cast<std::size_t>(set)].name)));
    return Done{};
  }
  BringIn how = dialog.how();
  if (now.nodes.empty() && !now.lanes.empty()) how.lane = now.lanes.front().id;
  std::vector<std::string> fresh;
  navigation_.edit(tr("Bring in a set of maps"), bring_in(now, catalogue(), plan, named, how, &fresh));
  board_.select(fresh);
  board_.fitSelection();
  Q_EMIT message(
      tr("%n maps of %1 came in", nullptr, static_cast<int>(plan.maps.size())).arg(QString::fromStdString(plan.name)));
  return Done{};
}

void MapSets::chooseFiles() {
  const QStringList files =
      QFileDialog::getOpenFileNames(window_, tr("The maps of a set"), QFileInfo(document_.path()).path(),
                                    tr("Pictures (*.png *.jpg *.jpeg *.tif *.tiff *.exr *.hdr)"));
  if (!files.isEmpty()) bringIn(files);
}

void MapSets::chooseFolder() {
  const QString folder =
      QFileDialog::getExistingDirectory(window_, tr("A folder of maps"), QFileInfo(document_.path()).path());
  if (!folder.isEmpty()) bringIn({folder});
}

}  // namespace loom::app

#include "moc_map_sets.cpp"
