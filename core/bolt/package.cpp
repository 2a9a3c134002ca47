// libzip reads and writes the container; names and sizes are checked before anything is unpacked.
#include "core/bolt/package.h"

#include <unistd.h>
#include <zip.h>

#include <functional>
#include <map>
#include <memory>

#include "core/graph/disc.h"
#include "core/graph/edit.h"
#include "core/graph/json.h"
#include "core/io/drawing.h"
#include "core/io/image.h"
#include "core/io/mesh.h"
#include "core/nodes/catalogue.h"

namespace loom {
namespace {

constexpr zip_int64_t kMostEntries = 64;
constexpr zip_uint64_t kMostEntryBytes = std::uint64_t{32} << 20;
constexpr std::size_t kMostBoltBytes = std::size_t{64} << 20;

struct Discard {
  void operator()(zip_t* z) const { zip_discard(z); }
};
using Archive = std::unique_ptr<zip_t, Discard>;

Error broken(const std::filesystem::path& path, std::string what) {
  return {path.string(), std::move(what), "Ask for the bolt again; nothing was opened"};
}

// Empty if there is no such entry.
Result<std::string> entry(zip_t* archive, const char* name, const std::filesystem::path& path) {
  const zip_int64_t index = zip_name_locate(archive, name, 0);
  if (index < 0) return std::string();
  zip_stat_t stat;
  if (zip_stat_index(archive, static_cast<zip_uint64_t>(index), 0, &stat) != 0 || !(stat.valid & ZIP_STAT_SIZE))
    return broken(path, std::string("'") + name + "' cannot be read");
  if (stat.size > kMostEntryBytes) return broken(path, std::string("'") + name + "' unpacks to more than 32 MiB");
  std::unique_ptr<zip_file_t, int (*)(zip_file_t*)> file(zip_fopen_index(archive, static_cast<zip_uint64_t>(index), 0),
                                                         zip_fclose);
  std::string bytes(stat.size, '\0');
  if (!file || zip_fread(file.get(), bytes.data(), stat.size) != static_cast<zip_int64_t>(stat.size))
    return broken(path, std::string("'") + name + "' is damaged");
  return bytes;
}

// A bolt passes on pictures, drawings and its mesh, and no other bytes that a name may lead to.
Result<Done> decodes(const FileBytes& file, bool is_mesh) {
  const bool drawing = std::filesystem::path(file.name).extension() == ".svg";
  std::string what;
  if (is_mesh) {
    if (const auto read = read_mesh(file.name, *file.bytes); !read) what = read.error().what;
  } else if (drawing) {
    if (const auto read = read_svg(*file.bytes); !read) what = read.error().what;
  } else if (const auto read = decode_image(file.name, *file.bytes); !read) {
    what = read.error().what;
  }
  if (what.empty()) return Done{};
  return Error{file.name, "cannot be read by whoever opens the bolt, and is not packed: " + what,
               "Choose another file, or take out what names it"};
}

// The files that nodes name, once each, and the material with the names that they have in the bolt.
struct Packed {
  Material material;
  std::map<std::string, FileBytes> files;
};
Result<Packed> packed(const Material& m) {
  Packed out{m, {}};
  const FileRoot root = m.files ? *m.files : FileRoot{};
  std::map<std::string, std::string> renamed;
  Result<Done> done = Done{};
  const auto pack = [&](const std::string& name) -> std::string {
    if (const auto it = renamed.find(name); it != renamed.end()) return it->second;
    const auto file = find_file(root, name);
    if (!file) return done = file.error(), name;
    if (const auto fits = decodes(*file, name == m.mesh); !fits) return done = fits.error(), name;
    const std::filesystem::path from(name);
    std::string to = "files/" + from.filename().string();
    for (int n = 2; out.files.count(to); ++n)
      to = "files/" + from.stem().string() + "-" + std::to_string(n) + from.extension().string();
    out.files[to] = {to, file->bytes, file->key};
    return renamed[name] = to;
  };
  out.material = edit::rename_files(m, catalogue(), pack);
  if (!done) return done.error();
  return out;
}

}  // namespace

Result<Done> write_bolt(const std::filesystem::path& path, const Bolt& bolt) {
  const auto ready = packed(bolt.material);
  if (!ready) return ready.error();
  const std::string temporary = path.string() + ".part-" + std::to_string(::getpid());
  int code = 0;
  Archive archive(zip_open(temporary.c_str(), ZIP_CREATE | ZIP_TRUNCATE, &code));
  const Error cannot{path.string(), "cannot be written",
                     "Choose another folder, or make room; nothing was left behind"};
  if (!archive) return cannot;
  const Json head{{"format", kFormat}, {"name", bolt.material.name}, {"version", bolt.version}};
  std::vector<std::pair<std::string, std::string>> entries = {
      {"bolt.json", head.dump(2) + "\n"},
      {"material.loom", write_material(ready->material)},
      {"notes.txt", bolt.notes},
      {"picture.png", std::string(bolt.picture.begin(), bolt.picture.end())}};
  for (const auto& [name, file] : ready->files) entries.emplace_back(name, *file.bytes);
  for (const auto& [name, bytes] : entries) {
    if (bytes.empty()) continue;
    zip_source_t* source = zip_source_buffer(archive.get(), bytes.data(), bytes.size(), 0);
    const zip_int64_t index = source ? zip_file_add(archive.get(), name.c_str(), source, ZIP_FL_ENC_UTF_8) : -1;
    if (index < 0) {
      zip_source_free(source);
      return cannot;
    }
    zip_file_set_mtime(archive.get(), static_cast<zip_uint64_t>(index), 946684800,
                       0);  // the same bolt gives the same bytes
  }
  if (zip_close(archive.get()) != 0) return cannot;
  (void)archive.release();
  std::error_code failed;
  std::filesystem::rename(temporary, path, failed);
  if (!failed) return Done{};
  std::filesystem::remove(temporary, failed);
  return cannot;
}

Result<Bolt> read_bolt(const std::filesystem::path& path) {
  const auto bytes = read_file(path, kMostBoltBytes);
  if (!bytes) return bytes.error();
  zip_error_t fault;
  zip_error_init(&fault);
  zip_source_t* source = zip_source_buffer_create(bytes->data(), bytes->size(), 0, &fault);
  Archive archive(source ? zip_open_from_source(source, ZIP_RDONLY | ZIP_CHECKCONS, &fault) : nullptr);
  if (!archive) {
    zip_source_free(source);
    return broken(path, "is not a bolt: it is no zip file, or a damaged one");
  }
  if (zip_get_num_entries(archive.get(), 0) > kMostEntries) return broken(path, "holds more than 64 entries");
  auto head = entry(archive.get(), "bolt.json", path), text = entry(archive.get(), "material.loom", path),
       notes = entry(archive.get(), "notes.txt", path), picture = entry(archive.get(), "picture.png", path);
  for (const auto* part : {&head, &text, &notes, &picture})
    if (!*part) return part->error();
  if (text->empty()) return broken(path, "holds no 'material.loom'");
  auto material = read_material(*text);
  if (!material) {
    Error e = material.error();
    e.where = path.string() + ", material.loom, " + e.where;
    return e;
  }
  auto root = std::make_shared<FileRoot>();
  root->sealed = true;
  for (const std::string& name : edit::file_names(*material, catalogue())) {
    // Folders within the name would let a saved copy land anywhere.
    if (name.rfind("files/", 0) != 0 || name.find_first_of("/\\", 6) != std::string::npos || name == "files/..")
      continue;
    auto file = entry(archive.get(), name.c_str(), path);
    if (!file) return file.error();
    if (!file->empty()) root->packed[name] = bytes_of(name, std::move(file).value());
  }
  material->files = std::move(root);
  Bolt bolt{std::move(material).value(), "1.0", *notes, std::vector<std::uint8_t>(picture->begin(), picture->end())};
  const Json meta = Json::parse(*head, nullptr, false);
  if (meta.is_object() && meta.contains("version") && meta["version"].is_string())
    bolt.version = meta["version"].get<std::string>();
  return bolt;
}

Result<Done> unpack_files(const FileRoot& root, const std::filesystem::path& folder) {
  for (const auto& [name, file] : root.packed) {
    const std::filesystem::path to = folder / name;
    std::error_code failed;
    if (std::filesystem::exists(to, failed)) {
      const auto there = read_file(to, kMostFileBytes);
      if (there && *there == *file.bytes) continue;
      return Error{to.string(), "is there already, with other contents", "Save in another folder"};
    }
    std::filesystem::create_directories(to.parent_path(), failed);
    if (const auto done = write_file(to, *file.bytes); !done) return done;
  }
  return Done{};
}

Result<Material> open_material(const std::filesystem::path& path, std::vector<Error>* warnings) {
  if (path.extension() == ".bolt") {
    auto bolt = read_bolt(path);
    if (!bolt) return bolt.error();
    return std::move(bolt->material);
  }
  const auto text = read_file(path, kMostDocumentBytes);
  if (!text) return text.error();
  auto material = read_material(*text, warnings);
  if (material) {
    auto root = std::make_shared<FileRoot>();
    root->folder = std::filesystem::absolute(path).parent_path();
    material->files = std::move(root);
    return material;
  }
  Error e = material.error();
  e.where = path.string() + ": " + e.where;
  return e;
}

}  // namespace loom
