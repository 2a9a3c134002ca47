// Patterns that know their own figures but not what lies between them: where a sample is wide, it takes the mean.
#pragma once
#include <functional>

#include "core/program/builder.h"
#include "core/program/resources.h"

namespace loom {

/// A pattern over the tile's places.
using Pattern = std::function<Reg(Builder& b, Reg u, Reg v, Reg footprint)>;

/// The mean pyramid of a pattern over the whole tile. A matter of milliseconds: it cannot be cancelled.
std::shared_ptr<const Sampled> means_over_tile(const Pattern& pattern);

/// Whether all samples are known to be narrower than the means begin with: they are not needed then.
bool all_narrow(const Builder& b, Reg footprint);

/// `near` where samples are narrow; where they are wide, what the pattern comes to over them.
Reg widened(Builder& b, Reg near, Reg u, Reg v, Reg footprint, const std::shared_ptr<const Sampled>& means);

}  // namespace loom
