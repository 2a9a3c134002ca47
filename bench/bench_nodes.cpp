// bench_nodes [NODE...]: every node type by itself, with its default parameters and a bumpy input on every peg that
// takes data, at 1024, 2048, 4096 and 8192; the best of several rounds, slowest first, how the time grows with the
// pixels (N log N gives 83), and how much longer the scalar form of the same code takes. The first line is a yardstick:
// planes copied, work that cannot grow faster than the pixels. Each row goes to standard error as it comes.
#include <hwy/targets.h>

#include <chrono>
#include <cstdio>
#include <cstring>

#include "core/base/parallel.h"
#include "core/graph/rework.h"
#include "tests/core/alone.h"

using namespace loom;
using namespace loom::test;

namespace {

// Small sizes are over in so short a time that any neighbour on the machine shows: they go round more often.
template <class Work>
double best_of(int size, const Work& work) {
  double best = 1e9, spent = 0;
  for (int round = 0; round < (size < 8192 ? 3 : 2) || (spent < 400 && round < 15); ++round) {
    const auto start = std::chrono::steady_clock::now();
    work();
    const double time = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
    best = std::min(best, time), spent += time;
  }
  return best;
}

double milliseconds(const NodeType& type, int size) {
  std::set<std::string>
      except;  // places to evaluate at, maps for rules and shapes of one's own stay free, as in most materials
  for (const Peg& p : type.inputs)
    if (!edit::feeds_data(p.id) || p.id.rfind("shape_", 0) == 0) except.insert(p.id);
  const Fields inputs = bumpy_inputs(type, size, except);
  return best_of(size, [&] { weave_alone(type, size, inputs); });
}

// Three planes read and three written, as by a point program of three channels.
double copying(int size) {
  std::vector<Plane> from, to;
  for (int i = 0; i < 3; ++i) from.push_back(Plane::filled(size, 0.5f)), to.push_back(Plane::filled(size, 0));
  return best_of(size, [&] {
    for_rows(size, 16, Stop{}, [&](int first, int last) {
      for (std::size_t i = 0; i < from.size(); ++i)
        std::memcpy(to[i].row(first), from[i].row(first),
                    static_cast<std::size_t>(last - first) * static_cast<std::size_t>(size) * sizeof(float));
    });
  });
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

struct Row {
  std::string label;
  double at[4], scalar;
  void print(std::FILE* to) const {
    std::fprintf(to, "| %s | %.1f | %.1f | %.1f | %.0f | %.0f |", label.c_str(), at[0], at[1], at[2], at[3],
                 at[3] / std::max(at[0], 0.01));
    if (scalar > 0)
      std::fprintf(to, " %.1f times |\n", scalar / std::max(at[1], 0.01));
    else
      std::fprintf(to, "  |\n");
    std::fflush(to);
  }
};

int main(int argc, char** argv) {
  const auto wanted = [&](const NodeType& t) {
    return argc < 2 || std::find(argv + 1, argv + argc, t.id) != argv + argc;
  };
  std::vector<Row> rows;
  const auto add = [&](Row row) {
    rows.push_back(std::move(row));
    rows.back().print(stderr);
  };
  add({"(three planes copied)", {copying(1024), copying(2048), copying(4096), copying(8192)}, 0});
  for (const NodeType* t : catalogue().all())
    if (wanted(*t))
      add({t->label,
           {milliseconds(*t, 1024), milliseconds(*t, 2048), milliseconds(*t, 4096), milliseconds(*t, 8192)},
           scalar_form(*t, 2048)});
  std::sort(rows.begin() + 1, rows.end(), [](const Row& a, const Row& b) { return a.at[1] > b.at[1]; });
  std::printf(
      "| node | 1024 | 2048 | 4096 | 8192 | 8192 / 1024 | scalar form at 2048 |\n| --- | --- | --- | --- | --- | --- | "
      "--- |\n");
  for (const Row& r : rows) r.print(stdout);
}
