// Maps that come in: told apart by name and by measure, and giving what they were written from.
#include <QTemporaryDir>
#include <QtTest>
#include <cmath>
#include <numbers>

#include "core/bolt/delivery.h"
#include "core/bolt/import.h"
#include "core/bolt/package.h"
#include "core/graph/disc.h"
#include "core/graph/edit.h"
#include "core/graph/json.h"
#include "core/graph/validate.h"
#include "core/io/image.h"
#include "hem_at.h"

using namespace loom;
using namespace loom::test;

namespace {

// Normals of bumps, in 0 to 1; one axis alone has no curl that could tell.
Image bumps(bool up, bool one_axis = false) {
  constexpr int kSide = 64;
  Image image{kSide, kSide, 3, false, {}};
  const double w = 2 * std::numbers::pi;
  for (int y = 0; y < kSide; ++y)
    for (int x = 0; x < kSide; ++x) {
      const double u = (x + 0.5) / kSide, v = (y + 0.5) / kSide;
      const double du = 0.4 * std::cos(w * (2 * u + 1 * (one_axis ? 0 : v))),
                   dv = one_axis ? 0 : 0.2 * std::cos(w * (2 * u + v)) + 0.3 * std::sin(w * 3 * v);
      const double n[] = {-du, up ? dv : -dv, 1}, length = std::hypot(du, dv, 1.0);
      for (const double lane : n) image.values.push_back(static_cast<float>(0.5 + 0.5 * lane / length));
    }
  return image;
}

void write(const QTemporaryDir& folder, const char* name, const std::vector<std::uint8_t>& rgb, int side) {
  QVERIFY(write_file(folder.filePath(QString::fromLatin1(name)).toStdString(), *encode_picture(side, side, rgb)).ok());
}
std::vector<std::uint8_t> even(std::uint8_t r, std::uint8_t g, std::uint8_t b) {
  std::vector<std::uint8_t> all;
  for (int i = 0; i < 64; ++i) all.insert(all.end(), {r, g, b});
  return all;
}

}  // namespace

class TestImport : public QObject {
  Q_OBJECT
 private Q_SLOTS:
  void namesAreRead_data() {
    QTest::addColumn<QString>("slot");
    QTest::addColumn<bool>("inverted");
    QTest::addColumn<int>("green");
    const auto row = [](const char* stem, const char* slot, bool inverted = false, int green = 0) {
      QTest::newRow(stem) << QString::fromLatin1(slot) << inverted << green;
    };
    row("quay_floor_basecolor_2k", "base_colour");
    row("QuayFloor_BaseColor", "base_colour");
    row("quay-floor-base-colour", "base_colour");
    row("floor.albedo.4096", "base_colour");
    row("floor diffuse", "base_colour");
    row("Floor_Diff", "base_colour");
    row("rough_iron_color", "base_colour");
    row("red_metal_plate_roughness", "roughness");
    row("metal_rough", "roughness");
    row("floorRoughness", "roughness");
    row("floor_rgh", "roughness");
    row("boden_rauheit", "roughness");
    row("floor_gloss", "roughness", true);
    row("floor-Glossiness-8bit", "roughness", true);
    row("floor_metalness", "metallic");
    row("floor_nrm", "normal");
    row("floor_NormalGL_1K", "normal", false, 1);
    row("floor_normal_dx", "normal", false, -1);
    row("floor_nor_opengl", "normal", false, 1);
    row("floor_disp", "height");
    row("floor_bump", "height");
    row("floor_AO", "occlusion");
    row("floor_ambient_occlusion", "occlusion");
    row("floor_AmbientOcclusion", "occlusion");
    row("leaf_opacity", "opacity");
    row("glass_transparency", "opacity", true);
    row("lamp_emissive", "emissive");
  }
  void namesAreRead() {
    QFETCH(QString, slot);
    QFETCH(bool, inverted);
    QFETCH(int, green);
    const auto as = named_as(QTest::currentDataTag());
    QVERIFY(as);
    QCOMPARE(QString::fromStdString(as->slot), slot);
    QCOMPARE(as->inverted, inverted);
    QCOMPARE(as->green, green);
  }
  void packedAndUnknownNames() {
    QCOMPARE(named_as("floor_ORM")->channels, (std::vector<std::string>{"occlusion", "roughness", "metallic"}));
    QCOMPARE(named_as("floor_arm_2k")->channels.front(), std::string("occlusion"));
    QCOMPARE(named_as("floor_occlusion_roughness_metallic")->channels.size(), std::size_t{3});
    QCOMPARE(named_as("floor_metallicRoughness")->channels[1], std::string("roughness"));
    for (const char* none : {"", "preview", "IMG_2041", "floor"}) QVERIFY2(!named_as(none), none);
  }

  void greenIsMeasured() {
    QVERIFY(green_way(bumps(true)) > 0.95);
    QVERIFY(green_way(bumps(false)) < -0.95);
    QVERIFY(std::abs(green_way(bumps(true, true))) < 1e-6);
    QVERIFY(green_way(Image{8, 8, 1, false, std::vector<float>(64, 0.5f)}) == 0);
    Image flat{8, 8, 3, false, {}};
    for (int i = 0; i < 64; ++i) flat.values.insert(flat.values.end(), {0.5f, 0.5f, 1.0f});
    QVERIFY(green_way(flat) == 0);
  }

