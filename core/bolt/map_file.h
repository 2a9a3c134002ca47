// One file of a delivery, of as many slots as it holds.
#pragma once
#include "core/bolt/delivery.h"

namespace loom {

/// Makes the folder.   Error   a size or a folder that cannot be, a format that has not so many bits, a channel that no
/// file has, two files of one name.
Result<Done> check_plan(const Material& material, const DeliveryPlan& plan);

/// Writes a file whole and tells in the report what became of it: what it holds, what it could not hold. `slots` are
/// those of `slots_of` that are filled; an empty one is what it means when it is empty.
Result<Done> write_map_file(const std::map<std::string, Field>& slots, const FileDelivery& file,
                            const Material& material, const DeliveryPlan& plan, const Stop& stop,
                            DeliveryReport& report);

/// A document or a mesh that stands beside the maps, put into the report.
void note_other_file(std::string name, const std::filesystem::path& path, DeliveryReport& report);

}  // namespace loom
