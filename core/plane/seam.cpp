#include "core/plane/seam.h"

#include <algorithm>
#include <cmath>
#include <vector>

#include "core/base/parallel.h"

namespace loom {
namespace {

struct Lines {
  std::vector<double> first, second;
};  // line i lies between i and i + 1

Lines across_columns(const Plane& p, const Stop& stop) {
  constexpr int kBands = 8;
  const int n = p.size();
  std::vector<Lines> bands(kBands, Lines{std::vector<double>(static_cast<std::size_t>(n)),
                                         std::vector<double>(static_cast<std::size_t>(n))});
  for_rows(kBands, 1, stop, [&](int from, int to) {
    for (int band = from; band < to; ++band)
      for (int y = band * n / kBands; y < (band + 1) * n / kBands; ++y) {
        const float* row = p.row(y);
        Lines& l = bands[static_cast<std::size_t>(band)];
        for (int x = 0; x < n; ++x) {
          const float a = row[wrap(x - 1, n)], b = row[x], c = row[wrap(x + 1, n)];
          l.first[static_cast<std::size_t>(x)] += static_cast<double>(std::abs(c - b)) / n;
          l.second[static_cast<std::size_t>(x)] += static_cast<double>(std::abs(c - 2 * b + a)) / n;
        }
      }
  });
  for (int band = 1; band < kBands; ++band)
    for (std::size_t i = 0; i < static_cast<std::size_t>(n); ++i)
      bands[0].first[i] += bands[static_cast<std::size_t>(band)].first[i],
          bands[0].second[i] += bands[static_cast<std::size_t>(band)].second[i];
  return bands[0];
}

Lines across_rows(const Plane& p, const Stop& stop) {
  const int n = p.size();
  Lines l{std::vector<double>(static_cast<std::size_t>(n)), std::vector<double>(static_cast<std::size_t>(n))};
  for_rows(n, 32, stop, [&](int from, int to) {
    for (int y = from; y < to; ++y) {
      const float *a = p.row(wrap(y - 1, n)), *b = p.row(y), *c = p.row(wrap(y + 1, n));
      double first = 0, second = 0;
      for (int x = 0; x < n; ++x)
        first += static_cast<double>(std::abs(c[x] - b[x])),
            second += static_cast<double>(std::abs(c[x] - 2 * b[x] + a[x]));
      l.first[static_cast<std::size_t>(y)] = first / n;
      l.second[static_cast<std::size_t>(y)] = second / n;
    }
  });
  return l;
}

// The second difference about the last and about the first sample both reach over the edge.
SeamFigures figures(const Lines& l, bool over_u) {
  const std::size_t n = l.first.size();
  SeamFigures f;
  f.over_u = over_u;
  f.first = static_cast<float>(l.first[n - 1]);
  f.second = static_cast<float>(std::max(l.second[n - 1], l.second[0]));
  for (std::size_t i = 0; i + 1 < n; ++i) {
    f.inside_first += static_cast<float>(l.first[i]) / static_cast<float>(n - 1);
    f.most_first = std::max(f.most_first, static_cast<float>(l.first[i]));
  }
  for (std::size_t i = 1; i + 1 < n; ++i) {
    f.inside_second += static_cast<float>(l.second[i]) / static_cast<float>(n - 2);
    f.most_second = std::max(f.most_second, static_cast<float>(l.second[i]));
  }
  return f;
}

double excess(const SeamFigures& f) {
  return std::max(static_cast<double>(f.first) / (static_cast<double>(f.most_first) + 1e-9),
                  static_cast<double>(f.second) / (static_cast<double>(f.most_second) + 1e-9));
}

}  // namespace

SeamFigures seam_figures(const Plane& plane, const Stop& stop) {
  const SeamFigures u = figures(across_columns(plane, stop), true), v = figures(across_rows(plane, stop), false);
  return excess(v) > excess(u) ? v : u;
}

}  // namespace loom
