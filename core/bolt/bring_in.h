// Map sets on the board: brought in as nodes, and one exchanged for another map by map.
#pragma once
#include <functional>
#include <map>

#include "core/bolt/import.h"
#include "core/graph/edit.h"
#include "core/graph/node_type.h"

namespace loom {

/// How a material names a file.
using FileNaming = std::function<std::string(const std::filesystem::path&)>;

struct BringIn {
  enum class To { hem, cord };
  To to = To::hem;             ///< slots of the hem, whatever ended there before; or a cord that is not yet used
  bool one_transform = false;  ///< they are led through one Transform as a cord, which moves the whole set
  std::string lane{};          ///< empty: a new one under the name of the set
};

/// An Image or a Normal map for each file, packed channels taken apart, gloss turned about. `fresh`: the new nodes.
Material bring_in(Material m, const Catalogue& catalogue, const ImportPlan& plan, const FileNaming& named,
                  const BringIn& how, std::vector<std::string>* fresh = nullptr);
/// A material of them alone.
Material imported(const ImportPlan& plan, const Catalogue& catalogue, const FileNaming& named);

/// The node for a map that is not connected to anything, under (lane, column, row): a Normal map, or an Image that
/// holds colours or data.
Material bring_picture(Material m, const Catalogue& catalogue, const ImportedMap& map, const FileNaming& named,
                       const edit::Placing& at, std::string* id);

/// Nodes that read the files of one set, as their names tell.
struct SetOnBoard {
  struct Map {
    std::string node;  ///< the one that reads the file
    int channel = -1;
    bool inverted = false;
    std::string output;  ///< NODE.PEG where the slot's map stands, turned about and taken apart
  };
  std::string name;
  std::map<std::string, Map> maps;  ///< by slot
};
/// Sets of two maps or more, in the order of the document.
std::vector<SetOnBoard> sets_on(const Material& m);

/// Another set in the place of one: what reads a map of the old one reads the new one's of the same slot. A node whose
/// map comes the same way keeps its place, its name and what else it holds. A map that the old set lacks goes into its
/// cord, or to its slot of the hem where that is free; one that the new set lacks stays.
Material exchange_set(Material m, const Catalogue& catalogue, const SetOnBoard& old, const ImportPlan& plan,
                      const FileNaming& named);

}  // namespace loom
