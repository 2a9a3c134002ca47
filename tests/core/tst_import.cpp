// Maps that come in: told apart by name and by measure, and giving what they were written from.
#include <QTemporaryDir>
#include <QtTest>
#include <cmath>
#include <numbers>

#include "core/bolt/bring_in.h"
#include "core/bolt/delivery.h"
#include "core/bolt/files_beside.h"
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

  // Two sets of one material: the one with a gloss map, the other with packed channels, and each with something that
  // the other lacks.
  static void writeSets(const QTemporaryDir& folder) {
    write(folder, "slate_color.png", even(128, 64, 32), 8);
    write(folder, "slate_gloss.png", even(51, 51, 51), 8);
    write(folder, "slate_height.png", even(77, 77, 77), 8);
    write(folder, "tin_color.png", even(16, 32, 64), 8);
    write(folder, "tin_orm.png", even(200, 100, 30), 8);
  }
  static ImportPlan planOf(const QTemporaryDir& folder, const QStringList& names) {
    std::vector<std::filesystem::path> files;
    for (const QString& name : names) files.push_back(folder.filePath(name).toStdString());
    return *plan_import(files);
  }
  static Material rooted(Material m, const QTemporaryDir& folder) {
    auto root = std::make_shared<FileRoot>();
    root->folder = folder.path().toStdString();
    m.files = root;
    return m;
  }
  static std::string byName(const std::filesystem::path& file) { return file.filename().string(); }
  static float value(const Material& m, const std::string& output) { return middle_of(woven_at(m, output, 64)); }

  // It goes into the hem or a cord; through one Transform all maps are moved alike.
  void aSetOnTheBoard() {
    const QTemporaryDir folder;
    write(folder, "half_roughness.png", {0, 0, 0, 255, 255, 255, 0, 0, 0, 255, 255, 255}, 2);
    write(folder, "half_metallic.png", {0, 0, 0, 255, 255, 255, 0, 0, 0, 255, 255, 255}, 2);
    const ImportPlan plan = planOf(folder, {QStringLiteral("half_roughness.png"), QStringLiteral("half_metallic.png")});
    const Material empty = rooted(edit::empty_material(), folder);
    std::vector<std::string> fresh;
    Material m = bring_in(empty, catalogue(), plan, byName, {BringIn::To::hem, true}, &fresh);
    QVERIFY(validate(m, catalogue()).empty());
    QCOMPARE(m.lanes.back().name, std::string("Half"));
    QCOMPARE(fresh.size(), std::size_t{5});
    const auto at = [&](const char* slot, std::size_t x) {
      return woven_at(m, m.hem.at(slot), 64).strand[0]->data()[x];
    };
    QVERIFY(at("roughness", 8) < 0.1f && at("metallic", 8) < 0.1f);
    const auto transform =
        std::find_if(fresh.begin(), fresh.end(), [&](auto& id) { return m.node(id)->type == "transform"; });
    QVERIFY(transform != fresh.end());
    m = edit::set_param(std::move(m), *transform, "shift", Vector{0.5, 0});
    QVERIFY(at("roughness", 8) > 0.7f && at("metallic", 8) > 0.7f);

    const Material corded = bring_in(empty, catalogue(), plan, byName, {BringIn::To::cord, true}, &fresh);
    QVERIFY(corded.hem.empty() && validate(corded, catalogue()).empty());
    QCOMPARE(corded.node(fresh.back())->type, std::string("transform"));
  }

  // What reads a map reads the other set's; what comes the same way keeps its node, and nothing idle is left.
  void aSetIsExchanged() {
    const QTemporaryDir folder;
    writeSets(folder);
    const ImportPlan slate = planOf(folder, {QStringLiteral("slate_color.png"), QStringLiteral("slate_gloss.png"),
                                             QStringLiteral("slate_height.png")}),
                     tin = planOf(folder, {QStringLiteral("tin_color.png"), QStringLiteral("tin_orm.png")});
    for (const bool corded : {false, true}) {
      Material m =
          bring_in(rooted(edit::empty_material(), folder), catalogue(), slate, byName, {BringIn::To::hem, corded});
      m = edit::add_node(std::move(m), catalogue(), "blend", m.lanes[0].id, 0, 0);
      const auto sets = sets_on(m);
      QCOMPARE(sets.size(), std::size_t{1});
      QCOMPARE(sets[0].name, std::string("Slate"));
      QCOMPARE(sets[0].maps.size(), std::size_t{3});
      QVERIFY(sets[0].maps.at("roughness").inverted);
      // Something of the artist's own reads the gloss as well.
      const auto [node, peg] = split_output(sets[0].maps.at("roughness").output);
      m = edit::connect(std::move(m), {node, peg, "blend", "upper"});
      const std::string colour = sets[0].maps.at("base_colour").node;

      Material now = exchange_set(m, catalogue(), sets[0], tin, byName);
      QVERIFY2(validate(now, catalogue()).empty(), corded ? "corded" : "straight");
      QVERIFY(std::abs(value(now, now.hem.at("roughness")) - 100 / 255.0f) < 1e-3f);
      QVERIFY(std::abs(value(now, "blend.result") - 100 / 255.0f) < 1e-3f);
      QVERIFY(std::abs(value(now, now.hem.at("height")) - 77 / 255.0f) < 1e-3f);  // the other set has none
      QCOMPARE(std::get<std::string>(now.node(colour)->params.at("file")), std::string("tin_color.png"));
      QVERIFY(std::none_of(now.nodes.begin(), now.nodes.end(), [](const NodePtr& n) { return n->type == "invert"; }));
      const std::string occlusion = corded ? "open_set.occlusion" : now.hem.at("occlusion");
      QVERIFY(std::abs(value(now, occlusion) - 200 / 255.0f) < 1e-3f);

      // And back again: packed channels go as the gloss comes.
      const auto both = sets_on(now);
      const auto of_tin = std::find_if(both.begin(), both.end(), [](const SetOnBoard& s) { return s.name == "Tin"; });
      QVERIFY(of_tin != both.end());
      QCOMPARE(of_tin->maps.size(), std::size_t{4});
      now = exchange_set(now, catalogue(), *of_tin, slate, byName);
      QVERIFY(validate(now, catalogue()).empty());
      QVERIFY(std::abs(value(now, now.hem.at("roughness")) - 0.8f) < 1e-3f);
    }
  }

  void onePictureIsANode() {
    Material m = edit::empty_material();
    std::string id;
    const edit::Placing at{{}, m.lanes[0].id, 0, 0};
    m = bring_picture(m, catalogue(), {"slate_nrm.png", "normal", -1, false, true}, byName, at, &id);
    QCOMPARE(m.node(id)->type, std::string("normal_map"));
    QCOMPARE(std::get<std::string>(m.node(id)->params.at("green")), std::string("down"));
    m = bring_picture(m, catalogue(), {"slate_height.png", "height"}, byName, at, &id);
    QCOMPARE(std::get<std::string>(m.node(id)->params.at("colour_space")), std::string("linear"));
    m = bring_picture(m, catalogue(), {"slate.png", "base_colour"}, byName, at, &id);
    QVERIFY(m.node(id)->type == "image" && !m.node(id)->params.count("colour_space"));
    QVERIFY(m.hem.empty());
  }

  void filesFromElsewhereAreCopied() {
    const QTemporaryDir folder, other;
    write(folder, "near.png", even(1, 2, 3), 8);
    write(other, "far.png", even(4, 5, 6), 8);
    const FilesBeside beside(folder.filePath(QStringLiteral("tin.loom")).toStdString());
    const auto far = [&] { return other.filePath(QStringLiteral("far.png")).toStdString(); };
    QCOMPARE(*beside.name(folder.filePath(QStringLiteral("near.png")).toStdString()), std::string("near.png"));
    QVERIFY(beside.is_elsewhere(far()));
    QCOMPARE(*beside.name(far()), std::string("tin.files/far.png"));
    QCOMPARE(*beside.name(far()), std::string("tin.files/far.png"));  // the same again
    write(other, "far.png", even(7, 7, 7), 8);
    QVERIFY(!beside.name(far()).ok());
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
