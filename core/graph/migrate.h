// Brings documents of older formats to the present one, as JSON, before anything else reads them.
#pragma once
#include <nlohmann/json.hpp>

namespace loom {

/// The format that this program writes. What each one changed stands in docs/format.md.
constexpr int kFormat = 2;

/// Changes `document` (a material, or a part of one with its own lanes and nodes) from `format` on to kFormat. What is
/// not of the shape that it expects is left as it is, for the reader to refuse.
void migrate(nlohmann::json& document, int format);

}  // namespace loom
