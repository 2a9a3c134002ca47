// compare: what changed between two documents or bolts, or between two folders of them.
#include <cmath>
#include <iostream>
#include <set>

#include "cli/call.h"
#include "core/bolt/compare.h"
#include "core/bolt/package.h"
#include "core/graph/disc.h"
#include "core/nodes/catalogue.h"

namespace loom {
namespace {

constexpr int kDiffers = 4;

struct Compare {
  std::string a, b, page;
  int size = 512;
};

using Compared = std::vector<std::pair<std::string, Comparison>>;

std::set<std::string> materials_in(const std::filesystem::path& folder) {
  std::set<std::string> names;
  for (const auto& entry : std::filesystem::directory_iterator(folder))
    if (const auto kind = entry.path().extension(); kind == ".loom" || kind == ".bolt")
      names.insert(entry.path().filename().string());
  return names;
}

// What stands in one folder alone.
Comparison only(const std::string& before, const std::string& after) {
  return {{{"document", "file", before, after}}, {}};
}

int one(const Compare& c, Weaver& weaver, const std::string& a, const std::string& b, const std::string& name,
        Compared& all) {
  const auto before = checked(a), after = checked(b);
  if (!before) return fail(a, before.error());
  if (!after) return fail(b, after.error());
  auto found = compare(*before, *after, catalogue(), weaver, c.size, !c.page.empty(), Stop{});
  if (!found) return fail(b, found.error());
  all.emplace_back(name, std::move(found).value());
  return kDone;
}

int all_of(const Compare& c, Weaver& weaver, Compared& all) {
  const std::filesystem::path a(c.a), b(c.b);
  if (!std::filesystem::is_directory(a) || !std::filesystem::is_directory(b))
    return one(c, weaver, c.a, c.b, b.filename().string(), all);
  const auto before = materials_in(a), after = materials_in(b);
  std::set<std::string> names = before;
  names.insert(after.begin(), after.end());
  for (const std::string& name : names) {
    if (!before.count(name) || !after.count(name))
      all.emplace_back(name, only(before.count(name) ? name : "", after.count(name) ? name : ""));
    else if (const int status = one(c, weaver, (a / name).string(), (b / name).string(), name, all); status != kDone)
      return status;
  }
  return kDone;
}

void print(const Compared& all) {
  for (const auto& [name, c] : all) {
    if (!c.differs()) continue;
    std::cout << name << "\n";
    for (const Change& x : c.changes)
      std::cout << "  " << x.what << "\t" << x.where << "\t" << (x.before.empty() ? "-" : x.before) << "\t"
                << (x.after.empty() ? "-" : x.after) << "\n";
    for (const SlotDifference& d : c.slots)
      std::cout << "  map\t" << d.slot << "\t"
                << (!d.before  ? "is new"
                    : !d.after ? "is gone"
                               : "RMS " + std::to_string(d.rms))
                << "\tgreatest " << d.greatest << "\t" << std::round(1000 * d.share) / 10 << " % of the texels\n";
  }
}

Json json_of(const Compared& all) {
  Json out = Json::array();
  for (const auto& [name, c] : all) {
    Json j{{"name", name}, {"differs", c.differs()}, {"changes", Json::array()}, {"slots", Json::array()}};
    for (const Change& x : c.changes)
      j["changes"].push_back({{"what", x.what}, {"where", x.where}, {"before", x.before}, {"after", x.after}});
    for (const SlotDifference& d : c.slots)
      j["slots"].push_back({{"slot", d.slot},
                            {"before", d.before},
                            {"after", d.after},
                            {"rms", d.rms},
                            {"greatest", d.greatest},
                            {"share", d.share}});
    out.push_back(std::move(j));
  }
  return out;
}

int run(const Common& common, const Compare& c) {
  if (c.size < kLeastSize || c.size > kMostSize || (c.size & (c.size - 1)))
    return fail(c.a, {"--size", std::to_string(c.size) + " is no size of a map", "Use a power of two from 16 to 8192"},
                kUsage);
  Weaver weaver(common.budget());
  Compared all;
  if (const int status = all_of(c, weaver, all); status != kDone) return status;
  if (common.json)
    std::cout << json_of(all).dump(2, ' ', false, Json::error_handler_t::replace) << "\n";
  else if (!common.quiet)
    print(all);
  if (!c.page.empty())
    if (const auto done = write_file(c.page, comparison_page(all)); !done) return fail(c.page, done.error(), kWriting);
  for (const auto& [name, comparison] : all)
    if (comparison.differs()) return kDiffers;
  return kDone;
}

}  // namespace

std::function<int(const Common&)> compare_call(CLI::App* call) {
  auto c = std::make_shared<Compare>();
  call->add_option("A", c->a, "a .loom or .bolt, or a folder of them: as it was")->required();
  call->add_option("B", c->b, "as it is")->required();
  call->add_option("--size", c->size, "of the maps that are compared");
  call->add_option("--page", c->page, "the report as an HTML page with pictures");
  return [c](const Common& common) { return run(common, *c); };
}

}  // namespace loom
