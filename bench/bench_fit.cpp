// Whether hidden dials are found again: targets made of the demo materials with two or three dials turned by chance,
// each fitted for at most a minute from where the material stands. Found: every dial within 5 % of its range, or where
// it gives the same picture to the last bit.
//   bench_fit [TARGETS [SECONDS]]
#include <cstdio>
#include <cstdlib>
#include <random>

#include "core/bolt/fit.h"
#include "core/bolt/package.h"
#include "core/graph/edit.h"
#include "core/nodes/catalogue.h"
#include "core/plane/colour.h"

using namespace loom;

namespace {

constexpr int kPicture = 512;

// As a delivery has it: 8 bits, sRGB.
Image picture_of(const Material& m) {
  Weaver w(std::size_t{64} << 20);
  const auto graph = flatten(m, catalogue());
  const auto woven = w.weave(*graph, {Want(graph->hem.at("base_colour"), Kind::colour)}, kPicture, Stop{});
  Image image{kPicture, kPicture, 3, true, {}};
  for (int y = 0; y < kPicture; ++y)
    for (int x = 0; x < kPicture; ++x)
      for (const PlanePtr& p : {woven->fields[0].strand[0], woven->fields[0].strand[1], woven->fields[0].strand[2]})
        image.values.push_back(static_cast<float>(code_of(srgb_from_linear(std::clamp(p->at(x, y), 0.0f, 1.0f)), 255)) /
                               255);
  return image;
}

bool is_number(const Value& v) {
  return v.dial && v.dial->kind != ParameterKind::seed && std::holds_alternative<double>(v.value) &&
         v.dial->most > v.dial->least;
}

bool shows(const Material& m, const Value& v) {
  const auto at = [&](double x) { return picture_of(edit::set_value(m, v.id, x)).values; };
  return at(v.dial->least) != at(v.dial->most);
}

}  // namespace

int main(int argc, char** argv) {
  const int targets = argc > 1 ? std::atoi(argv[1]) : 20;
  const double seconds = argc > 2 ? std::atof(argv[2]) : 60;
  const std::vector<const char*> demos{"quay-floor",      "copper-shingles", "terrazzo-bench", "rush-matting",
                                       "ceiling-rosette", "slipway-setts",   "net-loft",       "ink-blot"};
  std::mt19937 chance(7);
  int found = 0, made = 0;
  for (int t = 0; made < targets && t < 4 * targets; ++t) {
    const Material m =
        *open_material(std::string(LOOM_DEMO "/") + demos[static_cast<std::size_t>(t) % demos.size()] + ".loom");
    std::vector<const Value*> shown;
    for (const Value& v : m.values)
      if (is_number(v) && shows(m, v)) shown.push_back(&v);
    if (shown.size() < 2) continue;
    std::shuffle(shown.begin(), shown.end(), chance);
    shown.resize(
        std::min<std::size_t>(shown.size(), 2 + static_cast<std::size_t>(t / static_cast<int>(demos.size())) % 2));
    Material hidden = m;
    FitWish wish;
    wish.seconds = seconds;
    for (const Value* v : shown) {
      double to = std::uniform_real_distribution<double>(v->dial->least, v->dial->most)(chance);
      if (v->dial->kind == ParameterKind::integer || v->dial->kind == ParameterKind::toggle || v->dial->step >= 1)
        to = std::round(to);
      hidden = edit::set_value(std::move(hidden), v->id, to);
      wish.dials.push_back(v->id);
    }
    const Image wanted = picture_of(hidden);
    const auto fitted = fit(m, catalogue(), wanted, wish, {}, Stop{});
    if (!fitted) return std::fprintf(stderr, "%s\n", fitted.error().text().c_str()), 1;
    bool all = true;
    std::printf("%-18s", m.name.c_str());
    for (const Value* v : shown) {
      const double to = std::get<double>(hidden.value(v->id)->value),
                   at = std::get<double>(fitted->best.material.value(v->id)->value),
                   off = std::abs(at - to) / (v->dial->most - v->dial->least);
      // A dial that is snapped gives the same at several settings.
      all &= off <= 0.05 || picture_of(edit::set_value(hidden, v->id, at)).values == wanted.values;
      std::printf("  %s %.4g for %.4g, off by %.1f %%", v->id.c_str(), at, to, 100 * off);
    }
    std::printf("  unlike %.3f -> %.3f, %d states, %.0f s%s\n", fitted->before, fitted->best.unlikeness,
                fitted->best.tried, fitted->best.seconds, all ? "" : "  NOT FOUND");
    std::fflush(stdout);
    found += all, ++made;
  }
  std::printf("%d of %d found\n", found, made);
}
