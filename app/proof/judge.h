// Judging off the interface thread: the latest state is proved, and shown at two sizes.
#pragma once
#include <QImage>
#include <QObject>
#include <memory>

#include "app/engine/engine.h"
#include "core/proof/proof.h"

namespace loom::app {

/// The same patch of the base colour as it is at two sizes, and how far the two are apart over the whole map.
struct TwoSizes {
  QImage small, large;
  int small_size = 512, large_size = 2048;
  double differs = 0;  ///< root of the mean square, of the range
};

struct Proven {
  std::vector<Finding> findings;
  std::optional<TwoSizes> sizes;
  QString refused;        ///< why nothing could be judged; empty: it was
  bool complete = false;  ///< the sizes are known, too; they come later
};
using ProvenPtr = std::shared_ptr<const Proven>;

class Judge : public QObject {
  Q_OBJECT
 public:
  explicit Judge(QObject* parent = nullptr);
  /// Returns at once; what was asked before and is not done is dropped.
  void ask(const Material& material) { worker_.ask(material); }
  bool isIdle() const { return worker_.isIdle(); }

 Q_SIGNALS:
  void proven(loom::app::ProvenPtr proven);

 private:
  void run(const Material& material, const Stop& stop);
  std::optional<TwoSizes> atTwoSizes(const Material& material, const Stop& stop);
  Weaver weaver_{std::size_t{128} << 20};
  LatestWorker<Material> worker_;
};

}  // namespace loom::app
