#include "core/bolt/lists.h"

#include <algorithm>
#include <array>

#include "core/graph/hem.h"

namespace loom {
namespace {

constexpr std::array<std::string_view, 3> kReady = {"plain", "packed", "relief"};
constexpr const char* kWithHeight = "normal_height";

ListedFile listed(const FileDelivery& file) {
  ListedFile out;
  out.name = file.name;
  if (!file.pattern.empty()) out.pattern = file.pattern;
  out.format = format_name(file.format);
  out.bits = file.bits;
  out.dither = file.dither;
  if (file.channels.empty()) out.channels["r"] = file.name;
  for (const auto& [channel, source] : file.channels) out.channels[channel] = channel_text(source);
  return out;
}

void drop(std::vector<FileDelivery>& files, std::initializer_list<std::string_view> slots) {
  std::erase_if(files,
                [&](const FileDelivery& f) { return std::find(slots.begin(), slots.end(), f.name) != slots.end(); });
}

FileDelivery packed_of(std::string name, int bits, bool dither, std::map<std::string, ChannelSource> channels) {
  FileDelivery file{std::move(name)};
  file.bits = bits, file.dither = dither, file.channels = std::move(channels);
  return file;
}

std::vector<FileDelivery> ready(const Material& material, std::string_view name) {
  std::vector<FileDelivery> files = usual_files(material);
  const auto filled = [&](const char* slot) { return slot_is_filled(material, slot); };
  if (name == "packed" && (filled("occlusion") || filled("roughness") || filled("metallic"))) {
    drop(files, {"occlusion", "roughness", "metallic"});
    files.push_back(packed_of("packed", 8, true, {{"r", {"occlusion"}}, {"g", {"roughness"}}, {"b", {"metallic"}}}));
  }
  if (name == "relief" && filled("normal") && filled("height")) {
    drop(files, {"normal", "height"});
    files.push_back(packed_of(kWithHeight, 16, false,
                              {{"r", {"normal", 0}}, {"g", {"normal", 1}}, {"b", {"normal", 2}}, {"a", {"height"}}}));
  }
  return files;
}

}  // namespace

std::span<const std::string_view> ready_lists() { return kReady; }

DeliveryList list_of_files(std::string name, const std::vector<FileDelivery>& files, int size, bool green_up) {
  DeliveryList list{std::move(name), {size}, green_up, {}};
  for (const FileDelivery& f : files)
    if (f.on) list.files.push_back(listed(f));
  return list;
}

Result<DeliveryList> find_list(const Material& material, std::string_view name) {
  for (const DeliveryList& l : material.lists)
    if (l.name == name) return l;
  if (std::find(kReady.begin(), kReady.end(), name) != kReady.end())
    return list_of_files(std::string(name), ready(material, name), 2048, true);
  std::string known;
  for (const std::string_view ready_name : kReady) known += (known.empty() ? "" : ", ") + std::string(ready_name);
  for (const DeliveryList& l : material.lists) known += ", " + l.name;
  return Error{std::string(name), "is no list of this material", "It has " + known};
}

std::vector<FileDelivery> files_of(const DeliveryList& list) {
  std::vector<FileDelivery> files;
  for (const ListedFile& f : list.files) {
    FileDelivery file;
    file.pattern = f.pattern;
    file.format = format_from_name(f.format).value_or(ImageFormat::png);
    file.bits = f.bits;
    for (const auto& [channel, text] : f.channels) {
      const auto source = channel_source(text);
      if (!source) return {};
      file.channels[channel] = *source;
    }
    const auto slots = slots_of(file);
    file.name = !f.name.empty() ? f.name : slots.empty() ? "file" : slots.front();
    const auto& first = file.channels.begin()->second;
    if (file.channels.size() == 1 && first == ChannelSource{file.name}) file.channels.clear();  // the slot, whole
    file.dither = f.dither.value_or(f.bits == 8 && file.name != "metallic" && file.name != "opacity");
    files.push_back(std::move(file));
  }
  return files;
}

}  // namespace loom
