#include "core/bolt/stock.h"

#include <algorithm>
#include <cctype>
#include <chrono>
#include <cmath>
#include <map>
#include <optional>

#include "core/bolt/package.h"
#include "core/graph/disc.h"
#include "core/graph/json.h"
#include "core/graph/json_offered.h"

namespace loom {
namespace {

constexpr auto kTellEvery = std::chrono::milliseconds(200);

std::string in_small_letters(std::string_view text) {
  std::string small(text);
  std::transform(small.begin(), small.end(), small.begin(), [](unsigned char c) { return std::tolower(c); });
  return small;
}

void read_bolt_head(StockItem& item) {
  const auto manifest = read_manifest(item.file);
  if (!manifest) {
    item.fault = manifest.error().text();
    return;
  }
  item.name = manifest->name;
  item.imprint = manifest->imprint;
  item.tile_metres = manifest->tile_metres;
}

void read_document_head(StockItem& item) {
  const auto text = read_file(item.file, kMostDocumentBytes);
  if (!text) {
    item.fault = text.error().text();
    return;
  }
  const Json json = Json::parse(*text, nullptr, false);
  if (!json.is_object() || !json.contains("nodes")) {
    item.fault = "is no material";
    return;
  }
  try {
    item.name = json.value("name", std::string());
    item.tile_metres = json.value("tile_metres", 1.0);
    if (json.contains("imprint")) item.imprint = imprint_from_json(json["imprint"]);
  } catch (const std::exception&) {
    item.fault = "has a head that cannot be read";
  }
}

// Of the disc alone.
StockItem on_disc(const std::filesystem::path& file) {
  StockItem item;
  item.file = file;
  item.is_bolt = file.extension() == ".bolt";
  std::error_code failed;
  item.bytes = std::filesystem::file_size(file, failed);
  const auto time = std::chrono::file_clock::to_sys(std::filesystem::last_write_time(file, failed));
  item.changed = std::chrono::duration_cast<std::chrono::seconds>(time.time_since_epoch()).count();
  return item;
}

class Looking {
 public:
  Looking(const std::vector<StockItem>& known, const std::function<void(const StockFound&)>& so_far, const Stop& stop)
      : so_far_(so_far), stop_(stop) {
    for (const StockItem& item : known) known_[item.file] = &item;
  }

  void look_into(const std::filesystem::path& folder, int depth) {
    found_.folders.push_back(folder);
    std::error_code failed;
    std::vector<std::filesystem::path> within;
    for (auto it = std::filesystem::directory_iterator(folder, failed);
         !failed && it != std::filesystem::directory_iterator(); it.increment(failed)) {
      if (stop_.asked() || found_.items.size() >= kMostStock) return;
      if (it->path().filename().native().front() == '.') continue;
      std::error_code unsure;
      if (it->is_directory(unsure) && !it->is_symlink(unsure)) within.push_back(it->path());
      if (is_stock_file(it->path()) && it->is_regular_file(unsure)) take(it->path());
    }
    std::sort(within.begin(), within.end());
    for (const auto& next : within)
      if (depth < kDeepestStock) look_into(next, depth + 1);
  }

  StockFound result() {
    sort();
    return std::move(found_);
  }

 private:
  void take(const std::filesystem::path& file) {
    StockItem item = on_disc(file);
    const auto known = known_.find(file);
    const bool same =
        known != known_.end() && known->second->changed == item.changed && known->second->bytes == item.bytes;
    found_.items.push_back(same ? *known->second : read_stock_item(file));
    if (const auto now = std::chrono::steady_clock::now(); !same && now - told_ > kTellEvery) {
      sort();
      so_far_(found_);
      told_ = std::chrono::steady_clock::now();
    }
  }
  void sort() {
    const auto key = [](const StockItem& i) { return std::tuple(!i.fault.empty(), in_small_letters(i.name), i.file); };
    std::sort(found_.items.begin(), found_.items.end(), [&](const auto& a, const auto& b) { return key(a) < key(b); });
  }

