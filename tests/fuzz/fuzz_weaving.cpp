// Documents that pass `check` are flattened and woven at 64: an error in words, or planes of finite numbers. The bytes
// are the choices by which a document is drawn from the whole catalogue, numbers at their limits among them.
#include <cmath>
#include <cstdio>
#include <cstdlib>

#include "core/graph/json.h"
#include "core/plane/ledger.h"
#include "core/weave/weaver.h"
#include "tests/core/random_graph.h"

namespace {

// The input's bytes, then a sequence that depends on how many there were.
class Choices {
 public:
  Choices(const std::uint8_t* data, std::size_t size)
      : data_(data), size_(size), beyond_(static_cast<unsigned>(size)) {}
  std::uint32_t operator()() {
    if (at_ + 2 > size_) return beyond_();
    const std::uint32_t two = data_[at_] | static_cast<std::uint32_t>(data_[at_ + 1]) << 8;
    at_ += 2;
    return two * 0x9e3779b1u;  // spread over 32 bits
  }

 private:
  const std::uint8_t* data_;
  std::size_t size_, at_ = 0;
  std::mt19937 beyond_;
};

bool finite(const loom::Field& f) {
  for (int i = 0; i < loom::strand_count(f.kind); ++i) {
    const loom::Plane& p = *f.strand[static_cast<std::size_t>(i)];
    for (std::size_t k = 0; k < p.texels(); ++k)
      if (!std::isfinite(p.data()[k])) return false;
  }
  for (const auto& [name, member] : f.members)
    if (!finite(member)) return false;
  return true;
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  loom::set_memory_budget(std::size_t{1} << 30);
  Choices choices(data, size);
  loom::test::RandomGraph graph(loom::catalogue(), [&] { return choices(); });
  graph.go_to_limits();
  const loom::Material drawn = graph.make(1 + static_cast<int>(graph.below(12)));
  const auto material = loom::read_material(loom::write_material(drawn));
  if (!material) std::abort();
  if (!loom::validate(*material, loom::catalogue()).empty()) return 0;
  const auto flat = loom::flatten(*material, loom::catalogue());
  if (!flat) return flat.error().what.empty() ? std::abort(), 0 : 0;
  std::vector<loom::Want> wants;
  for (const auto& [name, ref] : flat->outputs)
    if (ref.output >= 0) wants.emplace_back(ref);
  loom::Weaver weaver(0);
  const auto woven = weaver.weave(*flat, wants, 64, loom::Stop{});
  if (!woven) return woven.error().what.empty() ? std::abort(), 0 : 0;
  for (std::size_t i = 0; i < wants.size(); ++i)
    if (!finite(woven->fields[i])) {
      std::fprintf(stderr, "not finite: %s\n%s\n",
                   flat->nodes[static_cast<std::size_t>(wants[i].ref.node)].path.c_str(),
                   loom::write_material(*material).c_str());
      std::abort();
    }
  return 0;
}
