// The library that parses glTF documents, without its pictures and its own ways to files.
#pragma once
#include <fstream>
#include <nlohmann/json.hpp>

// It takes the JSON library as it finds it.
#define TINYGLTF_NO_STB_IMAGE
#define TINYGLTF_NO_STB_IMAGE_WRITE
#define TINYGLTF_NO_EXTERNAL_IMAGE
#define TINYGLTF_NO_FS
#define TINYGLTF_NO_INCLUDE_JSON
#include <tiny_gltf.h>
