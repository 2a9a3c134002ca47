// Packages and deliveries: whole, safe, and named as asked.
#include <QProcess>
#include <QTemporaryDir>
#include <QtTest>
#include <fstream>

#include "core/bolt/delivery.h"
#include "core/bolt/package.h"
#include "core/graph/disc.h"
#include "core/graph/edit.h"
#include "core/graph/hem.h"
#include "core/graph/json.h"
#include "core/graph/validate.h"
#include "core/io/image.h"
#include "core/nodes/catalogue.h"

using namespace loom;

class TestBolt : public QObject {
  Q_OBJECT
  static Material demo() { return *open_material(LOOM_DEMO "/quay-floor.loom"); }
  static DeliveryPlan plan_in(const QString& folder, const Material& m, int size = 128) {
    DeliveryPlan p;
    p.folder = folder.toStdString();
    p.size = size;
    p.slots = usual_slots(m);
    return p;
  }

 private Q_SLOTS:
  void aBoltComesBackAsItWas() {
    QTemporaryDir dir;
    const std::string path = dir.path().toStdString() + "/a.bolt";
    Bolt b{demo(), "1.3", "Lay it with care.", {1, 2, 3}};
    QVERIFY(write_bolt(path, b).ok());
    const auto back = read_bolt(path);
    QVERIFY(back.ok());
    QCOMPARE(write_material(back->material), write_material(b.material));
    QCOMPARE(back->version, b.version);
    QCOMPARE(back->notes, b.notes);
    QCOMPARE(back->picture, b.picture);
    QCOMPARE(QDir(dir.path()).entryList(QDir::Files).size(), 1);
    // The same bolt gives the same bytes.
    QVERIFY(write_bolt(path + "2", b).ok());
    QCOMPARE(*read_file(path, 1 << 20), *read_file(path + "2", 1 << 20));
  }
  void strangersBoltsAreRefusedInWords_data() {
    QTest::addColumn<QByteArray>("bytes");
    QTemporaryDir dir;
    QVERIFY(write_bolt(dir.path().toStdString() + "/a.bolt", {demo(), "1", "", {}}).ok());
    const QByteArray good = QByteArray::fromStdString(*read_file(dir.path().toStdString() + "/a.bolt", 1 << 20));
    QTest::newRow("empty") << QByteArray();
    QTest::newRow("text") << QByteArray("hello");
    QTest::newRow("cut off") << good.left(good.size() / 2);
    QTest::newRow("cut at the front") << good.mid(200);
    QByteArray broken = good;
    for (qsizetype i = 60; i < 400 && i < broken.size(); ++i) broken[i] = static_cast<char>(broken[i] ^ 0x5a);
    QTest::newRow("damaged") << broken;
  }
  void strangersBoltsAreRefusedInWords() {
    QFETCH(QByteArray, bytes);
    QTemporaryDir dir;
    const std::string path = dir.path().toStdString() + "/x.bolt";
    std::ofstream(path, std::ios::binary).write(bytes.data(), bytes.size());
    const auto r = read_bolt(path);
    QVERIFY(!r.ok());
    QVERIFY(!r.error().what.empty() && !r.error().mend.empty());
  }
  void aMissingBoltIsNamed() {
    QVERIFY(read_bolt("/nowhere/a.bolt").error().text().find("/nowhere/a.bolt") != std::string::npos);
  }

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
    p.slots[0].scale = true;
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
    const auto has = [](const std::vector<SlotDelivery>& slots, const char* id) {
      return std::any_of(slots.begin(), slots.end(), [&](const SlotDelivery& s) { return s.slot == id; });
    };
    QVERIFY(has(usual_slots(m), "emissive") && !has(usual_slots(demo()), "emissive"));
    QVERIFY(!has(usual_slots(edit::reset_of_hem(m, "emissive")), "emissive"));
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
    QCOMPARE(file_name(m, p, p.slots[0]), std::string("quay-floor-..-winter-salt-base_colour-128.png"));
    p.pattern = "../../{slot}";
    QCOMPARE(file_name(m, p, p.slots[0]), std::string("base_colour.png"));
  }
  void aDeliveryWritesEverySlotThatIsOn() {
    QTemporaryDir dir;
    const Material m = demo();
    DeliveryPlan p = plan_in(dir.path(), m);
    p.slots[1].on = false;
    p.slots[0].format = ImageFormat::exr;
    p.slots[0].bits = 16;
    Weaver w(0);
    double last = 0;
    const auto r = deliver(m, catalogue(), w, p, Stop{}, [&](double share, const std::string&) { last = share; });
    QVERIFY(r.ok());
    QCOMPARE(last, 1.0);
    QCOMPARE(r->files.size(), p.slots.size() - 1);
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
    for (const DeliveredFile& f : r->files) order.push_back(f.slot);
    for (const SlotDelivery& s : plan_in(two.path(), m).slots) wanted.push_back(s.slot);
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
    const std::string in_the_way = file_name(m, p, p.slots[1]);
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
    for (auto& s : p.slots) s.on = false;
    QVERIFY(deliver(m, catalogue(), w, p, Stop{}).error().text().find("nothing to deliver") != std::string::npos);
    p = plan_in(dir.path(), m);
    p.slots[0].bits = 12;
    QVERIFY(!deliver(m, catalogue(), w, p, Stop{}).ok());
    Stop stop;
    stop.ask();
    QCOMPARE(deliver(m, catalogue(), w, plan_in(dir.path(), m), stop).error().what, std::string("cancelled"));
    QVERIFY(QDir(dir.path()).entryList(QDir::Files | QDir::Hidden).isEmpty());
  }
  void greenIsTurnedWhenAsked() {
    QTemporaryDir up, down;
    const Material m = demo();
    Weaver w(0);
    DeliveryPlan p = plan_in(up.path(), m), q = plan_in(down.path(), m);
    q.green_up = false;
    for (auto* x : {&p, &q})
      for (auto& s : x->slots) s.on = s.slot == "normal";
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

QTEST_GUILESS_MAIN(TestBolt)
#include "tst_bolt.moc"
