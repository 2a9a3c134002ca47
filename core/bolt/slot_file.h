// One slot in one file.
#pragma once
#include "core/bolt/delivery.h"

namespace loom {

/// Makes the folder.   Error   a size or a folder that cannot be.
Result<Done> check_plan(const DeliveryPlan& plan);

/// Writes a slot whole, by its rule, and tells in the report what became of it: its file, what it could not hold.
Result<Done> write_slot(const Field& field, const SlotDelivery& slot, const Material& material,
                        const DeliveryPlan& plan, const Stop& stop, DeliveryReport& report);

}  // namespace loom
