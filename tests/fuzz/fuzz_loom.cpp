// Any text as a document: an error, or a material that survives writing and reading, and that validation copes with.
#include <cstdlib>

#include "core/graph/json.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"
#include "core/weave/flatten.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const auto material = loom::read_material({reinterpret_cast<const char*>(data), size});
  if (!material) return material.error().what.empty() ? std::abort(), 0 : 0;
  const std::string text = loom::write_material(*material);
  const auto again = loom::read_material(text);
  if (!again || loom::write_material(*again) != text) std::abort();
  if (loom::validate(*material, loom::catalogue()).empty() && !loom::flatten(*material, loom::catalogue()))
    std::abort();
  return 0;
}
