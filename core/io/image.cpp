// OpenImageIO does the formats; rounding and encoding are ours.
#include "core/io/image.h"

#include <OpenImageIO/filesystem.h>
#include <OpenImageIO/imageio.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <fstream>
#include <string_view>

#include "core/base/half_written.h"
#include "core/base/parallel.h"
#include "core/io/png_writer.h"
#include "core/io/quantise.h"
#include "core/plane/colour.h"

namespace loom {
namespace {

namespace oiio = OIIO;

Error failed(const std::filesystem::path& path, const std::string& why) {
  return {path.string(), "cannot be written: " + why, "Choose another folder, or make room; nothing was left behind"};
}

bool same_bytes(const std::filesystem::path& a, const std::filesystem::path& b) {
  std::error_code gone;
  if (!std::filesystem::is_regular_file(b, gone) ||
      std::filesystem::file_size(a, gone) != std::filesystem::file_size(b, gone) || gone)
    return false;
  std::ifstream first(a, std::ios::binary), second(b, std::ios::binary);
  std::vector<char> one(std::size_t{1} << 18), other(one.size());
  while (first && second) {
    first.read(one.data(), static_cast<std::streamsize>(one.size()));
    second.read(other.data(), static_cast<std::streamsize>(other.size()));
    if (first.gcount() != second.gcount() || !std::equal(one.begin(), one.begin() + first.gcount(), other.begin()))
      return false;
  }
  return first.eof() && second.eof();
}

// Writes beside the place and renames: a file is there whole or not at all. One that has the same bytes stays.
template <class Write>
Result<Wrote> written_aside(const std::filesystem::path& path, const Write& write) {
  const std::filesystem::path temporary = half_written(path);
  std::error_code code;
  Result<Done> done = write(temporary);
  if (done && same_bytes(temporary, path)) {
    std::filesystem::remove(temporary, code);
    return Wrote{true};
  }
  if (done) {
    std::filesystem::rename(temporary, path, code);
    if (!code) return Wrote{};
    done = failed(path, code.message());
  }
  std::filesystem::remove(temporary, code);
  if (done.error().where == temporary.string()) return Error{path.string(), done.error().what, done.error().mend};
  return done.error();
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

// One row of all channels, as OpenImageIO takes it.
void row_of_floats(const std::vector<Channel>& channels, int y, float* to) {
  const std::size_t n = channels.size();
  const int size = channels[0].plane->size();
  for (std::size_t c = 0; c < n; ++c) {
    const float* row = channels[c].plane->row(y);
    for (int x = 0; x < size; ++x)
      to[static_cast<std::size_t>(x) * n + c] = channels[c].lift + channels[c].gain * row[x];
  }
}

template <class Code>
void row_of_codes(const std::vector<Channel>& channels, int y, const ImageSpec& spec, Code* to) {
  static thread_local std::vector<std::int32_t> codes;
  const std::size_t n = channels.size();
  for (std::size_t c = 0; c < n; ++c) {
    quantise_row(channels[c], c, y, spec.bits, spec.srgb && c < 3, spec.dither, codes);
    for (std::size_t x = 0; x < codes.size(); ++x) to[x * n + c] = static_cast<Code>(codes[x]);
  }
}

// Rows in bands, so that no second copy of the picture is held; the library packs a band's blocks on all cores.
template <class Sample, class Row>
Result<Done> write_bands(const std::filesystem::path& path, const oiio::ImageSpec& spec, oiio::TypeDesc type,
                         const Row& row_into, const Stop& stop) {
  constexpr int kBand = 256;
  auto file = oiio::ImageOutput::create(path.string());
  if (!file) return failed(path, oiio::geterror());
  bool good = file->open(path.string(), spec);
  const auto wide = static_cast<std::size_t>(spec.width) * static_cast<std::size_t>(spec.nchannels);
  std::vector<Sample> band(static_cast<std::size_t>(std::min(kBand, spec.height)) * wide);
  for (int first = 0; first < spec.height && good && !stop.asked(); first += kBand) {
    const int last = std::min(first + kBand, spec.height);
    for_rows(last - first, 16, stop, [&](int from, int to) {
      for (int y = from; y < to; ++y) row_into(first + y, band.data() + static_cast<std::size_t>(y) * wide);
    });
    good = file->write_scanlines(first, last, 0, type, band.data());
  }
  const std::string why = good ? "" : file->geterror();
  good = file->close() && good;
  if (stop.asked()) return Error{"", kCancelled, ""};
  return good ? Result<Done>(Done{}) : failed(path, why.empty() ? "it could not be finished" : why);
}

oiio::ImageSpec spec_of(const std::vector<Channel>& channels, oiio::TypeDesc type) {
  const int size = channels[0].plane->size();
  oiio::ImageSpec spec(size, size, static_cast<int>(channels.size()), type);
  spec.attribute("compression", "zip");
  spec.attribute("DateTime", "");  // else the library puts the clock's time there
  spec.attribute("oiio:UnassociatedAlpha", 1);
  return spec;
}

Result<Done> write_exr(const std::filesystem::path& path, const std::vector<Channel>& channels, int bits,
                       const Stop& stop) {
  oiio::ImageSpec spec = spec_of(channels, bits == 16 ? oiio::TypeDesc::HALF : oiio::TypeDesc::FLOAT);
  if (channels.size() == 1) spec.channelnames = {"Y"};
  return write_bands<float>(
      path, spec, oiio::TypeDesc::FLOAT, [&](int y, float* to) { row_of_floats(channels, y, to); }, stop);
}

// Source: TIFF revision 6.0, Adobe 1992; Exif 2.3, section 4.6.5, ColorSpace: 1 is sRGB, 65535 uncalibrated.
Result<Done> write_tiff(const std::filesystem::path& path, const std::vector<Channel>& channels, const ImageSpec& how,
                        const Stop& stop) {
  const auto type = how.bits == 8    ? oiio::TypeDesc::UINT8
                    : how.bits == 16 ? oiio::TypeDesc::UINT16
                                     : oiio::TypeDesc::FLOAT;
  oiio::ImageSpec spec = spec_of(channels, type);
  spec.attribute("tiff:zipquality", 1);  // twice as quick as its usual level, a hundredth larger
  if (how.bits != 32) spec.attribute("Exif:ColorSpace", how.srgb ? 1 : 65535);
  if (how.bits == 8)
    return write_bands<std::uint8_t>(
        path, spec, type, [&](int y, std::uint8_t* to) { row_of_codes(channels, y, how, to); }, stop);
  if (how.bits == 16)
    return write_bands<std::uint16_t>(
        path, spec, type, [&](int y, std::uint16_t* to) { row_of_codes(channels, y, how, to); }, stop);
  return write_bands<float>(
      path, spec, type, [&](int y, float* to) { row_of_floats(channels, y, to); }, stop);
}

}  // namespace

std::string_view format_name(ImageFormat format) {
  return format == ImageFormat::png ? "png" : format == ImageFormat::exr ? "exr" : "tiff";
}

std::optional<ImageFormat> format_from_name(std::string_view name) {
  for (const ImageFormat format : {ImageFormat::png, ImageFormat::exr, ImageFormat::tiff})
    if (format_name(format) == name) return format;
  return {};
}

std::string ending_of(ImageFormat format) {
  return format == ImageFormat::png ? ".png" : format == ImageFormat::exr ? ".exr" : ".tif";
}

bool holds_bits(ImageFormat format, int bits) {
  return bits == 16 || (bits == 8 && format != ImageFormat::exr) || (bits == 32 && format != ImageFormat::png);
}

Result<Wrote> write_image(const std::filesystem::path& path, const std::vector<Channel>& channels,
                          const ImageSpec& spec, const Stop& stop) {
  if (channels.empty() || !holds_bits(spec.format, spec.bits))
    return Error{path.string(), "cannot hold " + std::to_string(spec.bits) + " bits",
                 "Use 8 or 16 bits for PNG, 16 or 32 for EXR, 8, 16 or 32 for TIFF"};
  return written_aside(path, [&](const std::filesystem::path& temporary) {
    if (spec.format == ImageFormat::png) return write_png(temporary, channels, spec, stop);
    if (spec.format == ImageFormat::exr) return write_exr(temporary, channels, spec.bits, stop);
    return write_tiff(temporary, channels, spec, stop);
  });
}

namespace {

Result<Done> write_whole(const std::filesystem::path& path, oiio::ImageSpec spec, const void* values) {
  const auto wrote = written_aside(path, [&](const std::filesystem::path& temporary) -> Result<Done> {
    auto file = oiio::ImageOutput::create(temporary.string());
    if (!file) return failed(temporary, oiio::geterror());
    bool good = file->open(temporary.string(), spec) && file->write_image(spec.format, values);
    const std::string why = good ? "" : file->geterror();
    good = file->close() && good;
    return good ? Result<Done>(Done{}) : failed(temporary, why.empty() ? "it could not be finished" : why);
  });
  return wrote ? Result<Done>(Done{}) : wrote.error();
}

}  // namespace

namespace {

oiio::ImageSpec picture_spec(int width, int height, const std::vector<std::uint8_t>& values) {
  const auto pixels = static_cast<std::size_t>(width) * static_cast<std::size_t>(height);
  oiio::ImageSpec spec(width, height, values.size() == pixels * 4 ? 4 : 3, oiio::TypeDesc::UINT8);
  spec.attribute("oiio:ColorSpace", "sRGB");
  spec.attribute("oiio:UnassociatedAlpha", 1);
  return spec;
}

}  // namespace

Result<Done> write_picture(const std::filesystem::path& path, int width, int height,
                           const std::vector<std::uint8_t>& values) {
  return write_whole(path, picture_spec(width, height, values), values.data());
}

Result<std::string> encode_picture(int width, int height, const std::vector<std::uint8_t>& values) {
  const oiio::ImageSpec spec = picture_spec(width, height, values);
  std::vector<unsigned char> bytes;
  oiio::Filesystem::IOVecOutput memory(bytes);
  auto file = oiio::ImageOutput::create("picture.png");
  if (!file || !file->set_ioproxy(&memory)) return failed("the picture", oiio::geterror());
  bool good = file->open("picture.png", spec) && file->write_image(spec.format, values.data());
  const std::string why = good ? "" : file->geterror();
  good = file->close() && good;
  if (!good) return failed("the picture", why);
  return std::string(bytes.begin(), bytes.end());
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
