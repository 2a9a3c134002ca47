// What lies in folders: listed by what the files say, found by words and sizes, and not read twice.
#include <QTemporaryDir>
#include <QtTest>
#include <fstream>

#include "core/bolt/package.h"
#include "core/bolt/stock.h"
#include "core/graph/disc.h"
#include "core/graph/edit.h"
#include "core/graph/json.h"

using namespace loom;

class TestStock : public QObject {
  Q_OBJECT
  static Material material(const char* name, double metres, std::vector<std::string> tags = {}) {
    Material m = edit::empty_material();
    m.name = name;
    m.tile_metres = metres;
    m.imprint.tags = std::move(tags);
    return m;
  }
  static StockItem item(const char* name, double metres, bool is_bolt, std::vector<std::string> tags = {},
                        const char* licence = "") {
    StockItem i;
    i.file = std::filesystem::path("/quay") / (std::string(name) + (is_bolt ? ".bolt" : ".loom"));
    i.is_bolt = is_bolt;
    i.name = name;
    i.tile_metres = metres;
    i.imprint.tags = std::move(tags);
    i.imprint.licence = licence;
    return i;
  }
  static void nobody(const StockFound&) {}

 private Q_SLOTS:
  void filesSayWhatTheyAre() {
    const QTemporaryDir dir;
    const std::filesystem::path folder = dir.path().toStdString();
    std::filesystem::create_directories(folder / "deep" / "deeper");
    std::filesystem::create_directories(folder / ".hidden");
    const auto write = [&](const char* name, const std::string& text) {
      QVERIFY(write_file(folder / name, text).ok());
    };
    write("b.loom", write_material(material("Tin ceiling", 1.5, {"metal"})));
    write("deep/deeper/a.loom", write_material(material("Matting", 0.4)));
    write(".hidden/c.loom", write_material(material("Hidden", 1)));
    write("notes.txt", "nothing");
    write("broken.loom", "{ no");
    write("broken.bolt", "no zip");
    QVERIFY(write_bolt(folder / "deep/shingles.bolt", {material("Shingles", 2, {"roof"})}).ok());

    const auto found = look_through(folder, {}, nobody, Stop{});
    QVERIFY(found.ok());
    QCOMPARE(found->folders.size(), std::size_t{3});
    QCOMPARE(found->items.size(), std::size_t{5});
    QStringList names;
    for (const StockItem& i : found->items) names << QString::fromStdString(i.name);
    QCOMPARE(names.mid(0, 3), QStringList({"Matting", "Shingles", "Tin ceiling"}));
    QVERIFY(found->items[1].is_bolt && found->items[1].tile_metres == 2);
    QCOMPARE(found->items[1].imprint.tags, std::vector<std::string>{"roof"});
    QCOMPARE(found->items[2].imprint.tags, std::vector<std::string>{"metal"});
    for (std::size_t i = 3; i < 5; ++i) QVERIFY(!found->items[i].fault.empty() && found->items[i].name == "broken");
    QVERIFY(!look_through(folder / "nowhere", {}, nobody, Stop{}).ok());
  }

  // An item that is known under the same time and size is taken as it is known.
  void nothingIsReadTwice() {
    const QTemporaryDir dir;
    const std::filesystem::path folder = dir.path().toStdString(), file = folder / "a.loom";
    QVERIFY(write_file(file, write_material(material("First", 1))).ok());
    auto known = look_through(folder, {}, nobody, Stop{})->items;
    known[0].name = "as it is known";
    QCOMPARE(look_through(folder, known, nobody, Stop{})->items[0].name, std::string("as it is known"));
    QVERIFY(write_file(file, write_material(material("Second name", 1))).ok());
    QCOMPARE(look_through(folder, known, nobody, Stop{})->items[0].name, std::string("Second name"));
    Stop stop;
    stop.ask();
    QVERIFY(look_through(folder, {}, nobody, stop)->items.empty());
  }

  void wordsAndSizesFind_data() {
    QTest::addColumn<QString>("typed");
    QTest::addColumn<int>("count");
    const auto row = [](const char* typed, int count) { QTest::newRow(typed) << QString::fromLatin1(typed) << count; };
    row("", 4);
    row("tin", 1);
    row("TIN", 1);
    row("metal", 2);
    row("metal roof", 1);
    row("bolt", 2);
    row("material", 2);
    row("cc0", 1);
    row("<1m", 2);
    row("< 1 m", 2);
    row("<100cm", 2);
    row(">1m", 2);
    row(">50cm <2m", 2);
    row("metal <1m", 0);
    row("nowhere", 0);
    row("<", 4);
  }
  void wordsAndSizesFind() {
    QFETCH(QString, typed);
    QFETCH(int, count);
    const StockItem all[] = {item("Tin ceiling", 1.5, true, {"metal"}), item("Copper", 2.5, false, {"metal", "roof"}),
                             item("Matting", 0.4, true, {"rush"}, "CC0-1.0"), item("Terrazzo", 0.8, false)};
    const StockSearch search(typed.toStdString());
    QCOMPARE(static_cast<int>(std::count_if(std::begin(all), std::end(all), [&](auto& i) { return search.fits(i); })),
             count);
  }

  void sizesAreSaid() {
    QCOMPARE(size_words(1), std::string("1 m"));
    QCOMPARE(size_words(0.35), std::string("35 cm"));
    QCOMPARE(size_words(12.5), std::string("12.5 m"));
    QCOMPARE(size_words(0.005), std::string("5 mm"));
  }
};

QTEST_GUILESS_MAIN(TestStock)
#include "tst_stock.moc"
