#include "core/bolt/import.h"

#include <algorithm>
#include <cctype>
#include <cmath>
#include <map>
#include <set>

#include "core/graph/disc.h"
#include "core/graph/files.h"
#include "core/graph/material.h"
#include "core/io/image.h"

namespace loom {
namespace {

struct Word {
  const char* spelling;
  const char* slot;
  bool inverted = false;
};
// Written without separators. Longer ones count before shorter ones that end in the same place.
constexpr Word kWords[] = {{"basecolor", "base_colour"},
                           {"basecolour", "base_colour"},
                           {"albedo", "base_colour"},
                           {"diffuse", "base_colour"},
                           {"diff", "base_colour"},
                           {"color", "base_colour"},
                           {"colour", "base_colour"},
                           {"col", "base_colour"},
                           {"farbe", "base_colour"},
                           {"couleur", "base_colour"},
                           {"bc", "base_colour"},
                           {"roughness", "roughness"},
                           {"rough", "roughness"},
                           {"rgh", "roughness"},
                           {"rauheit", "roughness"},
                           {"rugosite", "roughness"},
                           {"gloss", "roughness", true},
                           {"glossiness", "roughness", true},
                           {"smoothness", "roughness", true},
                           {"smooth", "roughness", true},
                           {"metallic", "metallic"},
                           {"metalness", "metallic"},
                           {"metal", "metallic"},
                           {"met", "metallic"},
                           {"normal", "normal"},
                           {"normals", "normal"},
                           {"norm", "normal"},
                           {"nrm", "normal"},
                           {"nor", "normal"},
                           {"normale", "normal"},
                           {"height", "height"},
                           {"displacement", "height"},
                           {"disp", "height"},
                           {"bump", "height"},
                           {"hoehe", "height"},
                           {"hauteur", "height"},
                           {"ao", "occlusion"},
                           {"occlusion", "occlusion"},
                           {"ambientocclusion", "occlusion"},
                           {"occ", "occlusion"},
                           {"opacity", "opacity"},
                           {"alpha", "opacity"},
                           {"transparency", "opacity", true},
                           {"emissive", "emissive"},
                           {"emission", "emissive"},
                           {"glow", "emissive"}};
struct PackedWord {
  const char* spelling;
  std::array<const char*, 3> slots;
};
constexpr PackedWord kPacked[] = {{"orm", {"occlusion", "roughness", "metallic"}},
                                  {"arm", {"occlusion", "roughness", "metallic"}},
                                  {"occlusionroughnessmetallic", {"occlusion", "roughness", "metallic"}},
                                  {"packed", {"occlusion", "roughness", "metallic"}},
                                  {"rma", {"roughness", "metallic", "occlusion"}},
                                  {"metallicroughness", {"", "roughness", "metallic"}}};
constexpr std::string_view kUp[] = {"gl", "opengl", "up", "yup"}, kDown[] = {"dx", "directx", "down", "ydown"};
constexpr std::string_view kEndings[] = {".png", ".jpg", ".jpeg", ".tif", ".tiff", ".exr", ".hdr"};
constexpr std::size_t kLongestPhrase = 3;  // words

// Small letters, taken apart at whatever is no letter, and before capitals.
std::vector<std::string> words_of(std::string_view stem) {
  std::vector<std::string> words(1);
  char before = ' ';
  for (const char c : stem) {
    const auto u = static_cast<unsigned char>(c);
    if (!std::isalpha(u)) {
      if (!words.back().empty()) words.emplace_back();
    } else {
      if (std::isupper(u) && std::islower(static_cast<unsigned char>(before)) && !words.back().empty())
        words.emplace_back();
      words.back() += static_cast<char>(std::tolower(u));
    }
    before = c;
  }
  if (words.back().empty()) words.pop_back();
  return words;
}

std::string spoken(const std::vector<std::string>& words) {
  std::string name;
  for (const std::string& word : words) name += (name.empty() ? "" : " ") + word;
  if (!name.empty()) name[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(name[0])));
  return name;
}

// What the words that end before `end` spell, the longest first.
std::optional<NamedAs> spelt(const std::vector<std::string>& words, std::size_t end) {
  for (std::size_t count = std::min(kLongestPhrase, end); count > 0; --count) {
    std::string phrase;
    for (std::size_t i = end - count; i < end; ++i) phrase += words[i];
    const auto set = [&] { return spoken({words.begin(), words.begin() + static_cast<std::ptrdiff_t>(end - count)}); };
    for (const PackedWord& p : kPacked)
      if (phrase == p.spelling) return NamedAs{{}, false, 0, {p.slots.begin(), p.slots.end()}, set()};
    for (const Word& w : kWords)
      if (phrase == w.spelling) return NamedAs{w.slot, w.inverted, 0, {}, set()};
  }
  return {};
}

Result<std::vector<std::filesystem::path>> pictures_among(const std::vector<std::filesystem::path>& given,
                                                          ImportPlan& plan) {
  std::vector<std::filesystem::path> files;
  std::error_code failed;
  for (const auto& path : given) {
    if (!std::filesystem::exists(path, failed))
      return Error{path.string(), "is not there", "Name a folder, or pictures"};
    if (!std::filesystem::is_directory(path, failed)) {
      files.push_back(path);
      continue;
    }
    for (const auto& entry : std::filesystem::directory_iterator(path, failed))
      if (entry.is_regular_file(failed) && is_picture_file(entry.path())) files.push_back(entry.path());
  }
  std::sort(files.begin(), files.end());
  std::erase_if(files, [&](const auto& file) {
    if (is_picture_file(file)) return false;
    plan.left_out.emplace_back(file, "is no picture that can be read");
    return true;
  });
  if (files.empty())
    return Error{given.empty() ? "" : given.front().string(), "holds no pictures", "Name the maps of a set"};
  return files;
}

Result<Image> picture_in(const std::filesystem::path& file) {
  const auto bytes = read_file(file, kMostFileBytes);
  return bytes ? decode_image(file.filename().string(), *bytes) : Result<Image>(bytes.error());
}

std::string percent(double share) { return std::to_string(static_cast<int>(std::lround(100 * share))) + " %"; }

// The name says it, or the curl of the slopes does; where the two disagree the measure counts, if it is sure.
void settle_green(ImportedMap& map, int named, const Image& image) {
  const double way = green_way(image), sure = std::abs(way);
  constexpr double kSure = 0.3;
  const char* word = way < 0 ? "green down" : "green up";
  if (sure >= kSure) {
    map.green_down = way < 0;
    map.sure = sure;
    map.told = std::string("normal, ") + word + " by measure, " + percent(sure) + " sure";
    if (named != 0 && (named < 0) != map.green_down) map.told += ", though its name says otherwise";
  } else {
    map.green_down = named < 0;
    map.sure = named ? 0.7 : 0.5;
    map.told = std::string("normal, ") + (map.green_down ? "green down" : "green up") +
               (named ? " by its name" : ": it cannot be told, taken as usual");
  }
}

// What most names say of the set.
std::string common_name(const ImportPlan& plan) {
  std::map<std::string, int> said;
  std::string name = "Imported";
  int most = 0;
  for (const ImportedMap& map : plan.maps)
    if (const auto as = named_as(map.file.stem().string()); as && !as->set.empty() && ++said[as->set] > most)
      name = as->set, most = said[as->set];
  return name;
}

std::string slot_in_words(const std::string& slot) {
  const Slot* s = known_slot(slot);
  std::string label(s ? s->label : slot);
  label[0] = static_cast<char>(std::tolower(static_cast<unsigned char>(label[0])));
  return label;
}

class Planner {
 public:
  explicit Planner(ImportPlan& plan) : plan_(plan) {}

