// Meshes: opening one of a million triangles, and its picture beside that of the ball in closed form, in turn.
#include <algorithm>
#include <chrono>
#include <cstdio>
#include <cstring>
#include <filesystem>
#include <fstream>

#include "core/surface/drape.h"
#include "core/surface/mesh_shell.h"

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

// A ball of `around` x `around` / 2 quads.
struct Ball {
  std::size_t around;
  std::vector<std::array<float, 3>> place;
  std::vector<std::array<std::uint32_t, 3>> triangle;
  explicit Ball(std::uint32_t quads) : around(quads) {
    const std::uint32_t down = quads / 2;
    for (std::uint32_t j = 0; j <= down; ++j)
      for (std::uint32_t i = 0; i <= quads; ++i) {
        const float u = static_cast<float>(i) / static_cast<float>(quads) * 2 * kPi,
                    v = static_cast<float>(j) / static_cast<float>(down) * kPi;
        place.push_back({0.5f * std::sin(v) * std::sin(u), 0.5f * std::cos(v), 0.5f * std::sin(v) * std::cos(u)});
      }
    for (std::uint32_t j = 0; j < down; ++j)
      for (std::uint32_t i = 0; i < quads; ++i) {
        const std::uint32_t p = j * (quads + 1) + i, q = p + quads + 1;
        triangle.push_back({p, q, p + 1});
        triangle.push_back({p + 1, q, q + 1});
      }
  }
  // With tile coordinates as those of the ball in closed form.
  Mesh mesh() const {
    Mesh m;
    m.parts = {"whole"};
    for (const auto& [x, y, z] : place) {
      m.position.push_back({x, y, z});
      m.normal.push_back(normalised({x, y, z}));
    }
    for (std::size_t i = 0; i < place.size(); ++i)
      m.tile.push_back({4 * static_cast<float>(i % (around + 1)) / static_cast<float>(around),
                        4 * static_cast<float>(i / (around + 1)) / static_cast<float>(around)});
    m.triangle = triangle;
    m.part_of.resize(triangle.size());
    return m;
  }
};

template <class T>
void put(std::ofstream& out, const T* from, std::size_t count = 1) {
  out.write(reinterpret_cast<const char*>(from), static_cast<std::streamsize>(count * sizeof(T)));
}

void write_ply(const std::filesystem::path& path, const Ball& ball) {
  std::ofstream out(path, std::ios::binary);
  out << "ply\nformat binary_little_endian 1.0\nelement vertex " << ball.place.size()
      << "\nproperty float x\nproperty float y\nproperty float z\nelement face " << ball.triangle.size()
      << "\nproperty list uchar int vertex_indices\nend_header\n";
  put(out, ball.place.data(), ball.place.size());
  for (const auto& corner : ball.triangle) {
    out.put(3);
    put(out, corner.data(), 3);
  }
}

// With normals, and with the places once more as colours.
void write_glb(const std::filesystem::path& path, const Ball& ball) {
  const std::size_t corners = ball.place.size(), places = 12 * corners, sides = 12 * ball.triangle.size();
  std::string json =
      "{\"asset\":{\"version\":\"2.0\"},\"scene\":0,\"scenes\":[{\"nodes\":[0]}],\"nodes\":[{\"mesh\":0}],\"meshes\":[{"
      "\"primitives\":[{\"attributes\":{\"POSITION\":0,\"NORMAL\":0,\"COLOR_0\":0},\"indices\":1}]}],\"accessors\":[{"
      "\"bufferView\":0,\"componentType\":5126,\"type\":\"VEC3\",\"count\":" +
      std::to_string(corners) +
      "},{\"bufferView\":1,\"componentType\":5125,\"type\":\"SCALAR\",\"count\":" + std::to_string(sides / 4) +
      "}],\"bufferViews\":[{\"buffer\":0,\"byteLength\":" + std::to_string(places) +
      "},{\"buffer\":0,\"byteOffset\":" + std::to_string(places) + ",\"byteLength\":" + std::to_string(sides) +
      "}],\"buffers\":[{\"byteLength\":" + std::to_string(places + sides) + "}]}";
  json.resize((json.size() + 3) / 4 * 4, ' ');
  const auto text = static_cast<std::uint32_t>(json.size()), data = static_cast<std::uint32_t>(places + sides);
  std::ofstream out(path, std::ios::binary);
  const std::uint32_t head[] = {0x46546C67, 2, 28 + text + data, text, 0x4E4F534A}, second[] = {data, 0x004E4942};
  put(out, head, 5);
  out << json;
  put(out, second, 2);
  put(out, ball.place.data(), corners);
  put(out, ball.triangle.data(), ball.triangle.size());
}

