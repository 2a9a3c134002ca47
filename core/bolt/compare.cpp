#include "core/bolt/compare.h"

#include <openssl/evp.h>

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <set>

#include "core/graph/hem.h"
#include "core/io/image.h"
#include "core/plane/colour.h"

namespace loom {
namespace {

constexpr int kPictureSide = 160;
constexpr float kHalfStep = 0.5f / 255;

using Slots = std::map<std::string, Field>;

Result<Slots> woven(const Material& m, const Catalogue& catalogue, Weaver& weaver, int size, const Stop& stop) {
  const auto graph = flatten(m, catalogue);
  if (!graph) return graph.error();
  std::vector<Want> wants;
  std::vector<std::string> names;
  for (const auto& [slot, ref] : graph->hem) {
    if (graph->surface_of(ref) != SurfaceUse::none) continue;
    wants.emplace_back(ref, slot_kind(slot));
    names.push_back(slot);
  }
  auto fields = weaver.weave(*graph, wants, size, stop);
  if (!fields) return fields.error();
  if (!fields->faults.empty()) return fields->faults.begin()->second;
  Slots slots;
  for (std::size_t i = 0; i < names.size(); ++i) slots[names[i]] = std::move(fields->fields[i]);
  return slots;
}

std::string picture_of(const Field& field, int size) {
  const int side = std::min(kPictureSide, size), strands = strand_count(field.kind);
  std::vector<std::uint8_t> rgb;
  for (int y = 0; y < side; ++y)
    for (int x = 0; x < side; ++x)
      for (int c = 0; c < 3; ++c) {
        const int strand = strands >= 3 ? c : 0;
        float v = field.strand[static_cast<std::size_t>(strand)]->at(x * size / side, y * size / side);
        if (field.kind == Kind::normal) v = 0.5f + 0.5f * v;
        if (field.kind == Kind::colour) v = srgb_from_linear(v);
        rgb.push_back(static_cast<std::uint8_t>(code_of(v, 255)));
      }
  const auto png = encode_picture(side, side, rgb);
  return png ? *png : std::string();
}

void measure(SlotDifference& d, const Field& a, const Field& b) {
  const int strands = std::min(strand_count(a.kind), strand_count(b.kind));
  const std::size_t texels = a.strand[0]->texels();
  double squares = 0;
  std::size_t differing = 0;
  for (std::size_t i = 0; i < texels; ++i) {
    float most = 0;
    for (int s = 0; s < strands; ++s) {
      const auto at = static_cast<std::size_t>(s);
      const float gap = std::abs(a.strand[at]->data()[i] - b.strand[at]->data()[i]);
      squares += static_cast<double>(gap) * static_cast<double>(gap);
      most = std::max(most, gap);
    }
    d.greatest = std::max(d.greatest, static_cast<double>(most));
    differing += most >= kHalfStep;
  }
  d.rms = std::sqrt(squares / static_cast<double>(texels * static_cast<std::size_t>(strands)));
  d.share = static_cast<double>(differing) / static_cast<double>(texels);
}

std::string escaped(const std::string& text) {
  std::string out;
  for (const char c : text) {
    if (c == '&')
      out += "&amp;";
    else if (c == '<')
      out += "&lt;";
    else if (c == '"')
      out += "&quot;";
    else
      out += c;
  }
  return out;
}

std::string as_image(const std::string& png) {
  if (png.empty()) return "&ndash;";
  std::string text(4 * ((png.size() + 2) / 3) + 1, '\0');
  const int length = EVP_EncodeBlock(reinterpret_cast<unsigned char*>(text.data()),
                                     reinterpret_cast<const unsigned char*>(png.data()), static_cast<int>(png.size()));
  text.resize(static_cast<std::size_t>(length));
  return "<img alt=\"\" src=\"data:image/png;base64," + text + "\">";
}

std::string number(double x) {
  char text[32];
  std::snprintf(text, sizeof text, "%.4g", x);
  return text;
}

}  // namespace

Result<Comparison> compare(const Material& a, const Material& b, const Catalogue& catalogue, Weaver& weaver, int size,
                           bool pictures, const Stop& stop) {
  Comparison all{changes(a, b), {}};
  const auto before = woven(a, catalogue, weaver, size, stop);
  if (!before) return before.error();
  const auto after = woven(b, catalogue, weaver, size, stop);
  if (!after) return after.error();
  std::set<std::string> names;
  for (const auto* side : {&*before, &*after})
    for (const auto& [slot, field] : *side) names.insert(slot);
  for (const std::string& slot : names) {
    const auto x = before->find(slot), y = after->find(slot);
    SlotDifference d{slot, x != before->end(), y != after->end()};
    if (d.before && d.after) measure(d, x->second, y->second);
    if (d.before && d.after && d.greatest == 0) continue;
    if (pictures && d.before) d.before_png = picture_of(x->second, size);
    if (pictures && d.after) d.after_png = picture_of(y->second, size);
    all.slots.push_back(std::move(d));
  }
  return all;
}

std::string comparison_page(const std::vector<std::pair<std::string, Comparison>>& all) {
  std::string page =
      "<!doctype html>\n<html lang=\"en\"><head><meta charset=\"utf-8\"><title>What "
      "changed</title>\n<style>body{font:14px "
      "sans-serif;margin:2em;background:#f1ede4;color:#2a2724}table{border-collapse:collapse;margin:0 0 "
      "2em}td,th{border-bottom:1px solid #cfc8b8;padding:.3em 1em "
      ".3em 0;text-align:left;vertical-align:top}img{display:block}</style></head><body>\n<h1>What changed</h1>\n";
  for (const auto& [name, c] : all) {
    page += "<h2>" + escaped(name) + "</h2>\n";
    if (!c.differs()) {
      page += "<p>Nothing.</p>\n";
      continue;
    }
    page += "<table><tr><th>What</th><th>Where</th><th>Before</th><th>After</th></tr>\n";
    for (const Change& x : c.changes)
      page += "<tr><td>" + escaped(x.what) + "</td><td>" + escaped(x.where) + "</td><td>" + escaped(x.before) +
              "</td><td>" + escaped(x.after) + "</td></tr>\n";
    page +=
        "</table>\n<table><tr><th>Slot</th><th>RMS</th><th>Greatest</th><th>Share</th><th>Before</th><th>After</th></"
        "tr>\n";
    for (const SlotDifference& d : c.slots)
      page += "<tr><td>" + escaped(d.slot) + "</td><td>" + number(d.rms) + "</td><td>" + number(d.greatest) +
              "</td><td>" + number(100 * d.share) + " %</td><td>" + as_image(d.before_png) + "</td><td>" +
              as_image(d.after_png) + "</td></tr>\n";
    page += "</table>\n";
  }
  return page + "</body></html>\n";
}

}  // namespace loom
