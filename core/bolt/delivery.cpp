// Weaves the wanted slots, encodes each by its rule, writes it whole.
#include "core/bolt/delivery.h"

#include <algorithm>
#include <cctype>
#include <charconv>
#include <cstdio>

#include "core/base/clock.h"
#include "core/base/parallel.h"
#include "core/bolt/delivery_state.h"
#include "core/bolt/documents.h"
#include "core/bolt/map_file.h"
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

namespace {

// Where steps would show: not where black and white stand for no and yes.
bool is_smooth(const std::string& slot) { return slot != "metallic" && slot != "opacity" && known_slot(slot); }

}  // namespace

std::vector<FileDelivery> usual_files(const Material& material) {
  std::vector<FileDelivery> files;
  const auto add = [&](const std::string& id) {
    const Slot* known = known_slot(id);
    const bool colour = known && known->srgb;
    FileDelivery file{id};
    file.bits = colour || id == "metallic" || id == "opacity" ? 8 : 16;
    file.dither = is_smooth(id);
    files.push_back(std::move(file));
  };
  for (const Slot& s : hem_slots())
    if (slot_is_filled(material, std::string(s.id))) add(std::string(s.id));
  for (const Slot& s : further_slots())
    if (slot_is_filled(material, std::string(s.id))) add(std::string(s.id));
  for (const auto& [slot, from] : material.hem)
    if (!known_slot(slot)) add(slot);
  return files;
}

std::string file_name(const Material& material, const DeliveryPlan& plan, const FileDelivery& file) {
  std::string name = !file.pattern.empty() ? file.pattern : plan.pattern.empty() ? "{material}_{slot}" : plan.pattern;
  replace_all(name, "{material}", safe_name(material.name));
  replace_all(name, "{slot}", safe_name(file.name));
  replace_all(name, "{size}", std::to_string(plan.size));
  replace_all(name, "{preset}", plan.preset.empty() ? "start" : safe_name(plan.preset));
  replace_all(name, "{list}", plan.list.empty() ? "maps" : safe_name(plan.list));
  return safe_name(name) + ending_of(file.format);
}

std::vector<std::string> slots_of(const FileDelivery& file) {
  if (file.channels.empty()) return {file.name};
  std::vector<std::string> slots;
  for (const auto& [channel, source] : file.channels)
    if (!source.slot.empty() && std::find(slots.begin(), slots.end(), source.slot) == slots.end())
      slots.push_back(source.slot);
  return slots;
}

namespace {

using Progress = std::function<void(double, const std::string&)>;

// One delivery: what is woven goes into its files as soon as they have all their slots, so that few planes are there at
// a time.
class Delivery {
 public:
  Delivery(const Material& material, const FlatGraph& graph, Weaver& weaver, const DeliveryPlan& plan, const Stop& stop,
           const Progress& progress)
      : material_(material),
        graph_(graph),
        weaver_(weaver),
        plan_(plan),
        stop_(stop),
        progress_(progress),
        state_(plan.state) {
    for (const FileDelivery& f : plan.files)
      if (f.on) take(f);
    count_ = waiting_.size() + report_.files.size();
  }

  Result<DeliveryReport> run(std::size_t budget) {
    const bool graph_alone = plan_.materialx_graph && !material_.hem.empty();
    if (waiting_.empty() && !report_.left_out.empty() && !graph_alone)
      return Error{"hem", "there is nothing to deliver: " + report_.warnings.front(), "Connect a map to a slot"};
    if (waiting_.empty() && report_.files.empty() && !graph_alone)
      return Error{"hem", "there is nothing to deliver", "Connect an output to a slot, and turn the slot on"};
    if (!waiting_.empty())
      if (const auto done = written(budget); !done) return done.error();
    std::sort(report_.files.begin(), report_.files.end(),
              [&](const auto& a, const auto& b) { return place(a) < place(b); });
    if (progress_) progress_(1, "done");
    report_.total_milliseconds = milliseconds_since(began_);
    return std::move(report_);
  }

