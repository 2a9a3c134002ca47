#include "tests/outside/reference.h"

#include <fstream>

namespace loom::test {

json reference(const char* file) {
  std::ifstream in(std::string(LOOM_DATA "/") + file);
  if (!in) qFatal("tests/data/%s is missing", file);
  json rows = json::parse(in);
  for (const json& row : rows)
    if (row.value("source", "").empty() || row.value("status", "").empty())
      qFatal("%s in tests/data/%s does not say where it comes from", row["id"].dump().c_str(), file);
  return rows;
}

json reference(const char* file, const std::string& id) {
  for (const json& row : reference(file))
    if (row["id"] == id) return row;
  qFatal("%s is not in tests/data/%s", id.c_str(), file);
  return {};
}

}  // namespace loom::test
