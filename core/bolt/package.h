// A bolt: a material with its notes and picture in one zip file.
#pragma once
#include <cstdint>
#include <filesystem>
#include <string>
#include <vector>

#include "core/base/error.h"
#include "core/graph/material.h"

namespace loom {

struct Bolt {
  Material material;
  std::string version = "1.0";
  std::string notes;
  std::vector<std::uint8_t> picture;  ///< a PNG, may be empty
};

/// Writes NAME.bolt: `bolt.json`, `material.loom`, `notes.txt`, `picture.png`, and under `files/` every file that a
/// node reads. Whole or not at all. Error: also a file that cannot be read.
Result<Done> write_bolt(const std::filesystem::path& path, const Bolt& bolt);

/// Reads a bolt from anyone.
/// Limits   64 MiB packed, 64 entries, 32 MiB an entry unpacked; only these names are looked at, nothing is written to
/// disc; its nodes read nothing but what it packs. Error    what is wrong with the package or the material in it.
Result<Bolt> read_bolt(const std::filesystem::path& path);

/// Puts the files that a bolt packs into a folder, where the same names then find them.
/// Error   a file of that name with other contents is there, or the folder cannot be written.
Result<Done> unpack_files(const FileRoot& root, const std::filesystem::path& folder);

/// A .loom or .bolt by its ending. Its files are looked up beside it, or in the bolt.
Result<Material> open_material(const std::filesystem::path& path, std::vector<Error>* warnings = nullptr);

}  // namespace loom
