// Bolts that are used as nodes: found, checked against what was used, and made definitions.
#pragma once
#include <filesystem>
#include <vector>

#include "core/bolt/package.h"
#include "core/graph/bolt_group.h"

namespace loom {

/// How far the opening of a bolt, and of those within it, has come. Limits: 8 within each other, 512 MiB in all.
struct Unpacking {
  int depth = 0;
  int levels = 0;  ///< of the deepest bolt among those that were just taken
  std::size_t bytes = 0;
};

/// A bolt ready to be used as one node.
struct BoltDefinition {
  BoltReference reference;  ///< without a file
  std::map<std::string, std::shared_ptr<const Group>> groups;
  std::map<std::string, FileBytes> files;  ///< as its nodes name them
  int levels = 1;                          ///< of bolts within it, itself included
  std::size_t unpacked = 0;                ///< bytes, with those within
  std::size_t bytes() const;
};

/// Error   the file is no bolt that can be used, as with read_bolt.
Result<std::shared_ptr<const BoltDefinition>> definition_of(const FileBytes& file, Unpacking& so_far);

/// Puts the definitions of all bolts that the nodes of a material stand for into it, with the files that they read.
/// Gives back what cannot be had: no such file, a file that leads out, or other contents than were used.
std::vector<Error> take_bolts(Material& m, Unpacking& so_far);
std::vector<Error> take_bolts(Material& m);

/// The same for a file that a node is to stand for.   Error   as definition_of, or as find_file.
Result<BoltReference> take_bolt(Material& m, const std::string& file);

/// The newest version of a bolt that lies in the folder of the one that is used, where it is newer, or is what has come
/// into the place of that file. `file` is then its whole path. Looks at covers alone.
std::optional<BoltReference> newer_version(const Material& m, const BoltReference& used);
/// What a bolt's cover says of it; `file` is the path.   Error   as read_cover.
Result<BoltReference> reference_to(const std::filesystem::path& path);

/// Whether a name is that of a bolt; whether it is a file within one that a node stands for.
bool is_bolt_file(const std::string& name);
bool is_of_bolt(const std::string& name);

/// What a bolt's entries hold.   Error   as read_bolt, without the file's name.
Result<Bolt> unpacked(Entries entries, Unpacking& so_far);

}  // namespace loom
