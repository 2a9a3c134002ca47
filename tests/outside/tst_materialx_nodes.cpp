// The graph as MaterialX nodes: the shader that the reference library makes of them gives what we weave.
// Source: the MaterialX 1.39.4 reference library (its WebAssembly build) makes the shaders, Mesa's software renderer
// runs them; both know nothing of this program.
#include <QDir>
#include <QJsonDocument>
#include <QProcess>
#include <QRegularExpression>
#include <QTemporaryDir>
#include <QtTest>
#include <random>

#include "core/bolt/delivery.h"
#include "core/bolt/package.h"
#include "core/graph/edit.h"
#include "core/graph/hem.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"
#include "core/program/surface_points.h"
#include "core/weave/hem_maps.h"
#include "tests/outside/reference_shader.h"

using namespace loom;
using namespace loom::test;

namespace {

constexpr int kSize = 64;
constexpr std::size_t kPlaces = 100;
constexpr std::array<float, 3> kEye{0.4f, 1.9f, 3.1f};

using Vec = std::array<float, 3>;
Vec scaled(const Vec& v, float by) { return {v[0] * by, v[1] * by, v[2] * by}; }
Vec unit(const Vec& v) { return scaled(v, 1 / std::hypot(v[0], v[1], v[2])); }
Vec cross(const Vec& a, const Vec& b) {
  return {a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]};
}

// Texels of a tile that lie anywhere in space, whichever way.
struct Places {
  std::vector<ShadedPlace> shaded;
  std::vector<std::array<int, 2>> texel;
  std::vector<std::vector<float>> attributes{kSurfaceAttributes, std::vector<float>(kPlaces)};

  explicit Places(float tile_metres) {
    std::mt19937 chance(11);
    const auto any = [&](float low, float high) { return std::uniform_real_distribution<float>(low, high)(chance); };
    for (std::size_t i = 0; i < kPlaces; ++i) {
      const int x = static_cast<int>(any(0, kSize - 0.01f)), y = static_cast<int>(any(0, kSize - 0.01f));
      const float u = (static_cast<float>(x) + 0.5f) / kSize, v = (static_cast<float>(y) + 0.5f) / kSize;
      ShadedPlace p;
      p.texcoord = {u, 1 - v};
      p.position = {any(-1, 1), any(-1, 1), any(-1, 1)};
      p.normal = unit({any(-1, 1), any(-1, 1), any(0.1f, 1)});
      p.tangent = unit(cross({0, 1, 0}, p.normal));
      p.bitangent = cross(p.normal, p.tangent);
      const Vec view = unit({kEye[0] - p.position[0], kEye[1] - p.position[1], kEye[2] - p.position[2]});
      put(i, SurfaceValue::place, {u, v, 1.0f / kSize});
      put(i, SurfaceValue::position, p.position);
      put(i, SurfaceValue::normal, p.normal);
      put(i, SurfaceValue::view, view);
      put(i, SurfaceValue::light, kLightAtStart);
      put(i, SurfaceValue::along_u, scaled(p.tangent, tile_metres));
      put(i, SurfaceValue::along_v, scaled(p.bitangent, -tile_metres));
      shaded.push_back(p);
      texel.push_back({x, y});
    }
  }

 private:
  void put(std::size_t i, SurfaceValue what, const Vec& v) {
    for (std::uint32_t c = 0; c < 3; ++c) attributes[at(what) + c][i] = v[c];
  }
};

