// Fourier: every step runs straight through memory, and what it does to one row it does to all sixteen.
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/plane/fourier.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include <cmath>
#include <utility>

#include "core/plane/fourier.h"

#ifndef LOOM_FOURIER_STEP
#define LOOM_FOURIER_STEP
namespace loom {
// One step: transforms of `length` numbers, of which `apart` lie in one another, become four times as many of a
// quarter.
struct FourierStep {
  const float *from_re, *from_im;
  float *to_re, *to_im;
  std::size_t length, apart;
  const float *cosine, *sine;
};
}  // namespace loom
#endif

HWY_BEFORE_NAMESPACE();
namespace loom::HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;
using D = hn::CappedTag<float, FourierRows::kRows>;
using V = hn::Vec<D>;

struct Complex {
  V re, im;
};
HWY_INLINE Complex operator+(Complex a, Complex b) { return {hn::Add(a.re, b.re), hn::Add(a.im, b.im)}; }
HWY_INLINE Complex operator-(Complex a, Complex b) { return {hn::Sub(a.re, b.re), hn::Sub(a.im, b.im)}; }
HWY_INLINE Complex operator*(Complex a, Complex b) {
  return {hn::NegMulAdd(a.im, b.im, hn::Mul(a.re, b.re)), hn::MulAdd(a.re, b.im, hn::Mul(a.im, b.re))};
}
HWY_INLINE Complex turned(Complex a) { return {hn::Neg(a.im), a.re}; }  // by i

void quarter(const FourierStep& s) {
  const D d;
  const std::size_t run = s.apart * FourierRows::kRows, quarter = s.length / 4 * run;
  for (std::size_t p = 0; p < s.length / 4; ++p) {
    const auto turn = [&](std::size_t times) {
      return Complex{hn::Set(d, s.cosine[times * p * s.apart]), hn::Set(d, s.sine[times * p * s.apart])};
    };
    const Complex once = turn(1), twice = turn(2), thrice = turn(3);
    const float *re = s.from_re + p * run, *im = s.from_im + p * run;
    float *to_re = s.to_re + 4 * p * run, *to_im = s.to_im + 4 * p * run;
    for (std::size_t i = 0; i < run; i += hn::Lanes(d)) {
      const auto from = [&](std::size_t k) {
        return Complex{hn::Load(d, re + k * quarter + i), hn::Load(d, im + k * quarter + i)};
      };
      const auto to = [&](std::size_t k, Complex c) {
        hn::Store(c.re, d, to_re + k * run + i), hn::Store(c.im, d, to_im + k * run + i);
      };
      const Complex a = from(0), b = from(1), c = from(2), e = from(3);
      const Complex even = a + c, odd = a - c, sum = b + e, difference = turned(b - e);
      to(0, even + sum);
      to(1, once * (odd - difference));
      to(2, twice * (even - sum));
      to(3, thrice * (odd + difference));
    }
  }
}

void halve(const FourierStep& s) {
  const D d;
  const std::size_t run = s.apart * FourierRows::kRows;
  for (std::size_t i = 0; i < run; i += hn::Lanes(d)) {
    const Complex a{hn::Load(d, s.from_re + i), hn::Load(d, s.from_im + i)},
        b{hn::Load(d, s.from_re + run + i), hn::Load(d, s.from_im + run + i)};
    const Complex sum = a + b, difference = a - b;
    hn::Store(sum.re, d, s.to_re + i), hn::Store(sum.im, d, s.to_im + i);
    hn::Store(difference.re, d, s.to_re + run + i), hn::Store(difference.im, d, s.to_im + run + i);
  }
}

}  // namespace loom::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace loom {

HWY_EXPORT(quarter);
HWY_EXPORT(halve);

FourierRows::FourierRows(int length) {
  for (auto* parts : {&part_, &spare_})
    for (Pooled<float>& p : *parts) p = pooled<float>(static_cast<std::size_t>(length) * kRows);
}

Fourier::Fourier(int length) : length_(static_cast<std::size_t>(length)), cosine_(length_), sine_(length_) {
  for (std::size_t k = 0; k < length_; ++k) {
    const double angle = -2 * 3.141592653589793 * static_cast<double>(k) / static_cast<double>(length);
    cosine_[k] = static_cast<float>(std::cos(angle)), sine_[k] = static_cast<float>(std::sin(angle));
  }
}

void Fourier::forward(FourierRows& rows) const {
  std::size_t length = length_, apart = 1;
  for (; length > 1; length /= 4, apart *= 4) {
    const FourierStep step{
        rows.part_[0].get(), rows.part_[1].get(), rows.spare_[0].get(), rows.spare_[1].get(), length, apart,
        cosine_.data(),      sine_.data()};
    if (length == 2)
      HWY_DYNAMIC_DISPATCH(halve)(step);
    else
      HWY_DYNAMIC_DISPATCH(quarter)(step);
    std::swap(rows.part_, rows.spare_);
  }
}

// With real and imaginary parts exchanged, forward is backward.
void Fourier::backward(FourierRows& rows) const {
  std::swap(rows.part_[0], rows.part_[1]);
  forward(rows);
  std::swap(rows.part_[0], rows.part_[1]);
}

}  // namespace loom
#endif
