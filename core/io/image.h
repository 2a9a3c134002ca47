// Image files: written whole or not at all.
#pragma once
#include <filesystem>
#include <string>
#include <vector>

#include "core/base/error.h"
#include "core/base/stop.h"
#include "core/plane/plane.h"

namespace loom {

enum class ImageFormat { png, exr };

struct ImageSpec {
  ImageFormat format = ImageFormat::png;
  int bits = 8;       ///< PNG 8 or 16, EXR 16 or 32
  bool srgb = false;  ///< encode as sRGB (PNG only: EXR is always linear)
};

/// One channel of a file: `lift` + `gain` times what the plane holds.
struct Channel {
  const Plane* plane = nullptr;
  float gain = 1, lift = 0;
};

/// Writes 1, 3 or 4 channels, quantised once with correct rounding, in bands of rows over all cores. Any size; planes
/// are square. The file holds no clock time: the same planes give the same bytes. Error   the folder, the disc, the
/// combination of format and bits, or "cancelled"; nothing is left behind.
Result<Done> write_image(const std::filesystem::path& path, const std::vector<Channel>& channels, const ImageSpec& spec,
                         const Stop& stop = {});

/// Eight-bit picture of any size, sRGB-encoded. `values` holds 3 bytes a pixel, or 4 with straight alpha.
Result<Done> write_picture(const std::filesystem::path& path, int width, int height,
                           const std::vector<std::uint8_t>& values);
/// EXR of any size: linear, 4 floats a pixel, alpha premultiplied. The same values give the same bytes.
Result<Done> write_radiance(const std::filesystem::path& path, int width, int height, const std::vector<float>& values);

struct Image {
  int width = 0, height = 0, channels = 0;
  bool srgb = false;          ///< the file says so, or has 8 bits and says nothing
  std::vector<float> values;  ///< interleaved, rows from the top; alpha straight
  std::size_t bytes() const { return values.size() * sizeof(float); }
};

/// Reads an image as floats, as stored (no colour conversion). Limits: 16384 pixels a side, 512 MiB decoded.
Result<Image> read_image(const std::filesystem::path& path);

/// The same from bytes: PNG, JPEG, TIFF, EXR or HDR, told apart by the ending of `name`.
Result<Image> decode_image(const std::string& name, const std::string& bytes);

}  // namespace loom
