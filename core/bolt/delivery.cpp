// Weaves the wanted slots, encodes each by its rule, writes it whole.
#include "core/bolt/delivery.h"

#include <algorithm>
#include <cctype>
#include <charconv>
#include <cstdio>

#include "core/base/clock.h"
#include "core/base/parallel.h"
#include "core/bolt/slot_file.h"
#include "core/graph/edit.h"
#include "core/graph/hem.h"
#include "core/graph/offered.h"
#include "core/graph/validate.h"

namespace loom {
namespace {

std::string safe_name(std::string_view text) {
  std::string out;
  for (const char c : text) {
    if (std::isalnum(static_cast<unsigned char>(c)) || c == '-' || c == '_' || c == '.')
      out += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    else if (!out.empty() && out.back() != '-')
      out += '-';
  }
  while (!out.empty() && (out.front() == '.' || out.front() == '-')) out.erase(out.begin());
  return out.empty() ? "untitled" : out;
}

void replace_all(std::string& text, std::string_view from, const std::string& to) {
  for (std::size_t at = 0; (at = text.find(from, at)) != std::string::npos; at += to.size())
    text.replace(at, from.size(), to);
}

}  // namespace

std::vector<SlotDelivery> usual_slots(const Material& material) {
  std::vector<SlotDelivery> slots;
  const auto add = [&](const std::string& id) {
    const Slot* known = known_slot(id);
    const bool colour = known && known->srgb;
    slots.push_back({id, true, ImageFormat::png, colour || id == "metallic" || id == "opacity" ? 8 : 16});
  };
  for (const Slot& s : hem_slots())
    if (slot_is_filled(material, std::string(s.id))) add(std::string(s.id));
  for (const Slot& s : further_slots())
    if (slot_is_filled(material, std::string(s.id))) add(std::string(s.id));
  for (const auto& [slot, from] : material.hem)
    if (!known_slot(slot)) add(slot);
  return slots;
}

std::string file_name(const Material& material, const DeliveryPlan& plan, const SlotDelivery& slot) {
  std::string name = plan.pattern.empty() ? "{material}_{slot}" : plan.pattern;
  replace_all(name, "{material}", safe_name(material.name));
  replace_all(name, "{slot}", slot.slot);
  replace_all(name, "{size}", std::to_string(plan.size));
  replace_all(name, "{preset}", plan.preset.empty() ? "start" : safe_name(plan.preset));
  return safe_name(name) + (slot.format == ImageFormat::png ? ".png" : ".exr");
}

namespace {

using Progress = std::function<void(double, const std::string&)>;

// One delivery: what is woven goes into its file as soon as it stands, so that few planes are there at a time.
class Delivery {
 public:
  Delivery(const Material& material, const FlatGraph& graph, Weaver& weaver, const DeliveryPlan& plan, const Stop& stop,
           const Progress& progress)
      : material_(material), graph_(graph), weaver_(weaver), plan_(plan), stop_(stop), progress_(progress) {
    for (const SlotDelivery& s : plan.slots)
      if (const auto at = graph.hem.find(s.slot); s.on && at != graph.hem.end()) {
        if (const SurfaceUse use = graph.surface_of(at->second); use != SurfaceUse::none)
          leave_out(s.slot, use);
        else
          waiting_.push_back({s, Want(at->second, slot_kind(s.slot))});
      }
    count_ = waiting_.size();
  }

  Result<DeliveryReport> run(std::size_t budget) {
    const auto start = Clock::now();
    if (waiting_.empty() && !report_.left_out.empty())
      return Error{"hem", "there is nothing to deliver: " + report_.warnings.front(), "Connect a map to a slot"};
    if (waiting_.empty())
      return Error{"hem", "there is nothing to deliver", "Connect an output to a slot, and turn the slot on"};
    if (const auto done = written(budget); !done) return done.error();
    std::sort(report_.files.begin(), report_.files.end(),
              [&](const auto& a, const auto& b) { return place(a) < place(b); });
    if (progress_) progress_(1, "done");
    report_.total_milliseconds = milliseconds_since(start);
    return std::move(report_);
  }

