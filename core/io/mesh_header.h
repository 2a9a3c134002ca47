// What a mesh file promises, looked at before a library believes it.
#pragma once
#include <cstdint>
#include <istream>
#include <string>

namespace loom {

/// What is wrong with the head of a PLY file, or with the document of a glTF or GLB file of `bytes`: damaged, nested
/// too deep, or more than it holds or than can be taken, its instances counted. Empty: nothing, or it is another file.
std::string fault_of_header(std::istream& in, const std::string& ending, std::uintmax_t bytes);

}  // namespace loom
