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

  // Both libraries give back what was meant, whole numbers and floats, alpha straight.
  void aTiffIsReadBackBitForBit_data() {
    QTest::addColumn<int>("channels");
    QTest::addColumn<int>("bits");
    QTest::addColumn<bool>("srgb");
    for (const int channels : {1, 3, 4})
      for (const int bits : {8, 16, 32})
        for (const bool srgb : {false, true})
          if (bits != 32 || !srgb) QTest::addRow("%d, %d bits, %d", channels, bits, srgb) << channels << bits << srgb;
  }
  void aTiffIsReadBackBitForBit() {
    QFETCH(int, channels);
    QFETCH(int, bits);
    QFETCH(bool, srgb);
    constexpr int kSize = 320;  // more than a band of rows
    QTemporaryDir dir;
    const std::string path = dir.path().toStdString() + "/p.tif";
    std::vector<Plane> planes;
    std::vector<Channel> given;
    for (int i = 0; i < channels; ++i) planes.push_back(picture(kSize, i));
    for (const Plane& p : planes) given.push_back({&p, 0.9f, 0.03f});
    QVERIFY(write_image(path, given, {ImageFormat::tiff, bits, srgb}).ok());
    const auto meant = [&](int c, int x, int y) {
      const float v = 0.03f + 0.9f * planes[static_cast<std::size_t>(c)].at(x, y);
      if (bits == 32) return static_cast<double>(v);
      return static_cast<double>(code_of(srgb && c < 3 ? srgb_from_linear(v) : v, bits == 8 ? 255 : 65535));
    };
    const cv::Mat read = cv::imread(path, cv::IMREAD_UNCHANGED);
    QCOMPARE(read.rows, kSize);
    QCOMPARE(read.channels(), channels);
    OIIO::ImageSpec straight;
    straight.attribute("oiio:UnassociatedAlpha", 1);
    auto file = OIIO::ImageInput::open(path, &straight);
    QVERIFY(file && file->spec().nchannels == channels);
    if (bits != 32) QCOMPARE(file->spec().get_int_attribute("Exif:ColorSpace"), srgb ? 1 : 65535);
    const auto type = bits == 8 ? OIIO::TypeDesc::UINT8 : bits == 16 ? OIIO::TypeDesc::UINT16 : OIIO::TypeDesc::FLOAT;
    QVERIFY(file->spec().format == type);
    std::vector<unsigned char> raw(static_cast<std::size_t>(kSize) * kSize *
                                   static_cast<std::size_t>(channels * bits / 8));
    QVERIFY(file->read_image(0, 0, 0, -1, type, raw.data()));
    const auto number = [&](const void* row, int i) -> double {
      if (bits == 8) return static_cast<const std::uint8_t*>(row)[i];
      if (bits == 16) return static_cast<const std::uint16_t*>(row)[i];
      return static_cast<double>(static_cast<const float*>(row)[i]);
    };
    std::size_t wrong = 0;
    for (int y = 0; y < kSize; ++y)
      for (int x = 0; x < kSize; ++x)
        for (int c = 0; c < channels; ++c) {
          const int blue_first = channels >= 3 && c < 3 ? 2 - c : c;
          const bool altered = channels == 4 && bits == 8 && c < 3;  // OpenCV multiplies these by alpha
          wrong += (!altered && number(read.ptr(y), x * channels + blue_first) != meant(c, x, y)) ||
                   number(raw.data(), (y * kSize + x) * channels + c) != meant(c, x, y);
        }
    QCOMPARE(wrong, std::size_t{0});
  }
  // The mean over many is the value; codes stay codes; nothing lies further off than a step.
  void ditheringKeepsTheMean_data() {
    QTest::addColumn<bool>("srgb");
    QTest::addColumn<ImageFormat>("format");
    QTest::newRow("linear PNG") << false << ImageFormat::png;
    QTest::newRow("sRGB PNG") << true << ImageFormat::png;
    QTest::newRow("linear TIFF") << false << ImageFormat::tiff;
  }
  void ditheringKeepsTheMean() {
    QFETCH(bool, srgb);
    QFETCH(ImageFormat, format);
    constexpr int kSize = 512;
    QTemporaryDir dir;
    const std::string path = dir.path().toStdString() + "/p" + ending_of(format);
    const auto share = [](int y) { return static_cast<float>(y) / (kSize - 1); };  // 0 and 1 are among them
    Plane p(kSize);
    for (int y = 0; y < kSize; ++y)
      for (int x = 0; x < kSize; ++x) p.at(x, y) = srgb ? linear_from_srgb(share(y)) : share(y);
    QVERIFY(write_image(path, {{&p}}, {format, 8, srgb, true}).ok());
    const cv::Mat read = cv::imread(path, cv::IMREAD_UNCHANGED);
    double worst = 0;
    for (int y = 0; y < kSize; ++y) {
      const double meant = 255.0 * static_cast<double>(share(y));
      double sum = 0;
      for (int x = 0; x < kSize; ++x) {
        const int code = read.ptr<std::uint8_t>(y)[x];
        QVERIFY(std::abs(code - meant) < 1.001);
        sum += code;
      }
      worst = std::max(worst, std::abs(sum / kSize - meant));
      if (y == 0 || y == kSize - 1) QCOMPARE(sum / kSize, meant);
    }
    // Five standard errors of the mean of 512 draws that are 0 or 1 by halves.
    QVERIFY2(worst < 5 * 0.5 / std::sqrt(512.0), qPrintable(QString::number(worst)));
    for (int code = 0; code < 256; ++code)
      for (int x = 0; x < kSize; ++x)
        p.at(x, code) = srgb ? linear_from_srgb(static_cast<float>(code) / 255) : static_cast<float>(code) / 255;
    QVERIFY(write_image(path, {{&p}}, {format, 8, srgb, true}).ok());
    const cv::Mat codes = cv::imread(path, cv::IMREAD_UNCHANGED);
    std::size_t moved = 0;
    for (int code = 0; code < 256; ++code)
      for (int x = 0; x < kSize; ++x) moved += codes.ptr<std::uint8_t>(code)[x] != code;
    // By the straight line within a code of sRGB a value may lie 0.002 of a step off: that share may go astray.
    QVERIFY2(static_cast<double>(moved) <= (srgb ? 256 * kSize * 0.003 : 0), qPrintable(QString::number(moved)));
  }
  void aFileOfTheSameBytesIsLeftAlone() {
    QTemporaryDir dir;
    const std::filesystem::path path = dir.path().toStdString() + "/p.png";
    Plane p = picture(64, 1);
    QVERIFY(!write_image(path, {{&p}}, {ImageFormat::png, 8, false})->unchanged);
    const auto long_ago = std::filesystem::last_write_time(path) - std::chrono::hours(1);
    std::filesystem::last_write_time(path, long_ago);
    QVERIFY(write_image(path, {{&p}}, {ImageFormat::png, 8, false})->unchanged);
    QVERIFY(std::filesystem::last_write_time(path) == long_ago);
    p.at(3, 3) = p.at(3, 3) < 0.5f ? 0.9f : 0.1f;
    QVERIFY(!write_image(path, {{&p}}, {ImageFormat::png, 8, false})->unchanged);
    QVERIFY(std::filesystem::last_write_time(path) != long_ago);
    QCOMPARE(QDir(dir.path()).entryList(QDir::Files | QDir::Hidden).size(), 1);
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
    QTest::newRow("tiff") << ImageFormat::tiff << 16;
  }
  void theSamePlanesGiveTheSameBytesAtAnyTime() {
    QFETCH(ImageFormat, format);
    QFETCH(int, bits);
    const Plane p = picture(64, 1);
    QTemporaryDir dir;
    const std::string first = dir.path().toStdString() + "/a", then = dir.path().toStdString() + "/b",
                      ending = ending_of(format);
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
