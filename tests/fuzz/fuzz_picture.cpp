// Any bytes as a picture of any format: refused in words, or as many finite numbers as it says.
#include <array>
#include <cstdlib>

#include "core/io/image.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  static constexpr std::array kNames{"a.png", "a.jpg", "a.tif", "a.exr", "a.hdr"};
  if (size == 0) return 0;
  // The first byte chooses the format that the name promises.
  const std::string bytes(reinterpret_cast<const char*>(data) + 1, size - 1);
  const auto image = loom::decode_image(kNames[data[0] % kNames.size()], bytes);
  if (!image) return image.error().what.empty() ? std::abort(), 0 : 0;
  const auto wanted = static_cast<std::size_t>(image->width) * static_cast<std::size_t>(image->height) *
                      static_cast<std::size_t>(image->channels);
  if (image->values.size() != wanted || image->width < 1 || image->height < 1) std::abort();
  return 0;
}