  void take(const std::filesystem::path& file) {
    const auto as = named_as(file.stem().string());
    if (!as) return leave(file, "its name says no slot");
    const auto image = picture_in(file);
    if (!image) return leave(file, image.error().what);
    if (as->channels.empty()) return take_whole(file, *as, *image);
    bool any = false;
    for (int c = 0; c < static_cast<int>(as->channels.size()) && c < image->channels; ++c) {
      const std::string& slot = as->channels[static_cast<std::size_t>(c)];
      if (slot.empty() || !taken_.insert(slot).second) continue;
      any = true;
      plan_.maps.push_back({file, slot, c, false, false, 0.9,
                            slot_in_words(slot) + " in the " + kChannels[c] + " channel, by its name"});
    }
    if (!any) leave(file, "other files hold what it packs");
  }

 private:
  static constexpr const char* kChannels[] = {"red", "green", "blue", "alpha"};

  void take_whole(const std::filesystem::path& file, const NamedAs& as, const Image& image) {
    if (taken_.count(as.slot)) return leave(file, "another file is the " + slot_in_words(as.slot) + " already");
    taken_.insert(as.slot);
    ImportedMap map{file,
                    as.slot,
                    -1,
                    as.inverted,
                    false,
                    0.9,
                    slot_in_words(as.slot) + (as.inverted ? ", turned about, by its name" : ", by its name")};
    if (as.slot == "normal") {
      if (image.channels < 3) return leave(file, "is named as normals, and has fewer than three channels");
      settle_green(map, as.green, image);
    }
    plan_.maps.push_back(std::move(map));
  }
  void leave(const std::filesystem::path& file, std::string why) { plan_.left_out.emplace_back(file, std::move(why)); }

