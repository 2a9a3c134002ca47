// bench_nodes [NODE...]: every node type by itself, with its default parameters and a bumpy input on every peg that takes data, at 1024, 2048,
// 4096 and 8192; the best of three (at 8192 of two), slowest first, how the time grows with the pixels (N log N gives 83), and how much longer
// the scalar form of the same code takes.
#include <hwy/targets.h>

#include <chrono>
#include <cstdio>

#include "core/graph/rework.h"
#include "tests/core/alone.h"

using namespace loom;
using namespace loom::test;

namespace {

double milliseconds(const NodeType& type, int size, int rounds = 3) {
  std::set<std::string> except;  // places to evaluate at, maps for rules and shapes of one's own stay free, as in most materials
  for (const Peg& p : type.inputs) if (!edit::feeds_data(p.id) || p.id.rfind("shape_", 0) == 0) except.insert(p.id);
  const Fields inputs = bumpy_inputs(type, size, except);
  double best = 1e9;
  for (int round = 0; round < rounds; ++round) {
    const auto start = std::chrono::steady_clock::now();
    weave_alone(type, size, inputs);
    best = std::min(best, std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count());
  }
  return best;
}

// The same code compiled without vectors, the last of the targets.
double scalar_form(const NodeType& type, int size) {
  hwy::SetSupportedTargetsForTest(hwy::SupportedAndGeneratedTargets().back());
  hwy::GetChosenTarget().Update(hwy::SupportedTargets());
  const double time = milliseconds(type, size);
  hwy::SetSupportedTargetsForTest(0);
  hwy::GetChosenTarget().DeInit();
  return time;
}

}  // namespace

int main(int argc, char** argv) {
  struct Row { const NodeType* type; double at[4], scalar; };
  std::vector<Row> rows;
  for (const NodeType* t : catalogue().all()) {
    bool wanted = argc < 2;
    for (int i = 1; i < argc; ++i) wanted |= t->id == argv[i];
    if (wanted) rows.push_back({t, {milliseconds(*t, 1024), milliseconds(*t, 2048), milliseconds(*t, 4096), milliseconds(*t, 8192, 2)}, scalar_form(*t, 2048)});
  }
  std::sort(rows.begin(), rows.end(), [](const Row& a, const Row& b) { return a.at[1] > b.at[1]; });
  std::printf("| node | 1024 | 2048 | 4096 | 8192 | 8192 / 1024 | scalar form at 2048 |\n| --- | --- | --- | --- | --- | --- | --- |\n");
  for (const Row& r : rows)
    std::printf("| %s | %.1f | %.1f | %.1f | %.0f | %.0f | %.1f times |\n", r.type->label.c_str(), r.at[0], r.at[1], r.at[2], r.at[3], r.at[3] / std::max(r.at[0], 0.01), r.scalar / std::max(r.at[1], 0.01));
}
