// libzip reads and writes the container; names and sizes are checked before anything is unpacked.
#include "core/bolt/archive.h"

#include <sys/stat.h>
#include <unistd.h>
#include <zip.h>

#include <algorithm>
#include <memory>
#include <optional>

#include "core/base/half_written.h"
#include "core/graph/disc.h"

namespace loom {
namespace {

constexpr time_t kNoTime = 946684800;  // the first second of 2000: the same entries give the same bytes

struct Discard {
  void operator()(zip_t* z) const { zip_discard(z); }
};
using Archive = std::unique_ptr<zip_t, Discard>;

Error refused(const std::filesystem::path& path, std::string what) {
  return {path.string(), std::move(what), "Ask for it again; nothing was opened"};
}

std::string mib(std::size_t bytes) { return std::to_string(bytes >> 20) + " MiB"; }

// Why a name may not stand in a bolt, if it may not.
std::optional<std::string> unsafe(const std::string& name) {
  if (name.empty() || name.size() > 255) return "is empty or longer than 255";
  if (std::any_of(name.begin(), name.end(), [](char c) { return static_cast<unsigned char>(c) < 32 || c == '\\'; }))
    return "holds a backslash or a control character";
  const std::filesystem::path path(name);
  if (path.is_absolute() || name.find(':') != std::string::npos) return "starts at a disc's root";
  if (std::any_of(path.begin(), path.end(), [](const auto& step) { return step == ".." || step == "."; }))
    return "leads out of it";
  return {};
}

bool is_link(zip_t* archive, zip_uint64_t index) {
  zip_uint8_t system = 0;
  zip_uint32_t attributes = 0;
  if (zip_file_get_external_attributes(archive, index, 0, &system, &attributes) != 0) return false;
  return system == ZIP_OPSYS_UNIX && S_ISLNK(attributes >> 16);
}

class Reader {
 public:
  explicit Reader(const std::filesystem::path& path, std::string bytes = {}) : path_(path), bytes_(std::move(bytes)) {}

  /// From memory, which nobody changes meanwhile; or straight from the file, where only little of it is wanted.
  Result<Done> open(bool all) {
    std::error_code gone;
    const auto size = std::filesystem::file_size(path_, gone);
    if (bytes_.empty() && (all || gone || size > kMostPackedBytes)) {
      auto bytes = read_file(path_, kMostPackedBytes);
      if (!bytes) return bytes.error();
      bytes_ = std::move(bytes).value();
    }
    zip_error_t fault;
    zip_error_init(&fault);
    zip_source_t* source = bytes_.empty() ? zip_source_file_create(path_.c_str(), 0, -1, &fault)
                                          : zip_source_buffer_create(bytes_.data(), bytes_.size(), 0, &fault);
    archive_.reset(source ? zip_open_from_source(source, ZIP_RDONLY | ZIP_CHECKCONS, &fault) : nullptr);
    zip_error_fini(&fault);
    if (!archive_) {
      zip_source_free(source);
      return refused(path_, "is not a bolt: it is no zip file, or a damaged one");
    }
    const zip_int64_t count = zip_get_num_entries(archive_.get(), 0);
    if (count > static_cast<zip_int64_t>(kMostEntries))
      return refused(path_, "holds more than " + std::to_string(kMostEntries) + " entries");
    return list(static_cast<zip_uint64_t>(count));
  }

  const std::map<std::string, zip_uint64_t>& sizes() const { return sizes_; }

  Result<std::string> read(const std::string& name) {
    std::unique_ptr<zip_file_t, int (*)(zip_file_t*)> file(zip_fopen(archive_.get(), name.c_str(), 0), zip_fclose);
    std::string bytes(sizes_.at(name), '\0');
    if (!file || zip_fread(file.get(), bytes.data(), bytes.size()) != static_cast<zip_int64_t>(bytes.size()))
      return refused(path_, "'" + name + "' is damaged");
    char beyond = 0;  // what unpacks to more than it says is a bomb; reading on also checks the sum
    if (zip_fread(file.get(), &beyond, 1) != 0)
      return refused(path_, "'" + name + "' is damaged, or more than it says");
    return bytes;
  }