  std::map<std::filesystem::path, const StockItem*> known_;
  const std::function<void(const StockFound&)>& so_far_;
  const Stop& stop_;
  StockFound found_;
  std::chrono::steady_clock::time_point told_ = std::chrono::steady_clock::now();
};

// "2m", "50cm", "8mm"; nothing if it is no size.
std::optional<double> metres_of(const std::string& text) {
  char* end = nullptr;
  const double number = std::strtod(text.c_str(), &end);
  if (end == text.c_str() || !std::isfinite(number)) return {};
  const std::string unit(end);
  if (unit == "m" || unit.empty()) return number;
  if (unit == "cm") return number / 100;
  if (unit == "mm") return number / 1000;
  return {};
}

// Where a word of the text begins with it.
bool says(const std::string& text, const std::string& word) {
  for (std::size_t at = text.find(word); at != std::string::npos; at = text.find(word, at + 1))
    if (at == 0 || !std::isalnum(static_cast<unsigned char>(text[at - 1]))) return true;
  return false;
}

}  // namespace

bool is_stock_file(const std::filesystem::path& file) {
  return file.extension() == ".loom" || file.extension() == ".bolt";
}

StockItem read_stock_item(const std::filesystem::path& file) {
  StockItem item = on_disc(file);
  item.is_bolt ? read_bolt_head(item) : read_document_head(item);
  if (item.name.empty() || !item.fault.empty()) item.name = file.stem().string();
  return item;
}

Result<StockFound> look_through(const std::filesystem::path& folder, const std::vector<StockItem>& known,
                                const std::function<void(const StockFound&)>& so_far, const Stop& stop) {
  std::error_code failed;
  if (!std::filesystem::is_directory(folder, failed))
    return Error{folder.string(), "is no folder, or cannot be read", "Take it off the list, or bring it back"};
  Looking looking(known, so_far, stop);
  looking.look_into(folder, 0);
  return looking.result();
}

std::string size_words(double metres) {
  const auto said = [](double number, const char* unit) {
    char text[32];
    std::snprintf(text, sizeof text, "%.3g %s", number, unit);
    return std::string(text);
  };
  return metres >= 0.9995    ? said(metres, "m")
         : metres >= 0.00995 ? said(100 * metres, "cm")
                             : said(1000 * metres, "mm");
}

StockSearch::StockSearch(std::string_view typed) {
  std::vector<std::string> words;
  std::string text = in_small_letters(typed);
  for (std::size_t at = 0; at < text.size();) {
    const std::size_t end = std::min(text.find(' ', at), text.size());
    std::string word = text.substr(at, end - at);
    at = end + 1;
    if (word.empty()) continue;
    const bool bound = !words.empty() && (words.back() == "<" || words.back() == ">"),
               unit = words.size() > 0 && (words.back().front() == '<' || words.back().front() == '>') &&
                      (word == "m" || word == "cm" || word == "mm");
    if (bound || unit)
      words.back() += word;
    else
      words.push_back(word);
  }
  for (const std::string& word : words) {
    const auto metres = word.front() == '<' || word.front() == '>' ? metres_of(word.substr(1)) : std::nullopt;
    if (!metres)
      words_.push_back(word);
    else
      (word.front() == '<' ? most_ : least_) = *metres;
  }
  std::erase_if(words_, [](const std::string& w) { return w == "<" || w == ">"; });  // still being typed
}

bool StockSearch::fits(const StockItem& item) const {
  if (least_ > 0 && item.tile_metres < least_) return false;
  if (most_ > 0 && item.tile_metres > most_) return false;
  if (words_.empty()) return true;
  std::string said = item.name + "\n" + item.imprint.licence + "\n" + item.file.stem().string() + "\n" +
                     (item.is_bolt ? "bolt" : "material");
  for (const std::string& tag : item.imprint.tags) said += "\n" + tag;
  said = in_small_letters(said);
  return std::all_of(words_.begin(), words_.end(), [&](const std::string& word) { return says(said, word); });
}

}  // namespace loom
