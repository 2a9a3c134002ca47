// Channels are found, ranges looked at, then the file is written.
#include "core/bolt/map_file.h"

#include <cstdio>
#include <optional>
#include <set>

#include "core/base/clock.h"
#include "core/base/half_written.h"
#include "core/bolt/manifest.h"
#include "core/surface/shape.h"

namespace loom {
namespace {

constexpr const char* kChannelNames[] = {"r", "g", "b", "a"};

std::optional<Error> file_fault(const FileDelivery& file) {
  std::string filled;
  for (const auto& [channel, source] : file.channels) filled += channel;
  if (file.channels.empty() || fills_in_order(filled)) return {};
  return Error{file.name, "fills some channels and not those before them", "Fill r; or r, g and b; or all four"};
}

}  // namespace

Result<Done> check_plan(const Material& material, const DeliveryPlan& plan) {
  if (plan.size < 64 || plan.size > kMostSize || (plan.size & (plan.size - 1)) != 0)
    return Error{"size", std::to_string(plan.size) + " is no size of a map", "Use a power of two from 64 to 8192"};
  if (!plan.shape.empty() && !shape_named(plan.shape))
    return Error{"shape", "'" + plan.shape + "' is none", "Use tile, ball, pipe, ring, block or cupola"};
  std::set<std::string> names;
  for (const FileDelivery& f : plan.files) {
    if (!f.on) continue;
    if (const auto bad = file_fault(f)) return *bad;
    const std::string name = file_name(material, plan, f);
    if (!names.insert(name).second)
      return Error{name, "would be written twice", "Put {slot} into the pattern of the names"};
  }
  std::error_code code;
  std::filesystem::create_directories(plan.folder, code);
  if (code || !std::filesystem::is_directory(plan.folder, code))
    return Error{plan.folder.string(), "is not a folder that can be written", "Choose another"};
  remove_half_written(plan.folder, names);  // of a delivery that was broken off
  return Done{};
}

namespace {

bool holds_whole_numbers(const FileDelivery& file) { return file.format != ImageFormat::exr && file.bits != 32; }

bool is_srgb_slot(const std::string& slot) {
  const Slot* known = known_slot(slot);
  return known && known->srgb;
}

// One channel on its way into the file, and where it comes from.
struct Laid {
  Channel channel;
  std::string words;
  bool srgb = false;
};

class MapFile {
 public:
  MapFile(const std::map<std::string, Field>& slots, const FileDelivery& file, const DeliveryPlan& plan)
      : slots_(slots), file_(file), plan_(plan) {
    for (const auto& [slot, field] : slots_)
      if (!any_ && field.strand[0]) any_ = field.strand[0].get();
    if (file_.channels.empty()) {
      lay_whole(file_.name);
    } else if (file_.channels.size() == 1 && file_.channels.begin()->second.strand < 0 &&
               !file_.channels.begin()->second.slot.empty() && !file_.channels.begin()->second.inverted) {
      lay_whole(file_.channels.begin()->second.slot);
    } else {
      for (const char* name : kChannelNames)
        if (const auto at = file_.channels.find(name); at != file_.channels.end()) lay(at->second);
    }
  }

  // The range of all that a file of whole numbers cuts or bends; normals are directions and have none.
  Range range() const {
    Range all{1e30f, -1e30f, 0};
    for (const Laid& l : laid_) {
      const float from = l.channel.lift, gain = l.channel.gain;
      const Range r = gain == 0 ? Range{0, 0, 0} : range_of(*l.channel.plane);
      const float a = from + gain * r.least, b = from + gain * r.most;
      all.least = std::min({all.least, a, b}), all.most = std::max({all.most, a, b});
    }
    return all;
  }

  std::optional<Range> beyond(const Range& all) const {
    constexpr float kStep = 1.0f / 512;  // less than half a step of eight bits is no loss
    if (!holds_whole_numbers(file_) || (all.least > -kStep && all.most < 1 + kStep)) return {};
    return Range{std::min(all.least, 0.0f), std::max(all.most, 1.0f), 0};
  }

  void scale(const Range& to_unit) {
    const float gain = 1 / (to_unit.most - to_unit.least);
    for (Laid& l : laid_) l.channel.gain *= gain, l.channel.lift = (l.channel.lift - to_unit.least) * gain;
  }

  bool srgb() const {
    const std::size_t colours = std::min<std::size_t>(laid_.size(), 3);
    return holds_whole_numbers(file_) && colours > 0 &&
           std::all_of(laid_.begin(), laid_.begin() + static_cast<std::ptrdiff_t>(colours),
                       [](const Laid& l) { return l.srgb; });
  }

