// Files that nodes read: pictures and drawings, beside the document or packed in its bolt.
#pragma once
#include <filesystem>
#include <map>
#include <memory>
#include <string>

#include "core/base/error.h"
#include "core/base/key.h"

namespace loom {

struct FileBytes {
  std::string name;  ///< as the parameter gives it: its ending tells the format
  std::shared_ptr<const std::string> bytes;
  Key key{};  ///< of the bytes
};

/// Where a material's file names are looked up.
struct FileRoot {
  std::filesystem::path folder;  ///< relative names start here
  bool sealed = false;           ///< a bolt: only what it packs is read, never the disc
  std::map<std::string, FileBytes> packed;
};

constexpr std::size_t kMostFileBytes = std::size_t{32} << 20;

/// The bytes behind a name. A file is read again only when its time or size has changed. May be called from several
/// threads. Limits   32 MiB.   Error   the name, and what to do about it.
Result<FileBytes> find_file(const FileRoot& root, const std::string& name);

/// Where a file lies that is read elsewhere, as a mesh is; an empty path: it is packed.   Error   as above.
Result<std::filesystem::path> find_path(const FileRoot& root, const std::string& name);

FileBytes bytes_of(std::string name, std::string bytes);

}  // namespace loom
