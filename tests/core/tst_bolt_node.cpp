// A bolt as one node of another material: it gives what it gives alone, wherever it comes from.
#include <QTemporaryDir>
#include <QtTest>

#include "core/bolt/bolt_node.h"
#include "core/bolt/manifest.h"
#include "core/graph/disc.h"
#include "core/graph/edit.h"
#include "core/graph/groups.h"
#include "core/graph/hem.h"
#include "core/graph/json.h"
#include "core/graph/surface_reach.h"
#include "core/graph/validate.h"
#include "core/io/image.h"
#include "core/weave/weaver.h"
#include "hem_at.h"

using namespace loom;
using namespace loom::test;

namespace {

std::string path_in(const QTemporaryDir& folder, const char* name) { return folder.filePath(name).toStdString(); }

// Laid tiles with a dial and an input, which is what lies below.
Material layer(double tile = 0.5) {
  Material m = edit::empty_material();
  m.name = "Dust layer";
  m.imprint.id = "dust_layer";
  m.tile_metres = tile;
  m.relief_metres = 0.004;
  m.seed = 77;
  for (const char* type : {"input", "gradient_noise", "blend", "normal_from_height"})
    m = edit::add_node(std::move(m), catalogue(), type, "relief", 0, 0);
  m = edit::rename_node(std::move(m), "input", "Below");
  m = edit::connect(std::move(m), {"input", "value", "blend", "lower"});
  m = edit::connect(std::move(m), {"gradient_noise", "value", "blend", "upper"});
  m = edit::connect(std::move(m), {"blend", "result", "normal_from_height", "height"});
  m = edit::make_dial(std::move(m), catalogue(), "gradient_noise", "scale");
  m = edit::set_hem(std::move(m), "height", "blend.result");
  m = edit::set_hem(std::move(m), "normal", "normal_from_height.normal");
  m = edit::set_of_hem(std::move(m), "roughness", 0.7);
  m.presets.push_back({"Coarse", {{m.values[0].id, 3.0}}});
  return m;
}

void write(const std::string& path, const Material& m) {
  const auto done = write_bolt(path, {m});
  QVERIFY2(done.ok(), done ? "" : done.error().text().c_str());
}

Material in_folder(const QTemporaryDir& folder) {
  Material m = edit::empty_material();
  auto root = std::make_shared<FileRoot>();
  root->folder = folder.path().toStdString();
  m.files = root;
  return m;
}

// A material beside a bolt, with a node that stands for it.
Material using_bolt(const QTemporaryDir& folder, const char* name, double tile, std::string* id = nullptr) {
  Material m = in_folder(folder);
  m.tile_metres = tile;
  const auto reference = take_bolt(m, name);
  if (!reference) qFatal("%s", reference.error().text().c_str());
  return edit::add_bolt(std::move(m), *reference, "relief", 0, 0, id);
}

std::string first(const std::vector<Error>& faults) { return faults.empty() ? std::string() : faults.front().text(); }

}  // namespace

class TestBoltNode : public QObject {
  Q_OBJECT
 private Q_SLOTS:
  void demosGiveWhatTheyGiveAlone_data() {
    QTest::addColumn<QString>("file");
    for (const QFileInfo& f : QDir(QStringLiteral(LOOM_DEMO)).entryInfoList({QStringLiteral("*.loom")}))
      QTest::newRow(qPrintable(f.baseName())) << f.filePath();
  }
  void demosGiveWhatTheyGiveAlone() {
    QFETCH(QString, file);
    const QTemporaryDir folder;
    const Material alone = *open_material(file.toStdString());
    write(path_in(folder, "one.bolt"), alone);
    std::string id;
    const Material m = using_bolt(folder, "one.bolt", alone.tile_metres, &id);
    QVERIFY2(validate(m, catalogue()).empty(), first(validate(m, catalogue())).c_str());
    const auto type = type_of(m, catalogue(), *m.node(id));
    int dials = 0;
    for (const Value& v : alone.values)
      if (v.dial) {
        QVERIFY(type->parameter(v.id));
        ++dials;
      }
    QVERIFY(dials > 0);
    const auto on_surface = slots_on_surface(alone, catalogue());
    int compared = 0;
    for (const auto& [slot, from] : alone.hem) {
      QVERIFY2(type->output(slot), slot.c_str());
      if (on_surface.count(slot)) continue;
      QVERIFY2(same_planes(woven_at(m, id + "." + slot, 128), woven_at(alone, from, 128)), slot.c_str());
      ++compared;
    }
    QVERIFY(compared > 0);
  }

