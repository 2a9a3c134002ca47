// What a material weaves in its slots, as planes.
#pragma once
#include <QtTest>

#include "core/nodes/catalogue.h"
#include "core/weave/weaver.h"

namespace loom::test {

/// Of one output; an empty field and the reason in `why` where a node is at fault.
inline Field woven_at(const Material& m, const std::string& output, int size, std::string* why = nullptr) {
  const auto told = [&](const std::string& text) {
    if (why)
      *why = text;
    else
      qWarning("%s", text.c_str());
    return Field{};
  };
  const auto graph = flatten(m, catalogue());
  if (!graph) return told(graph.error().text());
  const auto ref = graph->find(output);
  if (!ref) return told("there is no output " + output);
  Weaver weaver(std::size_t{1} << 26);
  const auto woven = weaver.weave(*graph, {Want(*ref)}, size, Stop{});
  if (!woven) return told(woven.error().text());
  if (!woven->faults.empty()) return told(woven->faults.begin()->second.text());
  return woven->fields.front();
}

/// The first strand's value in the middle of the tile.
inline float middle_of(const Field& f) {
  return f.strand[0] ? f.strand[0]->at(f.strand[0]->size() / 2, f.strand[0]->size() / 2) : std::nanf("");
}

inline bool same_planes(const Field& a, const Field& b) {
  if (a.kind != b.kind || a.members.size() != b.members.size()) return false;
  for (std::size_t i = 0; i < a.strand.size(); ++i) {
    if (!a.strand[i] != !b.strand[i]) return false;
    if (!a.strand[i]) continue;
    const int n = a.strand[i]->size();
    for (int y = 0; y < n; ++y)
      for (int x = 0; x < n; ++x)
        if (a.strand[i]->at(x, y) != b.strand[i]->at(x, y)) return false;
  }
  return true;
}

}  // namespace loom::test
