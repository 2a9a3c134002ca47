// Fast Fourier transforms, sixteen side by side.
#pragma once
#include <vector>

#include "core/plane/plane.h"

namespace loom {

/// Sixteen rows of complex numbers: number k of row j at [k * kRows + j], parts apart.
class FourierRows {
 public:
  static constexpr std::size_t kRows = 16;
  explicit FourierRows(int length);
  float* re(int k) { return part_[0].get() + static_cast<std::size_t>(k) * kRows; }
  float* im(int k) { return part_[1].get() + static_cast<std::size_t>(k) * kRows; }

 private:
  friend class Fourier;
  Pooled<float> part_[2], spare_[2];
};

/// Transforms of one length, a power of two of 2 or more; not scaled. May be shared by threads.
/// Source: Stockham's autosort form in radix 4, as in Van Loan, "Computational Frameworks for the Fast Fourier
/// Transform", 1992, section 1.7.
class Fourier {
 public:
  explicit Fourier(int length);
  void forward(FourierRows& rows) const;
  void backward(FourierRows& rows) const;

 private:
  std::size_t length_;
  std::vector<float> cosine_, sine_;  // of the angles -2 pi k / length
};

}  // namespace loom
