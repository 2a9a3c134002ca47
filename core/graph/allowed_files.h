// What documents may read besides the files of their own folder.
#pragma once
#include <filesystem>
#include <string>
#include <vector>

#include "core/graph/files.h"

namespace loom {

/// Lets every document of this process read a file, or all files of a folder and of those within it: the person named
/// it on the command line, chose it, or agreed to it. May be called from several threads.
void allow_files(const std::filesystem::path& file_or_folder);

/// Whether a name leads out of the document's folder, as an absolute path, by ".." or by a link, to something that was
/// not allowed.
bool leads_outside(const FileRoot& root, const std::string& name);

}  // namespace loom
