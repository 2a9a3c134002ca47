// Pictures of files, kept where the desktop keeps them.
#pragma once
#include <QCache>
#include <QImage>
#include <QObject>
#include <QSet>
#include <QTimer>

#include "app/base/hearer.h"
#include "app/base/kept_image.h"
#include "app/base/latest_worker.h"
#include "core/bolt/lit_pictures.h"

namespace loom::app {

/// Where the picture of a file is kept: 256 pixels a side at most.
/// Source   Thumbnail Managing Standard of freedesktop.org: the MD5 of the file's URI, in `thumbnails/large`.
QString thumbnailPath(const QString& file);

class Thumbnails : public QObject {
  Q_OBJECT
 public:
  explicit Thumbnails(QObject* parent = nullptr);
  ~Thumbnails() override;

  /// What is at hand; null: it is on its way, and `made` will tell, or there is none. What is asked for now is made
  /// before what was asked for earlier.
  QImage of(const QString& file);
  /// The file may have changed.
  void forget(const QString& file);
  bool isIdle() const { return !later_.isActive() && worker_.isIdle(); }

 Q_SIGNALS:
  void made(const QString& file);

 private:
  void ask();
  void make(const QStringList& files, const Stop& stop);
  QImage drawn(const QString& file, const Stop& stop);
  QCache<QString, KeptImage> kept_{64 << 20};
  QSet<QString> hopeless_;
  QStringList wanted_, asked_;
  QTimer later_;
  LitPictures pictures_{256, std::size_t{96} << 20, 0};  // the worker's; without noise, and quick
  Hearer hearer_{this};
  LatestWorker<QStringList> worker_;
};

}  // namespace loom::app
