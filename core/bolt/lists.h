// Delivery lists: ready-made ones, and those that the material keeps, as the files of a plan.
#pragma once
#include <span>
#include <string_view>

#include "core/bolt/delivery.h"

namespace loom {

/// The names of the ready-made lists: `plain`, one file a slot; `packed`, occlusion, roughness and metallic in one;
/// `relief`, height in the normal's alpha.
std::span<const std::string_view> ready_lists();

/// A ready-made list for the slots of a material, or one of its own by its name.   Error   there is none of that name.
Result<DeliveryList> find_list(const Material& material, std::string_view name);

/// The same as a list to be kept with the material.
DeliveryList list_of_files(std::string name, const std::vector<FileDelivery>& files, int size, bool green_up);

/// Empty where the list cannot be: see list_faults.
std::vector<FileDelivery> files_of(const DeliveryList& list);

}  // namespace loom