  ImportPlan& plan_;
  std::set<std::string> taken_;
};

}  // namespace

bool is_picture_file(const std::filesystem::path& file) {
  std::string ending = file.extension().string();
  std::transform(ending.begin(), ending.end(), ending.begin(), [](unsigned char c) { return std::tolower(c); });
  return std::find(std::begin(kEndings), std::end(kEndings), ending) != std::end(kEndings);
}

std::optional<NamedAs> named_as(std::string_view stem) {
  const auto words = words_of(stem);
  const auto is_one_of = [](const auto& list, const std::string& word) {
    return std::find(std::begin(list), std::end(list), word) != std::end(list);
  };
  int green = 0;
  for (std::size_t end = words.size(); end > 0; --end) {
    if (is_one_of(kUp, words[end - 1])) green = 1;
    if (is_one_of(kDown, words[end - 1])) green = -1;
    if (auto found = spelt(words, end)) {
      found->green = green;
      return found;
    }
  }
  return {};
}

double green_way(const Image& image) {
  if (image.channels < 3 || image.width < 4 || image.height < 4) return 0;
  const int w = image.width, h = image.height;
  // The slopes that the texels stand for; rows run down, so that a rise downwards is one of -y.
  const auto slope = [&](int x, int y, int axis) {
    const auto at =
        (static_cast<std::size_t>((y + h) % h) * static_cast<std::size_t>(w) + static_cast<std::size_t>((x + w) % w)) *
        static_cast<std::size_t>(image.channels);
    const double n = 2 * static_cast<double>(image.values[at + static_cast<std::size_t>(axis)]) - 1,
                 z = std::max(0.05, 2 * static_cast<double>(image.values[at + 2]) - 1);
    return std::clamp((axis == 0 ? -n : n) / z, -4.0, 4.0);
  };
  const int step = std::max(1, std::max(w, h) / 1024);
  double up = 0, down = 0;
  for (int y = 0; y < h; y += step)
    for (int x = 0; x < w; x += step) {
      const double across = slope(x, y + 1, 0) - slope(x, y - 1, 0), along = slope(x + 1, y, 1) - slope(x - 1, y, 1);
      up += (across - along) * (across - along);
      down += (across + along) * (across + along);
    }
  const double most = std::max(up, down);
  if (most < 1e-9) return 0;
  return up <= down ? 1 - up / most : -(1 - down / most);
}

Result<Done> measure_green(ImportedMap& map) {
  const auto image = picture_in(map.file);
  if (!image) return image.error();
  const auto as = named_as(map.file.stem().string());
  settle_green(map, as ? as->green : 0, *image);
  return Done{};
}

Result<ImportPlan> sort_maps(const std::vector<std::filesystem::path>& given) {
  ImportPlan plan;
  const auto files = pictures_among(given, plan);
  if (!files) return files.error();
  Planner planner(plan);
  // Single maps before packed ones, which fill what is left.
  for (const bool packed : {false, true})
    for (const auto& file : *files) {
      const auto as = named_as(file.stem().string());
      if ((as && !as->channels.empty()) == packed) planner.take(file);
    }
  plan.name = common_name(plan);
  return plan;
}

Result<ImportPlan> plan_import(const std::vector<std::filesystem::path>& given) {
  auto plan = sort_maps(given);
  if (plan && plan->maps.empty())
    return Error{given.front().string(), "holds no picture whose name says what it is",
                 "Name them as roughness, normal, height and so on"};
  return plan;
}

}  // namespace loom
