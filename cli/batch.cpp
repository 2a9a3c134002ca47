// batch: many jobs from one file. Each runs in a process of its own: one that fails, or falls, takes no other along.
#include <fcntl.h>
#include <sys/prctl.h>
#include <sys/wait.h>
#include <unistd.h>

#include <chrono>
#include <csignal>
#include <cstdio>
#include <cstring>
#include <filesystem>
#include <iostream>
#include <map>
#include <set>
#include <thread>

#include "cli/call.h"
#include "core/base/half_written.h"
#include "core/bolt/batch.h"
#include "core/graph/disc.h"
#include "core/nodes/catalogue.h"

namespace loom {
namespace {

using Clock = std::chrono::steady_clock;

struct Batch {
  std::string jobs, part = "1/1";
  bool resume = false;
  int at_once = 1;
};

struct Running {
  Job job;
  std::string call;
  Clock::time_point since;
  std::FILE *out = nullptr, *err = nullptr;  // nameless files
};

std::string all_of(std::FILE* file) {
  std::string text;
  std::rewind(file);
  char piece[4096];
  for (std::size_t n; (n = std::fread(piece, 1, sizeof piece, file)) > 0;) text.append(piece, n);
  std::fclose(file);
  return text;
}

// What went wrong stands last, behind warnings; where the arguments were no call, before the help.
std::string what_went_wrong(std::string text, int status) {
  if (status == kUsage) return text.substr(0, text.find('\n'));
  while (!text.empty() && text.back() == '\n') text.pop_back();
  return text.substr(text.rfind('\n') + 1);
}

class Runner {
 public:
  Runner(const Batch& batch, const Common& common, const RunCall& run)
      : batch_(batch), common_(common), run_(run), file_(std::filesystem::absolute(batch.jobs)) {}

  int run() {
    const auto part = part_from(batch_.part);
    if (!part) return fail(batch_.jobs, part.error(), kUsage);
    const auto all = read_jobs(file_);
    if (!all) return fail(batch_.jobs, all.error());
    const std::vector<Job> own = jobs_of(*all, *part);
    total_ = own.size();
    std::set<std::string> states;
    for (const Job& job : own) states.insert(state_file(file_, job).filename().string());
    remove_half_written(state_folder(file_), states);  // of a batch that was broken off
    (void)catalogue();                                 // the children have it then
    for (const Job& job : own) {
      if (batch_.resume && is_done(file_, job)) {
        ++skipped_;
        continue;
      }
      while (static_cast<int>(running_.size()) >= batch_.at_once) wait_for_one();
      begin(job);
      if (fault_) return fail(batch_.jobs, *fault_, kWriting);
    }
    while (!running_.empty()) wait_for_one();
    if (fault_) return fail(batch_.jobs, *fault_, kWriting);
    tell();
    return failed_.empty() ? kDone : kWriting;
  }

 private:
  void begin(const Job& job) {
    auto arguments = job_arguments(job.text);
    if (!arguments) return end(job, {job.line, {}, kInput, 0, arguments.error().text(), {}});
    std::error_code none;
    std::filesystem::remove(state_file(file_, job), none);  // what stood there is no longer so
    Running r{job, arguments->front(), Clock::now(), std::tmpfile(), std::tmpfile()};
    std::cout.flush();
    const pid_t parent = getpid(), child = r.out && r.err ? fork() : -1;
    if (child == 0) work(std::move(*arguments), r, parent);
    if (child < 0) {
      fault_ = Error{"", "no process could be started: " + std::string(std::strerror(errno)), "Ask for fewer --jobs"};
      return;
    }
    running_[child] = r;
  }

