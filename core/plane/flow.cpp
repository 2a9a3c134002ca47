// Doubling: twice the way is the way, then the way again from where it led.
#include "core/plane/flow.h"

#include <algorithm>
#include <cmath>
#include <cstring>

#include "core/base/parallel.h"

namespace loom {
namespace {

OffsetRow rows_of(const Offsets& o) {
  const std::size_t bytes = static_cast<std::size_t>(o.u.size()) * sizeof(float);
  return [&o, bytes](int y, float* du, float* dv) {
    std::memcpy(du, o.u.row(y), bytes);
    std::memcpy(dv, o.v.row(y), bytes);
  };
}

Plane scaled(const Plane& p, float by, const Stop& stop) {
  Plane out(p.size());
  for_rows(p.size(), 64, stop, [&](int first, int last) {
    for (int y = first; y < last; ++y)
      for (int x = 0; x < p.size(); ++x) out.row(y)[x] = p.row(y)[x] * by;
  });
  return out;
}

// Twice the way: its own offsets, and those where they lead.
void advance(Offsets& o, const Stop& stop) {
  auto both = warped({&o.u, &o.v}, rows_of(o), stop, 1);
  o = {std::move(both[0]), std::move(both[1])};
}

// The mean of a plane and itself moved by (du, dv) texels, bilinear: rows are read as they lie.
Plane paired(const Plane& p, double du, double dv, const Stop& stop) {
  const int size = p.size(), iu = static_cast<int>(std::floor(du)), iv = static_cast<int>(std::floor(dv));
  const auto fu = static_cast<float>(du - iu), fv = static_cast<float>(dv - iv);
  Plane out(size);
  for_rows(size, 32, stop, [&](int first, int last) {
    std::vector<float> moved(static_cast<std::size_t>(size) + 1);
    for (int y = first; y < last; ++y) {
      const float *a = p.row(wrap(y + iv, size)), *b = p.row(wrap(y + iv + 1, size)), *here = p.row(y);
      for (int x = 0; x <= size; ++x) {
        const int at = wrap(x + iu, size);
        moved[static_cast<std::size_t>(x)] = a[at] + (b[at] - a[at]) * fv;
      }
      float* to = out.row(y);
      for (int x = 0; x < size; ++x) {
        const float there = moved[static_cast<std::size_t>(x)] + (moved[static_cast<std::size_t>(x) + 1] - moved[static_cast<std::size_t>(x)]) * fu;
        to[x] = 0.5f * (here[x] + there);
      }
    }
  });
  return out;
}

// The mean of 2^doublings samples, from here on in steps of `way`; the way is doubled in the same pass, until the last, which makes the sum a mean.
std::vector<Plane> means_ahead(std::vector<const Plane*> sources, Offsets way, int doublings, const Stop& stop) {
  std::vector<Plane> sum;
  for (int i = 0; i < doublings && !stop.asked(); ++i) {
    const bool last = i + 1 == doublings;
    if (!last) sources.push_back(&way.u), sources.push_back(&way.v);
    std::vector<Plane> next = warped(sources, rows_of(way), stop, last ? 1 / static_cast<float>(1 << doublings) : 1.0f);
    if (!last) {
      way.v = std::move(next.back()), next.pop_back();
      way.u = std::move(next.back()), next.pop_back();
    }
    sum = std::move(next);
    sources.clear();
    for (const Plane& p : sum) sources.push_back(&p);
  }
  return sum;
}

}  // namespace

Offsets followed(const Plane& field_u, const Plane& field_v, float share, int doublings, const Stop& stop) {
  Offsets o{scaled(field_u, share, stop), scaled(field_v, share, stop)};
  for (int i = 0; i < doublings && !stop.asked(); ++i) advance(o, stop);
  return o;
}

std::vector<Plane> smeared(const std::vector<const Plane*>& sources, const Plane& field_u, const Plane& field_v, float length, int doublings, const Stop& stop) {
  const float step = length / static_cast<float>(1 << doublings);
  std::vector<Plane> ahead = means_ahead(sources, {scaled(field_u, step, stop), scaled(field_v, step, stop)}, doublings - 1, stop);
  const std::vector<Plane> behind = means_ahead(sources, {scaled(field_u, -step, stop), scaled(field_v, -step, stop)}, doublings - 1, stop);
  for (std::size_t i = 0; i < ahead.size(); ++i)
    for_rows(field_u.size(), 64, stop, [&](int first, int last) {
      for (int y = first; y < last; ++y)
        for (int x = 0; x < field_u.size(); ++x) ahead[i].row(y)[x] = 0.5f * (ahead[i].row(y)[x] + behind[i].row(y)[x]);
    });
  return ahead;
}

Plane line_blurred(const Plane& source, float length, float radians, const Stop& stop) {
  const double texels = static_cast<double>(length) * source.size();
  if (texels < 1e-3) return source.clone();
  // Two even windows of half the length each: together a window that falls off evenly to both ends.
  const int doublings = std::clamp(static_cast<int>(std::ceil(std::log2(std::max(texels / 2, 1.0)))) + 1, 1, 12);
  const double c = std::cos(static_cast<double>(radians)), s = -std::sin(static_cast<double>(radians)), step = texels / 2 / (1 << doublings);
  Plane p = source.clone();
  for (const double way : {1.0, -1.0})
    for (int i = 0; i < doublings && !stop.asked(); ++i) p = paired(p, way * c * step * (1 << i), way * s * step * (1 << i), stop);
  return p;
}

}  // namespace loom
