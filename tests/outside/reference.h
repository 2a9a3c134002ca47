// Rows of tests/data: values from outside the project. Each row names its source and how the value was come by, since
// none was copied from a page: "computed" (once, from the source's formula), "computed-2" (twice, by two programs or
// two ways), "memory+computed" (recalled, then computed again), "measured" (with a reference library).
#pragma once
#include <QtTest>
#include <map>

#include "core/graph/material.h"

namespace loom::test {

using json = Json;

/// All rows of a file of tests/data.
json reference(const char* file);
json reference(const char* file, const std::string& id);

/// Calls `check` for each row of a file whose quantity begins with `quantity`, and tells how the values were come by;
/// the number of rows.
template <class F>
int each(const char* file, const std::string& quantity, const F& check) {
  std::map<std::string, int> by_status;
  int n = 0;
  for (const json& row : reference(file))
    if (row["quantity"].get<std::string>().rfind(quantity, 0) == 0) {
      check(row);
      ++by_status[row["status"]];
      ++n;
    }
  for (const auto& [status, rows] : by_status) qInfo("%s, %s: %d %s", file, quantity.c_str(), rows, status.c_str());
  return n;
}

}  // namespace loom::test
