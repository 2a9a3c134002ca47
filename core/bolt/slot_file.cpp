// Ranges are looked at before anything is written.
#include "core/bolt/slot_file.h"

#include <chrono>
#include <cstdio>
#include <optional>

namespace loom {

Result<Done> check_plan(const DeliveryPlan& plan) {
  if (plan.size < 64 || plan.size > kMostSize || (plan.size & (plan.size - 1)) != 0)
    return Error{"size", std::to_string(plan.size) + " is no size of a map", "Use a power of two from 64 to 8192"};
  std::error_code code;
  std::filesystem::create_directories(plan.folder, code);
  if (code || !std::filesystem::is_directory(plan.folder, code))
    return Error{plan.folder.string(), "is not a folder that can be written", "Choose another"};
  return Done{};
}

namespace {

// The range of a slot that a file of whole numbers cannot hold; nothing where it can.
std::optional<Range> beyond_file(const Field& field, const SlotDelivery& slot) {
  if (slot.format != ImageFormat::png || field.kind == Kind::normal) return {};
  Range all{0, 1, 0};
  for (int i = 0; i < strand_count(field.kind); ++i) {
    const Range r = range_of(*field.strand[static_cast<std::size_t>(i)]);
    all.least = std::min(all.least, r.least), all.most = std::max(all.most, r.most);
  }
  constexpr float kStep = 1.0f / 512;  // less than half a step of eight bits is no loss
  return all.least > -kStep && all.most < 1 + kStep ? std::nullopt : std::optional(all);
}

std::string told_of(const SlotDelivery& slot, const Range& r) {
  char text[240];
  const auto least = static_cast<double>(r.least), most = static_cast<double>(r.most);
  if (slot.scale)
    std::snprintf(text, sizeof text, "%s was scaled: black stands for %.4g, white for %.4g", slot.slot.c_str(), least,
                  most);
  else
    std::snprintf(
        text, sizeof text,
        "%s runs from %.4g to %.4g, and a PNG file cuts it at 0 and 1. Deliver it as EXR, or put Remap before "
        "the slot",
        slot.slot.c_str(), least, most);
  return text;
}

bool is_srgb(const SlotDelivery& slot) {
  const Slot* known = known_slot(slot.slot);
  return known && known->srgb && slot.format == ImageFormat::png;
}

// `scaled`: the range that is brought to 0..1.
Result<Done> write(const Field& field, const SlotDelivery& slot, const DeliveryPlan& plan,
                   const std::filesystem::path& path, const std::optional<Range>& scaled, const Stop& stop) {
  std::vector<Channel> channels;
  for (int i = 0; i < strand_count(field.kind); ++i) {
    Channel c{field.strand[static_cast<std::size_t>(i)].get()};
    if (field.kind == Kind::normal) {  // -1..1 to 0..1; green turned where it shall point down
      c.gain = i == 1 && !plan.green_up ? -0.5f : 0.5f;
      c.lift = 0.5f;
    }
    if (scaled) {
      c.gain = 1 / (scaled->most - scaled->least);
      c.lift = -scaled->least * c.gain;
    }
    channels.push_back(c);
  }
  // No format knows two channels: the third is zero.
  if (channels.size() == 2) channels.push_back({channels[0].plane, 0, 0});
  return write_image(path, channels, {slot.format, slot.bits, is_srgb(slot)}, stop);
}

}  // namespace

Result<Done> write_slot(const Field& field, const SlotDelivery& slot, const Material& material,
                        const DeliveryPlan& plan, const Stop& stop, DeliveryReport& report) {
  const auto start = std::chrono::steady_clock::now();
  const auto path = plan.folder / file_name(material, plan, slot);
  const auto beyond = beyond_file(field, slot);
  if (beyond) report.warnings.push_back(told_of(slot, *beyond));
  if (beyond && !slot.scale) report.cut.push_back(slot.slot);
  if (const auto done = write(field, slot, plan, path, slot.scale ? beyond : std::nullopt, stop); !done) return done;
  const std::chrono::duration<double, std::milli> took = std::chrono::steady_clock::now() - start;
  report.files.push_back({slot.slot, path, is_srgb(slot), slot.bits, took.count()});
  return Done{};
}

}  // namespace loom
