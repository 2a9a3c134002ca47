// Depth first from each value, so that what a formula names is known before it.
#include "core/graph/worked_values.h"

#include <algorithm>

#include "core/program/formula.h"

namespace loom {
namespace {

constexpr std::size_t kMostSteps = 256;  // from a value to what it rests on

class Worker {
 public:
  Worker(const std::map<std::string, ParamValue>& held, const std::map<std::string, double>& outer)
      : held_(held), outer_(outer) {}

  WorkedValues run() {
    for (const auto& [id, value] : held_) visit(id);
    return std::move(worked_);
  }

 private:
  void visit(const std::string& id) {
    if (!seen_.emplace(id, true).second) return;
    const ParamValue& value = held_.at(id);
    if (const auto* number = std::get_if<double>(&value)) worked_.numbers[id] = *number;
    const auto* formula = std::get_if<Formula>(&value);
    if (!formula) return;
    const auto parsed = parse_formula(formula->text);
    if (!parsed) return fault(id, parsed.error());
    if (way_.size() >= kMostSteps)
      return fault(id, {"character 1", "lies at the end of more than 256 values that follow each other",
                        "Give one of them a number"});
    way_.push_back(id);
    std::map<std::string, double> known;
    for (const std::string& name : names_in(*parsed))
      if (!look_up(name, known)) return way_.pop_back();
    way_.pop_back();
    const auto result = evaluate_formula(formula->text, known);
    if (result)
      worked_.numbers[id] = *result;
    else
      fault(id, result.error());
  }

  // False where a circle closes; a name that nobody knows is left to the formula's own fault.
  bool look_up(const std::string& name, std::map<std::string, double>& known) {
    if (const auto circle = std::find(way_.begin(), way_.end(), name); circle != way_.end()) {
      std::string path;
      for (auto at = circle; at != way_.end(); ++at) path += *at + " > ";
      worked_.faults.push_back(
          {"value " + way_.back(), "goes in a circle: " + path + name, "Give one of them a number"});
      return false;
    }
    if (held_.count(name)) visit(name);
    if (const auto own = worked_.numbers.find(name); own != worked_.numbers.end())
      known[name] = own->second;
    else if (const auto around = outer_.find(name); around != outer_.end() && !held_.count(name))
      known[name] = around->second;
    return true;
  }

  void fault(const std::string& id, Error e) {
    e.where = "value " + id + ", " + e.where;
    worked_.faults.push_back(std::move(e));
  }

  const std::map<std::string, ParamValue>& held_;
  const std::map<std::string, double>& outer_;
  std::map<std::string, bool> seen_;
  std::vector<std::string> way_;
  WorkedValues worked_;
};

}  // namespace

WorkedValues work_out(const std::map<std::string, ParamValue>& held, const std::map<std::string, double>& outer) {
  return Worker(held, outer).run();
}

WorkedValues work_out(const std::vector<Value>& values, const std::map<std::string, double>& outer) {
  std::map<std::string, ParamValue> held;
  for (const Value& v : values) held.emplace(v.id, v.value);
  return work_out(held, outer);
}

}  // namespace loom
