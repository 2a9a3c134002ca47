// An artist's own picture of a place, as light.
#pragma once
#include <filesystem>

#include "core/base/error.h"
#include "core/surface/environment.h"

namespace loom {

struct OwnEnvironment {
  std::shared_ptr<const Environment> light;
  std::size_t mended = 0;  ///< values that are no numbers or below 0, taken as 0
};
/// From an EXR, HDR or any other picture whose width is twice its height: longitude runs from right to left over the
/// picture, its middle lies in front (+z), its top above. Source: latitude-longitude maps of OpenEXR, "Environment Map
/// Attributes" (from memory). Pictures wider than 1024 are brought down by means. Error: what cannot be read, and what
/// is no such picture.
Result<OwnEnvironment> read_environment(const std::filesystem::path& path);

}  // namespace loom
