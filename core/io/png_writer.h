// PNG files at the speed of the machine: bands of rows are quantised, filtered and packed side by side.
#pragma once
#include <filesystem>
#include <vector>

#include "core/base/error.h"
#include "core/base/stop.h"
#include "core/io/image.h"

namespace loom {

/// Writes 1, 3 or 4 channels of square planes as a PNG file of 8 or 16 bits, as `spec` says, straight from the planes:
/// no second copy of the picture is held. Each band of rows is a stretch of one zlib stream of its own IDAT chunk. Bits
/// independent of the number of threads; no clock time in the file. Error   what the disc says, or "cancelled" within
/// some tens of milliseconds after `stop` is asked; the file is then
///         removed.
/// Source  PNG (Portable Network Graphics) Specification, third edition, W3C; filters chosen row by row by the least
/// sum
///         of absolute differences (its section 12.7); RFC 1950 and 1951 for the stream, packed by ISA-L.
Result<Done> write_png(const std::filesystem::path& path, const std::vector<Channel>& channels, const ImageSpec& spec,
                       const Stop& stop);

}  // namespace loom