 private:
  // All entries are looked at, those as well that nobody asks for.
  Result<Done> list(zip_uint64_t count) {
    zip_uint64_t all = 0;
    for (zip_uint64_t i = 0; i < count; ++i) {
      zip_stat_t stat;
      const bool known = zip_stat_index(archive_.get(), i, 0, &stat) == 0;
      if (!known || !(stat.valid & ZIP_STAT_SIZE) || !(stat.valid & ZIP_STAT_NAME))
        return refused(path_, "entry " + std::to_string(i + 1) + " cannot be read");
      const std::string name = stat.name;
      if (const auto why = unsafe(name)) return refused(path_, "the name '" + name.substr(0, 80) + "' " + *why);
      if (is_link(archive_.get(), i)) return refused(path_, "'" + name + "' is a link");
      if ((stat.valid & ZIP_STAT_ENCRYPTION_METHOD) && stat.encryption_method != ZIP_EM_NONE)
        return refused(path_, "'" + name + "' is locked with a password");
      if (stat.size > kMostEntryBytes)
        return refused(path_, "'" + name + "' unpacks to more than " + mib(kMostEntryBytes));
      if ((all += stat.size) > kMostUnpackedBytes)
        return refused(path_, "unpacks to more than " + mib(kMostUnpackedBytes));
      if (!sizes_.emplace(name, stat.size).second) return refused(path_, "holds '" + name + "' twice");
    }
    return Done{};
  }

  std::filesystem::path path_;
  std::string bytes_;
  Archive archive_;
  std::map<std::string, zip_uint64_t> sizes_;
};

template <class Wanted>
Result<Entries> read_some(Reader reader, bool all, const Wanted& wanted) {
  if (const auto opened = reader.open(all); !opened) return opened.error();
  Entries entries;
  for (const auto& [name, size] : reader.sizes()) {
    if (name.back() == '/' || !wanted(name)) continue;
    auto bytes = reader.read(name);
    if (!bytes) return bytes.error();
    entries[name] = std::move(bytes).value();
  }
  return entries;
}

}  // namespace

Result<Entries> read_archive(const std::filesystem::path& path) {
  return read_some(Reader(path), true, [](const std::string&) { return true; });
}

Result<Entries> read_archive(const std::string& name, std::string bytes) {
  if (bytes.empty()) return refused(name, "is not a bolt: it is empty");
  return read_some(Reader(name, std::move(bytes)), true, [](const std::string&) { return true; });
}

Result<Entries> read_from_archive(const std::filesystem::path& path, const std::vector<std::string>& names) {
  return read_some(Reader(path), false,
                   [&](const std::string& name) { return std::ranges::find(names, name) != names.end(); });
}

Result<Done> write_archive(const std::filesystem::path& path,
                           const std::vector<std::pair<std::string, std::string>>& entries) {
  const std::string temporary = half_written(path).string();
  const Error cannot{path.string(), "cannot be written",
                     "Choose another folder, or make room; nothing was left behind"};
  int code = 0;
  Archive archive(zip_open(temporary.c_str(), ZIP_CREATE | ZIP_TRUNCATE, &code));
  if (!archive) return cannot;
  for (const auto& [name, bytes] : entries) {
    if (bytes.empty()) continue;
    zip_source_t* source = zip_source_buffer(archive.get(), bytes.data(), bytes.size(), 0);
    const zip_int64_t index = source ? zip_file_add(archive.get(), name.c_str(), source, ZIP_FL_ENC_UTF_8) : -1;
    if (index < 0) {
      zip_source_free(source);
      return cannot;
    }
    zip_file_set_mtime(archive.get(), static_cast<zip_uint64_t>(index), kNoTime, 0);
  }
  if (zip_close(archive.get()) != 0) return cannot;
  (void)archive.release();
  std::error_code failed;
  std::filesystem::rename(temporary, path, failed);
  if (!failed) return Done{};
  std::filesystem::remove(temporary, failed);
  return cannot;
}

}  // namespace loom
