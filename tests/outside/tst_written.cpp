// Files as two other libraries read them: every bit is the one that was meant, and no clock time is in them.
#include <OpenImageIO/imageio.h>

#include <filesystem>
#include <fstream>
#include <iterator>
#include <thread>

#include <opencv2/imgcodecs.hpp>

#include "core/io/image.h"
#include "core/plane/colour.h"
#include "tests/core/alone.h"

using namespace loom;
using namespace loom::test;

namespace {

// Slopes, chance, flat parts, and what lies outside 0..1.
Plane picture(int size, int which) {
  std::mt19937 chance(static_cast<unsigned>(which));
  std::uniform_real_distribution<double> even(-0.2, 1.2);
  return painted(size, [&](double u, double v) {
    if (v < 0.3) return u * (which + 1) / 3;
    if (v < 0.6) return even(chance);
    return std::floor(u * 5) / 4;
  });
}

std::string bytes_of(const std::string& path) {
  std::ifstream in(path, std::ios::binary);
  return {std::istreambuf_iterator<char>(in), {}};
}

}  // namespace

class TestWritten : public QObject {
  Q_OBJECT
 private Q_SLOTS:
  void aPngIsReadBackBitForBit_data() {
    QTest::addColumn<int>("size");
    QTest::addColumn<int>("channels");
    QTest::addColumn<int>("bits");
    QTest::addColumn<bool>("srgb");
    for (const int size : {16, 64, 128, 512})
      for (const int channels : {1, 3, 4})
        for (const int bits : {8, 16})
          for (const bool srgb : {false, true})
            QTest::newRow(qPrintable(QString::fromLatin1("%1 x %2, %3 bits, %4")
                                         .arg(size)
                                         .arg(channels)
                                         .arg(bits)
                                         .arg(srgb ? "sRGB" : "linear")))
                << size << channels << bits << srgb;
  }
  void aPngIsReadBackBitForBit() {
    QFETCH(int, size);
    QFETCH(int, channels);
    QFETCH(int, bits);
    QFETCH(bool, srgb);
    QTemporaryDir dir;
    const std::string path = dir.path().toStdString() + "/p.png";
    std::vector<Plane> planes;
    for (int i = 0; i < channels; ++i) planes.push_back(picture(size, i));
    std::vector<Channel> given;
    for (const Plane& p : planes) given.push_back({&p, 0.9f, 0.03f});
    QVERIFY(write_image(path, given, {ImageFormat::png, bits, srgb}).ok());
    const std::uint32_t most = bits == 8 ? 255 : 65535;
    const auto meant = [&](int c, int x, int y) {
      const float v = 0.03f + 0.9f * planes[static_cast<std::size_t>(c)].at(x, y);
      return code_of(srgb && c < 3 ? srgb_from_linear(v) : v, most);
    };
    const cv::Mat read = cv::imread(path, cv::IMREAD_UNCHANGED);
    QCOMPARE(read.cols, size);
    QCOMPARE(read.channels(), channels);
    QCOMPARE(read.depth(), bits == 8 ? CV_8U : CV_16U);
    OIIO::ImageSpec straight;
    straight.attribute("oiio:UnassociatedAlpha", 1);
    auto file = OIIO::ImageInput::open(path, &straight);
    QVERIFY(file && file->spec().nchannels == channels && file->spec().width == size);
    const std::string space = file->spec().get_string_attribute("oiio:ColorSpace");
    QVERIFY2(space == (srgb ? "sRGB" : "linear") || space == (srgb ? "sRGB" : "Linear"), space.c_str());
    std::vector<std::uint16_t> values(static_cast<std::size_t>(size) * static_cast<std::size_t>(size) *
                                      static_cast<std::size_t>(channels));
    std::vector<std::uint8_t> bytes(values.size());
    QVERIFY(bits == 8 ? file->read_image(0, 0, 0, -1, OIIO::TypeDesc::UINT8, bytes.data())
                      : file->read_image(0, 0, 0, -1, OIIO::TypeDesc::UINT16, values.data()));
    std::size_t wrong = 0;
    for (int y = 0; y < size; ++y)
      for (int x = 0; x < size; ++x)
        for (int c = 0; c < channels; ++c) {
          const int blue_first = channels >= 3 && c < 3 ? 2 - c : c;
          const std::uint32_t by_cv = bits == 8 ? read.ptr<std::uint8_t>(y)[x * channels + blue_first]
                                                : read.ptr<std::uint16_t>(y)[x * channels + blue_first];
          const auto at = static_cast<std::size_t>((y * size + x) * channels + c);
          wrong += by_cv != meant(c, x, y) || (bits == 8 ? bytes[at] : values[at]) != meant(c, x, y);
        }
    QCOMPARE(wrong, std::size_t{0});
  }

  void everyGreyGetsItsOwnCode() {
    // All floats near each border between two codes, and a fine walk between.
    constexpr int kSize = 512;
    Plane p(kSize);
    std::size_t at = 0;
    for (int code = 0; code < 255; ++code) {
      float x = linear_from_srgb((static_cast<float>(code) + 0.5f) / 255);
      for (int i = 0; i < 200; ++i) x = std::nextafter(x, 0.0f);
      for (int i = 0; i < 400; ++i, x = std::nextafter(x, 2.0f)) p.data()[at++] = x;
    }
    for (std::size_t i = 0; at < p.texels(); ++i) p.data()[at++] = static_cast<float>(i) / 100000;
    QTemporaryDir dir;
    const std::string path = dir.path().toStdString() + "/p.png";
    QVERIFY(write_image(path, {{&p}}, {ImageFormat::png, 8, true}).ok());
    const cv::Mat read = cv::imread(path, cv::IMREAD_UNCHANGED);
    for (std::size_t i = 0; i < p.texels(); ++i)
      QCOMPARE(static_cast<std::uint32_t>(read.data[i]), code_of(srgb_from_linear(p.data()[i]), 255));
  }

