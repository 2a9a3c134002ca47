// glTF and MaterialX documents of deliveries: what the standards' own validators find in them, and what other readers
// do.
#include <QDir>
#include <QImage>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QProcess>
#include <QTemporaryDir>
#include <QtTest>

#include "core/bolt/documents.h"
#include "core/bolt/lists.h"
#include "core/bolt/on_mesh.h"
#include "core/bolt/package.h"
#include "core/bolt/shown_mesh.h"
#include "core/graph/edit.h"
#include "core/graph/hem.h"
#include "core/io/gltf_library.h"
#include "core/io/image.h"
#include "core/nodes/catalogue.h"
#include "core/surface/shape.h"

using namespace loom;

class TestDocuments : public QObject {
  Q_OBJECT
  QTemporaryDir dir_;

  static Material demo(const char* name) { return *open_material(std::string(LOOM_DEMO "/") + name + ".loom"); }
  std::string folder(const char* name) const { return dir_.filePath(QString::fromUtf8(name)).toStdString(); }

  DeliveryReport delivered(const Material& m, const char* name, const std::function<void(DeliveryPlan&)>& change = {}) {
    DeliveryPlan plan;
    plan.folder = folder(name);
    plan.size = 64;
    plan.files = usual_files(m);
    plan.gltf = plan.glb = plan.materialx = true;
    if (change) change(plan);
    Weaver w(0);
    auto report = deliver(m, catalogue(), w, plan, Stop{});
    if (!report) qFatal("%s", report.error().text().c_str());
    return *report;
  }
  static std::string path_of(const DeliveryReport& r, const char* name) {
    const DeliveredFile* f = find_file(r, name);
    return f ? f->path.string() : std::string();
  }
  static QJsonObject json(const std::string& path) {
    QFile file(QString::fromStdString(path));
    return file.open(QIODevice::ReadOnly) ? QJsonDocument::fromJson(file.readAll()).object() : QJsonObject();
  }
  static QByteArray text(const std::string& path) {
    QFile file(QString::fromStdString(path));
    return file.open(QIODevice::ReadOnly) ? file.readAll() : QByteArray();
  }

  // Every slot there is, from a thread, the brightest of its light above 1.
  static Material with_all_slots() {
    Material m = demo("copper-shingles");
    for (const char* slot : {"opacity", "specular_weight", "coat_weight", "coat_roughness", "fuzz_weight",
                             "fuzz_roughness", "specular_roughness_anisotropy", "subsurface_weight"})
      m = edit::set_hem(std::move(m), slot, m.hem.at("roughness"));
    for (const char* slot : {"fuzz_color", "subsurface_color"})
      m = edit::set_hem(std::move(m), slot, m.hem.at("base_colour"));
    std::string bright;
    m = edit::add_node(std::move(m), catalogue(), "multiply", m.lanes[0].id, 0, 40, &bright);
    const auto [node, peg] = split_output(m.hem.at("base_colour"));
    m = edit::connect(std::move(m), {node, peg, bright, "a"});
    m = edit::set_param(std::move(m), bright, "b", 20.0);
    return edit::set_hem(std::move(m), "emissive", bright + ".result");
  }
  static Material with_all_typed() {
    Material m = demo("copper-shingles");
    for (const char* slot : {"base_colour", "roughness", "metallic", "normal", "height", "occlusion"})
      m.hem.erase(slot);
    m.hem["roughness"] = demo("copper-shingles").hem.at("roughness");
    m = edit::set_of_hem(std::move(m), "base_colour", Vector{0.2, 0.3, 0.4});
    m = edit::set_of_hem(std::move(m), "emissive", Vector{0, 6, 3});
    for (const auto& [slot, x] : {std::pair{"metallic", 0.25},
                                  {"opacity", 0.5},
                                  {"specular_weight", 0.5},
                                  {"specular_ior", 1.33},
                                  {"coat_weight", 0.8},
                                  {"coat_roughness", 0.1},
                                  {"fuzz_weight", 0.4},
                                  {"specular_roughness_anisotropy", 0.3},
                                  {"geometry_thin_walled", 1.0},
                                  {"subsurface_weight", 0.2}})
      m = edit::set_of_hem(std::move(m), slot, x);
    return m;
  }

  DeliveryReport onto_mesh() {
    const Material m = demo("bollard");
    DeliveryPlan plan{.folder = folder("mesh"), .size = 256, .files = usual_files_on_mesh(m)};
    plan.gltf = plan.glb = plan.materialx = true;
    Weaver w(0);
    auto mesh = shown_mesh(m);
    if (!mesh) qFatal("no mesh");
    auto done = deliver_onto(m, catalogue(), w, plan, std::make_shared<MeshShape>(std::move(*mesh)), Stop{});
    if (!done) qFatal("%s", done.error().text().c_str());
    return *done;
  }

