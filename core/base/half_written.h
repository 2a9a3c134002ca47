// Files until they are whole: written under another name, and renamed.
#pragma once
#include <unistd.h>

#include <cerrno>
#include <csignal>
#include <cstdlib>
#include <filesystem>
#include <set>
#include <string>
#include <string_view>

namespace loom {

inline constexpr std::string_view kHalfWritten = ".part-";

/// What a file is called until it is whole: beside its place, with its ending, and this process's own.
inline std::filesystem::path half_written(const std::filesystem::path& path) {
  return path.parent_path() / (std::string(kHalfWritten) + std::to_string(::getpid()) + "-" + path.filename().string());
}

/// Takes away what processes that no longer run on this machine left half written of the files so called.
inline void remove_half_written(const std::filesystem::path& folder, const std::set<std::string>& names) {
  std::error_code failed;
  for (const auto& entry : std::filesystem::directory_iterator(folder, failed)) {
    const std::string name = entry.path().filename().string();
    const auto dash = name.find('-', kHalfWritten.size());
    if (name.rfind(kHalfWritten, 0) != 0 || dash == std::string::npos || !names.count(name.substr(dash + 1))) continue;
    const long writer = std::strtol(name.c_str() + kHalfWritten.size(), nullptr, 10);
    const bool runs = writer > 0 && (::kill(static_cast<pid_t>(writer), 0) == 0 || errno == EPERM);
    std::error_code unsure;
    if (!runs) std::filesystem::remove(entry.path(), unsure);
  }
}

}  // namespace loom