// The same picture of the ball and of a mesh as large, in turn.
void compare(const char* what, const std::shared_ptr<const MeshShape>& shape,
             const std::shared_ptr<const SurfaceMaps>& maps, int runs) {
  DrapeView closed;
  closed.width = closed.height = 768;
  DrapeView meshed = closed;
  meshed.mesh = shape;
  meshed.camera.distance *= 0.5f / shape->radius();
  for (const bool sample : {false, true}) {
    std::vector<double> ball, mesh, ratio;
    for (int i = 0; i < runs; ++i) {
      for (const bool own : {false, true}) {
        Drape drape(maps, own ? meshed : closed);
        if (i == 0) drape.first_answer(16, Stop{});  // whatever is made once
        const auto start = Clock::now();
        sample ? drape.add_sample(Stop{}) : drape.first_answer(1, Stop{});
        (own ? mesh : ball).push_back(since(start));
      }
      ratio.push_back(mesh.back() / ball.back());
    }
    std::printf("%s, %s: ball %.0f ms, mesh %.0f ms, %.2f times\n", what, sample ? "path sample" : "clean frame",
                median(ball), median(mesh), median(ratio));
  }
}

}  // namespace

int main(int argc, char** argv) {
  const int runs = argc > 1 ? std::max(1, std::atoi(argv[1])) : 9;
  const Ball ball_mesh(1000);
  std::shared_ptr<const MeshShape> shape;
  for (const char* ending : {"glb", "ply"}) {
    const auto path = std::filesystem::temp_directory_path() / (std::string("wildloom_bench_mesh.") + ending);
    ending[0] == 'p' ? write_ply(path, ball_mesh) : write_glb(path, ball_mesh);
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
    std::printf("%zu triangles, %s: read %.0f ms, made ready for rays %.0f ms\n", shape->mesh().triangle.size(), ending,
                median(read), median(built));
  }
  compare("a million triangles", shape, std::make_shared<const SurfaceMaps>(std::map<std::string, Field>{}), runs);
  Plane height(1024);
  for (int y = 0; y < 1024; ++y)
    for (int x = 0; x < 1024; ++x)
      height.at(x, y) = 0.5f + 0.5f * std::sin(0.1f * static_cast<float>(x)) * std::sin(0.1f * static_cast<float>(y));
  Field relief{.kind = Kind::scalar};
  relief.strand[0] = std::make_shared<const Plane>(std::move(height));
  const auto deep =
      std::make_shared<const SurfaceMaps>(std::map<std::string, Field>{{"height", relief}}, Extent{1, 0.04});
  for (const std::uint32_t rings : {64u, 1000u}) {
    const auto own = std::make_shared<const MeshShape>(Ball(rings).mesh());
    const auto start = Clock::now();
    const MeshShell shell(*own, {{0, 0.01f}});
    std::printf("%zu triangles: the shell for their relief made in %.0f ms\n", own->mesh().triangle.size(),
                since(start));
    // As deep as it may be there.
    const double depth = std::min(0.04, 1.9 * static_cast<double>(deepest_relief(*own)) / 2 / 0.785);
    compare("with relief", own,
            std::make_shared<const SurfaceMaps>(std::map<std::string, Field>{{"height", relief}}, Extent{1, depth}),
            runs);
  }
}
