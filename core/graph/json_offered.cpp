#include "core/graph/json_offered.h"

#include "core/graph/json.h"
#include "core/graph/json_reading.h"

namespace loom {
namespace {

using namespace reading;

ParamValue held_at(const Json& j, const std::string& where) {
  bool understood = false;
  ParamValue value = param_from_json(j, understood);
  if (!understood) fail(where, "is no value that a parameter can hold", "Use a number, a text or a list of numbers");
  return value;
}

std::vector<std::string> texts_at(const Json& j, const char* key, const std::string& where) {
  std::vector<std::string> texts;
  for (const Json& item : list_at(j, key, where)) {
    if (!item.is_string()) fail(where + ", " + key, "holds something that is no text", "Put it in double quotes");
    texts.push_back(item.get<std::string>());
  }
  return texts;
}

ParameterKind kind_at(const Json& j, const std::string& where) {
  const std::string word = text_at(j, "kind", where, truth_at(j, "whole", where, false) ? "whole" : "number");
  if (word == "number") return ParameterKind::scalar;
  if (word == "whole") return ParameterKind::integer;
  if (word == "on_off") return ParameterKind::toggle;
  if (word == "seed") return ParameterKind::seed;
  fail(where, "is of the kind '" + word + "', which no dial is", "Use number, whole, on_off or seed");
}

const char* kind_word(ParameterKind kind) {
  return kind == ParameterKind::toggle ? "on_off" : kind == ParameterKind::seed ? "seed" : nullptr;
}

Limits limits_from(const Json& j, const std::string& where) {
  if (!j.is_array() || j.size() != 2 || !j[0].is_number() || !j[1].is_number())
    fail(where, "are not two numbers", "Write [0, 10]");
  return {j[0].get<double>(), j[1].get<double>()};
}

Preset preset_from(const Json& j, std::vector<Error>* warnings) {
  need_object(j, "preset");
  Preset preset{text_at(j, "name", "preset"), {}};
  const std::string where = "preset " + preset.name;
  if (j.contains("values")) {
    need_object(j["values"], where);
    for (const auto& [key, value] : j["values"].items()) preset.values[key] = held_at(value, where + ", " + key);
  }
  preset.extra = leftovers(j, {"name", "values"}, where, warnings);
  return preset;
}

Json preset_json(const Preset& p) {
  Json j = p.extra;
  j["name"] = p.name;
  j["values"] = Json::object();
  for (const auto& [id, value] : p.values) j["values"][id] = param_to_json(value);
  return j;
}

ListedFile listed_file_from(const Json& j, const std::string& where) {
  need_object(j, where);
  ListedFile file;
  file.pattern = text_at(j, "pattern", where, file.pattern);
  file.name = text_at(j, "name", where);
  file.format = text_at(j, "format", where, file.format);
  file.bits = whole_at(j, "bits", where, file.bits);
  if (j.contains("dither")) file.dither = truth_at(j, "dither", where, false);
  if (j.contains("channels")) {
    need_object(j["channels"], where + ", channels");
    for (const auto& [channel, from] : j["channels"].items()) {
      if (!from.is_string()) fail(where + ", channel " + channel, "is not a text", "Write \"occlusion\" or \"1\"");
      file.channels[channel] = from.get<std::string>();
    }
  }
  return file;
}

Json listed_file_json(const ListedFile& f) {
  Json j{{"pattern", f.pattern}, {"format", f.format}, {"bits", f.bits}, {"channels", f.channels}};
  if (!f.name.empty()) j["name"] = f.name;
  if (f.dither) j["dither"] = *f.dither;
  return j;
}

DeliveryList kept_list_from(const Json& j) {
  need_object(j, "lists");
  DeliveryList list;
  list.name = text_at(j, "name", "lists");
  const std::string where = "list " + list.name;
  if (j.contains("sizes")) {
    list.sizes.clear();
    for (const Json& size : list_at(j, "sizes", where)) {
      if (!size.is_number_integer()) fail(where + ", sizes", "hold something that is no whole number", "Write [2048]");
      list.sizes.push_back(size.get<int>());
    }
  }
  list.green_up = truth_at(j, "green_up", where, true);
  for (const Json& file : list_at(j, "files", where))
    list.files.push_back(listed_file_from(file, where + ", file " + std::to_string(list.files.size() + 1)));
  return list;
}

Json kept_list_json(const DeliveryList& l) {
  Json files = Json::array();
  for (const ListedFile& f : l.files) files.push_back(listed_file_json(f));
  Json j{{"name", l.name}, {"sizes", l.sizes}, {"files", files}};
  if (!l.green_up) j["green_up"] = false;
  return j;
}

}  // namespace

Dial dial_from_json(const Json& j, const Value& of, std::vector<Error>* warnings) {
  const std::string where = "value " + of.id + ", dial";
  need_object(j, where);
  Dial dial{text_at(j, "label", where, of.id), text_at(j, "group", where), text_at(j, "help", where)};
  dial.least = number_at(j, "min", where, 0);
  dial.most = number_at(j, "max", where, 1);
  dial.at_start = j.contains("at_start") ? held_at(j["at_start"], where + ", at_start") : of.value;
  dial.kind = kind_at(j, where);
  dial.step = number_at(j, "step", where, 0);
  if (j.contains("limits")) dial.limits = limits_from(j["limits"], where + ", limits");
  if (j.contains("unit")) {
    const std::string unit = text_at(j, "unit", where);
    dial.unit = unit_from_name(unit);
    if (!dial.unit) fail(where, "has the unit '" + unit + "', which is not known", "docs/format.md lists them");
  }
  if (j.contains("acts_when")) {
    need_object(j["acts_when"], where + ", acts_when");
    dial.acts = {text_at(j["acts_when"], "formula", where), text_at(j["acts_when"], "reason", where)};
  }
  dial.extra = leftovers(
      j, {"label", "group", "help", "min", "max", "at_start", "whole", "kind", "step", "limits", "unit", "acts_when"},
      where, warnings);
  return dial;
}

Json dial_to_json(const Dial& d) {
  Json j = d.extra;
  j["label"] = d.label, j["group"] = d.group, j["help"] = d.help;
  j["min"] = d.least, j["max"] = d.most, j["at_start"] = param_to_json(d.at_start);
  if (d.kind == ParameterKind::integer) j["whole"] = true;
  if (const char* word = kind_word(d.kind)) j["kind"] = word;
  if (d.unit) j["unit"] = unit_name(*d.unit);
  if (d.limits) j["limits"] = {d.limits->least, d.limits->most};
  if (d.step != 0) j["step"] = d.step;
  if (!d.acts.formula.empty()) j["acts_when"] = {{"formula", d.acts.formula}, {"reason", d.acts.reason}};
  return j;
}

Imprint imprint_from_json(const Json& j) {
  need_object(j, "imprint");
  Imprint imprint;
  imprint.id = text_at(j, "id", "imprint");
  imprint.version = text_at(j, "version", "imprint", imprint.version);
  imprint.licence = text_at(j, "licence", "imprint");
  imprint.tags = texts_at(j, "tags", "imprint");
  return imprint;
}

Json imprint_to_json(const Imprint& i) {
  return {{"id", i.id}, {"version", i.version}, {"tags", i.tags}, {"licence", i.licence}};
}

void read_offered(const Json& document, Material& m, std::vector<Error>* warnings) {
  if (document.contains("imprint")) m.imprint = imprint_from_json(document["imprint"]);
  for (const Json& preset : list_at(document, "presets", "document"))
    m.presets.push_back(preset_from(preset, warnings));
  for (const Json& list : list_at(document, "lists", "document")) m.lists.push_back(kept_list_from(list));
}

void write_offered(const Material& m, Json& document) {
  const auto listed = [&](const char* key, const auto& all, const auto& write) {
    if (all.empty()) return;
    document[key] = Json::array();
    for (const auto& one : all) document[key].push_back(write(one));
  };
  if (m.imprint != Imprint{}) document["imprint"] = imprint_to_json(m.imprint);
  listed("presets", m.presets, preset_json);
  listed("lists", m.lists, kept_list_json);
}

}  // namespace loom
