// Bands end on a byte (a full flush), so that they can be packed apart and stand one after the other in one stream.
#include "core/io/png_writer.h"

#include <isa-l.h>
#include <zlib.h>

#include <algorithm>
#include <array>
#include <cstdio>
#include <cstring>
#include <memory>

#include "core/base/parallel.h"
#include "core/io/clones.h"
#include "core/io/quantise.h"

namespace loom {
namespace {

using Bytes = std::vector<std::uint8_t>;
// Of ISA-L. Levels 1 and 2 of its version 2.30 pack one band in some ten thousand otherwise in another process, by what
// they find in a register: 11 of 14700 processes differed, and of 6500 at level 3 none. The same map is the same bytes.
constexpr int kLevel = 3;
constexpr int kBand = 32;             // rows
constexpr int kTogether = 16;         // bands between two looks at `stop`, and between two writes
constexpr std::size_t kRoom = 65536;  // what a band may grow by, if it cannot be packed at all, and then some

// One row as the file holds it: channels beside each other, the higher byte first.
void put_row(const std::vector<Channel>& channels, int y, const ImageSpec& spec, std::vector<std::int32_t>& codes,
             std::uint8_t* to) {
  const auto size = static_cast<std::size_t>(channels[0].plane->size());
  const std::size_t n = channels.size();
  for (std::size_t c = 0; c < n; ++c) {
    quantise_row(channels[c], c, y, spec.bits, spec.srgb && c < 3, spec.dither, codes);
    if (spec.bits == 8) {
      for (std::size_t x = 0; x < size; ++x) to[x * n + c] = static_cast<std::uint8_t>(codes[x]);
      continue;
    }
    for (std::size_t x = 0; x < size; ++x) {
      std::uint8_t* at = to + (x * n + c) * 2;
      at[0] = static_cast<std::uint8_t>(codes[x] >> 8), at[1] = static_cast<std::uint8_t>(codes[x]);
    }
  }
}

using Sums = std::array<std::uint32_t, 5>;

// A row filtered in each of the five ways, and how much is left of each.
LOOM_CLONES void filter_row(const std::uint8_t* __restrict row, const std::uint8_t* __restrict left,
                            const std::uint8_t* __restrict up, const std::uint8_t* __restrict corner, std::size_t n,
                            std::uint8_t* __restrict by_left, std::uint8_t* __restrict by_up,
                            std::uint8_t* __restrict by_mean, std::uint8_t* __restrict by_paeth,
                            std::uint32_t* __restrict sums) {
  const auto rest = [](std::uint8_t x) {
    return static_cast<std::uint32_t>(x < 128 ? x : static_cast<std::uint8_t>(0 - x));
  };
  std::uint32_t s0 = 0, s1 = 0, s2 = 0, s3 = 0, s4 = 0;
  for (std::size_t i = 0; i < n; ++i) {
    s0 += rest(row[i]);
    by_left[i] = static_cast<std::uint8_t>(row[i] - left[i]);
    s1 += rest(by_left[i]);
    by_up[i] = static_cast<std::uint8_t>(row[i] - up[i]);
    s2 += rest(by_up[i]);
    by_mean[i] = static_cast<std::uint8_t>(row[i] - ((left[i] + up[i]) >> 1));
    s3 += rest(by_mean[i]);
  }
  for (std::size_t i = 0; i < n; ++i) {
    const auto l = static_cast<std::int16_t>(left[i]), u = static_cast<std::int16_t>(up[i]),
               c = static_cast<std::int16_t>(corner[i]);
    const auto pl = static_cast<std::int16_t>(u - c), pu = static_cast<std::int16_t>(l - c),
               pc = static_cast<std::int16_t>(pl + pu);
    const auto a = static_cast<std::int16_t>(pl < 0 ? -pl : pl), b = static_cast<std::int16_t>(pu < 0 ? -pu : pu),
               d = static_cast<std::int16_t>(pc < 0 ? -pc : pc);
    const std::int16_t other = b <= d ? u : c;
    const std::int16_t near = (a <= b) & (a <= d) ? l : other;
    by_paeth[i] = static_cast<std::uint8_t>(row[i] - near);
    s4 += rest(by_paeth[i]);
  }
  sums[0] = s0, sums[1] = s1, sums[2] = s2, sums[3] = s3, sums[4] = s4;
}

// Keeps the filter that leaves least of a row. `row` and the one above it, `before`, have `step` zeros to their left.
class RowFilter {
 public:
  RowFilter(std::size_t bytes, std::size_t step) : bytes_(bytes), step_(step) {
    for (Bytes& b : tried_) b.resize(bytes);
  }
  /// Gives the filter's number and the filtered row.
  void write(const std::uint8_t* row, const std::uint8_t* before, std::uint8_t* out) {
    Sums sums{};
    filter_row(row, row - step_, before, before - step_, bytes_, tried_[0].data(), tried_[1].data(), tried_[2].data(),
               tried_[3].data(), sums.data());
    const auto best = static_cast<std::size_t>(std::min_element(sums.begin(), sums.end()) - sums.begin());
    out[0] = static_cast<std::uint8_t>(best);
    std::memcpy(out + 1, best == 0 ? row : tried_[best - 1].data(), bytes_);
  }

