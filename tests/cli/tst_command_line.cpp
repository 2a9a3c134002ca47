// wildloom-cli as scripts use it: statuses, streams and results of docs/command-line.md.
#include <QDir>
#include <QImage>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QProcess>
#include <QTemporaryDir>
#include <QtTest>
#include <algorithm>

#include "core/io/image.h"

class TestCommandLine : public QObject {
  Q_OBJECT
  struct Ran {
    int status;
    QByteArray out, err;
  };
  static Ran run(const QStringList& arguments) {
    QProcess p;
    p.start(QStringLiteral(LOOM_CLI), arguments);
    p.waitForFinished(300000);
    return {p.exitCode(), p.readAllStandardOutput(), p.readAllStandardError()};
  }
  const QString floor_ = QStringLiteral(LOOM_DEMO "/quay-floor.loom");
  QTemporaryDir dir_;

 private Q_SLOTS:
  void nodesAreListed() {
    const Ran plain = run({"nodes"}), json = run({"nodes", "--json"});
    QCOMPARE(plain.status, 0);
    QVERIFY(plain.out.contains("masonry\tMake\t"));
    const QJsonArray all = QJsonDocument::fromJson(json.out).array();
    QVERIFY(all.size() > 50);
    QVERIFY(all[0].toObject().contains(QStringLiteral("parameters")));
  }
  void filesElsewhereNeedToBeAllowed() {
    QDir(dir_.path()).mkpath(QStringLiteral("art"));
    QFile art(dir_.filePath(QStringLiteral("art/sign.svg"))), doc(dir_.filePath(QStringLiteral("doc/sign.loom")));
    QDir(dir_.path()).mkpath(QStringLiteral("doc"));
    QVERIFY(art.open(QIODevice::WriteOnly) && doc.open(QIODevice::WriteOnly));
    art.write("<svg viewBox='0 0 10 10'><rect width='10' height='5'/></svg>");
    doc.write(
        QByteArray(R"({"format": 2, "lanes": [{"id": "a", "name": "A"}], "nodes": [{"id": "s", "type": "svg_drawing",
      "lane": "a", "row": 0, "column": 0, "params": {"file": "../art/sign.svg"}}], "threads": [],
      "hem": {"height": "s.mask"}})"));
    art.close(), doc.close();
    const Ran refused = run({"check", doc.fileName()});
    QCOMPARE(refused.status, 1);
    QVERIFY2(refused.err.contains("outside the document's folder") && refused.err.contains("--allow"), refused.err);
    QCOMPARE(run({"render", doc.fileName(), "--size", "64", "--out", dir_.path()}).status, 1);
    QCOMPARE(run({"check", doc.fileName(), "--allow", dir_.filePath(QStringLiteral("art"))}).status, 0);
    const Ran done = run({"render", doc.fileName(), "--size", "64", "--out", dir_.path(), "--allow",
                          dir_.filePath(QStringLiteral("art"))});
    QVERIFY2(done.status == 0, done.err);
  }
  void checkTellsGoodFromBad() {
    QCOMPARE(run({"check", floor_}).status, 0);
    QFile bad(dir_.filePath(QStringLiteral("bad.loom")));
    QVERIFY(bad.open(QIODevice::WriteOnly));
    bad.write("{\"format\": 1, \"nodes\": [{\"id\": \"a\", \"type\": \"nothing\"}]}");
    bad.close();
    const Ran r = run({"check", floor_, bad.fileName()});
    QCOMPARE(r.status, 1);
    QVERIFY(r.out.isEmpty());
    QVERIFY(
        r.err.startsWith((bad.fileName() + QStringLiteral(": node a: there is no node type 'nothing'. ")).toUtf8()));
    QCOMPARE(r.err.count('\n'), 1);
    QCOMPARE(run({"check", dir_.filePath(QStringLiteral("none.loom"))}).status, 1);
  }
  void usageIsStatus2() {
    QCOMPARE(run({}).status, 2);
    QCOMPARE(run({"paint"}).status, 2);
    QCOMPARE(run({"render", floor_}).status, 2);
    QCOMPARE(run({"drape", floor_, "--out", dir_.filePath("x.png"), "--shape", "teapot"}).status, 2);
    QCOMPARE(run({"--help"}).status, 0);
  }
  void renderDeliversTheSameBytesForAnyThreads() {
    const QString a = dir_.filePath(QStringLiteral("a")), b = dir_.filePath(QStringLiteral("b"));
    const Ran r = run({"render", floor_, "--out", a, "--size", "256", "--threads", "1", "--json"});
    QCOMPARE(r.status, 0);
    const QJsonArray files = QJsonDocument::fromJson(r.out).object()[QStringLiteral("files")].toArray();
    QCOMPARE(files.size(), 5);
    QCOMPARE(run({"render", floor_, "--out", b, "--size", "256", "--threads", "2", "--memory", "64"}).status, 0);
    for (const QString& name : QDir(a).entryList(QDir::Files)) {
      QFile x(a + QLatin1Char('/') + name), y(b + QLatin1Char('/') + name);
      QVERIFY(x.open(QIODevice::ReadOnly) && y.open(QIODevice::ReadOnly));
      const QByteArray one = x.readAll(), other = y.readAll();
      const auto first = std::mismatch(one.begin(), one.end(), other.begin(), other.end()).first - one.begin();
      QVERIFY2(one == other, qPrintable(QStringLiteral("%1: %2 and %3 bytes, the first other one at %4")
                                            .arg(name)
                                            .arg(one.size())
                                            .arg(other.size())
                                            .arg(first)));
    }
  }
  void dialsPresetsAndMapsAreTaken() {
    const QString out = dir_.filePath(QStringLiteral("c"));
    QCOMPARE(run({"render", floor_, "--out", out, "--size", "128", "--maps", "height,normal", "--set", "wear=0.9",
                  "--preset", "Winter salt", "--format", "exr"})
                 .status,
             0);
    QCOMPARE(QDir(out).entryList(QDir::Files),
             (QStringList{QStringLiteral("quay-floor_height_128.exr"), QStringLiteral("quay-floor_normal_128.exr")}));
    QCOMPARE(run({"render", floor_, "--out", out, "--set", "wear"}).status, 1);
    QCOMPARE(run({"render", floor_, "--out", out, "--set", "ware=1"}).status, 1);
    QCOMPARE(run({"render", floor_, "--out", out, "--preset", "Gale"}).status, 1);
    QCOMPARE(run({"render", floor_, "--out", out, "--size", "100"}).status, 1);
    QCOMPARE(run({"render", floor_, "--out", QStringLiteral("/proc/none"), "--size", "64"}).status, 3);
  }
  void listsFormatsAndDitherAreTaken() {
    const QString out = dir_.filePath(QStringLiteral("lists"));
    QCOMPARE(run({"render", floor_, "--out", out, "--size", "64", "--list", "relief", "--format", "tiff"}).status, 0);
    QVERIFY(QFile::exists(out + QStringLiteral("/quay-floor_normal_height_64.tif")));
    QCOMPARE(run({"render", floor_, "--out", out, "--size", "64", "--list", "mine"}).status, 1);
    const auto sha = [&](const char* dither) {
      const Ran r = run({"render", floor_, "--out", out, "--size", "64", "--maps", "base_colour", "--json", "--dither",
                         QString::fromLatin1(dither)});
      return QJsonDocument::fromJson(r.out)[QStringLiteral("files")][0][QStringLiteral("sha256")].toString();
    };
    QVERIFY(sha("on") != sha("off") && sha("on").size() == 64);
  }
  void everyPresetHasAFolder() {
    const QString out = dir_.filePath(QStringLiteral("every"));
    QCOMPARE(run({"render", floor_, "--out", out, "--size", "64", "--maps", "height", "--every", "preset"}).status, 0);
    QCOMPARE(QDir(out).entryList(QDir::Dirs | QDir::NoDotAndDotDot).size(), 3);
    QVERIFY(QFile::exists(out + QStringLiteral("/opening_day/quay-floor_height_64.png")));
    QCOMPARE(run({"render", floor_, "--out", out, "--every", "preset", "--preset", "Winter salt"}).status, 2);
    QCOMPARE(run({"render", floor_, "--out", out, "--every", "seed"}).status, 2);
    QCOMPARE(run({"render", floor_, "--out", out, "--every", "part"}).status, 1);
  }
  void whatChangedIsTold() {
    QCOMPARE(run({"compare", floor_, floor_, "--size", "64"}).status, 0);
    const QString folder = dir_.filePath(QStringLiteral("later")), page = dir_.filePath(QStringLiteral("changed.html"));
    QDir().mkpath(folder);
    QFile was(floor_);
    QVERIFY(was.open(QIODevice::ReadOnly));
    QByteArray text = was.readAll();
    QVERIFY(text.contains("herringbone"));
    QFile is(folder + QStringLiteral("/quay-floor.loom"));
    QVERIFY(is.open(QIODevice::WriteOnly));
    is.write(text.replace("\"herringbone\"", "\"running\""));
    is.close();
    const Ran told = run({"compare", floor_, is.fileName(), "--size", "64", "--page", page});
    QCOMPARE(told.status, 4);
    QVERIFY2(told.out.contains("herringbone\trunning"), told.out);
    QVERIFY(QFileInfo(page).size() > 2000);
    const Ran folders = run({"compare", QFileInfo(floor_).path(), folder, "--size", "64", "--json"});
    QCOMPARE(folders.status, 4);
    const QJsonArray all = QJsonDocument::fromJson(folders.out).array();
    QCOMPARE(all.size(), 10);  // nine of the demo's stand there alone
    QCOMPARE(run({"compare", floor_, dir_.filePath(QStringLiteral("nowhere.loom"))}).status, 1);
  }
  void everyUnitHasItsName() {
    const QJsonArray types = QJsonDocument::fromJson(run({"nodes", "--json"}).out).array();
    int metres = 0;
    for (const auto& type : types)
      for (const auto& p : type.toObject()[QStringLiteral("parameters")].toArray())
        metres += p.toObject()[QStringLiteral("unit")].toString() == QStringLiteral("metres");
    QVERIFY(metres > 0);
  }
  // A part's own hem leaves as maps with its name; what has none, and what leaves together, is refused.
  void aPartIsDelivered() {
    const QString file = dir_.filePath(QStringLiteral("parts.loom")), out = dir_.filePath(QStringLiteral("parts"));
    QFile document(file);
    QVERIFY(document.open(QIODevice::WriteOnly));
    document.write(R"({"format": 2, "name": "Sign", "lanes": [{"id": "a", "name": "A"}], "threads": [],
      "nodes": [{"id": "red", "type": "colour", "lane": "a", "params": {"colour": [1, 0, 0]}},
                {"id": "green", "type": "colour", "lane": "a", "row": 1, "params": {"colour": [0, 1, 0]}}],
      "hem": {"base_colour": "red.colour"}, "part_hems": {"frame": {"base_colour": "green.colour"}}})");
    document.close();
    QCOMPARE(run({"render", file, "--out", out, "--size", "64", "--part", "frame"}).status, 0);
    const QStringList written = QDir(out).entryList(QDir::Files);
    QCOMPARE(written.size(), 1);
    QVERIFY2(written[0].contains(QStringLiteral("frame")), qPrintable(written[0]));
    const QImage image(out + QLatin1Char('/') + written[0]);
    QCOMPARE(image.pixelColor(3, 3), QColor(0, 255, 0));
    QCOMPARE(run({"render", file, "--out", out, "--part", "board"}).status, 2);
    QCOMPARE(
        run({"render", file, "--out", out, "--part", "frame", "--on", QStringLiteral(LOOM_DEMO "/sign.glb")}).status,
        2);
  }
  void probeWritesAnyOutput() {
    const QString out = dir_.filePath(QStringLiteral("p.exr"));
    QCOMPARE(run({"probe", floor_, "laid.regions", "--out", out, "--size", "64"}).status, 0);
    QVERIFY(QFileInfo(out).size() > 500);
    QCOMPARE(run({"probe", floor_, "laid.nothing", "--out", out}).status, 1);
  }
  void drapeShowsEveryShapeFromWhereOneSays() {
    const auto drape = [&](const QString& out, QStringList more) {
      return run(QStringList{"drape", floor_, "--out", dir_.filePath(out), "--size", "48x48", "--samples", "2",
                             "--maps", "256"} +
                 more);
    };
    for (const char* shape : {"tile", "ball", "pipe", "ring", "block", "cupola"})
      QCOMPARE(drape(QStringLiteral("shape.png"), {"--shape", QString::fromLatin1(shape)}).status, 0);
    const QStringList view = {"--shape",   "ring", "--camera",      "30,20,3", "--light", "10,30",
                              "--key",     "2,10", "--relief",      "2",       "--turn",  "40",
                              "--repeats", "2",    "--environment", "low_sun"};
    QCOMPARE(drape(QStringLiteral("a.exr"), view).status, 0);
    QCOMPARE(drape(QStringLiteral("b.exr"), view + QStringList{"--threads", "1"}).status, 0);
    const auto bytes = [&](const QString& name) {
      QFile file(dir_.filePath(name));
      return file.open(QIODevice::ReadOnly) ? file.readAll() : QByteArray();
    };
    QVERIFY(bytes(QStringLiteral("a.exr")).size() > 2000);
    QCOMPARE(bytes(QStringLiteral("a.exr")), bytes(QStringLiteral("b.exr")));
    // Without a background there is alpha; a colour is shown as it is written.
    QCOMPARE(drape(QStringLiteral("none.png"), {"--background", "none"}).status, 0);
    const QImage none(dir_.filePath(QStringLiteral("none.png")));
    QVERIFY(none.hasAlphaChannel() && none.pixelColor(0, 0).alpha() == 0 && none.pixelColor(24, 24).alpha() == 255);
    QCOMPARE(drape(QStringLiteral("red.png"), {"--background", "#c02040", "--shape", "tile"}).status, 0);
    QCOMPARE(QImage(dir_.filePath(QStringLiteral("red.png"))).pixelColor(0, 0), QColor(0xc0, 0x20, 0x40));
    // An output as it is: the mask of the tiles is black and white, nothing between is as bright as light would make
    // it.
    QCOMPARE(drape(QStringLiteral("mask.png"), {"--unlit", "laid.mask", "--shape", "tile", "--camera", "0,80"}).status,
             0);
    const QColor mask = QImage(dir_.filePath(QStringLiteral("mask.png"))).pixelColor(24, 24);
    QVERIFY(mask.red() == mask.green() && mask.red() == mask.blue());
    QCOMPARE(drape(QStringLiteral("colour.png"), {"--unlit", "base_colour"}).status, 0);
    // One's own surroundings: a picture that this program wrote will do.
    QCOMPARE(run({"drape", floor_, "--out", dir_.filePath("yard.exr"), "--size", "128x64", "--clean", "--maps", "256"})
                 .status,
             0);
    QCOMPARE(drape(QStringLiteral("own.png"), {"--environment", dir_.filePath(QStringLiteral("yard.exr"))}).status, 0);
  }
  void drapeTakesMeshesAndSlotsThatAreNoMaps() {
    const QString sign = QStringLiteral(LOOM_DEMO "/poster-sign.loom"), mesh = QStringLiteral(LOOM_DEMO "/bollard.glb");
    const auto drape = [&](const char* out, QStringList more) {
      return run(QStringList{"drape", floor_, "--mesh", mesh, "--out", dir_.filePath(QLatin1String(out)), "--size",
                             "64x64", "--clean", "--maps", "256", "--background", "none", "--relief", "0"} +
                 more);
    };
    QCOMPARE(drape("whole.png", {}).status, 0);
    QCOMPARE(drape("parts.png", {"--part", "head=" + sign, "--part", "foot=" + sign}).status, 0);
    const QImage whole(dir_.filePath(QStringLiteral("whole.png"))), parts(dir_.filePath(QStringLiteral("parts.png")));
    int same = 0, other = 0;
    for (int y = 0; y < 64; ++y)
      for (int x = 0; x < 64; ++x) {
        QCOMPARE(whole.pixelColor(x, y).alpha(), parts.pixelColor(x, y).alpha());
        if (whole.pixelColor(x, y).alpha() == 255) ++(whole.pixel(x, y) == parts.pixel(x, y) ? same : other);
      }
    QVERIFY2(same > 100 && other > 100, std::to_string(same).c_str());
    const Ran unknown = drape("x.png", {"--part", "lid=" + sign});
    QCOMPARE(unknown.status, 2);
    QVERIFY2(unknown.err.contains("foot, post, head"), unknown.err.constData());
    QCOMPARE(run({"drape", floor_, "--part", "head=" + sign, "--out", dir_.filePath("x.png")}).status, 2);
    const Ran none = run({"drape", floor_, "--mesh", dir_.filePath("none.obj"), "--out", dir_.filePath("x.png")});
    QCOMPARE(none.status, 1);
    QVERIFY2(none.err.contains("none.obj"), none.err.constData());
    // What depends on the eye or the light is left out of a set and told; asked for by its name it is a fault.
    const Ran set = run({"render", sign, "--out", dir_.filePath("set"), "--size", "64"});
    QCOMPARE(set.status, 0);
    QVERIFY2(set.err.contains("cannot become a map"), set.err.constData());
    QCOMPARE(
        run({"render", sign, "--maps", "emissive,base_colour", "--out", dir_.filePath("set"), "--size", "64"}).status,
        1);
    QCOMPARE(run({"check", sign}).status, 0);
  }
  void meshesAreMeasuredAndDeliveredOnto() {
    const QString mesh = QStringLiteral(LOOM_DEMO "/sign.glb");
    const auto measure = [&](QStringList more) {
      return run(QStringList{"measure", mesh} + more + QStringList{"--size", "256", "--rays", "8"});
    };
    const QString out = dir_.filePath(QStringLiteral("m.exr"));
    const Ran edges = measure({"convex_edges", "--out", out});
    QCOMPARE(edges.status, 0);
    QVERIFY2(edges.err.contains("laid out anew"), edges.err.constData());
    const auto one = loom::read_image(out.toStdString());
    QVERIFY(one && one->width == 256 && one->channels == 1);
    QVERIFY(*std::max_element(one->values.begin(), one->values.end()) > 0.3f);
    QCOMPARE(measure({"rounded_edge.normal", "--out", out}).status, 0);
    QCOMPARE(loom::read_image(out.toStdString())->channels, 3);
    QCOMPARE(measure({"thickness", "--part", "board", "--out", out}).status, 0);
    const Ran lid = measure({"thickness", "--part", "lid", "--out", out});
    QCOMPARE(lid.status, 2);
    QVERIFY2(lid.err.contains("board"), lid.err.constData());
    const Ran none = measure({"roundness", "--out", out});
    QCOMPARE(none.status, 2);
    QVERIFY2(none.err.contains("mesh_occlusion.open"), none.err.constData());

    // A document that goes with its mesh: draped on it unless told otherwise, and delivered onto it with what depends
    // on the shape.
    const QString bollard = QStringLiteral(LOOM_DEMO "/bollard.loom");
    const auto drape = [&](const char* name, QStringList more) {
      return run(QStringList{"drape", bollard, "--out", dir_.filePath(QLatin1String(name)), "--size", "64x64",
                             "--clean", "--maps", "256", "--unlit", "faded.result", "--background", "none"} +
                 more)
          .status;
    };
    QCOMPARE(drape("on_own.png", {}), 0);
    QCOMPARE(drape("on_named.png", {"--mesh", QStringLiteral(LOOM_DEMO "/bollard.glb")}), 0);
    QCOMPARE(drape("on_ball.png", {"--shape", "ball"}), 0);
    const auto picture = [&](const char* name) { return QImage(dir_.filePath(QLatin1String(name))); };
    QVERIFY(!picture("on_own.png").isNull() && picture("on_own.png") == picture("on_named.png"));
    QVERIFY(picture("on_own.png") != picture("on_ball.png"));
    const Ran set = run({"render", bollard, "--on", mesh, "--out", dir_.filePath("onto"), "--size", "128", "--maps",
                         "base_colour,metallic"});
    QCOMPARE(set.status, 0);
    QVERIFY(QFile::exists(dir_.filePath(QStringLiteral("onto/iron-bollard_base_colour_128.png"))));
    QVERIFY(QFile::exists(dir_.filePath(QStringLiteral("onto/iron-bollard_mesh_128.obj"))));
    QVERIFY(!QFile::exists(dir_.filePath(QStringLiteral("onto/iron-bollard_roughness_128.png"))));
    QCOMPARE(run({"render", bollard, "--on", dir_.filePath("none.obj"), "--out", dir_.filePath("onto")}).status, 1);
  }
  void drapeTellsWhatItCannotUse() {
    const auto told = [&](QStringList more, int status, const char* words) {
      const Ran r = run(QStringList{"drape", floor_, "--out", dir_.filePath("x.png")} + more);
      QCOMPARE(r.status, status);
      QVERIFY2(r.err.contains(words), r.err.constData());
      QVERIFY(!QFile::exists(dir_.filePath(QStringLiteral("x.png"))));
    };
    told({"--camera", "north"}, 2, "is no place to look from");
    told({"--camera", "0,95"}, 2, "-89 to 89");
    told({"--camera", "0,5,0.2"}, 2, "1.02 to 40");
    told({"--light", "1,2,3"}, 2, "is no direction");
    told({"--key", "-1"}, 2, "is no key light");
    told({"--background", "#12"}, 2, "is no background");
    told({"--size", "8x8"}, 2, "is no size");
    told({"--unlit", "laid.nothing"}, 2, "is no output of this material");
    told({"--environment", dir_.filePath(QStringLiteral("nowhere.exr"))}, 1, "nowhere.exr");
    QCOMPARE(run({"drape", floor_, "--out", dir_.filePath("square.exr"), "--size", "64x64", "--clean", "--maps", "256"})
                 .status,
             0);
    told({"--environment", dir_.filePath(QStringLiteral("square.exr"))}, 1, "twice as wide as high");
  }
  void drapeBoltAndTimeWork() {
    const QString png = dir_.filePath(QStringLiteral("d.png")), bolt = dir_.filePath(QStringLiteral("d.bolt"));
    QCOMPARE(run({"drape", floor_, "--out", png, "--size", "64x48", "--samples", "2"}).status, 0);
    QCOMPARE(QImage(png).size(), QSize(64, 48));
    QCOMPARE(run({"bolt", floor_, "--out", bolt}).status, 0);
    QCOMPARE(run({"check", bolt}).status, 0);
    const QJsonObject manifest =
        QJsonDocument::fromJson(run({"bolt", floor_, "--out", bolt, "--version", "2.5", "--no-pictures", "--json"}).out)
            .object();
    QCOMPARE(manifest[QStringLiteral("version")].toString(), QStringLiteral("2.5"));
    QCOMPARE(manifest[QStringLiteral("id")].toString(), QStringLiteral("quay_floor"));
    QCOMPARE(run({"bolt", floor_, "--out", bolt, "--version", "new"}).status, 2);
    const QString unpacked = dir_.filePath(QStringLiteral("unpacked"));
    QCOMPARE(run({"unpack", bolt, "--out", unpacked}).status, 0);
    QCOMPARE(run({"check", unpacked + QStringLiteral("/quay_floor.loom")}).status, 0);
    QCOMPARE(run({"unpack", floor_, "--out", unpacked}).status, 1);
    const Ran r = run({"time", floor_, "--size", "128", "--json"});
    QCOMPARE(r.status, 0);
    const QJsonObject o = QJsonDocument::fromJson(r.out).object();
    QCOMPARE(o[QStringLiteral("evaluations")].toArray().size(), 9);  // cold, and eight dials
    QVERIFY(o[QStringLiteral("peak_bytes")].toDouble() > 0);
  }
  void proofJudgesAndSaysHow() {
    const Ran json = run({"proof", floor_, "--size", "256", "--json"});
    QCOMPARE(json.status, 0);
    const QJsonArray findings = QJsonDocument::fromJson(json.out).array();
    QVERIFY(findings.size() >= 10);
    for (const auto& f : findings)
      for (const char* key : {"check", "verdict", "figure", "limit", "places", "why"})
        QVERIFY2(f.toObject().contains(QLatin1String(key)), key);
    const Ran some = run({"proof", floor_, "--size", "256", "--checks", "edges,normal_height"});
    QCOMPARE(some.out.count('\n'), 2);
    QVERIFY(run({"proof", floor_, "--checks", "taste"}).err.contains("base_colour_range"));
    // Typed black and no light of its own: it falls short.
    QFile doc(dir_.filePath(QStringLiteral("black.loom")));
    QVERIFY(doc.open(QIODevice::WriteOnly));
    doc.write(R"({"format": 2, "name": "Black", "nodes": [], "hem_values": {"base_colour": [0, 0, 0]}})");
    doc.close();
    const Ran black = run({"proof", doc.fileName(), "--size", "128"});
    QCOMPARE(black.status, 1);
    QVERIFY2(black.out.contains("fail"), black.err.constData());
  }
  void dialsAreFitted() {
    const QString folder = dir_.filePath(QStringLiteral("fit"));
    QCOMPARE(
        run({"render", floor_, "--out", folder, "--size", "256", "--maps", "base_colour", "--set", "wear=0.9"}).status,
        0);
    const QString picture = folder + QStringLiteral("/quay-floor_base_colour_256.png"),
                  out = folder + QStringLiteral("/fitted.loom");
    const Ran fitted = run({"fit", floor_, picture, "--dials", "wear", "--seconds", "20", "--out", out, "--json"});
    QCOMPARE(fitted.status, 0);
    const QJsonObject told = QJsonDocument::fromJson(fitted.out).object();
    QVERIFY(told[QStringLiteral("unlike")].toDouble() < told[QStringLiteral("unlike_before")].toDouble());
    const QJsonArray dials = told[QStringLiteral("dials")].toArray();
    QCOMPARE(dials.size(), 1);
    QVERIFY(std::abs(dials[0].toObject()[QStringLiteral("to")].toString().toDouble() - 0.9) < 0.1);
    QCOMPARE(run({"check", out}).status, 0);
    QVERIFY(
        run({"fit", floor_, picture, "--dials", "taste", "--out", out}).err.contains("is no dial of this material"));
    QCOMPARE(run({"fit", floor_, folder + QStringLiteral("/none.png"), "--out", out}).status, 1);
  }
  void sheetsArePrinted() {
    const QString page = dir_.filePath(QStringLiteral("sheet.png"));
    const Ran told = run(
        {"sheet", floor_, "--over", "wear=0..1:3", "--over", "salt=0,0.4", "--size", "64", "--out", page, "--json"});
    QCOMPARE(told.status, 0);
    QCOMPARE(QJsonDocument::fromJson(told.out).object().value(QStringLiteral("pictures")).toInt(), 6);
    const QImage image(page);
    QVERIFY(image.width() > 3 * 64 && image.height() > 2 * 64);
    QCOMPARE(run({"sheet", floor_, "--over", "taste=1..3", "--out", page}).status, 1);
    QCOMPARE(run({"sheet", floor_, "--over", "seed=1..9000", "--out", page}).status, 1);
    QCOMPARE(run({"sheet", floor_, "--out", page}).status, 2);
    QCOMPARE(run({"sheet", floor_, "--over", "seed=1..2", "--size", "32", "--out", "/nowhere/sheet.png"}).status, 3);
  }
  void whatAMaterialAsksForIsGiven() {
    const QString shingles = QStringLiteral(LOOM_DEMO "/copper-shingles.loom"),
                  maps = dir_.filePath(QStringLiteral("rain"));
    QCOMPARE(run({"render", shingles, "--input", "rain=0", "--size", "64", "--maps", "metallic", "--out", maps}).status,
             0);
    const QImage metal(maps + QLatin1Char('/') + QDir(maps).entryList({QStringLiteral("*.png")}).value(0));
    QVERIFY(!metal.isNull());
    QVERIFY2(qGray(metal.pixel(3, 3)) == 255, qPrintable(QString::number(qGray(metal.pixel(3, 3)))));
    const Ran wrong = run({"render", shingles, "--input", "snow=1", "--size", "64", "--out", maps});
    QCOMPARE(wrong.status, 1);
    QVERIFY(wrong.err.contains("rain"));
    QCOMPARE(run({"render", shingles, "--input", "rain=/nowhere.png", "--size", "64", "--out", maps}).status, 1);
  }
  void aSetComesBackIn() {
    const QString maps = dir_.filePath(QStringLiteral("set")), doc = dir_.filePath(QStringLiteral("in/back.loom"));
    QCOMPARE(run({"render", floor_, "--size", "64", "--green-down", "--out", maps}).status, 0);
    QVERIFY(QDir().mkpath(QFileInfo(doc).path()));
    const Ran told = run({"import", maps, "--out", doc, "--json"});
    QVERIFY2(told.status == 0, told.err.constData());
    const QJsonObject plan = QJsonDocument::fromJson(told.out).object();
    QCOMPARE(plan.value(QStringLiteral("maps")).toArray().size(), 5);
    for (const auto& map : plan.value(QStringLiteral("maps")).toArray())
      if (map.toObject().value(QStringLiteral("slot")).toString() == QStringLiteral("normal"))
        QCOMPARE(map.toObject().value(QStringLiteral("green")).toString(), QStringLiteral("down"));
    QVERIFY(QDir(QFileInfo(doc).path() + QStringLiteral("/back.files")).entryList(QDir::Files).size() == 5);
    QCOMPARE(run({"check", doc}).status, 0);
    QCOMPARE(run({"import", dir_.filePath(QStringLiteral("nowhere")), "--out", doc}).status, 1);
    QCOMPARE(run({"import", maps, "--out", dir_.filePath(QStringLiteral("not/there/x.loom"))}).status, 3);
  }
  // One that fails takes no other along; what is over is left alone; who is killed leaves nothing that is half.
  void aBatchGoesOnWhereItWas() {
    QDir(dir_.path()).mkpath(QStringLiteral("batch"));
    const QString folder = dir_.filePath(QStringLiteral("batch/")), jobs = folder + QStringLiteral("jobs.jsonl");
    QFile::copy(floor_, folder + QStringLiteral("floor.loom"));
    QFile file(jobs);
    QVERIFY(file.open(QIODevice::WriteOnly));
    for (int i = 0; i < 12; ++i)
      file.write(
          QStringLiteral(
              R"({"call": "render", "file": "floor.loom", "size": 256, "seed": %1, "set": {"wear": 0.4}, "out": "out/%1"})"
              "\n")
              .arg(i)
              .toUtf8());
    file.write("{ broken\n");
    file.write("{\"call\": \"render\", \"file\": \"none.loom\", \"out\": \"out/none\"}\n");
    file.write("{\"call\": \"proof\", \"file\": \"floor.loom\", \"size\": 128, \"checks\": [\"edges\"]}\n");
    file.close();
    const auto states = [&] { return QDir(jobs + QStringLiteral(".state")).entryList(QDir::Files); };
    QProcess killed;
    killed.start(QStringLiteral(LOOM_CLI), {"batch", jobs, "--jobs", "2"});
    QVERIFY(QTest::qWaitFor([&] { return states().size() > 3; }, 60000));
    killed.kill();
    killed.waitForFinished();
    const int over = static_cast<int>(states().size());
    QVERIFY(over < 15);
    const Ran resumed = run({"batch", jobs, "--resume", "--json", "--part", "1/1"});
    QCOMPARE(resumed.status, 3);
    const QJsonObject told = QJsonDocument::fromJson(resumed.out).object();
    const QJsonArray failed = told[QStringLiteral("failed")].toArray();
    QCOMPARE(failed.size(), 2);
    QCOMPARE(failed[0].toObject()[QStringLiteral("line")].toInt(), 13);
    QVERIFY(failed[1].toObject()[QStringLiteral("why")].toString().contains(QStringLiteral("none.loom")));
    const int skipped = told[QStringLiteral("skipped")].toInt();
    QVERIFY(skipped >= over - 2 && skipped + told[QStringLiteral("done")].toInt() == 13);
    QCOMPARE(states().size(), 15);
    // As the call alone writes it.
    const Ran alone = run({"render", folder + QStringLiteral("floor.loom"), "--size", "256", "--seed", "7", "--set",
                           "wear=0.4", "--out", folder + QStringLiteral("alone")});
    QCOMPARE(alone.status, 0);
    const auto bytes = [](const QString& path) {
      QFile f(path);
      return f.open(QIODevice::ReadOnly) ? f.readAll() : QByteArray();
    };
    const QStringList maps = QDir(folder + QStringLiteral("alone")).entryList(QDir::Files | QDir::Hidden);
    QVERIFY(!maps.isEmpty());
    QCOMPARE(QDir(folder + QStringLiteral("out/7")).entryList(QDir::Files | QDir::Hidden), maps);
    for (const QString& map : maps)
      QCOMPARE(bytes(folder + QStringLiteral("out/7/") + map), bytes(folder + QStringLiteral("alone/") + map));
    // What the call wrote stands in its state.
    QFile proof(jobs + QStringLiteral(".state/") + states().last());
    QVERIFY(proof.open(QIODevice::ReadOnly));
    const QJsonObject state = QJsonDocument::fromJson(proof.readAll()).object();
    QCOMPARE(state[QStringLiteral("report")].toArray()[0].toObject()[QStringLiteral("check")].toString(),
             QStringLiteral("edges"));
    QCOMPARE(run({"batch", jobs, "--part", "9/8"}).status, 2);
    QCOMPARE(run({"batch", folder + QStringLiteral("none.jsonl")}).status, 1);
  }

  void aBoltWithAnotherContentIsNamed() {
    const QString bolt = dir_.filePath(QStringLiteral("floor.bolt")), doc = dir_.filePath(QStringLiteral("uses.loom"));
    QCOMPARE(run({"bolt", floor_, "--no-pictures", "--out", bolt}).status, 0);
    QFile file(doc);
    QVERIFY(file.open(QIODevice::WriteOnly));
    file.write(R"({"format": 2, "nodes": [{"id": "a", "type": "bolt", "row": 0, "column": 0, "params": {}, "bolt": {
      "id": "quay_floor", "version": "0.9", "file": "floor.bolt", "sha256": ")" +
               QByteArray(64, 'a') + R"("}}]})");
    file.close();
    const Ran refused = run({"check", doc});
    QCOMPARE(refused.status, 1);
    QVERIFY2(refused.err.contains("other contents") && refused.err.contains("0.9"), refused.err.constData());
  }
};

QTEST_MAIN(TestCommandLine)
#include "tst_command_line.moc"
