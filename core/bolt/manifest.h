// What stands in a bolt's `bolt.json`: what it is, and what it holds with the hash of each.
#pragma once
#include <map>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/error.h"
#include "core/bolt/archive.h"
#include "core/graph/imprint.h"

namespace loom {

/// The format of bolts that this program writes. Formats 1 and 2 had neither identifier nor hashes.
constexpr int kBoltFormat = 3;

struct Manifest {
  int format = kBoltFormat;
  int needs = 0;  ///< the format of documents that a program has to read for it; 0: not said
  std::string name;
  Imprint imprint;  ///< with its identifier
  double tile_metres = 1;
  std::string notes;                            ///< the entry's name; empty: there are none
  std::map<std::string, std::string> pictures;  ///< entry by preset; under "": all dials at start
  std::map<std::string, std::string> sha256;  ///< hash in small hexadecimal digits by entry, all but the manifest's own
};

inline constexpr const char* kManifestEntry = "bolt.json";

std::string manifest_text(const Manifest& manifest);
/// Error: what is wrong with it, or that a newer program wrote it.
Result<Manifest> read_manifest_text(std::string_view text);

/// Source   FIPS 180-4, by OpenSSL.
std::string sha256_of(std::string_view bytes);
/// The same of a file, read in pieces; empty where it cannot be read.
std::string sha256_of_file(const std::filesystem::path& path);

/// Whether the entries are those that the manifest names, byte by byte.   Error   the first that is not.
Result<Done> check_entries(const Manifest& manifest, const Entries& entries);

}  // namespace loom
