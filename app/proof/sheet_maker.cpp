#include "app/proof/sheet_maker.h"

#include <QElapsedTimer>
#include <numeric>

#include "core/nodes/catalogue.h"

namespace loom::app {

SheetMaker::SheetMaker(QObject* parent)
    : QObject(parent), worker_([this](const Job& job, const Stop& stop) { run(job, stop); }) {}

SheetMaker::~SheetMaker() { hearer_.leave(); }

void SheetMaker::ask(const Material& material, const SheetPlan& plan, int round) {
  worker_.ask({material, plan, round});
}

void SheetMaker::run(const Job& job, const Stop& stop) {
  QElapsedTimer timer;
  timer.start();
  std::vector<int> wanted(static_cast<std::size_t>(job.plan.count()));
  std::iota(wanted.begin(), wanted.end(), 0);
  const auto done = draw_sheet(
      job.material, catalogue(), job.plan, wanted,
      [&](int index, SheetPicture rgb) {
        const int side = job.plan.size;
        const QImage picture = QImage(rgb.data(), side, side, 3 * side, QImage::Format_RGB888).copy();
        hearer_.tell([this, round = job.round, index, picture] { Q_EMIT made(round, index, picture); });
      },
      stop);
  if (stop.asked()) return;
  const QString fault = done ? QString() : QString::fromStdString(done.error().text());
  const double seconds = static_cast<double>(timer.elapsed()) / 1000;
  hearer_.tell([this, round = job.round, seconds, fault] { Q_EMIT finished(round, seconds, fault); });
}

}  // namespace loom::app

#include "moc_sheet_maker.cpp"
