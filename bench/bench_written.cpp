// Writing a 16-bit normal map: ours beside the writers of OpenImageIO and OpenCV, in one run. Usage: bench_written
// [SIZE]
#include <OpenImageIO/imageio.h>

#include <chrono>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <filesystem>
#include <functional>

#include <opencv2/imgcodecs.hpp>

#include "core/io/image.h"
#include "core/nodes/catalogue.h"
#include "core/nodes/node_call.h"
#include "core/plane/colour.h"
#include "core/plane/filters.h"
#include "core/weave/weaver.h"

using namespace loom;

namespace {

// The normals of five octaves of noise: what such a file usually holds.
std::array<Plane, 3> normal_map(int size) {
  FlatGraph g;
  g.nodes.push_back({.type = catalogue().find("gradient_noise"), .path = "noise", .key = {1, 0}});
  Weaver w(0);
  const auto woven = w.weave(g, {OutputRef{0, 0}}, size, Stop{});
  return normals(*woven->fields[0].strand[0], 0.2f, Stop{});
}

double milliseconds(const std::function<void()>& work) {
  double best = 1e9;
  for (int i = 0; i < 3; ++i) {
    const auto start = std::chrono::steady_clock::now();
    work();
    best = std::min(best, std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count());
  }
  return best;
}

}  // namespace

int main(int argc, char** argv) {
  const int size = argc > 1 ? std::atoi(argv[1]) : 4096;
  const auto planes = normal_map(size);
  const std::vector<Channel> channels{{&planes[0], 0.5f, 0.5f}, {&planes[1], 0.5f, 0.5f}, {&planes[2], 0.5f, 0.5f}};
  std::vector<std::uint16_t> rgb;
  for (std::size_t i = 0; i < planes[0].texels(); ++i)
    for (const Plane& p : planes) rgb.push_back(static_cast<std::uint16_t>(code_of(0.5f + 0.5f * p.data()[i], 65535)));
  cv::Mat bgr(size, size, CV_16UC3);
  for (std::size_t i = 0; i < planes[0].texels(); ++i)
    for (std::size_t c = 0; c < 3; ++c) bgr.ptr<std::uint16_t>()[i * 3 + c] = rgb[i * 3 + 2 - c];
  const std::filesystem::path folder = std::filesystem::temp_directory_path() / "wildloom-bench";
  std::filesystem::create_directories(folder);
  const auto row = [&](const char* name, const std::string& file,
                       const std::function<void(const std::string&)>& write) {
    const std::string path = (folder / file).string();
    const double took = milliseconds([&] { write(path); });
    std::printf("%-44s %9.0f ms %8.1f MB\n", name, took, static_cast<double>(std::filesystem::file_size(path)) / 1e6);
  };
  const auto by_oiio = [&](int level) {
    return [&, level](const std::string& path) {
      OIIO::ImageSpec spec(size, size, 3, OIIO::TypeDesc::UINT16);
      spec.attribute("png:compressionLevel", level);
      auto file = OIIO::ImageOutput::create(path);
      if (!file->open(path, spec) || !file->write_image(OIIO::TypeDesc::UINT16, rgb.data())) std::abort();
      file->close();
    };
  };
  row("ours, from planes", "ours.png", [&](const std::string& path) {
    if (!write_image(path, channels, {ImageFormat::png, 16, false})) std::abort();
  });
  row("OpenImageIO, zlib 6, from codes", "oiio6.png", by_oiio(6));
  row("OpenImageIO, zlib 1, from codes", "oiio1.png", by_oiio(1));
  row("OpenCV, from codes", "cv.png", [&](const std::string& path) {
    if (!cv::imwrite(path, bgr)) std::abort();
  });
  row("ours, EXR of 32 bits", "ours.exr", [&](const std::string& path) {
    if (!write_image(path, channels, {ImageFormat::exr, 32, false})) std::abort();
  });
  row("ours, TIFF of 16 bits", "ours.tif", [&](const std::string& path) {
    if (!write_image(path, channels, {ImageFormat::tiff, 16, false})) std::abort();
  });
  row("ours, PNG of 8 bits, sRGB", "ours8.png", [&](const std::string& path) {
    if (!write_image(path, channels, {ImageFormat::png, 8, true})) std::abort();
  });
  row("ours, PNG of 8 bits, sRGB, dithered", "ours8d.png", [&](const std::string& path) {
    if (!write_image(path, channels, {ImageFormat::png, 8, true, true})) std::abort();
  });
  const cv::Mat read = cv::imread((folder / "ours.png").string(), cv::IMREAD_UNCHANGED);
  if (std::memcmp(read.data, bgr.data, rgb.size() * 2) != 0) {
    std::printf("what was written is not what is read\n");
    return 1;
  }
  std::filesystem::remove_all(folder);
  return 0;
}
