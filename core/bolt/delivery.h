// Writes a material's maps as files.
#pragma once
#include <filesystem>
#include <functional>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "core/base/error.h"
#include "core/base/stop.h"
#include "core/graph/material.h"
#include "core/graph/node_type.h"
#include "core/io/image.h"
#include "core/weave/weaver.h"

namespace loom {

struct FileDelivery {
  std::string name;  ///< what {slot} stands for: the slot that it holds whole, or a name of its own
  bool on = true;
  ImageFormat format = ImageFormat::png;
  int bits = 8;
  bool scale = false;   ///< a file of whole numbers: its whole range is brought to 0..1; the report tells what stands
                        ///< for what
  bool dither = false;  ///< to 8 bits, see core/io/quantise.h
  std::map<std::string, ChannelSource> channels{};  ///< by r, g, b, a; empty: the slot of its name, whole
  std::string pattern{};                            ///< of its name; empty: the plan's
  std::optional<bool> green_up{};                   ///< not said: as the plan has it
};

struct DeliveryPlan {
  std::filesystem::path folder;
  std::string pattern = "{material}_{slot}_{size}";  ///< also {preset}, {list}
  std::string preset, list;
  int size = 2048;
  bool green_up = true;
  std::vector<FileDelivery> files;
  /// Documents that refer to them, see documents.h; the last is the graph itself.
  bool gltf = false, glb = false, materialx = false, materialx_graph = false;
  std::string shape{};            ///< on which a glTF shows it, in true size; empty or `tile`: one upright tile
  std::filesystem::path state{};  ///< where it is remembered what stands already, see delivery_state.h; empty: nowhere
};

struct DeliveredFile {
  std::string name;
  std::filesystem::path path;
  bool srgb = false;
  int bits = 8;            ///< 0: no picture
  bool unchanged = false;  ///< it was there already, byte by byte, and was left alone
  std::string sha256;
  std::vector<std::string> channels;  ///< what stands in r, g, b, a, in words
  float least = 0, most = 1;          ///< of what was to be written, over all its slots
  double milliseconds = 0;
};
struct DeliveryReport {
  std::vector<DeliveredFile> files;
  std::vector<std::string> warnings;  ///< what the files could not hold, and the mend; what was scaled
  std::vector<std::string> left_out;  ///< files that depend on the shape, and are no maps
  std::vector<std::string> cut;       ///< files whose values did not fit into them
  double weave_milliseconds = 0, total_milliseconds = 0;
};

/// One entry for each connected slot: colours 8 bit, normal and scalars 16 bit, in the hem's order; smooth ones
/// dithered.
std::vector<FileDelivery> usual_files(const Material& material);
/// The file's name without its folder. Names from documents are cut down to letters, digits, `-`, `_` and `.`.
std::string file_name(const Material& material, const DeliveryPlan& plan, const FileDelivery& file);
/// The slots that a file holds something of, each once.
std::vector<std::string> slots_of(const FileDelivery& file);

/// Error   the first thing that cannot be: a bad plan, a fault in the material, a full disc, or "cancelled".
///         Files written before it stand whole; none is left half written.
/// Memory  all slots are woven at once if they fit into `budget`, else file after file. Each is written as soon as all
///         its slots stand, and planes go that no other file waits for.
Result<DeliveryReport> deliver(const Material& material, const Catalogue& catalogue, Weaver& weaver,
                               const DeliveryPlan& plan, const Stop& stop,
                               const std::function<void(double share, const std::string& what)>& progress = {},
                               std::size_t budget = memory_budget());

/// Puts another delivery's report behind one; what was told already is not told twice.
void add_report(DeliveryReport& all, DeliveryReport one);

/// What was written, as JSON: `files` with their hash, encoding, channels, range and time, `warnings`, times.
std::string report_json(const DeliveryReport& report);

/// Presets and dials from words, as the command line gives them: NAME=VALUE.
/// Error   no such dial; a value of another kind, beyond its limits or none of its words.
Result<Material> with_dial(const Material& material, const Catalogue& catalogue, const std::string& name,
                           const std::string& value);
Result<Material> with_preset(const Material& material, const std::string& name);

}  // namespace loom
