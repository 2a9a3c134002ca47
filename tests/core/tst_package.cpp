// Bolts: what goes in comes out, and what strangers send is refused in words.
#include <sys/stat.h>
#include <zip.h>

#include <QTemporaryDir>
#include <QtTest>
#include <fstream>

#include "core/bolt/lit_pictures.h"
#include "core/bolt/package.h"
#include "core/graph/disc.h"
#include "core/graph/edit.h"
#include "core/graph/groups.h"
#include "core/graph/json.h"
#include "core/graph/validate.h"
#include "core/io/image.h"
#include "core/nodes/catalogue.h"

using namespace loom;

namespace {

using Listed = std::vector<std::pair<std::string, std::string>>;

std::string small_png() { return *encode_picture(2, 2, std::vector<std::uint8_t>(12, 90)); }

// A zip as anyone may write it; `mark` may change an entry once it is in.
void write_zip(const std::string& path, const Listed& entries,
               const std::function<void(zip_t*, zip_uint64_t)>& mark = {}) {
  int code = 0;
  zip_t* archive = zip_open(path.c_str(), ZIP_CREATE | ZIP_TRUNCATE, &code);
  QVERIFY(archive);
  for (const auto& [name, bytes] : entries) {
    zip_source_t* source = zip_source_buffer(archive, bytes.data(), bytes.size(), 0);
    const zip_int64_t index = zip_file_add(archive, name.c_str(), source, ZIP_FL_ENC_UTF_8);
    QVERIFY(index >= 0);
    zip_set_file_compression(archive, static_cast<zip_uint64_t>(index), ZIP_CM_DEFLATE, 1);
    if (mark) mark(archive, static_cast<zip_uint64_t>(index));
  }
  QCOMPARE(zip_close(archive), 0);
}

void replace_bytes(const std::string& path, const std::string& from, const std::string& to) {
  std::string bytes = *read_file(path, 1 << 24);
  for (std::size_t at = 0; (at = bytes.find(from, at)) != std::string::npos; at += to.size())
    bytes.replace(at, from.size(), to);
  QVERIFY(write_file(path, bytes).ok());
}

// A material of groups that each hold ten of the next.
Material endless() {
  Material m = edit::empty_material();
  for (int i = 0; i < 20; ++i) {
    auto g = std::make_shared<Group>();
    g->id = g->name = "g" + std::to_string(i);
    for (int k = 0; k < 10; ++k) {
      auto n = std::make_shared<Node>();
      n->id = "n" + std::to_string(k);
      n->type = i < 19 ? kGroupType : "ramp";
      n->group = i < 19 ? "g" + std::to_string(i + 1) : "";
      g->nodes.push_back(n);
    }
    m.groups.push_back(g);
  }
  auto use = std::make_shared<Node>();
  use->id = "use", use->type = kGroupType, use->group = "g0";
  m.nodes.push_back(use);
  return m;
}

}  // namespace

class TestPackage : public QObject {
  Q_OBJECT
  QTemporaryDir dir_;
  std::string at(const char* name) const { return dir_.filePath(QString::fromUtf8(name)).toStdString(); }
  static Material demo() {
    Material m = *open_material(LOOM_DEMO "/quay-floor.loom");
    m.imprint = {"quay_floor", "1.3", {"floor", "glazed tiles"}, "CC-BY-4.0"};
    m.notes = "# Quay floor\n\nLay it with *care*.";
    return m;
  }
  static Bolt packed_demo() {
    Bolt b{demo()};
    b.pictures = {{"", small_png()}, {"Winter salt", small_png()}};
    return b;
  }
  // A good bolt's entries, to be spoilt.
  Entries good() const {
    const std::string path = at("good.bolt");
    if (!write_bolt(path, packed_demo())) qFatal("no bolt");
    return *read_archive(path);
  }
  static Listed listed(const Entries& entries) { return {entries.begin(), entries.end()}; }
  // With hashes that fit, as a stranger who means harm would write them.
  static Listed sealed(Entries entries) {
    Manifest m = *read_manifest_text(entries.at(kManifestEntry));
    m.sha256.clear();
    for (const auto& [name, bytes] : entries)
      if (name != kManifestEntry) m.sha256[name] = sha256_of(bytes);
    entries[kManifestEntry] = manifest_text(m);
    return listed(entries);
  }

