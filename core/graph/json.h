// A material as JSON text, both ways. The format is described in docs/format.md.
#pragma once
#include <string>
#include <string_view>
#include <vector>

#include "core/base/error.h"
#include "core/graph/material.h"
#include "core/graph/migrate.h"

namespace loom {

constexpr std::size_t kMostDocumentBytes = std::size_t{32} << 20;

/// Reads a document.
/// Limits   32 MiB, 64 levels of brackets.   Unknown keys are kept, and named in `warnings` (may be null).
/// Error    what stands where, and how to mend it; never throws.
Result<Material> read_material(std::string_view text, std::vector<Error>* warnings = nullptr);

/// Sorted keys, one list item a line where it is short; the same material gives the same bytes.
std::string write_material(const Material& material);

ParamValue param_from_json(const Json& json, bool& understood);
Json param_to_json(const ParamValue& value);

/// A part of a material as text for the clipboard: nodes and the threads between them.
std::string write_snippet(const Material& material, const std::vector<std::string>& nodes);
Result<Material> read_snippet(std::string_view text);

}  // namespace loom
