// Files read and written whole.
#pragma once
#include <filesystem>
#include <string>
#include <string_view>

#include "core/base/error.h"

namespace loom {

/// Reads a whole file. Error: missing, unreadable, or larger than `most` bytes.
Result<std::string> read_file(const std::filesystem::path& path, std::size_t most);

/// Writes to a temporary name beside `path` and renames: the old file or the new one, never a broken one.
Result<Done> write_file(const std::filesystem::path& path, std::string_view bytes);

}  // namespace loom