// What we give at the places: by slot, strand by strand.
std::map<std::string, std::vector<std::vector<float>>> ours(const Material& m, const Places& places) {
  const auto graph = flatten(m, catalogue());
  if (!graph) qFatal("%s", graph.error().text().c_str());
  Weaver w(1 << 28);
  const auto maps = weave_hem(w, *graph, graph->hem, kSize, Stop{});
  if (!maps) qFatal("%s", maps.error().text().c_str());
  std::map<std::string, std::vector<std::vector<float>>> all;
  for (const auto& [slot, field] : maps->slots)
    for (int c = 0; c < strand_count(field.kind); ++c) {
      auto& strand = all[slot].emplace_back();
      for (const auto& [x, y] : places.texel) strand.push_back(field.strand[static_cast<std::size_t>(c)]->at(x, y));
    }
  if (!maps->over_surface) return all;
  const SurfaceProgram& s = *maps->over_surface;
  if (!s.program.measures.empty()) return all;  // there is no mesh here
  std::vector<std::vector<float>> out(static_cast<std::size_t>(s.program.outputs), std::vector<float>(kPlaces));
  std::vector<const float*> in;
  std::vector<float*> to;
  for (const auto& a : places.attributes) in.push_back(a.data());
  for (auto& o : out) to.push_back(o.data());
  run_samples(s.program, kPlaces, in, to, Stop{});
  for (const auto& o : s.outputs)
    for (std::size_t c = 0; c < static_cast<std::size_t>(strand_count(o.kind)); ++c)
      all[o.name].push_back(out[o.first + c]);
  return all;
}

// A value of any kind to feed a peg with: clouds, in colour, as a direction, as a place.
std::string source(Material& m, Kind kind, int which) {
  std::string noise, id;
  const std::string lane = m.lanes[0].id;
  m = edit::add_node(std::move(m), catalogue(), "gradient_noise", lane, 0, 0, &noise);
  m = edit::set_param(std::move(m), noise, "seed", static_cast<double>(which));
  m = edit::set_param(std::move(m), noise, "scale", 3.0 + which);
  const auto fed = [&](const char* type, const char* peg) {
    m = edit::add_node(std::move(m), catalogue(), type, lane, 0, 0, &id);
    m = edit::connect(std::move(m), {noise, "value", id, peg});
    return id + "." + catalogue().find(type)->outputs[0].id;
  };
  if (kind == Kind::colour || kind == Kind::colour_alpha) return fed("dye", "value");
  if (kind == Kind::normal) return fed("normal_from_height", "height");
  if (kind == Kind::vector3 || kind == Kind::vector2) {
    m = edit::add_node(std::move(m), catalogue(), kind == Kind::vector3 ? "mesh_position" : "tile_coordinates", lane, 0,
                       0, &id);
    return id + "." + catalogue().find(kind == Kind::vector3 ? "mesh_position" : "tile_coordinates")->outputs[0].id;
  }
  return noise + ".value";
}

// A node with something at every peg, a colour where anything may come, its outputs of numbers, colours and directions
// in slots.
std::optional<Material> with_all_fed(const NodeType& type) {
  constexpr Kind of_any = Kind::colour;
  Material m = edit::empty_material();
  m.name = type.id;
  std::string id;
  m = edit::add_node(std::move(m), catalogue(), type.id, m.lanes[0].id, 0, 0, &id);
  int which = 1;
  for (const Peg& p : type.inputs) {
    if (p.kind == Kind::regions || p.kind == Kind::set || p.whole) return {};
    const auto [from, out] = split_output(source(m, p.kind == Kind::any ? of_any : p.kind, which++));
    m = edit::connect(std::move(m), {from, out, id, p.id});
  }
  std::vector<std::string> greys{"roughness", "metallic", "coat_weight", "fuzz_weight"},
      colours{"base_colour", "emissive"};
  const auto take = [&](std::vector<std::string>& slots, const Peg& out) {
    if (slots.empty()) return;
    m = edit::set_hem(std::move(m), slots.front(), id + "." + out.id);
    slots.erase(slots.begin());
  };
  std::vector<std::string> normal{"normal"};
  for (const Peg& out : type.outputs) {
    const Kind kind = out.kind == Kind::any ? of_any : out.kind;
    if (kind == Kind::normal) take(normal, out);
    if (kind == Kind::scalar) take(greys, out);
    if (kind == Kind::colour) take(colours, out);
  }
  if (m.hem.empty() || !validate(m, catalogue()).empty()) return {};
  return m;
}

