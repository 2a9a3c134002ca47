// A bolt: a material with its notes, pictures and files in one zip file.
#pragma once
#include <filesystem>
#include <map>
#include <string>
#include <vector>

#include "core/base/error.h"
#include "core/bolt/manifest.h"
#include "core/graph/material.h"

namespace loom {

struct Bolt {
  Material material;
  std::map<std::string, std::string> pictures{};  ///< bytes of PNG files by preset; under "": all dials at start
};

/// Pictures in a bolt are PNG files of at most so many pixels a side.
constexpr int kMostPictureSide = 1024;

/// Writes NAME.bolt: `bolt.json` (the manifest), `material.loom`, `notes.md`, `picture.png` and `pictures/N.png` of the
/// presets, and under `files/` every file that a node reads. Whole or not at all; the same bolt gives the same bytes.
/// An empty identifier becomes one of the name. Error    a file that cannot be read or is no picture, drawing or mesh;
/// more than a bolt may hold; the disc.
Result<Done> write_bolt(const std::filesystem::path& path, const Bolt& bolt);

/// Reads a bolt from anyone, those of older formats as well. Nothing is written to disc, nothing runs, and its nodes
/// read nothing but what it packs.
/// Limits   of archive.h.   Error    what is wrong with the package, with a hash or with the material in it.
Result<Bolt> read_bolt(const std::filesystem::path& path);

/// What a bolt says of itself, and its picture, without opening the material. Its hashes are not looked at but for the
/// picture's.
struct BoltCover {
  Manifest manifest;
  std::string picture;  ///< bytes of a PNG file; may be empty
};
Result<BoltCover> read_cover(const std::filesystem::path& path);
/// The same without the picture.
Result<Manifest> read_manifest(const std::filesystem::path& path);

/// Puts the files that a bolt packs into a folder, where the same names then find them.
/// Error   a file of that name with other contents is there, or the folder cannot be written.
Result<Done> unpack_files(const FileRoot& root, const std::filesystem::path& folder);

/// Writes a bolt's material as ID.loom with its files, pictures and notes into a folder, which is made.
/// Error   as unpack_files.
Result<std::vector<std::filesystem::path>> unpack_bolt(const Bolt& bolt, const std::filesystem::path& folder);

/// A .loom or .bolt by its ending. Its files are looked up beside it, or in the bolt.
Result<Material> open_material(const std::filesystem::path& path, std::vector<Error>* warnings = nullptr);

}  // namespace loom