 private Q_SLOTS:
  void aBoltComesBackAsItWas() {
    const Bolt b = packed_demo();
    QVERIFY(write_bolt(at("a.bolt"), b).ok());
    const auto back = read_bolt(at("a.bolt"));
    QVERIFY2(back.ok(), back ? "" : back.error().text().c_str());
    QCOMPARE(write_material(back->material), write_material(b.material));
    QVERIFY(back->material.imprint == b.material.imprint);
    QCOMPARE(back->pictures, b.pictures);
    QVERIFY(write_bolt(at("b.bolt"), b).ok());
    QCOMPARE(*read_file(at("a.bolt"), 1 << 20), *read_file(at("b.bolt"), 1 << 20));  // the same bolt, the same bytes
  }
  void theCoverIsReadAlone() {
    QVERIFY(write_bolt(at("a.bolt"), packed_demo()).ok());
    const auto cover = read_cover(at("a.bolt"));
    QVERIFY(cover.ok());
    const Manifest& m = cover->manifest;
    QCOMPARE(m.name, std::string("Quay floor"));
    QCOMPARE(m.needs, kFormat);
    QCOMPARE(m.tile_metres, demo().tile_metres);
    QCOMPARE(m.imprint.licence, std::string("CC-BY-4.0"));
    QCOMPARE(m.imprint.tags.size(), std::size_t{2});
    QCOMPARE(cover->picture, small_png());
    QVERIFY(m.sha256.count("material.loom") && m.sha256.count("notes.md") && !m.sha256.count(kManifestEntry));
    QCOMPARE(m.sha256.at("picture.png"), sha256_of(small_png()));
  }
  void anIdentifierIsMadeOfTheName() {
    Material m = demo();
    m.imprint.id.clear();
    QVERIFY(write_bolt(at("a.bolt"), {m}).ok());
    QCOMPARE(read_bolt(at("a.bolt"))->material.imprint.id, std::string("quay_floor"));
    QCOMPARE(id_of_name("  Über 3 Ämter! "), std::string("ber_3_mter"));
    QCOMPARE(id_of_name("3 setts"), std::string("material_3_setts"));
    QCOMPARE(id_of_name("…"), std::string("material"));
  }
  void picturesAreMadeOfTheStartAndOfEachPreset() {
    Bolt b{demo()};
    QVERIFY(add_pictures(b, Stop{}).ok());
    QCOMPARE(b.pictures.size(), b.material.presets.size() + 1);
    for (const auto& [preset, bytes] : b.pictures) {
      const auto image = decode_image("p.png", bytes);
      QVERIFY(image.ok() && image->width == 256 && image->channels == 3);
      for (const auto& [other, more] : b.pictures) QVERIFY(other == preset || more != bytes);
    }
    Bolt bare{edit::empty_material()};
    QVERIFY(add_pictures(bare, Stop{}).ok() && bare.pictures.empty());
  }
  void anOlderBoltIsBroughtUp() {
    Material m = *open_material(LOOM_DEMO "/quay-floor.loom");
    m.notes.clear();
    m.imprint = {};
    write_zip(at("old.bolt"), {{"bolt.json", R"({"format": 2, "name": "Quay floor", "version": "7"})"},
                               {"material.loom", write_material(m)},
                               {"notes.txt", "Lay it with care."},
                               {"picture.png", small_png()}});
    const auto old = read_bolt(at("old.bolt"));
    QVERIFY2(old.ok(), old ? "" : old.error().text().c_str());
    QCOMPARE(old->material.notes, std::string("Lay it with care."));
    QCOMPARE(old->material.imprint.id, std::string("quay_floor"));
    QCOMPARE(old->material.imprint.version, std::string("1.0"));  // 7 is no version
    QCOMPARE(old->pictures.at(""), small_png());
    QVERIFY(write_bolt(at("new.bolt"), *old).ok());
    QCOMPARE(read_cover(at("new.bolt"))->manifest.format, kBoltFormat);
  }
  void aBoltIsUnpackedToWorkOn() {
    QVERIFY(write_bolt(at("a.bolt"), packed_demo()).ok());
    const auto bolt = read_bolt(at("a.bolt"));
    const auto written = unpack_bolt(*bolt, at("out"));
    QVERIFY(written.ok());
    const auto again = open_material(at("out") + "/quay_floor.loom");
    QVERIFY(again.ok());
    QCOMPARE(write_material(*again), write_material(bolt->material));
    QVERIFY(unpack_bolt(*bolt, at("out")).ok());  // the same is left alone
    QVERIFY(write_file(at("out") + "/notes.md", "mine").ok());
    const auto refused = unpack_bolt(*bolt, at("out"));
    QVERIFY(!refused && refused.error().text().find("notes.md") != std::string::npos);
    QCOMPARE(*read_file(at("out") + "/notes.md", 100), std::string("mine"));
  }