 private:
  std::size_t bytes_, step_;
  std::array<Bytes, 4> tried_;
};

struct Packed {
  Bytes data;
  std::uint32_t adler = 1;
  std::size_t length = 0;  // unpacked
};

bool deflate(const Bytes& raw, bool last, Bytes& out) {
  out.resize(raw.size() + raw.size() / 64 + kRoom);
  std::vector<std::uint8_t> room(ISAL_DEF_LVL3_DEFAULT);
  isal_zstream stream{};  // init leaves parts as they are
  isal_deflate_stateless_init(&stream);
  stream.level = kLevel;
  stream.level_buf = room.data();
  stream.level_buf_size = static_cast<std::uint32_t>(room.size());
  stream.flush = last ? NO_FLUSH : FULL_FLUSH;
  stream.end_of_stream = last;
  stream.next_in = const_cast<std::uint8_t*>(raw.data());
  stream.avail_in = static_cast<std::uint32_t>(raw.size());
  stream.next_out = out.data();
  stream.avail_out = static_cast<std::uint32_t>(out.size());
  if (isal_deflate_stateless(&stream) != COMP_OK) return false;
  out.resize(stream.total_out);
  return true;
}

Packed packed_band(const std::vector<Channel>& channels, int first, int last, const ImageSpec& spec) {
  const int size = channels[0].plane->size();
  const std::size_t step = channels.size() * static_cast<std::size_t>(spec.bits / 8),
                    width = step * static_cast<std::size_t>(size);
  std::vector<std::uint8_t> rows[2] = {Bytes(step + width, 0), Bytes(step + width, 0)};
  RowFilter filter(width, step);
  Bytes raw(static_cast<std::size_t>(last - first) * (width + 1));
  std::vector<std::int32_t> codes;
  if (first > 0) put_row(channels, first - 1, spec, codes, rows[1].data() + step);
  for (int y = first; y < last; ++y) {
    put_row(channels, y, spec, codes, rows[0].data() + step);
    filter.write(rows[0].data() + step, rows[1].data() + step,
                 raw.data() + static_cast<std::size_t>(y - first) * (width + 1));
    std::swap(rows[0], rows[1]);
  }
  Packed out;
  out.length = raw.size();
  out.adler = static_cast<std::uint32_t>(adler32(1, raw.data(), static_cast<uInt>(raw.size())));
  if (!deflate(raw, last == size, out.data)) out.data.clear();
  return out;
}

void put32(Bytes& to, std::uint32_t x) {
  for (const int shift : {24, 16, 8, 0}) to.push_back(static_cast<std::uint8_t>(x >> shift));
}

struct Close {
  void operator()(std::FILE* f) const { std::fclose(f); }
};

bool write_chunk(std::FILE* file, const char* type, const std::vector<const Bytes*>& parts) {
  Bytes head;
  std::size_t length = 0;
  for (const Bytes* p : parts) length += p->size();
  put32(head, static_cast<std::uint32_t>(length));
  for (int i = 0; i < 4; ++i) head.push_back(static_cast<std::uint8_t>(type[i]));
  std::uint32_t sum = crc32_gzip_refl(0, head.data() + 4, 4);
  bool good = std::fwrite(head.data(), 1, head.size(), file) == head.size();
  for (const Bytes* p : parts) {
    sum = crc32_gzip_refl(sum, p->data(), p->size());
    good = good && std::fwrite(p->data(), 1, p->size(), file) == p->size();
  }
  Bytes tail;
  put32(tail, sum);
  return good && std::fwrite(tail.data(), 1, tail.size(), file) == tail.size();
}

bool write_head(std::FILE* file, int size, std::size_t channels, int bits, bool srgb) {
  static const std::uint8_t kSignature[] = {0x89, 'P', 'N', 'G', '\r', '\n', 0x1a, '\n'};
  Bytes head;
  put32(head, static_cast<std::uint32_t>(size));
  put32(head, static_cast<std::uint32_t>(size));
  const std::uint8_t colour_type = channels == 1 ? 0 : channels == 3 ? 2 : 6;
  for (const int b : {bits, static_cast<int>(colour_type), 0, 0, 0}) head.push_back(static_cast<std::uint8_t>(b));
  Bytes gamma, intent{0};  // perceptual
  put32(gamma, srgb ? 45455 : 100000);
  bool good = std::fwrite(kSignature, 1, sizeof kSignature, file) == sizeof kSignature;
  good = good && write_chunk(file, "IHDR", {&head});
  if (srgb) good = good && write_chunk(file, "sRGB", {&intent});
  return good && write_chunk(file, "gAMA", {&gamma});
}

// All bands, some at a time: packed side by side, written in their order.
bool write_packed(std::FILE* file, const std::vector<Channel>& channels, const ImageSpec& spec, const Stop& stop) {
  const int size = channels[0].plane->size(), bands = (size + kBand - 1) / kBand;
  const Bytes zlib_head{0x78, 0x01};
  uLong adler = 1;
  for (int from = 0; from < bands && !stop.asked(); from += kTogether) {
    const int count = std::min(kTogether, bands - from);
    std::vector<Packed> packed(static_cast<std::size_t>(count));
    for_rows(count, 1, stop, [&](int first, int last) {
      for (int i = first; i < last && !stop.asked(); ++i)
        packed[static_cast<std::size_t>(i)] =
            packed_band(channels, (from + i) * kBand, std::min((from + i + 1) * kBand, size), spec);
    });
    if (stop.asked()) return false;
    for (int i = 0; i < count; ++i) {
      const Packed& p = packed[static_cast<std::size_t>(i)];
      if (p.data.empty()) return false;
      adler = adler32_combine(adler, p.adler, static_cast<z_off_t>(p.length));
      Bytes sum;
      std::vector<const Bytes*> parts;
      if (from + i == 0) parts.push_back(&zlib_head);
      parts.push_back(&p.data);
      if (from + i + 1 == bands) {
        put32(sum, static_cast<std::uint32_t>(adler));
        parts.push_back(&sum);
      }
      if (!write_chunk(file, "IDAT", parts)) return false;
    }
  }
  return !stop.asked();
}

}  // namespace

Result<Done> write_png(const std::filesystem::path& path, const std::vector<Channel>& channels, const ImageSpec& spec,
                       const Stop& stop) {
  std::unique_ptr<std::FILE, Close> file(std::fopen(path.c_str(), "wb"));
  bool good = file && write_head(file.get(), channels[0].plane->size(), channels.size(), spec.bits, spec.srgb) &&
              write_packed(file.get(), channels, spec, stop) && write_chunk(file.get(), "IEND", {});
  good = good && std::fflush(file.get()) == 0;
  const int why = errno;
  file.reset();
  if (good) return Done{};
  std::error_code code;
  std::filesystem::remove(path, code);
  if (stop.asked()) return Error{"", kCancelled, ""};
  return Error{path.string(), std::string("cannot be written: ") + std::strerror(why),
               "Choose another folder, or make room; nothing was left behind"};
}

}  // namespace loom
