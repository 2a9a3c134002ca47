// Files as small pictures.
#pragma once
#include <QImage>
#include <filesystem>

#include "core/io/image.h"

namespace loom::app {

/// The values as they are written, the middle of every square of texels.
QImage shownSmall(const Image& image, int side);
/// Read from the disc: not on the interface's thread. Null: it is no picture.
QImage smallPictureOf(const std::filesystem::path& file, int side);

}  // namespace loom::app
