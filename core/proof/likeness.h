// What a picture of a surface is like, whatever lies where: by which two pictures are told to be of one material.
#pragma once
#include <array>
#include <vector>

#include "core/plane/plane.h"

namespace loom {

/// Pixels a side of what is compared.
constexpr int kLikenessSize = 256;

/// Statistics of a square picture, each group in units in which a difference of 1 is plainly seen.
struct Likeness {
  std::vector<float> colours;    ///< quantiles of Oklab, and how its axes go together
  std::vector<float> spectrum;   ///< mean power of lightness in rings and sectors, logarithms
  std::vector<float> repeats;    ///< autocorrelation of lightness by distance and direction
  std::vector<float> gradients;  ///< how steep lightness is, quantiles at three widths, and which way
};

/// Of three planes of linear light of 256 x 256.
/// Source: Oklab after Ottosson, 2020; the rest are textbook statistics: the Wiener-Khinchin theorem gives the
/// autocorrelation as the transform of the power. The picture is taken under a Hann window, since it need not close.
Likeness likeness_of(const std::array<const Plane*, 3>& linear);

/// The root of the mean square over all groups, each with the same weight; 0: alike in all of it.
double unlikeness(const Likeness& a, const Likeness& b);

}  // namespace loom