  void theReferenceIsWrittenAndFoundAgain() {
    const QTemporaryDir folder;
    write(path_in(folder, "dust.bolt"), layer());
    const Material m = using_bolt(folder, "dust.bolt", 0.5);
    const std::string text = write_material(m);
    QVERIFY2(text.find("\"dust.bolt\"") != std::string::npos && text.find("\"groups\"") == std::string::npos,
             "a reference, no copy");
    QVERIFY(write_file(path_in(folder, "m.loom"), text).ok());
    const auto back = open_material(path_in(folder, "m.loom"));
    QVERIFY(back.ok() && validate(*back, catalogue()).empty());
    QCOMPARE(write_material(*back), text);
    QCOMPARE(back->node("dust_layer")->bolt->version, std::string("1.0"));
    // Its content has the hash that the reference holds: of the document as packed.
    const Bolt packed = *read_bolt(path_in(folder, "dust.bolt"));
    QCOMPARE(back->node("dust_layer")->bolt->sha256, sha256_of(write_material(packed.material)));
  }

  void whatIsMissingOrAnotherIsSaid() {
    const QTemporaryDir folder;
    write(path_in(folder, "dust.bolt"), layer());
    const Material m = using_bolt(folder, "dust.bolt", 0.5);
    QVERIFY(write_file(path_in(folder, "m.loom"), write_material(m)).ok());
    Material newer = layer();
    newer.imprint.version = "1.1";
    newer = edit::set_of_hem(std::move(newer), "roughness", 0.2);
    write(path_in(folder, "dust.bolt"), newer);
    Material back = *open_material(path_in(folder, "m.loom"));
    QVERIFY2(first(validate(back, catalogue())).find("dust_layer") != std::string::npos,
             first(validate(back, catalogue())).c_str());
    const auto missing = take_bolts(back);
    QVERIFY2(missing.size() == 1 && missing[0].what.find("1.1") != std::string::npos, first(missing).c_str());
    // Taken as the newer version, what it has by the same names stays.
    const auto fresh = take_bolt(back, "dust.bolt");
    QVERIFY(fresh.ok());
    back = edit::exchange_bolt(back, catalogue(), m.node("dust_layer")->group, *fresh);
    QVERIFY2(validate(back, catalogue()).empty(), first(validate(back, catalogue())).c_str());
    QCOMPARE(middle_of(woven_at(back, "dust_layer.roughness", 64)), 0.2f);
    QVERIFY(QFile::remove(QString::fromStdString(path_in(folder, "dust.bolt"))));
    QVERIFY(!take_bolts(*std::make_unique<Material>(*open_material(path_in(folder, "m.loom")))).empty());
  }

  void anExchangeKeepsWhatFits() {
    const QTemporaryDir folder;
    write(path_in(folder, "dust.bolt"), layer());
    Material m = using_bolt(folder, "dust.bolt", 0.5);
    const std::string old = m.node("dust_layer")->group, dial = layer().values[0].id;
    m = edit::set_param(std::move(m), "dust_layer", dial, 7.0);
    m = edit::set_param(std::move(m), "dust_layer", "seed", 5.0);
    m = edit::set_hem(std::move(m), "height", "dust_layer.height");
    m = edit::set_hem(std::move(m), "roughness", "dust_layer.roughness");
    Material newer = edit::reset_of_hem(layer(), "roughness");
    newer.imprint.version = "2.0";
    write(path_in(folder, "newer.bolt"), newer);
    const auto fresh = take_bolt(m, "newer.bolt");
    m = edit::exchange_bolt(m, catalogue(), old, *fresh);
    QCOMPARE(m.node("dust_layer")->bolt->version, std::string("2.0"));
    QCOMPARE(std::get<double>(m.node("dust_layer")->params.at(dial)), 7.0);
    QVERIFY(m.hem.count("height") && !m.hem.count("roughness"));
    QVERIFY2(validate(m, catalogue()).empty(), first(validate(m, catalogue())).c_str());
  }

