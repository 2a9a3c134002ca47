// What earlier deliveries left in a folder, so that what stands already is neither woven nor written again: an
// interrupted delivery goes on where it was broken off.
#pragma once
#include <filesystem>
#include <map>
#include <optional>

#include "core/bolt/delivery.h"

namespace loom {

class DeliveryState {
 public:
  /// Reads `file`, which need not be there; what is damaged counts as nothing known. Empty: nothing is remembered.
  explicit DeliveryState(std::filesystem::path file);

  struct Standing {
    DeliveredFile file;
    std::vector<std::string> told;  ///< what was told of it then
    bool cut = false;
  };

  /// Adds a file to the report that was written under this key and is still there, byte by byte, with what was told of
  /// it then. False: there is none.
  bool take(const std::filesystem::path& path, const std::string& key, DeliveryReport& report) const;
  /// Remembers at once, on disc, the file that `write` adds to the report and what it tells. That it cannot is no fault
  /// of the delivery.
  template <class Write>
  Result<Done> written(const std::string& key, DeliveryReport& report, const Write& write) {
    const auto told = static_cast<std::ptrdiff_t>(report.warnings.size());
    const std::size_t cut = report.cut.size();
    if (const auto done = write(); !done) return done;
    note(key, {report.files.back(), {report.warnings.begin() + told, report.warnings.end()}, report.cut.size() > cut});
    return Done{};
  }

 private:
  void note(const std::string& key, Standing standing);
  std::filesystem::path file_;
  std::map<std::string, std::pair<std::string, Standing>> known_;  // by path, with the key
};

/// Where what is known of a folder is kept: in the person's cache, by the folder's name. Empty: there is no cache.
std::filesystem::path delivery_state_file(const std::filesystem::path& folder);

/// What a file of a delivery is made of: the same key, the same bytes, as long as the program is the same. `mesh`: onto
/// which it is delivered, and whose parts count then.
std::string delivery_key(const FlatGraph& graph, const DeliveryPlan& plan, const FileDelivery& file,
                         const Key& mesh = {});

}  // namespace loom
