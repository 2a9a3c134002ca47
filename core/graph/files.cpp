// One store for the process: what was read stays until the file changes.
#include "core/graph/files.h"

#include <mutex>

#include "core/base/hash.h"
#include "core/graph/json.h"

namespace loom {
namespace {

struct Known {
  std::filesystem::file_time_type time;
  std::uintmax_t size = 0;
  FileBytes file;
};

}  // namespace

FileBytes bytes_of(std::string name, std::string bytes) {
  const std::uint64_t hash = hash_text(bytes);
  return {std::move(name), std::make_shared<const std::string>(std::move(bytes)), hash};
}

Result<FileBytes> find_file(const FileRoot& root, const std::string& name) {
  if (const auto it = root.packed.find(name); it != root.packed.end()) return it->second;
  if (root.sealed) return Error{name, "is not packed in this bolt", "Ask for the bolt again"};
  const std::filesystem::path path =
      std::filesystem::path(name).is_absolute() ? std::filesystem::path(name) : root.folder / name;
  std::error_code gone;
  const auto time = std::filesystem::last_write_time(path, gone);
  const auto size = gone ? 0 : std::filesystem::file_size(path, gone);
  if (gone) return Error{path.string(), "there is no such file", "Choose it anew, or put it back"};
  static std::mutex mutex;
  static std::map<std::string, Known> known;
  const std::lock_guard lock(mutex);
  Known& k = known[path.string()];
  if (k.file.bytes && k.time == time && k.size == size) return k.file;
  auto bytes = read_file(path, kMostFileBytes);
  if (!bytes) return bytes.error();
  k = {time, size, bytes_of(name, std::move(bytes).value())};
  return k.file;
}

}  // namespace loom
