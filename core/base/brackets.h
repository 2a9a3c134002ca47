// How deep a text of JSON is nested, before a parser builds anything of it.
#pragma once
#include <cstddef>
#include <optional>
#include <string_view>

namespace loom {

/// The byte at which brackets outside of quotes are nested more than `most` deep; none: they are not.
inline std::optional<std::size_t> nested_deeper(std::string_view text, int most) {
  int depth = 0;
  bool quoted = false;
  for (std::size_t i = 0; i < text.size(); ++i) {
    const char c = text[i];
    if (quoted) {
      if (c == '\\')
        ++i;
      else if (c == '"')
        quoted = false;
    } else if (c == '"') {
      quoted = true;
    } else if (c == '{' || c == '[') {
      if (++depth > most) return i;
    } else if (c == '}' || c == ']') {
      --depth;
    }
  }
  return {};
}

}  // namespace loom
