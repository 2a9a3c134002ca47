// The shading model against published terms and tables, and the drape against a furnace.
#include <QTemporaryDir>

#include "core/io/image.h"
#include "core/plane/colour.h"
#include "core/surface/drape.h"
#include "core/surface/environment_file.h"
#include "tests/core/alone.h"
#include "tests/outside/reference.h"

using namespace loom;
using namespace loom::test;

// What an even room of 0.6 shows: it is scaled so that with its key light, 2.6 / pi on what faces it, it gives 1.
constexpr double kEven = 0.6 / (0.6 + 2.6 / 3.14159265358979);

class TestShading : public QObject {
  Q_OBJECT
  static std::map<std::string, Field> even(float base, float roughness, float metallic) {
    std::map<std::string, Field> s;
    s["base_colour"] =
        field_of(Kind::colour, Plane::filled(16, base), Plane::filled(16, base), Plane::filled(16, base));
    s["roughness"] = field_of(Kind::scalar, Plane::filled(16, roughness));
    s["metallic"] = field_of(Kind::scalar, Plane::filled(16, metallic));
    return s;
  }
  static double middle(const Drape& d) {
    const auto rgb = d.picture();
    double sum = 0;
    int n = 0;
    for (int y = 28; y < 36; ++y)
      for (int x = 28; x < 36; ++x)
        sum += static_cast<double>(
            linear_from_srgb(static_cast<float>(rgb[static_cast<std::size_t>((y * 64 + x) * 3 + 1)]) / 255)),
            ++n;
    return sum / n;
  }

