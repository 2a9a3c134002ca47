#include "core/bolt/sheet.h"

#include <algorithm>
#include <atomic>
#include <charconv>
#include <cmath>
#include <cstdio>
#include <mutex>

#include "core/base/parallel.h"
#include "core/bolt/delivery.h"
#include "core/bolt/lit_pictures.h"
#include "core/graph/edit.h"
#include "core/graph/offered.h"
#include "core/io/drawing.h"
#include "core/nodes/catalogue.h"
#include "core/plane/colour.h"
#include "core/weave/hem_maps.h"

namespace loom {
namespace {

constexpr int kSamples = 0;  // the frame without noise, as of hundreds it is judged what differs
constexpr int kMostValues = 1024, kMostPictures = 4096;
constexpr std::string_view kSeed = "seed", kPresets = "presets";

const Value* dial_named(const Material& m, std::string_view name) {
  for (const Value& v : m.values)
    if (v.dial && (v.id == name || v.dial->label == name)) return &v;
  return nullptr;
}

Error no_axis(const Material& m, std::string_view text) {
  std::string all = "seed, presets";
  for (const Value& v : m.values)
    if (v.dial) all += ", " + v.id;
  return {"--over " + std::string(text), "names neither a dial nor seed nor presets", "It has " + all};
}

std::optional<double> number_in(std::string_view text) {
  double x = 0;
  const auto [end, bad] = std::from_chars(text.data(), text.data() + text.size(), x);
  return bad == std::errc() && end == text.data() + text.size() && std::isfinite(x) ? std::optional(x) : std::nullopt;
}

std::string text_of(double x) {
  char text[32];
  std::snprintf(text, sizeof text, "%.6g", x);
  return text;
}

// A..B of whole numbers, A..B:N, or words with commas between.
Result<std::vector<std::string>> values_from(std::string_view text, bool whole) {
  const Error fault{"", "'" + std::string(text) + "' is no row of values", "Write A..B:N, 1..64 or a,b,c"};
  const auto dots = text.find("..");
  std::vector<std::string> values;
  if (dots == std::string_view::npos) {
    for (std::size_t from = 0; from <= text.size();) {
      const auto comma = std::min(text.find(',', from), text.size());
      values.emplace_back(text.substr(from, comma - from));
      from = comma + 1;
    }
    if (values.size() > kMostValues) return Error{"", "holds more than 1024 values", "Ask for fewer"};
    return values;
  }
  const auto colon = text.find(':', dots);
  const auto first = number_in(text.substr(0, dots)),
             last = number_in(text.substr(dots + 2, colon == std::string_view::npos ? colon : colon - dots - 2));
  if (!first || !last) return fault;
  double count = std::floor(std::abs(*last - *first)) + 1;
  if (colon != std::string_view::npos) {
    const auto given = number_in(text.substr(colon + 1));
    if (!given || *given < 1 || *given != std::floor(*given)) return fault;
    count = *given;
  } else if (!whole && (*first != std::floor(*first) || *last != std::floor(*last))) {
    return Error{"", "'" + std::string(text) + "' does not say how many values", "Write A..B:N"};
  }
  if (count > kMostValues) return Error{"", "holds more than 1024 values", "Ask for fewer"};
  for (int i = 0; i < static_cast<int>(count); ++i) {
    const double at = count == 1 ? *first : *first + (*last - *first) * i / (count - 1);
    const std::string value = text_of(whole ? std::round(at) : at);
    if (values.empty() || values.back() != value) values.push_back(value);
  }
  return values;
}

Material with_seed(Material m, const std::string& value) {
  m.seed = std::strtoll(value.c_str(), nullptr, 10);
  return m;
}

Result<Material> set_on(const Material& m, const Catalogue& catalogue, const SheetAxis& axis,
                        const std::string& value) {
  if (axis.of == kSeed && !number_in(value))
    return Error{"--over seed", "'" + value + "' is no number", "Write seed=1..64"};
  if (axis.of == kSeed) return with_seed(m, value);
  if (axis.of == kPresets) return value.empty() ? edit::apply_preset(m, Preset{}) : with_preset(m, value);
  return with_dial(m, catalogue, axis.of, value);
}

// The place of a picture on each axis.
std::vector<int> places(const SheetPlan& plan, int index) {
  if (plan.axes.size() == 1) return {index};
  return {index % plan.columns(), index / plan.columns()};
}

// What a flat picture shows.
std::string flat_slot(const FlatGraph& graph) {
  if (graph.hem.count("base_colour")) return "base_colour";
  for (const auto& [slot, ref] : graph.hem)
    if (graph.surface_of(ref) == SurfaceUse::none && slot_kind(slot) != Kind::any) return slot;
  return {};
}

Result<SheetPicture> flat_picture(const Material& m, const Catalogue& catalogue, Weaver& weaver, int size,
                                  const Stop& stop) {
  const auto graph = flatten(m, catalogue);
  if (!graph) return graph.error();
  const std::string slot = flat_slot(*graph);
  if (slot.empty()) return Error{"hem", "has no slot that is seen flat", "Ask for lit pictures"};
  WeaveOptions once;
  once.keep = false;
  const auto woven = weaver.weave(*graph, {Want(graph->hem.at(slot), slot_kind(slot))}, size, stop, once);
  if (!woven) return woven.error();
  if (!woven->faults.empty()) return woven->faults.begin()->second;
  const Field& f = woven->fields.front();
  const Slot* known = known_slot(slot);
  SheetPicture rgb;
  rgb.reserve(static_cast<std::size_t>(size) * static_cast<std::size_t>(size) * 3);
  for (int y = 0; y < size; ++y)
    for (int x = 0; x < size; ++x)
      for (std::size_t k = 0; k < 3; ++k) {
        const Plane& p = f.strand[k] ? *f.strand[k] : *f.strand[0];
        float v = p.at(x, y);
        if (f.kind == Kind::normal) v = 0.5f * v + 0.5f;
        rgb.push_back(
            static_cast<std::uint8_t>(code_of(known && known->srgb ? srgb_from_linear(std::max(0.0f, v)) : v, 255)));
      }
  return rgb;
}

}  // namespace

int SheetPlan::count() const {
  int all = axes.empty() ? 0 : 1;
  for (const SheetAxis& a : axes) all *= static_cast<int>(a.values.size());
  return all;
}

int SheetPlan::columns() const {
  if (axes.size() > 1) return static_cast<int>(axes[0].values.size());
  const int n = count();
  return std::max(1, std::min(n, static_cast<int>(std::ceil(std::sqrt(1.6 * n)))));  // wider than high, as a page lies
}

std::optional<Error> sheet_fault(const SheetPlan& plan) {
  if (plan.axes.empty() || plan.axes.size() > 2)
    return Error{"--over", "is given for one axis or two", "Write --over seed=1..64"};
  for (const SheetAxis& a : plan.axes)
    if (a.values.empty()) return Error{"--over " + a.of, "has no values", "Give it some"};
  if (plan.count() > kMostPictures) return Error{"--over", "comes to more than 4096 pictures", "Ask for fewer"};
  return {};
}

Result<SheetAxis> axis_from(const Material& m, std::string_view text) {
  SheetAxis axis;
  if (text == kPresets) {
    axis = {std::string(kPresets), "Preset", {""}};
    for (const Preset& p : m.presets) axis.values.push_back(p.name);
    return axis;
  }
  const auto equals = text.find('=');
  const std::string_view name = text.substr(0, equals);
  const Value* dial = name == kSeed ? nullptr : dial_named(m, name);
  if (equals == std::string_view::npos || (name != kSeed && !dial)) return no_axis(m, text);
  const bool whole = !dial || dial->dial->kind == ParameterKind::integer || dial->dial->kind == ParameterKind::seed;
  auto values = values_from(text.substr(equals + 1), whole);
  if (!values) {
    Error e = values.error();
    e.where = "--over " + std::string(text);
    return e;
  }
  axis = {dial ? dial->id : std::string(kSeed), dial ? dial->dial->label : "Seed", std::move(values).value()};
  for (const std::string& value : axis.values)
    if (const auto state = set_on(m, catalogue(), axis, value); !state) return state.error();
  return axis;
}

Result<Material> sheet_state(const Material& material, const Catalogue& catalogue, const SheetPlan& plan, int index) {
  Result<Material> m = material;
  const auto at = places(plan, index);
  for (std::size_t a = 0; a < plan.axes.size() && m; ++a)
    m = set_on(*m, catalogue, plan.axes[a], plan.axes[a].values[static_cast<std::size_t>(at[a])]);
  return m;
}

std::string sheet_value(const std::string& value) {
  if (value.empty()) return "as made";
  const auto number = number_in(value);
  if (!number || std::abs(*number) >= 1000) return value;
  char text[32];
  std::snprintf(text, sizeof text, "%.3g", *number);
  return text;
}

std::string sheet_words(const SheetPlan& plan, int index) {
  const auto at = places(plan, index);
  std::string all;
  for (std::size_t a = 0; a < plan.axes.size(); ++a) {
    const std::string& value = plan.axes[a].values[static_cast<std::size_t>(at[a])];
    all += (a ? ", " : "") + plan.axes[a].label + " " + sheet_value(value);
  }
  return all;
}

Result<Done> draw_sheet(const Material& material, const Catalogue& catalogue, const SheetPlan& plan,
                        const std::vector<int>& wanted, const std::function<void(int, SheetPicture)>& made,
                        const Stop& stop) {
  if (const auto bad = sheet_fault(plan)) return *bad;
  std::mutex mutex;
  std::optional<Error> fault;
  std::atomic<bool> failed{false};
  const auto draw = [&](int index, const auto& picture) {
    if (failed || stop.asked()) return;
    auto state = sheet_state(material, catalogue, plan, index);
    auto rgb = state ? picture(*state) : Result<SheetPicture>(state.error());
    if (rgb) return made(index, std::move(rgb).value());
    const std::lock_guard lock(mutex);
    if (!failed.exchange(true)) fault = rgb.error(), fault->where = sheet_words(plan, index) + ": " + fault->where;
  };
  const int count = static_cast<int>(wanted.size());
  if (plan.lit) {
    LitPictures lit(plan.size, std::size_t{96} << 20, kSamples);
    for (int i = 0; i < count; ++i)
      draw(wanted[static_cast<std::size_t>(i)], [&](const Material& m) { return lit.make(m, stop); });
  } else {
    Weaver weaver(std::size_t{96} << 20);
    for_rows(count, 1, stop, [&](int first, int last) {
      for (int i = first; i < last; ++i)
        draw(wanted[static_cast<std::size_t>(i)],
             [&](const Material& m) { return flat_picture(m, catalogue, weaver, plan.size, stop); });
    });
  }
  if (fault) return *fault;
  if (stop.asked()) return Error{"", kCancelled, ""};
  return Done{};
}

// ---- as one picture ----

namespace {

constexpr int kGap = 8, kLetters = 13;
constexpr std::uint8_t kPaper = 245, kInk = 40;

struct Canvas {
  PrintedSheet& sheet;
  std::uint8_t* at(int x, int y) {
    return &sheet.pixels[3 * (static_cast<std::size_t>(y) * static_cast<std::size_t>(sheet.width) +
                              static_cast<std::size_t>(x))];
  }

