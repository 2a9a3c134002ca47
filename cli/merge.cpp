// merge: two descendants of one document, for version control.
#include <iostream>

#include "cli/call.h"
#include "core/graph/disc.h"
#include "core/graph/json.h"
#include "core/graph/merge.h"
#include "core/nodes/catalogue.h"

namespace loom {
namespace {

constexpr int kClashes = 4;

struct Merge {
  std::string base, ours, theirs, out;
};

int run(const Merge& merge_of, const Common& common) {
  std::string texts[3];
  const std::string* files[] = {&merge_of.base, &merge_of.ours, &merge_of.theirs};
  for (int i = 0; i < 3; ++i) {
    auto text = read_file(*files[i], kMostDocumentBytes);
    if (!text) return fail(*files[i], text.error());
    texts[i] = std::move(text).value();
  }
  const auto merged = merge(texts[0], texts[1], texts[2], catalogue());
  if (!merged) return fail(merge_of.ours, merged.error());
  if (const auto done = write_file(merge_of.out, write_material(merged->material)); !done)
    return fail(merge_of.out, done.error(), kWriting);
  Json clashes = Json::array();
  for (const Error& clash : merged->clashes) {
    clashes.push_back({{"where", clash.where}, {"what", clash.what}, {"mend", clash.mend}});
    std::cerr << merge_of.out << ": " << clash.text() << "\n";
  }
  if (common.json) std::cout << Json{{"clashes", clashes}}.dump(1) << "\n";
  return merged->clashes.empty() ? kDone : kClashes;
}

}  // namespace

std::function<int(const Common&)> merge_call(CLI::App* call) {
  const auto of = std::make_shared<Merge>();
  call->add_option("BASE", of->base, "the document that both come from")->required();
  call->add_option("OURS", of->ours)->required();
  call->add_option("THEIRS", of->theirs)->required();
  call->add_option("--out", of->out, "may be one of the three")->required();
  return [of](const Common& common) { return run(*of, common); };
}

}  // namespace loom
