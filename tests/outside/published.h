// Rows of tests/data: published values with their source and how sure it is.
#pragma once
#include <QtTest>
#include <fstream>
#include <nlohmann/json.hpp>

namespace loom::test {

using nlohmann::json;

inline json published(const char* file) {
  std::ifstream in(std::string(LOOM_DATA "/") + file);
  if (!in) qFatal("tests/data/%s is missing", file);
  return json::parse(in);
}

inline json published(const char* file, const std::string& id) {
  for (const json& row : published(file))
    if (row["id"] == id) return row;
  qFatal("%s is not in tests/data/%s", id.c_str(), file);
  return {};
}

/// Calls `check` for each row of a file whose quantity begins with `quantity`; there must be some.
template <class F>
int each(const char* file, const std::string& quantity, const F& check) {
  int n = 0;
  for (const json& row : published(file))
    if (row["quantity"].get<std::string>().rfind(quantity, 0) == 0) check(row), ++n;
  return n;
}

}  // namespace loom::test
