// What a mesh may read: itself, and beside itself nothing but what lies in its own folder.
#pragma once
#include <algorithm>
#include <filesystem>
#include <fstream>

#include "core/io/mesh.h"

namespace loom {

/// Whether `file` lies within `folder`, links followed, and is no larger than a mesh may be. An empty folder has
/// nothing.
inline bool may_be_read(const std::filesystem::path& folder, const std::filesystem::path& file) {
  namespace fs = std::filesystem;
  std::error_code code;
  if (folder.empty()) return false;
  const fs::path own = fs::weakly_canonical(folder, code), path = fs::weakly_canonical(file, code);
  if (code || std::mismatch(own.begin(), own.end(), path.begin(), path.end()).first != own.end()) return false;
  const auto bytes = fs::file_size(path, code);
  return code || bytes <= kMostMeshBytes;
}

/// All bytes of a file, as a string or a vector. False where it cannot be read.
template <class Bytes>
bool read_whole(const std::filesystem::path& file, Bytes& to) {
  std::error_code code;
  const auto size = std::filesystem::file_size(file, code);
  std::ifstream in(file, std::ios::binary);
  if (code || !in) return false;
  to.resize(size);
  in.read(reinterpret_cast<char*>(to.data()), static_cast<std::streamsize>(size));
  return in.gcount() == static_cast<std::streamsize>(size);
}

}  // namespace loom