  std::vector<Channel> channels() const {
    std::vector<Channel> all;
    for (const Laid& l : laid_) all.push_back(l.channel);
    if (all.size() == 2) all.push_back({all[0].plane, 0, 0});  // no format knows two channels: the third is zero
    return all;
  }

  std::vector<std::string> words() const {
    std::vector<std::string> all;
    for (const Laid& l : laid_) all.push_back(l.words);
    return all;
  }

 private:
  void lay_whole(const std::string& slot) {
    const auto field = slots_.find(slot);
    const int count = field == slots_.end() ? 1 : strand_count(field->second.kind);
    for (int i = 0; i < count; ++i) lay({slot, i, false, 0}, count > 1);
  }

  void lay(const ChannelSource& source, bool of_several = true) {
    static constexpr const char* kDots[] = {".r", ".g", ".b", ".a"};
    const int strand = std::max(source.strand, 0);
    Laid l;
    if (source.slot.empty()) {
      l.channel = {any_, 0, static_cast<float>(source.constant)};
      char text[32];
      std::snprintf(text, sizeof text, "%.6g", source.constant);
      l.words = text;
    } else {
      l = from_slot(source.slot, strand);
      const bool dotted = source.strand >= 0 && of_several;
      l.words = (source.inverted ? "1 - " : "") + source.slot + (dotted ? kDots[strand] : "");
    }
    if (source.inverted) l.channel.gain = -l.channel.gain, l.channel.lift = 1 - l.channel.lift;
    laid_.push_back(std::move(l));
  }

  // What an empty slot means is its fallback; a strand that a slot does not have is 0, its alpha 1.
  Laid from_slot(const std::string& slot, int strand) const {
    Laid l;
    l.srgb = is_srgb_slot(slot);
    l.channel = {any_, 0, strand == 3 ? 1.0f : 0.0f};
    const auto field = slots_.find(slot);
    if (field == slots_.end()) {
      if (const Slot* known = known_slot(slot); known && strand < known->channels)
        l.channel.lift = known->fallback[strand];
      return l;
    }
    if (strand >= strand_count(field->second.kind)) return l;
    l.channel = {field->second.strand[static_cast<std::size_t>(strand)].get()};
    if (field->second.kind == Kind::normal) {  // -1..1 to 0..1; green turned where it shall point down
      l.channel.gain = strand == 1 && !file_.green_up.value_or(plan_.green_up) ? -0.5f : 0.5f;
      l.channel.lift = 0.5f;
    }
    return l;
  }

  const std::map<std::string, Field>& slots_;
  const FileDelivery& file_;
  const DeliveryPlan& plan_;
  const Plane* any_ = nullptr;  // gives constants their size
  std::vector<Laid> laid_;
};

std::string told_of(const FileDelivery& file, const Range& r) {
  char text[240];
  const auto least = static_cast<double>(r.least), most = static_cast<double>(r.most);
  if (file.scale)
    std::snprintf(text, sizeof text, "%s was scaled: black stands for %.4g, white for %.4g", file.name.c_str(), least,
                  most);
  else
    std::snprintf(text, sizeof text,
                  "%s runs from %.4g to %.4g, and a %s file of %d bits cuts it at 0 and 1. Deliver it as EXR, or put "
                  "Remap before the slot",
                  file.name.c_str(), least, most, file.format == ImageFormat::png ? "PNG" : "TIFF", file.bits);
  return text;
}

}  // namespace

Result<Done> write_map_file(const std::map<std::string, Field>& slots, const FileDelivery& file,
                            const Material& material, const DeliveryPlan& plan, const Stop& stop,
                            DeliveryReport& report) {
  const auto start = Clock::now();
  MapFile map(slots, file, plan);
  const Range all = map.range();
  const auto beyond = map.beyond(all);
  if (beyond) report.warnings.push_back(told_of(file, *beyond));
  if (beyond && !file.scale) report.cut.push_back(file.name);
  if (beyond && file.scale) map.scale(*beyond);
  const auto path = plan.folder / file_name(material, plan, file);
  const auto written = write_image(path, map.channels(), {file.format, file.bits, map.srgb(), file.dither}, stop);
  if (!written) return written.error();
  DeliveredFile done{file.name, path, map.srgb(), file.bits};
  done.unchanged = written->unchanged;
  done.sha256 = sha256_of_file(path);
  done.channels = map.words();
  done.least = all.least, done.most = all.most;
  done.milliseconds = milliseconds_since(start);
  report.files.push_back(std::move(done));
  return Done{};
}

void note_other_file(std::string name, const std::filesystem::path& path, DeliveryReport& report) {
  DeliveredFile file{std::move(name), path, false, 0};
  file.sha256 = sha256_of_file(path);
  report.files.push_back(std::move(file));
}

}  // namespace loom