 private:
  // A file of several slots is written where one of them is filled: the others are what they mean when empty.
  void take(const FileDelivery& file) {
    bool filled = false;
    for (const std::string& slot : slots_of(file)) {
      const auto at = graph_.hem.find(slot);
      if (at == graph_.hem.end()) continue;
      if (const SurfaceUse use = graph_.surface_of(at->second); use != SurfaceUse::none)
        return leave_out(file, slot, use);
      filled = true;
    }
    if (filled && !stands(file)) waiting_.push_back(file);
  }

  // What an earlier delivery wrote is left alone.
  bool stands(const FileDelivery& file) {
    return state_.take(plan_.folder / file_name(material_, plan_, file), delivery_key(graph_, plan_, file), report_);
  }

  void leave_out(const FileDelivery& file, const std::string& slot, SurfaceUse use) {
    report_.left_out.push_back(file.name);
    report_.warnings.push_back(slot + " depends on the " + (use == SurfaceUse::shape ? "shape" : "eye or the light") +
                               " and cannot become a map: " + (file.name == slot ? "it" : file.name) + " was left out");
  }

  std::vector<std::string> filled_slots(const std::vector<FileDelivery>& some) const {
    std::vector<std::string> slots;
    for (const FileDelivery& file : some)
      for (const std::string& slot : slots_of(file))
        if (graph_.hem.count(slot) && std::find(slots.begin(), slots.end(), slot) == slots.end()) slots.push_back(slot);
    return slots;
  }

  // What waits in memory for other slots of its file, at most.
  std::size_t held_bytes(const std::vector<FileDelivery>& some) const {
    const auto plane = static_cast<std::size_t>(plan_.size) * static_cast<std::size_t>(plan_.size) * sizeof(float);
    std::size_t planes = 0;
    for (const std::string& slot : filled_slots(some))
      if (std::any_of(some.begin(), some.end(), [&](const FileDelivery& f) {
            const auto slots = slots_of(f);
            return slots.size() > 1 && std::find(slots.begin(), slots.end(), slot) != slots.end();
          }))
        planes += static_cast<std::size_t>(strand_count(slot_kind(slot)));
    return planes * plane;
  }

  // All at once where there is room for it; else one after the other, keeping for the next what it may need as well, or
  // without.
  Result<Done> written(std::size_t budget) {
    const auto fits = [&](const std::vector<FileDelivery>& some, bool keep) {
      return weaver_.bytes_at_peak(graph_, wants_of(some), plan_.size, how(keep)) + held_bytes(some) <= budget;
    };
    if (fits(waiting_, false))
      if (const auto done = weave(waiting_, false); done || !no_room_) return done;
    held_.clear();
    while (!waiting_.empty()) {
      const std::vector<FileDelivery> next{waiting_.front()};
      if (fits(next, true)) {
        const auto done = weave(next, true);
        if (done) continue;
        if (!no_room_) return done;
      }
      held_.clear();
      weaver_.forget();
      if (const auto done = weave(next, false); !done) return done;
    }
    return Done{};
  }

  std::vector<Want> wants_of(const std::vector<FileDelivery>& some) const {
    std::vector<Want> wants;
    for (const std::string& slot : filled_slots(some)) wants.emplace_back(graph_.hem.at(slot), slot_kind(slot));
    return wants;
  }

  WeaveOptions how(bool keep) const {
    WeaveOptions options;
    options.keep = keep;
    options.finished = [](std::size_t, const Field&) { return true; };
    return options;
  }

