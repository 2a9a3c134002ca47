// What the calls share: their options in common, faults and exit statuses.
#pragma once
#include <CLI/CLI.hpp>
#include <functional>
#include <string>
#include <vector>

#include "core/graph/material.h"
#include "core/plane/ledger.h"

namespace loom {

// Exit statuses.
inline constexpr int kDone = 0, kInput = 1, kUsage = 2, kWriting = 3;

struct Common {
  int threads = 0;
  std::size_t memory_mib = 0;
  bool quiet = false, json = false;
  std::vector<std::string> allowed;
  std::size_t budget() const { return memory_mib ? memory_mib << 20 : default_budget(); }
};

/// Tells the fault on standard error, gives the status.
int fail(const std::string& file, const Error& e, int status = kInput);

using Progress = std::function<void(double, const std::string&)>;
/// On standard error if that is a terminal; else none.
Progress progress_of(const Common& common);

/// A material's file and what is turned in it.
struct Source {
  std::string file, preset;
  std::int64_t seed = -1;
  std::vector<std::string> sets, inputs;
};
void add_options(CLI::App* call, Source& source);
/// The document without faults.
Result<Material> checked(const std::string& file);
/// The same with its preset, seed and dials turned.
Result<Material> prepared(const Source& source);

/// `drape`: adds its options to the call; what is returned runs it.
std::function<int(const Common&)> drape_call(CLI::App* call);
/// The same for `fit`, `render`, `import`, `merge`, `proof`, `sheet`, `compare`, `bolt`, `unpack`, `thumbnail` and
/// `measure`. Runs a call by its arguments, without the program's name.
using RunCall = std::function<int(const std::vector<std::string>&)>;
std::function<int(const Common&)> batch_call(CLI::App* call, RunCall run);
std::function<int(const Common&)> compare_call(CLI::App* call);
std::function<int(const Common&)> merge_call(CLI::App* call);
std::function<int(const Common&)> import_call(CLI::App* call);
std::function<int(const Common&)> proof_call(CLI::App* call);
std::function<int(const Common&)> fit_call(CLI::App* call);
std::function<int(const Common&)> sheet_call(CLI::App* call);
std::function<int(const Common&)> thumbnail_call(CLI::App* call);
std::function<int(const Common&)> render_call(CLI::App* call);
std::function<int(const Common&)> bolt_call(CLI::App* call);
std::function<int(const Common&)> unpack_call(CLI::App* call);
std::function<int(const Common&)> measure_call(CLI::App* call);

}  // namespace loom
