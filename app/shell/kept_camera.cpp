#include "app/shell/kept_camera.h"

#include <QSettings>
#include <QStringList>
#include <cmath>

#include "app/drape/drape_panel.h"
#include "app/engine/document.h"

namespace loom::app {
namespace {

constexpr int kMostCameras = 100, kAfterTurn = 300;  // documents; milliseconds
constexpr const char* kKey = "cameras";
constexpr QChar kBar('|');  // in front of the path, which comes last and may hold anything

QStringList entries() { return QSettings().value(QLatin1String(kKey)).toStringList(); }

// "what it stands on|azimuth|height|distance|aside|up|path"
constexpr int kFields = 7;

std::optional<Camera> cameraOf(const QString& entry) {
  Camera c;
  int i = 1;
  for (float* x : {&c.azimuth, &c.height, &c.distance, &c.aside, &c.up}) {
    *x = entry.section(kBar, i, i).toFloat();
    if (!std::isfinite(*x)) return {};
    ++i;
  }
  c.turn(0, 0);
  c.approach(1);
  return c;
}

}  // namespace

KeptCamera::KeptCamera(const Document& document, DrapePanel& drape, QObject* parent)
    : QObject(parent), document_(document), drape_(drape) {
  soon_.setSingleShot(true);
  soon_.setInterval(kAfterTurn);
  connect(&soon_, &QTimer::timeout, this, &KeptCamera::note);
  connect(&drape_, &DrapePanel::eyeMoved, this, [this] {
    if (!wanted_ && !path_.isEmpty()) soon_.start();
  });
  connect(&drape_, &DrapePanel::stood, this, &KeptCamera::bring);
}

QString KeptCamera::standing() const {
  const DrapeView& view = drape_.view();
  return view.mesh ? drape_.meshName()
                   : QString::fromStdString(shape_names()[static_cast<std::size_t>(view.shape)].first);
}

void KeptCamera::leave() {
  if (document_.path() != path_) finish();
}

void KeptCamera::renew() {
  if (document_.path() == path_) return;
  path_ = document_.path();
  wanted_.reset();
  for (const QString& entry : entries()) {
    if (path_.isEmpty() || entry.section(kBar, kFields - 1) != path_) continue;
    wanted_ = cameraOf(entry);
    wanted_on_ = entry.section(kBar, 0, 0);
  }
  bring();
  if (document_.material().mesh.empty()) wanted_.reset();  // nothing more comes to stand there by itself
}

void KeptCamera::finish() {
  if (soon_.isActive()) note();
  soon_.stop();
}

// A mesh is read for a while: then its camera waits for it.
void KeptCamera::bring() {
  if (!wanted_ || standing() != wanted_on_) return;
  const Camera camera = *std::exchange(wanted_, std::nullopt);
  drape_.lookFrom(camera);
}

void KeptCamera::note() const {
  QStringList all = entries();
  all.removeIf([this](const QString& entry) { return entry.section(kBar, kFields - 1) == path_; });
  const Camera& c = drape_.view().camera;
  QString entry = standing().remove(kBar);
  for (const float x : {c.azimuth, c.height, c.distance, c.aside, c.up})
    entry += kBar + QString::number(static_cast<double>(x), 'g', 7);
  all.prepend(entry + kBar + path_);
  while (all.size() > kMostCameras) all.removeLast();
  QSettings().setValue(QLatin1String(kKey), all);
}

}  // namespace loom::app

#include "moc_kept_camera.cpp"
