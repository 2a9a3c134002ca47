// Files from elsewhere, taken along with a material.
#pragma once
#include <filesystem>
#include <string>

#include "core/base/error.h"

namespace loom {

/// Beside the document or below it a file stays where it is; from elsewhere it is copied into NAME.files beside it.
class FilesBeside {
 public:
  /// The document need not be written yet; its folder is there.
  explicit FilesBeside(const std::filesystem::path& document);
  bool is_elsewhere(const std::filesystem::path& file) const;
  /// The file's name as seen from the document.
  /// Error   it cannot be read or copied, or another of that name is there with other contents.
  Result<std::string> name(const std::filesystem::path& file) const;

 private:
  std::filesystem::path folder_, copies_;
};

}  // namespace loom
