// fit: dials turned until the material is like a picture.
#include <iostream>
#include <nlohmann/json.hpp>

#include "cli/call.h"
#include "core/bolt/fit.h"
#include "core/bolt/package.h"
#include "core/graph/disc.h"
#include "core/graph/json.h"
#include "core/nodes/catalogue.h"

namespace loom {
namespace {

struct Fit {
  Source source;
  std::string picture, out;
  FitWish wish;
};

std::string shown(const ParamValue& value) {
  if (const auto* x = std::get_if<double>(&value)) return Json(*x).dump();
  const auto* v = std::get_if<Vector>(&value);
  return v ? Json(*v).dump() : std::string();
}

// The dials that were turned, from what to what.
Json turned(const Material& before, const Material& after) {
  Json all = Json::array();
  for (const Value& v : after.values) {
    const Value* was = before.value(v.id);
    if (v.dial && was && was->value != v.value)
      all.push_back({{"dial", v.id}, {"from", shown(was->value)}, {"to", shown(v.value)}});
  }
  return all;
}

// A bolt by its ending; else a document, what a bolt packed beside it.
Result<Done> kept(const Material& m, const std::filesystem::path& out) {
  if (out.extension() == ".bolt") return write_bolt(out, {m});
  if (m.files && !m.files->packed.empty())
    if (const auto done = unpack_files(*m.files, out.parent_path()); !done) return done;
  return write_file(out, write_material(m));
}

int run(const Fit& call, const Common& common) {
  const auto m = prepared(call.source);
  if (!m) return fail(call.source.file, m.error());
  const auto picture = read_image(call.picture);
  if (!picture) return fail(call.picture, picture.error());
  const FitWish& wish = call.wish;
  const auto progress = progress_of(common);
  const auto found = fit(
      *m, catalogue(), *picture, wish,
      [&](const FitState& state) {
        if (progress)
          progress(std::min(state.seconds / wish.seconds, 1.0), "unlike by " + Json(state.unlikeness).dump());
      },
      Stop{});
  if (!found) return fail(call.source.file, found.error());
  if (const auto written = kept(found->best.material, call.out); !written)
    return fail(call.out, written.error(), kWriting);
  const Json dials = turned(*m, found->best.material);
  if (common.json) {
    std::cout
        << Json{{"file", call.out},           {"unlike_before", found->before}, {"unlike", found->best.unlikeness},
                {"tried", found->best.tried}, {"seconds", found->best.seconds}, {"dials", dials},
                {"idle", found->idle},        {"in_time", found->in_time}}
               .dump()
        << "\n";
    return kDone;
  }
  for (const Json& d : dials)
    std::cout << d["dial"].get<std::string>() << "\t" << d["from"].get<std::string>() << " -> "
              << d["to"].get<std::string>() << "\n";
  for (const std::string& idle : found->idle) std::cerr << idle << " does not show in the base colour: left as it is\n";
  std::cout << call.out << "  unlike by " << found->best.unlikeness << " (" << found->before << " before), "
            << found->best.tried << " states in " << found->best.seconds << " s\n";
  return kDone;
}

}  // namespace

std::function<int(const Common&)> fit_call(CLI::App* call) {
  const auto f = std::make_shared<Fit>();
  add_options(call, f->source);
  call->add_option("picture", f->picture, "what it is to be like")->required();
  call->add_option("--dials", f->wish.dials, "which are turned, with commas between; all numbers and colours")
      ->delimiter(',');
  call->add_option("--seconds", f->wish.seconds, "how long at most; 60")->check(CLI::Range(1.0, 86400.0));
  call->add_option("--tries", f->wish.tries, "states at most, whatever the time")->check(CLI::Range(1, 1 << 20));
  call->add_option("--scale", f->wish.scale, "how many tiles the picture is wide; 1");
  call->add_option("--out", f->out, "the document with the dials turned")->required();
  return [f](const Common& common) { return run(*f, common); };
}

}  // namespace loom