  void dialsPresetsAndInputsAreItsOwn() {
    const QTemporaryDir folder;
    write(path_in(folder, "dust.bolt"), layer());
    Material m = using_bolt(folder, "dust.bolt", 0.5);
    const std::string dial = layer().values[0].id;
    const auto type = type_of(m, catalogue(), *m.node("dust_layer"));
    QVERIFY(type->input("input") && type->input("input")->label == "Below");
    QVERIFY2(type->parameter("input"), "typed or wired");
    QCOMPARE(type->output("height")->label, std::string(hem_slot("height")->label));
    QVERIFY(type->output(kCordOutput));
    const Material coarse = edit::take_bolt_preset(m, "dust_layer", "Coarse");
    QCOMPARE(std::get<double>(coarse.node("dust_layer")->params.at(dial)), 3.0);
    QVERIFY(!same_planes(woven_at(m, "dust_layer.height", 64), woven_at(coarse, "dust_layer.height", 64)));
    m = edit::add_node(std::move(m), catalogue(), "value", "relief", 1, 0);
    m = edit::connect(std::move(m), {"value", "value", "dust_layer", "input"});
    m = edit::set_param(std::move(m), "value", "value", 0.9);
    QVERIFY(!same_planes(woven_at(m, "dust_layer.height", 64), woven_at(coarse, "dust_layer.height", 64)));
    // Its own chance, unless another seed is asked for; the document's does not reach in.
    Material other = m;
    other.seed = 1234;
    QVERIFY(same_planes(woven_at(m, "dust_layer.height", 64), woven_at(other, "dust_layer.height", 64)));
    other = edit::set_param(std::move(other), "dust_layer", "seed", 8.0);
    QVERIFY(!same_planes(woven_at(m, "dust_layer.height", 64), woven_at(other, "dust_layer.height", 64)));
  }

  void theCordCarriesItsSlots() {
    const QTemporaryDir folder;
    write(path_in(folder, "dust.bolt"), layer());
    Material m = using_bolt(folder, "dust.bolt", 0.5);
    m = edit::add_node(std::move(m), catalogue(), "open_set", "relief", 1, 0);
    m = edit::connect(std::move(m), {"dust_layer", kCordOutput, "open_set", "set"});
    QVERIFY2(validate(m, catalogue()).empty(), first(validate(m, catalogue())).c_str());
    for (const char* slot : {"height", "normal", "roughness"})
      QVERIFY2(same_planes(woven_at(m, std::string("open_set.") + slot, 64),
                           woven_at(m, std::string("dust_layer.") + slot, 64)),
               slot);
  }

