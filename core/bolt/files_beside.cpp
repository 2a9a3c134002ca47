#include "core/bolt/files_beside.h"

#include "core/graph/disc.h"
#include "core/graph/files.h"

namespace loom {
namespace {

std::filesystem::path seen_from(const std::filesystem::path& folder, const std::filesystem::path& file) {
  return std::filesystem::weakly_canonical(file).lexically_relative(folder);
}
bool leads_out(const std::filesystem::path& beside) { return beside.empty() || *beside.begin() == ".."; }

}  // namespace

FilesBeside::FilesBeside(const std::filesystem::path& document)
    : folder_(std::filesystem::weakly_canonical(std::filesystem::absolute(document).parent_path())),
      copies_(document.stem().string() + ".files") {}

bool FilesBeside::is_elsewhere(const std::filesystem::path& file) const { return leads_out(seen_from(folder_, file)); }

Result<std::string> FilesBeside::name(const std::filesystem::path& file) const {
  if (const auto beside = seen_from(folder_, file); !leads_out(beside)) return beside.string();
  const std::filesystem::path to = copies_ / file.filename();
  auto bytes = read_file(file, kMostFileBytes);
  if (!bytes) return bytes.error();
  std::error_code failed;
  std::filesystem::create_directory(folder_ / copies_, failed);  // not the document's: it would be a typing mistake
  const auto there = read_file(folder_ / to, kMostFileBytes);
  if (there && *there != *bytes)
    return Error{(folder_ / to).string(), "is there already, with other contents", "Use another name for the material"};
  if (const auto done = write_file(folder_ / to, *bytes); !done) return done.error();
  return to.string();
}

}  // namespace loom
