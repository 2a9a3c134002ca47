// bench_board: a board of 500 nodes, offscreen. Opening it, painting while panning and zooming, and an edit until it is
// painted; then the memory of 1000 undo steps of a material of 200 nodes.
#include <malloc.h>

#include <QApplication>
#include <QElapsedTimer>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <algorithm>
#include <cstdio>
#include <random>

#include "app/base/theme.h"
#include "app/shell/main_window.h"
#include "core/graph/disc.h"
#include "core/graph/edit.h"
#include "core/graph/json.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"

using namespace loom::app;
namespace edit = loom::edit;

namespace {

double milliseconds(const QElapsedTimer& t) { return static_cast<double>(t.nsecsElapsed()) * 1e-6; }

void tell(const char* what, std::vector<double> list) {
  std::sort(list.begin(), list.end());
  std::printf("%s: median %.1f ms, p95 %.1f ms, most %.1f ms\n", what, list[list.size() / 2],
              list[list.size() * 95 / 100], list.back());
}

// Cheap point functions in five lanes, each reading one or two of the twenty before it.
loom::Material crowd(int nodes) {
  loom::Material m = edit::empty_material();
  m.lanes.clear();
  for (int i = 0; i < 5; ++i) m.lanes.push_back({"l" + std::to_string(i), "Theme " + std::to_string(i), i});
  std::mt19937 chance(3);
  const char* types[] = {"gradient_noise", "tone", "blend", "invert", "clamp_0_1", "threshold"};
  std::vector<std::string> ids;
  for (int i = 0; i < nodes; ++i) {
    const std::string type = types[i < 10 ? 0 : chance() % 6];
    std::string id;
    m = edit::add_node(std::move(m), loom::catalogue(), type, "l" + std::to_string(i % 5),
                       static_cast<int>(chance() % 3), i / 12, &id);
    for (const loom::Peg& p : loom::catalogue().find(type)->inputs) {
      if (p.kind == loom::Kind::vector2 || i < 10 || chance() % 4 == 0) continue;
      const std::string& from = ids[ids.size() - 1 - chance() % std::min<std::size_t>(ids.size(), 20)];
      const auto outs = loom::outputs_of(m, loom::catalogue(), *m.node(from));
      if (loom::refusal(m, loom::catalogue(), {from, outs[0].id, id, p.id}).empty())
        m = edit::connect(std::move(m), {from, outs[0].id, id, p.id});
    }
    ids.push_back(id);
  }
  const std::string last = ids.back() + "." + loom::outputs_of(m, loom::catalogue(), *m.node(ids.back()))[0].id;
  return edit::tidy(edit::set_hem(std::move(m), "height", last));
}

}  // namespace

int main(int argc, char** argv) {
  QStandardPaths::setTestModeEnabled(true);
  if (qEnvironmentVariableIsEmpty("QT_QPA_PLATFORM")) qputenv("QT_QPA_PLATFORM", "offscreen");
  QApplication application(argc, argv);
  QApplication::setOrganizationName(QStringLiteral("wildloom-bench"));
  std::setvbuf(stdout, nullptr, _IOLBF, 0);
  installTheme();
  QTemporaryDir folder;
  const QString path = folder.filePath(QStringLiteral("crowd.loom"));
  const loom::Material crowded = crowd(500);
  if (!loom::write_file(path.toStdString(), loom::write_material(crowded))) return 1;
  {
    QElapsedTimer open;
    open.start();
    MainWindow window;
    window.resize(1280, 800);
    window.show();
    if (!window.openPath(path)) return 1;
    window.grab();
    std::printf("opening 500 nodes and %zu threads, to the first painting of the window: %.0f ms\n",
                crowded.threads.size(), milliseconds(open));
    Board* board = window.board();
    std::vector<double> pan, zoom, edits;
    QElapsedTimer timer;
    QImage target(board->size(), QImage::Format_RGB32);
    for (int i = 0; i < 120; ++i) {
      auto at = board->standpoint();
      at.scroll += QPointF(i % 60 < 30 ? 12 : -12, i < 60 ? 40 : -40);
      timer.start();
      board->stand(at);
      board->render(&target);
      pan.push_back(milliseconds(timer));
    }
    for (int i = 0; i < 60; ++i) {
      timer.start();
      board->setZoom(i < 30 ? 0.3 + i * 0.04 : 1.5 - (i - 30) * 0.04);
      board->render(&target);
      zoom.push_back(milliseconds(timer));
    }
    board->setZoom(0.6);
    for (int i = 0; i < 60; ++i) {
      const loom::Material& m = window.document().material();
      const std::string id = m.nodes[static_cast<std::size_t>(i * 7 % 500)]->id;
      timer.start();
      window.document().edit(QStringLiteral("Move"),
                             edit::place_nodes(m, {{id, m.node(id)->lane, m.node(id)->column, m.node(id)->row + 1}}));
      board->render(&target);
      edits.push_back(milliseconds(timer));
    }
    tell("a step of panning, laid out and painted", pan);
    tell("a step of zooming, laid out and painted", zoom);
    tell("an edit, to its painting", edits);
    window.document().reset(edit::empty_material());
  }
  Document document;
  document.reset(crowd(200));
  ::malloc_trim(0);
  const auto used = [] { return static_cast<double>(::mallinfo2().uordblks) / (1 << 20); };
  const double before = used();
  for (int i = 0; i < 1000; ++i) {
    const loom::Material& m = document.material();
    const std::string id = m.nodes[static_cast<std::size_t>(i * 13 % 200)]->id;
    document.edit(QStringLiteral("Edit %1").arg(i),
                  i % 3 ? edit::set_param(m, id, "seed", static_cast<double>(i))
                        : edit::place_nodes(m, {{id, m.node(id)->lane, m.node(id)->column, i % 50}}));
  }
  const double after = used();
  QElapsedTimer undo;
  undo.start();
  int steps = 0;
  while (document.canUndo()) document.undo(), ++steps;
  std::printf("1000 edits of 200 nodes: %.1f MiB of undo states (%.1f KiB each); %d undone in %.0f ms\n",
              after - before, (after - before) * 1024 / 1000, steps, milliseconds(undo));
  return 0;
}
