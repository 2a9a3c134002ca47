// Colour and rounding against IEC 61966-2-1 and the PNG specification, and files against an independent reader
// (OpenCV).
#include <QTemporaryDir>
#include <opencv2/imgcodecs.hpp>

#include "core/bolt/delivery.h"
#include "core/bolt/package.h"
#include "core/plane/colour.h"
#include "tests/core/alone.h"
#include "tests/outside/reference.h"

using namespace loom;
using namespace loom::test;

class TestColour : public QObject {
  Q_OBJECT
 private Q_SLOTS:
  void srgbBothWays() {  // IEC 61966-2-1:1999
    QVERIFY(each("colour.json", "sRGB decode", [](const json& r) {
              QVERIFY(std::abs(static_cast<double>(linear_from_srgb(r["inputs"]["encoded"].get<float>())) -
                               r["expected"].get<double>()) < 2e-6);
            }) >= 10);
    QVERIFY(each("colour.json", "sRGB encode", [](const json& r) {
              QVERIFY(std::abs(static_cast<double>(srgb_from_linear(r["inputs"]["linear"].get<float>())) -
                               r["expected"].get<double>()) < 2e-6);
            }) >= 10);
  }
  void codesAreRoundedHalvesUp() {  // W3C PNG, second edition, 13.12: floor(x * MAX + 0.5)
    QVERIFY(each("colour.json", "unit float -> 8", [](const json& r) {
              const float x = r["inputs"]["x"].get<float>();
              QCOMPARE(code_of(x, 255), r["expected"][0].get<std::uint32_t>());
              QCOMPARE(code_of(x, 65535), r["expected"][1].get<std::uint32_t>());
            }) >= 8);
    QCOMPARE(code_of(std::nanf(""), 255), 0u);
  }
  void all256CodesSurvive() {
    for (std::uint32_t k = 0; k < 256; ++k)
      QCOMPARE(code_of(srgb_from_linear(linear_from_srgb(static_cast<float>(k) / 255)), 255), k);
  }
  void normalsAreEncodedAsPublished() {  // glTF 2.0: n * 0.5 + 0.5
    for (const json& r : reference("normals.json")) {
      if (r["quantity"].get<std::string>().rfind("encode", 0) != 0) continue;
      const auto n = r["inputs"]["n"].get<std::vector<float>>();
      for (std::size_t i = 0; i < 3; ++i) {
        // 0.8 lies on a half, which a float may miss by a hair: one code is the same there.
        const double exact = (static_cast<double>(n[i]) * 0.5 + 0.5) * 255,
                     tie = std::abs(exact - std::floor(exact) - 0.5);
        QVERIFY(std::abs(static_cast<int>(code_of(n[i] * 0.5f + 0.5f, 255)) - r["expected"][0][i].get<int>()) <=
                (tie < 1e-4 ? 1 : 0));
        QVERIFY(std::abs(static_cast<int>(code_of(n[i] * 0.5f + 0.5f, 65535)) - r["expected"][1][i].get<int>()) <=
                1);  // the input is a float here
      }
    }
  }
  void deliveredPngsAreReadByAnotherReader() {
    QTemporaryDir dir;
    const Material m = *open_material(LOOM_DEMO "/quay-floor.loom");
    DeliveryPlan plan;
    plan.folder = dir.path().toStdString();
    plan.size = 256;
    plan.files = usual_files(m);
    for (FileDelivery& f : plan.files) f.dither = false;
    Weaver w(0);
    const auto report = deliver(m, catalogue(), w, plan, Stop{});
    QVERIFY(report.ok());
    const auto g = *flatten(m, catalogue());
    for (const DeliveredFile& f : report->files) {
      const cv::Mat image = cv::imread(f.path.string(), cv::IMREAD_UNCHANGED);
      QVERIFY2(image.cols == 256 && image.rows == 256, f.name.c_str());
      QCOMPARE(image.depth(), f.bits == 8 ? CV_8U : CV_16U);
      const auto woven = w.weave(g, {Want(g.hem.at(f.name), slot_kind(f.name))}, 256, Stop{});
      const Field& field = woven->fields[0];
      const std::uint32_t most = f.bits == 8 ? 255 : 65535;
      for (int c = 0; c < image.channels(); ++c) {
        const int strand = image.channels() == 3 ? 2 - c : c;  // OpenCV gives blue first
        for (int y = 0; y < 256; y += 5)
          for (int x = 0; x < 256; x += 3) {
            float v = field.strand[static_cast<std::size_t>(strand)]->at(x, y);
            if (f.name == "normal") v = 0.5f + 0.5f * v;
            const std::uint32_t expected = code_of(f.srgb ? srgb_from_linear(v) : v, most);
            const std::uint32_t got = f.bits == 8 ? image.ptr<std::uint8_t>(y)[x * image.channels() + c]
                                                  : image.ptr<std::uint16_t>(y)[x * image.channels() + c];
            QCOMPARE(got, expected);
          }
      }
    }
  }
  void deliveredExrsAreReadByAnotherReader() {
    QTemporaryDir dir;
    qputenv("OPENCV_IO_ENABLE_OPENEXR", "1");
    const Plane p = painted(64, [](double u, double v) { return 30 * u - 7 * v + 0.001; });
    const std::string path = dir.path().toStdString() + "/p.exr";
    QVERIFY(write_image(path, {{&p}}, {ImageFormat::exr, 32, false}).ok());
    const auto ours = read_image(path);
    QVERIFY(ours.ok());
    for (int y = 0; y < 64; ++y)
      for (int x = 0; x < 64; ++x) QCOMPARE(ours->values[static_cast<std::size_t>(y * 64 + x)], p.at(x, y));
    const cv::Mat other = cv::imread(path, cv::IMREAD_UNCHANGED);
    QVERIFY2(!other.empty(), "OpenCV reads EXR");
    for (int y = 0; y < 64; ++y)
      for (int x = 0; x < 64; ++x) QCOMPARE(other.ptr<float>(y)[x * other.channels()], p.at(x, y));
  }
};

QTEST_GUILESS_MAIN(TestColour)
#include "tst_colour.moc"