  void picture(int left, int top, int side, const SheetPicture& rgb) {
    for (int y = 0; y < side; ++y)
      if (rgb.size() >= static_cast<std::size_t>(3 * side * side))
        std::copy_n(&rgb[static_cast<std::size_t>(3 * side * y)], 3 * side, at(left, top + y));
  }

  // In a box; what is too long is made smaller.
  void write(const std::string& text, int left, int top, int width, double align) {
    if (text.empty() || width < 8) return;
    const Drawing letters = set_text(text, "regular", 0, 1, 0);
    int side = 64;
    while (side < width) side *= 2;
    const double scale = std::min(kLetters / letters.height, width / std::max(1e-6, letters.width));
    const double x = align * (width - scale * letters.width) - scale * letters.x, y = -scale * letters.y;
    const Drawn drawn = draw(letters, {scale / side, 0, 0, scale / side, x / side, y / side}, side);
    for (int j = 0; j < std::min(side, kLetters + 3); ++j)
      for (int i = 0; i < width; ++i) {
        const int px = left + i, py = top + j;
        if (px < 0 || py < 0 || px >= sheet.width || py >= sheet.height) continue;
        const float a = std::clamp(drawn.alpha.at(i, j), 0.0f, 1.0f);
        for (int k = 0; k < 3; ++k) {
          std::uint8_t& v = at(px, py)[k];
          v = static_cast<std::uint8_t>(std::lround(static_cast<float>(v) * (1 - a) + kInk * a));
        }
      }
  }
};

}  // namespace

PrintedSheet print_sheet(const SheetPlan& plan, const std::vector<SheetPicture>& pictures) {
  const bool two = plan.axes.size() == 2;
  const int columns = plan.columns(), rows = plan.rows(), side = plan.size, line = kLetters + 5;
  const int left = kGap + (two ? 72 : 0), top = kGap + (two ? line : 0), pitch_x = side + kGap,
            pitch_y = side + kGap + (two ? 0 : line);
  PrintedSheet sheet;
  sheet.width = left + columns * pitch_x;
  sheet.height = top + rows * pitch_y + line;
  sheet.pixels.assign(3 * static_cast<std::size_t>(sheet.width) * static_cast<std::size_t>(sheet.height), kPaper);
  Canvas canvas{sheet};
  for (int i = 0; i < plan.count() && i < static_cast<int>(pictures.size()); ++i) {
    const int x = left + (i % columns) * pitch_x, y = top + (i / columns) * pitch_y;
    canvas.picture(x, y, side, pictures[static_cast<std::size_t>(i)]);
    if (!two) canvas.write(sheet_value(plan.axes[0].values[static_cast<std::size_t>(i)]), x, y + side + 2, side, 0.5);
  }
  if (two) {
    for (int c = 0; c < columns; ++c)
      canvas.write(sheet_value(plan.axes[0].values[static_cast<std::size_t>(c)]), left + c * pitch_x, kGap - 2, side,
                   0.5);
    for (int r = 0; r < rows; ++r)
      canvas.write(sheet_value(plan.axes[1].values[static_cast<std::size_t>(r)]), kGap,
                   top + r * pitch_y + side / 2 - 8, 66, 0);
  }
  const std::string words = two ? plan.axes[0].label + " across, " + plan.axes[1].label + " down" : plan.axes[0].label;
  canvas.write(words, left, sheet.height - line, std::min(sheet.width - left - kGap, 400), 0);
  return sheet;
}

}  // namespace loom