 private:
  struct Waiting {
    SlotDelivery slot;
    Want want;
  };

  void leave_out(const std::string& slot, SurfaceUse use) {
    report_.left_out.push_back(slot);
    report_.warnings.push_back(slot + " depends on the " + (use == SurfaceUse::shape ? "shape" : "eye or the light") +
                               " and cannot become a map: it was left out");
  }

  // All at once where there is room for it; else one after the other, keeping for the next what it may need as well, or
  // without.
  Result<Done> written(std::size_t budget) {
    const auto fits = [&](const std::vector<Waiting>& some, bool keep) {
      return weaver_.bytes_at_peak(graph_, wants_of(some), plan_.size, how(keep)) <= budget;
    };
    if (fits(waiting_, false))
      if (const auto done = weave(waiting_, false); done || !no_room_) return done;
    while (!waiting_.empty()) {
      const std::vector<Waiting> next{waiting_.front()};
      if (fits(next, true)) {
        const auto done = weave(next, true);
        if (done) continue;
        if (!no_room_) return done;
      }
      weaver_.forget();
      if (const auto done = weave(next, false); !done) return done;
    }
    return Done{};
  }

  static std::vector<Want> wants_of(const std::vector<Waiting>& some) {
    std::vector<Want> wants;
    for (const Waiting& s : some) wants.push_back(s.want);
    return wants;
  }

  WeaveOptions how(bool keep) const {
    WeaveOptions options;
    options.keep = keep;
    options.finished = [](std::size_t, const Field&) { return true; };
    return options;
  }

  // Weaves some slots and writes them; what is written waits no more.
  Result<Done> weave(std::vector<Waiting> some, bool keep) {
    const auto began = Clock::now();
    double wrote = 0;
    Result<Done> writing = Done{};
    WeaveOptions options = how(keep);
    options.progress = [&](double share, const std::string& node) { tell(share, node); };
    options.finished = [&](std::size_t i, const Field& field) {
      const auto start = Clock::now();
      writing = write(some[i].slot, field);
      wrote += milliseconds_since(start);
      return writing.ok();
    };
    const auto woven = weaver_.weave(graph_, wants_of(some), plan_.size, stop_, options);
    report_.weave_milliseconds += milliseconds_since(began) - wrote;
    no_room_ = writing.ok() && !woven && !stop_.asked();
    if (!writing.ok()) return writing;
    if (stop_.asked()) return Error{"", kCancelled, ""};
    if (!woven) return woven.error();
    return woven->faults.empty() ? Result<Done>(Done{}) : Result<Done>(fault_of(*woven));
  }

  Error fault_of(const Woven& woven) const {
    Error e = woven.faults.begin()->second;
    e.where = "node " + graph_.nodes[static_cast<std::size_t>(woven.faults.begin()->first)].path +
              (e.where.empty() ? "" : ", " + e.where);
    return e;
  }

  Result<Done> write(const SlotDelivery& slot, const Field& field) {
    tell(woven_share_, file_name(material_, plan_, slot));
    if (const auto done = write_slot(field, slot, material_, plan_, stop_, report_); !done) return done;
    std::erase_if(waiting_, [&](const Waiting& s) { return s.slot.slot == slot.slot; });
    return Done{};
  }

  // Half of the way is weaving, half is writing.
  void tell(double woven_share, const std::string& what) {
    woven_share_ = woven_share;
    const double all = static_cast<double>(count_), written = static_cast<double>(report_.files.size());
    most_ = std::max(most_, 0.5 * written / all + 0.5 * std::max(woven_share, written / all));
    if (progress_) progress_(std::min(most_, 1.0), what);
  }

