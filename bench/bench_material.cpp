// bench_material FILE: a whole map set cold, the peak of planes, and the answer to 200 turned dials at 512.
#include <sys/resource.h>

#include <algorithm>
#include <chrono>
#include <cstdio>
#include <random>

#include "core/bolt/package.h"
#include "core/graph/edit.h"
#include "core/nodes/catalogue.h"
#include "core/surface/drape.h"
#include "core/weave/hem_maps.h"
#include "core/weave/weaver.h"

using namespace loom;
using Clock = std::chrono::steady_clock;

namespace {

double since(Clock::time_point t) { return std::chrono::duration<double, std::milli>(Clock::now() - t).count(); }

std::map<std::string, Field> weave(Weaver& w, const Material& m, int size, bool keep) {
  const auto g = flatten(m, catalogue());
  WeaveOptions options;
  options.keep = keep;
  return weave_hem(w, *g, g->hem, size, Stop{}, options)->slots;
}

// Each dial a little further at 2048, five times, with all planes of the state before kept; the share of the nodes that
// it touches beside it. The first turn finds no planes to write into and pays the system for them.
void last_third(const Material& m) {
  for (const Value& v : m.values) {
    if (!v.dial) continue;
    Weaver w(std::size_t{3} << 30);
    weave(w, m, 2048, true);
    const double now = std::get<double>(v.value),
                 step = v.dial->kind == ParameterKind::integer ? 1 : 0.05 * (v.dial->most - v.dial->least);
    const auto before = flatten(m, catalogue()), after = flatten(edit::set_value(m, v.id, now + step), catalogue());
    std::size_t touched = 0;
    for (std::size_t i = 0; i < before->nodes.size(); ++i) touched += before->nodes[i].key != after->nodes[i].key;
    std::vector<double> times;
    for (int turn = 1; turn <= 5; ++turn) {
      const Material turned = edit::set_value(m, v.id, now + step * turn);
      const auto start = Clock::now();
      weave(w, turned, 2048, true);
      times.push_back(since(start));
    }
    const double first = times.front();
    std::sort(times.begin(), times.end());
    std::printf(
        "dial %s at 2048: first turn %.0f ms, of five the median %.0f and the least %.0f ms, %zu of %zu nodes "
        "touched\n",
        v.id.c_str(), first, times[2], times[0], touched, before->nodes.size());
  }
}

}  // namespace

int main(int argc, char** argv) {
  const bool dials_only = argc > 2;  // bench_material FILE dials
  const auto m = open_material(argc > 1 ? argv[1] : "demo/quay-floor.loom");
  if (!m) return std::fprintf(stderr, "%s\n", m.error().text().c_str()), 1;
  for (int round = 0; round < 3 && !dials_only; ++round) {
    drop_spare_buffers();
    reset_pool_peak();
    Weaver w(0);
    const auto start = Clock::now();
    weave(w, *m, 2048, false);
    std::printf("whole set at 2048, cold: %.0f ms, peak of planes %zu MiB\n", since(start), pool_state().peak >> 20);
  }
  rusage usage{};
  ::getrusage(RUSAGE_SELF, &usage);
  std::printf("most memory that the process held: %ld MiB\n", usage.ru_maxrss / 1024);
  if (!dials_only) last_third(*m);
  drop_spare_buffers();
  Weaver w(default_budget());
  weave(w, *m, 512, true);
  std::mt19937 chance(1);
  std::vector<double> maps, laid, lit;
  std::vector<std::string> dials;
  for (const Value& v : m->values)
    if (v.dial) dials.push_back(v.id);
  Material now = *m;
  for (int i = 0; i < 200 && !dials.empty(); ++i) {
    const Value* v = now.value(dials[static_cast<std::size_t>(i) % dials.size()]);
    double next = std::uniform_real_distribution<double>(v->dial->least, v->dial->most)(chance);
    if (v->dial->kind == ParameterKind::integer) next = std::round(next);
    now = edit::set_value(now, v->id, next);
    const auto start = Clock::now();
    const auto fields = weave(w, now, 512, true);
    maps.push_back(since(start));
    DrapeView view;
    view.width = view.height = 384;
    const auto surface = std::make_shared<SurfaceMaps>(fields);
    laid.push_back(since(start));
    Drape d(surface, view);
    d.first_answer(Drape::quick_step(view), Stop{});
    d.picture();
    lit.push_back(since(start));
  }
  for (auto* list : {&maps, &laid, &lit}) {
    std::sort(list->begin(), list->end());
    if (!list->empty())
      std::printf("a turned dial at 512, %s: median %.0f ms, p95 %.0f ms\n",
                  list == &maps   ? "maps"
                  : list == &laid ? "maps, laid out for shading"
                                  : "maps and first lit picture",
                  (*list)[list->size() / 2], (*list)[list->size() * 95 / 100]);
  }
}
