// One slot in one file.
#pragma once
#include <optional>

#include "core/bolt/delivery.h"

namespace loom {

/// Makes the folder.   Error   a size or a folder that cannot be.
Result<Done> check_plan(const DeliveryPlan& plan);

/// The range of a slot that a file of whole numbers cannot hold; nothing where it can.
std::optional<Range> beyond_file(const Field& field, const SlotDelivery& slot);
/// What becomes of it, for the person.
std::string told_of(const SlotDelivery& slot, const Range& beyond);

/// `scaled`: the range that is brought to 0..1.
Result<Done> write_slot(const Field& field, const SlotDelivery& slot, const DeliveryPlan& plan,
                        const std::filesystem::path& path, const std::optional<Range>& scaled, const Stop& stop);

}  // namespace loom
