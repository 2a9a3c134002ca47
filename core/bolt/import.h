// A material from a set of maps: which file is which slot, by name and by measure.
#pragma once
#include <filesystem>
#include <string>
#include <vector>

#include "core/base/error.h"

namespace loom {

/// One channel of a file, or all of it, for one slot.
struct ImportedMap {
  std::filesystem::path file;
  std::string slot;
  int channel = -1;         ///< 0 to 3 of a packed file; -1: the whole
  bool inverted = false;    ///< gloss for roughness, transparency for opacity
  bool green_down = false;  ///< of a normal map
  double sure = 1;          ///< 0 to 1
  std::string told;         ///< what it was taken for, and why
};

struct ImportPlan {
  std::string name;  ///< what the files' names have in common
  std::vector<ImportedMap> maps;
  std::vector<std::pair<std::filesystem::path, std::string>> left_out;  ///< files that are no map of the set, and why
};

/// What a name says of a map: its words are taken apart at separators, digits and capitals; the last that means
/// something counts. Names of maps: common practice, no source.
struct NamedAs {
  std::string slot;
  bool inverted = false;
  int green = 0;                      ///< 1: up, -1: down, as the name says; 0: it does not
  std::vector<std::string> channels;  ///< of a packed file: slots in the order of its channels; "" for one that is none
  std::string set;                    ///< what stands before: the name of the set
};
std::optional<NamedAs> named_as(std::string_view stem);

/// Which way green looks in a normal map, by measure: read the right way the slopes are those of a height, and their
/// curl is nothing. 1 up, -1 down, times how sure, 0 to 1: by how much the one curl is greater.
/// Source   a gradient has no curl (Green's theorem); Frankot and Chellappa, PAMI 10(4), 1988.
double green_way(const struct Image& normals);

/// Whether a file is a picture that can come in, by its ending.
bool is_picture_file(const std::filesystem::path& file);

/// Settles which way green looks in a map that is said to be normals: by measure, else by its name, else up.
/// Error   the file cannot be read.
Result<Done> measure_green(ImportedMap& map);

/// Pictures in a folder, or files as they are named. Of two for one slot the first by name counts. What no name tells
/// is left out, and may be all of them.   Error   nothing to read.
Result<ImportPlan> sort_maps(const std::vector<std::filesystem::path>& files);
/// The same where one map at least must be told.   Error   also: no file that is a map.
Result<ImportPlan> plan_import(const std::vector<std::filesystem::path>& files);

}  // namespace loom
