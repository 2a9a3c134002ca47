// Sampling of visible half vectors, and the table of directional albedo.
#include "core/surface/ggx.h"

#include <oneapi/tbb/task_arena.h>

#include <vector>

#include "core/base/parallel.h"

namespace loom {

namespace {

// Of half vectors that one eye sees: what does not change from one to the next.
struct Seen {
  Seen(Vec3 v, Alphas rough) : alpha(rough), stretched(normalised({alpha.x * v.x, alpha.y * v.y, v.z})) {
    const float square = stretched.x * stretched.x + stretched.y * stretched.y;
    t1 = square > 0 ? Vec3{-stretched.y, stretched.x, 0} * (1 / std::sqrt(square)) : Vec3{1, 0, 0};
    t2 = cross(stretched, t1);
  }
  // From a place on the disc, by its distance from the middle and its direction.
  Vec3 half(float r, float cosine, float sine) const {
    const float x = r * cosine, s = 0.5f * (1 + stretched.z);
    const float y = (1 - s) * std::sqrt(std::max(0.0f, 1 - x * x)) + s * r * sine;
    const Vec3 n = t1 * x + t2 * y + stretched * std::sqrt(std::max(0.0f, 1 - x * x - y * y));
    return normalised({alpha.x * n.x, alpha.y * n.y, std::max(0.0f, n.z)});
  }
  Alphas alpha;
  Vec3 stretched, t1, t2;
};

}  // namespace

Vec3 sample_visible_half(Vec3 v, Alphas alphas, float r1, float r2) {
  const float phi = 2 * kPi * r2;
  return Seen(v, alphas).half(std::sqrt(r1), std::cos(phi), std::sin(phi));
}

Albedo integrate_albedo(float cos_v, float alpha, int n) {
  const Vec3 v{std::sqrt(std::max(0.0f, 1 - cos_v * cos_v)), 0, cos_v};
  const Seen seen(v, {alpha, alpha});
  // Half of the circle: the other is its mirror image.
  std::vector<std::array<float, 2>> directions;
  for (int j = 0; j < n; ++j) {
    const float phi = kPi * ((static_cast<float>(j) + 0.5f) / static_cast<float>(n) - 0.5f);
    directions.push_back({std::cos(phi), std::sin(phi)});
  }
  double a = 0, b = 0;
  for (int i = 0; i < n; ++i) {
    // The first number's last part holds the density's whole tail: r1 = 1 - rest^2 looks there the closer.
    const float rest = 1 - (static_cast<float>(i) + 0.5f) / static_cast<float>(n),
                share = 2 * rest / smith_g1(cos_v, alpha), r = std::sqrt(1 - rest * rest);
    float row_a = 0, row_b = 0;
    for (const auto& [cosine, sine] : directions) {
      const Vec3 h = seen.half(r, cosine, sine);
      const float vh = dot(v, h), lz = h.z * (2 * vh) - v.z;
      if (lz <= 0) continue;
      const float weight = share * smith_g2(cos_v, lz, alpha);
      const float m = std::clamp(1 - vh, 0.0f, 1.0f), fresnel = m * m * m * m * m;
      row_a += weight * (1 - fresnel);
      row_b += weight * fresnel;
    }
    a += static_cast<double>(row_a), b += static_cast<double>(row_b);
  }
  return {static_cast<float>(a / (double(n) * n)), static_cast<float>(b / (double(n) * n))};
}

namespace {

// Rows by the square root of alpha, columns by that of the cosine: both change fastest near 0.
constexpr int kSide = 64;
std::vector<Albedo> albedo_table() {
  constexpr int kQuadrature = 40;
  std::vector<Albedo> t(static_cast<std::size_t>(kSide * kSide));
  for_rows(kSide, 1, Stop{}, [&](int first, int last) {
    for (int y = first; y < last; ++y)
      for (int x = 0; x < kSide; ++x) {
        const float alpha = std::max(static_cast<float>(y) / (kSide - 1), 0.02f),
                    cosine = std::max(static_cast<float>(x) / (kSide - 1), 0.03f);
        t[static_cast<std::size_t>(y * kSide + x)] = integrate_albedo(cosine * cosine, alpha * alpha, kQuadrature);
      }
  });
  return t;
}

}  // namespace

Albedo ggx_albedo(float cos_v, float alpha) {
  // Never destroyed: it may be read while the program ends. Whoever makes it does nothing else meanwhile, or it would
  // come back here and wait for itself.
  static const std::vector<Albedo>& kTable = *new std::vector<Albedo>(tbb::this_task_arena::isolate(albedo_table));
  const float fx = std::sqrt(std::clamp(cos_v, 0.0f, 1.0f)) * (kSide - 1),
              fy = std::sqrt(std::clamp(alpha, 0.0f, 1.0f)) * (kSide - 1);
  const int x = std::min(static_cast<int>(fx), kSide - 2), y = std::min(static_cast<int>(fy), kSide - 2);
  const float tx = fx - static_cast<float>(x), ty = fy - static_cast<float>(y);
  const auto at = [&](int i, int j) { return kTable[static_cast<std::size_t>((y + j) * kSide + x + i)]; };
  const auto blend = [&](float p, float q, float r, float s) {
    return (p + (q - p) * tx) * (1 - ty) + (r + (s - r) * tx) * ty;
  };
  return {blend(at(0, 0).a, at(1, 0).a, at(0, 1).a, at(1, 1).a), blend(at(0, 0).b, at(1, 0).b, at(0, 1).b, at(1, 1).b)};
}

Albedo integrate_albedo(Vec3 v, Alphas alphas, int n) {
  const Seen seen(v, alphas);
  const float g1 = smith_g1(v, alphas);
  double a = 0, b = 0;
  for (int i = 0; i < n; ++i) {
    // As above: the density's tail is looked at the closer.
    const float rest = 1 - (static_cast<float>(i) + 0.5f) / static_cast<float>(n), r = std::sqrt(1 - rest * rest);
    for (int j = 0; j < n; ++j) {
      const float phi = 2 * kPi * (static_cast<float>(j) + 0.5f) / static_cast<float>(n);
      const Vec3 h = seen.half(r, std::cos(phi), std::sin(phi));
      const Vec3 l = h * (2 * dot(v, h)) - v;
      if (l.z <= 0) continue;
      const float weight = 2 * rest * smith_g2(v, l, alphas) / g1;
      const float m = std::clamp(1 - dot(v, h), 0.0f, 1.0f), fresnel = m * m * m * m * m;
      a += static_cast<double>(weight * (1 - fresnel));
      b += static_cast<double>(weight * fresnel);
    }
  }
  return {static_cast<float>(a / (double(n) * n)), static_cast<float>(b / (double(n) * n))};
}

namespace {

// By the square root of the cosine, the turn from the frame's x (a quarter of the circle tells all), roughness and
// anisotropy.
constexpr std::array<int, 4> kSteps{20, 8, 18, 10};

std::vector<Albedo> anisotropic_table() {
  constexpr int kQuadrature = 36;
  const auto [cosines, turns, roughs, anisotropies] = kSteps;
  std::vector<Albedo> t(static_cast<std::size_t>(cosines * turns * roughs * anisotropies));
  const auto share = [](int i, int steps) { return static_cast<float>(i) / static_cast<float>(steps - 1); };
  for_rows(roughs * anisotropies, 1, Stop{}, [&](int first, int last) {
    for (int row = first; row < last; ++row) {
      const Alphas alphas =
          alphas_of(std::max(share(row / anisotropies, roughs), 0.03f), share(row % anisotropies, anisotropies));
      for (int turn = 0; turn < turns; ++turn)
        for (int c = 0; c < cosines; ++c) {
          const float root = std::max(share(c, cosines), 0.06f), z = root * root, wide = std::sqrt(1 - z * z),
                      phi = 0.5f * kPi * share(turn, turns);
          t[static_cast<std::size_t>((row * turns + turn) * cosines + c)] =
              integrate_albedo({wide * std::cos(phi), wide * std::sin(phi), z}, alphas, kQuadrature);
        }
    }
  });
  return t;
}

}  // namespace

Albedo ggx_albedo(Vec3 v, float roughness, float anisotropy) {
  static const std::vector<Albedo>& kTable = *new std::vector<Albedo>(tbb::this_task_arena::isolate(anisotropic_table));
  const std::array<float, 4> share{std::sqrt(std::clamp(v.z, 0.0f, 1.0f)),
                                   std::atan2(std::abs(v.y), std::abs(v.x)) * (2 / kPi), roughness, anisotropy};
  std::array<int, 4> at;
  std::array<float, 4> between;
  for (std::size_t k = 0; k < 4; ++k) {
    const float x = std::clamp(share[k], 0.0f, 1.0f) * static_cast<float>(kSteps[k] - 1);
    at[k] = std::min(static_cast<int>(x), kSteps[k] - 2);
    between[k] = x - static_cast<float>(at[k]);
  }
  Albedo out{0, 0};
  for (unsigned corner = 0; corner < 16; ++corner) {
    float weight = 1;
    std::array<int, 4> i = at;
    for (std::size_t k = 0; k < 4; ++k) {
      const bool upper = corner >> k & 1;
      weight *= upper ? between[k] : 1 - between[k];
      i[k] += upper;
    }
    const Albedo& a =
        kTable[static_cast<std::size_t>(((i[2] * kSteps[3] + i[3]) * kSteps[1] + i[1]) * kSteps[0] + i[0])];
    out.a += weight * a.a, out.b += weight * a.b;
  }
  return out;
}

float ggx_mean_albedo(float alpha) {
  static const std::vector<float>& kTable = *new std::vector<float>([] {
    constexpr int kCosines = 64;
    std::vector<float> t;
    for (int y = 0; y < kSide; ++y) {
      const float root = static_cast<float>(y) / (kSide - 1);
      float sum = 0;
      for (int i = 0; i < kCosines; ++i) {
        const float cosine = (static_cast<float>(i) + 0.5f) / kCosines;
        sum += 2 * cosine * ggx_albedo(cosine, root * root).e() / kCosines;
      }
      t.push_back(sum);
    }
    return t;
  }());
  const float x = std::sqrt(std::clamp(alpha, 0.0f, 1.0f)) * (kSide - 1);
  const int at = std::min(static_cast<int>(x), kSide - 2);
  const float low = kTable[static_cast<std::size_t>(at)], high = kTable[static_cast<std::size_t>(at) + 1];
  return low + (high - low) * (x - static_cast<float>(at));
}

}  // namespace loom
