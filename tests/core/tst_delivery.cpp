// Deliveries: whole, named as asked, and honest about what files cannot hold.
#include <sys/resource.h>
#include <QProcess>
#include <QTemporaryDir>
#include <QtTest>

#include <csignal>
#include <set>

#include "core/base/parallel.h"
#include "core/bolt/delivery.h"
#include "core/bolt/errands.h"
#include "core/bolt/lists.h"
#include "core/bolt/manifest.h"
#include "core/bolt/package.h"
#include "core/graph/disc.h"
#include "core/graph/edit.h"
#include "core/graph/hem.h"
#include "core/graph/json.h"
#include "core/graph/validate.h"
#include "core/io/image.h"
#include "core/nodes/catalogue.h"

using namespace loom;

class TestDelivery : public QObject {
  Q_OBJECT
  static Material demo() { return *open_material(LOOM_DEMO "/quay-floor.loom"); }
  static DeliveryPlan plan_in(const QString& folder, const Material& m, int size = 128) {
    DeliveryPlan p;
    p.folder = folder.toStdString();
    p.size = size;
    p.files = usual_files(m);
    return p;
  }

 private Q_SLOTS:
  void heightsOutOfRangeAreToldAndScaledOnDemand() {
    // A height from -0.5 to 1.5: cut by a PNG file, and said; scaled, each grey stands for its place in that range.
    Material m = edit::add_node(edit::empty_material(), catalogue(), "ramp", "relief", 0, 0);
    m = edit::add_node(std::move(m), catalogue(), "remap", "relief", 0, 1);
    m = edit::set_param(std::move(m), "remap", "to_low", -0.5);
    m = edit::set_param(std::move(m), "remap", "to_high", 1.5);
    m = edit::connect(std::move(m), {"ramp", "value", "remap", "value"});
    m = edit::set_hem(std::move(m), "height", "remap.value");
    QTemporaryDir dir;
    Weaver w(0);
    DeliveryPlan p = plan_in(dir.path(), m);
    const auto cut = deliver(m, catalogue(), w, p, Stop{});
    QVERIFY2(cut.ok(), cut ? "" : cut.error().text().c_str());
    QCOMPARE(cut->cut, std::vector<std::string>{"height"});
    p.files[0].scale = true;
    const auto scaled = deliver(m, catalogue(), w, p, Stop{});
    QVERIFY(scaled.ok() && scaled->cut.empty());
    QCOMPARE(scaled->warnings.size(), std::size_t{1});
    QVERIFY2(scaled->warnings[0].find("black stands for -0.48") != std::string::npos, scaled->warnings[0].c_str());
    const auto back = read_image(scaled->files[0].path);
    const auto g = flatten(m, catalogue());
    const auto woven = w.weave(*g, {Want(g->hem.at("height"))}, p.size, Stop{});
    const Plane& truth = *woven->fields[0].strand[0];
    const Range r = range_of(truth);
    for (std::size_t i = 0; i < truth.texels(); ++i)
      QVERIFY(std::abs(back->values[i] * (r.most - r.least) + r.least - truth.data()[i]) < 2.0f / 65535);
  }
  void aTypedValueOfTheHemIsDelivered() {
    Material m = edit::set_of_hem(demo(), "opacity", 0.25);
    m = edit::set_of_hem(std::move(m), "emissive", Vector{0.25, 0.5, 1});
    m = edit::set_of_hem(std::move(m), "roughness", 0.9);  // a thread ends there: it counts
    QVERIFY(validate(m, catalogue()).empty());
    const auto again = read_material(write_material(m));
    QVERIFY(again.ok());
    QCOMPARE(write_material(*again), write_material(m));
    const auto g = flatten(*again, catalogue());
    QVERIFY(g.ok());
    const auto plain = flatten(demo(), catalogue());
    QCOMPARE(g->nodes[static_cast<std::size_t>(g->hem.at("roughness").node)].path,
             plain->nodes[static_cast<std::size_t>(plain->hem.at("roughness").node)].path);
    Weaver w(0);
    const auto woven = w.weave(*g, {Want(g->hem.at("opacity")), Want(g->hem.at("emissive"))}, 64, Stop{});
    QCOMPARE(woven->fields[0].strand[0]->at(5, 9), 0.25f);
    QCOMPARE(woven->fields[1].strand[1]->at(5, 9), 0.5f);
    const auto has = [](const std::vector<FileDelivery>& slots, const char* id) {
      return std::any_of(slots.begin(), slots.end(), [&](const FileDelivery& s) { return s.name == id; });
    };
    QVERIFY(has(usual_files(m), "emissive") && !has(usual_files(demo()), "emissive"));
    QVERIFY(!has(usual_files(edit::reset_of_hem(m, "emissive")), "emissive"));
    Material wrong = m;
    wrong.hem_values["normal"] = 0.5;
    QCOMPARE(validate(wrong, catalogue()).front().where, std::string("hem_values, slot normal"));
    wrong = m;
    wrong.hem_values["roughness"] = std::string("rough");
    QVERIFY(!validate(wrong, catalogue()).empty());
  }

