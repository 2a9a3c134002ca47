// What a user of a bolt gives at its inputs: pictures and typed values, without a graph.
#pragma once
#include <filesystem>
#include <string>

#include "core/graph/material.h"
#include "core/graph/node_type.h"

namespace loom {

/// Whether an input can be given something without a thread: regions and cords cannot.
bool can_be_given(const Node& input);

/// A picture for an input; the material holds its bytes from then on, a bolt's with those that it packs.
/// `input` is the node's identifier.   Error   a file that cannot be read, or an input that takes none.
Result<Material> with_input_picture(Material m, const std::string& input, const std::filesystem::path& file);

/// What is typed: a number, "x, y" or "r, g, b" as the kind wants; or else the path of a picture. `input` is the node's
/// identifier or its name.   Error   there is no such input, with those that there are; no such file.
Result<Material> with_input(const Material& m, const std::string& input, const std::string& text);

}  // namespace loom
