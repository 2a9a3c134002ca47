// What a material offers to others, as JSON: dials, presets, imprint, delivery lists.
#pragma once
#include <vector>

#include "core/base/error.h"
#include "core/graph/material.h"

namespace loom {

/// `of` is the value that it offers. Throws as the readers of json_reading.h.
Dial dial_from_json(const Json& json, const Value& of, std::vector<Error>* warnings);
Json dial_to_json(const Dial& dial);

/// Throws as the readers of json_reading.h.
Imprint imprint_from_json(const Json& json);
Json imprint_to_json(const Imprint& imprint);

/// The imprint, the presets and the delivery lists of a document. Throws as the readers of json_reading.h.
void read_offered(const Json& document, Material& material, std::vector<Error>* warnings);
void write_offered(const Material& material, Json& document);

}  // namespace loom
