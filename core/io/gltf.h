// glTF 2.0 and GLB: triangles, parts by material, and what their corners carry.
#pragma once
#include <filesystem>
#include <string>
#include <string_view>

#include "core/io/mesh.h"

namespace loom {

/// `bytes` is the document, or a GLB. `folder`: where the buffers lie that it may name; empty: it may name none.
/// Without normals of its own a face is flat, as the standard asks for. Ignored: textures, lights, cameras, skins,
/// morphs, animations.   Error  too many triangles, none at all.   Throws std::runtime_error where it is damaged.
/// Standard: glTF 2.0, Khronos Group, 2021 (ISO/IEC 12113:2022), sections 3.6 and 3.7.
Result<Mesh> read_gltf(const std::string& name, std::string_view bytes, const std::filesystem::path& folder);

}  // namespace loom
