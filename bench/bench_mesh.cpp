// Meshes: opening one of a million triangles, and its picture beside that of the ball in closed form, in turn.
#include <algorithm>
#include <chrono>
#include <cstdio>
#include <cstring>
#include <filesystem>
#include <fstream>

#include "core/surface/drape.h"

using namespace loom;

namespace {

using Clock = std::chrono::steady_clock;
double since(Clock::time_point start) {
  return std::chrono::duration<double, std::milli>(Clock::now() - start).count();
}
double median(std::vector<double> times) {
  std::sort(times.begin(), times.end());
  return times[times.size() / 2];
}

// A ball of `around` x `around` / 2 quads as a binary PLY file.
void write_ball(const std::filesystem::path& path, int around) {
  const int down = around / 2;
  std::ofstream out(path, std::ios::binary);
  out << "ply\nformat binary_little_endian 1.0\nelement vertex " << (around + 1) * (down + 1)
      << "\nproperty float x\nproperty float y\nproperty float z\nelement face " << around * down * 2
      << "\nproperty list uchar int vertex_indices\nend_header\n";
  for (int j = 0; j <= down; ++j)
    for (int i = 0; i <= around; ++i) {
      const float u = static_cast<float>(i) / static_cast<float>(around) * 2 * kPi,
                  v = static_cast<float>(j) / static_cast<float>(down) * kPi;
      const float place[] = {0.5f * std::sin(v) * std::sin(u), 0.5f * std::cos(v), 0.5f * std::sin(v) * std::cos(u)};
      out.write(reinterpret_cast<const char*>(place), sizeof place);
    }
  for (int j = 0; j < down; ++j)
    for (int i = 0; i < around; ++i) {
      const std::int32_t a = j * (around + 1) + i, b = a + around + 1;
      for (const auto& corner : {std::array{a, b, a + 1}, std::array{a + 1, b, b + 1}}) {
        out.put(3);
        out.write(reinterpret_cast<const char*>(corner.data()), sizeof corner);
      }
    }
}

}  // namespace

int main(int argc, char** argv) {
  const int runs = argc > 1 ? std::max(1, std::atoi(argv[1])) : 9;
  const auto path = std::filesystem::temp_directory_path() / "wildloom_bench_mesh.ply";
  write_ball(path, 1000);
  std::shared_ptr<const MeshShape> shape;
  std::vector<double> read, built;
  for (int i = 0; i < 3; ++i) {
    auto start = Clock::now();
    auto mesh = read_mesh(path);
    if (!mesh) return std::fprintf(stderr, "%s\n", mesh.error().text().c_str()), 1;
    read.push_back(since(start));
    start = Clock::now();
    shape = std::make_shared<const MeshShape>(std::move(*mesh));
    built.push_back(since(start));
  }
  std::filesystem::remove(path);
  std::printf("%zu triangles: read %.0f ms, made ready for rays %.0f ms\n", shape->mesh().triangle.size(), median(read),
              median(built));
  const auto maps = std::make_shared<const SurfaceMaps>(std::map<std::string, Field>{});
  DrapeView closed;
  closed.width = closed.height = 768;
  DrapeView meshed = closed;
  meshed.mesh = shape;
  meshed.camera.distance *= 0.5f / shape->radius();  // as large in the picture
  for (const bool sample : {false, true}) {
    std::vector<double> ball, mesh, ratio;
    for (int i = 0; i < runs; ++i) {
      for (const bool own : {false, true}) {
        Drape drape(maps, own ? meshed : closed);
        const auto start = Clock::now();
        sample ? drape.add_sample(Stop{}) : drape.first_answer(1, Stop{});
        (own ? mesh : ball).push_back(since(start));
      }
      ratio.push_back(mesh.back() / ball.back());
    }
    std::printf("%s: ball %.0f ms, mesh %.0f ms, %.2f times\n", sample ? "path sample" : "clean frame", median(ball),
                median(mesh), median(ratio));
  }
}
