#include "core/proof/grade.h"

#include <cmath>
#include <cstdio>

#include "core/base/parallel.h"
#include "core/plane/colour.h"

namespace loom {

std::string figure_text(double x) {
  char text[32];
  std::snprintf(text, sizeof text, "%.3g", x);
  return text;
}

Finding within(std::string slot, double figure, double warn, double fail) {
  Finding f;
  f.slot = std::move(slot);
  f.figure = figure;
  f.verdict = figure > fail ? Verdict::fail : figure > warn ? Verdict::warn : Verdict::pass;
  f.limit = f.verdict == Verdict::fail ? fail : warn;
  f.told = figure_text(figure) + ", limit " + figure_text(f.limit);
  return f;
}

Finding reaching(std::string slot, double figure, double warn, double fail) {
  Finding f = within(std::move(slot), -figure, -warn, -fail);
  f.figure = figure;
  f.limit = -f.limit;
  f.reach = true;
  f.told = figure_text(figure) + ", at least " + figure_text(f.limit);
  return f;
}

Finding worse(Finding a, Finding b) {
  if (a.verdict != b.verdict) return a.verdict > b.verdict ? std::move(a) : std::move(b);
  const auto strain = [](const Finding& f) {
    const double share = f.reach ? f.limit - f.figure : f.figure - f.limit;
    return share / std::max(1e-9, std::abs(f.limit));
  };
  return strain(b) > strain(a) ? std::move(b) : std::move(a);
}

float percentile(std::vector<float>& values, double share) {
  if (values.empty()) return 0;
  const auto at = static_cast<std::ptrdiff_t>(share * static_cast<double>(values.size() - 1) + 0.5);
  std::nth_element(values.begin(), values.begin() + at, values.end());
  return values[static_cast<std::size_t>(at)];
}

std::vector<Place> worst_places(int size, float least, const std::function<float(int x, int y)>& score) {
  constexpr int kCellsAlong = 24;
  constexpr std::size_t kMost = 8;
  struct Worst {
    float score;
    int x, y;
  };
  std::vector<Worst> cells(kCellsAlong * kCellsAlong, Worst{least, -1, -1});
  for_rows(kCellsAlong, 1, Stop{}, [&](int first, int last) {
    for (int c = first; c < last; ++c)
      for (int y = c * size / kCellsAlong; y < (c + 1) * size / kCellsAlong; ++y)
        for (int x = 0; x < size; ++x) {
          Worst& cell = cells[static_cast<std::size_t>(c * kCellsAlong + x * kCellsAlong / size)];
          if (const float s = score(x, y); s > cell.score) cell = {s, x, y};
        }
  });
  std::erase_if(cells, [](const Worst& w) { return w.x < 0; });
  std::stable_sort(cells.begin(), cells.end(), [](const Worst& a, const Worst& b) { return a.score > b.score; });
  if (cells.size() > kMost) cells.resize(kMost);
  std::vector<Place> places;
  for (const Worst& w : cells) places.push_back({(w.x + 0.5) / size, (w.y + 0.5) / size});
  return places;
}

Plane as_delivered(const std::string& slot, const Plane& plane) {
  Plane out = plane.clone();
  const Slot* known = known_slot(slot);
  if (!known || !known->srgb) return out;
  for_rows(out.size(), 16, Stop{}, [&](int first, int last) {
    for (int y = first; y < last; ++y)
      for (int x = 0; x < out.size(); ++x) out.at(x, y) = srgb_from_linear(std::max(0.0f, out.at(x, y)));
  });
  return out;
}

}  // namespace loom
