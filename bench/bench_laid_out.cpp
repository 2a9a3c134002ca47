// An output that depends on the shape, laid out for the loupe: the charts of each built-in shape, once, and a pass over
// their texels at 1024: bench_laid_out [SIZE].
#include <algorithm>
#include <chrono>
#include <cstdio>
#include <cstdlib>

#include "core/graph/edit.h"
#include "core/nodes/catalogue.h"
#include "core/surface/laid_out.h"
#include "core/weave/weaver.h"

using namespace loom;

namespace {

template <class Work>
double median(const Work& work) {
  std::vector<double> times;
  for (int i = 0; i < 5; ++i) {
    const auto start = std::chrono::steady_clock::now();
    work();
    times.push_back(std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count());
  }
  std::sort(times.begin(), times.end());
  return times[2];
}

}  // namespace

int main(int argc, char** argv) {
  const int size = argc > 1 ? std::atoi(argv[1]) : 1024;
  const Material m = edit::add_node(edit::empty_material(), catalogue(), "facing", "relief", 0, 0);
  const auto graph = flatten(m, catalogue());
  Weaver weaver(std::size_t{64} << 20);
  const auto made = weaver.over_surface(*graph, {{"shown", Want(*graph->find("facing.value"))}}, size, Stop{});
  for (std::size_t i = 0; i < shape_names().size(); ++i) {
    DrapeView view;
    view.shape = static_cast<ShapeName>(i);
    const auto mesh = mesh_of(view);
    std::shared_ptr<const ChartedShape> on;
    const double charts = median([&] { on = *ChartedShape::make(mesh, size, Stop{}); });
    const double pass = median([&] { (void)laid_out(made->program, *on, view, {}, Stop{}); });
    std::printf("%-8s charts %6.1f ms, laid out at %d %6.1f ms\n", shape_names()[i].first.c_str(), charts, size, pass);
  }
}
