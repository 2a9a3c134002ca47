// bench_cancel [NODE...]: how long a cancelled evaluation takes to come back. Every node type in its example at 2048,
// stopped at five moments of its time; the longest wait of each, slowest first.
#include <algorithm>
#include <chrono>
#include <cstdio>
#include <thread>

#include "core/nodes/catalogue.h"
#include "core/nodes/example.h"
#include "core/weave/weaver.h"

using namespace loom;
using Clock = std::chrono::steady_clock;

namespace {

double since(Clock::time_point t) { return std::chrono::duration<double, std::milli>(Clock::now() - t).count(); }

double longest_wait(const NodeType& type) {
  const auto graph = flatten(example_of(type, catalogue()), catalogue());
  const Want want(*graph->find(example_output(type)));
  WeaveOptions options;
  options.keep = false;
  const auto weave = [&](const Stop& stop) {
    Weaver fresh(0);  // laid tables are made anew, too
    (void)fresh.weave(*graph, {want}, 2048, stop, options);
  };
  const auto start = Clock::now();
  weave(Stop{});
  const double whole = since(start);
  double longest = 0;
  for (int k = 1; k <= 5; ++k) {
    Stop stop;
    std::thread worker([&] { weave(stop); });
    std::this_thread::sleep_for(std::chrono::duration<double, std::milli>(whole * k / 6));
    const auto asked = Clock::now();
    stop.ask();
    worker.join();
    longest = std::max(longest, since(asked));
  }
  return longest;
}

}  // namespace

int main(int argc, char** argv) {
  std::vector<std::pair<double, const NodeType*>> rows;
  for (const NodeType* t : catalogue().all()) {
    bool wanted = argc < 2;
    for (int i = 1; i < argc; ++i) wanted |= t->id == argv[i];
    if (wanted) rows.emplace_back(longest_wait(*t), t);
  }
  std::sort(rows.begin(), rows.end(), [](const auto& a, const auto& b) { return a.first > b.first; });
  for (const auto& [wait, t] : rows) std::printf("%-24s %6.1f ms\n", t->label.c_str(), wait);
}
