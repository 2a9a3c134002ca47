// One document, several hems: parts of a mesh that wear their own, and the colours of a copy turned together.
#include <QTemporaryDir>
#include <QtTest>
#include <cmath>
#include <random>

#include "core/bolt/on_mesh.h"
#include "core/bolt/worn_material.h"
#include "core/graph/groups.h"
#include "core/graph/hem.h"
#include "core/graph/json.h"
#include "core/graph/rework.h"
#include "core/graph/surface_reach.h"
#include "core/graph/validate.h"
#include "core/io/image.h"
#include "core/nodes/recolour.h"
#include "core/surface/charts.h"
#include "core/surface/drape.h"
#include "tests/core/alone.h"

using namespace loom;
using namespace loom::test;

namespace {

// Two colours and a value; all parts wear `red`, the frame `green`.
Material two_hems() {
  Material m = edit::empty_material();
  for (const auto& [id, type] :
       {std::pair{"red", "colour"}, {"green", "colour"}, {"rough", "value"}, {"soft", "blur"}}) {
    auto n = std::make_shared<Node>();
    n->id = id, n->type = type, n->lane = "relief", n->row = static_cast<int>(m.nodes.size());
    m.nodes.push_back(n);
  }
  m = edit::set_param(std::move(m), "red", "colour", Vector{0.6, 0.05, 0.02});
  m = edit::set_param(std::move(m), "green", "colour", Vector{0.03, 0.4, 0.1});
  m = edit::connect(std::move(m), {"rough", "value", "soft", "source"});
  m.hem = {{"base_colour", "red.colour"}, {"roughness", "soft.result"}};
  m = edit::give_own_hem(std::move(m), "frame");
  m.part_hems["frame"].hem["base_colour"] = "green.colour";
  m.part_hems["frame"].hem_values["metallic"] = 1.0;
  return m;
}

std::shared_ptr<const MeshShape> sign() {
  auto mesh = read_mesh(std::filesystem::path(LOOM_DEMO) / "sign.glb");
  if (!mesh) qFatal("%s", mesh.error().text().c_str());
  return std::make_shared<const MeshShape>(std::move(*mesh));
}

std::string text_of(const Material& m) { return write_material(m); }

// Oklab by way of XYZ. Sources: IEC 61966-2-1 for the first matrix; Ottosson, "A perceptual color space for image
// processing", 2020, M1 and M2 for the others.
std::array<double, 3> oklab_by_xyz(const std::array<double, 3>& rgb) {
  using Matrix = std::array<std::array<double, 3>, 3>;
  const auto times = [](const Matrix& m, const std::array<double, 3>& x) {
    std::array<double, 3> out{};
    for (std::size_t i = 0; i < 3; ++i)
      for (std::size_t k = 0; k < 3; ++k) out[i] += m[i][k] * x[k];
    return out;
  };
  const Matrix to_xyz{{{0.4124, 0.3576, 0.1805}, {0.2126, 0.7152, 0.0722}, {0.0193, 0.1192, 0.9505}}},
      m1{{{0.8189330101, 0.3618667424, -0.1288597137},
          {0.0329845436, 0.9293118715, 0.0361456387},
          {0.0482003018, 0.2643662691, 0.6338517070}}},
      m2{{{0.2104542553, 0.7936177850, -0.0040720468},
          {1.9779984951, -2.4285922050, 0.4505937099},
          {0.0259040371, 0.7827717662, -0.8086757660}}};
  auto cone = times(m1, times(to_xyz, rgb));
  for (double& c : cone) c = std::cbrt(c);
  return times(m2, cone);
}

}  // namespace

class TestPartHems : public QObject {
  Q_OBJECT

 private Q_SLOTS:
  void theDocumentKeepsThem() {
    const Material m = two_hems();
    QVERIFY(validate(m, catalogue()).empty());
    const std::string text = text_of(m);
    std::vector<Error> warnings;
    const auto back = read_material(text, &warnings);
    QVERIFY(back && warnings.empty());
    QCOMPARE(text_of(*back), text);
    QCOMPARE(back->part_hems.at("frame").hem, m.part_hems.at("frame").hem);
    QVERIFY(back->part_hems.at("frame").hem_values == m.part_hems.at("frame").hem_values);
  }

