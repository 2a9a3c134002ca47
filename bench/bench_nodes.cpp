// bench_nodes [NODE...]: every node type by itself, with its default parameters and a bumpy input on every peg that takes data, at 1024, 2048
// and 4096; the best of three, slowest first, and how the time grows with the pixels.
#include <chrono>
#include <cstdio>

#include "core/graph/rework.h"
#include "tests/core/alone.h"

using namespace loom;
using namespace loom::test;

namespace {

double milliseconds(const NodeType& type, int size) {
  std::set<std::string> except;  // places to evaluate at, maps for rules and shapes of one's own stay free, as in most materials
  for (const Peg& p : type.inputs) if (!edit::feeds_data(p.id) || p.id.rfind("shape_", 0) == 0) except.insert(p.id);
  const Fields inputs = bumpy_inputs(type, size, except);
  double best = 1e9;
  for (int round = 0; round < 3; ++round) {
    const auto start = std::chrono::steady_clock::now();
    weave_alone(type, size, inputs);
    best = std::min(best, std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count());
  }
  return best;
}

}  // namespace

int main(int argc, char** argv) {
  struct Row { const NodeType* type; double at[3]; };
  std::vector<Row> rows;
  for (const NodeType* t : catalogue().all()) {
    bool wanted = argc < 2;
    for (int i = 1; i < argc; ++i) wanted |= t->id == argv[i];
    if (wanted) rows.push_back({t, {milliseconds(*t, 1024), milliseconds(*t, 2048), milliseconds(*t, 4096)}});
  }
  std::sort(rows.begin(), rows.end(), [](const Row& a, const Row& b) { return a.at[1] > b.at[1]; });
  std::printf("| node | 1024 | 2048 | 4096 | 4096 / 1024 |\n| --- | --- | --- | --- | --- |\n");
  for (const Row& r : rows) std::printf("| %s | %.1f | %.1f | %.1f | %.1f |\n", r.type->label.c_str(), r.at[0], r.at[1], r.at[2], r.at[2] / std::max(r.at[0], 0.01));
}
