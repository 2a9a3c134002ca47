// The bitmap behind a parameter `file`, for the nodes that have one.
#pragma once
#include "core/nodes/drawn.h"

namespace loom {

/// Whether the numbers of a file are sRGB-encoded: as it says itself (8 bits that say nothing are), or as one knows.
enum class Colours { as_said, srgb, linear };

struct PictureUse {
  Colours colours = Colours::as_said;
  bool stretched = false;  ///< all of a picture that is no square; else its middle
  int patches = 0;         ///< along each side, where it is made continuous; 0: it is taken as it is
};

/// Linear values, 1 plane (a mask), 3 (colours) or 4 (with opacity), each texel the mean over its square; a sample
/// where no file is chosen. Sets the emitter's fault where the file cannot be read.
std::shared_ptr<const DrawnTable> lay_picture(Emitter& e, const PictureUse& use);

/// Its colours at the node's coordinates; grey ones of a mask.
Strands picture_colour(Emitter& e, const std::shared_ptr<const DrawnTable>& table);

}  // namespace loom