  void itIsLaidAtItsTrueSize() {
    const QTemporaryDir folder;
    write(path_in(folder, "dust.bolt"), layer(0.5));
    const Material m = using_bolt(folder, "dust.bolt", 2.0);
    QCOMPARE(std::get<double>(m.node("dust_layer")->params.at(kRepeats)), 4.0);
    QVERIFY2(type_of(m, catalogue(), *m.node("dust_layer"))->help.find("true to size") != std::string::npos,
             type_of(m, catalogue(), *m.node("dust_layer"))->help.c_str());
    const Material once = edit::set_param(m, "dust_layer", kRepeats, 1.0);
    QVERIFY(type_of(once, catalogue(), *once.node("dust_layer"))->help.find("4 times its size") != std::string::npos);
    // Texel (x, y) of four times four shows the mean of 4 x 4 texels of one; a normal keeps its slope.
    const Field laid = woven_at(m, "dust_layer.normal", 256), one = woven_at(once, "dust_layer.normal", 256);
    QCOMPARE(laid.kind, Kind::normal);
    double least = 1;
    for (int y = 0; y < 64; ++y)
      for (int x = 0; x < 64; ++x) {
        double mean[3] = {0, 0, 0}, dot = 0, length = 0;
        for (int j = 0; j < 4; ++j)
          for (int i = 0; i < 4; ++i)
            for (std::size_t k = 0; k < 3; ++k)
              mean[k] += static_cast<double>(one.strand[k]->at(4 * x + i, 4 * y + j)) / 16;
        for (std::size_t k = 0; k < 3; ++k) {
          dot += mean[k] * static_cast<double>(laid.strand[k]->at(x + 64, y + 128));
          length += mean[k] * mean[k];
        }
        least = std::min(least, dot / std::sqrt(length));
      }
    QVERIFY2(least > 0.999, qPrintable(QString::number(least)));
    // A thread covers the tile once: then it is not repeated.
    Material wired = edit::add_node(m, catalogue(), "value", "relief", 1, 0);
    wired = edit::connect(std::move(wired), {"value", "value", "dust_layer", "input"});
    Material wired_once = edit::set_param(wired, "dust_layer", kRepeats, 1.0);
    QVERIFY(same_planes(woven_at(wired, "dust_layer.height", 64), woven_at(wired_once, "dust_layer.height", 64)));
  }

  void whatDependsOnTheShapeIsNotLaid() {
    const QTemporaryDir folder;
    const Material sign = *open_material(LOOM_DEMO "/poster-sign.loom");
    write(path_in(folder, "sign.bolt"), sign);
    std::string id;
    Material m = using_bolt(folder, "sign.bolt", 3 * sign.tile_metres, &id);
    QCOMPARE(std::get<double>(m.node(id)->params.at(kRepeats)), 3.0);
    m = edit::set_hem(std::move(m), "emissive", id + ".emissive");
    const auto graph = flatten(m, catalogue());
    QVERIFY2(graph.ok(), graph ? "" : graph.error().text().c_str());
    QVERIFY(graph->surface_of(graph->hem.at("emissive")) != SurfaceUse::none);
  }

  void itIsPackedWithinTheOuterOne() {
    const QTemporaryDir folder, elsewhere;
    // A group that reads a picture, so that definitions and files both lie two bolts deep.
    std::vector<std::uint8_t> texels;
    for (int i = 0; i < 48; ++i) texels.push_back(static_cast<std::uint8_t>(5 * i));
    QVERIFY(write_file(path_in(folder, "patch.png"), *encode_picture(4, 4, texels)).ok());
    Material sign = edit::add_node(in_folder(folder), catalogue(), "image", "relief", 0, 0);
    sign.name = "Sign";
    sign = edit::set_param(std::move(sign), "image", "file", std::string("patch.png"));
    sign = *edit::fold(sign, catalogue(), {"image"}, "Patch");
    sign = edit::set_hem(std::move(sign), "base_colour", "patch.colour");
    write(path_in(folder, "sign.bolt"), sign);
    Material middle = using_bolt(folder, "sign.bolt", sign.tile_metres);
    middle.name = "Middle";
    const std::string inner = middle.nodes[0]->id;
    middle = edit::set_hem(std::move(middle), "base_colour", inner + ".base_colour");
    write(path_in(folder, "middle.bolt"), middle);
    Material outer = using_bolt(folder, "middle.bolt", sign.tile_metres);
    outer.name = "Outer";
    outer = edit::set_hem(std::move(outer), "base_colour", outer.nodes[0]->id + ".base_colour");
    const Field wanted = woven_at(sign, sign.hem.at("base_colour"), 128);
    QVERIFY(same_planes(woven_at(outer, outer.hem.at("base_colour"), 128), wanted));
    write(path_in(elsewhere, "outer.bolt"), outer);
    for (const char* name : {"sign.bolt", "middle.bolt", "patch.png"})
      QVERIFY(QFile::remove(QString::fromStdString(path_in(folder, name))));
    const auto opened = read_bolt(path_in(elsewhere, "outer.bolt"));
    QVERIFY2(opened.ok(), opened ? "" : opened.error().text().c_str());
    QVERIFY(same_planes(woven_at(opened->material, opened->material.hem.at("base_colour"), 128), wanted));
    // Unpacked it is a document beside a bolt again, and nothing of what that holds lies about.
    const auto files = unpack_bolt(*opened, elsewhere.filePath(QStringLiteral("un")).toStdString());
    QVERIFY(files.ok());
    for (const auto& file : *files) QVERIFY2(file.string().find("bolt:") == std::string::npos, file.c_str());
    const Material back = *open_material(path_in(elsewhere, "un/outer.loom"));
    QVERIFY2(validate(back, catalogue()).empty(), first(validate(back, catalogue())).c_str());
    QVERIFY(same_planes(woven_at(back, back.hem.at("base_colour"), 128), wanted));
  }

