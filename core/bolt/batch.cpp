#include "core/bolt/batch.h"

#include <algorithm>
#include <charconv>
#include <set>

#include "core/bolt/manifest.h"
#include "core/graph/disc.h"

namespace loom {
namespace {

constexpr std::size_t kMostJobBytes = std::size_t{64} << 20, kMostJobs = 1000000;
constexpr int kDiffers = 4;
const std::set<std::string, std::less<>> kCalls = {"render", "sheet",  "proof", "drape",   "measure", "import",
                                                   "bolt",   "unpack", "check", "compare", "probe",   "fit"};

// A number as it was written, as far as a double can say.
std::optional<std::string> word_of(const Json& value) {
  if (value.is_string()) return value.get<std::string>();
  if (value.is_boolean()) return value.get<bool>() ? "1" : "0";
  if (value.is_number()) return value.dump();
  if (!value.is_array()) return {};
  std::string list;  // a vector or a colour
  for (const Json& lane : value) {
    if (!lane.is_number()) return {};
    list += (list.empty() ? "" : ",") + lane.dump();
  }
  return list;
}

Error unfit(const std::string& key) {
  return {key, "holds what no option takes", "Give a text, a number, true, a list of those, or an object of them"};
}

std::optional<Error> add_option(std::vector<std::string>& arguments, const std::string& key, const Json& value) {
  const std::string option = "--" + key;
  if (value.is_boolean()) {
    if (value.get<bool>()) arguments.push_back(option);
    return {};
  }
  if (value.is_object()) {
    for (const auto& [name, of] : value.items()) {
      const auto word = word_of(of);
      if (!word) return unfit(key + "." + name);
      arguments.insert(arguments.end(), {option, name + "=" + *word});
    }
    return {};
  }
  const bool several =
      value.is_array() && std::any_of(value.begin(), value.end(), [](const Json& item) { return item.is_string(); });
  for (const Json& item : several ? value : Json::array({value})) {
    const auto word = word_of(item);
    if (!word) return unfit(key);
    arguments.push_back(option + "=" + *word);
  }
  return {};
}

std::optional<Error> add_files(std::vector<std::string>& arguments, const Json& file) {
  for (const Json& one : file.is_array() ? file : Json::array({file})) {
    if (!one.is_string()) return Error{"file", "is no path", "Write it in quotes, or a list of such"};
    // A name that begins with a dash is a file all the same.
    const std::string name = one.get<std::string>();
    arguments.push_back(name.rfind('-', 0) == 0 ? "./" + name : name);
  }
  return {};
}

}  // namespace

Result<std::vector<Job>> read_jobs(const std::filesystem::path& file) {
  const auto text = read_file(file, kMostJobBytes);
  if (!text) return text.error();
  std::vector<Job> jobs;
  int line = 0;
  for (std::size_t at = 0; at < text->size();) {
    const std::size_t end = std::min(text->find('\n', at), text->size());
    std::string one = text->substr(at, end - at);
    at = end + 1;
    ++line;
    if (!one.empty() && one.back() == '\r') one.pop_back();
    if (one.find_first_not_of(" \t") == std::string::npos) continue;
    if (jobs.size() == kMostJobs)
      return Error{file.string(), "holds more than a million jobs", "Divide it into several files"};
    jobs.push_back({line, std::move(one)});
  }
  return jobs;
}

Result<Part> part_from(std::string_view text) {
  Part part;
  const auto slash = text.find('/');
  const auto number = [](std::string_view digits, int& into) {
    const auto [end, fault] = std::from_chars(digits.data(), digits.data() + digits.size(), into);
    return fault == std::errc() && end == digits.data() + digits.size();
  };
  if (slash == std::string_view::npos || !number(text.substr(0, slash), part.index) ||
      !number(text.substr(slash + 1), part.count) || part.index < 1 || part.count < part.index)
    return Error{"--part", "'" + std::string(text) + "' is no part", "Write 3/8 for the third of eight"};
  return part;
}

std::vector<Job> jobs_of(const std::vector<Job>& all, const Part& part) {
  std::vector<Job> own;
  for (std::size_t i = static_cast<std::size_t>(part.index - 1); i < all.size();
       i += static_cast<std::size_t>(part.count))
    own.push_back(all[i]);
  return own;
}

Result<std::vector<std::string>> job_arguments(std::string_view text) {
  const Json job = Json::parse(text, nullptr, false);
  if (!job.is_object()) return Error{"", "is no JSON object", R"(Write {"call": "render", "file": ..., "out": ...})"};
  const auto call = job.find("call");
  if (call == job.end() || !call->is_string())
    return Error{"call", "is missing", "Say what is to be done: render, sheet, proof ..."};
  if (!kCalls.count(call->get<std::string>()))
    return Error{"call", "'" + call->get<std::string>() + "' makes no job",
                 "Take render, sheet, proof, drape, measure, import, bolt, unpack, check, compare, probe or fit"};
  std::vector<std::string> arguments{call->get<std::string>()};
  if (const auto file = job.find("file"); file != job.end())
    if (const auto fault = add_files(arguments, *file)) return *fault;
  for (const auto& [key, value] : job.items())
    if (key != "call" && key != "file" && key != "json")
      if (const auto fault = add_option(arguments, key, value)) return *fault;
  return arguments;
}

std::filesystem::path state_folder(const std::filesystem::path& jobs) { return jobs.string() + ".state"; }

std::filesystem::path state_file(const std::filesystem::path& jobs, const Job& job) {
  char number[16];
  std::snprintf(number, sizeof number, "%07d", job.line);
  return state_folder(jobs) / (std::string(number) + "-" + sha256_of(job.text).substr(0, 12) + ".json");
}

Result<Done> keep_state(const std::filesystem::path& jobs, const Job& job, const JobState& state) {
  Json json{{"line", state.line}, {"call", state.call}, {"status", state.status}, {"seconds", state.seconds}};
  if (!state.why.empty()) json["why"] = state.why;
  if (!state.report.is_null()) json["report"] = state.report;
  std::error_code failed;
  std::filesystem::create_directories(state_folder(jobs), failed);
  return write_file(state_file(jobs, job), json.dump(1) + "\n");
}

bool is_done(const std::filesystem::path& jobs, const Job& job) {
  const auto text = read_file(state_file(jobs, job), kMostJobBytes);
  const Json state = text ? Json::parse(*text, nullptr, false) : Json();
  return state.is_object() && state.value("why", std::string()).empty() &&
         ended_well(state.value("call", std::string()), state.value("status", 1));
}

bool ended_well(std::string_view call, int status) { return status == 0 || (call == "compare" && status == kDiffers); }

}  // namespace loom
