// Writes a material's maps as files, slot by slot.
#pragma once
#include <filesystem>
#include <functional>
#include <map>
#include <string>
#include <vector>

#include "core/base/error.h"
#include "core/base/stop.h"
#include "core/graph/material.h"
#include "core/graph/node_type.h"
#include "core/io/image.h"
#include "core/weave/weaver.h"

namespace loom {

struct SlotDelivery {
  std::string slot;
  bool on = true;
  ImageFormat format = ImageFormat::png;
  int bits = 8;
  bool scale = false;  ///< of a PNG file: its whole range is brought to 0..1; the report tells what stands for what
};

struct DeliveryPlan {
  std::filesystem::path folder;
  std::string pattern = "{material}_{slot}_{size}";  ///< also {preset}
  std::string preset;
  int size = 2048;
  bool green_up = true;
  std::vector<SlotDelivery> slots;
};

struct DeliveredFile {
  std::string slot;
  std::filesystem::path path;
  bool srgb = false;
  int bits = 8;
  double milliseconds = 0;
};
struct DeliveryReport {
  std::vector<DeliveredFile> files;
  std::vector<std::string> warnings;  ///< what the files could not hold, and the mend; what was scaled
  std::vector<std::string> left_out;  ///< slots that depend on the shape, and are no maps
  std::vector<std::string> cut;       ///< slots whose values did not fit into their files
  double weave_milliseconds = 0, total_milliseconds = 0;
};

/// One entry for each connected slot: colours 8 bit, normal and scalars 16 bit, in the hem's order.
std::vector<SlotDelivery> usual_slots(const Material& material);
/// The file's name without its folder. Names from documents are cut down to letters, digits, `-`, `_` and `.`.
std::string file_name(const Material& material, const DeliveryPlan& plan, const SlotDelivery& slot);

/// Error   the first thing that cannot be: a bad plan, a fault in the material, a full disc, or "cancelled".
///         Files written before it stand whole; none is left half written.
/// Memory  all slots are woven at once if they fit into `budget`, else one after the other. Each is written as soon as
/// it
///         stands, and its planes go.
Result<DeliveryReport> deliver(const Material& material, const Catalogue& catalogue, Weaver& weaver,
                               const DeliveryPlan& plan, const Stop& stop,
                               const std::function<void(double share, const std::string& what)>& progress = {},
                               std::size_t budget = memory_budget());

/// Presets and dials from words, as the command line gives them: NAME=VALUE.
/// Error   no such dial; a value of another kind, beyond its limits or none of its words.
Result<Material> with_dial(const Material& material, const Catalogue& catalogue, const std::string& name,
                           const std::string& value);
Result<Material> with_preset(const Material& material, const std::string& name);

}  // namespace loom
