// Image files: written whole or not at all.
#pragma once
#include <filesystem>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/error.h"
#include "core/base/stop.h"
#include "core/plane/plane.h"

namespace loom {

enum class ImageFormat { png, exr, tiff };

/// Whole numbers may be encoded as sRGB, and the file says so: PNG by its chunk, TIFF by Exif's ColorSpace. Floats are
/// always linear.
struct ImageSpec {
  ImageFormat format = ImageFormat::png;
  int bits = 8;  ///< PNG 8 or 16, EXR 16 (half) or 32, TIFF 8, 16 or 32
  bool srgb = false;
  bool dither = false;  ///< at 8 bits, see quantise.h
};
/// png, exr, tiff: as documents and the command line name them.
std::string_view format_name(ImageFormat format);
std::optional<ImageFormat> format_from_name(std::string_view name);
/// The ending of a file's name, with its point.
std::string ending_of(ImageFormat format);
/// Whether a format has files of so many bits.
bool holds_bits(ImageFormat format, int bits);

struct Wrote {
  bool unchanged = false;  ///< the same bytes were there already: that file was left alone
};

/// One channel of a file: `lift` + `gain` times what the plane holds.
struct Channel {
  const Plane* plane = nullptr;
  float gain = 1, lift = 0;
};

/// Writes 1, 3 or 4 channels, quantised once with correct rounding, in bands of rows over all cores. Any size; planes
/// are square. The file holds no clock time: the same planes give the same bytes, and a file that has them is left
/// alone. Error   the folder, the disc, the combination of format and bits, or "cancelled"; nothing is left behind.
Result<Wrote> write_image(const std::filesystem::path& path, const std::vector<Channel>& channels,
                          const ImageSpec& spec, const Stop& stop = {});

/// Eight-bit picture of any size, sRGB-encoded. `values` holds 3 bytes a pixel, or 4 with straight alpha.
Result<Done> write_picture(const std::filesystem::path& path, int width, int height,
                           const std::vector<std::uint8_t>& values);
/// The same as the bytes of a PNG file.
Result<std::string> encode_picture(int width, int height, const std::vector<std::uint8_t>& values);
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