  void exchangedTwiceAllIsAsBefore() {
    const Material m = two_hems(), there = edit::exchange_hems(m, "frame");
    QCOMPARE(there.hem.at("base_colour"), std::string("green.colour"));
    QCOMPARE(there.part_hems.at("frame").hem.at("base_colour"), std::string("red.colour"));
    QCOMPARE(text_of(edit::exchange_hems(there, "frame")), text_of(m));
    QCOMPARE(text_of(edit::exchange_hems(m, "board")), text_of(m));  // which has none
    QVERIFY(edit::take_own_hem(m, "frame").part_hems.empty());
  }

  // Whatever becomes of a node, no hem is left with an end that hangs in the air.
  void editsReachEveryHem() {
    Material m = two_hems();
    m.part_hems["frame"].hem["height"] = "rough.value";
    const auto own = [](const Material& now) { return now.part_hems.at("frame").hem; };
    QVERIFY(!own(edit::remove_nodes(m, {"green"})).count("base_colour"));
    const Material spliced = edit::splice_after(m, catalogue(), "rough.value", "soft");
    QCOMPARE(own(spliced).at("height"), std::string("soft.result"));
    const Material replaced = edit::replace_type(m, catalogue(), "rough", "gradient_noise");
    QCOMPARE(own(replaced).at("height"), std::string("rough.value"));
    QVERIFY(validate(replaced, catalogue()).empty());
    const Material no_number = edit::replace_type(m, catalogue(), "rough", "tile_coordinates");
    QVERIFY(!own(no_number).count("height"));
    std::string use;
    const auto folded = edit::fold(m, catalogue(), {"rough", "soft"}, "Finish", &use);
    QVERIFY(folded && validate(*folded, catalogue()).empty());
    QCOMPARE(own(*folded).at("height").substr(0, use.size() + 1), use + ".");
    const Material apart = edit::take_apart(*folded, use);
    QVERIFY(validate(apart, catalogue()).empty());
    QCOMPARE(own(apart).size(), own(m).size());
    QVERIFY(edit::feeding_nothing(m).empty());
    QCOMPARE(edit::feeding_nothing(edit::take_own_hem(m, "frame")), std::vector<std::string>{"green"});
  }