  void boltsWithinBoltsEnd() {
    const QTemporaryDir folder;
    write(path_in(folder, "b0.bolt"), layer());
    int deep = 0;
    for (; deep < 12; ++deep) {
      Material m = in_folder(folder);
      const auto reference = take_bolt(m, "b" + std::to_string(deep) + ".bolt");
      if (!reference) break;
      m = edit::add_bolt(std::move(m), *reference, "relief", 0, 0);
      m.name = "B" + std::to_string(deep + 1);
      m = edit::set_hem(std::move(m), "height", m.nodes[0]->id + ".height");
      const auto done = write_bolt(path_in(folder, ("b" + std::to_string(deep + 1) + ".bolt").c_str()), {m});
      if (!done) {
        QVERIFY2(done.error().text().find("8 deep") != std::string::npos, done.error().text().c_str());
        break;
      }
    }
    QVERIFY2(deep >= 6 && deep <= 9, qPrintable(QString::number(deep)));
  }

  void aStrangersReferenceIsRefused() {
    const auto read = [](const char* bolt) {
      return read_material(std::string(R"({"format": 2, "nodes": [{"id": "a", "type": "bolt")") + bolt + "}]}");
    };
    QVERIFY(!read("").ok());
    QVERIFY(!read(R"(, "bolt": 3)").ok());
    QVERIFY(!read(R"(, "bolt": {"id": "a", "sha256": "12", "file": "x.bolt"})").ok());
    const std::string hash(64, 'a');
    auto far =
        read((R"(, "bolt": {"id": "a", "version": "1", "sha256": ")" + hash + R"(", "file": "../../x.bolt"})").c_str());
    QVERIFY(far.ok());
    Material m = *far;
    const QTemporaryDir folder;
    auto root = std::make_shared<FileRoot>();
    root->folder = folder.path().toStdString();
    m.files = root;
    QVERIFY2(first(take_bolts(m)).find("outside") != std::string::npos, first(take_bolts(m)).c_str());
    QVERIFY(!validate(m, catalogue()).empty());
    QVERIFY(!flatten(m, catalogue()).ok());
  }

  void aCopiedNodeFindsItsBolt() {
    const QTemporaryDir folder, elsewhere;
    write(path_in(folder, "dust.bolt"), layer());
    const Material m = using_bolt(folder, "dust.bolt", 0.5);
    const auto part = read_snippet(write_snippet(m, {"dust_layer"}));
    QVERIFY(part.ok());
    QCOMPARE(part->nodes[0]->bolt->file, path_in(folder, "dust.bolt"));
    Material twice = edit::paste(m, *part, "relief", 0, 0);
    QCOMPARE(twice.nodes.size(), std::size_t{2});
    QVERIFY(validate(twice, catalogue()).empty());
  }
};

QTEST_GUILESS_MAIN(TestBoltNode)
#include "tst_bolt_node.moc"