  void filesAreHardlyLargerThanZlibs() {
    // Against the best that zlib does at its usual level, through OpenImageIO.
    constexpr int kSize = 512;
    std::vector<Plane> planes;
    for (int i = 0; i < 3; ++i) planes.push_back(bumpy(kSize, i));
    QTemporaryDir dir;
    const std::string ours = dir.path().toStdString() + "/ours.png", theirs = dir.path().toStdString() + "/theirs.png";
    QVERIFY(write_image(ours, {{&planes[0]}, {&planes[1]}, {&planes[2]}}, {ImageFormat::png, 16, false}).ok());
    std::vector<std::uint16_t> values;
    for (std::size_t i = 0; i < planes[0].texels(); ++i)
      for (const Plane& p : planes) values.push_back(static_cast<std::uint16_t>(code_of(p.data()[i], 65535)));
    OIIO::ImageSpec spec(kSize, kSize, 3, OIIO::TypeDesc::UINT16);
    spec.attribute("png:compressionLevel", 6);
    auto file = OIIO::ImageOutput::create(theirs);
    QVERIFY(file->open(theirs, spec) && file->write_image(OIIO::TypeDesc::UINT16, values.data()) && file->close());
    const double ratio =
        static_cast<double>(std::filesystem::file_size(ours)) / static_cast<double>(std::filesystem::file_size(theirs));
    QVERIFY2(ratio < 1.1, qPrintable(QString::number(ratio)));
  }

  void theSamePlanesGiveTheSameBytesAtAnyTime_data() {
    QTest::addColumn<ImageFormat>("format");
    QTest::addColumn<int>("bits");
    QTest::newRow("png") << ImageFormat::png << 16;
    QTest::newRow("exr") << ImageFormat::exr << 32;
    QTest::newRow("exr half") << ImageFormat::exr << 16;
  }
  void theSamePlanesGiveTheSameBytesAtAnyTime() {
    QFETCH(ImageFormat, format);
    QFETCH(int, bits);
    const Plane p = picture(64, 1);
    QTemporaryDir dir;
    const std::string first = dir.path().toStdString() + "/a", then = dir.path().toStdString() + "/b",
                      ending = format == ImageFormat::png ? ".png" : ".exr";
    QVERIFY(write_image(first + ending, {{&p}}, {format, bits, false}).ok());
    std::this_thread::sleep_for(std::chrono::milliseconds(1100));  // the clock of a file counts in seconds
    QVERIFY(write_image(then + ending, {{&p}}, {format, bits, false}).ok());
    QVERIFY(bytes_of(first + ending) == bytes_of(then + ending));
    QVERIFY(!bytes_of(first + ending).empty());
  }

  // Where an EXR file says that its rows lie is a stranger's word.
  void offsetsThatLeadOutOfAFileAreRefused() {
    const Plane p = picture(8, 1);
    QTemporaryDir dir;
    const std::string file = dir.path().toStdString() + "/a.exr";
    QVERIFY(write_image(file, {{&p}}, {ImageFormat::exr, 32, false}).ok());
    const std::string bytes = bytes_of(file);
    QVERIFY(decode_image("a.exr", bytes).ok());
    const auto number_at = [&](std::size_t i) {
      std::uint64_t n;
      std::memcpy(&n, bytes.data() + i, sizeof n);
      return n;
    };
    // One block of rows: the table is one number, which names the byte after it.
    std::size_t table = 0;
    while (table + 8 < bytes.size() && number_at(table) != table + 8) ++table;
    QVERIFY(table + 8 < bytes.size());
    const std::uint64_t size = bytes.size();
    for (const std::uint64_t evil :
         {size, size - 1, size - 3, size + 1, std::uint64_t{1} << 32, (std::uint64_t{1} << 63) - 1,
          (std::uint64_t{1} << 63), ~std::uint64_t{0}, ~std::uint64_t{0} - 3, std::uint64_t{0} - size}) {
      std::string broken = bytes;
      std::memcpy(broken.data() + table, &evil, sizeof evil);
      QVERIFY2(!decode_image("a.exr", broken).ok(), QByteArray::number(static_cast<qulonglong>(evil)));
    }
  }
  // What the fuzzer of pictures found: the first byte stands for the format.
  void whatWasFoundBeforeIsRefused() {
    const std::filesystem::path found = std::filesystem::path(LOOM_DATA).parent_path() / "fuzz/found/picture";
    int n = 0;
    for (const auto& entry : std::filesystem::directory_iterator(found)) {
      const std::string bytes = bytes_of(entry.path());
      QVERIFY2(!decode_image("found" + entry.path().extension().string(), bytes.substr(1)).ok(), entry.path().c_str());
      ++n;
    }
    QVERIFY(n > 0);
  }

  void aStoppedFileLeavesNothing() {
    const Plane p = picture(512, 2);
    QTemporaryDir dir;
    for (const ImageFormat format : {ImageFormat::png, ImageFormat::exr}) {
      Stop stop;
      stop.ask();
      const auto done = write_image(dir.path().toStdString() + "/p", {{&p}},
                                    {format, format == ImageFormat::png ? 8 : 32, false}, stop);
      QVERIFY(!done.ok());
    }
    QVERIFY(QDir(dir.path()).isEmpty());
  }
};

QTEST_GUILESS_MAIN(TestWritten)
#include "tst_written.moc"