  void brokenBytesAreRefused_data() {
    QTest::addColumn<QByteArray>("bytes");
    QVERIFY(write_bolt(at("a.bolt"), {demo()}).ok());
    const QByteArray whole = QByteArray::fromStdString(*read_file(at("a.bolt"), 1 << 20));
    QTest::newRow("empty") << QByteArray();
    QTest::newRow("text") << QByteArray("hello");
    QTest::newRow("cut off") << whole.left(whole.size() / 2);
    QTest::newRow("cut at the front") << whole.mid(200);
    QByteArray broken = whole;
    for (qsizetype i = 60; i < 400 && i < broken.size(); ++i) broken[i] = static_cast<char>(broken[i] ^ 0x5a);
    QTest::newRow("damaged") << broken;
  }
  void brokenBytesAreRefused() {
    QFETCH(QByteArray, bytes);
    std::ofstream(at("x.bolt"), std::ios::binary).write(bytes.data(), bytes.size());
    const auto r = read_bolt(at("x.bolt"));
    QVERIFY(!r.ok());
    QVERIFY(!r.error().what.empty() && !r.error().mend.empty());
  }
  void aMissingBoltIsNamed() {
    QVERIFY(read_bolt("/nowhere/a.bolt").error().text().find("/nowhere/a.bolt") != std::string::npos);
  }