// Formulas with all that the language has, over a place and two clouds.
Material of_formula(const char* text) {
  Material m = edit::empty_material();
  m.name = std::string("formula ") + text;
  std::string id;
  m = edit::add_node(std::move(m), catalogue(), "formula", m.lanes[0].id, 0, 0, &id);
  m = edit::set_param(std::move(m), id, "formula", std::string(text));
  for (const char* peg : {"a", "b"}) {
    const auto [from, out] = split_output(source(m, Kind::scalar, *peg));
    m = edit::connect(std::move(m), {from, out, id, peg});
  }
  return edit::set_hem(std::move(m), "roughness", id + "." + catalogue().find("formula")->outputs[0].id);
}

}  // namespace

class TestMaterialxNodes : public QObject {
  Q_OBJECT
  QTemporaryDir dir_;
  ShaderRunner runner_;
  int delivered_ = 0;

  static bool areInstalled() { return QFile::exists(QStringLiteral(LOOM_VALIDATORS "/whole")); }

  struct Written {
    Material material;
    QString folder, document;
    DeliveryReport report;
  };
  Written written(const Material& m) {
    Written w{m, dir_.filePath(QString::number(++delivered_)), {}, {}};
    DeliveryPlan plan;
    plan.folder = w.folder.toStdString();
    plan.size = kSize;
    plan.files = usual_files(m);
    plan.materialx_graph = true;
    Weaver weaver(1 << 28);
    auto report = deliver(m, catalogue(), weaver, plan, Stop{});
    if (!report) qFatal("%s: %s", m.name.c_str(), report.error().text().c_str());
    w.report = *report;
    for (const DeliveredFile& f : w.report.files)
      if (f.name == "mtlx_graph") w.document = QString::fromStdString(f.path.string());
    return w;
  }
  static bool isLeftOut(const Written& w, const std::string& slot) {
    return std::ranges::any_of(w.report.warnings, [&](const std::string& text) {
      return text.find("leaves out " + slot + ":") != std::string::npos;
    });
  }
  // All at once: the library takes seconds to start.
  static bool makeShaders(const std::vector<Written>& all) {
    QProcess node;
    QStringList call{QStringLiteral(LOOM_OUTSIDE "/shaders.mjs"), QStringLiteral(LOOM_VALIDATORS)};
    for (const Written& w : all) call << w.document;
    node.start(QStringLiteral("node"), call);
    node.waitForFinished(240000);
    const QByteArray said = node.readAllStandardError();
    if (node.exitCode() != 0) qWarning("%s", said.right(1500).constData());
    return node.exitStatus() == QProcess::NormalExit && node.exitCode() == 0;
  }
  // The worst difference of a slot, relative where numbers are above 1; -1: its shader does not run.
  float apart(const Written& w, const std::string& slot, const std::vector<std::vector<float>>& want,
              const Places& places) {
    const QString base = w.document + QLatin1Char('.') + QString::fromStdString(slot);
    QFile code(base + QStringLiteral(".frag")), values(base + QStringLiteral(".json"));
    if (!code.open(QIODevice::ReadOnly) || !values.open(QIODevice::ReadOnly)) return -1;
    QString why;
    const auto got = runner_.run(code.readAll(), QJsonDocument::fromJson(values.readAll()).object(), w.folder,
                                 places.shaded, kEye, why);
    if (!got) qWarning("%s: %s", w.material.name.c_str(), qPrintable(why));
    if (!got) return -1;
    float worst = 0;
    for (std::size_t i = 0; i < kPlaces; ++i) {
      Vec ours{};
      for (std::size_t c = 0; c < 3; ++c) ours[c] = want[std::min(c, want.size() - 1)][i];
      if (slot == "normal") {  // theirs stands in the world
        const ShadedPlace& p = places.shaded[i];
        Vec turned{};
        for (std::size_t c = 0; c < 3; ++c)
          turned[c] = ours[0] * p.tangent[c] + ours[1] * p.bitangent[c] + ours[2] * p.normal[c];
        ours = unit(turned);
      }
      for (std::size_t c = 0; c < 3; ++c)
        worst = std::max(worst, std::abs((*got)[i][c] - ours[c]) / std::max(1.0f, std::abs(ours[c])));
    }
    return worst;
  }

