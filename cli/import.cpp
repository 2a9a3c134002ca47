// import: a material from a set of maps.
#include <filesystem>
#include <iostream>
#include <nlohmann/json.hpp>

#include "cli/call.h"
#include "core/bolt/bring_in.h"
#include "core/bolt/files_beside.h"
#include "core/graph/disc.h"
#include "core/graph/json.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"

namespace loom {
namespace {

struct Import {
  std::vector<std::string> files;
  std::string out;
};

void tell(const ImportPlan& plan) {
  for (const ImportedMap& m : plan.maps) std::cout << m.file.filename().string() << "\t" << m.told << "\n";
  for (const auto& [file, why] : plan.left_out) std::cout << file.filename().string() << "\tleft out: " << why << "\n";
}

Json json_of(const ImportPlan& plan) {
  Json maps = Json::array(), left = Json::array();
  for (const ImportedMap& m : plan.maps) {
    Json map{{"file", m.file.string()}, {"slot", m.slot}, {"inverted", m.inverted}, {"sure", m.sure}, {"told", m.told}};
    if (m.channel >= 0) map["channel"] = m.channel;
    if (m.slot == "normal") map["green"] = m.green_down ? "down" : "up";
    maps.push_back(std::move(map));
  }
  for (const auto& [file, why] : plan.left_out) left.push_back({{"file", file.string()}, {"why", why}});
  return {{"name", plan.name}, {"maps", std::move(maps)}, {"left_out", std::move(left)}};
}

int run(const Import& import, const Common& common) {
  const auto plan = plan_import({import.files.begin(), import.files.end()});
  if (!plan) return fail(import.files.front(), plan.error());
  const FilesBeside beside(import.out);
  std::optional<Error> fault;
  const Material m = imported(*plan, catalogue(), [&](const std::filesystem::path& file) {
    auto name = beside.name(file);
    if (!name && !fault) fault = name.error();
    return name ? *name : std::string();
  });
  if (fault) return fail(import.out, *fault, kWriting);
  if (const auto done = write_file(import.out, write_material(m)); !done)
    return fail(import.out, done.error(), kWriting);
  if (common.json)
    std::cout << json_of(*plan).dump(1) << "\n";
  else
    tell(*plan);
  return kDone;
}

}  // namespace

std::function<int(const Common&)> import_call(CLI::App* call) {
  const auto import = std::make_shared<Import>();
  call->add_option("FILE", import->files, "a folder, or the pictures of a set")->required();
  call->add_option("--out", import->out, "the .loom file")->required();
  return [import](const Common& common) { return run(*import, common); };
}

}  // namespace loom
