// From what planes hold to the whole codes that files hold.
#pragma once
#include <cstdint>
#include <vector>

#include "core/io/image.h"

namespace loom {

/// The codes of one row of a channel: 0..1 to 0..255 or 0..65535, clamped; NaN gives 0. `codes` has room for a row.
/// Plain   rounded once, halves up.
/// Dither  at 8 bits: up or down by a hash of the place and the channel, so that the mean over many is the value
/// itself;
///         a value that is a code stays that code (to 1e-4 of a step). The same on every machine.
/// sRGB    encoded on the way.
/// Source of the dither: stochastic rounding, Croci et al., "Stochastic rounding: implementation, error analysis and
///         applications", R. Soc. Open Sci. 9, 2022, section 2; the hash as in core/base/hash.h.
void quantise_row(const Channel& channel, std::size_t index, int y, int bits, bool srgb, bool dither,
                  std::vector<std::int32_t>& codes);

}  // namespace loom
