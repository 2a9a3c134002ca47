// What lies in folders: materials and bolts by what their files say of themselves, without opening them.
#pragma once
#include <cstdint>
#include <filesystem>
#include <functional>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/error.h"
#include "core/base/stop.h"
#include "core/graph/imprint.h"

namespace loom {

struct StockItem {
  std::filesystem::path file;
  bool is_bolt = false;
  std::string name;
  Imprint imprint;
  double tile_metres = 1;
  std::int64_t changed = 0;  ///< seconds since 1970
  std::uintmax_t bytes = 0;
  std::string fault;  ///< why it cannot be opened; it is listed all the same, under its file's name
  friend bool operator==(const StockItem&, const StockItem&) = default;
};

/// Whether a file is one, by its ending.
bool is_stock_file(const std::filesystem::path& file);
/// Reads a bolt's manifest, or the head of a document.
StockItem read_stock_item(const std::filesystem::path& file);

/// Most folders within a folder that are looked into, and most files that are listed.
constexpr int kDeepestStock = 8;
constexpr std::size_t kMostStock = 20000;

struct StockFound {
  std::vector<StockItem> items;                ///< by name, those without one last
  std::vector<std::filesystem::path> folders;  ///< that were looked into
};
/// Everything in a folder and the folders in it; hidden ones and links to folders are passed over. What is in `known`
/// and has not changed since is not read again. `so_far` is called with what has been found, now and then.
/// Stopped it gives what it has.   Error   no such folder.
Result<StockFound> look_through(const std::filesystem::path& folder, const std::vector<StockItem>& known,
                                const std::function<void(const StockFound&)>& so_far, const Stop& stop);

/// A size in metres as it is said: "35 cm", "1.2 m".
std::string size_words(double metres);

/// What is looked for: words, each of which has to begin a word of the name, the tags, the licence, the file's name or
/// the kind ("bolt", "material"); and sizes of the tile, "<1m", ">50cm", also with a space between.
class StockSearch {
 public:
  explicit StockSearch(std::string_view typed);
  bool fits(const StockItem& item) const;
  bool is_empty() const { return words_.empty() && least_ == 0 && most_ == 0; }

 private:
  std::vector<std::string> words_;
  double least_ = 0, most_ = 0;  // metres; 0: none
};

}  // namespace loom