  void filesAreNamedByThePattern() {
    Material m = demo();
    m.name = "../Quay & floor/..";
    DeliveryPlan p = plan_in("/tmp", m);
    p.pattern = "{material}-{preset}-{slot}@{size}";
    p.preset = "Winter salt";
    QCOMPARE(file_name(m, p, p.files[0]), std::string("quay-floor-..-winter-salt-base_colour-128.png"));
    p.pattern = "../../{slot}";
    QCOMPARE(file_name(m, p, p.files[0]), std::string("base_colour.png"));
  }
  void aDeliveryWritesEverySlotThatIsOn() {
    QTemporaryDir dir;
    const Material m = demo();
    DeliveryPlan p = plan_in(dir.path(), m);
    p.files[1].on = false;
    p.files[0].format = ImageFormat::exr;
    p.files[0].bits = 16;
    Weaver w(0);
    double last = 0;
    const auto r = deliver(m, catalogue(), w, p, Stop{}, [&](double share, const std::string&) { last = share; });
    QVERIFY(r.ok());
    QCOMPARE(last, 1.0);
    QCOMPARE(r->files.size(), p.files.size() - 1);
    QCOMPARE(QDir(dir.path()).entryList(QDir::Files | QDir::Hidden).size(), static_cast<int>(r->files.size()));
    const auto image = read_image(r->files[0].path);
    QVERIFY(image.ok() && image->width == 128 && image->channels == 3);
  }
  void slotBySlotGivesTheSameBytes_data() {
    QTest::addColumn<qulonglong>("budget");  // at 128 a plane has 64 KiB
    for (const qulonglong bytes : {1, 300'000, 700'000, 2'000'000}) QTest::addRow("%llu", bytes) << bytes;
  }
  void slotBySlotGivesTheSameBytes() {
    QFETCH(qulonglong, budget);
    QTemporaryDir one, two;
    const Material m = demo();
    Weaver w(0), kept(64 << 20);
    QVERIFY(deliver(m, catalogue(), w, plan_in(one.path(), m), Stop{}).ok());
    double last = 0;
    bool onwards = true;
    const auto seen = [&](double share, const std::string&) {
      onwards &= share >= last && share <= 1;
      last = share;
    };
    const auto r = deliver(m, catalogue(), kept, plan_in(two.path(), m), Stop{}, seen, budget);
    QVERIFY(r.ok() && onwards);
    std::vector<std::string> order, wanted;
    for (const DeliveredFile& f : r->files) order.push_back(f.name);
    for (const FileDelivery& s : plan_in(two.path(), m).files) wanted.push_back(s.name);
    QCOMPARE(order, wanted);
    for (const QString& name : QDir(one.path()).entryList(QDir::Files))
      QCOMPARE(*read_file((one.path() + "/" + name).toStdString(), 1 << 24),
               *read_file((two.path() + "/" + name).toStdString(), 1 << 24));
  }
  // A file that cannot be written ends the delivery with its own words, not with "cancelled".
  void aFileThatCannotBeWrittenIsNamed() {
    QTemporaryDir dir;
    const Material m = demo();
    Weaver w(0);
    const DeliveryPlan p = plan_in(dir.path(), m);
    const std::string in_the_way = file_name(m, p, p.files[1]);
    QVERIFY(QDir(dir.path()).mkpath(QString::fromStdString(in_the_way) + "/something"));
    const auto r = deliver(m, catalogue(), w, p, Stop{});
    QVERIFY2(!r && r.error().text().find(in_the_way) != std::string::npos, r.ok() ? "" : r.error().text().c_str());
  }
  void impossiblePlansAreRefused() {
    QTemporaryDir dir;
    const Material m = demo();
    Weaver w(0);
    DeliveryPlan p = plan_in(dir.path(), m, 100);
    QVERIFY(deliver(m, catalogue(), w, p, Stop{}).error().text().find("power of two") != std::string::npos);
    p = plan_in("/proc/none", m);
    QVERIFY(!deliver(m, catalogue(), w, p, Stop{}).ok());
    p = plan_in(dir.path(), m);
    for (auto& s : p.files) s.on = false;
    QVERIFY(deliver(m, catalogue(), w, p, Stop{}).error().text().find("nothing to deliver") != std::string::npos);
    p = plan_in(dir.path(), m);
    p.files[0].bits = 12;
    QVERIFY(!deliver(m, catalogue(), w, p, Stop{}).ok());
    Stop stop;
    stop.ask();
    QCOMPARE(deliver(m, catalogue(), w, plan_in(dir.path(), m), stop).error().what, std::string("cancelled"));
    QVERIFY(QDir(dir.path()).entryList(QDir::Files | QDir::Hidden).isEmpty());
  }
  // Each channel of a packed file is what the slot's own file holds.
  void slotsArePackedIntoChannels() {
    QTemporaryDir plain, packed;
    Material m = edit::set_of_hem(demo(), "opacity", 0.25);
    Weaver w(0);
    DeliveryPlan p = plan_in(plain.path(), m), q = plan_in(packed.path(), m);
    for (auto& f : p.files) f.format = ImageFormat::exr, f.bits = 32;
    FileDelivery file{"mixed"};
    file.format = ImageFormat::exr, file.bits = 32;
    file.channels = {{"r", *channel_source("occlusion")},
                     {"g", *channel_source("1 - base_colour.g")},
                     {"b", *channel_source("metallic")},  // empty in this material: 0
                     {"a", *channel_source("1 - opacity")}};
    FileDelivery constant{"flat"};
    constant.channels = {
        {"r", *channel_source("roughness")}, {"g", *channel_source("0.5")}, {"b", *channel_source("1")}};
    FileDelivery nothing{"none"};
    nothing.channels = {{"r", *channel_source("metallic")}};
    q.files = {file, constant, nothing};
    const auto a = deliver(m, catalogue(), w, p, Stop{}), b = deliver(m, catalogue(), w, q, Stop{});
    QVERIFY(a.ok());
    QVERIFY2(b.ok(), b ? "" : b.error().text().c_str());
    QCOMPARE(b->files.size(), std::size_t{2});  // what holds no filled slot is not written
    const auto own = [&](const std::string& slot) {
      for (const DeliveredFile& f : a->files)
        if (f.name == slot) return *read_image(f.path);
      return Image{};
    };
    const Image mixed = *read_image(b->files[0].path), flat = *read_image(b->files[1].path);
    const Image open = own("occlusion"), colour = own("base_colour"), rough = own("roughness");
    QCOMPARE(mixed.channels, 4);
    for (std::size_t i = 0; i < open.values.size(); ++i) {
      QCOMPARE(mixed.values[4 * i], open.values[i]);
      QVERIFY(std::abs(mixed.values[4 * i + 1] - (1 - colour.values[3 * i + 1])) < 1e-6f);
      QCOMPARE(mixed.values[4 * i + 2], 0.0f);
      QCOMPARE(mixed.values[4 * i + 3], 0.75f);
      QVERIFY(std::abs(flat.values[3 * i] - rough.values[i]) < 0.51f / 255);
      QVERIFY(std::abs(flat.values[3 * i + 1] - 0.5f) < 0.51f / 255);
    }
    QCOMPARE(b->files[0].channels,
             (std::vector<std::string>{"occlusion", "1 - base_colour.g", "metallic", "1 - opacity"}));
    QVERIFY(!b->files[0].srgb && !b->files[1].srgb);
    for (const DeliveredFile& f : b->files) QCOMPARE(f.sha256, sha256_of(*read_file(f.path, 1 << 24)));
    const auto again = deliver(m, catalogue(), w, q, Stop{});
    QVERIFY(again.ok() && again->files[0].unchanged && again->files[1].unchanged);
    QVERIFY(Json::parse(report_json(*again))["files"][0]["sha256"] == b->files[0].sha256);
    // Slot by slot, where there is room for no more: the same bytes.
    QTemporaryDir tight;
    q.folder = tight.path().toStdString();
    const auto slow = deliver(m, catalogue(), w, q, Stop{}, {}, 1);
    QVERIFY(slow.ok());
    for (std::size_t i = 0; i < slow->files.size(); ++i) QCOMPARE(slow->files[i].sha256, b->files[i].sha256);
  }
  void readyListsHoldEverySlotOnce() {
    const Material m = *open_material(LOOM_DEMO "/copper-shingles.loom");
    std::set<std::string> all;
    for (const FileDelivery& f : usual_files(m)) all.insert(f.name);
    for (const std::string_view name : ready_lists()) {
      const auto list = find_list(m, name);
      QVERIFY(list.ok());
      QVERIFY(list_faults({*list}).empty());
      std::set<std::string> held;
      for (const FileDelivery& f : files_of(*list))
        for (const std::string& slot : slots_of(f)) QVERIFY2(held.insert(slot).second, slot.c_str());
      QVERIFY(held == all);
    }
    QCOMPARE(files_of(*find_list(m, "packed")).back().channels.at("g").slot, std::string("roughness"));
    const FileDelivery relief = files_of(*find_list(m, "relief")).back();
    QCOMPARE(relief.channels.at("a").slot, std::string("height"));
    QVERIFY(find_list(m, "plane").error().text().find("plain, packed, relief") != std::string::npos);
  }
  void aListIsKeptWithTheMaterial() {
    Material m = demo();
    DeliveryList list = list_of_files("Hall, near", files_of(*find_list(m, "packed")), 512, false);
    list.sizes = {512, 128};
    list.files[0].format = "tiff";
    m.lists.push_back(list);
    QVERIFY(validate(m, catalogue()).empty());
    const auto again = read_material(write_material(m));
    QVERIFY(again.ok());
    QVERIFY(again->lists == m.lists);
    QVERIFY(*find_list(*again, "Hall, near") == list);
  }
  void faultsOfListsAreTold_data() {
    QTest::addColumn<QString>("list");
    QTest::addColumn<QString>("reason");
    const auto file = [](const char* inside) {
      return QStringLiteral(R"({"name": "A", "files": [%1]})").arg(QLatin1String(inside));
    };
    QTest::newRow("no name") << R"({"files": [{"channels": {"r": "height"}}]})"
                             << "needs a name";
    QTest::newRow("no files") << R"({"name": "A"})"
                              << "has no files";
    QTest::newRow("size") << R"({"name": "A", "sizes": [100], "files": [{"channels": {"r": "height"}}]})"
                          << "100 is no size";
    QTest::newRow("sizes")
        << R"({"name": "A", "sizes": [64, 128], "files": [{"pattern": "a", "channels": {"r": "height"}}]})"
        << "no {size}";
    QTest::newRow("format") << file(R"({"format": "gif", "channels": {"r": "height"}})") << "Use png, exr or tiff";
    QTest::newRow("bits") << file(R"({"format": "exr", "bits": 8, "channels": {"r": "height"}})") << "has no 8 bits";
    QTest::newRow("channel") << file(R"({"channels": {"x": "height"}})") << "no channel of a file";
    QTest::newRow("gap") << file(R"({"channels": {"r": "height", "a": "height"}})") << "not those before them";
    QTest::newRow("source") << file(R"({"channels": {"r": "2 - height"}})") << "neither a slot nor a number";
    QTest::newRow("strand") << file(R"({"channels": {"r": "height.x"}})") << "names no channel of a slot";
  }
  void faultsOfListsAreTold() {
    QFETCH(QString, list);
    QFETCH(QString, reason);
    const auto m = read_material(R"({"format": 2, "lists": [)" + list.toStdString() + "]}");
    QVERIFY2(m.ok(), m ? "" : m.error().text().c_str());
    std::string all;
    for (const Error& e : validate(*m, catalogue())) all += e.text() + "\n";
    QVERIFY2(all.find(reason.toStdString()) != std::string::npos, all.c_str());
  }
  void channelsAreReadAndWritten() {
    for (const char* text : {"height", "base_colour.g", "1 - roughness", "1 - normal.b", "0.5", "0", "1"})
      QCOMPARE(channel_text(*channel_source(text)), std::string(text));
    QCOMPARE(channel_text(*channel_source("  1-roughness ")), std::string("1 - roughness"));
    for (const char* wrong : {"", "Height", "height.", "height.rg", "- height", "1 - ", "1e9", "a b", "1 + a"})
      QVERIFY2(!channel_source(wrong).ok(), wrong);
  }
  // A delivery that is broken off goes on: what stands is neither woven nor written, and what was told is told again.
  void aBrokenDeliveryGoesOn() {
    QTemporaryDir dir;
    Material m = demo();
    DeliveryPlan p = plan_in(dir.path() + QStringLiteral("/maps"), m);
    p.state = (dir.path() + QStringLiteral("/known/state.json")).toStdString();
    Weaver w(0);
    Stop stop;
    int files = 0;
    const auto broken = deliver(m, catalogue(), w, p, stop, [&](double, const std::string& what) {
      files += what.find(".png") != std::string::npos;
      if (files == 3) stop.ask();
    });
    QVERIFY(!broken && broken.error().what == kCancelled);
    const auto stood = QDir(QString::fromStdString(p.folder.string())).entryList(QDir::Files);
    QVERIFY(stood.size() >= 2 && stood.size() < static_cast<qsizetype>(p.files.size()));
    const auto rest = deliver(m, catalogue(), w, p, Stop{});
    QVERIFY2(rest.ok(), rest ? "" : rest.error().text().c_str());
    QCOMPARE(rest->files.size(), p.files.size());
    qsizetype unchanged = 0;
    for (const DeliveredFile& f : rest->files) {
      unchanged += f.unchanged;
      QCOMPARE(f.sha256, sha256_of_file(f.path));
    }
    QCOMPARE(unchanged, stood.size());
    const auto again = deliver(m, catalogue(), w, p, Stop{});
    QVERIFY(again.ok());
    QCOMPARE(again->weave_milliseconds, 0.0);  // nothing was woven
    QCOMPARE(again->warnings, rest->warnings);
    QCOMPARE(again->cut, rest->cut);
    for (std::size_t i = 0; i < again->files.size(); ++i) {
      QVERIFY(again->files[i].unchanged);
      QCOMPARE(again->files[i].name, rest->files[i].name);
      QCOMPARE(again->files[i].channels, rest->files[i].channels);
    }
    // What was changed by hand, what has gone, and what is another now, is written anew.
    QVERIFY(write_file(again->files[0].path, "spoilt").ok());
    std::filesystem::remove(again->files[1].path);
    m = edit::set_value(std::move(m), "wear", 0.9);
    const auto other = deliver(m, catalogue(), w, p, Stop{});
    QVERIFY(other.ok() && !other->files[0].unchanged && !other->files[1].unchanged);
    for (std::size_t i = 0; i < other->files.size(); ++i)
      QCOMPARE(other->files[i].unchanged, other->files[i].sha256 == again->files[i].sha256);
    QVERIFY(write_file(p.state, "{\"a\": 1}").ok());  // damaged: nothing is known
    QVERIFY(deliver(m, catalogue(), w, p, Stop{}).ok());
  }
  // A disc that fills up leaves what was whole and nothing half written; a folder that vanishes or may not be written
  // is named.
  void aFullDiscLeavesNothingHalfWritten() {
    QTemporaryDir dir;
    const Material m = demo();
    Weaver w(0);
    rlimit before;
    QCOMPARE(getrlimit(RLIMIT_FSIZE, &before), 0);
    std::signal(SIGXFSZ, SIG_IGN);
    for (const ImageFormat format : {ImageFormat::png, ImageFormat::exr, ImageFormat::tiff}) {
      DeliveryPlan p = plan_in(dir.path() + QString::fromStdString(ending_of(format)), m);
      for (FileDelivery& f : p.files) f.format = format, f.bits = 16;
      rlimit small = before;
      small.rlim_cur = 30'000;
      QCOMPARE(setrlimit(RLIMIT_FSIZE, &small), 0);
      const auto r = deliver(m, catalogue(), w, p, Stop{});
      QCOMPARE(setrlimit(RLIMIT_FSIZE, &before), 0);
      QVERIFY(!r);
      QVERIFY2(r.error().text().find("cannot be written") != std::string::npos, r.error().text().c_str());
      for (const QString& name :
           QDir(QString::fromStdString(p.folder.string())).entryList(QDir::Files | QDir::Hidden)) {
        QVERIFY2(!name.contains(QStringLiteral("part")), qPrintable(name));
        QVERIFY(read_image(p.folder / name.toStdString()).ok());
      }
    }
    const QString gone = dir.path() + QStringLiteral("/gone");
    DeliveryPlan p = plan_in(gone, m);
    const auto r = deliver(m, catalogue(), w, p, Stop{}, [&](double, const std::string& what) {
      if (what.find(".png") != std::string::npos) QDir(gone).removeRecursively();
    });
    QVERIFY(!r && r.error().text().find("gone") != std::string::npos);
  }
  // Presets, lists and parts, each in a folder of its own; what there is none of is told.
  void everyOneHasAFolder() {
    Material m = demo();
    const DeliveryPlan plan = plan_in(QStringLiteral("out"), m);
    QVERIFY(!errands(m, plan, {}, {.list = true}, false));
    QVERIFY(!errands(m, plan, {}, {.part = true}, false));
    m.lists.push_back(list_of_files("For the hall", usual_files(m), 512, false));
    m.lists.back().sizes = {512, 64};
    m.lists.push_back(list_of_files("Height", {FileDelivery{"height"}}, 256, true));
    const auto folders = [](const Result<std::vector<Errand>>& all) {
      QStringList names;
      for (const Errand& e : *all)
        names << QStringLiteral("%1 %2 %3")
                     .arg(QString::fromStdString(e.plan.folder.string()))
                     .arg(e.plan.size)
                     .arg(e.plan.files.size());
      return names;
    };
    QCOMPARE(folders(errands(m, plan, {32, 64}, {}, false)), (QStringList{"out 32 5", "out 64 5"}));
    const auto lists = errands(m, plan, {}, {.list = true}, false);
    QCOMPARE(folders(lists), (QStringList{"out/for_the_hall 512 5", "out/for_the_hall 64 5", "out/height 256 1"}));
    QVERIFY(!lists->front().plan.green_up && lists->back().plan.green_up);
    const auto all = errands(m, plan, {32}, {.preset = true, .list = true}, false);
    QCOMPARE(all->size(), 2 * m.presets.size());
    QCOMPARE(all->back().plan.preset, m.presets.back().name);
    for (const auto& [id, value] : m.presets.back().values) QVERIFY(all->back().material.value(id)->value == value);
    const Material sign = *open_material(LOOM_DEMO "/poster-sign.loom");
    const auto parts = errands(sign, plan, {32}, {.part = true}, false);
    QCOMPARE(parts->size(), sign.part_hems.size() + !sign.hem.empty());
    QCOMPARE(errands(sign, plan, {32}, {.part = true}, true)->size(), std::size_t{1});
    QTemporaryDir dir;
    Weaver weaver(std::size_t{64} << 20);
    const auto written = errands(m, plan_in(dir.path(), m), {64}, {.preset = true, .list = true}, false);
    for (const Errand& e : *written) {
      const auto done = deliver(e.material, catalogue(), weaver, e.plan, Stop{});
      QVERIFY2(done.ok(), done ? "" : done.error().text().c_str());
    }
    QCOMPARE(QDir(dir.path()).entryList(QDir::Dirs | QDir::NoDotAndDotDot).size(),
             static_cast<qsizetype>(m.presets.size()));
    QVERIFY(QFile::exists(dir.filePath(QStringLiteral("winter_salt/height/quay-floor_height_64.png"))));
  }
  void twoFilesOfOneNameAreRefused() {
    QTemporaryDir dir;
    const Material m = demo();
    Weaver w(0);
    DeliveryPlan p = plan_in(dir.path(), m);
    p.pattern = "{material}";
    const auto r = deliver(m, catalogue(), w, p, Stop{});
    QVERIFY(!r && r.error().text().find("would be written twice") != std::string::npos);
    QVERIFY(QDir(dir.path()).isEmpty());
  }
  void greenIsTurnedWhenAsked() {
    QTemporaryDir up, down;
    const Material m = demo();
    Weaver w(0);
    DeliveryPlan p = plan_in(up.path(), m), q = plan_in(down.path(), m);
    q.green_up = false;
    for (auto* x : {&p, &q})
      for (auto& s : x->files) s.on = s.name == "normal";
    const auto a = deliver(m, catalogue(), w, p, Stop{}), b = deliver(m, catalogue(), w, q, Stop{});
    const auto i = read_image(a->files[0].path), j = read_image(b->files[0].path);
    for (std::size_t t = 0; t < i->values.size(); t += 3) {
      QVERIFY(std::abs(i->values[t + 1] + j->values[t + 1] - 1) < 3e-5f);
      QCOMPARE(i->values[t], j->values[t]);
    }
  }
  void dialsAndPresetsAreReadFromWords() {
    const Material m = demo();
    QCOMPARE(std::get<double>(with_dial(m, catalogue(), "wear", "0.25")->value("wear")->value), 0.25);
    QVERIFY(with_dial(m, catalogue(), "ware", "1").error().text().find("wear") != std::string::npos);
    QVERIFY(!with_dial(m, catalogue(), "wear", "much").ok());
    QVERIFY(!with_dial(m, catalogue(), "wear", "1,2").ok());
    QVERIFY(with_preset(m, "Winter salt").ok());
    QVERIFY(with_preset(m, "Summer").error().text().find("Winter salt") != std::string::npos);
  }
};

QTEST_GUILESS_MAIN(TestDelivery)
#include "tst_delivery.moc"
