#include "core/bolt/own_presets.h"

#include "core/graph/disc.h"
#include "core/graph/json.h"

namespace loom {
namespace {

std::filesystem::path file_of(const std::filesystem::path& folder, const Material& bolt) {
  return folder / (id_of_name(bolt.imprint.id.empty() ? bolt.name : bolt.imprint.id) + ".loom");
}

}  // namespace

Result<std::vector<Preset>> own_presets(const std::filesystem::path& folder, const Material& bolt) {
  const auto file = file_of(folder, bolt);
  std::error_code failed;
  if (!std::filesystem::exists(file, failed)) return std::vector<Preset>();
  const auto text = read_file(file, kMostDocumentBytes);
  if (!text) return text.error();
  auto kept = read_material(*text);
  if (!kept) {
    Error e = kept.error();
    e.where = file.string() + ": " + e.where;
    return e;
  }
  return std::move(kept->presets);
}

Result<Done> keep_own_presets(const std::filesystem::path& folder, const Material& bolt,
                              const std::vector<Preset>& presets) {
  std::error_code failed;
  std::filesystem::create_directories(folder, failed);
  if (failed) return Error{folder.string(), "cannot be made: " + failed.message(), "Make room, or mend its rights"};
  Material kept;
  kept.name = bolt.name;
  kept.imprint = bolt.imprint;
  kept.presets = presets;
  return write_file(file_of(folder, bolt), write_material(kept));
}

Preset as_it_fits(Preset preset, const Material& bolt) {
  std::erase_if(preset.values, [&](const auto& entry) {
    const Value* now = bolt.value(entry.first);
    return !now || !now->dial || now->value.index() != entry.second.index();
  });
  return preset;
}

}  // namespace loom