  void harmfulEntriesAreRefused_data() {
    QTest::addColumn<QString>("name");
    QTest::addColumn<QString>("reason");
    QTest::newRow("out of it") << "files/../../escape.png"
                               << "leads out of it";
    QTest::newRow("up") << "../escape.png"
                        << "leads out of it";
    QTest::newRow("root") << "/tmp/escape.png"
                          << "starts at a disc's root";
    QTest::newRow("disc") << "C:escape.png"
                          << "starts at a disc's root";
    QTest::newRow("backslash") << "files\\escape.png"
                               << "backslash";
    QTest::newRow("line") << "files/a\nb.png"
                          << "control character";
    QTest::newRow("not named") << "files/more.png"
                               << "is not named in the manifest";
  }
  void harmfulEntriesAreRefused() {
    QFETCH(QString, name);
    QFETCH(QString, reason);
    Listed entries = listed(good());
    entries.emplace_back(name.toStdString(), "x");
    write_zip(at("x.bolt"), entries);
    const auto r = read_bolt(at("x.bolt"));
    QVERIFY2(!r && r.error().text().find(reason.toStdString()) != std::string::npos,
             r.ok() ? "read" : r.error().text().c_str());
    QVERIFY(!QFile::exists(QStringLiteral("/tmp/escape.png")));
  }
  void linksAreRefused() {
    write_zip(at("x.bolt"), listed(good()), [](zip_t* archive, zip_uint64_t i) {
      if (i == 1) zip_file_set_external_attributes(archive, i, 0, ZIP_OPSYS_UNIX, (S_IFLNK | 0777u) << 16);
    });
    const auto r = read_bolt(at("x.bolt"));
    QVERIFY2(!r && r.error().text().find("is a link") != std::string::npos, r.ok() ? "" : r.error().text().c_str());
  }
  void namesThatComeTwiceAreRefused() {
    Listed entries = listed(good());
    entries.emplace_back("material.loon", "{}");
    write_zip(at("x.bolt"), entries);
    replace_bytes(at("x.bolt"), "material.loon", "material.loom");
    const auto r = read_bolt(at("x.bolt"));
    QVERIFY(!r);
    QVERIFY2(
        r.error().text().find("twice") != std::string::npos || r.error().text().find("damaged") != std::string::npos,
        r.error().text().c_str());
  }
  void bombsAreRefusedBeforeTheyUnpack() {
    Listed entries = listed(good());
    entries.emplace_back("files/zeros.png", std::string(kMostEntryBytes + 1, '\0'));
    write_zip(at("x.bolt"), entries);
    QVERIFY(QFileInfo(QString::fromStdString(at("x.bolt"))).size() < 1 << 20);
    const auto one = read_bolt(at("x.bolt"));
    QVERIFY(!one && one.error().text().find("unpacks to more than 64 MiB") != std::string::npos);
    entries.pop_back();
    const std::string zeros(kMostEntryBytes, '\0');
    for (int i = 0; i < 9; ++i) entries.emplace_back("files/" + std::to_string(i), zeros);
    write_zip(at("x.bolt"), entries);
    const auto many = read_bolt(at("x.bolt"));
    QVERIFY(!many && many.error().text().find("unpacks to more than 512 MiB") != std::string::npos);
  }
  void moreEntriesThanABoltHoldsAreRefused() {
    Listed entries = listed(good());
    for (int i = 0; i < 300; ++i) entries.emplace_back("files/" + std::to_string(i), "x");
    write_zip(at("x.bolt"), entries);
    const auto r = read_bolt(at("x.bolt"));
    QVERIFY(!r && r.error().text().find("more than 256 entries") != std::string::npos);
  }

  void manifestsThatLieAreRefused_data() {
    QTest::addColumn<QString>("reason");
    for (const char* reason : {"another hash", "is not there", "newer program", "reads documents of format",
                               "says another name", "no PNG file", "is not valid JSON", "nested too deep",
                               "unfolds to more than", "holds no 'material.loom'", "is no version"})
      QTest::newRow(reason) << reason;
  }
  void manifestsThatLieAreRefused() {
    QFETCH(QString, reason);
    Entries e = good();
    Manifest m = *read_manifest_text(e.at(kManifestEntry));
    Listed entries;
    if (reason == "another hash") {
      e["notes.md"] += "!";
      entries = listed(e);
    } else if (reason == "is not there") {
      e.erase("notes.md");
      entries = listed(e);
    } else if (reason == "newer program") {
      m.format = kBoltFormat + 1;
    } else if (reason == "reads documents of format") {
      m.needs = kFormat + 1;
    } else if (reason == "says another name") {
      m.imprint.version = "9.9";
    } else if (reason == "no PNG file") {
      e["picture.png"] = *encode_picture(1025, 1, std::vector<std::uint8_t>(1025 * 3, 1));
      entries = sealed(e);
    } else if (reason == "is not valid JSON") {
      e[kManifestEntry] = "{";
      entries = listed(e);
    } else if (reason == "nested too deep") {
      e[kManifestEntry] = std::string(2000, '[');
      entries = listed(e);
    } else if (reason == "unfolds to more than") {
      e["material.loom"] = write_material(endless());
      entries = sealed(e);
    } else if (reason == "holds no 'material.loom'") {
      e.erase("material.loom");
      entries = sealed(e);
    } else if (reason == "is no version") {
      Material odd = demo();
      odd.imprint.version = m.imprint.version = "new";
      e["material.loom"] = write_material(odd);
      e[kManifestEntry] = manifest_text(m);
      entries = sealed(e);
      write_zip(at("x.bolt"), entries);
      const auto r = read_bolt(at("x.bolt"));
      const auto faults = r ? validate(r->material, catalogue()) : std::vector<Error>{r.error()};
      QVERIFY(!faults.empty() && faults.front().text().find("is no version") != std::string::npos);
      return;
    }
    if (entries.empty()) {
      e[kManifestEntry] = manifest_text(m);
      entries = listed(e);
    }
    write_zip(at("x.bolt"), entries);
    const auto r = read_bolt(at("x.bolt"));
    QVERIFY2(!r && r.error().text().find(reason.toStdString()) != std::string::npos,
             r.ok() ? "read" : r.error().text().c_str());
  }