 private Q_SLOTS:
  void termsAreThePublishedOnes() {  // Walter et al. 2007, Heitz 2014
    constexpr double kDegree = 0.017453292519943295;
    QVERIFY(each("surface.json", "GGX D", [&](const json& r) {
              const double degrees[] = {0, 1, 5, 10, 30, 60};
              for (std::size_t i = 0; i < 6; ++i) {
                const double e = r["expected"][i];
                QVERIFY(std::abs(static_cast<double>(ggx_density(static_cast<float>(std::cos(degrees[i] * kDegree)),
                                                                 r["inputs"]["alpha"].get<float>())) /
                                     e -
                                 1) < 2e-3);
              }
            }) >= 3);
    QVERIFY(each("surface.json", "Smith G1", [](const json& r) {
              const float cosines[] = {1, 0.9f, 0.5f, 0.2f, 0.05f};
              for (std::size_t i = 0; i < 5; ++i)
                QVERIFY(std::abs(static_cast<double>(smith_g1(cosines[i], r["inputs"]["alpha"].get<float>())) -
                                 r["expected"][i].get<double>()) < 1e-5);
            }) >= 2);
    QVERIFY(each("surface.json", "G2 height", [](const json& r) {
              const std::pair<float, float> at[] = {{0.9f, 0.5f}, {0.5f, 0.5f}, {0.2f, 0.7f}, {0.05f, 0.05f}};
              for (std::size_t i = 0; i < 4; ++i)
                QVERIFY(std::abs(static_cast<double>(
                                     smith_g2(at[i].first, at[i].second, r["inputs"]["alpha"].get<float>())) -
                                 r["expected"]["correlated"][i].get<double>()) < 1e-5);
            }) >= 1);
  }
  void theDensityKeepsItsDigitsAtItsPeak() {
    // The same formula in double precision, at the cosine as it is rounded to a float.
    for (const double roughness : {0.03, 0.1, 0.5})
      for (const double degrees : {0.0, 0.01, 0.1, 1.0, 10.0}) {
        const auto cosine = static_cast<float>(std::cos(degrees * 0.017453292519943295)),
                   alpha = static_cast<float>(roughness * roughness);
        const double a2 = static_cast<double>(alpha) * static_cast<double>(alpha), c = static_cast<double>(cosine),
                     d = c * c * (a2 - 1) + 1;
        QVERIFY(std::abs(static_cast<double>(ggx_density(cosine, alpha)) * 3.14159265358979 * d * d / a2 - 1) < 1e-5);
      }
  }
  // A grey that faces the key light shows as it is, and pale materials keep their shading.
  void theDefaultLightShowsAGreyAsItIs() {
    const auto shown = [](float base) {
      DrapeView view;
      view.width = view.height = 64;
      view.light_degrees = 0;  // towards the middle of the ball, as the camera sees it
      view.light_height = 8;
      Drape d(std::make_shared<SurfaceMaps>(even(base, 0.9f, 0)), view);
      for (int i = 0; i < 32; ++i) d.add_sample(Stop{});
      return std::lround(255 * static_cast<double>(srgb_from_linear(static_cast<float>(middle(d)))));
    };
    const long grey = shown(0.18f), pale = shown(0.9f), paler = shown(0.75f);
    QVERIFY2(std::abs(grey - 118) <= 12, qPrintable(QString::number(grey)));
    QVERIFY2(pale < 250 && paler < pale - 4, qPrintable(QString::number(pale)));
  }
  void directionalAlbedoIsThePublishedTable() {
    // Two quadratures agree to 1e-4 there; at normal incidence and alpha 1 it is exactly 1 - ln 2.
    int n = each("surface.json", "GGX directional albedo", [](const json& r) {
      const float mu = r["inputs"]["cos_theta"], alpha = r["inputs"]["alpha"];
      QVERIFY2(
          std::abs(static_cast<double>(integrate_albedo(mu, alpha, 400).e()) - r["expected"].get<double>()) < 1.2e-3,
          r["id"].get<std::string>().c_str());
      QVERIFY2(std::abs(static_cast<double>(ggx_albedo(mu, alpha).e()) - r["expected"].get<double>()) < 2e-3,
               r["id"].get<std::string>().c_str());
    });
    QVERIFY(n >= 20);
    n = each("surface.json", "split-sum terms", [](const json& r) {
      const Albedo a = integrate_albedo(r["inputs"]["cos_theta"], r["inputs"]["alpha"], 400);
      QVERIFY(std::abs(static_cast<double>(a.a) - r["expected"]["A"].get<double>()) < 2e-3);
      QVERIFY(std::abs(static_cast<double>(a.b) - r["expected"]["B"].get<double>()) < 2e-3);
    });
    QVERIFY(n >= 20);
    QVERIFY(std::abs(integrate_albedo(1, 1, 128).e() - (1 - std::log(2.0f))) < 1e-3f);
  }
  void aWhiteMetalInAnEvenRoomLosesNothing_data() {
    QTest::addColumn<float>("roughness");
    for (const float r : {0.1f, 0.5f, 0.8f, 1.0f})
      QTest::newRow(qPrintable(QString::number(static_cast<double>(r)))) << r;
  }
  void aWhiteMetalInAnEvenRoomLosesNothing() {
    QFETCH(float, roughness);
    DrapeView view;
    view.width = view.height = 64;
    view.environment = "even";
    view.key = 0;
    Drape d(std::make_shared<SurfaceMaps>(even(1, roughness, 1)), view);
    for (int i = 0; i < 96; ++i) d.add_sample(Stop{});
    QVERIFY2(std::abs(middle(d) - kEven) < 0.01 * kEven, qPrintable(QString::number(middle(d))));
    Drape quick(std::make_shared<SurfaceMaps>(even(1, roughness, 1)), view);
    quick.first_answer(1, Stop{});
    QVERIFY2(std::abs(middle(quick) - kEven) < 0.02 * kEven, qPrintable(QString::number(middle(quick))));
  }
  // The further slots: what they reflect at normal incidence is Fresnel's, and none of them makes light.
  void furtherSlotsAreShaded() {
    DrapeView view;
    view.width = view.height = 64;
    view.environment = "even";
    view.key = 0;
    view.camera = {0, 0, 12};  // from afar, so that the middle is seen straight on
    const auto shown = [&](const std::map<std::string, Field>& slots, bool quick) {
      Drape d(std::make_shared<SurfaceMaps>(slots), view);
      if (quick)
        d.first_answer(1, Stop{});
      else
        for (int i = 0; i < 96; ++i) d.add_sample(Stop{});
      const auto radiance = d.radiance();
      double sum = 0;
      for (int y = 30; y < 34; ++y)
        for (int x = 30; x < 34; ++x) sum += static_cast<double>(radiance[static_cast<std::size_t>((y * 64 + x) * 4)]);
      return sum / 16 / kEven;
    };
    const auto with = [&](std::map<std::string, Field> slots, const char* slot, float value) {
      slots[slot] = field_of(Kind::scalar, Plane::filled(16, value));
      return slots;
    };
    for (const bool quick : {false, true}) {
      const int n = each("surface.json", "normal-incidence reflectance ((n-1)/(n+1))^2", [&](const json& r) {
        const double want = r["expected"];
        const double got = shown(with(even(0, 0.1f, 0), "specular_ior", r["inputs"]["ior"]), quick);
        QVERIFY2(std::abs(got - want) < 0.002 + 0.03 * want, qPrintable(QStringLiteral("%1 %2").arg(got).arg(want)));
      });
      QVERIFY(n >= 4);
      QVERIFY(shown(with(even(0, 0.3f, 0), "specular_weight", 0), quick) < 1e-4);
      QVERIFY(std::abs(shown(with(even(0, 0.1f, 0), "specular_weight", 0.5f), quick) - 0.02) < 0.002);
      // A coat over black: ((1.6 - 1) / (1.6 + 1))^2. Over white, whatever the weight: all light comes back.
      const auto black = with(with(even(0, 0.1f, 0), "specular_weight", 0), "coat_weight", 1);
      QVERIFY(std::abs(shown(with(black, "coat_roughness", 0.1f), quick) - 0.0532544) < 0.003);
      for (const float weight : {0.3f, 1.0f})
        for (const float roughness : {0.1f, 0.6f}) {
          const auto white = with(with(even(1, 0.5f, 0), "coat_weight", weight), "coat_roughness", roughness);
          const double got = shown(white, quick);
          QVERIFY2(std::abs(got - 1) < 0.01, qPrintable(QString::number(got)));
        }
    }
  }
  void furtherSlotsHaveTheirKinds() {
    for (const char* slot : {"specular_weight", "specular_ior", "coat_weight", "coat_roughness", "fuzz_weight",
                             "fuzz_roughness", "specular_roughness_anisotropy"})
      QVERIFY(slot_kind(slot) == Kind::scalar && !hem_slot(slot) && known_slot(slot));
    QVERIFY(slot_kind("fuzz_color") == Kind::colour && slot_kind("geometry_tangent") == Kind::vector2);
    QVERIFY(slot_kind("my_own") == Kind::any);
  }
  // Walter's density for two roughnesses, over the hemisphere: the projected area of all facets is that of the surface.
  void facetsCoverTheirSurface() {
    for (const float roughness : {0.3f, 0.6f, 1.0f})
      for (const float anisotropy : {0.0f, 0.5f, 0.9f}) {
        const Alphas alphas = alphas_of(roughness, anisotropy);
        // By the tangent of the half vector's angle, which spreads the peak: x = tan.
        double area = 0;
        constexpr int kRings = 4000, kTurns = 400;
        for (int i = 0; i < kRings; ++i) {
          const double share = (i + 0.5) / kRings, tangent = share / (1 - share), square = 1 + tangent * tangent;
          const double across = 1 / ((1 - share) * (1 - share)) / kRings;  // d tan
          for (int k = 0; k < kTurns; ++k) {
            const double phi = 2 * std::numbers::pi * (k + 0.5) / kTurns, cosine = 1 / std::sqrt(square);
            const Vec3 h{static_cast<float>(tangent * cosine * std::cos(phi)),
                         static_cast<float>(tangent * cosine * std::sin(phi)), static_cast<float>(cosine)};
            // cos theta sin theta d theta = tan / (1 + tan^2)^2 d tan
            area += static_cast<double>(ggx_density(h, alphas)) * tangent / (square * square) * across * 2 *
                    std::numbers::pi / kTurns;
          }
        }
        QVERIFY2(std::abs(area - 1) < 0.01, qPrintable(QString::number(area)));
        // The sum of squares stays as the roughness has it: OpenPBR 1.1.
        const double squares = static_cast<double>(alphas.x * alphas.x + alphas.y * alphas.y);
        QVERIFY(std::abs(squares / (2 * std::pow(static_cast<double>(roughness), 4)) - 1) < 1e-3);
      }
  }
  // Without anisotropy they are the terms of one roughness, which are held against the published ones.
  void twoRoughnessesAlikeAreOne() {
    std::mt19937 chance(5);
    std::uniform_real_distribution<float> unit(-1, 1);
    for (int i = 0; i < 200; ++i) {
      const Vec3 v = normalised({unit(chance), unit(chance), 0.05f + std::abs(unit(chance))}),
                 l = normalised({unit(chance), unit(chance), 0.05f + std::abs(unit(chance))});
      const float roughness = 0.1f + 0.9f * std::abs(unit(chance)), alpha = roughness * roughness;
      const Alphas both = alphas_of(roughness, 0);
      QVERIFY(std::abs(ggx_density(l, both) / ggx_density(l.z, alpha) - 1) < 1e-3f);
      QVERIFY(std::abs(smith_g1(v, both) - smith_g1(v.z, alpha)) < 1e-4f);
      QVERIFY(std::abs(smith_g2(v, l, both) - smith_g2(v.z, l.z, alpha)) < 1e-4f);
      QVERIFY(std::abs(ggx_albedo(v, roughness, 0).e() - ggx_albedo(v.z, alpha).e()) < 0.012f);
    }
  }
  void theTableOfTwoRoughnessesIsTheirQuadrature() {
    std::mt19937 chance(8);
    std::uniform_real_distribution<float> unit(0, 1);
    float worst = 0;
    for (int i = 0; i < 150; ++i) {
      const float z = 0.05f + 0.95f * unit(chance), phi = 6.28f * unit(chance), wide = std::sqrt(1 - z * z);
      const Vec3 v{wide * std::cos(phi), wide * std::sin(phi), z};
      const float roughness = 0.15f + 0.85f * unit(chance), anisotropy = 0.95f * unit(chance);
      const Albedo exact = integrate_albedo(v, alphas_of(roughness, anisotropy), 96),
                   table = ggx_albedo(v, roughness, anisotropy);
      worst = std::max({worst, std::abs(exact.e() - table.e()), std::abs(exact.b - table.b)});
    }
    QVERIFY2(worst < 0.01f, qPrintable(QString::number(static_cast<double>(worst))));
  }
  // Kulla and Conty's series for metals that have a colour: what is scattered k times more has met the mean Fresnel
  // term as often, and a share of 1 - E of it was caught again each time.
  void colouredMetalsAreKullaAndContys() {
    for (const float roughness : {0.3f, 0.6f, 1.0f})
      for (const float cosine : {1.0f, 0.5f, 0.2f})
        for (const double f0 : {0.2, 0.5, 0.95}) {
          const float alpha = roughness * roughness;
          const Albedo albedo = integrate_albedo(cosine, alpha, 200);
          double mean = 0;
          constexpr int kSteps = 60;
          for (int i = 0; i < kSteps; ++i) {
            const float c = (static_cast<float>(i) + 0.5f) / kSteps;
            mean += static_cast<double>(2 * c * integrate_albedo(c, alpha, 60).e()) / kSteps;
          }
          const double fresnel = f0 + (1 - f0) / 21;
          double series = 0;
          for (int k = 0; k < 400; ++k) series += std::pow(fresnel * (1 - mean), k);
          const double want = f0 * static_cast<double>(albedo.a) + static_cast<double>(albedo.b) +
                              (1 - static_cast<double>(albedo.e())) * fresnel * fresnel * mean * series;
          const auto f = static_cast<float>(f0);
          const double got = static_cast<double>(GgxLobe({f, f, f}, roughness, cosine).albedo().x);
          QVERIFY2(std::abs(got - want) < 0.006, qPrintable(QStringLiteral("%1 %2").arg(got).arg(want)));
        }
  }
  // Whatever the fuzz and the anisotropy: a white surface in a white room is not seen.
  void furnaceOfWhatIsAnisotropicOrFuzzy_data() {
    QTest::addColumn<float>("roughness");
    QTest::addColumn<float>("anisotropy");
    QTest::addColumn<float>("fuzz");
    QTest::addColumn<float>("metallic");
    int n = 0;
    for (const float roughness : {0.25f, 0.6f, 1.0f})
      for (const auto& [anisotropy, fuzz] : {std::pair{0.5f, 0.0f}, {0.9f, 0.0f}, {0.0f, 1.0f}, {0.7f, 0.6f}})
        for (const float metallic : {0.0f, 1.0f})
          QTest::addRow("%d", n++) << roughness << anisotropy << fuzz << metallic;
  }
  void furnaceOfWhatIsAnisotropicOrFuzzy() {
    QFETCH(float, roughness);
    QFETCH(float, anisotropy);
    QFETCH(float, fuzz);
    QFETCH(float, metallic);
    std::mt19937 chance(31);
    std::uniform_real_distribution<float> unit(0, 1);
    SurfaceMaps::Point p{.base = {1, 1, 1},
                         .normal = {0, 0, 1},
                         .emissive = {},
                         .roughness = roughness,
                         .metallic = metallic,
                         .occlusion = 1};
    p.anisotropy = anisotropy, p.fuzz_weight = fuzz, p.fuzz_roughness = roughness;
    for (const float cosine : {0.95f, 0.6f, 0.25f}) {
      const float phi = 6.28f * unit(chance), wide = std::sqrt(1 - cosine * cosine);
      const Reflector r(p, {0, 0, 1}, {wide * std::cos(phi), wide * std::sin(phi), cosine}, {1, 0, 0});
      double sum = 0;
      constexpr int kDrawn = 60000;
      for (int i = 0; i < kDrawn; ++i) {
        const float choice = unit(chance), a = unit(chance), b = unit(chance);
        if (const auto t = r.towards(r.draw(choice, a, b)); t.density > 0)
          sum += static_cast<double>(t.reflected.x / t.density) / kDrawn;
      }
      QVERIFY2(std::abs(sum - 1) < 0.012, qPrintable(QString::number(sum)));
      const Vec3 mean = r.under({1, 1, 1}, {1, 1, 1}, {1, 1, 1});
      QVERIFY(std::abs(mean.x - 1) < 0.012f);
    }
  }
  // Of what scatters in a thin sheet (1 - g) / 2 comes back and (1 + g) / 2 goes through. Source: the Academy's OpenPBR
  // 1.1, "Thin-walled case", from memory. A white one in a white room is not seen, whatever lies on it.
  void sheetsShareOutWhatScatters() {
    std::mt19937 chance(5);
    std::uniform_real_distribution<float> unit(0, 1);
    const Vec3 n{0, 0, 1}, v{0.6f, 0, 0.8f};
    // Over drawn directions: what comes back and what goes through; the mean of 1 / density is the sphere's.
    const auto shares = [&](const Reflector& r) {
      constexpr int kDrawn = 200000;
      double back = 0, through = 0;
      for (int i = 0; i < kDrawn; ++i) {
        const float choice = unit(chance), a = unit(chance), b = unit(chance);
        const Vec3 l = r.draw(choice, a, b);
        const auto t = r.towards(l);
        if (t.density > 0) (l.z > 0 ? back : through) += static_cast<double>(t.reflected.x / t.density) / kDrawn;
      }
      return std::pair{back, through};
    };
    SurfaceMaps::Point p{
        .base = {0.3f, 0.3f, 0.3f}, .normal = n, .emissive = {}, .roughness = 0.5f, .metallic = 0, .occlusion = 1};
    p.subsurface = 1, p.subsurface_colour = {0.8f, 0.8f, 0.8f};
    for (const float onward : {-1.0f, 0.0f, 0.4f, 1.0f}) {
      p.specular_weight = 0, p.onward = onward, p.thin = 1, p.coat_weight = 0, p.fuzz_weight = 0;
      p.subsurface_colour = {0.8f, 0.8f, 0.8f};
      const Reflector matt(p, n, v);
      const auto [back, through] = shares(matt);
      const auto g = static_cast<double>(onward);
      QVERIFY2(std::abs(back - 0.8 * (1 - g) / 2) < 0.005, qPrintable(QString::number(back)));
      QVERIFY2(std::abs(through - 0.8 * (1 + g) / 2) < 0.005, qPrintable(QString::number(through)));
      QVERIFY(std::abs(static_cast<double>(matt.shines_through({1, 1, 1}).x) - 0.8 * (1 + g) / 2) < 1e-4);
      QCOMPARE(matt.lets_through(), onward > -1);
      p.subsurface_colour = {1, 1, 1}, p.specular_weight = 1, p.coat_weight = 0.5f, p.fuzz_weight = 0.5f;
      const Reflector white(p, n, v);
      const auto [white_back, white_through] = shares(white);
      QVERIFY2(std::abs(white_back + white_through - 1) < 0.012,
               qPrintable(QString::number(white_back + white_through)));
    }
    // A thick one lets nothing through, and is as its subsurface is.
    p.thin = 0, p.specular_weight = 0, p.coat_weight = 0, p.fuzz_weight = 0, p.subsurface_colour = {0.8f, 0.8f, 0.8f};
    const Reflector thick(p, n, v);
    QVERIFY(!thick.lets_through() && std::abs(thick.under({1, 1, 1}, {}, {}).x - 0.8f) < 1e-4f);
    p.subsurface = 0.5f;  // half of it is the base
    QVERIFY(std::abs(Reflector(p, n, v).under({1, 1, 1}, {}, {}).x - 0.55f) < 1e-4f);
  }