 private Q_SLOTS:
  void initTestCase() {
    if (!areInstalled()) QSKIP("tools/validators has not installed the validators");
    QVERIFY2(runner_.isReady(), "no software renderer");
  }

  void theReferenceGivesWhatWeWeave() {
    std::vector<Written> all;
    for (const NodeType* type : catalogue().all()) {
      if (!type->emit || type->costly) continue;
      if (const auto m = with_all_fed(*type)) all.push_back(written(*m));  // numbers alone: the formulas below
    }
    for (const char* text :
         {"sin(6.28 * u) * cos(6.28 * v)", "a^2.5 + b^3 - a^2", "a / (b - 0.5)", "(a - 0.5)^3 + (b - 0.5)^4",
          "if(a > b, sqrt(a), log(b))", "exp(-4 * a) + atan2(a - 0.5, b - 0.5)", "min(max(a, 0.4), 0.6) * abs(b - 0.5)",
          "floor(5 * a) / 5 + fract(7 * b)", "smoothstep(0.7, 0.3, a)", "(a - 0.5)^(3 * floor(2 * b))"})
      all.push_back(written(of_formula(text)));
    for (const char* name : {"quay-floor", "copper-shingles", "ceiling-rosette", "terrazzo-bench", "rush-matting"})
      all.push_back(written(*open_material(std::string(LOOM_DEMO "/") + name + ".loom")));
    QVERIFY(makeShaders(all));
    int compared = 0, exact = 0;
    for (const Written& w : all) {
      const Places places(static_cast<float>(w.material.tile_metres));
      // Mesa's own arcsine is a polynomial that is off by 2e-4.
      const bool arcs = w.material.name == "arcsine" || w.material.name == "arccosine";
      for (const auto& [slot, strands] : ours(w.material, places)) {
        if (isLeftOut(w, slot)) continue;
        const float worst = apart(w, slot, strands, places);
        const QString what = QStringLiteral("%1, %2: %3")
                                 .arg(QString::fromStdString(w.material.name), QString::fromStdString(slot))
                                 .arg(static_cast<double>(worst));
        QVERIFY2(worst >= 0 && worst <= (arcs ? 3e-4f : 1e-4f), qPrintable(what));
        ++compared, exact += worst <= 1e-5f;
      }
    }
    qInfo("%zu graphs, %d slots, %d of them to 1e-5", all.size(), compared, exact);
    QVERIFY(all.size() >= 60 && compared >= 80);
  }
  // What the standard has no node for is named, with whose it is; what could not be carried otherwise is baked.
  void whatIsNotCarriedIsTold() {
    Material m = of_formula("a * b");
    std::string solid;
    m = edit::add_node(std::move(m), catalogue(), "mesh_position", m.lanes[0].id, 0, 0, &solid);
    std::string noise;
    m = edit::add_node(std::move(m), catalogue(), "gradient_noise", m.lanes[0].id, 0, 0, &noise);
    m = edit::connect(std::move(m), {solid, catalogue().find("mesh_position")->outputs[0].id, noise, "positions"});
    m = edit::set_hem(std::move(m), "metallic", noise + ".value");
    m = edit::set_hem(std::move(m), "salt", noise + ".value");
    const Written w = written(m);
    std::string all;
    for (const std::string& text : w.report.warnings) all += text + "\n";
    QVERIFY2(
        all.find("leaves out metallic: the standard has no node for solid noise (" + noise + ")") != std::string::npos,
        all.c_str());
    QVERIFY2(all.find("no place for salt") != std::string::npos, all.c_str());
    QFile file(w.document);
    QVERIFY(file.open(QIODevice::ReadOnly));
    const QByteArray text = file.readAll();
    QVERIFY(text.contains("<multiply") && text.contains("<image") && !text.contains("base_metalness"));
    QCOMPARE(QDir(w.folder).entryList({QStringLiteral("*_from_*.exr")}).size(), 2);  // the two clouds
  }
  // Its own light stands in a node, since a surface of the standard knows no light.
  void lightZonesArriveWithTheirLight() {
    Material m = edit::empty_material();
    std::string light, facing, zones;
    m = edit::add_node(std::move(m), catalogue(), "light_angle", m.lanes[0].id, 0, 0, &light);
    m = edit::add_node(std::move(m), catalogue(), "facing", m.lanes[0].id, 0, 0, &facing);
    m = edit::add_node(std::move(m), catalogue(), "toon_zones", m.lanes[0].id, 0, 0, &zones);
    m = edit::connect(std::move(m), {light, catalogue().find("light_angle")->outputs[0].id, zones, "number_1"});
    m = edit::connect(std::move(m), {facing, catalogue().find("facing")->outputs[0].id, zones, "number_2"});
    m = edit::set_hem(std::move(m), "emissive", zones + "." + catalogue().find("toon_zones")->outputs[0].id);
    const Written w = written(m);
    QVERIFY(QDir(w.folder).entryList({QStringLiteral("*.exr")}).isEmpty());  // whole: nothing is baked
    QVERIFY(makeShaders({w}));
    const Places places(static_cast<float>(m.tile_metres));
    const auto want = ours(m, places);
    const float worst = apart(w, "emissive", want.at("emissive"), places);
    QVERIFY2(worst >= 0 && worst <= 1e-4f, qPrintable(QString::number(static_cast<double>(worst))));
    QVERIFY(
        std::ranges::any_of(w.report.warnings, [](auto& t) { return t.find("towards_light") != std::string::npos; }));
  }
  // As long as a document may be; and no node is there that nothing reads.
  void aLongChainIsCarriedWithoutIdleNodes() {
    constexpr int kLong = 4000;
    Material m = edit::empty_material();
    std::string last = source(m, Kind::scalar, 1);
    Node node = *m.nodes.back();
    for (int i = 0; i < kLong; ++i) {
      const std::string id = "s" + std::to_string(i);
      auto next = std::make_shared<Node>(node);
      next->id = id, next->type = i % 2 ? "sine" : "clamp_0_1", next->params.clear();
      m.nodes.push_back(next);
      const auto [from, peg] = split_output(last);
      const NodeType& type = *catalogue().find(next->type);
      m.threads.push_back({from, peg, id, type.inputs[0].id});
      last = id + "." + type.outputs[0].id;
    }
    m = edit::set_hem(std::move(m), "roughness", last);
    QVERIFY(validate(m, catalogue()).empty());
    const Written w = written(m);
    QFile file(w.document);
    QVERIFY(file.open(QIODevice::ReadOnly));
    const QString text = QString::fromUtf8(file.readAll());
    QCOMPARE(text.count(QStringLiteral("<sin ")), kLong / 2);
    QCOMPARE(text.count(QStringLiteral("<clamp ")), kLong / 2);
    QVERIFY(!text.contains(QStringLiteral("<max ")));  // what a clamp is made of
    static const QRegularExpression kRead(QStringLiteral("nodename=\"(\\w+)\"")),
        kNode(QStringLiteral("<(?:sin|clamp|image|max|min) name=\"(\\w+)\""));
    QSet<QString> read;
    for (auto it = kRead.globalMatch(text); it.hasNext();) read << it.next().captured(1);
    for (auto it = kNode.globalMatch(text); it.hasNext();) {
      const QString name = it.next().captured(1);
      QVERIFY2(read.contains(name), qPrintable(name));
    }
  }
};

QTEST_GUILESS_MAIN(TestMaterialxNodes)
#include "tst_materialx_nodes.moc"
