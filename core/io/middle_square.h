// The part of a picture that is looked at where a square is wanted.
#pragma once
#include <array>

#include "core/io/image.h"

namespace loom {

/// The middle square of a picture at `size`, as linear light, grey in all three planes alike: each pixel is the mean of
/// what it covers.
std::array<Plane, 3> middle_square(const Image& image, int size);

}  // namespace loom
