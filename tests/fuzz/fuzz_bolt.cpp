// Any bytes as a package: an error, or a bolt that survives writing and reading.
#include <unistd.h>

#include <cstdlib>
#include <string>

#include "core/bolt/package.h"
#include "core/graph/disc.h"
#include "core/graph/json.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  static const std::string kPath = "/tmp/fuzz_bolt." + std::to_string(::getpid()) + ".bolt";
  if (!loom::write_file(kPath, {reinterpret_cast<const char*>(data), size})) std::abort();
  const auto bolt = loom::read_bolt(kPath);
  if (!bolt) return bolt.error().what.empty() ? std::abort(), 0 : 0;
  if (!loom::write_bolt(kPath, *bolt)) std::abort();
  const auto again = loom::read_bolt(kPath);
  if (!again || loom::write_material(again->material) != loom::write_material(bolt->material) ||
      again->pictures != bolt->pictures)
    std::abort();
  return 0;
}
