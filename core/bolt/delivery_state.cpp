#include "core/bolt/delivery_state.h"

#include <cstdlib>

#include "core/base/key.h"
#include "core/bolt/manifest.h"
#include "core/graph/disc.h"
#include "core/graph/json.h"
#include "core/graph/json_reading.h"

namespace loom {
namespace {

constexpr std::size_t kMostBytes = std::size_t{4} << 20;

std::string hex(const Key& key) {
  char text[40];
  std::snprintf(text, sizeof text, "%016llx%016llx", static_cast<unsigned long long>(key.high),
                static_cast<unsigned long long>(key.low));
  return text;
}

Json state_json(const std::string& key, const DeliveryState::Standing& s) {
  const DeliveredFile& f = s.file;
  return {{"key", key},       {"name", f.name}, {"sha256", f.sha256},
          {"srgb", f.srgb},   {"bits", f.bits}, {"channels", f.channels},
          {"least", f.least}, {"most", f.most}, {"told", s.told},
          {"cut", s.cut}};
}

DeliveryState::Standing standing_from(const std::string& path, const Json& j) {
  DeliveryState::Standing s;
  s.file.path = path;
  s.file.name = j.at("name").get<std::string>();
  s.file.sha256 = j.at("sha256").get<std::string>();
  s.file.srgb = j.at("srgb").get<bool>();
  s.file.bits = j.at("bits").get<int>();
  s.file.channels = j.at("channels").get<std::vector<std::string>>();
  s.file.least = j.at("least").get<float>();
  s.file.most = j.at("most").get<float>();
  s.told = j.at("told").get<std::vector<std::string>>();
  s.cut = j.at("cut").get<bool>();
  return s;
}

// Another build may give other bits.
Key program_key() {
  std::error_code gone;
  const std::filesystem::path self = std::filesystem::read_symlink("/proc/self/exe", gone);
  const auto time = std::filesystem::last_write_time(self, gone).time_since_epoch().count();
  const auto size = gone ? 0 : std::filesystem::file_size(self, gone);
  return KeyMaker().add(static_cast<std::uint64_t>(time)).add(static_cast<std::uint64_t>(size)).key();
}

}  // namespace

DeliveryState::DeliveryState(std::filesystem::path file) : file_(std::move(file)) {
  if (file_.empty() || !std::filesystem::exists(file_)) return;
  const auto text = read_file(file_, kMostBytes);
  if (!text) return;
  const auto read = reading::guarded([&] {
    const Json all = Json::parse(*text);
    for (const auto& [path, j] : all.items()) known_[path] = {j.at("key").get<std::string>(), standing_from(path, j)};
    return Done{};
  });
  if (!read) known_.clear();
}

bool DeliveryState::take(const std::filesystem::path& path, const std::string& key, DeliveryReport& report) const {
  const auto at = known_.find(std::filesystem::absolute(path).lexically_normal().string());
  if (at == known_.end() || at->second.first != key) return false;
  Standing s = at->second.second;
  if (sha256_of_file(path) != s.file.sha256) return false;
  s.file.path = path;
  s.file.unchanged = true;
  report.warnings.insert(report.warnings.end(), s.told.begin(), s.told.end());
  if (s.cut) report.cut.push_back(s.file.name);
  report.files.push_back(std::move(s.file));
  return true;
}

void DeliveryState::note(const std::string& key, Standing standing) {
  if (file_.empty()) return;
  const std::string path = std::filesystem::absolute(standing.file.path).lexically_normal().string();
  known_[path] = {key, std::move(standing)};
  Json all = Json::object();
  for (const auto& [at, known] : known_) all[at] = state_json(known.first, known.second);
  std::error_code failed;
  std::filesystem::create_directories(file_.parent_path(), failed);
  (void)write_file(file_, all.dump(1, ' ', false, Json::error_handler_t::replace)).ok();
}

std::filesystem::path delivery_state_file(const std::filesystem::path& folder) {
  const char* cache = std::getenv("XDG_CACHE_HOME");
  const char* home = std::getenv("HOME");
  std::filesystem::path root;
  if (cache && *cache == '/')
    root = cache;
  else if (home && *home == '/')
    root = std::filesystem::path(home) / ".cache";
  else
    return {};
  const std::string name = std::filesystem::absolute(folder).lexically_normal().string();
  return root / "wildloom" / "deliveries" / (hex(key_of(name)) + ".json");
}

namespace {

void add_outputs(KeyMaker& key, const FlatGraph& graph, const FlatHem& hem, const FileDelivery& file) {
  for (const std::string& slot : slots_of(file)) {
    key.add(slot);
    const auto at = hem.find(slot);
    if (at == hem.end()) continue;
    key.add(graph.nodes[static_cast<std::size_t>(at->second.node)].key).add(static_cast<int>(at->second.output));
  }
}

}  // namespace

std::string delivery_key(const FlatGraph& graph, const DeliveryPlan& plan, const FileDelivery& file, const Key& mesh) {
  KeyMaker key;
  key.add(program_key()).add(plan.size).add(static_cast<int>(file.green_up.value_or(plan.green_up)));
  key.add(static_cast<int>(file.format))
      .add(file.bits)
      .add(static_cast<int>(file.scale))
      .add(static_cast<int>(file.dither));
  key.add(graph.measures.tile_metres).add(graph.measures.relief_metres);
  for (const auto& [channel, source] : file.channels) key.add(channel).add(channel_text(source));
  add_outputs(key, graph, graph.hem, file);
  if (mesh != Key{}) {
    key.add(mesh);
    for (const auto& [part, hem] : graph.part_hems) add_outputs(key.add(part), graph, hem, file);
  }
  return hex(key.key());
}

}  // namespace loom