  // A sheet that lets all through, lit from behind, is as bright as a white one that is lit from before.
  void aSheetIsLitFromBehind() {
    Mesh quad;
    quad.position = {{-1, -1, 0}, {1, -1, 0}, {1, 1, 0}, {-1, 1, 0}};
    quad.normal.resize(4, {0, 0, 1});
    quad.triangle = {{0, 1, 2}, {0, 2, 3}};
    quad.part_of = {0, 0};
    quad.parts = {"sheet"};
    const auto mesh = std::make_shared<const MeshShape>(quad);
    // In the middle, of the key light alone: with it less without it.
    const auto lit = [&](const std::map<std::string, Field>& slots, float azimuth, int samples) {
      double light[2] = {};
      for (const bool key : {false, true}) {
        DrapeView view;
        view.mesh = mesh;
        view.width = view.height = 24;
        view.camera = {0, 0, 3};
        view.light_degrees = azimuth, view.light_height = 20, view.key = key ? 1.0f : 0.0f;
        Drape d(std::make_shared<SurfaceMaps>(slots), view);
        if (!samples) d.first_answer(1, Stop{});
        for (int i = 0; i < samples; ++i) d.add_sample(Stop{});
        const auto radiance = d.radiance();
        for (int y = 10; y < 14; ++y)
          for (int x = 10; x < 14; ++x)
            light[key] += static_cast<double>(radiance[static_cast<std::size_t>(4 * (24 * y + x) + 1)]);
      }
      return (light[1] - light[0]) / 16;
    };
    auto white = even(1, 0.5f, 0);
    white["specular_weight"] = field_of(Kind::scalar, Plane::filled(16, 0));
    auto sheet = white;
    for (const char* slot : {"geometry_thin_walled", "subsurface_weight", "subsurface_scatter_anisotropy"})
      sheet[slot] = field_of(Kind::scalar, Plane::filled(16, 1));
    sheet["subsurface_color"] = white["base_colour"];
    const double before = lit(white, 0, 0);
    QVERIFY(before > 0.1);
    QVERIFY(std::abs(lit(sheet, 180, 0) / before - 1) < 1e-3);
    QVERIFY(std::abs(lit(sheet, 180, 64) / before - 1) < 0.03);
    QVERIFY(std::abs(lit(sheet, 0, 0)) < 1e-4 && std::abs(lit(white, 180, 0)) < 1e-4);
  }
  // Light spreads along the way that is given: a highlight is longer there.
  void highlightsStretchAlong() {
    for (const bool upright : {false, true}) {
      DrapeView view;
      view.width = view.height = 96;
      view.shape = ShapeName::ball;
      view.camera = {0, 0, 4.6f};
      view.light_degrees = 0, view.light_height = 0, view.key = 3;
      auto slots = even(0.9f, 0.35f, 1);
      slots["specular_roughness_anisotropy"] = field_of(Kind::scalar, Plane::filled(16, 0.9f));
      slots["geometry_tangent"] =
          field_of(Kind::vector2, Plane::filled(16, upright ? 0.0f : 1.0f), Plane::filled(16, upright ? 1.0f : 0.0f));
      Drape d(std::make_shared<SurfaceMaps>(slots), view);
      d.first_answer(1, Stop{});
      const auto radiance = d.radiance();
      double all = 0, across = 0, up = 0;
      for (int y = 0; y < 96; ++y)
        for (int x = 0; x < 96; ++x) {
          const double light = std::pow(static_cast<double>(radiance[static_cast<std::size_t>((y * 96 + x) * 4)]), 2);
          all += light, across += light * std::pow(x - 47.5, 2), up += light * std::pow(y - 47.5, 2);
        }
      const double ratio = upright ? up / across : across / up;
      QVERIFY2(ratio > 2, qPrintable(QString::number(ratio)));
    }
  }
  // Fuzz is seen most at grazing angles, and its lobe is a distribution.
  void fuzzIsALobe() {
    for (const float roughness : {0.2f, 0.5f, 1.0f}) {
      float before = 0;
      for (const float cosine : {1.0f, 0.7f, 0.4f, 0.15f}) {
        const FuzzLobe fuzz({0, 0, 1}, {std::sqrt(1 - cosine * cosine), 0, cosine}, roughness);
        double sum = 0;
        constexpr int kSteps = 400;
        for (int j = 0; j < kSteps; ++j)
          for (int i = 0; i < kSteps; ++i) {
            const double z = (j + 0.5) / kSteps, phi = 2 * std::numbers::pi * (i + 0.5) / kSteps,
                         wide = std::sqrt(1 - z * z);
            sum +=
                static_cast<double>(fuzz.density({static_cast<float>(wide * std::cos(phi)),
                                                  static_cast<float>(wide * std::sin(phi)), static_cast<float>(z)})) *
                2 * std::numbers::pi / (kSteps * kSteps);
          }
        QVERIFY2(std::abs(sum - 1) < 0.01, qPrintable(QString::number(sum)));
        QVERIFY(fuzz.albedo() >= before && fuzz.albedo() <= 1);
        before = fuzz.albedo();
      }
      QVERIFY(before > 0.1f);
    }
  }
  void whatIsDrawnHasTheDensityThatIsTold_data() {
    QTest::addColumn<float>("anisotropy");
    QTest::addColumn<float>("fuzz");
    QTest::newRow("even, bare") << 0.0f << 0.0f;
    QTest::newRow("anisotropic") << 0.8f << 0.0f;
    QTest::newRow("fuzzy") << 0.0f << 0.7f;
    QTest::newRow("both") << 0.6f << 0.5f;
  }
  void whatIsDrawnHasTheDensityThatIsTold() {
    QFETCH(float, anisotropy);
    QFETCH(float, fuzz);
    // The mean of reflected / density over drawn directions is the albedo.
    std::mt19937 chance(6);
    std::uniform_real_distribution<float> unit(0, 1);
    SurfaceMaps::Point p{{0.7f, 0.5f, 0.3f}, {0, 0, 1}, {}, 0.4f, 0.3f, 1, 1, 1.5f, 0.6f, 0.25f};
    p.anisotropy = anisotropy, p.fuzz_weight = fuzz, p.fuzz = {0.9f, 0.4f, 0.2f};
    const Reflector r(p, {0, 0, 1}, normalised({0.5f, 0.2f, 0.8f}), {0.3f, 1, 0});
    Vec3 sum;
    constexpr int kDrawn = 40000;
    for (int i = 0; i < kDrawn; ++i) {
      const float choice = unit(chance), a = unit(chance), b = unit(chance);
      const Vec3 l = r.draw(choice, a, b);
      if (const auto t = r.towards(l); t.density > 0) sum = sum + t.reflected * (1.0f / (t.density * kDrawn));
    }
    const Vec3 white = r.under({1, 1, 1}, {1, 1, 1}, {1, 1, 1});  // of an even room
    QVERIFY2(std::abs(sum.x / white.x - 1) < 0.01f && std::abs(sum.z / white.z - 1) < 0.01f,
             qPrintable(QStringLiteral("%1 %2").arg(static_cast<double>(sum.x)).arg(static_cast<double>(white.x))));
  }
  void occlusionMetalAndEmissionAreHonoured() {
    DrapeView view;
    view.width = view.height = 64;
    view.environment = "even";
    view.key = 0;
    const auto shown = [&](std::map<std::string, Field> s) {
      Drape d(std::make_shared<SurfaceMaps>(s), view);
      for (int i = 0; i < 48; ++i) d.add_sample(Stop{});
      return middle(d);
    };
    auto s = even(0.5f, 0.6f, 0);
    const double open = shown(s);
    s["occlusion"] = field_of(Kind::scalar, Plane::filled(16, 0.5f));
    QVERIFY(std::abs(shown(s) / open - 0.5) < 0.02);
    s["emissive"] = field_of(Kind::colour, Plane::filled(16, 0.2f), Plane::filled(16, 0.2f), Plane::filled(16, 0.2f));
    QVERIFY(std::abs(shown(s) - (0.5 * open + 0.2)) < 0.02);
    // A black metal reflects nearly nothing at the middle; a black dielectric its four per cent.
    QVERIFY(shown(even(0, 0.6f, 1)) < 0.012 * kEven / 0.6 && shown(even(0, 0.6f, 0)) > 0.015 * kEven / 0.6);
  }
  void exposureIsInStops() {
    DrapeView view;
    view.width = view.height = 64;
    view.environment = "even";
    view.key = 0;
    Drape a(std::make_shared<SurfaceMaps>(even(0.3f, 0.7f, 0)), view);
    view.exposure = 1;
    Drape b(std::make_shared<SurfaceMaps>(even(0.3f, 0.7f, 0)), view);
    a.first_answer(1, Stop{});
    b.first_answer(1, Stop{});
    QVERIFY(std::abs(middle(b) / middle(a) - 2) < 0.05);
  }
  // Longitude 0 in the middle lies at +z, 90 degrees left of it at +x, the top above: the latitude-longitude maps of
  // OpenEXR's documentation (from memory).
  void aPictureOfSurroundingsLiesAsItsStandardSays() {
    QTemporaryDir dir;
    const std::string path = dir.filePath(QStringLiteral("spot.exr")).toStdString();
    std::vector<float> picture(128 * 64 * 4, 0.0f);
    const auto spot = [&](int x, int y, std::size_t channel) {
      for (int j = -3; j <= 3; ++j)
        for (int i = -3; i <= 3; ++i) picture[static_cast<std::size_t>(((y + j) * 128 + x + i) * 4) + channel] = 9;
    };
    spot(64, 32, 0);
    spot(32, 32, 1);
    spot(64, 3, 2);
    picture[5] = std::nanf("");
    picture[9] = -4;
    QVERIFY(write_radiance(path, 128, 64, picture).ok());
    const auto own = read_environment(path);
    QVERIFY(own.ok());
    QCOMPARE(own->mended, std::size_t{2});
    QVERIFY(own->light->radiance({0, 0, 1}).x > 8 && own->light->radiance({1, 0, 0}).y > 8);
    QVERIFY(own->light->radiance(normalised({0, 1, 0.1f})).z > 8);
    QVERIFY(own->light->radiance({0, 0, -1}).x < 0.1f);
    // Half as wide, the same light.
    double whole = 0;
    std::mt19937 chance(4);
    std::uniform_real_distribution<float> unit(0, 1);
    for (int i = 0; i < 4000; ++i) {
      const auto s = own->light->sample(unit(chance), unit(chance));
      whole += static_cast<double>(luminance(s.radiance) / s.density) / 4000;
    }
    double want = 0;
    for (int y = 0; y < 64; ++y)
      for (int x = 0; x < 128; ++x) {
        const float* p = &picture[static_cast<std::size_t>(y * 128 + x) * 4];
        if (p[0] >= 0 && p[1] >= 0 && p[2] >= 0)
          want += static_cast<double>(luminance({p[0], p[1], p[2]})) * std::sin((y + 0.5) * 3.14159265358979 / 64) *
                  (2 * 3.14159265358979 / 128) * (3.14159265358979 / 64);
      }
    QVERIFY2(std::abs(whole / want - 1) < 0.02, qPrintable(QString::number(whole / want)));
  }
  // Every place is scaled alike: a white Lambert surface that faces its key light shows radiance 1.
  void everyPlaceShowsAGreyAsItIs() {
    for (const auto& [name, label] : environment_names()) {
      DrapeView view;
      view.stand_in(name);
      view.width = view.height = 64;
      view.camera = {view.light_degrees, view.light_height, 4};
      std::map<std::string, Field> slots = even(0.18f, 1, 0);
      Drape d(std::make_shared<SurfaceMaps>(slots), view);
      for (int i = 0; i < 64; ++i) d.add_sample(Stop{});
      const long shown = std::lround(255 * static_cast<double>(srgb_from_linear(static_cast<float>(middle(d)))));
      QVERIFY2(std::abs(shown - 118) <= 12, qPrintable(QString::fromStdString(name) + QString::number(shown)));
    }
  }
  void environmentSamplingMatchesItsDensity() {
    // The mean of 1 / density over samples is the whole sphere, 4 pi; of radiance / density the integral of radiance.
    const auto e = environment("north_hall");
    std::mt19937 chance(2);
    std::uniform_real_distribution<float> unit(0, 1);
    double sphere = 0, light = 0, even_light = 0;
    constexpr int n = 200000;
    for (int i = 0; i < n; ++i) {
      const auto s = e->sample(unit(chance), unit(chance));
      sphere += 1 / static_cast<double>(s.density) / n;
      light += static_cast<double>(e->radiance(s.direction).y / s.density) / n;
      const float z = 2 * unit(chance) - 1, phi = 6.2831853f * unit(chance), r = std::sqrt(1 - z * z);
      even_light +=
          4 * 3.14159265358979 * static_cast<double>(e->radiance({r * std::cos(phi), z, r * std::sin(phi)}).y) / n;
    }
    QVERIFY2(std::abs(sphere / (4 * 3.14159265358979) - 1) < 0.05, qPrintable(QString::number(sphere)));
    QVERIFY2(std::abs(light / even_light - 1) < 0.03, qPrintable(QStringLiteral("%1, %2").arg(light).arg(even_light)));
  }
};

QTEST_GUILESS_MAIN(TestShading)
#include "tst_shading.moc"