  std::size_t place(const DeliveredFile& file) const {
    const auto& slots = plan_.slots;
    return static_cast<std::size_t>(
        std::find_if(slots.begin(), slots.end(), [&](const SlotDelivery& s) { return s.slot == file.slot; }) -
        slots.begin());
  }

  const Material& material_;
  const FlatGraph& graph_;
  Weaver& weaver_;
  const DeliveryPlan& plan_;
  const Stop& stop_;
  const Progress& progress_;
  std::vector<Waiting> waiting_;
  std::size_t count_ = 0;
  double woven_share_ = 0, most_ = 0;
  bool no_room_ = false;  // what ended the last weaving
  DeliveryReport report_;
};

Result<DeliveryReport> delivered(const Material& material, const Catalogue& catalogue, Weaver& weaver,
                                 const DeliveryPlan& plan, const Stop& stop, const Progress& progress,
                                 std::size_t budget) {
  if (const auto fit = check_plan(plan); !fit) return fit.error();
  const auto graph = flatten(material, catalogue);
  if (!graph) return graph.error();
  return Delivery(material, *graph, weaver, plan, stop, progress).run(budget);
}

}  // namespace

Result<DeliveryReport> deliver(const Material& material, const Catalogue& catalogue, Weaver& weaver,
                               const DeliveryPlan& plan, const Stop& stop,
                               const std::function<void(double, const std::string&)>& progress, std::size_t budget) {
  try {
    return delivered(material, catalogue, weaver, plan, stop, progress, budget);
  } catch (const std::bad_alloc&) {
    return Error{
        "", "there is not enough memory to deliver " + std::to_string(plan.size) + " x " + std::to_string(plan.size),
        "Choose a smaller size, or close other programs"};
  }
}

namespace {

Result<Material> with_value(const Material& material, const Catalogue& catalogue, const Value& dial, ParamValue value) {
  if (auto bad = misfit(offered_parameter(material.nodes, catalogue, dial), value)) {
    bad->where = dial.id;
    return *bad;
  }
  return edit::set_value(material, dial.id, std::move(value));
}

}  // namespace

Result<Material> with_dial(const Material& material, const Catalogue& catalogue, const std::string& name,
                           const std::string& text) {
  const Value* value = material.value(name);
  if (!value) {
    std::string known;
    for (const Value& v : material.values) known += (known.empty() ? "" : ", ") + v.id;
    return Error{name, "is no dial of this material", known.empty() ? "It has none" : "It has " + known};
  }
  if (std::holds_alternative<std::string>(value->value)) return with_value(material, catalogue, *value, text);
  Vector numbers;
  const char* at = text.data();
  const char* end = at + text.size();
  while (at < end) {
    double x = 0;
    const auto [next, code] = std::from_chars(at, end, x);
    if (code != std::errc())
      return Error{name, "'" + text + "' is not a number",
                   "Write " + name + "=0.5, or for a colour " + name + "=0.1,0.2,0.3"};
    numbers.push_back(x);
    at = next < end && *next == ',' ? next + 1 : next;
    if (next < end && *next != ',') return Error{name, "'" + text + "' is not a number", "Write " + name + "=0.5"};
  }
  const auto* vector = std::get_if<Vector>(&value->value);
  if (numbers.size() != (vector ? vector->size() : 1))
    return Error{name, "takes " + std::to_string(vector ? vector->size() : 1) + " numbers",
                 "Separate them with commas"};
  return with_value(material, catalogue, *value, vector ? ParamValue(numbers) : ParamValue(numbers[0]));
}

Result<Material> with_preset(const Material& material, const std::string& name) {
  std::string known;
  for (const Preset& p : material.presets) {
    if (p.name == name) return edit::apply_preset(material, p);
    known += (known.empty() ? "" : ", ") + p.name;
  }
  return Error{name, "is no preset of this material", known.empty() ? "It has none" : "It has " + known};
}

}  // namespace loom
