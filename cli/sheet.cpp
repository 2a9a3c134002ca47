// sheet: many results of one material beside one another.
#include <chrono>
#include <iostream>
#include <nlohmann/json.hpp>
#include <numeric>

#include "cli/call.h"
#include "core/bolt/sheet.h"
#include "core/graph/disc.h"
#include "core/io/image.h"
#include "core/nodes/catalogue.h"

namespace loom {
namespace {

struct Sheet {
  Source source;
  std::vector<std::string> over;
  std::string out;
  SheetPlan plan;
};

int run(const Sheet& sheet, const Common& common) {
  const auto m = prepared(sheet.source);
  if (!m) return fail(sheet.source.file, m.error());
  SheetPlan plan = sheet.plan;
  for (const std::string& over : sheet.over) {
    auto axis = axis_from(*m, over);
    if (!axis) return fail(sheet.source.file, axis.error());
    plan.axes.push_back(std::move(axis).value());
  }
  if (const auto bad = sheet_fault(plan)) return fail(sheet.source.file, *bad);
  std::vector<int> wanted(static_cast<std::size_t>(plan.count()));
  std::iota(wanted.begin(), wanted.end(), 0);
  std::vector<SheetPicture> pictures(wanted.size());
  std::atomic<int> done{0};
  const auto progress = progress_of(common);
  std::mutex mutex;
  const auto start = std::chrono::steady_clock::now();
  const auto drawn = draw_sheet(
      *m, catalogue(), plan, wanted,
      [&](int i, SheetPicture picture) {
        pictures[static_cast<std::size_t>(i)] = std::move(picture);
        const int now = ++done;
        if (!progress) return;
        const std::lock_guard lock(mutex);
        progress(static_cast<double>(now) / plan.count(), sheet_words(plan, i));
      },
      Stop{});
  if (!drawn) return fail(sheet.source.file, drawn.error());
  const double seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
  const PrintedSheet printed = print_sheet(plan, pictures);
  const auto png = encode_picture(printed.width, printed.height, printed.pixels);
  if (!png) return fail(sheet.out, png.error(), kWriting);
  if (const auto written = write_file(sheet.out, *png); !written) return fail(sheet.out, written.error(), kWriting);
  if (common.json)
    std::cout << Json{{"file", sheet.out},
                      {"pictures", plan.count()},
                      {"columns", plan.columns()},
                      {"rows", plan.rows()},
                      {"seconds", seconds}}
                     .dump()
              << "\n";
  else
    std::cout << sheet.out << "  " << plan.columns() << " x " << plan.rows() << ", " << plan.count() << " pictures in "
              << seconds << " s\n";
  return kDone;
}

}  // namespace

std::function<int(const Common&)> sheet_call(CLI::App* call) {
  const auto sheet = std::make_shared<Sheet>();
  add_options(call, sheet->source);
  call->add_option("--over", sheet->over, "seed=1..64, DIAL=A..B:N, DIAL=a,b,c or presets; twice: across and down")
      ->required()
      ->allow_extra_args(false);
  call->add_option("--out", sheet->out, "the PNG file")->required();
  call->add_option("--size", sheet->plan.size, "pixels a side of each picture")
      ->check(CLI::IsMember({32, 64, 128, 256, 512}));
  call->add_flag("--lit", sheet->plan.lit, "lit pictures, as the drape shows them");
  return [sheet](const Common& common) { return run(*sheet, common); };
}

}  // namespace loom
