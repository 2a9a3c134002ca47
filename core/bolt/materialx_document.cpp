// The looks of a material over its delivered maps.
#include <algorithm>
#include <set>

#include "core/bolt/documents.h"
#include "core/bolt/map_file.h"
#include "core/bolt/mtlx_frame.h"
#include "core/graph/disc.h"

namespace loom {
namespace {

// Where a delivered file holds a slot's strand.
struct Held {
  const FileDelivery* file = nullptr;
  const DeliveredFile* done = nullptr;
  int channel = 0;
  bool inverted = false;
};

class MaterialxDocument {
 public:
  MaterialxDocument(const Material& material, const DeliveryPlan& plan, const DeliveryReport& report)
      : m_(material), plan_(plan), report_(report), frame_(material, "maps") {}

  std::string text() {
    lay_maps();
    return frame_.text();
  }

  // Slots with a thread that stand in no file, or have no place in a document.
  std::string not_carried() const {
    std::string all;
    for (const auto& [slot, from] : m_.hem)
      if (!frame_.gives(slot) && slot != "height") all += (all.empty() ? "" : ", ") + slot;
    return all;
  }

 private:
  std::optional<Held> held(const std::string& slot, int strand) const {
    for (const FileDelivery& f : plan_.files) {
      const DeliveredFile* done = f.on ? find_file(report_, f.name) : nullptr;
      if (!done || done->bits == 0) continue;
      if (f.channels.empty()) {
        if (f.name == slot) return Held{&f, done, strand, false};
        continue;
      }
      const bool whole = f.channels.size() == 1;
      for (const auto& [channel, source] : f.channels) {
        if (source.slot != slot) continue;
        if (whole && source.strand < 0) return Held{&f, done, strand, source.inverted};
        if (std::max(source.strand, 0) == strand)
          return Held{&f, done, static_cast<int>(std::string_view("rgba").find(channel[0])), source.inverted};
      }
    }
    return {};
  }

  int channels_of(const Held& h) const { return static_cast<int>(h.done->channels.size()); }

  // The image node of a file, once. Colours are decoded; all else comes as it stands in the file.
  std::string image(const Held& h) {
    const std::string name = "file_" + h.done->name;
    if (!images_.insert(name).second) return name;
    const int n = channels_of(h);
    const bool colour = h.done->srgb;
    const char* type = n == 1 ? "float" : n == 4 ? (colour ? "color4" : "vector4") : colour ? "color3" : "vector3";
    auto file = mtlx::add_input(mtlx::add_node(frame_.graph(), "image", name, type), "file", "filename");
    file.append_attribute("value") = h.done->path.filename().string().c_str();
    if (colour) file.append_attribute("colorspace") = "srgb_texture";
    types_[name] = type;
    return name;
  }

  // One number out of a file, turned about and stretched as the file has it.
  std::string strand(const Held& h, const std::string& as) {
    std::string from = image(h);
    if (channels_of(h) > 1) {
      auto n = mtlx::add_node(frame_.graph(), "extract", as + "_in_file", "float");
      mtlx::add_from(n, "in", types_[from].c_str(), from);
      mtlx::add_value(n, "index", "integer", std::to_string(h.channel));
      from = as + "_in_file";
    }
    if (h.file->scale && h.file->format != ImageFormat::exr && (h.done->least < 0 || h.done->most > 1)) {
      const float low = std::min(h.done->least, 0.0f), high = std::max(h.done->most, 1.0f);
      from = number_with("multiply", as + "_range", from, high - low);
      from = number_with("add", as + "_from", from, low);
    }
    if (h.inverted) {
      auto n = mtlx::add_node(frame_.graph(), "invert", as + "_turned", "float");
      mtlx::add_from(n, "in", "float", from);
      from = as + "_turned";
    }
    return from;
  }

  std::string number_with(const char* does, const std::string& name, const std::string& from, float by) {
    auto n = mtlx::add_node(frame_.graph(), does, name, "float");
    mtlx::add_from(n, "in1", "float", from);
    mtlx::add_value(n, "in2", "float", mtlx::text_of({by, by, by}, "float"));
    return name;
  }

  std::string combined(const std::string& name, const char* type, const std::array<std::string, 3>& from) {
    auto n = mtlx::add_node(frame_.graph(), "combine3", name, type);
    const char* ins[] = {"in1", "in2", "in3"};
    for (std::size_t i = 0; i < 3; ++i) mtlx::add_from(n, ins[i], "float", from[i]);
    return name;
  }

  void lay_maps() {
    for (const auto& [slot, unused] : m_.hem) {
      const Slot* known = known_slot(slot);
      if (!known || slot == "geometry_tangent" || slot == "geometry_thin_walled") continue;
      if (slot == "normal")
        lay_normal();
      else if (known->channels == 3)
        lay_colour(slot);
      else if (const auto h = held(slot, 0))
        frame_.give(slot, "float", strand(*h, slot));
    }
  }

  void lay_colour(const std::string& slot) {
    const auto h = held(slot, 0);
    if (!h) return;
    const bool straight = h->channel == 0 && !h->inverted && h->done->srgb && !h->file->scale && channels_of(*h) == 3;
    if (straight) return frame_.give(slot, "color3", image(*h));
    std::array<std::string, 3> from;
    for (int i = 0; i < 3; ++i) {
      const auto one = held(slot, i);
      if (!one) return;
      from[static_cast<std::size_t>(i)] = strand(*one, slot + "_" + "rgb"[i]);
    }
    frame_.give(slot, "color3", combined(slot + "_whole", "color3", from));
  }

  void lay_normal() {
    const auto h = held("normal", 0);
    if (!h) return;
    const bool up = h->file->green_up.value_or(plan_.green_up);
    std::string from;
    if (up && h->channel == 0 && channels_of(*h) == 3) {
      from = image(*h);
    } else {
      std::array<std::string, 3> parts;
      for (int i = 0; i < 3; ++i) {
        auto one = held("normal", i);
        if (!one) return;
        if (i == 1 && !up) one->inverted = !one->inverted;
        parts[static_cast<std::size_t>(i)] = strand(*one, std::string("normal_") + "xyz"[i]);
      }
      from = combined("normal_whole", "vector3", parts);
    }
    auto n = mtlx::add_node(frame_.graph(), "normalmap", "normal_turned_in", "vector3");
    mtlx::add_from(n, "in", "vector3", from);
    frame_.give("normal", "vector3", "normal_turned_in");
  }

  const Material& m_;
  const DeliveryPlan& plan_;
  const DeliveryReport& report_;
  mtlx::Frame frame_;
  std::set<std::string> images_;
  std::map<std::string, std::string> types_;  // of image nodes
};

}  // namespace

Result<Done> write_materialx(const Material& material, const DeliveryPlan& plan, DeliveryReport& report) {
  MaterialxDocument document(material, plan, report);
  auto path = plan.folder / file_name(material, plan, FileDelivery{"materialx"});
  path.replace_extension(".mtlx");
  if (const auto done = write_file(path, document.text()); !done) return done;
  note_other_file("mtlx", path, report);
  if (const std::string rest = document.not_carried(); !rest.empty())
    report.warnings.push_back("MaterialX has no place for " + rest);
  return Done{};
}

}  // namespace loom
