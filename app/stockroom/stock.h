// The folders of the stockroom, kept current by watching.
#pragma once
#include <QFileSystemWatcher>
#include <QObject>
#include <QStringList>
#include <QTimer>
#include <map>

#include "app/base/hearer.h"
#include "app/base/latest_worker.h"
#include "app/stockroom/thumbnails.h"
#include "core/bolt/stock.h"

namespace loom::app {

class Stock : public QObject {
  Q_OBJECT
 public:
  explicit Stock(QObject* parent = nullptr);
  ~Stock() override;

  /// Where the demo materials lie; empty: they are not installed.
  static QString demoFolder();
  /// Of the person's own, in the order in which they were added.
  QStringList folders() const;
  void addFolder(const QString& folder);
  void removeFolder(const QString& folder);

  /// Looks through the demo, the folders and the files that were used lately, off this thread; from then on as they
  /// change.
  void look();
  /// What lies in a folder; empty: in all of them. By name.
  std::vector<StockItem> in(const QString& folder) const;
  /// Files used lately that are still there, the latest first.
  const std::vector<StockItem>& recent() const { return recent_; }
  Thumbnails& thumbnails() { return thumbnails_; }
  bool isIdle() const { return !again_.isActive() && worker_.isIdle() && thumbnails_.isIdle(); }

 Q_SIGNALS:
  void changed();
  void trouble(const QString& message);

 private:
  struct Job {
    QStringList folders, recent;
    std::map<QString, std::vector<StockItem>> known;
  };
  void lookThrough(const Job& job, const Stop& stop);
  void take(const QString& folder, const StockFound& found);
  QStringList all() const;
  std::map<QString, std::vector<StockItem>> items_;  // by folder
  std::map<QString, QStringList> watchedIn_;
  std::vector<StockItem> recent_;
  QFileSystemWatcher watched_;
  QTimer again_;
  Thumbnails thumbnails_;
  Hearer hearer_{this};
  LatestWorker<Job> worker_;
};

}  // namespace loom::app
