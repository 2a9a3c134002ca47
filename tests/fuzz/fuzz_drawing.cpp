// SVG text: refused in words, or drawn finite.
#include <cmath>
#include <cstdlib>

#include "core/io/drawing.h"
#include "core/nodes/drawn.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const auto drawing = loom::read_svg({reinterpret_cast<const char*>(data), size});
  if (!drawing || drawing->shapes.size() > 200) return 0;
  const loom::Drawn d = loom::draw(*drawing, loom::placed(*drawing, "whole", 0.1), 64);
  for (std::size_t i = 0; i < d.alpha.texels(); ++i)
    if (!std::isfinite(d.alpha.data()[i])) std::abort();
  return 0;
}