  // Weaves what some files hold and writes them; what is written waits no more.
  Result<Done> weave(std::vector<FileDelivery> some, bool keep) {
    const auto began = Clock::now();
    double wrote = 0;
    Result<Done> writing = Done{};
    const std::vector<std::string> slots = filled_slots(some);
    WeaveOptions options = how(keep);
    options.progress = [&](double share, const std::string& node) { tell(share, node); };
    options.finished = [&](std::size_t i, const Field& field) {
      const auto start = Clock::now();
      held_[slots[i]] = field;
      writing = write_whole_files(some);
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

  // Those of `some` that have all their slots; then what no other waits for goes.
  Result<Done> write_whole_files(std::vector<FileDelivery>& some) {
    for (std::size_t i = 0; i < some.size();) {
      const auto filled = filled_slots({some[i]});
      if (!std::all_of(filled.begin(), filled.end(), [&](const std::string& s) { return held_.count(s) != 0; })) {
        ++i;
        continue;
      }
      if (const auto done = write(some[i], filled); !done) return done;
      some.erase(some.begin() + static_cast<std::ptrdiff_t>(i));
    }
    const auto needed = filled_slots(some);
    std::erase_if(held_,
                  [&](const auto& h) { return std::find(needed.begin(), needed.end(), h.first) == needed.end(); });
    return Done{};
  }

  Result<Done> write(const FileDelivery& file, const std::vector<std::string>& filled) {
    tell(woven_share_, file_name(material_, plan_, file));
    std::map<std::string, Field> fields;
    for (const std::string& slot : filled) fields[slot] = held_.at(slot);
    const auto done = state_.written(delivery_key(graph_, plan_, file), report_,
                                     [&] { return write_map_file(fields, file, material_, plan_, stop_, report_); });
    if (!done) return done;
    std::erase_if(waiting_, [&](const FileDelivery& w) { return w.name == file.name; });
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
    const auto& files = plan_.files;
    return static_cast<std::size_t>(
        std::find_if(files.begin(), files.end(), [&](const FileDelivery& f) { return f.name == file.name; }) -
        files.begin());
  }

  const Material& material_;
  const FlatGraph& graph_;
  Weaver& weaver_;
  const DeliveryPlan& plan_;
  const Stop& stop_;
  const Progress& progress_;
  const Clock::time_point began_ = Clock::now();  // looking at what stands counts as well
  DeliveryState state_;
  std::vector<FileDelivery> waiting_;
  std::map<std::string, Field> held_;  // slots that are woven and not yet in all their files
  std::size_t count_ = 0;
  double woven_share_ = 0, most_ = 0;
  bool no_room_ = false;  // what ended the last weaving
  DeliveryReport report_;
};

Result<DeliveryReport> delivered(const Material& material, const Catalogue& catalogue, Weaver& weaver,
                                 const DeliveryPlan& asked, const Stop& stop, const Progress& progress,
                                 std::size_t budget) {
  const DeliveryPlan plan = with_document_files(material, asked);
  if (const auto fit = check_plan(material, plan); !fit) return fit.error();
  const auto graph = flatten(material, catalogue);
  if (!graph) return graph.error();
  auto report = Delivery(material, *graph, weaver, plan, stop, progress).run(budget);
  if (!report) return report;
  if (const auto done = write_documents(material, plan, {}, report.value()); !done) return done.error();
  if (const auto done = write_materialx_graph(material, *graph, weaver, plan, stop, report.value()); !done)
    return done.error();
  return report;
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

void add_report(DeliveryReport& all, DeliveryReport one) {
  const auto join = [](auto& to, auto& from) {
    for (auto& item : from)
      if (std::find(to.begin(), to.end(), item) == to.end()) to.push_back(std::move(item));
  };
  for (DeliveredFile& f : one.files) all.files.push_back(std::move(f));
  join(all.warnings, one.warnings);
  join(all.left_out, one.left_out);
  join(all.cut, one.cut);
  all.weave_milliseconds += one.weave_milliseconds;
  all.total_milliseconds += one.total_milliseconds;
}

std::string report_json(const DeliveryReport& report) {
  Json files = Json::array();
  for (const DeliveredFile& f : report.files) {
    Json j{{"name", f.name},
           {"path", f.path.string()},
           {"sha256", f.sha256},
           {"unchanged", f.unchanged},
           {"milliseconds", f.milliseconds}};
    if (f.bits != 0)
      j.update({{"bits", f.bits},
                {"encoding", f.srgb ? "sRGB" : "linear"},
                {"channels", f.channels},
                {"range", {f.least, f.most}}});
    files.push_back(std::move(j));
  }
  return Json{{"files", files},
              {"warnings", report.warnings},
              {"left_out", report.left_out},
              {"weave_milliseconds", report.weave_milliseconds},
              {"total_milliseconds", report.total_milliseconds}}
      .dump(2, ' ', false, Json::error_handler_t::replace);
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
