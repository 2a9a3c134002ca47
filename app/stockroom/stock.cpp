#include "app/stockroom/stock.h"

#include <QCoreApplication>
#include <QDir>
#include <QFileInfo>
#include <QSettings>
#include <set>

namespace loom::app {
namespace {

const QString kFolders = QStringLiteral("stockroom/folders");
constexpr int kMostWatched = 512;  // folders; the system has few watches to give

QString fileOf(const StockItem& item) { return QString::fromStdString(item.file.string()); }

}  // namespace

Stock::Stock(QObject* parent)
    : QObject(parent), worker_([this](const Job& job, const Stop& stop) { lookThrough(job, stop); }) {
  again_.setSingleShot(true);
  again_.setInterval(300);  // a copy of many files is one change
  connect(&again_, &QTimer::timeout, this, &Stock::look);
  connect(&watched_, &QFileSystemWatcher::directoryChanged, &again_, qOverload<>(&QTimer::start));
}

Stock::~Stock() { hearer_.leave(); }

// Where it is installed, or where it was built.
QString Stock::demoFolder() {
  const QDir here(QCoreApplication::applicationDirPath());
  for (const char* way : {"../share/wildloom/demo", "../../../demo", "../../../../demo"})
    if (const QString folder = QDir::cleanPath(here.filePath(QLatin1String(way)));
        QFileInfo::exists(folder + QStringLiteral("/quay-floor.loom")))
      return folder;
  return {};
}

QStringList Stock::folders() const { return QSettings().value(kFolders).toStringList(); }

QStringList Stock::all() const {
  QStringList all = folders();
  if (const QString demo = demoFolder(); !demo.isEmpty() && !all.contains(demo)) all.prepend(demo);
  return all;
}

void Stock::addFolder(const QString& folder) {
  QStringList list = folders();
  const QString whole = QFileInfo(folder).absoluteFilePath();
  if (all().contains(whole)) return;
  list << whole;
  QSettings().setValue(kFolders, list);
  look();
}

void Stock::removeFolder(const QString& folder) {
  QStringList list = folders();
  list.removeAll(folder);
  QSettings().setValue(kFolders, list);
  items_.erase(folder);
  Q_EMIT changed();
  look();
}

void Stock::look() { worker_.ask({all(), QSettings().value(QStringLiteral("recent")).toStringList(), items_}); }

void Stock::lookThrough(const Job& job, const Stop& stop) {
  std::vector<StockItem> recent;
  for (const QString& file : job.recent)
    if (QFileInfo::exists(file)) recent.push_back(read_stock_item(file.toStdString()));
  hearer_.tell([this, recent] {
    for (const StockItem& item : recent)
      if (std::find(recent_.begin(), recent_.end(), item) == recent_.end()) thumbnails_.forget(fileOf(item));
    recent_ = recent;
    Q_EMIT changed();
  });
  for (const QString& folder : job.folders) {
    const auto known = job.known.find(folder);
    const auto told = [&](const StockFound& found) { hearer_.tell([this, folder, found] { take(folder, found); }); };
    const auto found = look_through(
        folder.toStdString(), known == job.known.end() ? std::vector<StockItem>() : known->second,
        known == job.known.end() ? std::function<void(const StockFound&)>(told)
                                 : [](const StockFound&) {},  // what is known stays till all is
        stop);
    if (stop.asked()) return;
    if (found)
      told(*found);
    else
      hearer_.tell([this, text = QString::fromStdString(found.error().text())] { Q_EMIT trouble(text); });
  }
}

void Stock::take(const QString& folder, const StockFound& found) {
  std::vector<StockItem>& items = items_[folder];
  std::map<std::filesystem::path, const StockItem*> before;
  for (const StockItem& item : items) before[item.file] = &item;
  for (const StockItem& item : found.items)
    if (const auto was = before.find(item.file); was != before.end() && *was->second != item)
      thumbnails_.forget(fileOf(item));
  QStringList watch;
  for (const auto& within : found.folders)
    if (watch.size() < kMostWatched) watch << QString::fromStdString(within.string());
  QStringList& watching = watchedIn_[folder];
  for (const QString& path : watch)
    if (!watching.contains(path)) watched_.addPath(path);
  for (const QString& path : watching)
    if (!watch.contains(path)) watched_.removePath(path);
  watching = watch;
  if (items == found.items) return;
  items = found.items;
  Q_EMIT changed();
}

std::vector<StockItem> Stock::in(const QString& folder) const {
  if (!folder.isEmpty()) {
    const auto found = items_.find(folder);
    return found == items_.end() ? std::vector<StockItem>() : found->second;
  }
  std::vector<StockItem> everything;
  std::set<std::filesystem::path> listed;  // one folder may lie within another
  for (const auto& [of, items] : items_)
    for (const StockItem& item : items)
      if (listed.insert(item.file).second) everything.push_back(item);
  std::stable_sort(everything.begin(), everything.end(), [](const StockItem& a, const StockItem& b) {
    return QString::compare(QString::fromStdString(a.name), QString::fromStdString(b.name), Qt::CaseInsensitive) < 0;
  });
  return everything;
}

}  // namespace loom::app

#include "moc_stock.cpp"
