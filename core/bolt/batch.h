// Jobs of a batch: one JSON object a line, each a call of the command line; and what became of each.
#pragma once
#include <filesystem>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/error.h"
#include "core/graph/json.h"

namespace loom {

struct Job {
  int line = 0;  ///< in the file, from 1
  std::string text;
};

/// The lines that hold something. Limits   64 MiB, 1 million jobs.   Error   the file.
Result<std::vector<Job>> read_jobs(const std::filesystem::path& file);

/// A share of the work, "3/8": every eighth job, the third of them first.
struct Part {
  int index = 1, count = 1;
};
Result<Part> part_from(std::string_view text);
std::vector<Job> jobs_of(const std::vector<Job>& all, const Part& part);

/// What the command line is for the job: `call` and `file` (one or a list) first; then every other key as an option,
/// lists as often as they have items, objects as KEY=VALUE, true as a flag. Paths are as they stand.
/// Error   no JSON object, no call, a call that makes no batch of one, or a value that no option can hold.
Result<std::vector<std::string>> job_arguments(std::string_view text);

/// What became of a job, in a file of its own: it stands there once the job is over, and not before.
struct JobState {
  int line = 0;
  std::string call;
  int status = 0;
  double seconds = 0;
  std::string why;   ///< of one that failed
  Json report = {};  ///< what the call wrote
};
/// The folder beside the jobs' file.
std::filesystem::path state_folder(const std::filesystem::path& jobs);
/// Named by line and text: an edited line is another job.
std::filesystem::path state_file(const std::filesystem::path& jobs, const Job& job);
Result<Done> keep_state(const std::filesystem::path& jobs, const Job& job, const JobState& state);
/// Whether the job is over, and well.
bool is_done(const std::filesystem::path& jobs, const Job& job);
/// Whether a call that ended so did what was asked: documents may differ where they are compared.
bool ended_well(std::string_view call, int status);

}  // namespace loom
