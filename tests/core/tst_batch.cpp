// Jobs of a batch: read line by line, divided, made arguments, and known to be over.
#include <QTemporaryDir>
#include <QtTest>
#include <fstream>

#include "core/base/half_written.h"
#include "core/bolt/batch.h"
#include "core/graph/disc.h"

using namespace loom;

class TestBatch : public QObject {
  Q_OBJECT
  static QString joined(const char* job) {
    const auto arguments = job_arguments(job);
    if (!arguments) return QStringLiteral("! ") + QString::fromStdString(arguments.error().text());
    QStringList list;
    for (const std::string& a : *arguments) list << QString::fromStdString(a);
    return list.join(QLatin1Char('|'));
  }

 private Q_SLOTS:
  void jobsAreArguments_data() {
    QTest::addColumn<QString>("job");
    QTest::addColumn<QString>("arguments");
    const auto row = [](const char* job, const char* arguments) {
      QTest::newRow(arguments) << QString::fromUtf8(job) << QString::fromUtf8(arguments);
    };
    row(R"({"call":"render","file":"a.loom","out":"o","size":512})", "render|a.loom|--out=o|--size=512");
    row(R"({"call":"render","file":"a.loom","gltf":true,"anew":false,"out":"o"})", "render|a.loom|--gltf|--out=o");
    row(R"({"call":"render","file":"a.loom","set":{"wear":0.5,"glaze":[0.1,0.2,0.3],"dull":true}})",
        "render|a.loom|--set|dull=1|--set|glaze=0.1,0.2,0.3|--set|wear=0.5");
    row(R"({"call":"sheet","file":"a.loom","over":["seed=1..4","wear=0..1:3"]})",
        "sheet|a.loom|--over=seed=1..4|--over=wear=0..1:3");
    row(R"({"call":"compare","file":["a","b"]})", "compare|a|b");
    row(R"({"call":"render","file":"-odd.loom"})", "render|./-odd.loom");
    row(R"({"call":"drape","file":"a.loom","camera":[30,20],"json":true})", "drape|a.loom|--camera=30,20");
  }
  void jobsAreArguments() {
    QFETCH(QString, job);
    QFETCH(QString, arguments);
    QCOMPARE(joined(job.toUtf8().constData()), arguments);
  }

  void whatIsNoJobIsSaid() {
    for (const char* bad : {"", "{ no", "[]", "7", R"({"file":"a"})", R"({"call":"batch"})", R"({"call":"rm"})",
                            R"({"call":7})", R"({"call":"render","file":7})", R"({"call":"render","set":{"a":{}}})",
                            R"({"call":"render","size":null})", R"({"call":"render","over":["a",{}]})"}) {
      const auto arguments = job_arguments(bad);
      QVERIFY2(!arguments.ok() && !arguments.error().mend.empty(), bad);
    }
  }

  // Every job is in one share, and in one alone.
  void sharesAreAllOfIt() {
    const QTemporaryDir dir;
    const std::filesystem::path file = dir.filePath(QStringLiteral("jobs.jsonl")).toStdString();
    std::string text;
    for (int i = 0; i < 23; ++i) text += "{\"job\": " + std::to_string(i) + "}\n" + (i % 5 ? "" : "\n  \r\n");
    QVERIFY(write_file(file, text).ok());
    const auto all = read_jobs(file);
    QVERIFY(all.ok());
    QCOMPARE(all->size(), std::size_t{23});
    QCOMPARE(all->at(1).line, 4);
    for (const int count : {1, 4, 23, 40}) {
      std::set<int> lines;
      for (int index = 1; index <= count; ++index)
        for (const Job& job : jobs_of(*all, {index, count})) QVERIFY(lines.insert(job.line).second);
      QCOMPARE(lines.size(), std::size_t{23});
    }
    QCOMPARE(part_from("3/8")->index, 3);
    for (const char* bad : {"", "3", "0/8", "9/8", "a/b", "1/2/3", "-1/2", "1/"}) QVERIFY2(!part_from(bad).ok(), bad);
    QVERIFY(!read_jobs(dir.filePath(QStringLiteral("none")).toStdString()).ok());
  }

  // Known by its line and its text; one that failed is not over.
  void statesAreKept() {
    const QTemporaryDir dir;
    const std::filesystem::path file = dir.filePath(QStringLiteral("jobs.jsonl")).toStdString();
    const Job job{3, "{\"call\": \"render\"}"}, edited{3, "{\"call\": \"render\", \"size\": 64}"}, moved{4, job.text};
    QVERIFY(!is_done(file, job));
    QVERIFY(keep_state(file, job, {3, "render", 1, 0.5, "no such file", {}}).ok());
    QVERIFY(!is_done(file, job));
    QVERIFY(keep_state(file, job, {3, "render", 0, 0.5, {}, {{"files", 2}}}).ok());
    QVERIFY(is_done(file, job) && !is_done(file, edited) && !is_done(file, moved));
    QVERIFY(keep_state(file, moved, {4, "compare", 4, 0.5, {}, {}}).ok());  // they differ: that was asked
    QVERIFY(is_done(file, moved));
    QVERIFY(write_file(state_file(file, job), "{ half").ok());
    QVERIFY(!is_done(file, job));
  }

  // Of a writer that is gone, and of the named files alone.
  void halfWrittenFilesGo() {
    const QTemporaryDir dir;
    const std::filesystem::path folder = dir.path().toStdString(), own = half_written(folder / "map.png");
    QCOMPARE(own.extension(), std::filesystem::path(".png"));
    // Longer than any process number of Linux: kernel documentation, sysctl, pid_max.
    const auto gone = folder / ".part-4194399-map.png", other = folder / ".part-4194399-other.png";
    for (const auto& path : {own, gone, other, folder / "map.png", folder / ".part-x-map.png"})
      std::ofstream(path) << "half";
    remove_half_written(folder, {"map.png"});
    QVERIFY(std::filesystem::exists(own) && std::filesystem::exists(other) &&
            std::filesystem::exists(folder / "map.png"));
    QVERIFY(!std::filesystem::exists(gone));
    remove_half_written(folder / "nowhere", {"map.png"});
  }
};

QTEST_GUILESS_MAIN(TestBatch)
#include "tst_batch.moc"