  // What the validators say; empty where they are not installed.
  QJsonArray validated(const QStringList& files) {
    QProcess node;
    node.start(QStringLiteral("node"),
               QStringList{QStringLiteral(LOOM_OUTSIDE "/validate.mjs"), QStringLiteral(LOOM_VALIDATORS)} + files);
    node.waitForFinished(120000);
    QJsonArray all;
    for (const QByteArray& line : node.readAllStandardOutput().split('\n'))
      if (!line.isEmpty()) all.append(QJsonDocument::fromJson(line).object());
    if (all.size() != files.size()) qWarning("%s", node.readAllStandardError().right(400).constData());
    return all;
  }
  static bool areInstalled() { return QFile::exists(QStringLiteral(LOOM_VALIDATORS "/whole")); }

 private Q_SLOTS:
  // All in one run: what reads MaterialX takes seconds to start.
  void theValidatorsFindNothing() {
    if (!areInstalled()) QSKIP("tools/validators has not installed the validators");
    const Material shingles = demo("copper-shingles");
    std::vector<DeliveryReport> reports;
    for (const char* name : {"quay-floor", "copper-shingles", "terrazzo-bench"})
      reports.push_back(delivered(demo(name), name));
    reports.push_back(delivered(with_all_slots(), "all slots"));
    reports.push_back(delivered(with_all_typed(), "all typed"));
    reports.push_back(
        delivered(shingles, "in one", [&](DeliveryPlan& p) { p.files = files_of(*find_list(shingles, "packed")); }));
    reports.push_back(delivered(shingles, "relief, green down", [&](DeliveryPlan& p) {
      p.files = files_of(*find_list(shingles, "relief"));
      p.green_up = false;
    }));
    reports.push_back(delivered(shingles, "exr", [](DeliveryPlan& p) {
      for (FileDelivery& f : p.files) f.format = ImageFormat::exr, f.bits = 16;
    }));
    reports.push_back(onto_mesh());
    for (const auto& [shape, label] : shape_names())
      reports.push_back(delivered(shingles, shape.c_str(), [&](DeliveryPlan& p) { p.shape = shape; }));
    QStringList files;
    for (const DeliveryReport& r : reports)
      for (const char* kind : {"gltf", "glb", "mtlx"}) {
        QVERIFY2(!path_of(r, kind).empty(), kind);
        files << QString::fromStdString(path_of(r, kind));
      }
    const QJsonArray all = validated(files);
    QCOMPARE(all.size(), files.size());
    for (qsizetype i = 0; i < all.size(); ++i) {
      const QJsonObject found = all[i].toObject();
      const QByteArray what = QJsonDocument(found).toJson(QJsonDocument::Compact);
      QVERIFY2(found[QStringLiteral("errors")].toInt(-1) == 0, what);
      QVERIFY2(found[QStringLiteral("warnings")].toInt(-1) == 0, what);
      if (files[i].endsWith(QStringLiteral(".mtlx"))) {
        QVERIFY2(found[QStringLiteral("shaders")].toInt() == 3, what);  // one of each look
      }
    }
  }
  // That the validators are awake.
  void theValidatorsRefuseWhatIsWrong() {
    if (!areInstalled()) QSKIP("tools/validators has not installed the validators");
    const DeliveryReport r = delivered(demo("quay-floor"), "spoilt");
    QStringList files;
    const auto spoil = [&](const char* kind, const char* from, const char* to) {
      QFile file(QString::fromStdString(path_of(r, kind)));
      QByteArray bytes = text(file.fileName().toStdString());
      if (!bytes.contains(from)) qFatal("nothing to spoil");
      bytes.replace(from, to);
      if (!file.open(QIODevice::WriteOnly)) qFatal("not writable");
      file.write(bytes);
      file.close();
      files << file.fileName();
    };
    spoil("gltf", "\"version\": \"2.0\"", "\"version\": \"two\"");
    spoil("mtlx", "base_metalness", "base_metal");
    for (const auto& one : validated(files)) QVERIFY(one.toObject()[QStringLiteral("errors")].toInt() > 0);
  }

