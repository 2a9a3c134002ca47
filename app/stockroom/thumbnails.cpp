#include "app/stockroom/thumbnails.h"

#include <QCryptographicHash>
#include <QDateTime>
#include <QDir>
#include <QFileInfo>
#include <QSaveFile>
#include <QStandardPaths>
#include <QUrl>

#include "core/bolt/package.h"

namespace loom::app {
namespace {

constexpr int kSide = 256, kMostWaiting = 200;
const QString kTimeKey = QStringLiteral("Thumb::MTime"), kUriKey = QStringLiteral("Thumb::URI");

QByteArray uriOf(const QString& file) { return QUrl::fromLocalFile(file).toEncoded(QUrl::FullyEncoded); }
QString timeOf(const QString& file) { return QString::number(QFileInfo(file).lastModified().toSecsSinceEpoch()); }

QImage keptOf(const QString& file) {
  const QImage kept(thumbnailPath(file), "PNG");
  return kept.text(kTimeKey) == timeOf(file) ? kept : QImage();
}

// One that cannot be kept is made again the next time.
void keep(const QString& file, QImage picture) {
  picture.setText(kUriKey, QString::fromLatin1(uriOf(file)));
  picture.setText(kTimeKey, timeOf(file));
  picture.setText(QStringLiteral("Software"), QStringLiteral("Wild Loom"));
  const QString path = thumbnailPath(file);
  QDir().mkpath(QFileInfo(path).path());
  QSaveFile out(path);
  if (!out.open(QIODevice::WriteOnly)) return;
  out.setPermissions(QFileDevice::ReadOwner | QFileDevice::WriteOwner);
  if (picture.save(&out, "PNG")) out.commit();
}

QImage imageOf(const std::string& png) {
  QImage image;
  image.loadFromData(reinterpret_cast<const uchar*>(png.data()), static_cast<int>(png.size()), "PNG");
  return image;
}

}  // namespace

QString thumbnailPath(const QString& file) {
  return QStandardPaths::writableLocation(QStandardPaths::GenericCacheLocation) + QStringLiteral("/thumbnails/large/") +
         QString::fromLatin1(QCryptographicHash::hash(uriOf(file), QCryptographicHash::Md5).toHex()) +
         QStringLiteral(".png");
}

Thumbnails::Thumbnails(QObject* parent)
    : QObject(parent), worker_([this](const QStringList& files, const Stop& stop) { make(files, stop); }) {
  later_.setSingleShot(true);
  later_.setInterval(0);
  connect(&later_, &QTimer::timeout, this, &Thumbnails::ask);
}

Thumbnails::~Thumbnails() { hearer_.leave(); }

QImage Thumbnails::of(const QString& file) {
  if (const KeptImage* known = kept_.object(file)) return **known;
  if (hopeless_.contains(file)) return {};
  if (!wanted_.contains(file)) wanted_ << file;
  if (!later_.isActive()) later_.start();
  return {};
}

void Thumbnails::forget(const QString& file) {
  kept_.remove(file);
  hopeless_.remove(file);
  asked_.removeAll(file);
}

// What is under way goes on as long as nothing else is looked at; then it comes after what is.
void Thumbnails::ask() {
  QStringList wanted = std::exchange(wanted_, {});
  const bool under_way =
      !worker_.isIdle() && std::all_of(wanted.begin(), wanted.end(), [&](auto& file) { return asked_.contains(file); });
  if (under_way || wanted.isEmpty()) return;
  for (const QString& file : std::as_const(asked_))
    if (wanted.size() < kMostWaiting && !wanted.contains(file)) wanted << file;
  asked_ = wanted;
  worker_.ask(wanted);
}

// Those that are kept first: a page of them is there at once.
void Thumbnails::make(const QStringList& files, const Stop& stop) {
  QStringList missing;
  const auto tell = [&](const QString& file, const QImage& picture) {
    hearer_.tell([this, file, picture] {
      if (picture.isNull())
        hopeless_ << file;
      else
        kept_.insert(file, new KeptImage(picture), picture.sizeInBytes());
      asked_.removeAll(file);
      Q_EMIT made(file);
    });
  };
  for (const QString& file : files) {
    if (stop.asked()) return;
    const QImage kept = keptOf(file);
    kept.isNull() ? missing.append(file) : tell(file, kept);
  }
  for (const QString& file : missing) {
    if (stop.asked()) return;
    const QImage picture = drawn(file, stop);
    if (stop.asked()) return;
    if (!picture.isNull()) keep(file, picture);
    tell(file, picture);
  }
}

// A bolt brings one; else the material is lit.
QImage Thumbnails::drawn(const QString& file, const Stop& stop) {
  const std::filesystem::path path = file.toStdString();
  if (path.extension() == ".bolt")
    if (const auto cover = read_cover(path); cover && !cover->picture.empty()) {
      const QImage image = imageOf(cover->picture);
      return image.width() > kSide || image.height() > kSide
                 ? image.scaled(kSide, kSide, Qt::KeepAspectRatio, Qt::SmoothTransformation)
                 : image;
    }
  const auto material = open_material(path);
  if (!material) return {};
  const auto rgb = pictures_.make(*material, stop);
  return rgb ? QImage(rgb->data(), kSide, kSide, 3 * kSide, QImage::Format_RGB888).copy() : QImage();
}

}  // namespace loom::app

#include "moc_thumbnails.cpp"