  // Source: FIPS 180-4, SHA-256 of "abc" and of the 448-bit message, from the standard's examples (recalled).
  void hashesAreThoseOfTheStandard() {
    QCOMPARE(sha256_of("abc"), std::string("ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad"));
    QCOMPARE(sha256_of("abcdbcdecdefdefgefghfghighijhijkijkljklmklmnlmnomnopnopq"),
             std::string("248d6a61d20638b8e5c026930c3e6039a33ce45964ff2167f6ecedd419db06c1"));
  }
  void versionsAreOrderedByTheirNumbers() {
    for (const char* good : {"1.0", "0.1", "2.0.1", "1.2.3.4", "10.20"}) QVERIFY2(is_version(good), good);
    for (const char* bad : {"", "1", "1.", ".1", "1.02", "1.0a", "1.0.0.0.0", "-1.0", "1..0", "1.9999999"})
      QVERIFY2(!is_version(bad), bad);
    QVERIFY(compare_versions("1.9", "1.10") < 0 && compare_versions("2.0", "1.10") > 0);
    QVERIFY(compare_versions("1.2", "1.2.0") == 0 && compare_versions("1.2", "1.2.1") < 0);
    QCOMPARE(next_version("1.9"), std::string("1.10"));
  }
  // Source: SPDX specification 2.3, annex D, its examples (recalled).
  void licencesHaveTheFormOfTheStandard() {
    for (const char* good :
         {"CC0-1.0", "LGPL-2.1-only OR MIT", "CDDL-1.0+", "(MIT AND (LGPL-2.1-or-later OR BSD-3-Clause))",
          "GPL-2.0-or-later WITH Bison-exception-2.2", "DocumentRef-spdx-tool-1.2:LicenseRef-MIT-Style-2"})
      QVERIFY2(is_licence(good), good);
    for (const char* bad : {"", "all rights reserved", "MIT AND", "(MIT", "MIT)", "OR MIT", "MIT/X11", "MIT WITH", "+"})
      QVERIFY2(!is_licence(bad), bad);
  }
  void theImprintIsCheckedWithTheDocument() {
    const auto told = [](const std::function<void(Imprint&)>& spoil) {
      Material m = demo();
      spoil(m.imprint);
      const auto faults = validate(m, catalogue());
      return faults.empty() ? std::string() : faults.front().where;
    };
    QCOMPARE(told([](Imprint&) {}), std::string());
    QCOMPARE(told([](Imprint& i) { i.id = "Quay floor"; }), std::string("imprint, id"));
    QCOMPARE(told([](Imprint& i) { i.version = "1"; }), std::string("imprint, version"));
    QCOMPARE(told([](Imprint& i) { i.licence = "ask me"; }), std::string("imprint, licence"));
    QCOMPARE(told([](Imprint& i) { i.tags = {"a,b"}; }), std::string("imprint, tags"));
    const auto again = read_material(write_material(demo()));
    QVERIFY(again.ok() && again->imprint == demo().imprint);
  }
};

QTEST_GUILESS_MAIN(TestPackage)
#include "tst_package.moc"