  // The sides of the tile, its coordinates and the image behind each texture, by a reader of its own.
  void aGlbIsReadByAnother() {
    const Material m = demo("copper-shingles");
    const DeliveryReport r = delivered(m, "glb");
    tinygltf::Model model;
    std::string wrong, warned;
    tinygltf::TinyGLTF loader;
    loader.SetImageLoader(
        [](tinygltf::Image* image, int, std::string*, std::string*, int, int, const unsigned char* data, int size,
           void*) {
          const QImage read = QImage::fromData(data, size, "PNG");
          image->width = read.width(), image->height = read.height(), image->component = 4;
          image->bits = read.depth() > 32 ? 16 : 8;
          return !read.isNull();
        },
        nullptr);
    const QByteArray bytes = text(path_of(r, "glb"));
    QVERIFY2(loader.LoadBinaryFromMemory(&model, &wrong, &warned, reinterpret_cast<const unsigned char*>(bytes.data()),
                                         static_cast<unsigned>(bytes.size())),
             wrong.c_str());
    QVERIFY2(wrong.empty() && warned.empty(), (wrong + warned).c_str());
    QCOMPARE(model.materials.size(), std::size_t{1});
    const auto& mat = model.materials[0];
    const auto image = [&](int texture) -> const tinygltf::Image& {
      return model.images[static_cast<std::size_t>(model.textures[static_cast<std::size_t>(texture)].source)];
    };
    QVERIFY(mat.occlusionTexture.index == mat.pbrMetallicRoughness.metallicRoughnessTexture.index);
    QCOMPARE(image(mat.pbrMetallicRoughness.baseColorTexture.index).width, 64);
    QCOMPARE(image(mat.normalTexture.index).bits, 16);
    const auto& place = model.accessors[static_cast<std::size_t>(model.meshes[0].primitives[0].attributes["POSITION"])];
    QVERIFY(std::abs(place.maxValues[0] - place.minValues[0] - m.tile_metres) < 1e-6);
    QVERIFY(std::abs(place.maxValues[1] - place.minValues[1] - m.tile_metres) < 1e-6);
    // Its own packed file holds occlusion, roughness and metallic in this order.
    const Image packed = *read_image(find_file(r, "packed")->path),
                rough = *read_image(find_file(r, "roughness")->path);
    for (std::size_t i = 0; i < rough.values.size(); i += 17)
      QVERIFY(std::abs(packed.values[3 * i + 1] - rough.values[i]) < 1.01f / 255);
    // And as our own mesh reader has it: v runs down, the normal looks to the camera.
    const auto mesh = read_mesh(path_of(r, "glb"));
    QVERIFY(mesh.ok() && mesh->triangle.size() == 2);
    for (std::size_t i = 0; i < mesh->position.size(); ++i) {
      const Vec3 p = mesh->position[i];
      const auto metres = static_cast<float>(m.tile_metres);
      QVERIFY(std::abs(mesh->tile[i][0] - (p.x / metres + 0.5f)) < 1e-5f);
      QVERIFY(std::abs(mesh->tile[i][1] - (0.5f - p.y / metres)) < 1e-5f);
      QVERIFY(mesh->normal[i].z > 0.999f);
    }
  }
  // On a shape of a metre: each triangle lies on the tile where the shape itself has it, in one piece and as large.
  void aShapeWearsItInTrueSize() {
    const Material m = demo("copper-shingles");
    const auto metres = static_cast<float>(m.tile_metres);
    for (const ShapeName name :
         {ShapeName::ball, ShapeName::pipe, ShapeName::ring, ShapeName::block, ShapeName::cupola}) {
      const std::string id = shape_names()[static_cast<std::size_t>(name)].first;
      const DeliveryReport r = delivered(m, ("on " + id).c_str(), [&](DeliveryPlan& p) { p.shape = id; });
      const auto mesh = read_mesh(path_of(r, "glb"));
      QVERIFY(mesh.ok() && mesh->triangle.size() > 500);
      const auto shape = Shape::make(name, metres);
      int far = 0;
      for (const auto& t : mesh->triangle) {
        Vec3 p[3];
        std::array<float, 2> at[3];
        for (std::size_t i = 0; i < 3; ++i) p[i] = mesh->position[t[i]], at[i] = mesh->tile[t[i]];
        const Vec3 middle = (p[0] + p[1] + p[2]) * (1 / 3.0f), out = normalised(cross(p[1] - p[0], p[2] - p[0]));
        const bool side = dot(out, shape->frame(middle).normal) < 0.5f;
        const ShellPlace there = side ? shape->side_place(middle, out) : shape->place(middle);
        for (std::size_t k = 0; k < 2; ++k) {
          const float mean = (at[0][k] + at[1][k] + at[2][k]) / 3, apart = mean - (k ? there.v : there.u);
          far += std::abs(apart - std::round(apart)) > 0.02f;
        }
        // No triangle runs once round the tile: its sides are no longer there than they are.
        const ShellFrame frame = shape->frame(middle);
        const float wide = std::min(length(frame.along_u), length(frame.along_v));
        for (std::size_t i = 0; i < 3; ++i) {
          const std::size_t j = (i + 1) % 3;
          const float tiles = std::hypot(at[i][0] - at[j][0], at[i][1] - at[j][1]);
          far += tiles * wide > 1.2f * length(p[i] - p[j]) + 0.06f;
        }
      }
      QVERIFY2(far <= static_cast<int>(mesh->triangle.size()) / 100,
               qPrintable(
                   QStringLiteral("%1: %2 of %3").arg(QString::fromStdString(id)).arg(far).arg(mesh->triangle.size())));
    }
    DeliveryPlan plan{.folder = folder("none"), .size = 64, .files = usual_files(m)};
    plan.shape = "cone";
    Weaver w(0);
    QVERIFY(!deliver(m, catalogue(), w, plan, Stop{}));
  }
  void lightAboveOneIsAStrength() {
    const DeliveryReport r = delivered(with_all_slots(), "bright");
    const QJsonObject mat = json(path_of(r, "gltf"))[QStringLiteral("materials")][0].toObject();
    const double strength = mat[QStringLiteral("extensions")][QStringLiteral("KHR_materials_emissive_strength")]
                               [QStringLiteral("emissiveStrength")]
                                   .toDouble();
    const DeliveredFile* emissive = find_file(r, "emissive_gltf");
    QVERIFY(emissive && emissive->most > 1);
    QVERIFY(std::abs(strength - static_cast<double>(emissive->most)) < 1e-4);
    const Image image = *read_image(emissive->path);
    QVERIFY(*std::max_element(image.values.begin(), image.values.end()) > 0.99f);  // its brightest is white
    const QJsonObject typed =
        json(path_of(delivered(with_all_typed(), "typed"), "gltf"))[QStringLiteral("materials")][0].toObject();
    QCOMPARE(typed[QStringLiteral("emissiveFactor")].toArray(), (QJsonArray{0, 1, 0.5}));
    QCOMPARE(typed[QStringLiteral("extensions")][QStringLiteral("KHR_materials_ior")][QStringLiteral("ior")].toDouble(),
             static_cast<double>(1.33f));
    QVERIFY(typed[QStringLiteral("doubleSided")].toBool());
  }
  // glTF wants green up and 8 or 16 bits of PNG, whatever the list has: it gets its own files, and they say so.
  void gltfGetsItsOwnFilesWhereTheListHasOthers() {
    const Material m = demo("copper-shingles");
    const DeliveryReport r = delivered(m, "down", [](DeliveryPlan& p) { p.green_up = false; });
    const DeliveredFile *down = find_file(r, "normal"), *up = find_file(r, "normal_gltf");
    QVERIFY(down && up);
    const Image a = *read_image(down->path), b = *read_image(up->path);
    for (std::size_t i = 0; i < a.values.size(); i += 3)
      QVERIFY(std::abs(a.values[i + 1] + b.values[i + 1] - 1) < 3e-5f);
    const QJsonObject doc = json(path_of(r, "gltf"));
    bool names = false;
    for (const auto& image : doc[QStringLiteral("images")].toArray())
      names |= image.toObject()[QStringLiteral("uri")].toString().contains(QStringLiteral("normal_gltf"));
    QVERIFY(names);
    const DeliveryReport same = delivered(m, "up");
    QVERIFY(!find_file(same, "normal_gltf") && !find_file(same, "base_colour_gltf"));
    const DeliveryReport packed =
        delivered(m, "shared", [&](DeliveryPlan& p) { p.files = files_of(*find_list(m, "packed")); });
    for (const DeliveredFile& f : packed.files) QVERIFY2(f.name.find("_gltf") == std::string::npos, f.name.c_str());
    // MaterialX turns the green of the list's own file about.
    QVERIFY(text(path_of(r, "mtlx")).contains("normal_y_turned"));
    QVERIFY(!text(path_of(same, "mtlx")).contains("normal_y_turned"));
  }
  void whatHasNoPlaceIsTold() {
    Material m = demo("copper-shingles");
    m = edit::set_hem(std::move(m), "salt", m.hem.at("roughness"));
    const DeliveryReport r = delivered(m, "told");
    std::string all;
    for (const std::string& w : r.warnings) all += w + "\n";
    QVERIFY2(all.find("glTF has no place for height, salt") != std::string::npos, all.c_str());
    QVERIFY2(all.find("MaterialX has no place for salt") != std::string::npos, all.c_str());
  }
};

QTEST_GUILESS_MAIN(TestDocuments)
#include "tst_documents.moc"
