// Measures of the mesh that the drape shows, off the interface thread: coarse ones first, then fine.
#pragma once
#include <QObject>
#include <set>
#include <vector>

#include "app/base/latest_worker.h"
#include "core/surface/drape.h"

namespace loom::app {

class Measuring : public QObject {
  Q_OBJECT
 public:
  explicit Measuring(QObject* parent = nullptr);
  /// Returns at once; the same wish again does nothing. What was measured lately is kept,
  /// and found again for a mesh of the same triangles.
  void want(const std::shared_ptr<const MeshShape>& mesh, ShapeName shape, const std::set<MeshMeasure>& asked);
  /// At how many points the next wish is measured in the end.
  void setPoints(std::size_t points) { points_ = points; }
  /// What is known of the mesh that was wanted last; null while nothing is.
  const std::shared_ptr<const MeasuredMesh>& known() const { return known_; }
  /// How much of it is done, 0 to 1; 1 where nothing is to do.
  double share() const { return share_; }
  bool isIdle() const { return worker_.isIdle() && share_ >= 1; }

 Q_SIGNALS:
  void better();      ///< known() holds more
  void progressed();  ///< share() is another

 private:
  struct Wish {
    std::shared_ptr<const MeshShape> mesh;
    ShapeName shape = ShapeName::ball;
    std::set<MeshMeasure> asked;
    friend bool operator==(const Wish&, const Wish&) = default;
  };
  struct Job {
    Wish wish;
    quint64 number = 0;
    std::size_t points = kFinePoints;
  };
  struct Kept {
    Key mesh;
    MeshMeasure what;
    std::shared_ptr<const Measured> measured;
  };
  void run(const Job& job, const Stop& stop);
  void tell(const Job& job, std::shared_ptr<const MeasuredMesh> known, double share);
  std::shared_ptr<const Measured> kept(const MeshShape& mesh, const MeshMeasure& what) const;

  Wish wanted_;
  quint64 number_ = 0;
  std::size_t points_ = kFinePoints;
  std::shared_ptr<const MeasuredMesh> known_;
  double share_ = 1;
  std::vector<Kept> kept_;  // the worker's own, the latest last
  LatestWorker<Job> worker_;
};

}  // namespace loom::app
