// The pictures of a variation sheet, made off the interface thread, row by row.
#pragma once
#include <QImage>
#include <QObject>

#include "app/base/hearer.h"
#include "app/base/latest_worker.h"
#include "core/bolt/sheet.h"

namespace loom::app {

class SheetMaker : public QObject {
  Q_OBJECT
 public:
  explicit SheetMaker(QObject* parent = nullptr);
  ~SheetMaker() override;
  /// Drops what was asked before. `round` comes back with every picture.
  void ask(const Material& material, const SheetPlan& plan, int round);
  bool isIdle() const { return worker_.isIdle(); }

 Q_SIGNALS:
  void made(int round, int index, const QImage& picture);
  /// All stand, or why not.
  void finished(int round, double seconds, const QString& fault);

 private:
  struct Job {
    Material material;
    SheetPlan plan;
    int round = 0;
  };
  void run(const Job& job, const Stop& stop);
  Hearer hearer_{this};
  LatestWorker<Job> worker_;
};

}  // namespace loom::app
