// Materials that are painted by hand, for tests.
#pragma once
#include "core/graph/json.h"
#include "tests/core/alone.h"

namespace loom::test {

/// One Hand paint node of a kind with these strokes.
inline Material painted_material(const Strokes& strokes, const char* kind) {
  Material m = edit::add_node(edit::empty_material(), catalogue(), "hand_paint", "relief", 0, 0);
  m = edit::set_param(std::move(m), "hand_paint", "kind", std::string(kind));
  return edit::set_param(std::move(m), "hand_paint", "strokes", strokes);
}

/// Whether its document is read back as it was written, stroke by stroke and byte for byte.
inline bool keeps_strokes(const Material& m, const Strokes& strokes) {
  const std::string text = write_material(m);
  const auto back = read_material(text);
  return back && write_material(*back) == text &&
         std::get<Strokes>(back->node("hand_paint")->params.at("strokes")) == strokes;
}

}  // namespace loom::test