  // A set that was delivered comes back as the maps that it was written from.
  void whatWasDeliveredComesBack_data() {
    QTest::addColumn<QString>("demo");
    QTest::addColumn<bool>("green_up");
    for (const char* demo : {"quay-floor", "rush-matting", "terrazzo-bench", "ceiling-rosette"})
      for (const bool up : {true, false})
        QTest::newRow(qPrintable(QStringLiteral("%1 %2").arg(demo).arg(up))) << QString::fromLatin1(demo) << up;
  }
  void whatWasDeliveredComesBack() {
    QFETCH(QString, demo);
    QFETCH(bool, green_up);
    const QTemporaryDir folder;
    const Material alone = *open_material(LOOM_DEMO "/" + demo.toStdString() + ".loom");
    DeliveryPlan plan;
    plan.files = usual_files(alone);
    plan.folder = folder.path().toStdString();
    plan.size = 128;
    plan.green_up = green_up;
    for (FileDelivery& f : plan.files) f.bits = 16;
    Weaver weaver(std::size_t{1} << 26);
    QVERIFY(deliver(alone, catalogue(), weaver, plan, Stop{}).ok());
    const auto found = plan_import({plan.folder});
    QVERIFY2(found.ok(), found ? "" : found.error().text().c_str());
    QCOMPARE(found->maps.size(), plan.files.size());
    Material back = imported(*found, catalogue(), [](const auto& file) { return file.filename().string(); });
    auto root = std::make_shared<FileRoot>();
    root->folder = plan.folder;
    back.files = root;
    QVERIFY2(validate(back, catalogue()).empty(),
             validate(back, catalogue()).empty() ? "" : validate(back, catalogue()).front().text().c_str());
    for (const auto& [slot, from] : alone.hem) {
      QVERIFY2(back.hem.count(slot), slot.c_str());
      const Field a = woven_at(alone, from, 128), b = woven_at(back, back.hem.at(slot), 128);
      double most = 0;
      for (std::size_t k = 0; k < 3; ++k)
        for (std::size_t i = 0; a.strand[k] && i < a.strand[k]->texels(); ++i)
          most = std::max(most, static_cast<double>(std::abs(std::clamp(a.strand[k]->data()[i], -1.0f, 1.0f) -
                                                             b.strand[b.strand[k] ? k : 0]->data()[i])));
      QVERIFY2(most < 0.002, qPrintable(QStringLiteral("%1: %2").arg(QString::fromStdString(slot)).arg(most)));
    }
  }

  void packedGlossAndStrangers() {
    const QTemporaryDir folder;
    write(folder, "slate_orm.png", even(200, 100, 0), 8);
    write(folder, "slate_gloss.png", even(51, 51, 51), 8);
    write(folder, "slate_color.png", even(128, 64, 32), 8);
    write(folder, "slate_albedo.png", even(1, 2, 3), 8);
    write(folder, "slate_preview.png", even(9, 9, 9), 8);
    QVERIFY(write_file(folder.filePath(QStringLiteral("slate_ao.png")).toStdString(), "no picture").ok());
    const auto plan = plan_import({folder.path().toStdString()});
    QVERIFY(plan.ok());
    QCOMPARE(plan->name, std::string("Slate"));
    QCOMPARE(plan->maps.size(), std::size_t{4});  // a colour, gloss, and of the packed one what is not there yet
    QCOMPARE(plan->left_out.size(), std::size_t{3});
    for (const auto& [file, why] : plan->left_out) QVERIFY(!why.empty());
    Material m = imported(*plan, catalogue(), [](const auto& file) { return file.filename().string(); });
    auto root = std::make_shared<FileRoot>();
    root->folder = folder.path().toStdString();
    m.files = root;
    QVERIFY(validate(m, catalogue()).empty());
    const auto close = [&](const char* slot, float wanted) {
      const float is = middle_of(woven_at(m, m.hem.at(slot), 64));
      return std::abs(is - wanted) < 1e-3f;
    };
    QVERIFY(close("roughness", 0.8f));  // gloss of 0.2, and not the packed one's
    QVERIFY(close("occlusion", 200 / 255.0f) && close("metallic", 0));
    QVERIFY(m.hem.count("base_colour"));
  }

  void nothingToReadIsSaid() {
    const QTemporaryDir folder;
    QVERIFY(!plan_import({folder.path().toStdString()}).ok());
    QVERIFY(!plan_import({"/nowhere/at/all"}).ok());
    write(folder, "preview.png", even(9, 9, 9), 8);
    const auto none = plan_import({folder.path().toStdString()});
    QVERIFY(!none.ok() && none.error().mend.find("roughness") != std::string::npos);
  }
};

QTEST_GUILESS_MAIN(TestImport)
#include "tst_import.moc"
