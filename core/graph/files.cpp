// One store for the process: what was read stays until the file changes.
#include "core/graph/files.h"

#include <algorithm>
#include <mutex>
#include <vector>

#include "core/graph/allowed_files.h"
#include "core/graph/disc.h"
#include "core/plane/ledger.h"

namespace loom {
namespace {

// What was read, until it changes or there is no room for it.
class ReadFiles : public Keeper {
 public:
  Result<FileBytes> get(const std::filesystem::path& path, const std::string& name) {
    std::error_code gone;
    const auto time = std::filesystem::last_write_time(path, gone);
    const auto size = gone ? 0 : std::filesystem::file_size(path, gone);
    if (gone) return Error{path.string(), "there is no such file", "Choose it anew, or put it back"};
    {
      const std::lock_guard lock(mutex_);
      if (const auto it = known_.find(path.string());
          it != known_.end() && it->second.time == time && it->second.size == size) {
        it->second.used = ++uses_;
        return it->second.file;
      }
    }
    auto bytes = read_file(path, kMostFileBytes);
    if (!bytes) return bytes.error();
    FileBytes file = bytes_of(name, std::move(bytes).value());
    Booked booked(file.bytes->size());
    const std::lock_guard lock(mutex_);
    known_[path.string()] = {time, size, file, std::move(booked), ++uses_};
    return file;
  }

  bool let_go() override {
    const std::lock_guard lock(mutex_);
    const auto oldest = std::min_element(known_.begin(), known_.end(),
                                         [](const auto& a, const auto& b) { return a.second.used < b.second.used; });
    if (oldest == known_.end()) return false;
    known_.erase(oldest);
    return true;
  }

 private:
  struct Known {
    std::filesystem::file_time_type time;
    std::uintmax_t size = 0;
    FileBytes file;
    Booked bytes;
    std::uint64_t used = 0;
  };
  std::mutex mutex_;
  std::map<std::string, Known> known_;
  std::uint64_t uses_ = 0;
  const Enrolled enrolled_{*this};
};

std::filesystem::path path_of(const FileRoot& root, const std::string& name) {
  return std::filesystem::path(name).is_absolute() ? std::filesystem::path(name) : root.folder / name;
}

// Where a path leads once links and ".." are followed; it need not exist.
std::filesystem::path followed(const std::filesystem::path& path) {
  std::error_code failed;
  auto real = std::filesystem::weakly_canonical(path, failed);
  return failed ? path.lexically_normal() : real;
}

bool within(const std::filesystem::path& folder, const std::filesystem::path& path) {
  const auto [end, at] = std::mismatch(folder.begin(), folder.end(), path.begin(), path.end());
  return end == folder.end();
}

struct Allowed {
  std::mutex mutex;
  std::vector<std::filesystem::path> paths;
};
Allowed& allowed() {
  static Allowed all;
  return all;
}

}  // namespace

void allow_files(const std::filesystem::path& file_or_folder) {
  auto path = followed(std::filesystem::absolute(file_or_folder));
  if (!path.has_filename()) path = path.parent_path();  // written with a stroke at its end
  const std::lock_guard lock(allowed().mutex);
  allowed().paths.push_back(std::move(path));
}

bool leads_outside(const FileRoot& root, const std::string& name) {
  if (root.sealed || root.packed.count(name)) return false;
  const auto path = followed(path_of(root, name));
  if (!root.folder.empty() && within(followed(root.folder), path)) return false;
  const std::lock_guard lock(allowed().mutex);
  return std::ranges::none_of(allowed().paths, [&](const auto& folder) { return within(folder, path); });
}

FileBytes bytes_of(std::string name, std::string bytes) {
  const Key key = key_of(bytes);
  return {std::move(name), std::make_shared<const std::string>(std::move(bytes)), key};
}

Result<std::filesystem::path> find_path(const FileRoot& root, const std::string& name) {
  if (root.packed.count(name)) return std::filesystem::path();
  if (root.sealed) return Error{name, "is not packed in this bolt", "Ask for the bolt again"};
  const std::filesystem::path path = path_of(root, name);
  if (leads_outside(root, name))
    return Error{
        path.string(), "lies outside the document's folder",
        "Put it beside the document, or allow its folder: --allow on the command line; in the window choose it "
        "anew"};
  return path;
}

Result<FileBytes> find_file(const FileRoot& root, const std::string& name) {
  const auto path = find_path(root, name);
  if (!path) return path.error();
  if (path->empty()) return root.packed.at(name);
  static ReadFiles all;
  return all.get(*path, name);
}

}  // namespace loom
