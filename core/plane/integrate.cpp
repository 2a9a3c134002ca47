// One complex transform carries both slopes; half of one brings the height back, which is real.
#include "core/plane/integrate.h"

#include "core/base/parallel.h"
#include "core/plane/fourier.h"

namespace loom {
namespace {

constexpr int kBlock = static_cast<int>(FourierRows::kRows);

// Every number of sixteen rows in blocks of sixteen: neither side of a transposition runs through the cache once for
// each row.
template <class Each>
void in_blocks(int numbers, const Each& each) {
  for (int from = 0; from < numbers; from += kBlock)
    for (int j = 0; j < kBlock; ++j)
      for (int x = from; x < std::min(from + kBlock, numbers); ++x) each(x, j);
}

// Complex numbers by rows, parts apart. No row begins a power of two after another, or a column's values would fight
// for one place in the caches and in memory.
class Spectrum {
 public:
  Spectrum(int rows, int columns)
      : stride_(static_cast<std::size_t>(columns + kBlock)),
        re_(pooled<float>(static_cast<std::size_t>(rows) * stride_)),
        im_(pooled<float>(static_cast<std::size_t>(rows) * stride_)) {}
  float* re(int y) { return re_.get() + static_cast<std::size_t>(y) * stride_; }
  float* im(int y) { return im_.get() + static_cast<std::size_t>(y) * stride_; }
  const float* re(int y) const { return re_.get() + static_cast<std::size_t>(y) * stride_; }
  const float* im(int y) const { return im_.get() + static_cast<std::size_t>(y) * stride_; }

 private:
  std::size_t stride_;
  Pooled<float> re_, im_;
};

// P + iQ transformed down every column.
Spectrum columns_of(const Fourier& fourier, const Plane& p, const Plane& q, const Stop& stop) {
  const int size = p.size();
  Spectrum out(size, size);
  for_rows(size / kBlock, 1, stop, [&](int first, int last) {
    FourierRows rows(size);
    for (int x = first * kBlock; x < last * kBlock && !stop.asked(); x += kBlock) {
      for (int y = 0; y < size; ++y)
        std::copy_n(p.row(y) + x, kBlock, rows.re(y)), std::copy_n(q.row(y) + x, kBlock, rows.im(y));
      fourier.forward(rows);
      for (int y = 0; y < size; ++y)
        std::copy_n(rows.re(y), kBlock, out.re(y) + x), std::copy_n(rows.im(y), kBlock, out.im(y) + x);
    }
  });
  return out;
}

// And along every row.
void transform_rows(const Fourier& fourier, int size, Spectrum& s, const Stop& stop) {
  for_rows(size / kBlock, 1, stop, [&](int first, int last) {
    FourierRows rows(size);
    for (int y = first * kBlock; y < last * kBlock && !stop.asked(); y += kBlock) {
      in_blocks(size, [&](int x, int j) { rows.re(x)[j] = s.re(y + j)[x], rows.im(x)[j] = s.im(y + j)[x]; });
      fourier.forward(rows);
      in_blocks(size, [&](int x, int j) { s.re(y + j)[x] = rows.re(x)[j], s.im(y + j)[x] = rows.im(x)[j]; });
    }
  });
}

// From the transform of P + iQ, whose parts symmetric and antisymmetric about 0 are P's and Q's, the height's:
// -i (ku P + kv Q) / (2 pi (ku^2 + kv^2)). The highest wave of either axis has no direction of its own.
class HeightWaves {
 public:
  HeightWaves(const Spectrum& slopes, int size)
      : slopes_(slopes), size_(size), whole_(6.2831853f * static_cast<float>(size) * static_cast<float>(size)) {}
  struct Wave {
    float re, im;
  };
  Wave at(int u, int v) const {
    const int mu = wrap(-u, size_), mv = wrap(-v, size_);
    const float cr = slopes_.re(v)[u], ci = slopes_.im(v)[u], mr = slopes_.re(mv)[mu], mi = slopes_.im(mv)[mu];
    const float pr = 0.5f * (cr + mr), pi = 0.5f * (ci - mi), qr = 0.5f * (ci + mi), qi = 0.5f * (mr - cr);
    const float ku = u == size_ / 2 ? 0 : static_cast<float>(u),
                kv = v == size_ / 2 ? 0 : static_cast<float>(v < size_ / 2 ? v : v - size_);
    const float square = ku * ku + kv * kv, scale = square > 0 ? 1 / (whole_ * square) : 0;
    return {(ku * pi + kv * qi) * scale, -(ku * pr + kv * qr) * scale};
  }

