// Readers of single keys: forgiving of what is missing, strict about what is there.
#pragma once
#include <algorithm>
#include <cmath>
#include <initializer_list>

#include "core/base/error.h"
#include "core/graph/material.h"

namespace loom::reading {

/// Thrown between these and whoever reads a document, never out of it: nlohmann's own way of reporting is an exception
/// too.
struct Fault {
  Error error;
};

[[noreturn]] inline void fail(std::string where, std::string what, std::string mend) {
  throw Fault{{std::move(where), std::move(what), std::move(mend)}};
}

inline std::string text_at(const Json& j, const char* key, const std::string& where, std::string fallback = {}) {
  if (!j.contains(key)) return fallback;
  if (!j[key].is_string()) fail(where, std::string("'") + key + "' is not a text", "Put it in double quotes");
  return j[key].get<std::string>();
}
inline double number_at(const Json& j, const char* key, const std::string& where, double fallback) {
  if (!j.contains(key)) return fallback;
  if (!j[key].is_number()) fail(where, std::string("'") + key + "' is not a number", "Write it like 0.25");
  const double v = j[key].get<double>();
  if (!std::isfinite(v)) fail(where, std::string("'") + key + "' is too large a number", "Write a smaller one");
  return v;
}
inline int whole_at(const Json& j, const char* key, const std::string& where, int fallback) {
  const double v = number_at(j, key, where, fallback);
  if (v != std::floor(v) || std::abs(v) > 1e6)
    fail(where, std::string("'") + key + "' is not a whole number within a million", "Write it like 3");
  return static_cast<int>(v);
}
inline bool truth_at(const Json& j, const char* key, const std::string& where, bool fallback) {
  if (!j.contains(key)) return fallback;
  if (!j[key].is_boolean()) fail(where, std::string("'") + key + "' is neither true nor false", "Write true or false");
  return j[key].get<bool>();
}
inline const Json& list_at(const Json& j, const char* key, const std::string& where) {
  static const Json kNone = Json::array();
  if (!j.contains(key)) return kNone;
  if (!j[key].is_array()) fail(where, std::string("'") + key + "' is not a list", "Put it in [ ]");
  return j[key];
}
inline void need_object(const Json& j, const std::string& where) {
  if (!j.is_object()) fail(where, "is not an object", "Put it in { }");
}

inline Json leftovers(const Json& j, std::initializer_list<const char*> known, const std::string& where,
                      std::vector<Error>* warnings) {
  Json extra = Json::object();
  for (const auto& [key, value] : j.items()) {
    if (std::any_of(known.begin(), known.end(), [&, &key = key](const char* k) { return key == k; })) continue;
    extra[key] = value;
    if (warnings) warnings->push_back({where, "the key '" + key + "' is not known", "It is kept as it is"});
  }
  return extra;
}

/// What is read with these, or the fault that ended it.
template <class Read>
auto guarded(const Read& read) -> Result<decltype(read())> {
  try {
    return read();
  } catch (const Fault& f) {
    return f.error;
  } catch (const Json::exception& e) {
    return Error{"document", std::string("holds a value of the wrong kind: ") + e.what(), "See docs/format.md"};
  }
}

}  // namespace loom::reading
