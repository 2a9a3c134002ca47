// take_screenshots DEMO_FOLDER OUT_FOLDER: pictures of the real windows, made from the demo.
#include <QApplication>
#include <QDir>
#include <QDialog>
#include <QElapsedTimer>
#include <QPainter>
#include <QLineEdit>
#include <QThread>
#include <QStandardPaths>
#include <QTemporaryDir>

#include "app/deliver/deliver_form.h"
#include "app/deliver/dials_panel.h"
#include "app/fitting/fitting_window.h"
#include "app/shell/main_window.h"
#include "app/shell/theme.h"
#include "core/nodes/catalogue.h"

using namespace loom::app;

namespace {

template <class Done>
void settle(const Done& done, int most = 60000) {
  QElapsedTimer timer;
  timer.start();
  int calm = 0;
  while (timer.elapsed() < most && calm < 5) {
    QApplication::processEvents(QEventLoop::AllEvents, 40);
    QThread::msleep(20);
    calm = done() ? calm + 1 : 0;
  }
}

void keep(QWidget& w, const QString& path) { w.grab().save(path); }

// All materials of the demo on ball and tile, in one picture.
QImage sheet(const QString& folder) {
  constexpr int kSide = 182;
  const QStringList files = QDir(folder).entryList({QStringLiteral("*.loom")}, QDir::Files, QDir::Name);
  QImage all(kSide * static_cast<int>(files.size()), 2 * kSide + 26, QImage::Format_RGB888);
  all.fill(QColor(118, 118, 118));
  QPainter p(&all);
  p.setPen(Qt::white);
  p.setFont(textFont(12));
  for (int i = 0; i < files.size(); ++i) {
    const auto material = loom::open_material((folder + QLatin1Char('/') + files[i]).toStdString());
    const auto graph = material ? loom::flatten(*material, loom::catalogue()) : loom::Result<loom::FlatGraph>(material.error());
    if (!graph) continue;
    loom::Weaver weaver(std::size_t{1} << 30);
    std::vector<loom::Want> wants;
    std::vector<std::string> names;
    for (const auto& [slot, ref] : graph->hem) wants.emplace_back(ref, loom::slot_kind(slot)), names.push_back(slot);
    const auto woven = weaver.weave(*graph, wants, 1024, loom::Stop{});
    std::map<std::string, loom::Field> hem;
    for (std::size_t k = 0; k < names.size(); ++k) hem[names[k]] = woven->fields[k];
    const auto maps = std::make_shared<loom::SurfaceMaps>(hem);
    for (int row = 0; row < 2; ++row) {
      loom::DrapeView view;
      view.shape = static_cast<loom::Shape>(row);
      view.width = view.height = kSide;
      loom::Drape drape(maps, view);
      for (int s = 0; s < 48; ++s) drape.add_sample(loom::Stop{});
      const auto rgb = drape.picture();
      p.drawImage(i * kSide, row * kSide, QImage(rgb.data(), kSide, kSide, kSide * 3, QImage::Format_RGB888));
    }
    p.drawText(QRect(i * kSide, 2 * kSide, kSide, 24), Qt::AlignCenter, QString::fromStdString(material->name));
  }
  return all;
}

}  // namespace

int main(int argc, char** argv) {
  QStandardPaths::setTestModeEnabled(true);
  if (qEnvironmentVariableIsEmpty("QT_QPA_PLATFORM")) qputenv("QT_QPA_PLATFORM", "offscreen");
  QApplication application(argc, argv);
  QApplication::setOrganizationName(QStringLiteral("wildloom-pictures"));
  if (argc < 3) return 2;
  const QString demo = QString::fromLocal8Bit(argv[1]), out = QString::fromLocal8Bit(argv[2]);
  const QString only = argc > 3 ? QString::fromLocal8Bit(argv[3]) : QString();
  const auto wanted = [&](const char* name) { return only.isEmpty() || only == QLatin1String(name); };
  QDir().mkpath(out);
  installTheme();
  if (wanted("demos")) sheet(demo).save(out + QStringLiteral("/demos.png"));
  if (only == QStringLiteral("demos")) return 0;
  QTemporaryDir folder;
  MainWindow window;
  window.resize(1280, 800);
  window.show();
  window.openPath(demo + QStringLiteral("/quay-floor.loom"));
  settle([&] { return window.isIdle(); });
  window.board()->select({"laid"});
  settle([&] { return window.isIdle(); });
  if (wanted("weave")) keep(window, out + QStringLiteral("/weave.png"));
  if (wanted("add-line")) {
    window.board()->select({"worn"});
    window.board()->setFocus();
    window.board()->openAddLine();
    settle([&] { return window.isIdle(); });
    for (QLineEdit* line : window.board()->findChildren<QLineEdit*>()) if (line->isVisible()) line->setText(QStringLiteral("bl"));
    settle([&] { return window.isIdle(); }, 2000);
    keep(window, out + QStringLiteral("/add-line.png"));
    for (QLineEdit* line : window.board()->findChildren<QLineEdit*>()) if (line->isVisible()) line->parentWidget()->hide();
  }
  if (wanted("tile")) {
    window.drape()->setShape(loom::Shape::tile);
    window.board()->select({"dyed"});
    window.board()->setZoom(1.0);
    window.board()->fly("dyed");
    window.loupe()->nextRepeats();
    settle([&] { return window.isIdle(); });
    keep(window, out + QStringLiteral("/weave-close.png"));
    window.board()->fitAll();
    window.drape()->setShape(loom::Shape::ball);
  }
  if (wanted("deliver")) {
    QDialog* dialog = window.openDelivery();
    auto* form = dialog->findChild<DeliverForm*>(QStringLiteral("deliverForm"));
    form->setFolder(folder.path() + QStringLiteral("/lantern-quay"));
    form->start();
    settle([&] { return !form->isWriting(); });
    form->setFolder(QStringLiteral("lantern-quay/floor"));
    keep(*dialog, out + QStringLiteral("/deliver.png"));
    dialog->close();
  }
  if (wanted("dials")) {
    DialsPanel* dials = window.openDials();
    settle([&] { return window.isIdle(); }, 1000);
    keep(*dials, out + QStringLiteral("/dials.png"));
    dials->close();
  }
  for (const char* name : {"quay-floor", "copper-shingles"}) {
    if (!wanted("fitting") || !QFile::exists(demo + QLatin1Char('/') + QLatin1String(name) + QStringLiteral(".loom"))) continue;
    const auto material = loom::open_material((demo + QLatin1Char('/') + QLatin1String(name) + QStringLiteral(".loom")).toStdString());
    if (!material) continue;
    loom::Bolt bolt{*material, "1.0", material->notes, {}};
    FittingWindow fitting(bolt, QLatin1String(name) + QStringLiteral(".bolt"));
    fitting.show();
    if (std::string(name) == "copper-shingles") fitting.choosePreset(1);
    fitting.form()->setFolder(QStringLiteral("lantern-quay/maps"));
    settle([&] { return fitting.isIdle(); });
    keep(fitting, out + QStringLiteral("/fitting-") + QLatin1String(name) + QStringLiteral(".png"));
  }
  return 0;
}
