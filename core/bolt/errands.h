// One wish, several deliveries: over sizes, presets, lists and parts.
#pragma once
#include <vector>

#include "core/bolt/delivery.h"

namespace loom {

/// Of what a delivery goes through all there are, each in a folder named after it: preset/list/part.
struct Every {
  bool preset = false, list = false, part = false;
};

struct Errand {
  Material material;
  DeliveryPlan plan;
};

/// `plan` as it is, or for every preset, every list that the material keeps, and the hem of every part (the hem of all
/// in the folder itself); at each of the sizes, or where these are empty at the plan's, or at those of the list. On a
/// mesh all parts leave together anyway. Error   the material has none of what there is to be every one of; a list that
/// cannot be.
Result<std::vector<Errand>> errands(const Material& material, const DeliveryPlan& plan, const std::vector<int>& sizes,
                                    const Every& every, bool onto_mesh);

}  // namespace loom
