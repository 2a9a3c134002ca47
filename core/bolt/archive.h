// A zip file from anyone, read whole into memory within limits; and written so that the same entries give the same
// bytes.
#pragma once
#include <filesystem>
#include <map>
#include <string>
#include <vector>

#include "core/base/error.h"

namespace loom {

constexpr std::size_t kMostEntries = 256;
constexpr std::size_t kMostPackedBytes = std::size_t{256} << 20;
constexpr std::size_t kMostEntryBytes = std::size_t{64} << 20;
constexpr std::size_t kMostUnpackedBytes = std::size_t{512} << 20;

using Entries = std::map<std::string, std::string>;  ///< by name

/// Nothing is written to disc.
/// Limits   those above.
/// Error    what is wrong with it: no zip file, too many or too large entries, a name that is absolute, leads out by
///          "..", holds a backslash or control characters, or comes twice; a link; a locked or damaged entry.
Result<Entries> read_archive(const std::filesystem::path& path);

/// The same of a file's bytes; `name` is for messages.
Result<Entries> read_archive(const std::string& name, std::string bytes);

/// The same for the entries of these names alone; those that are not there are left out.
Result<Entries> read_from_archive(const std::filesystem::path& path, const std::vector<std::string>& names);

/// In the order given, empty entries left out; whole or not at all.   Error   what the disc says.
Result<Done> write_archive(const std::filesystem::path& path,
                           const std::vector<std::pair<std::string, std::string>>& entries);

}  // namespace loom
