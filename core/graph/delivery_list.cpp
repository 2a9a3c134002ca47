#include "core/graph/delivery_list.h"

#include <algorithm>
#include <array>
#include <charconv>
#include <set>

#include "core/graph/validate.h"
#include "core/plane/plane.h"

namespace loom {
namespace {

constexpr std::string_view kChannels = "rgba";

std::string_view trimmed(std::string_view text) {
  while (!text.empty() && text.front() == ' ') text.remove_prefix(1);
  while (!text.empty() && text.back() == ' ') text.remove_suffix(1);
  return text;
}

bool holds(std::string_view format, int bits) {
  if (format == "png") return bits == 8 || bits == 16;
  if (format == "exr") return bits == 16 || bits == 32;
  return bits == 8 || bits == 16 || bits == 32;
}

std::vector<Error> file_faults(const ListedFile& file, const std::string& where) {
  std::vector<Error> faults;
  if (file.format != "png" && file.format != "exr" && file.format != "tiff")
    faults.push_back({where, "has the format '" + file.format + "'", "Use png, exr or tiff"});
  else if (!holds(file.format, file.bits))
    faults.push_back({where, "a " + file.format + " file has no " + std::to_string(file.bits) + " bits",
                      "PNG has 8 or 16, EXR 16 or 32, TIFF 8, 16 or 32"});
  if (file.channels.empty()) faults.push_back({where, "has no channels", "Write \"channels\": {\"r\": \"height\"}"});
  for (const auto& [channel, from] : file.channels) {
    const std::string at = where + ", channel " + channel;
    if (channel.size() != 1 || kChannels.find(channel) == std::string_view::npos)
      faults.push_back({at, "is no channel of a file", "Use r, g, b and a"});
    if (const auto source = channel_source(from); !source)
      faults.push_back({at, source.error().what, source.error().mend});
  }
  std::string filled;
  for (const auto& [channel, from] : file.channels) filled += channel;
  if (!file.channels.empty() && !fills_in_order(filled))
    faults.push_back({where, "fills some channels and not those before them", "Fill r; or r, g and b; or all four"});
  return faults;
}

}  // namespace

bool fills_in_order(std::string_view channels) {
  std::string sorted(channels);
  std::sort(sorted.begin(), sorted.end());
  return sorted == "r" || sorted == "bgr" || sorted == "abgr";
}

Result<ChannelSource> channel_source(std::string_view text) {
  ChannelSource source;
  std::string_view rest = trimmed(text);
  double number = 0;
  if (const auto [end, bad] = std::from_chars(rest.data(), rest.data() + rest.size(), number);
      bad == std::errc() && end == rest.data() + rest.size()) {
    if (!(number >= -1e6 && number <= 1e6)) return Error{"", "is a number beyond a million", "Write 0 to 1"};
    source.constant = number;
    return source;
  }
  if (rest.substr(0, 1) == "1") {
    rest = trimmed(rest.substr(1));
    if (rest.substr(0, 1) != "-") return Error{"", "'" + std::string(text) + "' is no channel", "Write 1 - roughness"};
    rest = trimmed(rest.substr(1));
    source.inverted = true;
  }
  if (const auto point = rest.find('.'); point != std::string_view::npos) {
    const auto strand = rest.size() == point + 2 ? kChannels.find(rest[point + 1]) : std::string_view::npos;
    if (strand == std::string_view::npos)
      return Error{"", "'" + std::string(text) + "' names no channel of a slot", "Write base_colour.g"};
    source.strand = static_cast<int>(strand);
    rest = rest.substr(0, point);
  }
  source.slot = std::string(rest);
  if (!is_identifier(source.slot))
    return Error{"", "'" + std::string(text) + "' is neither a slot nor a number",
                 "Write occlusion, base_colour.g, 1 - roughness or 0.5"};
  return source;
}

std::string channel_text(const ChannelSource& source) {
  if (source.slot.empty()) {
    std::array<char, 32> text{};
    const auto end = std::to_chars(text.data(), text.data() + text.size(), source.constant).ptr;
    return {text.data(), end};
  }
  std::string text = (source.inverted ? "1 - " : "") + source.slot;
  if (source.strand >= 0) text += std::string(".") + kChannels[static_cast<std::size_t>(source.strand)];
  return text;
}

std::vector<Error> list_faults(const std::vector<DeliveryList>& lists) {
  std::vector<Error> faults;
  std::set<std::string> names;
  if (lists.size() > kMostLists) faults.push_back({"lists", "are more than 64", "Remove some"});
  for (const DeliveryList& list : lists) {
    const std::string where = "list " + list.name;
    if (list.name.empty() || !names.insert(list.name).second)
      faults.push_back({where, "needs a name of its own", "Such as Hall, near"});
    if (list.sizes.empty() || list.sizes.size() > kMostListedSizes)
      faults.push_back({where + ", sizes", "are none, or more than 16", "Write [2048]"});
    for (const int size : list.sizes)
      if (size < kLeastSize || size > kMostSize || (size & (size - 1)))
        faults.push_back(
            {where + ", sizes", std::to_string(size) + " is no size of a map", "Use a power of two from 16 to 8192"});
    if (list.files.empty() || list.files.size() > kMostListedFiles)
      faults.push_back({where, "has no files, or more than 64", "Add one"});
    for (const ListedFile& f : list.files)
      if (list.sizes.size() > 1 && f.pattern.find("{size}") == std::string::npos)
        faults.push_back(
            {where, "has several sizes, and '" + f.pattern + "' no {size}", "Put {size} into the pattern"});
    for (std::size_t i = 0; i < list.files.size(); ++i)
      for (Error& e : file_faults(list.files[i], where + ", file " + std::to_string(i + 1)))
        faults.push_back(std::move(e));
  }
  return faults;
}

}  // namespace loom