  // In the child: nothing of it comes back but the status and what it wrote.
  [[noreturn]] void work(std::vector<std::string> arguments, const Running& r, pid_t parent) {
    prctl(PR_SET_PDEATHSIG, SIGKILL);  // who is killed takes the jobs along
    if (getppid() != parent) std::_Exit(kWriting);
    dup2(fileno(r.out), STDOUT_FILENO);
    dup2(fileno(r.err), STDERR_FILENO);
    if (chdir(file_.parent_path().c_str()) != 0) std::_Exit(kInput);
    // The machine is divided among those that run at once.
    const auto give = [&](const std::string& option, std::size_t amount) {
      const auto given = [&](const std::string& a) { return a == option || a.rfind(option + "=", 0) == 0; };
      if (std::none_of(arguments.begin(), arguments.end(), given))
        arguments.push_back(option + "=" + std::to_string(std::max<std::size_t>(1, amount)));
    };
    const auto at_once = static_cast<std::size_t>(batch_.at_once);
    const std::size_t cores =
        common_.threads ? static_cast<std::size_t>(common_.threads) : std::max(1u, std::thread::hardware_concurrency());
    give("--threads", cores / at_once);
    give("--memory", std::max<std::size_t>(16, (common_.budget() >> 20) / at_once));
    for (const std::string& folder : common_.allowed) arguments.push_back("--allow=" + folder);
    arguments.push_back("--json");
    const int status = run_(arguments);
    std::cout.flush();
    std::cerr.flush();
    std::_Exit(status);
  }

  void wait_for_one() {
    int status = 0;
    const pid_t child = waitpid(-1, &status, 0);
    const auto found = running_.find(child);
    if (found == running_.end()) return;
    const Running r = found->second;
    running_.erase(found);
    const std::string out = all_of(r.out), err = all_of(r.err);
    const double seconds = std::chrono::duration<double>(Clock::now() - r.since).count();
    JobState state{r.job.line, r.call, WIFEXITED(status) ? WEXITSTATUS(status) : kWriting, seconds, {}, {}};
    if (!out.empty()) {
      state.report = Json::parse(out, nullptr, false);
      if (state.report.is_discarded()) state.report = out;
    }
    if (WIFSIGNALED(status))
      state.why = "was ended by signal " + std::to_string(WTERMSIG(status));
    else if (!ended_well(r.call, state.status))
      state.why = err.empty() ? "falls short" : what_went_wrong(err, state.status);
    end(r.job, std::move(state));
  }

  void end(const Job& job, JobState state) {
    if (const auto kept = keep_state(file_, job, state); !kept && !fault_) fault_ = kept.error();
    if (state.why.empty())
      ++done_;
    else
      failed_.push_back({{"line", job.line}, {"why", state.why}});
    if (common_.quiet) return;
    if (!state.why.empty()) std::cerr << batch_.jobs << ": line " << job.line << ": " << state.why << "\n";
    if (const auto progress = progress_of(common_))
      progress(static_cast<double>(done_ + skipped_ + failed_.size()) / static_cast<double>(total_),
               "line " + std::to_string(job.line));
  }

  void tell() const {
    if (common_.json)
      std::cout << Json{{"done", done_}, {"skipped", skipped_}, {"failed", failed_}}.dump(1) << "\n";
    else
      std::cout << done_ << " done, " << skipped_ << " skipped, " << failed_.size() << " failed\n";
  }

  const Batch& batch_;
  const Common& common_;
  const RunCall& run_;
  std::filesystem::path file_;
  std::map<pid_t, Running> running_;
  std::size_t total_ = 0, done_ = 0, skipped_ = 0;
  Json failed_ = Json::array();
  std::optional<Error> fault_;
};

}  // namespace

std::function<int(const Common&)> batch_call(CLI::App* call, RunCall run) {
  const auto batch = std::make_shared<Batch>();
  call->add_option("JOBS", batch->jobs, "a file with one JSON object a line")->required();
  call->add_option("--part", batch->part, "3/8: the third of eight shares of the work");
  call->add_flag("--resume", batch->resume, "leaves jobs alone that are done");
  call->add_option("--jobs", batch->at_once, "how many at once")->check(CLI::Range(1, 256));
  return [batch, run](const Common& common) { return Runner(*batch, common, run).run(); };
}

}  // namespace loom
