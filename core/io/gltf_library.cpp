#define TINYGLTF_IMPLEMENTATION
#include "core/io/gltf_library.h"
