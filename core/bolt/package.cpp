// The manifest says what each entry is; what an entry holds is checked before it is believed.
#include "core/bolt/package.h"

#include <algorithm>
#include <functional>
#include <memory>

#include "core/bolt/bolt_node.h"
#include "core/graph/disc.h"
#include "core/graph/edit.h"
#include "core/graph/json.h"
#include "core/graph/validate.h"
#include "core/io/drawing.h"
#include "core/io/image.h"
#include "core/io/mesh.h"
#include "core/nodes/catalogue.h"

namespace loom {
namespace {

Error broken(const std::filesystem::path& path, std::string what) {
  return {path.string(), std::move(what), "Ask for the bolt again; nothing was opened"};
}

Error within(const std::filesystem::path& path, Error e) {
  e.where = path.string() + (e.where.empty() ? "" : ", " + e.where);
  return e;
}

// A bolt passes on pictures, drawings and its mesh, and no other bytes that a name may lead to.
Result<Done> decodes(const FileBytes& file, bool is_mesh) {
  const bool drawing = std::filesystem::path(file.name).extension() == ".svg";
  std::string what;
  if (is_bolt_file(file.name)) {
    Unpacking so_far;
    if (const auto read = definition_of(file, so_far); !read) what = read.error().what;
  } else if (is_mesh) {
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

namespace {

// Whether the bytes begin as a PNG file of a side within the limit. Source: PNG specification, sections 5.2 and 11.2.1.
bool is_small_png(std::string_view bytes) {
  constexpr std::string_view kSignature("\x89PNG\r\n\x1a\n\0\0\0\rIHDR", 16);
  if (bytes.size() < 24 || bytes.substr(0, 16) != kSignature) return false;
  const auto side = [&](std::size_t at) {
    std::uint32_t n = 0;
    for (std::size_t i = at; i < at + 4; ++i) n = n << 8 | static_cast<unsigned char>(bytes[i]);
    return n >= 1 && n <= static_cast<std::uint32_t>(kMostPictureSide);
  };
  return side(16) && side(20);
}

Error no_picture(const std::string& name) {
  return {name, "is no PNG file of at most 1024 x 1024", "Make the picture anew"};
}

bool is_preset(const Material& m, const std::string& name) {
  return name.empty() || std::ranges::any_of(m.presets, [&](const Preset& p) { return p.name == name; });
}

// What goes into the file, manifest first.
Result<std::vector<std::pair<std::string, std::string>>> entries_of(const Bolt& bolt) {
  auto ready = packed(bolt.material);
  if (!ready) return ready.error();
  Material& material = ready->material;
  if (material.imprint.id.empty()) material.imprint.id = id_of_name(material.name);
  Manifest manifest;
  manifest.needs = kFormat;
  manifest.name = material.name;
  manifest.imprint = material.imprint;
  manifest.tile_metres = material.tile_metres;
  std::vector<std::pair<std::string, std::string>> entries = {{"material.loom", write_material(material)}};
  if (!material.notes.empty()) entries.emplace_back(manifest.notes = "notes.md", material.notes);
  int pictures = 0;
  for (const auto& [preset, bytes] : bolt.pictures) {
    if (bytes.empty() || !is_preset(material, preset)) continue;
    if (!is_small_png(bytes)) return no_picture("the picture of '" + preset + "'");
    const std::string name = preset.empty() ? "picture.png" : "pictures/" + std::to_string(++pictures) + ".png";
    entries.emplace_back(manifest.pictures[preset] = name, bytes);
  }
  for (const auto& [name, file] : ready->files) entries.emplace_back(name, *file.bytes);
  for (const auto& [name, bytes] : entries) manifest.sha256[name] = sha256_of(bytes);
  entries.insert(entries.begin(), {kManifestEntry, manifest_text(manifest)});
  return entries;
}

// What nobody could open is not written.
Result<Done> within_limits(const std::vector<std::pair<std::string, std::string>>& entries) {
  std::size_t all = 0;
  if (entries.size() > kMostEntries)
    return Error{"", "needs more than 256 entries", "Use fewer pictures, presets or files"};
  for (const auto& [name, bytes] : entries) {
    if (bytes.size() > kMostEntryBytes) return Error{name, "is larger than 64 MiB", "Make it smaller"};
    all += bytes.size();
  }
  if (all > kMostUnpackedBytes) return Error{"", "holds more than 512 MiB", "Use smaller files"};
  return Done{};
}

// What a bolt of an older format says of itself.
Manifest older(Manifest manifest, const Entries& entries) {
  if (!is_version(manifest.imprint.version)) manifest.imprint.version = "1.0";
  manifest.imprint.id = id_of_name(manifest.name);
  if (entries.count("picture.png")) manifest.pictures[""] = "picture.png";
  return manifest;
}

constexpr int kFirstWithHashes = 3;

Result<Manifest> manifest_of(const Entries& entries) {
  const auto head = entries.find(kManifestEntry);
  auto manifest = read_manifest_text(head == entries.end() ? "{}" : head->second);
  if (!manifest || manifest->format >= kFirstWithHashes) return manifest;
  return older(std::move(manifest).value(), entries);
}

Result<Material> material_of(const Manifest& manifest, const Entries& entries) {
  const auto text = entries.find("material.loom");
  if (text == entries.end()) return Error{"", "holds no 'material.loom'", "Ask for the bolt again"};
  auto material = read_material(text->second);
  if (!material) return within("material.loom", material.error());
  if (const auto endless = unfolding_fault(*material)) return within("material.loom", *endless);
  if (manifest.format < kFirstWithHashes) {
    material->imprint.version = manifest.imprint.version;
    if (material->imprint.id.empty()) material->imprint.id = manifest.imprint.id;
    if (const auto notes = entries.find("notes.txt"); notes != entries.end() && material->notes.empty())
      material->notes = notes->second;
  } else if (material->imprint != manifest.imprint || material->name != manifest.name) {
    return Error{kManifestEntry, "says another name, identifier, version or licence than the material in it",
                 "Ask for the bolt again"};
  }
  return material;
}

// The files that its nodes name; folders within a name would let a saved copy land anywhere.
std::shared_ptr<FileRoot> files_of(const Material& material, Entries& entries) {
  auto root = std::make_shared<FileRoot>();
  root->sealed = true;
  for (const std::string& name : edit::file_names(material, catalogue())) {
    if (name.rfind("files/", 0) != 0 || name.find('/', 6) != std::string::npos) continue;
    if (const auto file = entries.find(name); file != entries.end() && !root->packed.count(name))
      root->packed[name] = bytes_of(name, std::move(file->second));
  }
  return root;
}

}  // namespace

Result<Bolt> unpacked(Entries entries, Unpacking& so_far) {
  for (const auto& [name, bytes] : entries) so_far.bytes += bytes.size();
  if (so_far.bytes > kMostUnpackedBytes)
    return Error{"", "unpacks to more than 512 MiB, with the bolts that it holds", "Ask for a smaller one"};
  const auto manifest = manifest_of(entries);
  if (!manifest) return manifest.error();
  if (manifest->format >= kFirstWithHashes)
    if (const auto same = check_entries(*manifest, entries); !same) return same.error();
  auto material = material_of(*manifest, entries);
  if (!material) return material.error();
  Bolt bolt{std::move(material).value()};
  for (const auto& [preset, name] : manifest->pictures) {
    const auto picture = entries.find(name);
    if (picture == entries.end() || !is_small_png(picture->second)) return no_picture(name);
    bolt.pictures[preset] = picture->second;
  }
  bolt.material.files = files_of(bolt.material, entries);
  if (const auto missing = take_bolts(bolt.material, so_far); !missing.empty()) return missing.front();
  return bolt;
}

Result<Done> write_bolt(const std::filesystem::path& path, const Bolt& bolt) {
  const auto entries = entries_of(bolt);
  if (!entries) return entries.error();
  if (const auto fits = within_limits(*entries); !fits) return within(path, fits.error());
  return write_archive(path, *entries);
}

Result<Bolt> read_bolt(const std::filesystem::path& path) {
  auto entries = read_archive(path);
  if (!entries) return entries.error();
  Unpacking so_far;
  auto bolt = unpacked(std::move(entries).value(), so_far);
  return bolt ? std::move(bolt) : within(path, bolt.error());
}

Result<Manifest> read_manifest(const std::filesystem::path& path) {
  const auto entries = read_from_archive(path, {kManifestEntry});
  if (!entries) return entries.error();
  auto manifest = manifest_of(*entries);
  return manifest ? std::move(manifest) : within(path, manifest.error());
}

Result<BoltCover> read_cover(const std::filesystem::path& path) {
  auto entries = read_from_archive(path, {kManifestEntry, "picture.png"});
  if (!entries) return entries.error();
  auto manifest = manifest_of(*entries);
  if (!manifest) return within(path, manifest.error());
  BoltCover cover{std::move(manifest).value(), {}};
  const auto picture = entries->find("picture.png");
  if (picture == entries->end() || !is_small_png(picture->second)) return cover;
  const auto hash = cover.manifest.sha256.find("picture.png");
  if (cover.manifest.format >= kFirstWithHashes &&
      (hash == cover.manifest.sha256.end() || hash->second != sha256_of(picture->second)))
    return broken(path, "'picture.png' has another hash than the manifest says");
  cover.picture = std::move(picture->second);
  return cover;
}

namespace {

// Leaves a file alone that is the same.
Result<Done> write_new(const std::filesystem::path& to, std::string_view bytes) {
  std::error_code failed;
  if (std::filesystem::exists(to, failed)) {
    const auto there = read_file(to, kMostEntryBytes);
    if (there && *there == bytes) return Done{};
    return Error{to.string(), "is there already, with other contents", "Use another folder"};
  }
  std::filesystem::create_directories(to.parent_path(), failed);
  return write_file(to, bytes);
}

}  // namespace

Result<Done> unpack_files(const FileRoot& root, const std::filesystem::path& folder) {
  for (const auto& [name, file] : root.packed)
    if (!is_of_bolt(name))
      if (const auto done = write_new(folder / name, *file.bytes); !done) return done;
  return Done{};
}

Result<std::vector<std::filesystem::path>> unpack_bolt(const Bolt& bolt, const std::filesystem::path& folder) {
  const Material& m = bolt.material;
  std::vector<std::pair<std::string, std::string>> texts = {{m.imprint.id + ".loom", write_material(m)}};
  if (!m.notes.empty()) texts.emplace_back("notes.md", m.notes);
  int count = 0;
  for (const auto& [preset, bytes] : bolt.pictures)
    texts.emplace_back(preset.empty() ? "picture.png" : "pictures/" + std::to_string(++count) + ".png", bytes);
  for (const auto& [name, file] : m.files->packed)
    if (!is_of_bolt(name)) texts.emplace_back(name, *file.bytes);
  std::vector<std::filesystem::path> written;
  for (const auto& [name, bytes] : texts) {
    if (const auto done = write_new(folder / name, bytes); !done) return done.error();
    written.push_back(folder / name);
  }
  return written;
}

Result<Material> open_material(const std::filesystem::path& path, std::vector<Error>* warnings) {
  if (path.extension() == ".bolt") {
    auto bolt = read_bolt(path);
    if (!bolt) return bolt.error();
    return std::move(bolt->material);
  }
  const auto text = read_file(path, kMostDocumentBytes);
  if (!text) return text.error();
  auto read = read_material(*text, warnings);
  if (!read) {
    Error e = read.error();
    e.where = path.string() + ": " + e.where;
    return e;
  }
  Material material = std::move(read).value();
  auto root = std::make_shared<FileRoot>();
  root->folder = std::filesystem::absolute(path).parent_path();
  material.files = std::move(root);
  take_bolts(material);  // what is missing is a fault of the nodes that stand for it
  return material;
}

}  // namespace loom
