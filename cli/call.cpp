#include "cli/call.h"

#include <unistd.h>

#include <iostream>

#include "core/bolt/bolt_node.h"
#include "core/bolt/delivery.h"
#include "core/bolt/given_inputs.h"
#include "core/bolt/package.h"
#include "core/graph/edit.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"

namespace loom {

int fail(const std::string& file, const Error& e, int status) {
  std::cerr << (e.where.rfind(file, 0) == 0 ? "" : file + ": ") << e.text() << "\n";
  return status;
}

Progress progress_of(const Common& common) {
  if (common.quiet || !::isatty(STDERR_FILENO)) return {};
  return [](double share, const std::string& what) {
    std::cerr << "\r\033[K" << static_cast<int>(share * 100) << " % " << what << (share >= 1 ? "\n" : "") << std::flush;
  };
}

Result<Material> checked(const std::string& file) {
  auto opened = open_material(file);
  if (!opened) return opened;
  Material m = std::move(opened).value();
  if (const auto missing = take_bolts(m); !missing.empty()) return missing.front();
  if (const auto faults = all_faults(m, catalogue()); !faults.empty()) return faults.front();
  return m;
}

Result<Material> prepared(const Source& r) {
  auto m = checked(r.file);
  if (!m) return m;
  if (r.seed >= 0) m->seed = r.seed;
  if (!r.preset.empty()) {
    m = with_preset(*m, r.preset);
    if (!m) return m;
  }
  for (const std::string& set : r.sets) {
    const auto at = set.find('=');
    if (at == std::string::npos) return Error{"--set " + set, "has no '='", "Write --set NAME=VALUE"};
    m = with_dial(*m, catalogue(), set.substr(0, at), set.substr(at + 1));
    if (!m) return m;
  }
  for (const std::string& given : r.inputs) {
    const auto at = given.find('=');
    if (at == std::string::npos) return Error{"--input " + given, "has no '='", "Write --input NAME=FILE"};
    m = with_input(*m, given.substr(0, at), given.substr(at + 1));
    if (!m) return m;
  }
  if (const auto faults = all_faults(*m, catalogue()); !faults.empty()) return faults.front();
  return m;
}

void add_options(CLI::App* call, Source& source) {
  call->add_option("FILE", source.file, "a .loom or .bolt")->required();
  call->add_option("--seed", source.seed, "another seed of the material");
  call->add_option("--set", source.sets, "DIAL=VALUE")->allow_extra_args(false);
  call->add_option("--input", source.inputs, "INPUT=FILE or INPUT=VALUE: what comes in")->allow_extra_args(false);
  call->add_option("--preset", source.preset, "a preset's name");
}

}  // namespace loom
