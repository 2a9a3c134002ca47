// Presets that a person keeps of somebody else's bolt: beside it, in a folder of their own.
#pragma once
#include <filesystem>
#include <vector>

#include "core/base/error.h"
#include "core/graph/material.h"

namespace loom {

/// What was kept of this bolt, whichever its version; nothing where there is no such file.
/// Error   the file cannot be read.
Result<std::vector<Preset>> own_presets(const std::filesystem::path& folder, const Material& bolt);

/// Keeps these in place of all that were kept before: a document of the bolt's identifier that holds them alone.
/// Error   the folder cannot be made or written.
Result<Done> keep_own_presets(const std::filesystem::path& folder, const Material& bolt,
                              const std::vector<Preset>& presets);

/// Without what another version had: dials that are not there any more, or hold something else now.
Preset as_it_fits(Preset preset, const Material& bolt);

}  // namespace loom
