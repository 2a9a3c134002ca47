// A wish that is left for another is broken off; turning the shape or the light leaves it alone.
#include "app/drape/measuring.h"

#include <QElapsedTimer>
#include <algorithm>

#include "core/surface/shape_mesh.h"

namespace loom::app {
namespace {

constexpr std::size_t kMostKept = 6;

}  // namespace

Measuring::Measuring(QObject* parent)
    : QObject(parent),
      worker_([this](const Job& job, const Stop& stop) { run(job, stop); },
              [this] {
                QMetaObject::invokeMethod(
                    this, [this] { share_ = 1; }, Qt::QueuedConnection);
              }) {}

void Measuring::want(const std::shared_ptr<const MeshShape>& mesh, ShapeName shape,
                     const std::set<MeshMeasure>& asked) {
  Wish wish{mesh, mesh ? ShapeName::ball : shape, asked};
  if (wish == wanted_) return;
  if (wish.mesh != wanted_.mesh || wish.shape != wanted_.shape) known_ = nullptr;
  wanted_ = std::move(wish);
  share_ = asked.empty() ? 1 : 0;
  worker_.ask({wanted_, ++number_, points_});
}

std::shared_ptr<const Measured> Measuring::kept(const MeshShape& mesh, const MeshMeasure& what) const {
  for (const Kept& k : kept_)
    if (k.mesh == mesh.key() && k.what == what) return k.measured;
  return nullptr;
}

// To the interface thread, where a later wish may have been made meanwhile.
void Measuring::tell(const Job& job, std::shared_ptr<const MeasuredMesh> known, double share) {
  QMetaObject::invokeMethod(
      this,
      [this, number = job.number, known = std::move(known), share] {
        if (number != number_) return;
        share_ = share;
        if (known) known_ = known;
        known ? Q_EMIT better() : Q_EMIT progressed();
      },
      Qt::QueuedConnection);
}

void Measuring::run(const Job& job, const Stop& stop) {
  MeasuredMesh now;
  now.mesh = job.wish.mesh ? job.wish.mesh : shape_mesh(job.wish.shape);
  std::vector<MeshMeasure> missing;
  for (const MeshMeasure& what : job.wish.asked)
    if (const auto known = kept(*now.mesh, what))
      now.known[what] = known;
    else
      missing.push_back(what);
  for (const MeshMeasure& what : missing) {
    MeshMeasure coarse = what;
    coarse.rays = std::min(coarse.rays, kCoarseRays);
    const auto made = Measured::make(now.mesh, coarse, kCoarsePoints, stop);
    if (!made) return;
    now.known[what] = *made;
  }
  tell(job, std::make_shared<const MeasuredMesh>(now), missing.empty() ? 1 : 0);
  std::mutex mutex;
  for (std::size_t i = 0; i < missing.size(); ++i) {
    QElapsedTimer told;
    told.start();
    const auto progress = [&](double share) {
      const std::lock_guard lock(mutex);
      if (told.elapsed() < 100) return;
      told.restart();
      tell(job, nullptr, (static_cast<double>(i) + share) / static_cast<double>(missing.size()));
    };
    const auto made = Measured::make(now.mesh, missing[i], job.points, stop, progress);
    if (!made) return;
    now.known[missing[i]] = *made;
    kept_.push_back({now.mesh->key(), missing[i], *made});
    if (kept_.size() > kMostKept) kept_.erase(kept_.begin());
    tell(job, std::make_shared<const MeasuredMesh>(now),
         (static_cast<double>(i) + 1) / static_cast<double>(missing.size()));
  }
}

}  // namespace loom::app

#include "moc_measuring.cpp"
