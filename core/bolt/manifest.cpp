#include "core/bolt/manifest.h"

#include <openssl/evp.h>

#include <array>
#include <fstream>
#include <memory>

#include "core/base/brackets.h"
#include "core/graph/json.h"
#include "core/graph/json_offered.h"
#include "core/graph/json_reading.h"

namespace loom {
namespace {

using namespace reading;

constexpr std::size_t kMostManifestBytes = std::size_t{1} << 20;

Manifest manifest_from(const Json& j) {
  need_object(j, kManifestEntry);
  Manifest m;
  m.format = whole_at(j, "format", kManifestEntry, 1);
  if (m.format > kBoltFormat)
    fail(kManifestEntry, "is of format " + std::to_string(m.format) + ", which a newer program writes",
         "Open it with that one");
  m.needs = whole_at(j, "needs", kManifestEntry, 0);
  if (m.needs > kFormat)
    fail(kManifestEntry, "needs a program that reads documents of format " + std::to_string(m.needs),
         "Open it with a newer one");
  m.name = text_at(j, "name", kManifestEntry);
  m.imprint = imprint_from_json(j);
  m.tile_metres = number_at(j, "tile_metres", kManifestEntry, 1);
  m.notes = text_at(j, "notes", kManifestEntry);
  for (const Json& picture : list_at(j, "pictures", kManifestEntry)) {
    need_object(picture, "pictures");
    m.pictures[text_at(picture, "preset", "pictures")] = text_at(picture, "file", "pictures");
  }
  if (j.contains("sha256")) {
    need_object(j["sha256"], "sha256");
    for (const auto& [entry, hash] : j["sha256"].items()) m.sha256[entry] = hash.get<std::string>();
  }
  return m;
}

}  // namespace

std::string manifest_text(const Manifest& m) {
  Json j = imprint_to_json(m.imprint);
  j["format"] = m.format;
  j["needs"] = m.needs;
  j["name"] = m.name;
  j["tile_metres"] = m.tile_metres;
  if (!m.notes.empty()) j["notes"] = m.notes;
  j["pictures"] = Json::array();
  for (const auto& [preset, file] : m.pictures) {
    Json picture{{"file", file}};
    if (!preset.empty()) picture["preset"] = preset;
    j["pictures"].push_back(picture);
  }
  j["sha256"] = m.sha256;
  return j.dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
}

Result<Manifest> read_manifest_text(std::string_view text) {
  if (text.size() > kMostManifestBytes) return Error{kManifestEntry, "is larger than 1 MiB", "Ask for the bolt again"};
  if (nested_deeper(text, 8)) return Error{kManifestEntry, "has brackets nested too deep", "Ask for the bolt again"};
  const Json json = Json::parse(text, nullptr, false);
  if (json.is_discarded()) return Error{kManifestEntry, "is not valid JSON", "Ask for the bolt again"};
  return guarded([&] { return manifest_from(json); });
}

namespace {

class Sha256 {
 public:
  Sha256() : context_(EVP_MD_CTX_new()) { EVP_DigestInit_ex(context_.get(), EVP_sha256(), nullptr); }
  void add(std::string_view bytes) { EVP_DigestUpdate(context_.get(), bytes.data(), bytes.size()); }
  std::string digits() {
    constexpr char kDigits[] = "0123456789abcdef";
    std::array<unsigned char, EVP_MAX_MD_SIZE> hash{};
    unsigned int length = 0;
    EVP_DigestFinal_ex(context_.get(), hash.data(), &length);
    std::string text;
    for (unsigned int i = 0; i < length; ++i) {
      text += kDigits[hash[i] >> 4];
      text += kDigits[hash[i] & 15];
    }
    return text;
  }

 private:
  struct Free {
    void operator()(EVP_MD_CTX* c) const { EVP_MD_CTX_free(c); }
  };
  std::unique_ptr<EVP_MD_CTX, Free> context_;
};

}  // namespace

std::string sha256_of(std::string_view bytes) {
  Sha256 hash;
  hash.add(bytes);
  return hash.digits();
}

std::string sha256_of_file(const std::filesystem::path& path) {
  std::ifstream file(path, std::ios::binary);
  if (!file) return {};
  Sha256 hash;
  std::vector<char> piece(std::size_t{1} << 20);
  while (file.read(piece.data(), static_cast<std::streamsize>(piece.size())) || file.gcount() > 0)
    hash.add({piece.data(), static_cast<std::size_t>(file.gcount())});
  return file.bad() ? std::string() : hash.digits();
}

Result<Done> check_entries(const Manifest& manifest, const Entries& entries) {
  constexpr const char* kMend = "It was changed after it was packed: ask for it again";
  for (const auto& [name, hash] : manifest.sha256)
    if (!entries.count(name)) return Error{name, "is named in the manifest and is not there", kMend};
  for (const auto& [name, bytes] : entries) {
    if (name == kManifestEntry) continue;
    const auto known = manifest.sha256.find(name);
    if (known == manifest.sha256.end()) return Error{name, "is not named in the manifest", kMend};
    if (known->second != sha256_of(bytes)) return Error{name, "has another hash than the manifest says", kMend};
  }
  return Done{};
}

}  // namespace loom