 private:
  const Spectrum& slopes_;
  int size_;
  float whole_;
};

// The height's waves, back down every column. It is real, so waves of u from 0 to below half the size say it all but
// for those of half the size; those and those of 0 are real once they are back, and share column 0 as its two parts.
Spectrum height_columns(const Fourier& fourier, const Spectrum& slopes, int size, const Stop& stop) {
  const int half = size / 2, columns = std::min(kBlock, half);
  const HeightWaves waves(slopes, size);
  Spectrum out(size, half);
  for_rows(half / columns, 1, stop, [&](int first, int last) {
    FourierRows rows(size);
    for (int u = first * columns; u < last * columns && !stop.asked(); u += columns) {
      for (int v = 0; v < size; ++v)
        for (int j = 0; j < columns; ++j) {
          const auto wave = waves.at(u + j, v);
          rows.re(v)[j] = wave.re, rows.im(v)[j] = wave.im;
        }
      for (int v = 0; u == 0 && v < size; ++v) {
        const auto highest = waves.at(half, v);
        rows.re(v)[0] -= highest.im, rows.im(v)[0] += highest.re;
      }
      fourier.backward(rows);
      for (int v = 0; v < size; ++v)
        std::copy_n(rows.re(v), columns, out.re(v) + u), std::copy_n(rows.im(v), columns, out.im(v) + u);
    }
  });
  return out;
}

// Two rows of a half spectrum make one transform: the first comes back as its real part, the second as its imaginary
// one.
void rows_back(const Fourier& fourier, const Spectrum& s, Plane& out, float mean, const Stop& stop) {
  const int size = out.size(), half = size / 2, pairs = std::min(kBlock, half);
  for_rows(half / pairs, 1, stop, [&](int first, int last) {
    FourierRows rows(size);
    for (int top = 2 * first * pairs; top < 2 * last * pairs && !stop.asked(); top += 2 * pairs) {
      in_blocks(half, [&](int x, int j) {
        if (j >= pairs) return;
        const float ar = s.re(top + 2 * j)[x], ai = s.im(top + 2 * j)[x], br = s.re(top + 2 * j + 1)[x],
                    bi = s.im(top + 2 * j + 1)[x];
        if (x == 0) {
          rows.re(0)[j] = ar, rows.im(0)[j] = br;
          rows.re(half)[j] = ai, rows.im(half)[j] = bi;
        } else {
          rows.re(x)[j] = ar - bi, rows.im(x)[j] = ai + br;
          rows.re(size - x)[j] = ar + bi, rows.im(size - x)[j] = br - ai;
        }
      });
      fourier.backward(rows);
      in_blocks(size, [&](int x, int j) {
        if (j < pairs) out.at(x, top + 2 * j) = mean + rows.re(x)[j], out.at(x, top + 2 * j + 1) = mean + rows.im(x)[j];
      });
    }
  });
}

}  // namespace

Plane height_from_slopes(const Plane& du, const Plane& dv, const Stop& stop, float mean) {
  const int size = du.size();
  const Fourier fourier(size);
  Spectrum slopes = columns_of(fourier, du, dv, stop);
  transform_rows(fourier, size, slopes, stop);
  const Spectrum half = height_columns(fourier, slopes, size, stop);
  Plane out(size);
  rows_back(fourier, half, out, mean, stop);
  return out;
}

}  // namespace loom
