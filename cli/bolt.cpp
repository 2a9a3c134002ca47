// bolt, unpack: packages, both ways.
#include <iostream>

#include "cli/call.h"
#include "core/bolt/lit_pictures.h"

namespace loom {
namespace {

struct Packing {
  std::string file, out, version;
  bool no_pictures = false;
};

int pack(const Common& common, const Packing& p) {
  auto m = checked(p.file);
  if (!m) return fail(p.file, m.error());
  if (!p.version.empty()) {
    if (!is_version(p.version))
      return fail(p.file, {"--version", "'" + p.version + "' is no version", "Write it like 1.3"}, kUsage);
    m->imprint.version = p.version;
  }
  Bolt bolt{std::move(m).value()};
  if (!p.no_pictures)
    if (const auto done = add_pictures(bolt, Stop{}); !done) return fail(p.file, done.error());
  if (const auto done = write_bolt(p.out, bolt); !done) return fail(p.out, done.error(), kWriting);
  if (common.json) {
    const auto cover = read_cover(p.out);
    if (!cover) return fail(p.out, cover.error(), kWriting);
    std::cout << manifest_text(cover->manifest);
  }
  return kDone;
}

int unpack(const Common& common, const std::string& file, const std::string& out) {
  const auto bolt = read_bolt(file);
  if (!bolt) return fail(file, bolt.error());
  const auto written = unpack_bolt(*bolt, out);
  if (!written) return fail(out, written.error(), kWriting);
  if (!common.quiet)
    for (const auto& path : *written) std::cout << path.string() << "\n";
  return kDone;
}

}  // namespace

std::function<int(const Common&)> bolt_call(CLI::App* call) {
  auto p = std::make_shared<Packing>();
  call->add_option("FILE", p->file)->required();
  call->add_option("--out", p->out)->required();
  call->add_option("--version", p->version, "instead of the material's own");
  call->add_flag("--no-pictures", p->no_pictures, "none of the material and its presets");
  return [p](const Common& common) { return pack(common, *p); };
}

std::function<int(const Common&)> unpack_call(CLI::App* call) {
  auto file = std::make_shared<std::string>(), out = std::make_shared<std::string>();
  call->add_option("FILE", *file, "a .bolt")->required();
  call->add_option("--out", *out, "the folder")->required();
  return [file, out](const Common& common) { return unpack(common, *file, *out); };
}

}  // namespace loom
