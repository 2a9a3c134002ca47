// Any text as a formula: an error at a character within it, or a finite value.
#include <cmath>
#include <cstdlib>

#include "core/program/formula.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const std::string_view text(reinterpret_cast<const char*>(data), size);
  const auto parsed = loom::parse_formula(text);
  if (!parsed) return parsed.error().what.empty() || parsed.error().where.empty() ? std::abort(), 0 : 0;
  const auto value = loom::evaluate_formula(text, {{"a", 0.5}, {"b", -2}, {"index", 3}});
  if (value && !std::isfinite(*value)) std::abort();
  return 0;
}
