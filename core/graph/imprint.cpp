#include "core/graph/imprint.h"

#include <algorithm>
#include <cctype>
#include <charconv>

#include "core/graph/validate.h"

namespace loom {
namespace {

constexpr std::size_t kMostTags = 32, kLongestTag = 40, kLongestLicence = 200, kLongestId = 64;
constexpr int kMostOfVersion = 999'999;

bool is_letter(char c) { return std::isalpha(static_cast<unsigned char>(c)) != 0; }
bool is_digit(char c) { return std::isdigit(static_cast<unsigned char>(c)) != 0; }

// The numbers of a version; empty where it is none.
std::vector<int> numbers_of(std::string_view text) {
  std::vector<int> numbers;
  while (true) {
    int n = 0;
    const auto [end, bad] = std::from_chars(text.data(), text.data() + text.size(), n);
    const auto length = static_cast<std::size_t>(end - text.data());
    const bool written_plainly = length == 1 || text.substr(0, 1) != "0";
    if (bad != std::errc() || !is_digit(text[0]) || !written_plainly || n > kMostOfVersion) return {};
    numbers.push_back(n);
    if (length == text.size()) break;
    if (text[length] != '.' || numbers.size() == 4) return {};
    text.remove_prefix(length + 1);
  }
  return numbers.size() < 2 ? std::vector<int>{} : numbers;
}

// Reads an expression word by word, as its grammar is written.
class Licence {
 public:
  explicit Licence(std::string_view text) : rest_(text) { next(); }
  bool whole() { return expression(0) && word_.empty() && rest_.empty(); }

 private:
  void next() {
    while (!rest_.empty() && rest_[0] == ' ') rest_.remove_prefix(1);
    std::size_t length = 0;
    if (!rest_.empty() && (rest_[0] == '(' || rest_[0] == ')'))
      length = 1;
    else
      while (length < rest_.size() && rest_[length] != ' ' && rest_[length] != '(' && rest_[length] != ')') ++length;
    word_ = rest_.substr(0, length);
    rest_.remove_prefix(length);
  }

  bool identifier(bool may_have_plus) {
    std::string_view id = word_;
    if (may_have_plus && !id.empty() && id.back() == '+') id.remove_suffix(1);
    const bool good =
        !id.empty() && id != "AND" && id != "OR" && id != "WITH" && std::all_of(id.begin(), id.end(), [](char c) {
          return is_letter(c) || is_digit(c) || c == '-' || c == '.' || c == ':';
        });
    next();
    return good;
  }

  bool one(int depth) {
    if (word_ == "(") {
      next();
      if (depth > 8 || !expression(depth + 1) || word_ != ")") return false;
      next();
      return true;
    }
    if (!identifier(true)) return false;
    if (word_ != "WITH") return true;
    next();
    return identifier(false);
  }

  bool expression(int depth) {
    if (!one(depth)) return false;
    while (word_ == "AND" || word_ == "OR") {
      next();
      if (!one(depth)) return false;
    }
    return true;
  }

  std::string_view rest_, word_;
};

}  // namespace

std::string id_of_name(std::string_view name) {
  std::string id;
  for (const char c : name) {
    if (is_letter(c) || is_digit(c))
      id += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    else if (!id.empty() && id.back() != '_')
      id += '_';
  }
  if (id.empty() || !is_letter(id[0])) id = "material_" + id;
  id.resize(std::min(id.size(), kLongestId));
  while (id.back() == '_') id.pop_back();
  return id;
}

bool is_version(std::string_view text) { return !text.empty() && !numbers_of(text).empty(); }

int compare_versions(std::string_view a, std::string_view b) {
  auto x = numbers_of(a), y = numbers_of(b);
  x.resize(4), y.resize(4);
  return x < y ? -1 : y < x ? 1 : 0;
}

std::string next_version(std::string_view version) {
  auto numbers = numbers_of(version);
  if (numbers.empty()) return "1.0";
  ++numbers.back();
  std::string text;
  for (const int n : numbers) text += (text.empty() ? "" : ".") + std::to_string(n);
  return text;
}

bool is_licence(std::string_view text) {
  return !text.empty() && text.size() <= kLongestLicence && Licence(text).whole();
}

std::optional<Error> imprint_fault(const Imprint& i) {
  if (!i.id.empty() && !is_identifier(i.id))
    return Error{"imprint, id", "'" + i.id + "' is not of small letters, digits and _", "Such as quay_floor"};
  if (!is_version(i.version))
    return Error{"imprint, version", "'" + i.version + "' is no version",
                 "Write two to four whole numbers with points between them, such as 1.3"};
  if (!i.licence.empty() && !is_licence(i.licence))
    return Error{"imprint, licence", "'" + i.licence + "' is no SPDX licence expression",
                 "Such as CC-BY-4.0, or LicenseRef- and a name for terms of your own"};
  if (i.tags.size() > kMostTags)
    return Error{"imprint, tags", "are more than 32", "Keep those that one would look for"};
  for (const std::string& tag : i.tags)
    if (tag.empty() || tag.size() > kLongestTag || tag.find_first_of(",\n\r\t") != std::string::npos)
      return Error{"imprint, tags", "'" + tag + "' is empty, longer than 40 or holds a comma", "Write one word or two"};
  return {};
}

}  // namespace loom
