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
#include "core/io/png_writer.h"
#include "core/plane/colour.h"

namespace loom {
namespace {

namespace oiio = OIIO;

Error failed(const std::filesystem::path& path, const std::string& why) {
  return {path.string(), "cannot be written: " + why, "Choose another folder, or make room; nothing was left behind"};
}

// Writes beside the place and renames: a file is there whole or not at all.
template <class Write>
Result<Done> written_aside(const std::filesystem::path& path, const Write& write) {
  const std::filesystem::path temporary =
      path.parent_path() / (".part-" + std::to_string(::getpid()) + "-" + path.filename().string());
  std::error_code code;
  Result<Done> done = write(temporary);
  if (done) {
    std::filesystem::rename(temporary, path, code);
    if (!code) return done;
    done = failed(path, code.message());
  }
  std::filesystem::remove(temporary, code);
  if (done.error().where == temporary.string()) return Error{path.string(), done.error().what, done.error().mend};
  return done;
}

// A file in memory. Offsets in it come from strangers: none may lead out of it, as the library's own reader lets them.
class MemoryFile : public oiio::Filesystem::IOMemReader {
 public:
  using IOMemReader::IOMemReader;
  std::size_t pread(void* to, std::size_t bytes, std::int64_t offset) override {
    if (offset < 0 || static_cast<std::size_t>(offset) >= size()) return 0;
    return IOMemReader::pread(to, std::min(bytes, size() - static_cast<std::size_t>(offset)), offset);
  }
};

// Rows in bands, so that no second copy of the picture is held; OpenEXR packs a band's blocks on all cores.
Result<Done> write_exr(const std::filesystem::path& path, const std::vector<Channel>& channels, int bits,
                       const Stop& stop) {
  constexpr int kBand = 256;
  const int size = channels[0].plane->size();
  const std::size_t n = channels.size();
  oiio::ImageSpec spec(size, size, static_cast<int>(n), bits == 16 ? oiio::TypeDesc::HALF : oiio::TypeDesc::FLOAT);
  spec.attribute("compression", "zip");
  spec.attribute("DateTime", "");  // else the library puts the clock's time there
  if (n == 1) spec.channelnames = {"Y"};
  auto file = oiio::ImageOutput::create(path.string());
  if (!file) return failed(path, oiio::geterror());
  bool good = file->open(path.string(), spec);
  std::vector<float> band(static_cast<std::size_t>(std::min(kBand, size)) * static_cast<std::size_t>(size) * n);
  for (int first = 0; first < size && good && !stop.asked(); first += kBand) {
    const int last = std::min(first + kBand, size);
    for_rows(last - first, 16, stop, [&](int from, int to) {
      for (int y = from; y < to; ++y)
        for (std::size_t c = 0; c < n; ++c) {
          const float* row = channels[c].plane->row(first + y);
          float* out = band.data() + static_cast<std::size_t>(y) * static_cast<std::size_t>(size) * n + c;
          for (int x = 0; x < size; ++x)
            out[static_cast<std::size_t>(x) * n] = channels[c].lift + channels[c].gain * row[x];
        }
    });
    good = file->write_scanlines(first, last, 0, oiio::TypeDesc::FLOAT, band.data());
  }
  const std::string why = good ? "" : file->geterror();
  good = file->close() && good;
  if (stop.asked()) return Error{"", kCancelled, ""};
  return good ? Result<Done>(Done{}) : failed(path, why.empty() ? "it could not be finished" : why);
}

}  // namespace

Result<Done> write_image(const std::filesystem::path& path, const std::vector<Channel>& channels, const ImageSpec& spec,
                         const Stop& stop) {
  const bool png = spec.format == ImageFormat::png;
  if (channels.empty() || (png && spec.bits != 8 && spec.bits != 16) || (!png && spec.bits != 16 && spec.bits != 32))
    return Error{path.string(), "cannot hold " + std::to_string(spec.bits) + " bits",
                 "Use 8 or 16 bits for PNG, 16 or 32 for EXR"};
  return written_aside(path, [&](const std::filesystem::path& temporary) {
    return png ? write_png(temporary, channels, spec.bits, spec.srgb, stop)
               : write_exr(temporary, channels, spec.bits, stop);
  });
}

namespace {

Result<Done> write_whole(const std::filesystem::path& path, oiio::ImageSpec spec, const void* values) {
  return written_aside(path, [&](const std::filesystem::path& temporary) -> Result<Done> {
    auto file = oiio::ImageOutput::create(temporary.string());
    if (!file) return failed(temporary, oiio::geterror());
    bool good = file->open(temporary.string(), spec) && file->write_image(spec.format, values);
    const std::string why = good ? "" : file->geterror();
    good = file->close() && good;
    return good ? Result<Done>(Done{}) : failed(temporary, why.empty() ? "it could not be finished" : why);
  });
}

}  // namespace

Result<Done> write_picture(const std::filesystem::path& path, int width, int height,
                           const std::vector<std::uint8_t>& values) {
  const auto pixels = static_cast<std::size_t>(width) * static_cast<std::size_t>(height);
  oiio::ImageSpec spec(width, height, values.size() == pixels * 4 ? 4 : 3, oiio::TypeDesc::UINT8);
  spec.attribute("oiio:ColorSpace", "sRGB");
  spec.attribute("oiio:UnassociatedAlpha", 1);
  return write_whole(path, spec, values.data());
}

Result<Done> write_radiance(const std::filesystem::path& path, int width, int height,
                            const std::vector<float>& values) {
  oiio::ImageSpec spec(width, height, 4, oiio::TypeDesc::FLOAT);
  spec.attribute("oiio:ColorSpace", "Linear");
  spec.attribute("compression", "zip");
  spec.attribute("DateTime", "");  // else the library puts the clock's time there
  return write_whole(path, spec, values.data());
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
                 "Make it smaller: at most 16384 pixels a side, and 6600 x 6600 in colour"};
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
  MemoryFile memory(const_cast<char*>(bytes.data()), bytes.size());
  oiio::ImageSpec config = straight_alpha();
  void* const proxy = &memory;  // beside a configuration it is only looked for here
  config.attribute("oiio:ioproxy", oiio::TypeDesc::PTR, &proxy);
  return decoded(name, oiio::ImageInput::open("picture" + ending, &config));
}

}  // namespace loom