  void faultsNameThePart_data() {
    QTest::addColumn<QByteArray>("hems");
    QTest::addColumn<QString>("where");
    QTest::newRow("no such node") << QByteArray(R"("part_hems": {"frame": {"height": "gone.value"}})")
                                  << QStringLiteral("part frame, hem, slot height");
    QTest::newRow("another kind") << QByteArray(R"("part_hems": {"frame": {"normal": "red.colour"}})")
                                  << QStringLiteral("part frame, hem, slot normal");
    QTest::newRow("no typed value") << QByteArray(R"("part_hem_values": {"frame": {"normal": 1}})")
                                    << QStringLiteral("part frame, hem_values, slot normal");
    QTest::newRow("no text") << QByteArray(R"("part_hems": {"frame": {"height": 3}})")
                             << QStringLiteral("part_hems, part frame, slot height");
    QTest::newRow("no list") << QByteArray(R"("part_hems": {"frame": 3})") << QStringLiteral("part_hems, part frame");
    QTest::newRow("no parts") << QByteArray(R"("part_hems": [])") << QStringLiteral("part_hems");
    QTest::newRow("no name") << QByteArray(R"("part_hems": {"": {"base_colour": "red.colour"}})")
                             << QStringLiteral("part_hems");
    QTest::newRow("of the surface") << QByteArray(R"("part_hems": {"frame": {"opacity": "facing.value"}})")
                                    << QStringLiteral("part frame, hem, slot opacity");
  }
  void faultsNameThePart() {
    QFETCH(QByteArray, hems);
    QFETCH(QString, where);
    const QByteArray text =
        R"({"format": 2, "name": "t", "lanes": [{"id": "a", "name": "A"}], "threads": [], "hem": {},
            "nodes": [{"id": "red", "type": "colour", "lane": "a"},
                      {"id": "facing", "type": "facing", "lane": "a", "row": 1}], )" +
        hems + "}";
    const auto m = read_material(text.toStdString());
    const auto graph = m ? flatten(*m, catalogue()) : Result<FlatGraph>(m.error());
    QVERIFY(!graph);
    QCOMPARE(QString::fromStdString(graph.error().where), where);
  }

  // Every part is read and shaded by its own hem; what all wear serves the others.
  void eachPartWearsItsOwn() {
    const Material m = two_hems();
    const auto mesh = sign();
    const auto graph = flatten(m, catalogue());
    QVERIFY(graph);
    Weaver weaver(std::size_t{64} << 20);
    const auto woven = weave_worn(weaver, *graph, mesh->mesh().parts, 64, Stop{});
    QVERIFY(woven && woven->faults.empty());
    DrapeView view;
    view.mesh = mesh;
    view.width = view.height = 256;
    view.camera = Camera::start(ShapeName::block);
    view.unlit = true;
    Drape drape(woven->worn, view);
    drape.first_answer(1, Stop{});
    const auto picture = drape.picture();
    int of_frame = 0, of_others = 0;
    for (int y = 2; y < 254; y += 3)
      for (int x = 2; x < 254; x += 3) {
        const auto hit = drape.under(static_cast<float>(x) + 0.5f, static_cast<float>(y) + 0.5f);
        if (!hit) continue;
        const std::size_t at = 3 * (static_cast<std::size_t>(y) * 256 + static_cast<std::size_t>(x));
        const bool frame = mesh->mesh().parts[hit->part] == "frame";
        QCOMPARE(picture[at] < picture[at + 1], frame);
        ++(frame ? of_frame : of_others);
      }
    QVERIFY(of_frame > 50 && of_others > 50);
    QCOMPARE(woven->worn.at(0).at(0.5f, 0.5f, 0).metallic, 0.0f);
    const auto frame = static_cast<std::size_t>(
        std::find(mesh->mesh().parts.begin(), mesh->mesh().parts.end(), "frame") - mesh->mesh().parts.begin());
    QCOMPARE(woven->worn.at(frame).at(0.5f, 0.5f, 0).metallic, 1.0f);
  }

  // Broken off and begun again it goes on; what changes is made anew, and nothing else.
  void aDeliveryOntoAMeshGoesOn() {
    QTemporaryDir folder;
    Material m = two_hems();
    Weaver weaver(std::size_t{64} << 20);
    DeliveryPlan plan{.folder = folder.path().toStdString(), .size = 128, .files = usual_files_on_mesh(m)};
    plan.state = folder.filePath(QStringLiteral("state.json")).toStdString();
    const auto written = [&](const Material& of) {
      const auto report = deliver_onto(of, catalogue(), weaver, plan, sign(), Stop{});
      QStringList names;
      if (!report) return QStringList{QString::fromStdString(report.error().text())};
      for (const DeliveredFile& f : report->files)
        if (!f.unchanged) names << QString::fromStdString(f.name);
      return names;
    };
    const auto maps = [](QStringList names) { return names.filter(QRegularExpression(QStringLiteral("^(?!mesh)"))); };
    QCOMPARE(maps(written(m)).size(), static_cast<qsizetype>(plan.files.size()));
    QCOMPARE(maps(written(m)), QStringList());
    const std::string lost = file_name(m, plan, plan.files.front());
    QVERIFY(std::filesystem::remove(plan.folder / lost));
    QCOMPARE(maps(written(m)), QStringList{QString::fromStdString(plan.files.front().name)});
    Material other = m;  // of one part alone
    other.part_hems.begin()->second.hem_values["metallic"] = 0.25;
    other.part_hems.begin()->second.hem.erase("metallic");
    QCOMPARE(maps(written(other)), QStringList{QStringLiteral("metallic")});
  }

  // Delivered onto the mesh, the texels of a part are those of its hem.
  void deliveredOntoTheMesh() {
    QTemporaryDir folder;
    Material m = two_hems();
    m.part_hems["nowhere"] = {};
    const auto mesh = sign();
    Weaver weaver(std::size_t{64} << 20);
    DeliveryPlan plan{.folder = folder.path().toStdString(), .size = 256, .files = usual_files_on_mesh(m)};
    QCOMPARE(plan.files.size(), usual_files(m).size() + 1);  // metallic, which the frame alone wears
    for (auto& s : plan.files) s.format = ImageFormat::exr, s.bits = 32;
    const auto report = deliver_onto(m, catalogue(), weaver, plan, mesh, Stop{});
    QVERIFY2(report.ok(), report ? "" : report.error().text().c_str());
    QVERIFY(std::any_of(report->warnings.begin(), report->warnings.end(),
                        [](const std::string& w) { return w.find("'nowhere'") != std::string::npos; }));
    const auto charts = charts_of(mesh->mesh(), 256, chart_margin(256), Stop{});
    const Atlas atlas(*charts, 256, chart_margin(256) / 2);
    for (const DeliveredFile& f : report->files) {
      if (f.name != "base_colour" && f.name != "metallic") continue;
      const auto image = read_image(f.path);
      QVERIFY(image);
      int seen[2] = {0, 0};
      for (int y = 0; y < 256; ++y)
        for (int x = 0; x < 256; ++x) {
          const auto& t = atlas.at(x, y);
          if (t.triangle == Atlas::Texel::kNone) continue;
          const bool frame = mesh->mesh().parts[mesh->mesh().part_of[t.triangle]] == "frame";
          const float value = image->values[(static_cast<std::size_t>(y) * 256 + static_cast<std::size_t>(x)) *
                                            static_cast<std::size_t>(image->channels)];
          const float wanted = f.name == "metallic" ? (frame ? 1.0f : 0.0f) : frame ? 0.03f : 0.6f;
          QVERIFY(std::abs(value - wanted) < 1e-4f);
          ++seen[frame];
        }
      QVERIFY(seen[0] > 500 && seen[1] > 500);
    }
  }

  void aSetUpIsPastedOntoSeveral() {
    Material m = two_hems();
    const auto snippet = read_snippet(write_snippet(m, {"rough", "soft"}));
    QVERIFY(snippet);
    QCOMPARE(snippet->hem, (std::map<std::string, std::string>{{"roughness", "soft.result"}}));
    std::vector<std::string> fresh;
    const Material on = edit::paste_onto(m, *snippet, {"board", "frame"}, "relief", 1, 0, &fresh);
    QVERIFY(validate(on, catalogue()).empty());
    QCOMPARE(fresh.size(), std::size_t{4});
    QCOMPARE(on.hem, m.hem);
    const auto& board = on.part_hems.at("board").hem;
    const auto& frame = on.part_hems.at("frame").hem;
    QCOMPARE(board.at("base_colour"), std::string("red.colour"));  // what it wore
    QCOMPARE(frame.at("base_colour"), std::string("green.colour"));
    QVERIFY(board.at("roughness") != frame.at("roughness") && board.at("roughness") != on.hem.at("roughness"));
    // Pasted plainly, only what is empty is connected.
    m.hem.erase("roughness");
    QCOMPARE(edit::paste(m, *snippet, "relief", 1, 0).hem.at("roughness"), std::string("soft_2.result"));
    QCOMPARE(edit::paste(two_hems(), *snippet, "relief", 1, 0).hem, two_hems().hem);
  }

  // Inside a group there is no hem: what is copied there brings none, what is pasted there changes none.
  void groupsKeepTheirOutputs() {
    std::string use;
    const auto folded = edit::fold(two_hems(), catalogue(), {"rough", "soft"}, "Finish", &use);
    QVERIFY(folded);
    const Material inside = edit::inside_of(*folded, folded->node(use)->group);
    QVERIFY(!inside.hem.empty() && inside.part_hems.empty());
    const auto within = read_snippet(write_snippet(inside, {"rough", "soft"}));
    QVERIFY(within && within->hem.empty());
    const auto outside = read_snippet(write_snippet(two_hems(), {"red"}));
    QVERIFY(outside && !outside->hem.empty());
    QCOMPARE(edit::paste(inside, *outside, inside.lanes.back().id, 0, 3).hem, inside.hem);
  }

  void anOwnHemRefusesTheSurfaceWhereAnyDoes() {
    Material m = edit::add_node(two_hems(), catalogue(), "facing", "relief", 2, 0);
    m.part_hems["frame"].hem["height"] = "soft.result";
    const auto refused = surface_refusal(m, catalogue(), Thread{"facing", "value", "rough", "value"});
    QVERIFY(refused.has_value());
  }

  void huesTurnAndNothingElse() {
    std::mt19937 chance(5);
    std::uniform_real_distribution<double> share(0.15, 0.6);
    for (int i = 0; i < 200; ++i) {
      // Near the middle of the range, where no turn leaves the screen.
      const double grey = share(chance);
      const std::array<double, 3> colour{grey * (1 + 0.2 * share(chance)), grey, grey * (1 - 0.2 * share(chance))};
      const double turn = 360 * share(chance);
      const auto was = oklab_by_xyz(colour), is = oklab_by_xyz(shifted(colour, {turn, 1, 0}));
      QVERIFY(std::abs(was[0] - is[0]) < 2e-3);
      QVERIFY(std::abs(std::hypot(was[1], was[2]) - std::hypot(is[1], is[2])) < 2e-3);
      double turned = (std::atan2(is[2], is[1]) - std::atan2(was[2], was[1])) * 180 / std::numbers::pi - turn;
      turned = std::remainder(turned, 360.0);
      QVERIFY2(std::abs(turned) < 6, qPrintable(QString::number(turned)));  // the published matrices are rounded
    }
  }

  void everyShiftStaysOnTheScreen() {
    std::mt19937 chance(6);
    std::uniform_real_distribution<double> share(0, 1);
    for (int i = 0; i < 2000; ++i) {
      const std::array<double, 3> colour{share(chance), share(chance), share(chance)};
      const auto now = shifted(colour, {360 * share(chance), 2 * share(chance), share(chance) - 0.5});
      for (const double x : now) QVERIFY(x >= 0 && x <= 1);
      const auto same = shifted(colour, {});
      for (std::size_t c = 0; c < 3; ++c) QVERIFY(std::abs(same[c] - colour[c]) < 1e-5);
    }
    const auto grey = shifted({0.6, 0.05, 0.02}, {0, 0, 0});
    QVERIFY(std::abs(grey[0] - grey[1]) < 1e-4 && std::abs(grey[1] - grey[2]) < 1e-4);
    QVERIFY(shifted({4, 2, 1}, {0, 1, 0})[0] > 3.9);  // light stays light
  }

  void onlyTheChosenAreRecoloured() {
    Material m = two_hems();
    m = edit::add_node(std::move(m), catalogue(), "toon_zones", "relief", 3, 0);
    m.values.push_back({.id = "paint", .value = Vector{0.5, 0.1, 0.1}});
    auto followed = std::make_shared<Node>(*m.node("green"));
    followed->id = "shared", followed->params["colour"] = Follow{"paint"};
    m.nodes.push_back(followed);
    const std::vector<std::string> chosen{"red", "shared", "toon_zones", "rough"};
    QVERIFY(colours_of(m, catalogue(), chosen).size() > 1);
    QCOMPARE(colours_of(m, catalogue(), {"red"}), (std::vector<std::array<double, 3>>{{0.6, 0.05, 0.02}}));
    const Material now = recolour(m, catalogue(), chosen, {120, 1, 0});
    QVERIFY(validate(now, catalogue()).empty());
    const auto colour = [](const Material& of, const char* id) {
      return std::get<Vector>(of.node(id)->params.at("colour"));
    };
    QVERIFY(colour(now, "red")[1] > colour(now, "red")[0]);  // red became green
    QCOMPARE(colour(now, "green"), colour(m, "green"));
    QVERIFY(std::holds_alternative<Follow>(now.node("shared")->params.at("colour")));
    QVERIFY(now.node("rough")->params == m.node("rough")->params);
    const auto& zones = std::get<Stops>(now.node("toon_zones")->params.at("zones"));
    const auto& initial = std::get<Stops>(catalogue().find("toon_zones")->parameter("zones")->initial);
    QCOMPARE(zones.size(), initial.size());
    for (std::size_t i = 0; i < zones.size(); ++i) QCOMPARE(zones[i].at, initial[i].at);
  }
};

QTEST_APPLESS_MAIN(TestPartHems)
#include "tst_part_hems.moc"
