// proof: whether a material is plausible, closes, and delivers what it shows.
#include <iostream>
#include <nlohmann/json.hpp>

#include "cli/call.h"
#include "core/nodes/catalogue.h"
#include "core/proof/proof.h"

namespace loom {
namespace {

struct Proof {
  Source source;
  ProofOptions options;
};

void tell(const std::vector<Finding>& findings) {
  for (const Finding& f : findings) {
    std::cout << verdict_name(f.verdict) << "  " << check_of(f.check)->label;
    if (!f.slot.empty()) std::cout << ", " << f.slot;
    std::cout << ": " << f.told;
    if (f.verdict != Verdict::pass) std::cout << ". " << check_of(f.check)->why;
    for (const Place& p : f.places) std::cout << (p == f.places.front() ? " At " : ", ") << p.u << " " << p.v;
    std::cout << "\n";
  }
}

Json json_of(const std::vector<Finding>& findings) {
  Json all = Json::array();
  for (const Finding& f : findings) {
    Json places = Json::array();
    for (const Place& p : f.places) places.push_back({p.u, p.v});
    all.push_back({{"check", f.check},
                   {"verdict", verdict_name(f.verdict)},
                   {"slot", f.slot},
                   {"figure", f.figure},
                   {"limit", f.limit},
                   {"told", f.told},
                   {"places", std::move(places)},
                   {"why", check_of(f.check)->why}});
  }
  return all;
}

int run(const Proof& proof, const Common& common) {
  const auto m = prepared(proof.source);
  if (!m) return fail(proof.source.file, m.error());
  Weaver weaver(common.budget());
  const auto findings = prove(*m, catalogue(), weaver, proof.options, Stop{});
  if (!findings) return fail(proof.source.file, findings.error());
  if (common.json)
    std::cout << json_of(*findings).dump(1) << "\n";
  else
    tell(*findings);
  const bool falls_short =
      std::any_of(findings->begin(), findings->end(), [](const Finding& f) { return f.verdict == Verdict::fail; });
  return falls_short ? kInput : kDone;
}

}  // namespace

std::function<int(const Common&)> proof_call(CLI::App* call) {
  const auto proof = std::make_shared<Proof>();
  add_options(call, proof->source);
  call->add_option("--checks", proof->options.checks, "only these, with commas between")->delimiter(',');
  call->add_option("--size", proof->options.size, "texels along a side")
      ->check(CLI::IsMember({128, 256, 512, 1024, 2048, 4096}));
  return [proof](const Common& common) { return run(*proof, common); };
}

}  // namespace loom
