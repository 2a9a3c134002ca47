// OpenImageIO does the formats; rounding and encoding are ours.
#include "core/io/image.h"

#include <OpenImageIO/filesystem.h>
#include <OpenImageIO/imageio.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <string_view>

#include "core/base/parallel.h"
#include "core/plane/colour.h"

namespace loom {
namespace {

namespace oiio = OIIO;

template <class T>
std::vector<T> quantised(const std::vector<const Plane*>& channels, bool srgb) {
  const int size = channels[0]->size();
  const std::size_t n = channels.size();
  std::vector<T> out(channels[0]->texels() * n);
  constexpr std::uint32_t most = sizeof(T) == 1 ? 255 : 65535;
  for_rows(size, 16, Stop{}, [&](int first, int last) {
    for (int y = first; y < last; ++y)
      for (std::size_t c = 0; c < n; ++c) {
        const float* row = channels[c]->row(y);
        T* to = out.data() + static_cast<std::size_t>(y) * static_cast<std::size_t>(size) * n + c;
        const bool encode = srgb && c < 3;
        for (int x = 0; x < size; ++x)
          to[static_cast<std::size_t>(x) * n] =
              static_cast<T>(code_of(encode ? srgb_from_linear(row[x]) : row[x], most));
      }
  });
  return out;
}

std::vector<float> interleaved(const std::vector<const Plane*>& channels) {
  const std::size_t n = channels.size(), texels = channels[0]->texels();
  std::vector<float> out(texels * n);
  for (std::size_t c = 0; c < n; ++c)
    for (std::size_t i = 0; i < texels; ++i) out[i * n + c] = channels[c]->data()[i];
  return out;
}

Result<Done> write_pixels(const std::filesystem::path& path, oiio::ImageSpec spec, oiio::TypeDesc given,
                          const void* pixels) {
  const auto failed = [&](const std::string& why) {
    return Error{path.string(), "cannot be written: " + why,
                 "Choose another folder, or make room; nothing was left behind"};
  };
  const std::filesystem::path temporary =
      path.parent_path() / (".part-" + std::to_string(::getpid()) + "-" + path.filename().string());
  auto file = oiio::ImageOutput::create(temporary.string());
  if (!file) return failed(oiio::geterror());
  std::error_code code;
  bool good = file->open(temporary.string(), spec);
  good = good && file->write_image(given, pixels);
  const std::string why = good ? "" : file->geterror();
  good = file->close() && good;
  if (good) std::filesystem::rename(temporary, path, code);
  if (good && !code) return Done{};
  std::filesystem::remove(temporary, code);
  return failed(why.empty() ? "it could not be finished" : why);
}

}  // namespace

Result<Done> write_image(const std::filesystem::path& path, const std::vector<const Plane*>& channels,
                         const ImageSpec& spec) {
  const bool png = spec.format == ImageFormat::png;
  if (channels.empty() || (png && spec.bits != 8 && spec.bits != 16) || (!png && spec.bits != 16 && spec.bits != 32))
    return Error{path.string(), "cannot hold " + std::to_string(spec.bits) + " bits",
                 "Use 8 or 16 bits for PNG, 16 or 32 for EXR"};
  const int size = channels[0]->size(), n = static_cast<int>(channels.size());
  oiio::ImageSpec out(size, size, n,
                      png ? (spec.bits == 8 ? oiio::TypeDesc::UINT8 : oiio::TypeDesc::UINT16)
                          : (spec.bits == 16 ? oiio::TypeDesc::HALF : oiio::TypeDesc::FLOAT));
  if (png) {
    out.attribute("oiio:ColorSpace", spec.srgb ? "sRGB" : "Linear");
    out.attribute("png:compressionLevel", 3);
  } else {
    out.attribute("compression", "zip");
    if (n == 1) out.channelnames = {"Y"};
  }
  if (!png) return write_pixels(path, out, oiio::TypeDesc::FLOAT, interleaved(channels).data());
  if (spec.bits == 8)
    return write_pixels(path, out, oiio::TypeDesc::UINT8, quantised<std::uint8_t>(channels, spec.srgb).data());
  return write_pixels(path, out, oiio::TypeDesc::UINT16, quantised<std::uint16_t>(channels, spec.srgb).data());
}

Result<Done> write_picture(const std::filesystem::path& path, int width, int height,
                           const std::vector<std::uint8_t>& rgb) {
  oiio::ImageSpec out(width, height, 3, oiio::TypeDesc::UINT8);
  out.attribute("oiio:ColorSpace", "sRGB");
  return write_pixels(path, out, oiio::TypeDesc::UINT8, rgb.data());
}

namespace {

Result<Image> decoded(const std::string& name, oiio::ImageInput::unique_ptr file) {
  constexpr int kMostSide = 16384;
  constexpr std::size_t kMostBytes = std::size_t{512} << 20;
  if (!file) return Error{name, "is not a readable picture: " + oiio::geterror(), "Use PNG, JPEG, TIFF, EXR or HDR"};
  const oiio::ImageSpec& spec = file->spec();
  const std::string space = spec.get_string_attribute("oiio:ColorSpace");
  Image image{
      spec.width, spec.height, spec.nchannels, space == "sRGB" || (space.empty() && spec.format.basesize() == 1), {}};
  const auto count = static_cast<std::size_t>(image.width) * static_cast<std::size_t>(image.height) *
                     static_cast<std::size_t>(image.channels);
  if (image.width < 1 || image.height < 1 || image.width > kMostSide || image.height > kMostSide ||
      count * sizeof(float) > kMostBytes)
    return Error{name, "is too large: " + std::to_string(image.width) + " x " + std::to_string(image.height),
                 "Make it smaller than 16384 pixels a side"};
  image.values.resize(count);
  if (!file->read_image(0, 0, 0, -1, oiio::TypeDesc::FLOAT, image.values.data()))
    return Error{name, "is broken: " + file->geterror(), "Save it again"};
  return image;
}

oiio::ImageSpec straight_alpha() {
  oiio::ImageSpec config;
  config.attribute("oiio:UnassociatedAlpha", 1);
  return config;
}

}  // namespace

Result<Image> read_image(const std::filesystem::path& path) {
  const oiio::ImageSpec config = straight_alpha();
  return decoded(path.string(), oiio::ImageInput::open(path.string(), &config));
}

Result<Image> decode_image(const std::string& name, const std::string& bytes) {
  static const std::array<std::string_view, 7> kEndings = {".png", ".jpg", ".jpeg", ".tif", ".tiff", ".exr", ".hdr"};
  std::string ending = std::filesystem::path(name).extension().string();
  for (char& c : ending) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
  if (std::find(kEndings.begin(), kEndings.end(), ending) == kEndings.end())
    return Error{name, "is no picture of a known kind", "Use PNG, JPEG, TIFF, EXR or HDR"};
  oiio::Filesystem::IOMemReader memory(const_cast<char*>(bytes.data()), bytes.size());
  oiio::ImageSpec config = straight_alpha();
  void* const proxy = &memory;  // beside a configuration it is only looked for here
  config.attribute("oiio:ioproxy", oiio::TypeDesc::PTR, &proxy);
  return decoded(name, oiio::ImageInput::open("picture" + ending, &config));
}

}  // namespace loom
